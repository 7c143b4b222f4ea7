"""Glue tabs on the edges that are to be joined: on one side of each, shortened where they would overlap."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from itertools import pairwise

import numpy as np
import shapely

from ..geometry.curves import Array
from ..plane.contour import Contour
from ..plane.region import Region
from ..record import record
from .outline import Side, Walk, contour

SHARES = (1.0, 0.75, 0.5, 0.3)
"""Parts of the width that are tried, until a tab has room."""
SHRUNK = 1e-4
"""What is laid counts as smaller all round by so many mm: tabs may touch it."""
TAKEN = 1e-6
"""Where a tab lies on so many mm² of what is laid, that is rounding."""
STRAIGHT = 0.01
"""A side that keeps to its chord within this part of its length gets one tab, a curved one a row of teeth."""


@record
class Tabs:
    """``width`` in mm (0 for none), ``angle`` of the ends in radians.

    ``owner`` says for each edge that is to be joined which face has the tab.
    """

    width: float
    angle: float
    owner: Mapping[int, int]


@dataclass
class Tabbed:
    """A chain of the outline with its tabs: its ``walks``, the ``folds`` of the tabs, how many were too ``crowded``."""

    walks: list[Walk] = field(default_factory=list)
    folds: list[Contour] = field(default_factory=list)
    crowded: int = 0


def tabbed(chains: Sequence[Sequence[Side]], tabs: Tabs) -> list[Tabbed]:
    """The chains of the outline with the tabs for which there is room."""
    room = _Room([shapely.buffer(Region((ring,)).shape, -SHRUNK) for ring in _rings(chains)])
    done: set[int] = set()
    outline = []
    for chain in chains:
        made = Tabbed()
        for side in chain:
            if side.edge == 0 or side.edge in done or tabs.owner.get(side.edge) != side.face:
                made.walks.extend(side.walks)
                continue
            points = side.points()
            tab = _with_room(points, tabs, room)
            if tab is None:
                made.crowded += 1
                made.walks.extend(side.walks)
                continue
            done.add(side.edge)
            room.add(shapely.buffer(_between(tab), -SHRUNK))
            made.walks.extend(_line(a, b) for a, b in pairwise(tab))
            made.folds.append(contour(side.walks, "BEND_DOWN", f"tab {side.label}", closed=False))
        outline.append(made)
    return outline


def _rings(chains: Sequence[Sequence[Side]]) -> list[Array]:
    rings = [np.vstack([side.points()[:-1] for side in chain]) for chain in chains]
    return [ring for ring in rings if len(ring) > 2]


def _line(start: Array, end: Array) -> Walk:
    return (lambda t: start + np.multiply.outer(np.asarray(t, float), end - start)), 0.0, 1.0


class _Room:
    """What is taken already, asked piece by piece near a place."""

    def __init__(self, shapes: Sequence[shapely.Geometry]) -> None:
        # cut into small parts, so that only what is near is looked at
        self.shapes = [part for shape in shapes for part in _divided(shape)]
        self.tree = shapely.STRtree(self.shapes)
        self.added: list[shapely.Geometry] = []

    def add(self, shape: shapely.Geometry) -> None:
        self.added.append(shape)

    def taken_by(self, shape: shapely.Geometry, but: shapely.Geometry) -> float:
        """How many mm² of a shape are taken, apart from what lies in ``but``."""
        near = [self.shapes[i] for i in self.tree.query(shape, predicate="intersects")]
        if self.added:
            added = np.array(self.added)
            near.extend(added[shapely.intersects(added, shape)])
        if not near:
            return 0.0
        return float(shapely.union_all(shapely.difference(shapely.intersection(near, shape), but)).area)


def _divided(shape: shapely.Geometry, most: int = 60) -> list[shapely.Geometry]:
    """A shape in parts of few points each, by halving its box."""
    if shape.is_empty or shapely.get_num_coordinates(shape) <= most:
        return [] if shape.is_empty else [shape]
    left, bottom, right, top = shape.bounds
    across, up = (left + right) / 2, (bottom + top) / 2
    halves = (
        [(left, bottom, across, top), (across, bottom, right, top)]
        if right - left > top - bottom
        else [(left, bottom, right, up), (left, up, right, top)]
    )
    return [part for half in halves for part in _divided(shapely.intersection(shape, shapely.box(*half)), most)]


def _with_room(points: Array, tabs: Tabs, room: _Room) -> Array | None:
    """The widest tab (n, 2) along a side (m, 2) that lies clear of what is laid; None where there is none."""
    for share in SHARES:
        tab = _teeth(points, tabs.width * share, tabs.angle)
        shape = _between(tab)
        # a tooth's foot is the chord of a curved side, which may lie within the blank
        foot = shapely.LineString(points).buffer(_sag(tab[::3], points) + 0.05)
        if not shape.is_empty and room.taken_by(shape, foot) < TAKEN:
            return tab
    return None


def _between(tab: Array) -> shapely.Geometry:
    """What the teeth add to the side, or to their chords; empty where teeth would lie upon each other."""
    teeth = [shapely.Polygon(tab[k : k + 4]) for k in range(0, len(tab) - 1, 3)]
    whole = shapely.union_all(teeth)
    return whole if whole.area > 0.9999 * sum(tooth.area for tooth in teeth) else shapely.Polygon()


def _sag(feet: Array, points: Array) -> float:
    """How far a side is from the chords between the feet of the teeth."""
    return float(shapely.distance(shapely.LineString(feet), shapely.points(points)).max())


def _teeth(points: Array, width: float, angle: float) -> Array:
    """The tab's outline from the start of the side to its end: trapezia to the right of the walk."""
    lengths = np.r_[0, np.cumsum(np.linalg.norm(np.diff(points, axis=0), axis=1))]
    chord = points[-1] - points[0]
    span = float(np.linalg.norm(chord))
    count = 1
    if span > 0:
        normal = np.array([chord[1], -chord[0]]) / span
        if np.abs((points - points[0]) @ normal).max() > STRAIGHT * span or lengths[-1] > 1.001 * span:
            count = max(2, int(lengths[-1] / max(2.5 * width, 2.0)))
    else:
        count = max(3, int(lengths[-1] / max(2.5 * width, 2.0)))
    at = np.linspace(0, lengths[-1], count + 1)
    base = np.stack([np.interp(at, lengths, points[:, k]) for k in (0, 1)], axis=1)
    result = [base[:1]]
    for a, b in pairwise(base):
        along = b - a
        size = float(np.linalg.norm(along))
        along = along / max(size, 1e-12)
        out = np.array([along[1], -along[0]])
        height = min(width, 0.42 * size * np.tan(angle))
        inset = height / np.tan(angle)
        result.append(np.array([a + inset * along + height * out, b - inset * along + height * out, b]))
    return np.vstack(result)
