"""Bodies that the kernel has made, as forms and as files."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from typing import Any

from OCP.BRepCheck import BRepCheck_Analyzer
from OCP.TopAbs import TopAbs_FACE, TopAbs_SOLID
from OCP.TopoDS import TopoDS_Shape

from ..errors import CannotBeDone
from ..form.form import Form
from ..form.made_body import MadeBody
from ..kernel.forms import form_of_shape
from ..kernel.step_out import named_shapes_bytes
from .boxes import box_of
from .by_mesh import form_of_meshes
from .copying import compound
from .explore import each, measures
from .packing import packed, unpacked
from .shape import shape_of


def made_body(name: str, shape: TopoDS_Shape, deviation: float = 0.0, **more: Any) -> MadeBody:
    """A body with its figures and the kernel's bytes of it. Raises CannotBeDone where it is not closed and valid."""
    if not list(each(shape, TopAbs_SOLID)) or not BRepCheck_Analyzer(shape).IsValid():
        raise CannotBeDone(f"{name} does not become a valid body; make it simpler, or move it.")
    low, high = box_of(shape)
    area, volume = measures(shape)
    return MadeBody(
        name,
        volume,
        area,
        (*low.tolist(), *high.tolist()),
        sum(1 for _ in each(shape, TopAbs_FACE)),
        deviation,
        packed(shape),
        **more,
    )


def form_of_bodies(bodies: Sequence[MadeBody], name: str) -> Form:
    """The bodies as one form, whose faces NumPy evaluates. They are all exact, or all made by mesh."""
    if any(body.by == "mesh" for body in bodies):
        return form_of_meshes(bodies, name)
    form = form_of_shape(compound([unpacked(body.content) for body in bodies]), name, look=False)
    if len(form.bodies) == len(bodies):
        form = replace(form, bodies=tuple(replace(b, name=m.name) for b, m in zip(form.bodies, bodies, strict=True)))
    return form


def bodies_step(bodies: Sequence[MadeBody]) -> bytes:
    """The bodies as the solids of a STEP file, each by its name."""
    return named_shapes_bytes([(body.name, unpacked(body.content)) for body in bodies])


def solid_of(form: Form) -> TopoDS_Shape | None:
    """The form as a closed body of the kernel; None where it is open."""
    shape = shape_of(form)
    solids = list(each(shape, TopAbs_SOLID))
    if not solids:
        return None
    return solids[0] if len(solids) == 1 else compound(solids)
