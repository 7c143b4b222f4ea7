"""What of a bar lies on one side of the faces that it runs along."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from typing import TYPE_CHECKING

import numpy as np
from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeFace
from OCP.gp import gp_Dir, gp_Pln, gp_Pnt
from OCP.TopAbs import TopAbs_SOLID
from OCP.TopoDS import TopoDS_Face, TopoDS_Shape

from ..carry.tracks import Stretch, Track, along
from ..form.build import bounded, lines_round
from ..form.form import Form
from ..form.locator import Locator
from ..geometry.curves import Array
from ..geometry.smooth import through_grid
from ..geometry.surfaces import TURN, Cone, Cylinder, Frame, Plane, Surface
from .booleans import common, cut, divided, united
from .explore import centre, each
from .shape import faces_of
from .within import inner_points

if TYPE_CHECKING:
    from .bars import Bar

ACROSS, ALONG = 17, 65
"""Places of a face at which it is looked at, over the width of a bar and along it."""
CLOSE = 1e-9
"""A place lies on a face within this, in mm."""
BEYOND = 0.1
"""A face is continued by this part of a bar's size beyond its ends."""


def beside_body(shape: TopoDS_Shape, body: TopoDS_Shape, keep: str) -> tuple[TopoDS_Shape, bool]:
    """What of a bar lies outside of a body, or in it, as ``keep`` is outer or inner, and whether anything does."""
    made = cut(shape, [body]) if keep == "outer" else common(shape, [body])
    return (made, True) if list(each(made, TopAbs_SOLID)) else (shape, False)


def one_side(
    form: Form, faces: Sequence[int], shape: TopoDS_Shape, track: Track, bar: Bar
) -> tuple[TopoDS_Shape, bool]:
    """What of a bar along a track lies on the side ``bar.keep`` of the faces, and whether they divide it at all."""
    parts = divided(shape, faces_of(form, faces))
    if len(parts) < 2 and not track.closed:  # it reaches beyond the faces at its ends
        parts = _divided_beyond(form, faces, shape, track, bar.size)
    if len(parts) < 2:
        return shape, False
    locator = Locator.of(form, faces)
    mine = []
    for part in parts:
        at = np.array([[p.X(), p.Y(), p.Z()] for p in inner_points(part)]).reshape(-1, 3)
        feet = locator.feet(at)
        above = np.sign(((at - feet.points) * locator.outward(feet)).sum(axis=1)).sum()
        if (above > 0) == (bar.keep == "outer"):
            mine.append(part)
    if not mine:
        return shape, False
    return (mine[0] if len(mine) == 1 else united(mine[0], mine[1:])), True


def _divided_beyond(
    form: Form, faces: Sequence[int], shape: TopoDS_Shape, track: Track, size: float
) -> list[TopoDS_Shape]:
    """The parts into which faces divide a bar that reaches beyond them at its ends, where they are continued.

    None where they do not divide it all along.
    """
    first, last = track.stretches[0], track.stretches[-1]
    if first is last:
        return divided(shape, [_continued(first, size)])
    near = [min(size, (each.end - each.start) / 2) for each in (first, last)]
    squares = [_across(first, first.start + near[0], size), _across(last, last.end - near[1], size)]
    ends = np.array([along(first, np.array([first.start])).at[0], along(last, np.array([last.end])).at[0]])
    found = []
    chunks = divided(shape, squares)
    for chunk in chunks:
        away = np.linalg.norm(ends - centre(chunk), axis=1)
        k = int(away.argmin())
        over = [_continued((first, last)[k], size)] if away[k] < near[k] else faces_of(form, faces)
        parts = divided(chunk, over)
        if len(parts) < 2:
            return []
        found.extend(parts)
    return found if len(chunks) == 3 else []


def _across(stretch: Stretch, at: float, size: float) -> TopoDS_Face:
    """A square face across a bar at the parameter ``at`` of a stretch."""
    here = along(stretch, np.array([at]))
    plane = gp_Pln(gp_Pnt(*here.at[0].tolist()), gp_Dir(*here.way[0].tolist()))
    return BRepBuilderAPI_MakeFace(plane, -size, size, -size, size).Face()


def _continued(stretch: Stretch, size: float) -> TopoDS_Shape:
    """The face below a bar as one of its own, as wide as the bar and longer, beyond the outline of the face.

    It is a part of a plane, a cylinder or a cone where the face is one, else a spline face. In each plane square to
    the line it is looked at which height over each place the face lies, by Newton's method.
    """
    s = np.linspace(stretch.start, stretch.end, ALONG)
    here = along(stretch, s)
    left = np.cross(here.normal, here.way)
    x = size * np.linspace(-0.75, 0.75, ACROSS)
    at = (here.at[:, None] + x[:, None] * left[:, None]).reshape(-1, 3)
    up = np.repeat(here.normal, ACROSS, axis=0)
    for _ in range(20):
        uv = stretch.face.surface.project(at)
        normal = stretch.face.outward(uv)
        off = np.einsum("ij,ij->i", stretch.face.surface.evaluate(uv) - at, normal)
        step = off / np.einsum("ij,ij->i", up, normal)
        at = at + step[:, None] * up
        if np.abs(step).max() < CLOSE:
            break
    own = stretch.face.surface
    if isinstance(own, Plane | Cylinder | Cone):
        return _part_of(own, uv, size)
    grid: Array = at.reshape(ALONG, ACROSS, 3)
    more = BEYOND * size / np.linalg.norm(np.diff(grid[:, ACROSS // 2], axis=0), axis=1)
    grid = np.concatenate([
        grid[:1] - more[0] * (grid[1:2] - grid[:1]), grid, grid[-1:] + more[-1] * (grid[-1:] - grid[-2:-1])
    ])  # fmt: skip
    t = np.concatenate([[s[0] - BEYOND * size], s, [s[-1] + BEYOND * size]])
    surface = through_grid(t, x, grid)
    return _rectangle(surface, surface.bounds)


def _part_of(surface: Plane | Cylinder | Cone, uv: Array, size: float) -> TopoDS_Shape:
    """A part of a surface that holds the places ``uv`` (n, 2) and goes on beyond them by the size of a bar."""
    round_it = isinstance(surface, Cylinder | Cone)
    u = np.unwrap(uv[:, 0], period=TURN) if round_it else uv[:, 0]
    (u0, v0), (u1, v1) = (u.min(), uv[:, 1].min()), (u.max(), uv[:, 1].max())
    v0, v1 = v0 - size, v1 + size
    if isinstance(surface, Cone):  # not beyond its apex
        apex = surface.apex_v
        v0, v1 = (max(v0, (apex + v0 + size) / 2), v1) if v0 + size > apex else (v0, min(v1, (apex + v1 - size) / 2))
    more = size
    if round_it:
        radii = np.linalg.norm(surface.derivatives(np.array([[u0, v0], [u0, v1]]))[0], axis=1)
        more = min(size / float(radii.min()), (TURN - (u1 - u0)) / 2)
        turn = (u0 + u1 - TURN) / 2  # the kernel is not at ease with faces over the seam
        surface = replace(surface, frame=_turned(surface.frame, turn))
        u0, u1 = u0 - turn, u1 - turn
    return _rectangle(surface, (u0 - more, u1 + more, v0, v1))


def _turned(frame: Frame, angle: float) -> Frame:
    """A frame turned about its third axis."""
    x, y, z = frame.axes
    cosine, sine = np.cos(angle), np.sin(angle)
    return Frame(frame.origin, np.stack([cosine * x + sine * y, cosine * y - sine * x, z]))


def _rectangle(surface: Surface, bounds: tuple[float, float, float, float]) -> TopoDS_Shape:
    u0, u1, v0, v1 = bounds
    corners = np.array([[u0, v0], [u1, v0], [u1, v1], [u0, v1]])
    return faces_of(bounded("face below the bar", surface, [lines_round(corners)]), [1])[0]
