"""A form."""

from __future__ import annotations

from collections import Counter
from types import MappingProxyType
from typing import TYPE_CHECKING, Any

from ..record import record
from ..wording import area, counted, size
from .result import Figure, Printing, Result

if TYPE_CHECKING:
    from ..form.form import Form
    from ..panels.panel import Panel


@record
class FormResult(Result):
    """``value`` is a Form."""

    value: Form
    kind = "form"
    writes = MappingProxyType(
        {
            "stl": "writes the form's triangles",
            "3mf": "writes its bodies, with names and colours",
            "step": "writes its faces",
        }
    )
    whole = ("stl",)
    follows = (("develop", "develop its faces"),)
    plain = True

    def figures(self) -> tuple[Figure, ...]:
        form = self.value
        low, high = form.bounds
        figures = [
            Figure("form", area(sum(face.area for face in form.faces)), "form"),
            Figure("faces", str(len(form.faces)), "form"),
            Figure("size", size(*(high - low)), "form"),
        ]
        if len(form.bodies) > 1:
            figures.append(Figure("bodies", str(len(form.bodies)), "form"))
        if form.unit != "mm":
            figures.append(Figure("unit of the file", form.unit))
        return tuple(figures)

    def brief(self) -> str:
        kinds = Counter(face.kind for face in self.value.faces)
        return ", ".join(counted(count, kind) for kind, count in kinds.most_common())

    def content(self, ending: str, title: str, printing: Printing) -> bytes:
        if ending == "step":
            from ..solids.shape import form_step

            return form_step(self.value)
        if ending == "3mf":
            from ..files.threemf import threemf_bytes

            return threemf_bytes(self.value)
        from ..files.stl import stl_bytes

        return stl_bytes(self.value)


@record
class PanelsResult(FormResult):
    """A form of developable panels between curves; ``panels`` tells how well each one lies."""

    panels: tuple[Panel, ...] = ()

    def brief(self) -> str:
        return counted(len(self.panels), "panel")

    def report(self) -> dict[str, Any]:
        from ..geometry.ruled_flat import DEVELOPABLE

        found = [
            {
                "twist_max": panel.twist,
                "stretch_max": 100 * panel.error,
                "gap_max": panel.gap,
                "turned": panel.turned,
                "developable": panel.error <= DEVELOPABLE,
            }
            for panel in self.panels
        ]
        return {"panels": found}


def faces_part(form: Form) -> list[dict[str, Any]]:
    """The faces of a form, as a report has them."""
    found = []
    for face in form.faces:
        about: dict[str, Any] = {"id": face.number, "kind": face.kind, "area": face.area}
        if face.radius is not None:
            about["radius"] = face.radius
        about["developable"] = face.developable
        about["neighbours"] = list(face.neighbours)
        about["smooth_neighbours"] = list(face.smooth)
        found.append(about)
    return found


def bodies_part(form: Form) -> list[dict[str, Any]]:
    """The bodies of a form, as a report has them."""
    return [{"name": body.name, "faces": list(body.faces)} for body in form.bodies]
