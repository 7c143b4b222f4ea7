"""The box round a shape of the kernel.

What is furthest out in a direction lies on an edge, or inside of a face that bulges. The kernel's own search takes a
hundred times as long on faces of splines as their edges do, so those are looked at here.
"""

from __future__ import annotations

import numpy as np
from OCP.Bnd import Bnd_Box
from OCP.BRepAdaptor import BRepAdaptor_Surface
from OCP.BRepBndLib import BRepBndLib
from OCP.BRepTools import BRepTools
from OCP.BRepTopAdaptor import BRepTopAdaptor_FClass2d
from OCP.GeomAbs import (
    GeomAbs_BSplineSurface,
    GeomAbs_Cone,
    GeomAbs_Cylinder,
    GeomAbs_Plane,
    GeomAbs_SurfaceOfExtrusion,
)
from OCP.gp import gp_Pnt2d
from OCP.TopAbs import TopAbs_EDGE, TopAbs_FACE, TopAbs_OUT, TopAbs_VERTEX
from OCP.TopoDS import TopoDS, TopoDS_Face, TopoDS_Shape

from ..geometry.curves import Array
from ..geometry.surfaces import SplineSurface
from ..kernel.translated import surface_of
from .explore import each

STRAIGHT = (GeomAbs_Plane, GeomAbs_Cylinder, GeomAbs_Cone, GeomAbs_SurfaceOfExtrusion)
"""Faces of straight lines: each of them is furthest out at one of its ends, on an edge."""
BEYOND = 1e-9
"""A face that reaches beyond its edges by no more than this part of the size is not looked at."""
PER_DEGREE = 4
MOST = 240
"""So many places are looked at in each direction for each span of a spline, times its degree, and at the most."""
ROUNDS = 8
"""So often the surroundings of a place are looked at four times more closely."""


def box_of(shape: TopoDS_Shape) -> tuple[Array, Array]:
    """The lowest and the highest corner (3,) of a shape's bounding box."""
    box = Bnd_Box()
    for part in list(each(shape, TopAbs_EDGE)) or each(shape, TopAbs_VERTEX):
        BRepBndLib.AddOptimal_s(part, box, False, False)
    splines = []
    for found in each(shape, TopAbs_FACE):
        face = TopoDS.Face_s(found)
        kind = BRepAdaptor_Surface(face).GetType()
        if kind == GeomAbs_BSplineSurface:
            splines.append(face)
        elif kind not in STRAIGHT:
            BRepBndLib.AddOptimal_s(face, box, False, False)
    if box.IsVoid():
        low, high = np.full(3, np.inf), np.full(3, -np.inf)
    else:
        corners = np.array(box.Get())
        low, high = corners[:3] + box.GetGap(), corners[3:] - box.GetGap()
    for face in splines:
        low, high = _with_spline(face, low, high)
    return (low, high) if np.isfinite(low).all() else (np.zeros(3), np.zeros(3))


def _with_spline(face: TopoDS_Face, low: Array, high: Array) -> tuple[Array, Array]:
    """The box with what of a face of a spline bulges out of it."""
    bounds = BRepTools.UVBounds_s(face)
    surface = surface_of(BRepAdaptor_Surface(face), bounds)
    assert isinstance(surface, SplineSurface)
    net = surface.control.reshape(-1, 3)
    slack = BEYOND * max(float(np.linalg.norm(np.ptp(net, axis=0))), 1e-300)
    low, high = low.copy(), high.copy()
    within = BRepTopAdaptor_FClass2d(face, 1e-9)
    for axis in range(3):
        if not net[:, axis].max() <= high[axis] + slack:
            high[axis] = _furthest(surface, bounds, within, axis, 1.0, high[axis])
        if not net[:, axis].min() >= low[axis] - slack:
            low[axis] = -_furthest(surface, bounds, within, axis, -1.0, -low[axis])
    return low, high


def _furthest(
    surface: SplineSurface, bounds: tuple, within: BRepTopAdaptor_FClass2d, axis: int, way: float, best: float
) -> float:
    """How far out the face is along an axis where that is further than ``best``, else that."""
    u, v = (_places(surface, axis_of, *bounds[2 * axis_of : 2 * axis_of + 2]) for axis_of in (0, 1))
    grid = np.stack(np.meshgrid(u, v, indexing="ij"), axis=-1)
    out = way * surface.evaluate(grid.reshape(-1, 2))[:, axis].reshape(len(u), len(v))
    step = np.array([np.diff(u).max(), np.diff(v).max()])
    wide = np.pad(out, 1, constant_values=-np.inf)
    around = [wide[1 + i : 1 + i + len(u), 1 + j : 1 + j + len(v)] for i in (-1, 0, 1) for j in (-1, 0, 1)]
    steep = np.max([out - np.where(np.isfinite(each), each, out) for each in around], axis=0)
    peaks = np.argwhere((out >= np.max(around, axis=0)) & (out + 2 * steep > best))
    if not len(peaks):
        return best
    at, value = _climbed(surface, grid[tuple(peaks.T)], step, bounds, axis, way)
    for k in np.argsort(-value):
        if value[k] <= best:
            break
        if within.Perform(gp_Pnt2d(*at[k].tolist())) != TopAbs_OUT:
            return float(value[k])
    return best


def _places(surface: SplineSurface, along: int, low: float, high: float) -> Array:
    """Parameters between two, some in each span."""
    knots = np.unique((surface.knots_u, surface.knots_v)[along])
    inner = knots[(knots > low) & (knots < high)]
    degree = (surface.degree_u, surface.degree_v)[along]
    count = min(PER_DEGREE * degree * (len(inner) + 1), MOST)
    every = np.interp(np.linspace(0, 1, count + 1), np.linspace(0, 1, len(inner) + 2), np.r_[low, inner, high])
    return np.unique(every)


def _climbed(
    surface: SplineSurface, at: Array, step: Array, bounds: tuple, axis: int, way: float
) -> tuple[Array, Array]:
    """Places (n, 2) moved to where, near them, the surface is furthest out, and how far (n,) that is."""
    near = np.stack(np.meshgrid(np.linspace(-1, 1, 9), np.linspace(-1, 1, 9), indexing="ij"), axis=-1).reshape(-1, 2)
    low, high = np.array(bounds[::2]), np.array(bounds[1::2])
    value = np.full(len(at), -np.inf)
    for _ in range(ROUNDS):
        tried = np.clip(at[:, None] + step * near, low, high)
        out = way * surface.evaluate(tried.reshape(-1, 2))[:, axis].reshape(len(at), -1)
        best = out.argmax(axis=1)
        at, value = tried[np.arange(len(at)), best], out.max(axis=1)
        step = step / 4
    return at, value
