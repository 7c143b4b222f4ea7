"""Solid sheets for tests, made by the geometry kernel: profiles drawn out, cut, mirrored."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np
from OCP.BRepAlgoAPI import BRepAlgoAPI_Cut, BRepAlgoAPI_Fuse
from OCP.BRepBuilderAPI import (
    BRepBuilderAPI_MakeEdge,
    BRepBuilderAPI_MakeFace,
    BRepBuilderAPI_MakeWire,
    BRepBuilderAPI_Transform,
)
from OCP.BRepPrimAPI import BRepPrimAPI_MakeBox, BRepPrimAPI_MakeCone, BRepPrimAPI_MakeCylinder, BRepPrimAPI_MakePrism
from OCP.GC import GC_MakeArcOfCircle
from OCP.gp import gp_Ax2, gp_Dir, gp_Pnt, gp_Trsf, gp_Vec

from zuschnitt.core.form.form import Form
from zuschnitt.core.kernel.forms import form_of_shape


def drawn_out(legs: Sequence[float], turns: Sequence[float], radius: float, thickness: float, width: float):
    """A sheet along a path of flat ``legs`` with bends of ``turns`` degrees between, left where above 0.

    All bends have the inside radius ``radius``; the sheet lies on the left of the path and is ``width`` wide.
    """
    sides: tuple[list, list] = ([], [])
    at, heading = np.zeros(2), 0.0
    for k, leg in enumerate(legs):
        way, left = _way(heading), _left(heading)
        for side, off in zip(sides, (0.0, thickness), strict=True):
            side.append((at + off * left, at + leg * way + off * left))
        at = at + leg * way
        if k < len(turns):
            angle = math.radians(turns[k])
            sign = 1 if angle > 0 else -1
            own = radius + thickness if sign > 0 else radius
            centre = at + sign * own * left
            for side, off in zip(sides, (0.0, thickness), strict=True):
                arc = [centre - sign * (own - sign * off) * _left(heading + part * angle) for part in (0, 0.5, 1)]
                side.append(tuple(arc))
            at, heading = centre - sign * own * _left(heading + angle), heading + angle
    below, above = sides
    wire = BRepBuilderAPI_MakeWire()
    outline = [*below, (below[-1][-1], above[-1][-1]), *(tuple(reversed(s)) for s in reversed(above))]
    outline.append((above[0][0], below[0][0]))
    for points in outline:
        if np.linalg.norm(points[0] - points[-1]) < 1e-9:
            continue
        made = [gp_Pnt(float(p[0]), 0.0, float(p[1])) for p in points]
        curve = made if len(made) == 2 else (GC_MakeArcOfCircle(*made).Value(),)
        wire.Add(BRepBuilderAPI_MakeEdge(*curve).Edge())
    return BRepPrimAPI_MakePrism(BRepBuilderAPI_MakeFace(wire.Wire()).Face(), gp_Vec(0, width, 0)).Shape()


def _way(heading: float):
    return np.array([math.cos(heading), math.sin(heading)])


def _left(heading: float):
    return np.array([-math.sin(heading), math.cos(heading)])


def drill(point, direction, radius: float, deep: float):
    return BRepPrimAPI_MakeCylinder(gp_Ax2(gp_Pnt(*point), gp_Dir(*direction)), radius, deep).Shape()


def cone(point, low: float, high: float, deep: float):
    """Upright, from one radius to another."""
    return BRepPrimAPI_MakeCone(gp_Ax2(gp_Pnt(*point), gp_Dir(0, 0, 1)), low, high, deep).Shape()


def block(point, size):
    return BRepPrimAPI_MakeBox(gp_Pnt(*point), *size).Shape()


def without(shape, *tools):
    for tool in tools:
        shape = BRepAlgoAPI_Cut(shape, tool).Shape()
    return shape


def joined(shape, *others):
    for other in others:
        shape = BRepAlgoAPI_Fuse(shape, other).Shape()
    return shape


def mirrored(shape):
    """In a plane that lies askew."""
    made = gp_Trsf()
    made.SetMirror(gp_Ax2(gp_Pnt(3, 4, 5), gp_Dir(1, 2, 3)))
    return BRepBuilderAPI_Transform(shape, made, True).Shape()


def form(shape, name="part") -> Form:
    return form_of_shape(shape, name)
