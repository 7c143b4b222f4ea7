"""Bodies that stand on a blank, bent onto its form."""

from __future__ import annotations

from dataclasses import replace
from itertools import product

from OCP.TopAbs import TopAbs_SOLID
from OCP.TopoDS import TopoDS_Shape

from ..carry.lifted import Lifting
from ..carry.placement import Placement
from ..develop.blank import Blank
from ..errors import Refused
from ..form.form import Form
from ..form.made_body import MadeBody
from ..form.standing import Standing, standing
from ..progress import SILENT, Progress
from .bent_mesh import by_triangles
from .bodies import made_body
from .body_file import read_body
from .boxes import box_of
from .carrying import carry_body
from .explore import each
from .placing import mirrored, placed
from .triangulated import even_triangles, triangles_of
from .under import has_triangles


def bent(
    form: Form, blank: Blank, content: bytes, name: str, how: Placement, progress: Progress = SILENT
) -> tuple[MadeBody, ...]:
    """The solids of a STEP file, laid on the blank and bent onto the form. Raises Refused and CannotBeDone."""
    shape = read_body(content, name, progress.part(0, 0.1))
    solids = list(each(shape, TopAbs_SOLID))
    if not solids:
        raise Refused(f"{name} holds no solid, so nothing can stand on the blank; export the body, not its faces.")
    lifting = Lifting(form, blank.correspondence)
    low, high = box_of(shape)
    factor, shift = how.factors(low, high, blank)
    meshed = has_triangles(form, blank)
    made: list[MadeBody] = []
    stretched = [placed(solid, factor, 0.0, shift) for solid in solids]
    names = [f"body {k + 1}" for k in range(len(solids))] if len(solids) > 1 else [name.rsplit(".", 1)[0]]
    total = how.count * len(solids)
    for k, ((copy, here), (solid, own)) in enumerate(product(enumerate(how.row), zip(stretched, names, strict=True))):
        part = progress.part(k / total, (k + 1) / total)
        flat = placed(solid, (how.scale,) * 3, how.turn, (*here.at, how.lift))
        named = how.named(own, copy)
        about = measured(flat)
        carried = None if meshed else carry_body(lifting, flat, named, part)
        if carried is None:
            made.extend(by_triangles(lifting, *even_triangles(flat), named, how.mirror, about))
            continue
        made.append(_body(named, carried.shape, carried.deviation, about))
        if how.mirror != "none":
            twin = mirrored(carried.shape, how.mirror)
            made.append(_body(f"{named}, mirrored", twin, carried.deviation, about))
    return tuple(made)


def _body(name: str, shape: TopoDS_Shape, deviation: float, about: Standing) -> MadeBody:
    return made_body(
        name,
        shape,
        deviation,
        depth_min=about.low,
        depth_max=about.high,
        crosses=about.crosses,
        floats_max=about.floats,
        footprint=about.footprint,
    )


def measured(flat: TopoDS_Shape) -> Standing:
    """How a flat body stands to the plane z = 0."""
    low, high = box_of(flat)
    return replace(standing(*triangles_of(flat)), low=float(low[2]), high=float(high[2]))
