"""Profiles of a drawing pulled out, turned round an axis, or joined one above the other."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from itertools import pairwise

import numpy as np
import shapely
from OCP.BRepBuilderAPI import BRepBuilderAPI_Transform
from OCP.BRepOffsetAPI import BRepOffsetAPI_ThruSections
from OCP.BRepPrimAPI import BRepPrimAPI_MakePrism, BRepPrimAPI_MakeRevol
from OCP.gp import gp_Ax1, gp_Ax3, gp_Dir, gp_Pnt, gp_Trsf, gp_Vec
from OCP.TopoDS import TopoDS, TopoDS_Shape

from ..carry.figures import figures
from ..errors import CannotBeDone, Refused
from ..form.joined_triangles import welded
from ..plane.contour import Contour
from ..wording import counted
from .begun_alike import begun_alike
from .copying import compound
from .explore import volume
from .flat import face_within, together, wire, wire_along, without
from .placing import moved
from .triangulated import triangles_of

TOP, FRONT, SIDE = "top", "front", "side"
VIEWS = (TOP, FRONT, SIDE)
LEVELS = 8
"""At so many heights between each two sections it is asked whether a body crosses itself."""
TURN = 0.1
"""For that it is looked at as triangles that turn by so many radians at most."""
SAME = 1e-4
"""Areas that differ by no more than this part are the same."""


def pulled(contours: Sequence[Contour], length: float, view: str) -> TopoDS_Shape:
    """Closed profiles as bodies, open ones as surfaces, pulled out by ``length`` mm square to their ``view``.

    Drawn as seen from above a profile lies in x and y, from the front in x and z, from the side in y and z. What lies
    within another profile is a hole.
    """
    return _seen(_each(contours, lambda shape: BRepPrimAPI_MakePrism(shape, gp_Vec(0, 0, length)).Shape()), view)


def turned(contours: Sequence[Contour], degrees: float) -> TopoDS_Shape:
    """Profiles turned round the z axis: a drawing's x is the radius, its y the height. Raises Refused, CannotBeDone."""
    low = min(float(c.bounds[0][0]) for c in contours)
    if low < -1e-9:
        raise Refused(f"The profile reaches {-low:g} mm beyond the axis x = 0; move it to the right of it.")
    upright = gp_Trsf()
    upright.SetRotation(gp_Ax1(gp_Pnt(0, 0, 0), gp_Dir(1, 0, 0)), np.pi / 2)
    axis = gp_Ax1(gp_Pnt(0, 0, 0), gp_Dir(0, 0, 1))

    def body(shape: TopoDS_Shape) -> TopoDS_Shape:
        standing = BRepBuilderAPI_Transform(shape, upright, True).Shape()
        if abs(degrees) >= 360 - 1e-9:
            return BRepPrimAPI_MakeRevol(standing, axis).Shape()
        return BRepPrimAPI_MakeRevol(standing, axis, float(np.radians(degrees))).Shape()

    return _each([_on_axis(contour) for contour in contours], body)


def lofted(sections: Sequence[Contour], heights: Sequence[float], smooth: bool) -> TopoDS_Shape:
    """A body through closed sections one above the other, smooth or with straight lines between each two.

    Raises Refused, and CannotBeDone where the kernel finds none.
    """
    if len(sections) < 2 or len(sections) != len(heights):
        given = f"{counted(len(sections), 'closed section')} and {counted(len(heights), 'height')}"
        raise Refused(f"{given} do not go together; give each section its height.")
    if any(b - a <= 1e-9 for a, b in pairwise(heights)):
        raise Refused("The heights of the sections must rise from one to the next; change them.")
    made = BRepOffsetAPI_ThruSections(True, not smooth, 1e-6)
    for section, height in zip(begun_alike(sections), heights, strict=True):
        made.AddWire(TopoDS.Wire_s(moved(wire(section), (0.0, 0.0, float(height)))))
    made.CheckCompatibility(True)
    body = _made(made, "No body goes through these sections; make them more alike, or take more of them.")
    if (crossed := _crossed(body, heights)) is not None:
        raise CannotBeDone(
            f"The body would run through itself at a height of {crossed:.4g} mm; make the sections more alike, or put "
            "another one between them."
        )
    return body


def _crossed(body: TopoDS_Shape, heights: Sequence[float]) -> float | None:
    """A height at which the outline of a body crosses itself, of some between each two ``heights``; None for none."""
    import trimesh

    levels = np.concatenate([np.linspace(a, b, LEVELS + 2)[1:-1] for a, b in pairwise(heights)])
    mesh = trimesh.Trimesh(*welded(*triangles_of(body, TURN)), process=False)
    cuts = mesh.section_multiplane(np.zeros(3), np.array([0.0, 0.0, 1.0]), levels)
    for level, cut in zip(levels.tolist(), cuts, strict=True):
        for outline in (shapely.Polygon(ring) for ring in (cut.discrete if cut is not None else ())):
            # what merely touches itself by a rounding encloses what it seems to
            if not outline.is_valid and shapely.make_valid(outline).area > (1 + SAME) * outline.area:
                return float(level)
    return None


def _made(making, why: str) -> TopoDS_Shape:
    try:
        making.Build()
        done = making.IsDone()
    except Exception:  # the kernel's own errors have no common kind
        done = False
    if not done:
        raise CannotBeDone(why)
    return making.Shape()


def _each(contours: Sequence[Contour], make: Callable[[TopoDS_Shape], TopoDS_Shape]) -> TopoDS_Shape:
    """What becomes of closed profiles with their holes, and of open ones."""
    closed, opened = [c for c in contours if c.closed], [c for c in contours if not c.closed]
    made = []
    for figure in figures(closed):
        outer = together([make(face_within(closed[k])) for k in figure.outer])
        made.append(without(outer, [make(face_within(closed[k])) for k in figure.islands]))
    made.extend(make(wire_along(contour)) for contour in opened)
    if any(abs(volume(shape)) < 1e-9 for shape in made[: len(made) - len(opened)]):
        raise CannotBeDone("The profile makes no body with a volume; draw it wider, or pull it further.")
    return made[0] if len(made) == 1 else compound(made)


def _on_axis(contour: Contour) -> Contour:
    """With points that lie on the axis but for rounding put onto it."""
    points = contour.points.copy()
    points[np.abs(points[:, 0]) < 1e-7, 0] = 0.0
    return Contour(points, contour.bulges, contour.closed, contour.layer, contour.name)


def _seen(shape: TopoDS_Shape, view: str) -> TopoDS_Shape:
    """From the plane of the drawing to where the profile stands in space."""
    if view == TOP:
        return shape
    towards, right = ((0, -1, 0), (1, 0, 0)) if view == FRONT else ((1, 0, 0), (0, 1, 0))
    at = gp_Pnt(0, 0, 0)
    motion = gp_Trsf()
    drawn = gp_Ax3(at, gp_Dir(0, 0, 1), gp_Dir(1, 0, 0))
    motion.SetTransformation(gp_Ax3(at, gp_Dir(*towards), gp_Dir(*right)), drawn)
    return BRepBuilderAPI_Transform(shape, motion, True).Shape()
