"""A file of the job."""

from __future__ import annotations

from collections.abc import Mapping
from typing import TYPE_CHECKING, Any

from ..errors import Lacking, Refused
from ..record import record
from .parameter import FileOf, Parameter, stands_in

if TYPE_CHECKING:
    from ..job.route import Job, Row


@record
class File(Parameter):
    """The name of an asset with one of the ``endings``; one that is ``optional`` may stay empty, where
    the parameter ``instead`` of it has a value, or where another one has not the value of ``wanted`` (name, value)."""

    endings: tuple[str, ...] = ()
    optional: bool = False
    instead: str = ""
    wanted: tuple[str, str] = ("", "")
    kind = "file"
    chosen = True

    def lacks(self, row: Row) -> bool:
        if self.written(row):
            return False
        name, value = self.wanted
        if name:
            return row.parameters.get(name) == value
        return not (self.optional and row.parameters.get(self.instead))

    def in_task(self, job: Job, row: Row, title: str, keys: Mapping[str, str]) -> FileOf | None:
        value = self.written(row)
        if self.lacks(row):
            raise Lacking(f"{title} has no file yet; choose one in its sentence.")
        if not value:
            return None
        if value not in job.assets:
            raise Refused(f"The file {value} is not in the job any more; bring it in again.")
        return FileOf(value, job.assets[value].sha256)

    def options(self, job: Job, row: Row) -> list[tuple[str, str]]:
        return [(name, name) for name in sorted(self.names_in(job))]

    def names_in(self, job: Job) -> set[str]:
        """The files of the job that it can be."""
        return {name for name in job.assets if name.lower().endswith(self.endings)}


def file(*endings: str, hint: str) -> Any:
    """The name of an asset of the job."""
    return stands_in(File(endings=endings, hint=hint, words="no file yet"))


def optional_file(*endings: str, words: str, hint: str, instead: str) -> Any:
    """The name of an asset of the job, or nothing, which then reads as ``words``, where ``instead`` has a value."""
    return stands_in(File(endings=endings, hint=hint, words=words, optional=True, instead=instead))


def file_for(*endings: str, wanted: tuple[str, str], words: str, hint: str) -> Any:
    """The name of an asset, which is needed only where another parameter has the value of ``wanted`` (name, value)."""
    return stands_in(File(endings=endings, hint=hint, words=words, optional=True, wanted=wanted))
