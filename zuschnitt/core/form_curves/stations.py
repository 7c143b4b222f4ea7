"""Stations: planes at distances by a rule, and the curves in which they cut faces or a body."""

from __future__ import annotations

from collections.abc import Callable, Collection, Sequence

import numpy as np

from ..errors import CannotBeDone, Refused
from ..form.form import Face, Form
from ..geometry.curves import Array, length
from ..mesh.mesh_surface import MeshSurface
from ..record import record
from ..wording import counted
from .plane_curves import Cutting
from .sections import on_surface

MOST = 1000
"""No rule gives more stations than this."""
SHORTEST = 1e-3
"""A rule whose spacings fall below this, in mm, does not end by itself."""
MEET = 1e-3
"""Ends of a cut on neighbouring faces that are no further apart than this, in mm, are one."""
FEWEST = 33
"""Points through which a cut is laid, at least."""
SHARE = 1e-3
"""On meshes, ends of cuts are told from their neighbourhood, within this part of a span."""
DEGREE = 5
"""Of the splines through them."""


@record
class CutPiece:
    """A part of a cut on one face: its parameters ``uv(s) -> (n, 2)``, s from 0 to ``length`` mm, its ``points``."""

    face: Face
    uv: Callable[[Array], Array]
    length: float
    points: Array


@record
class Station:
    """The ``number`` from 1, how far ``at`` along the way it is, the ``spacing`` before it, and its cut, in mm."""

    number: int
    at: float
    spacing: float
    pieces: tuple[CutPiece, ...]
    closed: bool

    @property
    def length(self) -> float:
        return sum(piece.length for piece in self.pieces)

    @property
    def joins(self) -> tuple[int, ...]:
        """Indices of points of its curve at which one face ends and the next begins."""
        return tuple(int(k) for k in np.cumsum([len(piece.points) - 1 for piece in self.pieces[:-1]]))

    @property
    def curve(self) -> Array:
        """Points (n, 3) along it; a closed one ends where it begins."""
        return np.vstack([*(piece.points[:-1] for piece in self.pieces), self.pieces[-1].points[-1:]])


@record
class Way:
    """A straight way from ``start`` (3,) along ``along`` (3,), or from there along the curve ``path`` (n, 3)."""

    start: Array
    along: Array
    path: Array | None = None

    def plane(self, at: float) -> tuple[Array, Array]:
        """A point (3,) of the plane at a distance along the way, and its unit normal (3,)."""
        if self.path is None:
            along = self.along / np.linalg.norm(self.along)
            return self.start + at * along, along
        lengths = np.r_[0, np.cumsum(np.linalg.norm(np.diff(self.path, axis=0), axis=1))]
        at += self._begins(lengths)
        reach = 1e-3 * lengths[-1]
        here, before, after = (
            np.array([np.interp(at + d, lengths, self.path[:, k]) for k in range(3)]) for d in (0.0, -reach, reach)
        )
        way = after - before
        return here, way / max(float(np.linalg.norm(way)), 1e-300)

    def _begins(self, lengths: Array) -> float:
        """Where along the path its start is."""
        assert self.path is not None
        along = np.linspace(0, lengths[-1], 2001)
        points = np.stack([np.interp(along, lengths, self.path[:, k]) for k in range(3)], axis=1)
        return float(along[np.linalg.norm(points - self.start, axis=1).argmin()])

    def extent(self, form: Form, faces: Collection[int]) -> float:
        """How far along the way the faces reach."""
        if self.path is not None:
            lengths = np.r_[0, np.cumsum(np.linalg.norm(np.diff(self.path, axis=0), axis=1))]
            return float(lengths[-1] - self._begins(lengths))
        along = self.along / np.linalg.norm(self.along)
        points = np.vstack([form.meshes[number - 1].points for number in faces])
        return float(np.ptp(points @ along))


def spacings_by(rule: Callable[[dict[str, float]], float], total: float, count: int | None) -> list[float]:
    """Distances by a rule of ``left``, ``k`` and ``last``, until their sum is the total. Raises Refused."""
    found: list[float] = []
    while count is None or len(found) < count:
        left, last = total - sum(found), found[-1] if found else total
        if left <= 1e-9 * total:
            break
        step = rule({"left": left, "k": len(found) + 1, "last": last})
        _require_forward(step, len(found) + 1)
        found.append(step)
        if len(found) > MOST or (count is None and step < SHORTEST):
            raise Refused(
                f"The rule never ends: after {len(found)} stations {left:.3g} mm are left; say how many (--count)."
            )
        if count is None and sum(found) > total * (1 + 1e-9):
            break
    return found


def _require_forward(step: float, number: int) -> None:
    if not (np.isfinite(step) and step > 0):
        raise Refused(f"The spacing before station {number} is {step:g} mm; every spacing must be above 0, change it.")


def stations(
    form: Form, faces: Sequence[int], way: Way, spacings: Sequence[float], skip: Collection[int] = ()
) -> tuple[tuple[Station, ...], tuple[str, ...]]:
    """The cuts at each station with ``faces``, until the way leaves them; and what is to be said.

    Raises Refused for spacings that are not above 0, CannotBeDone where no plane cuts the faces.
    """
    for number, step in enumerate(spacings, 1):
        _require_forward(step, number)
    found: list[Station] = []
    cutting = Cutting(form, faces)
    several, before = 0, None
    at = 0.0
    for number, step in enumerate(spacings, 1):
        at += step
        point, normal = way.plane(at)
        height = float(point @ normal)
        chains = _chains(cutting.lines(normal, height), normal, height)
        if not chains:
            if found or number == len(spacings):
                break
            continue
        several += len(chains) > 1
        pieces = max(chains, key=lambda chain: sum(piece.length for piece in chain))
        pieces = _alike(pieces, before)
        before = pieces
        if number in skip:
            continue
        ends = np.linalg.norm(pieces[0].points[0] - pieces[-1].points[-1])
        found.append(Station(number, at, step, tuple(pieces), bool(ends < MEET)))
    if not found:
        raise CannotBeDone("No station cuts the faces; begin elsewhere, go another way, or pick other faces.")
    messages = []
    if several:
        messages.append(f"{counted(several, 'station')} with several curves on the faces; the longest was taken.")
    return tuple(found), tuple(messages)


def _piece(face: Face, points: Array, normal: Array, height: float) -> CutPiece:
    """A smooth curve on the surface through points (n, 3) of it, spread evenly along the cut."""
    from scipy.interpolate import make_interp_spline

    lengths = np.r_[0, np.cumsum(np.linalg.norm(np.diff(points, axis=0), axis=1))]
    even = np.linspace(0, lengths[-1], max(FEWEST, 2 * len(points)))
    spread = np.stack([np.interp(even, lengths, points[:, k]) for k in range(3)], axis=1)
    if not isinstance(face.surface, MeshSurface):
        spread = on_surface(face.surface, spread, normal, height)
    spread[[0, -1]] = points[[0, -1]]
    uv = face.surface.project(spread)
    if isinstance(face.surface, MeshSurface):
        uv[[0, -1]] = _ends(face.surface, spread)
    for axis, period in enumerate(face.surface.periods):
        if period is not None:
            uv[:, axis] = np.unwrap(uv[:, axis], period=period)
    s = np.r_[0, np.cumsum(np.linalg.norm(np.diff(spread, axis=0), axis=1))]
    spline = make_interp_spline(s, uv, DEGREE)
    flat = isinstance(face.surface, MeshSurface)  # there the cut is a chain of straight spans
    total = float(lengths[-1]) if flat else length(lambda t: face.surface.evaluate(spline(t)), 0.0, float(s[-1]))
    return CutPiece(face, lambda t: spline(np.asarray(t) * (s[-1] / total)), total, spread)


def _ends(surface: MeshSurface, points: Array) -> Array:
    """The parameters (2, 2) of a curve's ends, on the curve's side: a seam has others on its other one."""
    found = []
    for end, inner in ((0, 1), (-1, -2)):
        near, further = surface.project(points[end] + np.array([[1.0], [2.0]]) * SHARE * (points[inner] - points[end]))
        found.append(2 * near - further)
    return np.array(found)


def _reversed(piece: CutPiece) -> CutPiece:
    return CutPiece(piece.face, lambda t: piece.uv(piece.length - np.asarray(t)), piece.length, piece.points[::-1])


def _chains(cuts: Sequence[tuple[Face, Array]], normal: Array, height: float) -> list[list[CutPiece]]:
    """Pieces that run on from each other, each chain in order."""
    long = [(face, points) for face, points in cuts if np.ptp(points, axis=0).max(initial=0) > MEET]
    left = [_piece(face, points, normal, height) for face, points in long]
    found: list[list[CutPiece]] = []
    while left:
        chain = [left.pop(0)]
        grown = True
        while grown:
            grown = False
            for k, piece in enumerate(left):
                for way in (piece, _reversed(piece)):
                    if np.linalg.norm(chain[-1].points[-1] - way.points[0]) < MEET:
                        chain.append(way)
                    elif np.linalg.norm(chain[0].points[0] - way.points[-1]) < MEET:
                        chain.insert(0, way)
                    else:
                        continue
                    left.pop(k)
                    grown = True
                    break
                if grown:
                    break
        found.append(chain)
    return found


def _alike(pieces: list[CutPiece], before: list[CutPiece] | None) -> list[CutPiece]:
    """The chain, run the same way as the one before it."""
    if before is None:
        return pieces
    begin, end = before[0].points[0], before[-1].points[-1]
    here, there = pieces[0].points[0], pieces[-1].points[-1]
    ahead = np.linalg.norm(here - begin) + np.linalg.norm(there - end)
    back = np.linalg.norm(there - begin) + np.linalg.norm(here - end)
    return pieces if ahead <= back else [_reversed(piece) for piece in reversed(pieces)]
