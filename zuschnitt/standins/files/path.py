"""What a machine runs along: chains of lines and arcs, and what a file says of them."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]
FINE = 0.002
"""Arcs are flattened within this, in mm."""


class UnreadableError(Exception):
    """A cut file that this machine does not take; one sentence for its user."""


@dataclass(frozen=True)
class Span:
    """From ``start`` to ``end`` (2,): a line, or an arc that turns by ``sweep`` radians, anticlockwise above 0."""

    start: Array
    end: Array
    sweep: float = 0.0

    @property
    def length(self) -> float:
        chord = float(np.linalg.norm(self.end - self.start))
        if abs(self.sweep) < 1e-9:
            return chord
        return chord * abs(self.sweep) / 2 / abs(np.sin(self.sweep / 2))

    def points(self) -> Array:
        """Points (n, 2) along it, both ends included."""
        if abs(self.sweep) < 1e-9:
            return np.array([self.start, self.end])
        chord = self.end - self.start
        half = self.sweep / 2
        centre = (self.start + self.end) / 2 + np.array([-chord[1], chord[0]]) / 2 / np.tan(half)
        arm = self.start - centre
        radius = float(np.linalg.norm(arm))
        step = 2 * np.arccos(max(1 - FINE / max(radius, 1e-12), 0.5))
        count = max(2, int(np.ceil(abs(self.sweep) / step)) + 1)
        angle = np.linspace(0, self.sweep, count)
        turned = np.stack([np.cos(angle) * arm[0] - np.sin(angle) * arm[1],
                           np.sin(angle) * arm[0] + np.cos(angle) * arm[1]], axis=1)  # fmt: skip
        made = centre + turned
        made[0], made[-1] = self.start, self.end
        return made

    def backwards(self) -> Span:
        return Span(self.end, self.start, -self.sweep)


@dataclass(frozen=True)
class Path:
    """One run: ``spans`` one after the other, on a ``layer``. ``data`` is what the file says of it by name."""

    layer: str
    spans: tuple[Span, ...]
    data: Mapping[str, float] = field(default_factory=dict)

    @property
    def length(self) -> float:
        return sum(span.length for span in self.spans)

    @property
    def gap(self) -> float:
        """How far its end is from its beginning, in mm."""
        return float(np.linalg.norm(self.spans[-1].end - self.spans[0].start))

    @property
    def area(self) -> float:
        """The area inside a closed run, in mm², above 0 where it runs anticlockwise."""
        total = 0.0
        for span in self.spans:
            (x0, y0), (x1, y1) = span.start, span.end
            total += (x0 * y1 - x1 * y0) / 2
            if abs(span.sweep) > 1e-9:
                radius = np.linalg.norm(span.end - span.start) / 2 / abs(np.sin(span.sweep / 2))
                total += radius**2 / 2 * (span.sweep - np.sin(span.sweep))
        return float(total)

    @property
    def points(self) -> Array:
        return np.vstack([self.spans[0].points(), *(span.points()[1:] for span in self.spans[1:])])


def circle(layer: str, centre: Array, radius: float) -> Path:
    arm = np.array([radius, 0.0])
    a, b = centre + arm, centre - arm
    return Path(layer, (Span(a, b, np.pi), Span(b, a, np.pi)))


def chained(pieces: list[Path], near: float, apart: str = "") -> list[Path]:
    """Single spans whose ends lie within ``near`` of each other as runs, in the order of their first pieces.

    Those on the layer ``apart`` stay as they are.
    """
    if not pieces:
        return []
    from scipy.spatial import cKDTree  # slow to import

    ends = cKDTree(np.array([end for piece in pieces for end in (piece.spans[0].start, piece.spans[-1].end)]))
    whole = [piece.layer == apart or (piece.gap <= near and len(piece.spans) > 1) for piece in pieces]
    made: list[Path] = []
    taken: set[int] = set()
    for first, here in enumerate(pieces):
        if first in taken:
            continue
        taken.add(first)
        if whole[first]:
            made.append(here)
            continue
        grown = list(here.spans)
        spans: list[Span] | None = grown
        while spans is not None and np.linalg.norm(spans[-1].end - spans[0].start) > near:
            beside = ends.query_ball_point([spans[-1].end, spans[0].start], near * (1 + 1e-9))
            spans = None
            for k in sorted({row // 2 for rows in beside for row in rows} - taken):
                if not whole[k] and pieces[k].layer == here.layer:
                    spans = _fitting(grown, pieces[k], near)
                if spans is not None:
                    taken.add(k)
                    grown = spans
                    break
        made.append(Path(here.layer, tuple(grown), here.data))
    return made


def _fitting(spans: list[Span], other: Path, near: float) -> list[Span] | None:
    """A run with another one put to its end or its beginning, turned round where need be."""
    ends = (other.spans[0].start, other.spans[-1].end)
    turned = [span.backwards() for span in reversed(other.spans)]
    if np.linalg.norm(ends[0] - spans[-1].end) <= near:
        return [*spans, *other.spans]
    if np.linalg.norm(ends[1] - spans[-1].end) <= near:
        return [*spans, *turned]
    if np.linalg.norm(ends[1] - spans[0].start) <= near:
        return [*other.spans, *spans]
    if np.linalg.norm(ends[0] - spans[0].start) <= near:
        return [*turned, *spans]
    return None
