"""What of a solid does not belong to the sheet part that is made of it."""

from __future__ import annotations

from types import MappingProxyType
from typing import TYPE_CHECKING, Any

from ..errors import CannotBeDone
from ..record import record
from ..wording import counted, volume
from .bodies import told
from .result import Figure, Printing, Result

if TYPE_CHECKING:
    from ..form.form import Form
    from ..form.made_body import MadeBody


@record
class BesideResult(Result):
    """``value`` are the bodies, ``form`` is that of them all; ``faces`` are those of the solid that each one has."""

    value: tuple[MadeBody, ...]
    form: Form
    faces: tuple[tuple[int, ...], ...]
    kind = "beside"
    writes = MappingProxyType({"step": "writes what is left beside it"})
    follows = (("keep_beside", "work on what is left beside it"),)

    def figures(self) -> tuple[Figure, ...]:
        size = volume(sum(body.volume for body in self.value))
        return (Figure("left beside", f"{counted(len(self.value), 'solid')} · {size}", "form"),)

    def content(self, ending: str, title: str, printing: Printing) -> bytes:
        if any(body.by == "mesh" for body in self.value):
            raise CannotBeDone("What is left beside is made of triangles, which cannot be written as STEP.")
        from ..solids.bodies import bodies_step

        return bodies_step(self.value)

    def report(self) -> dict[str, Any]:
        found = [{**told(body), "of_faces": list(faces)} for body, faces in zip(self.value, self.faces, strict=True)]
        return {"left_beside": found}
