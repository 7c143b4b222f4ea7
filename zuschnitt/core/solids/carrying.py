"""Flat bodies carried to the form: every face evaluated on a grid of its own parameters.

The trimming curves in parameters, and which faces share which edges, stay what they are. A body that lies over several
faces of the form is first split along their boundaries on the blank; what was split at a smooth join is one again on
the form.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import shapely
from OCP.BRepAlgoAPI import BRepAlgoAPI_Splitter
from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeEdge
from OCP.BRepPrimAPI import BRepPrimAPI_MakePrism
from OCP.gp import gp_Pnt, gp_Trsf, gp_Vec
from OCP.TopAbs import TopAbs_FACE, TopAbs_SOLID
from OCP.TopoDS import (
    TopoDS,
    TopoDS_Edge,
    TopoDS_Shape,
)
from OCP.TopTools import TopTools_ListOfShape

from ..carry.lifted import Lifting, room
from ..correspondence import RigidLeaf
from ..errors import CannotBeDone
from ..geometry.curves import Array, Spline
from ..geometry.surfaces import Plane
from ..kernel.edges import curve_edge
from ..progress import SILENT, Progress
from ..record import record
from ..wording import coordinates
from .boxes import box_of
from .copying import Copy, compound
from .explore import centre, each, shared_faces
from .placing import moved
from .within import below

EXACT, RELAXED = 1e-6, 0.01
"""How near in mm the images of faces lie to what they stand for, on exact and on relaxed blanks."""
OFF = 0.01
"""A body is not made of faces that are further than this in mm from what they stand for."""
WILD = 5.0
"""Nor of such whose surfaces run on wildly beside them, by so many mm: other programs cannot trim them."""
STIFF = 1e-9
"""What changes lengths and angles by no more than this moves and turns only."""
MARGIN = 0.999
"""What part of the room to where normals cross may be used."""
SAMPLES = 24


@record
class Carried:
    """``shape`` of the kernel in space, and how far in mm its faces may be off what they stand for."""

    shape: TopoDS_Shape
    deviation: float


def carry_body(
    lifting: Lifting, body: TopoDS_Shape, name: str = "The body", progress: Progress = SILENT
) -> Carried | None:
    """A solid that stands on the blank, carried to the form: one solid, or a compound where creases part it.

    None where faces of the kernel would be too far off what they stand for, as beside a relaxed blank, or become no
    valid solid: it is made of triangles then. Raises CannotBeDone where it would turn over itself, or does not close.
    """
    require_room(lifting, body, name)
    parts = _split(lifting, body)
    faces_of = [_face_below(lifting, part) for part in parts]
    exact = all(isinstance(lifting.leaves[face], RigidLeaf) for face in set(faces_of))
    groups = _smooth_groups(lifting, faces_of)
    made, worst = [], 0.0
    for k, group in enumerate(groups):
        progress.step(k / len(groups), "carrying a body")
        motions = {key: motion for key in {faces_of[i] for i in group} if (motion := _motion(lifting, key)) is not None}
        copy = Copy(lifting.on, EXACT if exact else RELAXED, motions)
        inner = shared_faces([parts[i] for i in group])
        for i in group:
            for face in each(parts[i], TopAbs_FACE):
                if not inner.Contains(face):
                    copy.add(TopoDS.Face_s(face), faces_of[i])
        if copy.deviation > OFF or copy.beside > WILD:
            return None
        solid = copy.solid(name)
        if solid is None:
            return None
        made.append(solid)
        worst = max(worst, copy.deviation)
    return Carried(made[0] if len(made) == 1 else compound(made), worst)


def require_room(lifting: Lifting, body: TopoDS_Shape, name: str) -> None:
    """Raises CannotBeDone where a body is higher or deeper than the form's curvature allows."""
    low, high = box_of(body)
    grid = np.stack(np.meshgrid(*(np.linspace(a, b, SAMPLES) for a, b in zip(low[:2], high[:2], strict=True))), -1)
    points = grid.reshape(-1, 2)
    at = lifting.correspondence.to_form(points)
    points, faces = points[at.inside], at.face[at.inside]
    if not len(points):
        raise CannotBeDone(f"{name} does not stand on the blank; move it.")
    deepest, highest = room(lifting, points, faces)
    for limits, reached, what in ((highest, high[2], "high"), (-deepest, -low[2], "deep")):
        k = int(limits.argmin())
        if reached > MARGIN * limits[k]:
            there = lifting.on(int(faces[k]), np.array([[*points[k], 0.0]]))[0]
            raise CannotBeDone(
                f"{name} would turn over itself at {coordinates(there)}, where the form allows no more than "
                f"{MARGIN * limits[k]:.4g} mm; it is {reached:.4g} mm {what}."
            )


def _motion(lifting: Lifting, face: int) -> gp_Trsf | None:
    """How a flat face of the form moves and turns what stands on its blank; None for other faces."""
    if not isinstance(lifting.form.face(face).surface, Plane) or not isinstance(lifting.leaves[face], RigidLeaf):
        return None
    at, *ends = lifting.on(face, np.vstack([np.zeros(3), np.eye(3)]))
    matrix = np.stack(ends - at, axis=1)
    if np.abs(matrix.T @ matrix - np.eye(3)).max() > STIFF:
        return None
    motion = gp_Trsf()
    motion.SetValues(*(float(x) for row, shift in zip(matrix, at, strict=True) for x in (*row, shift)))
    return motion


def _split(lifting: Lifting, body: TopoDS_Shape) -> list[TopoDS_Shape]:
    """The body's solids, parted where one face of the form ends on the blank and another begins."""
    solids = list(each(body, TopAbs_SOLID)) or [body]
    if len(lifting.leaves) < 2:
        return solids
    low, high = box_of(body)
    box = shapely.box(*(low[:2] - 1), *(high[:2] + 1))
    walls = TopTools_ListOfShape()
    for line in _boundaries(lifting, box):
        edge = curve_edge(line) if isinstance(line, Spline) else _straight(line)
        walls.Append(
            BRepPrimAPI_MakePrism(moved(edge, (0.0, 0.0, low[2] - 1)), gp_Vec(0, 0, high[2] - low[2] + 2)).Shape()
        )
    if walls.Size() == 0:
        return solids
    bodies = TopTools_ListOfShape()
    for solid in solids:
        bodies.Append(solid)
    splitter = BRepAlgoAPI_Splitter()
    splitter.SetArguments(bodies)
    splitter.SetTools(walls)
    splitter.Build()
    return list(each(splitter.Shape(), TopAbs_SOLID))


def _straight(line: Array) -> TopoDS_Edge:
    return BRepBuilderAPI_MakeEdge(gp_Pnt(*line[0].tolist(), 0.0), gp_Pnt(*line[1].tolist(), 0.0)).Edge()


def _boundaries(lifting: Lifting, box: shapely.Geometry) -> list[Array | Spline]:
    """Where neighbouring faces meet on the blank, as far as the box round a body reaches: lines and splines."""
    found: list[Array | Spline] = []
    leaves = list(lifting.leaves.values())
    near = [k for k, leaf in enumerate(leaves) if shapely.MultiPoint(leaf.rings_blank).envelope.intersects(box)]
    if len(near) < 2:
        return []
    for edge in lifting.form.edges:
        mine = [leaves[k] for k in near if leaves[k].face in edge.faces]
        if len(mine) < 2:
            continue
        points = edge.curve.evaluate(np.linspace(edge.start, edge.end, 257))
        at = lifting.correspondence.to_blank(points, faces=[mine[0].face]).points
        if not shapely.LineString(at).intersects(box):
            continue
        chord = at[-1] - at[0]
        off = np.abs((at - at[0]) @ np.array([-chord[1], chord[0]])) / max(float(np.linalg.norm(chord)), 1e-12)
        if off.max() < 1e-7:
            longer = 1e-3 * chord
            found.append(np.stack([at[0] - longer, at[-1] + longer]))
        else:
            from ..geometry.smooth import smooth_through

            curve = smooth_through(np.column_stack([at, np.zeros(len(at))]))
            if isinstance(curve, Spline):
                found.append(curve)
    return found


def _face_below(lifting: Lifting, part: TopoDS_Shape) -> int:
    """The face of the form over which the most of a part lies."""
    if len(lifting.leaves) == 1:
        return next(iter(lifting.leaves.values())).face
    points = [centre(part)[:2]]
    for face in each(part, TopAbs_FACE):  # not the middles of boxes: a spline face may be a small part of its surface
        point = below(TopoDS.Face_s(face))
        if point is not None:
            points.append(np.array([point.X(), point.Y()]))
    faces = lifting.face_at(np.array(points))
    inside = lifting.correspondence.to_form(np.array(points)).inside
    counted = np.bincount(faces[inside] if inside.any() else faces)
    return int(counted.argmax())


def _smooth_groups(lifting: Lifting, faces: Sequence[int]) -> list[list[int]]:
    """Parts (their indices) over faces that run on smoothly from each other belong together."""
    left = set(range(len(faces)))
    groups = []
    while left:
        waiting, group = [min(left)], []
        while waiting:
            k = waiting.pop()
            if k in left:
                left.remove(k)
                group.append(k)
                face = lifting.form.face(faces[k])
                waiting.extend(m for m in left if faces[m] == faces[k] or faces[m] in face.smooth)
        groups.append(sorted(group))
    return groups
