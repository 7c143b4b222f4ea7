"""The file of a job as this window knows it: two windows may have the same one. Knows no Qt."""

from __future__ import annotations

import fcntl
import hashlib
import os
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from pathlib import Path

from ..core.errors import Refused
from ..core.job.job_file import ENDING, save_job
from ..core.job.route import Job
from ..core.record import record


class SavedElsewhereError(Refused):
    """The file was written by another window or program since this one opened or saved it."""


@record
class SavedFile:
    """``digest`` is that of the file's bytes when it was last opened or saved here."""

    path: Path
    digest: str

    @classmethod
    def now(cls, path: Path) -> SavedFile:
        return cls(path, _digest(path))

    def save(self, job: Job) -> SavedFile:
        """Saves the job in place of what was there. Raises SavedElsewhereError, writing nothing, where that is not
        what this window left."""
        with _alone_with(self.path):
            if _digest(self.path) not in (self.digest, ""):
                raise SavedElsewhereError(
                    f"{self.path.name} was saved by another window meanwhile; nothing was written. "
                    "Save this job beside it, or in its place."
                )
            save_job(self.path, job)
            return SavedFile.now(self.path)


def beside(path: Path) -> Path:
    """A name of its own in the same folder."""
    stem, number = path.name.removesuffix(ENDING), 2
    while (other := path.with_name(f"{stem} {number}{ENDING}")).exists():
        number += 1
    return other


def _digest(path: Path) -> str:
    try:
        return hashlib.sha256(path.read_bytes()).hexdigest()
    except OSError:
        return ""


@contextmanager
def _alone_with(path: Path) -> Iterator[None]:
    """Others that save to the same file wait meanwhile."""
    try:
        folder = os.open(path.parent, os.O_RDONLY)
    except OSError:  # saving says what is wrong with it
        yield
        return
    try:
        with suppress(OSError):
            fcntl.flock(folder, fcntl.LOCK_EX)
        yield
    finally:
        os.close(folder)
