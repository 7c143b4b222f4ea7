"""Puts the program into a user's menus, with its icon and file type (desktop entry and shared MIME-info standards)."""

from __future__ import annotations

import os
import shlex
import shutil
import subprocess
import sys
from pathlib import Path

from ..core.errors import Refused
from ..core.files.atomic import write_whole

HERE = Path(__file__).parent
ICON = HERE / "zuschnitt.svg"
PLACES = {
    "zuschnitt.desktop": "applications/zuschnitt.desktop",
    "zuschnitt.xml": "mime/packages/zuschnitt.xml",
    "zuschnitt.svg": "icons/hicolor/scalable/apps/zuschnitt.svg",
}
"""Each file, and where it goes below the user's data folder."""
REFRESHED = (("update-mime-database", "mime"), ("update-desktop-database", "applications"))
"""Commands that make what was written known, where they are there, and the folder that each is given."""


def register() -> list[Path]:
    """Writes the desktop entry, the file type and the icon of this user; the files. Raises Refused."""
    base = Path(os.environ.get("XDG_DATA_HOME") or Path.home() / ".local" / "share")
    written = []
    for name, place in PLACES.items():
        path = base / place
        text = (HERE / name).read_text()
        if name.endswith(".desktop"):
            program = shutil.which("zuschnitt")
            words = [program] if program else [sys.executable, "-m", "zuschnitt"]
            text = text.replace("@PROGRAM@", shlex.join(words))
        try:
            path.parent.mkdir(parents=True, exist_ok=True)
        except OSError as error:
            raise Refused(f"{path.parent} cannot be made: {error.strerror}; make it writable.") from error
        write_whole(path, text.encode())
        written.append(path)
    for command, folder in REFRESHED:
        if shutil.which(command):
            subprocess.run([command, str(base / folder)], check=False, capture_output=True)
    return written
