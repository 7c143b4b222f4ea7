"""Contours in the plane: lines and arcs, as a cutter's controller knows them."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import replace

import numpy as np

from ..geometry.curves import Array
from ..record import record

LAYERS = {
    "CUT": 0x1D1D1B,
    "CUT_OPEN": 0x1D1D1B,
    "LEAD": 0xB3261E,
    "MARK": 0x9A5B00,
    "BEND_UP": 0x0F5C6E,
    "BEND_DOWN": 0x4B8594,
    "RELIEF": 0x6D3F8C,
    "REFERENCE": 0x8A8577,
    "TEXT": 0x5C5142,
}
"""The layers of a drawing, each with the program's own colour as 0xRRGGBB.

CUT_OPEN is cut between bridges, LEAD leads into a cut and out of it.
"""


@record
class BendNote:
    """What a press must know of a bend line: ``angle`` in degrees, inside ``radius`` and ``allowance`` in mm."""

    angle: float
    radius: float
    allowance: float


@record
class Contour:
    """``points`` (n, 2) in mm; ``bulges`` (n,) of the span after each point; a bend line has a ``bend``.

    ``sorts`` are the names by which the drawing it came from knows it: of layers and groups, and its colour, such as
    "#aa0000", all in small letters.

    A bulge is the tangent of a quarter of the arc's sweep, positive anticlockwise, 0 for a line
    (the convention of DXF polylines). The last bulge counts only where the contour is closed.
    """

    points: Array
    bulges: Array
    closed: bool
    layer: str = "CUT"
    name: str = ""
    bend: BendNote | None = None
    sorts: tuple[str, ...] = ()

    @staticmethod
    def polyline(points, closed=False, layer="CUT", name="") -> Contour:
        points = np.asarray(points, float)
        return Contour(points, np.zeros(len(points)), closed, layer, name)

    @staticmethod
    def circle(centre, radius: float, layer="CUT", name="") -> Contour:
        x, y = centre
        points = np.array([[x + radius, y], [x - radius, y]])
        return Contour(points, np.ones(2), True, layer, name)

    @property
    def spans(self) -> tuple[Array, Array, Array]:
        """Start points (s, 2), end points (s, 2) and bulges (s,) of the spans."""
        if self.closed:
            return self.points, np.concatenate([self.points[1:], self.points[:1]]), self.bulges
        return self.points[:-1], self.points[1:], self.bulges[:-1]

    @property
    def length(self) -> float:
        return total_length([self])

    @property
    def area(self) -> float:
        """Signed area of a closed contour: positive where it runs anticlockwise."""
        start, end, bulge = self.spans
        polygon = (start[:, 0] * end[:, 1] - end[:, 0] * start[:, 1]).sum() / 2
        chord = np.linalg.norm(end - start, axis=1)
        sweep = 4 * np.arctan(np.abs(bulge))
        with np.errstate(divide="ignore", invalid="ignore"):
            radius = np.where(sweep > 1e-12, chord / 2 / np.sin(sweep / 2), 0)
        segment = np.sign(bulge) * radius**2 / 2 * (sweep - np.sin(sweep))
        return float(polygon + segment.sum())

    def flattened(self, tolerance: float) -> Array:
        """Points (m, 2) of a polyline within ``tolerance``; closed ones end where they begin."""
        return flattened([self], tolerance)[0]

    def moved(self, scale: float = 1.0, turn: float = 0.0, at=(0.0, 0.0), mirror: bool = False) -> Contour:
        """Scaled, turned by ``turn`` radians, shifted, in that order; ``mirror`` first turns y over."""
        points, bulges = self.points, self.bulges
        if mirror:
            points, bulges = points * [1, -1], -bulges
        cosine, sine = np.cos(turn), np.sin(turn)
        turned = points @ np.array([[cosine, sine], [-sine, cosine]]) * scale
        bend = self.bend and replace(self.bend, radius=self.bend.radius * scale, allowance=self.bend.allowance * scale)
        return replace(self, points=turned + np.asarray(at, float), bulges=bulges, bend=bend)

    @property
    def bounds(self) -> tuple[Array, Array]:
        """Lowest and highest corner (2,) of its bounding box, arcs at their full width."""
        start, end, bulge = self.spans
        arcs = np.nonzero(bulge)[0]
        points = self.points
        if len(arcs):
            points = np.vstack([points, _arc_extremes(start[arcs], end[arcs], bulge[arcs])])
        return points.min(axis=0), points.max(axis=0)

    def reversed(self) -> Contour:
        """Walked the other way round."""
        bulges = -np.roll(self.bulges[::-1], -1)
        return replace(self, points=self.points[::-1], bulges=bulges)


def total_length(contours: Iterable[Contour]) -> float:
    """The length of all contours together, in mm."""
    spans = [contour.spans for contour in contours]
    if not spans:
        return 0.0
    start, end, bulge = (np.concatenate(each) for each in zip(*spans, strict=True))
    chord = np.linalg.norm(end - start, axis=1)
    sweep = 4 * np.arctan(np.abs(bulge))
    arc = np.where(sweep > 1e-9, sweep / 2 / np.sin(np.clip(sweep / 2, 1e-9, None)), 1)
    return float((chord * arc).sum())


def arc_centre(start: Array, end: Array, bulge: float) -> tuple[Array, float, float, float]:
    """Centre (2,), radius, start angle and signed sweep of an arc span."""
    chord = end - start
    sweep = 4 * np.arctan(bulge)
    middle = (start + end) / 2
    normal = np.array([-chord[1], chord[0]])
    centre = middle + normal * (1 - bulge**2) / (4 * bulge)
    radius = float(np.linalg.norm(start - centre))
    return centre, radius, float(np.arctan2(*(start - centre)[::-1])), float(sweep)


def flattened(contours: Sequence[Contour], tolerance: float) -> list[Array]:
    """Points (m, 2) of a polyline within ``tolerance`` of each contour; closed ones end where they begin."""
    if not contours:
        return []
    spans = [contour.spans for contour in contours]
    start, end, bulge = (np.concatenate([each[k] for each in spans]).astype(float) for k in range(3))
    count = _steps(start, end, bulge, tolerance)
    span = np.repeat(np.arange(len(count)), count)
    within = np.arange(len(span)) - np.repeat(np.cumsum(count) - count, count)
    points = start[span]
    curved = bulge[span] != 0
    span, within = span[curved], within[curved]
    turned = 2 * np.arctan(bulge[span]) * within / count[span]
    points[curved] = on_arc(start[span], end[span], bulge[span], turned)
    made, first, done = [], 0, np.r_[0, np.cumsum(count)]
    for contour, each in zip(contours, spans, strict=True):
        last = first + len(each[2])
        whole = np.vstack([points[done[first] : done[last]], end[last - 1]]) if last > first else contour.points
        made.append(whole)
        first = last
    return made


def _steps(start: Array, end: Array, bulge: Array, tolerance: float) -> np.ndarray:
    """In how many chords (s,) spans are taken, so that none is off its arc by more than ``tolerance``."""
    count = np.ones(len(bulge), int)
    curved = np.nonzero(bulge)[0]
    bulge = bulge[curved]
    radius = np.linalg.norm(end[curved] - start[curved], axis=1) * (1 + bulge**2) / (4 * np.abs(bulge))
    step = 4 * np.arcsin(np.minimum(np.sqrt(tolerance / np.maximum(2 * radius, 1e-300)), 0.5))
    count[curved] = np.where(radius > 0, np.maximum(np.ceil(4 * np.abs(np.arctan(bulge)) / step), 1), 1)
    return count


def on_arc(start: Array, end: Array, bulge: Array, turned: Array) -> Array:
    """Points (n, 2) of arcs from ``start`` to ``end`` (2,) or (n, 2) that end chords turned by ``turned`` (n,).

    An arc turns by twice as much up to there. They are exact also where the circle is very large.
    """
    chord = end - start
    reach = (1 + bulge**2) / (2 * bulge) * np.sin(turned)
    way = turned - 2 * np.arctan(bulge)
    square = np.stack([-chord[..., 1], chord[..., 0]], axis=-1)
    return np.asarray(start + (reach * np.cos(way))[:, None] * chord + (reach * np.sin(way))[:, None] * square)


def _arc_extremes(start: Array, end: Array, bulge: Array) -> Array:
    """The points (m, 2) at which arcs reach furthest to the right, up, left, down; not those beyond their ends."""
    chord = end - start
    normal = np.stack([-chord[:, 1], chord[:, 0]], axis=1)
    centre = (start + end) / 2 + normal * ((1 - bulge**2) / (4 * bulge))[:, None]
    radius = np.linalg.norm(start - centre, axis=1)
    angle = np.arctan2(start[:, 1] - centre[:, 1], start[:, 0] - centre[:, 0])
    sweep = 4 * np.arctan(bulge)
    quarters = np.arange(4) * np.pi / 2
    turned = np.mod((quarters - angle[:, None]) * np.sign(sweep)[:, None], 2 * np.pi)
    arc, quarter = np.nonzero(turned < np.abs(sweep)[:, None])
    away = np.stack([np.cos(quarters[quarter]), np.sin(quarters[quarter])], axis=1)
    return centre[arc] + radius[arc, None] * away


def cut_out(contours: Iterable[Contour]) -> list[Contour]:
    """Those that bound what is cut out: closed ones on the layer for cutting."""
    return [contour for contour in contours if contour.closed and contour.layer == "CUT"]


def bounds(contours) -> tuple[float, float, float, float]:
    """xmin, ymin, xmax, ymax of several contours."""
    lows, highs = zip(*(contour.bounds for contour in contours), strict=True)
    return (*np.min(lows, axis=0).tolist(), *np.max(highs, axis=0).tolist())
