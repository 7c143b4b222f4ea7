"""Values of rows that the slider over the card moves: which they are, and how far they are."""

from __future__ import annotations

from typing import TYPE_CHECKING

from ..core.job.route import Job, Row
from ..core.operations.registry import known_entry

if TYPE_CHECKING:
    from .session import Session

ENDS = ("flat", "formed")


def slid(row: Row | None) -> str:
    """The value of a row that runs from 0, the blank, to its largest, the form; empty where it has none."""
    known = known_entry(row.operation) if row is not None else None
    return str(getattr(known.type, "slides", "")) if known is not None else ""


def ends_of(row: Row | None) -> tuple[str, str]:
    """What stands at the ends of the slider of a row."""
    known = known_entry(row.operation) if row is not None else None
    return getattr(known.type, "ends", ENDS) if known is not None else ENDS


def largest(job: Job, row: Row) -> float:
    """What the value of a row is at the end of the slider."""
    return float(getattr(job.parameter(row, slid(row)), "high", None) or 1.0)


def share_of(session: Session, row: Row) -> float:
    """How far along its slider a row is, from 0 to 1: as it is being moved, else as it is written in the job."""
    if session.folding is not None and session.folding[0] == row.id:
        return session.folding[1]
    written = session.job.parameter(row, slid(row)).plain(session.job, row)
    return float(written or 0.0) / largest(session.job, row)
