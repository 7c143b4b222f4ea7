"""Keeps the job after each edit, and offers it again after a crash of the window. Knows no Qt."""

from __future__ import annotations

import json
import os
from contextlib import suppress
from datetime import datetime
from pathlib import Path

from ..core.errors import ZuschnittError
from ..core.files.atomic import write_whole
from ..core.job.job_file import ENDING, load_job, save_job
from ..core.job.route import Job
from ..core.record import record
from .saved_file import SavedFile


def state_folder() -> Path:
    """Where programs keep their state (XDG base directory specification)."""
    base = os.environ.get("XDG_STATE_HOME") or str(Path.home() / ".local" / "state")
    return Path(base) / "zuschnitt"


@record
class Left:
    """A job that a window left behind when it ended without closing."""

    file: Path
    name: str
    saved: SavedFile | None
    at: datetime

    def job(self) -> Job:
        return load_job(self.file)


class Autosave:
    """One file for each window, named by its process; it goes when the window closes well."""

    def __init__(self, folder: Path | None = None) -> None:
        self._folder = folder or state_folder()
        self.file = self._free(os.getpid())

    def keep(self, job: Job, saved: SavedFile | None, unsaved: bool) -> None:
        """Keeps the job as it is now; where nothing is unsaved, there is nothing to keep."""
        if not unsaved:
            self.forget()
            return
        try:
            self._folder.mkdir(parents=True, exist_ok=True)
            save_job(self.file, job)
            about = {"path": str(saved.path), "digest": saved.digest} if saved is not None else {}
            write_whole(self._about(self.file), json.dumps({"name": job.name, **about}))
        except (ZuschnittError, OSError):
            pass  # the job itself is not in danger: saving will say what is wrong with the disk

    def forget(self) -> None:
        for file in (self.file, self._about(self.file)):
            with suppress(OSError):
                file.unlink(missing_ok=True)

    def left_behind(self) -> list[Left]:
        """Jobs of windows that are not alive any more, the newest first."""
        found = []
        for file in self._folder.glob(f"autosave-*{ENDING}") if self._folder.is_dir() else ():
            pid = file.stem.split("-")[1]
            try:
                since = file.stat().st_mtime
            except OSError:
                continue  # another window has just taken it up
            mine = file == self.file and pid == str(os.getpid())
            if not mine and pid.isdigit() and not _alive(int(pid), since):
                name, saved = self._read_about(file)
                found.append(Left(file, name, saved, datetime.fromtimestamp(since)))
        return sorted(found, key=lambda left: left.at, reverse=True)

    def discard(self, left: Left) -> None:
        for file in (left.file, self._about(left.file)):
            with suppress(OSError):
                file.unlink(missing_ok=True)

    def _free(self, pid: int) -> Path:
        """A file of this window's own: one that an earlier process of the same number has left stays as it is."""
        file, number = self._folder / f"autosave-{pid}{ENDING}", 1
        while file.exists():
            number += 1
            file = self._folder / f"autosave-{pid}-{number}{ENDING}"
        return file

    def _read_about(self, file: Path) -> tuple[str, SavedFile | None]:
        """The name of the job that was left and where it was saved, as far as that can be read."""
        try:
            about = json.loads(self._about(file).read_text())
            path, digest = about.get("path"), about.get("digest")
            known = isinstance(path, str) and isinstance(digest, str) and path
            return str(about["name"]), SavedFile(Path(path), digest) if known else None
        except (OSError, ValueError, AttributeError, KeyError, TypeError, RecursionError):
            return file.stem, None

    @staticmethod
    def _about(file: Path) -> Path:
        return file.with_suffix(".json")


def _alive(pid: int, since: float) -> bool:
    """Whether the process that wrote a file at the time ``since`` is still there, and its number not another one's."""
    try:
        os.kill(pid, 0)
    except ProcessLookupError:
        return False
    except PermissionError:
        pass
    try:
        return os.stat(f"/proc/{pid}").st_mtime <= since + 1.0
    except OSError:
        return True
