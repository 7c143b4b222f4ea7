"""A surface swept along two guide curves, which are drawn in front and top view, with profiles between them."""

from __future__ import annotations

from collections.abc import Sequence
from itertools import pairwise

import numpy as np
from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeFace, BRepBuilderAPI_Sewing
from OCP.GeomAPI import GeomAPI_PointsToBSplineSurface
from OCP.gp import gp_Pnt
from OCP.TColgp import TColgp_Array2OfPnt
from OCP.TopoDS import TopoDS_Shape

from ..errors import Refused
from ..geometry.curves import Array
from ..plane.contour import Contour
from ..plane.corners import corners
from ..plane.spans import Spans

STATIONS = 65
ACROSS = 25
"""So many points lie across each smooth run of a profile."""
FINE = 1e-4
"""Views are flattened within this, in mm."""
AGREE = 1e-3
"""Front and top view of a guide end within this of each other in x, in mm."""


def guide(front: Contour, top: Contour) -> Array:
    """Points (n, 3) of a curve whose front view is (x, z) and whose top view is (x, y), evenly in x.

    Raises Refused where one of the views turns back in x, or they do not reach as far.
    """
    (x_front, z), (x_top, y) = _over_x(front, "front"), _over_x(top, "top")
    if abs(x_front[0] - x_top[0]) > AGREE or abs(x_front[-1] - x_top[-1]) > AGREE:
        raise Refused(
            f"A guide reaches from {x_front[0]:g} to {x_front[-1]:g} mm in the front view, but from {x_top[0]:g} to "
            f"{x_top[-1]:g} mm in the top view; let both views begin and end at the same x."
        )
    x = np.linspace(x_front[0], x_front[-1], STATIONS)
    return np.stack([x, np.interp(x, x_top, y), np.interp(x, x_front, z)], axis=1)


def _over_x(view: Contour, name: str) -> tuple[Array, Array]:
    points = view.flattened(FINE)
    if points[0, 0] > points[-1, 0]:
        points = points[::-1]
    if (np.diff(points[:, 0]) <= 0).any():
        raise Refused(
            f"A guide turns back in x in the {name} view; draw it so that it runs on to the right all the way."
        )
    return points[:, 0], points[:, 1]


def profile_runs(profile: Contour | None) -> list[Array]:
    """The smooth runs of a profile, points (m, 2) each, its ends laid onto (0, 0) and (1, 0). Raises Refused."""
    if profile is None:
        return [np.stack([np.linspace(0, 1, 3), np.zeros(3)], axis=1)]
    if profile.closed:
        raise Refused("The profile between the guides must be open: it goes from one guide to the other.")
    spans = Spans.of([profile])
    chord = spans.end[-1] - spans.start[0]
    width = float(np.linalg.norm(chord))
    if width < 1e-6:
        raise Refused("The profile comes back to its begin; let its ends lie apart, one for each guide.")
    turn = np.array([[chord[0], chord[1]], [-chord[1], chord[0]]]) / width**2
    stops = [0, *(int(k) for k in corners(profile)), len(spans)]
    return [(_evenly(spans.at(np.arange(a, b))) - spans.start[0]) @ turn.T for a, b in pairwise(sorted(set(stops)))]


def _evenly(spans: Spans) -> Array:
    ends = np.concatenate([[0.0], np.cumsum(spans.length)])
    along = np.linspace(0, ends[-1], ACROSS)
    k = np.clip(np.searchsorted(ends, along, side="right") - 1, 0, len(spans) - 1)
    return spans.evaluate((along - ends[k]) / spans.length[k], k)


def between(first: Array, second: Array, profiles: Sequence[Sequence[Array]], upright: bool) -> TopoDS_Shape:
    """The surface from the guide ``first`` (n, 3) to the ``second``, with ``profiles`` evenly along them.

    A profile keeps its shape and grows with the distance of the guides; between two of them it goes over evenly. It
    stands ``upright``, or square to the line between the guides.
    """
    count = {tuple(len(run) for run in profile) for profile in profiles}
    if len(count) > 1:
        raise Refused("The profiles have different numbers of corners; draw them alike, so that they go over evenly.")
    chord = second - first
    width = np.linalg.norm(chord, axis=1)
    if width.min() < 1e-6:
        raise Refused("The guides meet; let them stay apart all the way.")
    up = np.array([0.0, 0.0, 1.0])
    rise = np.repeat(up[None], len(chord), axis=0)
    if not upright:
        unit = chord / width[:, None]
        rise = up - (unit @ up)[:, None] * unit
        rise /= np.maximum(np.linalg.norm(rise, axis=1), 1e-12)[:, None]
    share = np.linspace(0, len(profiles) - 1, len(first))
    k = np.clip(share.astype(int), 0, max(len(profiles) - 2, 0))
    sewing = BRepBuilderAPI_Sewing(1e-6)
    for number in range(len(profiles[0])):
        runs = np.array([profile[number] for profile in profiles])
        part = (share - k)[:, None, None]
        there = runs[k] if len(runs) == 1 else (1 - part) * runs[k] + part * runs[k + 1]
        grid = first[:, None] + there[:, :, :1] * chord[:, None] + there[:, :, 1:] * (width[:, None] * rise)[:, None]
        sewing.Add(_spline_face(grid))
    sewing.Perform()
    return sewing.SewedShape()


def _spline_face(grid: Array) -> TopoDS_Shape:
    """The face of a spline surface through points (n, m, 3)."""
    poles = TColgp_Array2OfPnt(1, grid.shape[0], 1, grid.shape[1])
    for i in range(grid.shape[0]):
        for j in range(grid.shape[1]):
            poles.SetValue(i + 1, j + 1, gp_Pnt(*map(float, grid[i, j])))
    made = GeomAPI_PointsToBSplineSurface()
    made.Interpolate(poles)
    return BRepBuilderAPI_MakeFace(made.Surface(), 1e-6).Face()
