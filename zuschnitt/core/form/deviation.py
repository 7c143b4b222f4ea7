"""Two things held against each other: how far the points of one lie from the other, and where most."""

from __future__ import annotations

from collections.abc import Callable, Sequence

import numpy as np

from ..errors import Refused
from ..geometry.curves import Array
from ..record import record
from .form import Form
from .locator import Locator

SHARE = 1 / 2000
"""Curves are looked at places no further apart than this part of their extent."""
FEWEST = 200
HAIRS = 240
"""So many points are kept with their nearest ones, to be seen."""
NEAREST = 8
"""Of so many spans whose middles are nearest the nearest one is taken, of more where that is not certain."""


@record
class Held:
    """The largest and the mean distance in mm, both ways, and the point (3,) of the one that is furthest off.

    ``hairs`` (n, 2, 3) are some of the points, the furthest among them, with the nearest ones of the other thing.
    """

    largest: float
    mean: float
    worst: Array
    there: float
    back: float
    hairs: Array

    @property
    def size(self) -> float:
        """The diagonal of the box round both, in mm."""
        return float(np.linalg.norm(np.ptp(self.hairs.reshape(-1, 3), axis=0)))


def held_against(one: Form | Sequence[Array], other: Form | Sequence[Array]) -> Held:
    """Forms, or sets of curves (n, 3), held against each other. Raises Refused where one has nothing in it."""
    first, second = samples(one), samples(other)
    return held(first, feet_on(other)(first), second, feet_on(one)(second))


def held(first: Array, there: Array, second: Array, back: Array) -> Held:
    """Points (n, 3) of one thing with the nearest ones ``there`` on the other, and points (m, 3) of that with those
    ``back`` on the first."""
    pairs = np.stack([np.vstack([first, second]), np.vstack([there, back])], axis=1)
    every = np.linalg.norm(pairs[:, 1] - pairs[:, 0], axis=1)
    shown = np.union1d(np.argsort(-every)[: HAIRS // 3], np.linspace(0, len(every) - 1, 2 * HAIRS // 3).astype(int))
    worst = pairs[int(every.argmax()), 0]
    return Held(
        float(every.max()),
        float(every.mean()),
        worst,
        float(every[: len(first)].max()),
        float(every[len(first) :].max()),
        pairs[shown],
    )


def samples(thing: Form | Sequence[Array]) -> Array:
    """Points (n, 3) strewn over it evenly."""
    if isinstance(thing, Form):
        found = []
        for face, mesh in zip(thing.faces, thing.meshes, strict=True):
            middles = mesh.uv[mesh.triangles].mean(axis=1)
            found.append(face.surface.evaluate(middles))
            found.append(mesh.points)
        return np.vstack(found)
    if not len(thing):
        raise Refused("There are no curves in it to hold against anything; choose another file.")
    every = np.vstack(list(thing))
    step = max(float(np.linalg.norm(np.ptp(every, axis=0))) * SHARE, 1e-9)
    found = []
    for points in thing:
        spans = np.linalg.norm(np.diff(points, axis=0), axis=1)
        count = np.maximum(np.ceil(spans / step), max(1, FEWEST // max(len(spans), 1))).astype(int)
        which = np.repeat(np.arange(len(spans)), count)
        part = (np.arange(len(which)) - np.repeat(np.cumsum(count) - count, count)) / count[which]
        found.append(np.vstack([points[which] + part[:, None] * (points[which + 1] - points[which]), points[-1:]]))
    return np.vstack(found)


def gaps_to(thing: Form | Sequence[Array]) -> Callable[[Array], Array]:
    """What gives the distances (n,) of points (n, 3) from it."""
    feet = feet_on(thing)
    return lambda points: np.asarray(np.linalg.norm(feet(points) - points, axis=1))


def feet_on(thing: Form | Sequence[Array]) -> Callable[[Array], Array]:
    """What gives the points (n, 3) of it that are nearest to points (n, 3)."""
    if isinstance(thing, Form):
        return _from_form(thing)
    start = np.vstack([points[:-1] for points in thing])
    end = np.vstack([points[1:] for points in thing])
    return _from_spans(start, end)


def _from_spans(start: Array, end: Array) -> Callable[[Array], Array]:
    from scipy.spatial import cKDTree

    longest = float(np.median(np.linalg.norm(end - start, axis=1))) or 1.0
    pieces = np.maximum(np.ceil(np.linalg.norm(end - start, axis=1) / (4 * longest)), 1).astype(int)
    which = np.repeat(np.arange(len(start)), pieces)
    part = (np.arange(len(which)) - np.repeat(np.cumsum(pieces) - pieces, pieces)) / pieces[which]
    step = (end - start)[which] / pieces[which, None]
    begin = start[which] + part[:, None] * (end - start)[which]
    tree = cKDTree(begin + step / 2)

    half = np.linalg.norm(step, axis=1).max() / 2

    def nearest(points: Array, count: int) -> tuple[Array, np.ndarray]:
        """The nearest points on so many spans whose middles are nearest, and which of them are certain."""
        far, near = (found.reshape(len(points), -1) for found in tree.query(points, k=count))
        off = points[:, None] - begin[near]
        along = step[near]
        share = np.clip((off * along).sum(axis=2) / np.maximum((along**2).sum(axis=2), 1e-300), 0, 1)
        gaps = np.linalg.norm(off - share[..., None] * along, axis=2)
        best, rows = gaps.argmin(axis=1), np.arange(len(points))
        found = begin[near[rows, best]] + share[rows, best, None] * along[rows, best]
        return np.asarray(found), (far[:, -1] - half >= gaps[rows, best]) | (count == len(begin))

    def feet(points: Array) -> Array:
        found = np.empty((len(points), 3))
        left, count = np.arange(len(points)), min(NEAREST, len(begin))
        while len(left):
            found[left], certain = nearest(points[left], count)
            left, count = left[~certain], min(4 * count, len(begin))
        return found

    return feet


def _from_form(form: Form) -> Callable[[Array], Array]:
    locator = Locator.of(form)
    rim = _from_rims(form)

    def feet(points: Array) -> Array:
        found = locator.feet(points).points.copy()
        inside = locator.inside(found)
        if not inside.all():  # beside an outline it is the outline that is nearest
            found[~inside] = rim(points[~inside])
        return found

    return feet


def _from_rims(form: Form) -> Callable[[Array], Array]:
    edges = [edge.points(form.size * 1e-6) for edge in form.edges]
    return _from_spans(np.vstack([p[:-1] for p in edges]), np.vstack([p[1:] for p in edges]))
