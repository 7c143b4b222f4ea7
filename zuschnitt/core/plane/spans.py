"""Lines and arcs of the plane: points on them, how far others are, where they meet."""

from __future__ import annotations

from collections.abc import Sequence
from functools import cached_property

import numpy as np
import shapely

from ..geometry.curves import Array
from ..lazy import Lazy
from ..record import record
from .contour import Contour

SAME = 1e-7
"""Points nearer to each other than this, in mm, are one."""
STRAIGHT = 1e-12
"""A smaller bulge is a line."""
ON = 1e-9
"""A place on a span may lie this part of it beyond its ends."""


@record
class Spans(Lazy):
    """Spans from ``start`` (n, 2) to ``end`` (n, 2) with ``bulge`` (n,), 0 for a line; ``owner`` (n,) is whose."""

    start: Array
    end: Array
    bulge: Array
    owner: np.ndarray

    @staticmethod
    def of(contours: Sequence[Contour]) -> Spans:
        """The spans of contours, in order; their owners are the contours' places."""
        parts = [contour.spans for contour in contours]
        if not parts:
            return Spans(np.zeros((0, 2)), np.zeros((0, 2)), np.zeros(0), np.zeros(0, int))
        owner = np.repeat(np.arange(len(parts)), [len(part[2]) for part in parts])
        start, end, bulge = (np.concatenate([part[k] for part in parts]) for k in range(3))
        there = (np.linalg.norm(end - start, axis=1) > SAME) | (np.abs(bulge) > STRAIGHT)
        return Spans(start[there], end[there], np.where(np.abs(bulge) > STRAIGHT, bulge, 0.0)[there], owner[there])

    def __len__(self) -> int:
        return len(self.bulge)

    def at(self, which: np.ndarray) -> Spans:
        """Some of them."""
        return Spans(self.start[which], self.end[which], self.bulge[which], self.owner[which])

    def turned_round(self) -> Spans:
        """Each walked the other way."""
        return Spans(self.end, self.start, -self.bulge, self.owner)

    @cached_property
    def curved(self) -> np.ndarray:
        return self.bulge != 0

    @cached_property
    def centre(self) -> Array:
        """Centres of arcs (n, 2); of lines nothing that counts."""
        chord, bulge = self.end - self.start, np.where(self.curved, self.bulge, 1.0)
        normal = np.stack([-chord[:, 1], chord[:, 0]], axis=1)
        return (self.start + self.end) / 2 + normal * ((1 - bulge**2) / (4 * bulge))[:, None]

    @cached_property
    def radius(self) -> Array:
        return np.linalg.norm(self.start - self.centre, axis=1)

    @cached_property
    def sweep(self) -> Array:
        """Signed angles that arcs turn by."""
        return 4 * np.arctan(self.bulge)

    @cached_property
    def begin(self) -> Array:
        """Angles at which arcs begin, seen from their centres."""
        away = self.start - self.centre
        return np.arctan2(away[:, 1], away[:, 0])

    @cached_property
    def length(self) -> Array:
        chord = np.linalg.norm(self.end - self.start, axis=1)
        return np.where(self.curved, self.radius * np.abs(self.sweep), chord)

    def evaluate(self, t: Array, which: np.ndarray | slice = slice(None)) -> Array:
        """Points (m, 2) at ``t`` (m,) from 0 to 1 along the spans ``which``."""
        start, end, curved = self.start[which], self.end[which], self.curved[which]
        line = start + t[:, None] * (end - start)
        angle = self.begin[which] + t * self.sweep[which]
        arc = self.centre[which] + self.radius[which][:, None] * np.stack([np.cos(angle), np.sin(angle)], axis=1)
        return np.where(curved[:, None], arc, line)

    def direction(self, t: Array, which: np.ndarray | slice = slice(None)) -> Array:
        """Unit directions (m, 2) there."""
        chord = self.end[which] - self.start[which]
        line = chord / np.maximum(np.linalg.norm(chord, axis=1), 1e-300)[:, None]
        angle = self.begin[which] + t * self.sweep[which]
        arc = np.stack([-np.sin(angle), np.cos(angle)], axis=1) * np.sign(self.sweep[which])[:, None]
        return np.where(self.curved[which][:, None], arc, line)

    def place(self, points: Array, which: np.ndarray | slice = slice(None)) -> Array:
        """Where along the spans ``which`` the nearest places of their lines and circles are, for points (m, 2).

        Within the span from 0 to 1; on an arc's circle the values nearest to that.
        """
        start, chord = self.start[which], self.end[which] - self.start[which]
        length2 = np.maximum((chord**2).sum(axis=1), 1e-300)
        line = ((points - start) * chord).sum(axis=1) / length2
        away = points - self.centre[which]
        sweep = np.where(self.curved[which], self.sweep[which], 1.0)
        turned = (np.arctan2(away[:, 1], away[:, 0]) - self.begin[which]) * np.sign(sweep)
        whole = 2 * np.pi / np.abs(sweep)
        arc = np.mod(turned, 2 * np.pi) / np.abs(sweep)
        arc = np.where(arc - 1 > whole - arc, arc - whole, arc)  # beyond the end, or before the start: what is nearer
        return np.where(self.curved[which], arc, line)

    def distance(self, points: Array, which: np.ndarray | slice = slice(None)) -> Array:
        """How far points (m, 2) are from the spans ``which``, one to one, in mm."""
        foot = self.evaluate(np.clip(self.place(points, which), 0, 1), which)
        return np.linalg.norm(points - foot, axis=1)

    @cached_property
    def turns(self) -> Array:
        """By how much each turns to the left at its start (n,), from the end of the one before, round a closed run."""
        count = len(self)
        leave, before = self.direction(np.zeros(count)), np.roll(self.direction(np.ones(count)), 1, axis=0)
        cross = before[:, 0] * leave[:, 1] - before[:, 1] * leave[:, 0]
        return np.arctan2(cross, (before * leave).sum(axis=1))

    @staticmethod
    def together(parts: Sequence[Spans]) -> Spans:
        """All spans of several, one after the other."""
        start, end, bulge, owner = (
            np.concatenate([getattr(part, name) for part in parts]) for name in ("start", "end", "bulge", "owner")
        )
        return Spans(start, end, bulge, owner)

    @cached_property
    def boxes(self) -> Array:
        """Boxes (n, 4) round the spans: left, bottom, right, top."""
        low, high = np.minimum(self.start, self.end), np.maximum(self.start, self.end)
        for quarter in range(4):
            angle = quarter * np.pi / 2
            tip = self.centre + self.radius[:, None] * np.array([np.cos(angle), np.sin(angle)])
            on = self.curved & _within(self.place(tip))
            low = np.where(on[:, None], np.minimum(low, tip), low)
            high = np.where(on[:, None], np.maximum(high, tip), high)
        return np.hstack([low, high])

    @cached_property
    def tree(self) -> shapely.STRtree:
        low, high = self.boxes[:, :2] - SAME, self.boxes[:, 2:] + SAME
        return shapely.STRtree(shapely.box(low[:, 0], low[:, 1], high[:, 0], high[:, 1]))

    def contains(self, points: Array) -> np.ndarray:
        """Whether points (m, 2) lie inside of what closed spans bound, by even and odd.

        The polygon of the chords, and for each arc what lies between it and its chord. A point on a chord counts as on
        the left of it for both, so that the two agree.
        """
        found = np.zeros(len(points), bool)
        first = (self.start[:, 1] < self.end[:, 1]) | (
            (self.start[:, 1] == self.end[:, 1]) & (self.start[:, 0] <= self.end[:, 0])
        )
        low, high = np.where(first[:, None], self.start, self.end), np.where(first[:, None], self.end, self.start)
        right_is_arc = (self.bulge > 0) == first
        for begin in range(0, len(points), 1 + 4_000_000 // max(len(self), 1)):
            part = slice(begin, begin + 1 + 4_000_000 // max(len(self), 1))
            x, y = points[part, 0, None], points[part, 1, None]
            side = (high[:, 0] - low[:, 0]) * (y - low[:, 1]) - (high[:, 1] - low[:, 1]) * (x - low[:, 0])
            left = side >= 0
            crossed = (low[:, 1] <= y) & (y < high[:, 1]) & left
            inside = np.hypot(x - self.centre[:, 0], y - self.centre[:, 1]) < self.radius
            beyond = self.curved & inside & (left != right_is_arc)
            found[part] = (crossed.sum(axis=1) + beyond.sum(axis=1)) % 2 == 1
        return found

    def meetings(self, other: Spans | None = None) -> tuple[np.ndarray, np.ndarray, Array, Array]:
        """Where these meet ``other`` ones, or each other: the two spans (m,) of each, and the places (m,) on them.

        Where two run along each other, it is the ends of the one on the other.
        """
        there = self if other is None else other
        if not len(self) or not len(there):
            none = np.zeros(0, int)
            return none, none, np.zeros(0), np.zeros(0)
        i, j = there.tree.query(self.tree.geometries)
        if other is None:
            i, j = i[i < j], j[i < j]
        points, pair = [], []
        for found, which in (
            (_crossing_lines, ~self.curved[i] & ~there.curved[j]),
            (_line_and_circle, ~self.curved[i] & there.curved[j]),
            (_circle_and_line, self.curved[i] & ~there.curved[j]),
            (_crossing_circles, self.curved[i] & there.curved[j]),
        ):
            numbers = np.nonzero(which)[0]
            for at in found(self.at(i[numbers]), there.at(j[numbers])):
                points.append(at)
                pair.append(numbers)
        every = np.arange(len(i))
        for ends, spans in ((self.start, i), (self.end, i), (there.start, j), (there.end, j)):
            points.append(ends[spans])
            pair.append(every)
        at, number = np.vstack(points), np.concatenate(pair)
        finite = np.isfinite(at).all(axis=1)
        at, number = at[finite], number[finite]
        i, j = i[number], j[number]
        s, t = self.place(at, i), there.place(at, j)
        near = (self.distance(at, i) <= SAME) & (there.distance(at, j) <= SAME)
        return i[near], j[near], np.clip(s[near], 0, 1), np.clip(t[near], 0, 1)

    def split(self, places: Sequence[Array]) -> Spans:
        """The spans divided at ``places``, an array of values from 0 to 1 for each."""
        rows = []
        for number, found in enumerate(places):
            least = SAME / max(float(self.length[number]), SAME)
            inner = np.sort(found[(found > least) & (found < 1 - least)])
            kept = inner[np.concatenate([[True], np.diff(inner) > least])] if len(inner) else inner
            rows.append(np.concatenate([[0.0], kept, [1.0]]))
        which = np.repeat(np.arange(len(rows)), [len(row) - 1 for row in rows])
        low = np.concatenate([row[:-1] for row in rows]) if rows else np.zeros(0)
        high = np.concatenate([row[1:] for row in rows]) if rows else np.zeros(0)
        start, end = self.evaluate(low, which), self.evaluate(high, which)
        start = np.where((low == 0)[:, None], self.start[which], start)
        end = np.where((high == 1)[:, None], self.end[which], end)
        bulge = np.where(self.curved[which], np.tan(self.sweep[which] * (high - low) / 4), 0.0)
        return Spans(start, end, bulge, self.owner[which])


def _within(t: Array) -> np.ndarray:
    return (t >= -ON) & (t <= 1 + ON)


def _crossing_lines(a: Spans, b: Spans) -> list[Array]:
    u, v, w = a.end - a.start, b.end - b.start, b.start - a.start
    cross = u[:, 0] * v[:, 1] - u[:, 1] * v[:, 0]
    with np.errstate(divide="ignore", invalid="ignore"):
        s = (w[:, 0] * v[:, 1] - w[:, 1] * v[:, 0]) / cross
        return [a.start + s[:, None] * u]


def _line_and_circle(line: Spans, arc: Spans) -> list[Array]:
    u = line.end - line.start
    unit = u / np.maximum(np.linalg.norm(u, axis=1), 1e-300)[:, None]
    away = arc.centre - line.start
    foot = line.start + (away * unit).sum(axis=1)[:, None] * unit
    height2 = ((arc.centre - foot) ** 2).sum(axis=1)
    half = _half_chord(arc.radius, np.sqrt(height2))
    return [foot + half[:, None] * unit, foot - half[:, None] * unit]


def _circle_and_line(arc: Spans, line: Spans) -> list[Array]:
    return _line_and_circle(line, arc)


def _half_chord(radius: Array, height: Array) -> Array:
    """Half the chord at a height in a circle; 0 where it touches from outside within the tolerance, else NaN."""
    inside = radius - height
    with np.errstate(invalid="ignore"):
        half = np.sqrt((radius + height) * inside)
    return np.where(np.abs(inside) <= SAME, np.where(inside > 0, half, 0.0), half)


def _crossing_circles(a: Spans, b: Spans) -> list[Array]:
    between = b.centre - a.centre
    gap = np.linalg.norm(between, axis=1)
    with np.errstate(divide="ignore", invalid="ignore"):
        unit = between / gap[:, None]
        along = (gap**2 + a.radius**2 - b.radius**2) / (2 * gap)
        half = _half_chord(a.radius, np.abs(along))
        side = np.stack([-unit[:, 1], unit[:, 0]], axis=1)
        foot = a.centre + along[:, None] * unit
        return [foot + half[:, None] * side, foot - half[:, None] * side]
