"""Where curves leave a face: relaxed ones end on its outline, not only near it, and at one place for both sides."""

from __future__ import annotations

from collections import defaultdict

import numpy as np
import shapely

from ..form.dividing import scale_of
from ..form.form import Coedge, Face, Form
from ..geometry.curves import Array, Spline
from ..plane.arrangement import Piece
from ..record import record
from .on_parameters import ended

ONE_PLACE = 0.01
"""Ends nearer to each other than this along an edge, in mm, are one; shorter pieces are left out."""
BESIDE = 2e-3
"""A contour that begins this near to an outline, in mm, begins on it."""
EXACTLY_BESIDE = 0.02
"""Curves on exact faces end no further from the outline than this, in mm."""
SAMPLES = 513
STEPS = 12


@record
class _Outline:
    """The walks of a face along edges, as polylines over its parameters in mm."""

    scale: Array
    walks: tuple[Coedge, ...]
    lines: tuple[shapely.LineString, ...]

    @staticmethod
    def of(face: Face) -> _Outline:
        scale = scale_of(face)
        walks = tuple(c for loop in face.loops for c in loop if c.edge >= 0)
        lines = tuple(shapely.LineString(c.uv(np.linspace(c.start, c.end, SAMPLES)) * scale) for c in walks)
        return _Outline(scale, walks, lines)

    def foot(self, uv: Array, reach: float) -> tuple[Coedge, float] | None:
        """The walk that is nearest to ``uv`` (2,), and its parameter there; None where none is within ``reach`` mm."""
        at = shapely.Point(uv * self.scale)
        gaps = [line.distance(at) for line in self.lines]
        if not gaps or min(gaps) > reach:
            return None
        k = int(np.argmin(gaps))
        points = shapely.get_coordinates(self.lines[k])
        reached = np.r_[0, np.cumsum(np.linalg.norm(np.diff(points, axis=0), axis=1))]
        walk = self.walks[k]
        t = np.linspace(walk.start, walk.end, SAMPLES)
        return walk, float(np.interp(self.lines[k].project(at), reached, t))


class Borders:
    """The outlines of the faces of a form, and where curves have ended on its edges.

    ``slack`` in mm is how far curves on relaxed faces may end from the outline that they reach.
    """

    def __init__(self, form: Form, slack: float) -> None:
        self.form, self.slack = form, slack
        self._outlines: dict[int, _Outline] = {}
        self._ends: dict[int, list[tuple[float, Array]]] = defaultdict(list)

    def met(self, face: Face, pieces: list[Piece], leaves: tuple[bool, bool], exact: bool) -> list[Piece]:
        """The pieces of a run, its ends put onto the outline where it ``leaves`` the face; ``exact`` ones stay."""
        if face.number not in self._outlines:
            self._outlines[face.number] = _Outline.of(face)
        outline = self._outlines[face.number]
        made = [piece for piece in pieces if exact or self._long(piece, outline.scale)]
        for index, end in ((0, 0), (-1, 1)) if made else ():
            piece = made[index]
            at = piece.curve.evaluate(np.array([(piece.start, piece.end)[end]]))[0]
            foot = outline.foot(at, self.slack if leaves[end] else BESIDE)
            if foot is None:
                continue
            walk, t = foot
            place = walk.uv(np.array([self._one_place(walk.edge, t)]))[0]
            if not exact:
                made[index] = ended(piece, *((place, None) if end == 0 else (None, place)))
        return made

    def reached(self, face: Face, pieces: list[Piece], leaves: tuple[bool, bool]) -> list[Piece]:
        """The pieces of a run on an exact face, splines led along their tangents onto the outline where they leave it.

        Where they end is known by the flattened outline only, which a round one runs beside.
        """
        if face.number not in self._outlines:
            self._outlines[face.number] = _Outline.of(face)
        outline = self._outlines[face.number]
        made = list(pieces)
        for index, end in ((0, 0), (-1, 1)) if made else ():
            piece = made[index]
            if not leaves[end] or not isinstance(piece.curve, Spline):
                continue
            t = np.array([(piece.start, piece.end)[end]])
            at, way = piece.curve.evaluate(t)[0], piece.curve.derivative(t)[0]
            foot = outline.foot(at, EXACTLY_BESIDE)
            place = None if foot is None else _crossing(at, way, *foot, outline.scale)
            if place is not None:
                made[index] = ended(piece, *((place, None) if end == 0 else (None, place)))
        return made

    def _one_place(self, edge: int, t: float) -> float:
        """The parameter at which another curve has ended there already, or this one."""
        point = self.form.edges[edge].curve.evaluate(np.array([t]))[0]
        for other, there in self._ends[edge]:
            if np.linalg.norm(there - point) < ONE_PLACE:
                return other
        self._ends[edge].append((t, point))
        return t

    @staticmethod
    def _long(piece: Piece, scale: Array) -> bool:
        points = piece.curve.evaluate(np.linspace(piece.start, piece.end, 9)) * scale
        return bool(np.ptp(points, axis=0).max() > ONE_PLACE)


def _crossing(at: Array, way: Array, walk: Coedge, t: float, scale: Array) -> Array | None:
    """Where the line from ``at`` (2,) along ``way`` meets a walk near its parameter ``t``, by Newton's method."""
    s = 0.0
    for _ in range(STEPS):
        here = np.array([t])
        gap = (at + s * way - walk.curve.evaluate(here)[0]) * scale
        matrix = np.stack([way * scale, -walk.curve.derivative(here)[0] * scale], axis=1)
        size = np.linalg.norm(matrix, axis=0)
        if abs(np.linalg.det(matrix)) <= 1e-3 * size.prod():
            return None  # they run along each other
        step = np.linalg.solve(matrix, -gap)
        s, t = s + float(step[0]), t + float(step[1])
    low, high = sorted((walk.start, walk.end))
    near = np.linalg.norm(s * way * scale) <= EXACTLY_BESIDE
    return walk.curve.evaluate(np.array([min(max(t, low), high)]))[0] if near else None
