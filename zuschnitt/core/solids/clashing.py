"""Where bodies of two forms lie in each other, and how far they are apart where they do not."""

from __future__ import annotations

from itertools import product

import numpy as np
from OCP.BRepExtrema import BRepExtrema_DistShapeShape
from OCP.TopAbs import TopAbs_SOLID

from ..errors import CannotBeDone
from ..form.clash import Clash, Clashes
from ..form.form import Body, Form
from ..form.joined_triangles import joined_triangles
from ..geometry.curves import Array
from ..kernel.forms import form_of_shape
from ..progress import SILENT, Progress
from ..tolerances import OUTLINE
from .booleans import common
from .by_mesh import MeshBody, form_of_meshes, mesh_made
from .explore import centre, each, volume
from .shape import shape_of
from .under import closed, is_mesh

NOTHING = 1e-6
"""What two bodies share of less than this part of the smaller one is a touch."""


def clashes(one: Form, other: Form, progress: Progress = SILENT) -> Clashes:
    """The clashes of the bodies of two forms. Open faces enclose nothing, so of them the gap alone is told."""
    pairs = list(product(one.bodies, other.bodies))
    found: list[Clash] = []
    gaps: list[float] = []
    open_ones = sum(not closed(form, body.faces) for form in (one, other) for body in form.bodies)
    for k, (first, second) in enumerate(pairs):
        progress.step(k / len(pairs), "holding bodies against each other")
        if any(is_mesh(form, body) for form, body in ((one, first), (other, second))):
            clash, gap = _of_meshes((one, first), (other, second))
        else:
            clash, gap = _exact((one, first), (other, second))
        gaps.append(gap)
        if clash is not None:
            found.append(clash)
    said = []
    if open_ones:
        what = "1 body is open and encloses" if open_ones == 1 else f"{open_ones} bodies are open and enclose"
        said.append(f"{what} nothing, so only how far apart they are was looked at.")
    return Clashes(tuple(found), 0.0 if found else min(gaps), tuple(said))


Owned = tuple[Form, Body]


def _exact(one: Owned, other: Owned) -> tuple[Clash | None, float]:
    shapes = [shape_of(form, [body]) for form, body in (one, other)]
    if all(closed(form, body.faces) for form, body in (one, other)):
        shared = common(shapes[0], [shapes[1]])
        solids = list(each(shared, TopAbs_SOLID))
        size = sum(volume(solid) for solid in solids)
        if solids and size > NOTHING * min(volume(shape) for shape in shapes):
            lines = _outlines(form_of_shape(shared, "clash", look=False))
            return Clash((one[1].name, other[1].name), size, centre(shared), lines), 0.0
    distance = BRepExtrema_DistShapeShape(*shapes)
    if not distance.IsDone():
        raise CannotBeDone("The geometry kernel finds no distance between the bodies; move one of them a little.")
    return None, float(distance.Value())


def _of_meshes(one: Owned, other: Owned) -> tuple[Clash | None, float]:
    bodies = [MeshBody.of(*joined_triangles(form, set(body.faces)), body.name) for form, body in (one, other)]
    shared = bodies[0].common(bodies[1])
    if shared is not None and shared.volume > NOTHING * min(body.volume for body in bodies):
        form = form_of_meshes([mesh_made("clash", shared, 0.0)], "clash")
        middle = np.average(form.meshes[0].points, axis=0)
        return Clash((one[1].name, other[1].name), shared.volume, middle, _outlines(form)), 0.0
    return None, bodies[0].gap(bodies[1], one[0].size + other[0].size)


def _outlines(form: Form) -> tuple[Array, ...]:
    return tuple(edge.points(OUTLINE) for edge in form.edges)
