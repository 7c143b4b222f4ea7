"""All bodies of the job together: of each line of rows the last form."""

from __future__ import annotations

from typing import TYPE_CHECKING

from ..core.form.appearance import TINTS, Looks
from ..core.form.form import Form
from ..core.form.in_one import in_one
from ..core.job.chapters import chapters
from ..core.job.route import Job, Row
from ..core.record import record

if TYPE_CHECKING:
    from .session import Session

WAYS = {"": "one at a time", "standing": "as they stand", "beside": "beside each other"}
"""How bodies are looked at: the key of each way, and its words."""


@record
class AllBodies:
    """``form`` has a body for each of the ``rows``, each body a tint of its own in ``looks``."""

    form: Form
    rows: tuple[Row, ...]
    looks: Looks

    def row_of(self, face: int) -> Row:
        return next(row for row, body in zip(self.rows, self.form.bodies, strict=True) if face in body.faces)


def is_body(form: Form | None) -> bool:
    """Whether there is a form that is more than a flat sheet, such as one that is only there to be drawn on."""
    return form is not None and (len(form.faces) > 1 or form.faces[0].kind != "plane")


def last_forms(job: Job) -> list[Row]:
    """The rows whose form no other one is made of, without those that are off or hidden."""
    giving = [row for row in job.rows if "form" in row.gives and row.enabled]
    used = {taken.id for row in giving for taken in job.sources(row)}
    return [row for row in giving if row.id not in used and not Looks.of(row.view).unseen]


def all_bodies(session: Session, way: str) -> AllBodies | None:
    """None where there are none yet. What belongs to a chapter stays as it stands; a flat sheet alone is no body."""
    forms: dict[str, Form] = {}
    for row in last_forms(session.job):
        form = session.value(row, "form")
        if is_body(form):
            forms[row.id] = form
    groups: list[list[Row]] = []
    for chapter in chapters(session.job.rows):
        mine = [row for row in chapter.rows if row.id in forms]
        groups.extend([mine] if chapter.name and mine else [[row] for row in mine])
    if not groups:
        return None
    made = in_one([[forms[row.id] for row in group] for group in groups], way == "beside")
    tints = {k: 1 + (k - 1) % (TINTS - 1) for k in range(1, len(made.bodies) + 1)}
    return AllBodies(made, tuple(row for group in groups for row in group), Looks(tints=tints))
