"""Bodies that were made."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from ..errors import CannotBeDone
from ..record import record
from ..wording import counted, distance, volume
from .form import FormResult
from .result import Figure, Printing

if TYPE_CHECKING:
    from ..form.made_body import MadeBody

TOLD = ("volume_change", "depth_min", "depth_max", "crosses", "floats_max")
"""What is said of a body only where it applies."""


@record
class BodiesResult(FormResult):
    """``value`` is the form of the bodies ``made``; ``parts`` are further parts of the report.

    ``new_faces`` are, where a body was changed, the numbers of the faces that it had not before.
    """

    made: tuple[MadeBody, ...] = ()
    parts: tuple[tuple[str, Any], ...] = ()
    new_faces: tuple[int, ...] = ()
    first = ("step", "stl", "3mf")

    def figures(self) -> tuple[Figure, ...]:
        found = [
            Figure("bodies", f"{len(self.made):,}", "form"),
            Figure("volume", volume(sum(body.volume for body in self.made)), "form"),
        ]
        changes = [body.volume_change for body in self.made if body.volume_change is not None]
        if changes:
            found.append(Figure("changed by", volume(sum(changes)), "form"))
        found.append(Figure("faces within", distance(max(body.deviation for body in self.made))))
        floats = [body.floats_max for body in self.made if body.floats_max is not None]
        if floats:
            found.append(Figure("floats", distance(max(floats))))
        told = {figure.label for figure in found} | {"form", "faces"}
        return (*found, *(figure for figure in super().figures() if figure.label not in told))

    def brief(self) -> str:
        first = self.made[0].name if len(self.made) == 1 else counted(len(self.made), "body")
        return f"{first} · {volume(sum(body.volume for body in self.made))}"

    def content(self, ending: str, title: str, printing: Printing) -> bytes:
        if ending == "step":
            if any(body.by == "mesh" for body in self.made):
                raise CannotBeDone("A body made of triangles cannot be written as STEP; write it with --mesh.")
            from ..solids.bodies import bodies_step

            return bodies_step(self.made)
        return super().content(ending, title, printing)

    def report(self) -> dict[str, Any]:
        return {"made": [told(body) for body in self.made], **dict(self.parts)}


def told(body: MadeBody) -> dict[str, Any]:
    """A body, as a report has it."""
    about: dict[str, Any] = {
        "name": body.name,
        "volume": body.volume,
        "area": body.area,
        "box": list(body.box),
        "valid": True,
        "faces": body.faces,
        "deviation_max": body.deviation,
        "by": body.by,
    }
    about.update({key: getattr(body, key) for key in TOLD if getattr(body, key) is not None})
    return about
