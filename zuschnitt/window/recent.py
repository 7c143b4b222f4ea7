"""Jobs that were opened or saved lately. Knows no Qt."""

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


def remember_job(path: Path) -> None:
    """Puts a job at the head of the list; a list that cannot be written is no reason to stop."""
    path = path.resolve()
    names = [str(path), *(str(p) for p in recent_jobs() if p != path)][:KEPT]
    try:
        state_folder().mkdir(parents=True, exist_ok=True)
        write_whole(state_folder() / "recent.json", json.dumps(names))
    except (OSError, ZuschnittError):
        pass
