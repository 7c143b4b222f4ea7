"""Edges that are opened: by their numbers, or chosen by the program."""

from __future__ import annotations

from collections.abc import Mapping
from typing import TYPE_CHECKING, Any

from ..record import record
from .parameter import stands_in
from .picks import Edges, picked_edges

if TYPE_CHECKING:
    from ..job.route import Job, Row

AUTO = "auto"


@record
class Seams(Edges):
    """Numbers of edges, none, or "auto"."""

    kind = "seams"
    how = "click, then click edges on the form, or type their numbers, or auto"

    def resolved(self, value: Any, numbers: Mapping[str, float]) -> tuple[int, ...] | str:  # type: ignore[override]
        return AUTO if str(value).strip().lower() == AUTO else picked_edges(value)

    def reads(self, job: Job, row: Row) -> str:
        text = str(self.written(row)).strip().lower()
        return "the edges that it chooses" if text == AUTO else super().reads(job, row)


def seams(default: str, words: str, hint: str) -> Any:
    """Numbers of edges or "auto"; none of them reads as ``words``."""
    return stands_in(Seams(default=default, words=words, hint=hint))
