"""From walks along developed edges to contours of lines, arcs and fine polylines."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from ..form.form import WAIST
from ..geometry.curves import Array, converged, length, parameters_within
from ..plane.contour import Contour
from ..plane.region import signed_area
from ..record import record
from ..tolerances import OUTLINE

Walk = tuple[Callable[[Array], Array], float, float]
"""A curve on the blank by its parameter, and the parameters where it starts and ends."""


class Straight:
    """The curve of a walk that is straight, from ``start`` (2,) at parameter ``first`` to ``end`` (2,) at ``last``."""

    def __init__(self, start: Array, end: Array, first: float, last: float) -> None:
        self.start, self.end = start, end
        self._first, self._last = first, last

    def __call__(self, t: Array) -> Array:
        share = (np.asarray(t, float) - self._first) / (self._last - self._first)
        return self.start + share[..., None] * (self.end - self.start)


RELIEF = -1_000_000_000
ROUND = -500_000_000


@record
class Side:
    """A part of the outline along one edge of the form, walked with the material on its left.

    ``edge`` is the edge's number, or minus the face's number where the face was cut open, or ``ROUND`` less that where
    it was cut round its waist, or ``RELIEF`` less the number of a relief, or 0.
    """

    face: int
    edge: int
    walks: list[Walk]

    @property
    def label(self) -> str:
        """What both sides of a join have in common."""
        return side_label(self.edge)

    def points(self) -> Array:
        """A polyline (n, 2) along it."""
        parts = [_polyline(curve, a, b, 0.05) for curve, a, b in self.walks]
        return np.vstack([*(part[:-1] for part in parts), parts[-1][-1:]])


def _polyline(curve, start: float, end: float, tolerance: float) -> Array:
    if isinstance(curve, Straight):
        return np.array([curve.start, curve.end])
    return curve(parameters_within(curve, start, end, tolerance))


def seam_name(face: int, kind: int) -> int:
    """How sides name the seam of a kind (``CUT`` or ``WAIST``) that was put into a face."""
    return ROUND - face if kind == WAIST else -face


def side_label(edge: int) -> str:
    if edge <= RELIEF:
        return f"r{RELIEF - edge + 1}"
    if edge <= ROUND:
        return f"{ROUND - edge}w"
    text = "" if edge == 0 else str(edge) if edge > 0 else f"{-edge}s"
    return f"{text}." if text and set(text) <= set("0689") else text  # as 6 and 9 can be read either way up


SHAPE = 1e-8
"""A walk is a line or an arc where it keeps to it within this part of its size."""
PROBED = np.linspace(0, 1, 34)
PROBED[1:-1] += 0.4 / 33 * np.sin(np.arange(1, 33) ** 2)
"""Where a walk is looked at: unevenly, since a wave may be straight at even places."""
ROUNDING = 1e-9
"""What rounding alone may put a point off by, in mm."""


def contour(walks: list[Walk], layer: str = "CUT", name: str = "", closed: bool = True) -> Contour:
    """One contour along ``walks``: lines and circular arcs stay such, all else is flattened."""
    points: list[Array] = []
    bulges: list[float] = []
    last = None
    for walk in walks:
        vertices, turned, last = _spans(*walk)
        points.append(vertices)
        bulges.extend(turned)
    if not closed and last is not None:
        points.append(last[None])
        bulges.append(0.0)
    stacked = np.vstack(points)
    keep = _distinct(stacked, closed)
    return Contour(stacked[keep], np.array(bulges)[keep], closed, layer, name)


def _distinct(points: Array, closed: bool) -> Array:
    """Which points to keep so that none is followed by itself."""
    following = np.roll(points, -1, axis=0)
    keep = np.linalg.norm(following - points, axis=1) > 1e-9
    if not closed:
        keep[-1] = True
    return keep


def _spans(curve, start: float, end: float) -> tuple[Array, list[float], Array]:
    """Vertices without the last, the bulge after each, and the last point."""
    if isinstance(curve, Straight):
        return curve.start[None], [0.0], curve.end
    probe = curve(start + (end - start) * PROBED)
    size = np.abs(probe - probe.mean(axis=0)).max()
    last = probe[-1]
    if size < 1e-9:
        return probe[:1], [0.0], last
    chord = probe[-1] - probe[0]
    if np.linalg.norm(chord) > 1e-6 * size:
        normal = np.array([-chord[1], chord[0]]) / np.linalg.norm(chord)
        if np.abs((probe - probe[0]) @ normal).max() <= max(SHAPE * size, ROUNDING):
            return probe[:1], [0.0], last
    circle = _circle_through(probe)
    if circle is not None:
        centre, radius = circle
        if np.abs(np.linalg.norm(probe - centre, axis=1) - radius).max() <= max(SHAPE * size, ROUNDING):
            angles = np.unwrap(np.arctan2(*(probe - centre).T[::-1]))
            sweep = angles[-1] - angles[0]
            count = int(np.ceil(abs(sweep) / (np.pi * (1 + 1e-9))))
            at = angles[0] + sweep * np.arange(count) / count
            vertices = centre + radius * np.stack([np.cos(at), np.sin(at)], axis=1)
            vertices[0] = probe[0]
            return vertices, [float(np.tan(sweep / count / 4))] * count, last
    t = parameters_within(curve, start, end, OUTLINE)
    return curve(t[:-1]), [0.0] * (len(t) - 1), last


def _circle_through(points: Array) -> tuple[Array, float] | None:
    a, b, c = points[0], points[len(points) // 3], points[2 * len(points) // 3]
    b, c = b - a, c - a  # from one of them, so that nothing cancels where the circle is small and far away
    matrix = 2 * np.array([b, c])
    if abs(np.linalg.det(matrix)) < 1e-12 * np.abs(matrix).max() ** 2:
        return None
    centre = np.linalg.solve(matrix, np.array([b @ b, c @ c]))
    return a + centre, float(np.linalg.norm(centre))


def total_length(walks: list[Walk]) -> float:
    straight = [curve for curve, _, _ in walks if isinstance(curve, Straight)]
    return sum(float(np.hypot(*(curve.end - curve.start))) for curve in straight) + sum(
        length(*walk) for walk in walks if not isinstance(walk[0], Straight)
    )


def enclosed_area(walks: list[Walk]) -> float:
    """Signed area within a closed chain of walks, by Richardson extrapolation of polygons."""

    corners = [curve.start for curve, _, _ in walks if isinstance(curve, Straight)]
    if len(corners) == len(walks):
        return signed_area(np.array(corners))

    def points_of(spans: int) -> Array:
        # one more dimension, so that every walk is thinned for itself
        return np.stack([curve(np.linspace(a, b, spans + 1)) for curve, a, b in walks], axis=1)

    def polygon(points: Array) -> float:
        chain = points.transpose(1, 0, 2).reshape(-1, 2)
        chain = chain - chain.mean(axis=0)
        following = np.roll(chain, -1, axis=0)
        return float((chain[:, 0] * following[:, 1] - following[:, 0] * chain[:, 1]).sum() / 2)

    return converged(points_of, polygon)
