"""How bars end: cut by the edge of the faces that they run along, and mitred where their line turns."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

import numpy as np
import shapely
from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeFace
from OCP.gp import gp_Dir, gp_Pln, gp_Pnt
from OCP.TopoDS import TopoDS_Shape

from ..carry.tracks import Along, Stretch, Track, along
from ..errors import CannotBeDone
from ..form.build import bounded, lines_round
from ..form.form import Edge, Face, Form
from ..geometry.curves import Array
from ..geometry.surfaces import SplineSurface
from ..plane.contour import Contour
from ..record import record
from .booleans import divided
from .carrying import Carried
from .shape import faces_of
from .sweeping import frames_of, swept
from .within import held

AT_EDGE = 2e-3
"""An end that is no further than this from an edge of the face, in mm, lies on it."""
STEEPEST = 4.0
"""A cut runs no further along a bar than so many times as far as the section reaches from its line: a mitre of 150
degrees. It has to end before the other end of the bar, too."""
MARGIN = 1.3
"""The bar and what cuts it are longer than is needed by this factor."""
TURN_EACH, FEWEST, MOST = 0.04, 9, 65
"""Along a crooked edge a cut is laid through so many places: one for each so much turn, in radians."""
NEAR = 1e-3
LEVEL = 1e-10
"""What is off a plane by no more than this part is one."""


@record
class _End:
    """The cut at one end of a track: the unit vector ``out`` (3,) square to it at the end, and a face of it.

    ``face`` gives one that reaches so far, in mm.
    """

    out: Array
    face: Callable[[float], TopoDS_Shape]


def fitted(
    form: Form, track: Track, section: Contour, upright: str, hole: Contour | None = None, at_edges: bool = True
) -> tuple[Carried, int]:
    """The section along a track as in ``swept``, with fitted ends, and how many ends had to stay square.

    Without ``at_edges`` it is only mitred where the line turns. Raises CannotBeDone.
    """
    if track.closed:
        return swept(track, section, upright, hole), 0
    longer, cuts, square = _extended(form, track, section, upright, hole, at_edges)
    carried = swept(longer, section, upright, hole)
    shape = carried.shape
    for face, tip in cuts:
        shape = _without_tip(shape, face, tip, track.name)
    return Carried(shape, carried.deviation), square


def _extended(
    form: Form, track: Track, section: Contour, upright: str, hole: Contour | None, at_edges: bool
) -> tuple[Track, list[tuple[TopoDS_Shape, Array]], int]:
    """A track that runs beyond its ends as far as their cuts do, these with what they cut off, and ends left square."""
    outline = section.flattened(0.05)
    inner = shapely.Polygon(outline, () if hole is None else [hole.flattened(0.05)]).representative_point()
    reach = float(np.linalg.norm(outline, axis=1).max())
    stretches, cuts, square = list(track.stretches), [], 0
    for first in (True, False):
        end = _end_of(form, track, first, at_edges)
        if end is None:
            continue
        key = 0 if first else len(track.stretches) - 1
        stretch = track.stretches[key]
        s = np.array([stretch.start if first else stretch.end])
        _, x, y = (each[0] for each in frames_of(track, upright)(key, s))
        way = along(stretch, s).way[0] * (-1 if first else 1)
        points = outline[:, :1] * x + outline[:, 1:] * y
        slope = float(way @ end.out)
        behind, ahead = float((-points @ end.out).max()), float((points @ end.out).max())
        length = track.stretches[-1].end - track.stretches[0].start
        if slope <= 0 or max(behind, ahead) > slope * min(STEEPEST * reach, length):
            square += 1
            continue
        more = MARGIN * max(behind, 0.0) / slope + 0.1 * reach
        added = _beyond(stretches[key], more, first)
        stretches[key] = added
        at = np.array([added.start + NEAR * more if first else added.end - NEAR * more])
        longer = replace(track, stretches=(added,))
        place, across, upwards = (each[0] for each in frames_of(longer, upright)(0, at))
        cuts.append((end.face(MARGIN * (reach + more)), place + inner.x * across + inner.y * upwards))
    return replace(track, stretches=tuple(stretches)), cuts, square


def _end_of(form: Form, track: Track, first: bool, at_edges: bool) -> _End | None:
    """How a track ends: at a mitre, at an edge of its face, or as it is (None)."""
    stretch = track.stretches[0 if first else -1]
    here = along(stretch, np.array([stretch.start if first else stretch.end]))
    mate = track.meets[0 if first else 1]
    if mate is not None:
        return _mitre(here, mate, first)
    return _at_edge(form, stretch.face, here, first) if at_edges else None


def _mitre(here: Along, mate: Along, first: bool) -> _End | None:
    out = (here.way[0] + mate.way[0]) * (-1 if first else 1)
    size = float(np.linalg.norm(out))
    if size < 1e-6:
        return None
    return _End(out / size, lambda reach: _plane(here.at[0], out, reach))


def _plane(at: Array, out: Array, reach: float) -> TopoDS_Shape:
    plane = gp_Pln(gp_Pnt(*at.tolist()), gp_Dir(*out.tolist()))
    return BRepBuilderAPI_MakeFace(plane, -reach, reach, -reach, reach).Face()


def _at_edge(form: Form, face: Face, here: Along, first: bool) -> _End | None:
    """The surface square to the face along that of its edges on which the end lies."""
    numbers = {c.edge for loop in face.loops for c in loop if c.edge >= 0 and c.edge not in form.seams}
    best: tuple[float, Edge, float] | None = None
    for edge in (form.edges[k] for k in sorted(numbers)):
        if edge.smooth:
            continue
        away, t = _nearest(edge, here.at[0])
        if best is None or away < best[0]:
            best = away, edge, t
    if best is None or best[0] > AT_EDGE:
        return None
    _, edge, t = best
    step = 1e-4 * (edge.end - edge.start)
    before, after = edge.curve.evaluate(np.clip([t - step, t + step], edge.start, edge.end))
    out = np.cross(after - before, here.normal[0])
    out /= np.linalg.norm(out)
    way = here.way[0] * (-1 if first else 1)
    if out @ way < 0:
        out = -out
    return _End(out, lambda reach: _along_edge(face, edge, t, reach))


def _nearest(edge: Edge, point: Array) -> tuple[float, float]:
    """How far a point (3,) is from an edge, and the edge's parameter there."""
    low, high = edge.start, edge.end
    for _ in range(12):
        t = np.linspace(low, high, 33)
        away = np.linalg.norm(edge.curve.evaluate(t) - point, axis=1)
        k = int(away.argmin())
        low, high = t[max(k - 1, 0)], t[min(k + 1, 32)]
    return float(away[k]), float(t[k])


def _along_edge(face: Face, edge: Edge, t: float, reach: float) -> TopoDS_Shape:
    """What stands square on a face along an edge, as far as ``reach`` from a place of it, and straight on beyond."""
    from scipy.interpolate import make_interp_spline

    fine = np.linspace(edge.start, edge.end, 2049)
    points = edge.curve.evaluate(fine)
    run = np.concatenate([[0.0], np.cumsum(np.linalg.norm(np.diff(points, axis=0), axis=1))])
    here = float(np.interp(t, fine, run))
    comes_round = bool(np.linalg.norm(points[0] - points[-1]) < NEAR)
    far = min(reach, 0.45 * float(run[-1])) if comes_round else reach
    ways = np.diff(points[np.abs(run - here) <= reach], axis=0)
    ways /= np.linalg.norm(ways, axis=1, keepdims=True)
    turn = float(np.linalg.norm(np.diff(ways, axis=0), axis=1).sum())
    wanted = np.linspace(-far, far, int(np.clip(turn / TURN_EACH, FEWEST, MOST))) + here
    on_it = wanted % run[-1] if comes_round else np.clip(wanted, 0, run[-1])
    on = edge.curve.evaluate(np.interp(on_it, run, fine))
    if not comes_round:
        first, last = (each / np.linalg.norm(each) for each in (points[1] - points[0], points[-1] - points[-2]))
        on = on + np.minimum(wanted, 0)[:, None] * first + np.maximum(wanted - run[-1], 0)[:, None] * last
    normal = face.outward(face.surface.project(on))
    grid = np.stack([on - reach * normal, on + reach * normal], axis=1)
    middle = grid.mean(axis=(0, 1))
    _, sizes, axes = np.linalg.svd((grid - middle).reshape(-1, 3), full_matrices=False)
    if sizes[2] <= LEVEL * sizes[0]:
        return _plane(middle, axes[2], 2 * reach)
    along_it = make_interp_spline(wanted, grid, k=3)
    high = np.array([-reach, -reach, reach, reach])
    surface = SplineSurface(along_it.t, high, np.ascontiguousarray(along_it.c), 3, 1)
    (u0, u1), (v0, v1) = wanted[[0, -1]], high[[0, -1]]
    corners = np.array([[u0, v0], [u1, v0], [u1, v1], [u0, v1]])
    return faces_of(bounded("end of a bar", surface, [lines_round(corners)]), [1])[0]


def _beyond(stretch: Stretch, more: float, first: bool) -> Stretch:
    """A stretch that goes on beyond its end, straight on in the parameters of its face."""
    at = stretch.start if first else stretch.end
    step = 1e-4
    here, back = stretch.uv(np.array([at, at + (step if first else -step)]))
    slope = (back - here) / step * (1 if first else -1)

    def uv(s: Array) -> Array:
        on = np.maximum(s, at) if first else np.minimum(s, at)
        return stretch.uv(on) + (np.asarray(s, float) - on)[:, None] * slope

    return replace(stretch, uv=uv, start=at - more if first else stretch.start, end=stretch.end if first else at + more)


def _without_tip(shape: TopoDS_Shape, face: TopoDS_Shape, tip: Array, name: str) -> TopoDS_Shape:
    """What is left of a bar without that piece, cut off by a face, that has a place ``tip`` (3,)."""
    parts = divided(shape, [face])
    kept = [part for part in parts if not held(part, [gp_Pnt(*tip.tolist())])[0]]
    if len(kept) != 1 or len(parts) != 2:
        raise CannotBeDone(f"The end of {name} cannot be cut to fit; leave its ends square, or move the line.")
    return kept[0]
