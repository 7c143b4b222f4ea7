"""Chapters of the route card, one for each part of the job: each begins with a row that names it."""

from __future__ import annotations

from collections.abc import Sequence

from ..record import record
from .route import Job, Row


@record
class Chapter:
    """``name`` is empty for the rows above the first chapter that has one."""

    name: str
    rows: tuple[Row, ...]

    @property
    def id(self) -> str:
        """That of the row it begins with."""
        return self.rows[0].id

    @property
    def numbers(self) -> str:
        """Those of its rows, as 10–50."""
        first, last = self.rows[0].number, self.rows[-1].number
        return str(first) if first == last else f"{first}–{last}"


def chapters(rows: Sequence[Row]) -> tuple[Chapter, ...]:
    """All rows, in order, chapter by chapter."""
    begins = [i for i, row in enumerate(rows) if row.chapter or i == 0]
    ends = [*begins[1:], len(rows)] if begins else []
    return tuple(Chapter(rows[a].chapter, tuple(rows[a:b])) for a, b in zip(begins, ends, strict=True))


def chapter_of(job: Job, row_id: str) -> Chapter:
    """The chapter that a row is in."""
    return next(chapter for chapter in chapters(job.rows) if any(row.id == row_id for row in chapter.rows))


def named(job: Job, row_id: str, name: str) -> Job:
    """With a chapter of that name that begins with a row; without a name the row goes on with the chapter above."""
    return job.changed(row_id, chapter=name.strip())
