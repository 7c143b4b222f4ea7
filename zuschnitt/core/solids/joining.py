"""Bodies that were made along a form, united with it or cut out of it."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from OCP.TopAbs import TopAbs_SOLID
from OCP.TopoDS import TopoDS_Shape

from ..develop.blank import Blank
from ..errors import CannotBeDone, Refused
from ..form.form import Form
from ..form.made_body import MadeBody
from ..plane.contour import Contour
from .bodies import made_body
from .booleans import cut, united
from .by_mesh import BY_MESH, MeshBody, mesh_made
from .explore import each, volume
from .pieces import THROUGH, fallen_apart
from .triangulated import even_triangles
from .under import body_under, true_mesh_under

ON = 1e-6
"""What is no further from the faces than this, in mm, lies on them."""
OPEN = "The form is no closed body, so nothing can be joined to it or cut out of it; keep them apart."
LEAST = 1e-6
"""What changes a body by less than this part of what is joined to it, or cut out, changes nothing."""


def rooted(section: Contour) -> Contour:
    """A closed section whose straight sides at y = 0 lie deeper: what is joined along them reaches into the body."""
    points, bulges = [], []
    ends = np.roll(section.points, -1, axis=0)
    for start, end, bulge in zip(section.points, ends, section.bulges, strict=True):
        points.append(start)
        bulges.append(bulge)
        if bulge == 0 and max(abs(start[1]), abs(end[1])) < ON:
            points += [start - [0, THROUGH], end - [0, THROUGH]]
            bulges += [0.0, 0.0]
    return Contour(np.array(points), np.array(bulges), True, section.layer)


def with_form(
    form: Form, blank: Blank, shapes: Sequence[TopoDS_Shape], add: bool, deviation: float
) -> tuple[MadeBody, tuple[str, ...]]:
    """The body under a blank with ``shapes`` united with it, or cut out of it, and what is to be said.

    ``deviation`` is how far in mm these may be off what they stand for. Raises Refused where the form is open, and
    CannotBeDone.
    """
    body = body_under(form, blank)
    if body is None:
        raise Refused(OPEN)
    name = form.name or "body"
    try:
        whole = united(body, shapes) if add else cut(body, shapes)
        change = volume(whole) - volume(body)
    except CannotBeDone:
        tools = [MeshBody.of(*even_triangles(shape), name) for shape in shapes]
        made, said = with_mesh(form, blank, tools, add, deviation)
        return made, (BY_MESH, *said)
    _require_change(change, sum(map(volume, shapes)), add)
    made = made_body(name, whole, deviation, volume_change=change)
    return made, fallen_apart(len(list(each(whole, TopAbs_SOLID))))


def with_mesh(
    form: Form, blank: Blank, tools: Sequence[MeshBody], add: bool, deviation: float
) -> tuple[MadeBody, tuple[str, ...]]:
    """As ``with_form``, of triangles."""
    under = true_mesh_under(form, blank)
    if under is None:
        raise Refused(OPEN)
    base, off = under
    joined = base.united(tools) if add else base.cut(tools)
    change = joined.volume - base.volume
    _require_change(change, sum(tool.volume for tool in tools), add)
    made = mesh_made(form.name or "body", joined, deviation + off, volume_change=change)
    return made, fallen_apart(joined.parts)


def _require_change(change: float, given: float, add: bool) -> None:
    """Raises CannotBeDone where what is joined lies quite within the body, or what is cut out of it beside it.

    ``given`` is its volume in mm³.
    """
    if abs(change) > LEAST * given:
        return
    if add:
        raise CannotBeDone("What is joined lies wholly within the body, so nothing changes; raise it, or cut it out.")
    raise CannotBeDone("What is cut out lies wholly beside the body, so nothing changes; lower it, or join it.")
