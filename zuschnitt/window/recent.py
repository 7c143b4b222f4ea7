"""Jobs that were opened or saved lately, and the folder that was used last. Knows no Qt."""

from __future__ import annotations

import json
from pathlib import Path

from ..core.errors import ZuschnittError
from ..core.files.atomic import write_whole
from .autosave import state_folder

KEPT = 9


def recent_jobs() -> list[Path]:
    """The newest first; those that are gone are left out."""
    try:
        names = json.loads((state_folder() / "recent.json").read_text())
        return [Path(name) for name in names if Path(name).is_file()]
    except (OSError, ValueError, TypeError):
        return []


def last_folder() -> Path:
    """Where a file was last read or written, as long as it is there; else where the program was started."""
    try:
        folder = Path(json.loads((state_folder() / "folder.json").read_text()))
        return folder if folder.is_dir() else Path.cwd()
    except (OSError, ValueError, TypeError):
        return Path.cwd()


def remember_folder(folder: Path) -> None:
    _keep("folder.json", str(folder.resolve()))


def remember_job(path: Path) -> None:
    """Puts a job at the head of the list."""
    path = path.resolve()
    names = [str(path), *(str(p) for p in recent_jobs() if p != path)][:KEPT]
    _keep("recent.json", names)


def _keep(name: str, value: object) -> None:
    """What cannot be kept is no reason to stop."""
    try:
        state_folder().mkdir(parents=True, exist_ok=True)
        write_whole(state_folder() / name, json.dumps(value))
    except (OSError, ZuschnittError):
        pass
