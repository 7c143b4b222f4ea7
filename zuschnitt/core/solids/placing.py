"""Shapes of the kernel moved in space."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from OCP.BRepBuilderAPI import BRepBuilderAPI_GTransform, BRepBuilderAPI_Transform
from OCP.gp import gp_Ax2, gp_Dir, gp_GTrsf, gp_Mat, gp_Pnt, gp_Trsf, gp_Vec, gp_XYZ
from OCP.TopoDS import TopoDS_Shape

from ..geometry.curves import Array


def moved(shape: TopoDS_Shape, by: Sequence[float]) -> TopoDS_Shape:
    motion = gp_Trsf()
    motion.SetTranslation(gp_Vec(*map(float, by)))
    return BRepBuilderAPI_Transform(shape, motion, True).Shape()


def placed(
    shape: TopoDS_Shape, scale: Sequence[float] | Array, turn: float, at: Sequence[float] | Array
) -> TopoDS_Shape:
    """Scaled along x, y and z, turned anticlockwise round z by ``turn`` degrees, then moved by ``at`` (3,), in mm."""
    x, y, z = map(float, scale)
    if x == y == z:
        even = gp_Trsf()
        even.SetScale(gp_Pnt(0, 0, 0), x)
        shape = BRepBuilderAPI_Transform(shape, even, True).Shape()
    else:
        uneven = gp_GTrsf(gp_Mat(x, 0, 0, 0, y, 0, 0, 0, z), gp_XYZ(0, 0, 0))
        shape = BRepBuilderAPI_GTransform(shape, uneven, True).Shape()
    angle = np.radians(turn)
    motion = gp_Trsf()
    cosine, sine = float(np.cos(angle)), float(np.sin(angle))
    motion.SetValues(cosine, -sine, 0, float(at[0]), sine, cosine, 0, float(at[1]), 0, 0, 1, float(at[2]))
    return BRepBuilderAPI_Transform(shape, motion, True).Shape()


MIRRORS = {"yz": (1, 0, 0), "zx": (0, 1, 0), "xy": (0, 0, 1)}


def mirrored(shape: TopoDS_Shape, plane: str) -> TopoDS_Shape:
    """The mirror image in one of the planes through the origin: yz, zx or xy."""
    motion = gp_Trsf()
    motion.SetMirror(gp_Ax2(gp_Pnt(0, 0, 0), gp_Dir(*MIRRORS[plane])))
    return BRepBuilderAPI_Transform(shape, motion, True).Shape()
