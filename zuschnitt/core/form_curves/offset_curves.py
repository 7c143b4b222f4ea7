"""Curves beside others, at a distance measured along the surface.

From each point a geodesic is walked square to the curve. A step goes along the chord of an arc between the directions
at both its ends; the direction turns with the normal (discrete parallel transport). Walks of N and of 2 N steps give
together what walks of very many steps would (Richardson's extrapolation).
"""

from __future__ import annotations

from collections.abc import Callable, Iterable
from functools import partial

import numpy as np
from scipy.interpolate import CubicSpline

from ..errors import CannotBeDone, Refused
from ..form.form import Form
from ..form.locator import Locator
from ..geometry.chained import Chain, chained
from ..geometry.curves import Array
from ..geometry.meeting import Side, joined_at_corners
from ..wording import counted
from .edge_curves import smooth_runs

STEPS = 24
TURNS = 1 / 12
"""Steps are no longer than a turn of the normals by about this many radians would be, where so many are enough."""
MOST = 192
BEYOND = 0.05
"""Where a step ends off the surface by this part of it, the surface ends there."""
HAIR = 1e-6
NOISE = 1e-5
"""Steps back by less than this part of the distance are no turn."""
ROUNDS, FEW = 3, 15
"""Where the surface ends is looked for so many times, each time between two points with so many more."""
CLOSE = 1e-5
"""Ends of curves within this part of the form's size are one."""
SMALL = 1e-4
"""Which side of an edge is the face is looked at so far beside it, as a part of the form's size."""


def beside_edges(
    form: Form, numbers: Iterable[int], distance: float, faces: Iterable[int] | None = None
) -> tuple[list[Chain], tuple[str, ...]]:
    """Curves at ``distance`` mm from edges, on faces that begin at them and run on smoothly; what is to be said of it.

    Of an edge between two faces, ``faces`` must say on which the curve is. What would leave the faces is left out.
    Curves beside edges that meet are cut where they cross, or joined by an arc round the corner. Raises Refused where
    it is not clear on which face an edge's curve is, CannotBeDone where nothing is left.
    """
    chosen = None if faces is None else set(faces)
    sides: list[Side] = []
    for number in numbers:
        edge = form.edge(number)
        own = sorted({f for f in edge.faces if chosen is None or f in chosen})
        if len(own) != 1:
            named = " and ".join(map(str, sorted(set(edge.faces))))
            raise Refused(f"Edge {number} bounds faces {named}; say on which one of them the curve is.")
        chain = tuple(form.smooth_chain(own))
        for points, ways in smooth_runs(edge):
            begin = _off_poles(form, own[0], points)
            aside = _inwards(form, own[0], begin, ways)
            found, inside = beside(form, chain, begin, aside, distance)
            walk = partial(_arrived, form, faces=chain, distance=distance)
            found, inside = _up_to_the_end(walk, begin, aside, found, inside)
            runs = _runs(found, inside)
            sides.append(Side(points, aside, chain, runs, (not inside[0], len(runs) != 1, not inside[-1])))

    def arc(corner: Array, aside: Array, chain: tuple[int, ...]) -> Array:
        found, inside = beside(form, chain, np.tile(corner, (len(aside), 1)), aside, distance)
        return found if inside.all() else found[:0]

    joined = joined_at_corners(sides, CLOSE * form.size, arc)
    if not joined.runs:
        raise CannotBeDone(f"At {distance:g} mm from the edges there is no face any more; take a smaller distance.")
    said: tuple[str, ...] = () if joined.whole else ("Parts of the curves would leave the faces, and are left out.",)
    if joined.loose:
        said += (f"At {counted(joined.loose, 'corner')} of the edges the curves do not cross, and stay as they are.",)
    return chained(joined.runs, CLOSE * form.size), said


def _up_to_the_end(
    walk: Callable[[Array, Array], tuple[Array, np.ndarray]],
    points: Array,
    aside: Array,
    found: Array,
    inside: np.ndarray,
) -> tuple[Array, np.ndarray]:
    """What is ``found`` (n, 3) from points (n, 3) that set out ``aside`` (n, 3), with more where the surface ends."""
    places = np.arange(len(points), dtype=float)
    source, ways = CubicSpline(places, points), CubicSpline(places, aside)
    for _ in range(ROUNDS):
        ends = np.nonzero(inside[1:] != inside[:-1])[0]
        if not len(ends):
            break
        t = np.linspace(0, 1, FEW + 2)[1:-1]
        more = (places[ends, None] + t * (places[ends + 1] - places[ends])[:, None]).ravel()
        there, within = walk(source(more), _unit(ways(more)))
        order = np.argsort(np.concatenate([places, more]))
        places = np.concatenate([places, more])[order]
        found, inside = np.vstack([found, there])[order], np.concatenate([inside, within])[order]
        keep = inside.copy()
        keep[1:] |= inside[:-1]
        keep[:-1] |= inside[1:]
        found, inside, places = found[keep], inside[keep], places[keep]
    return found, inside


def _unit(ways: Array) -> Array:
    return np.asarray(ways / np.linalg.norm(ways, axis=1, keepdims=True))


def _runs(points: Array, inside: np.ndarray) -> tuple[Array, ...]:
    """What of a curve lies ``inside`` (n,), as runs of at least two of its points."""
    parts = np.split(np.arange(len(points)), np.nonzero(np.diff(inside.astype(int)))[0] + 1)
    return tuple(points[part] for part in parts if inside[part[0]] and len(part) > 1)


def _off_poles(form: Form, number: int, points: Array) -> Array:
    """Points (n, 3) of an edge; an end at which the face has no normal a hair further along."""
    normals = Locator.of(form, [number]).normals(points, np.full(len(points), number))
    made = points.copy()
    for end, inner in ((0, 1), (-1, -2)):
        if not np.linalg.norm(normals[end]) > 0.5:
            made[end] += HAIR * (points[inner] - points[end])
    return made


def _inwards(form: Form, number: int, points: Array, ways: Array) -> Array:
    """Directions (n, 3) from points of an edge into a face."""
    locator = Locator.of(form, [number])
    across = np.cross(locator.normals(points, np.full(len(points), number)), ways)
    aside = SMALL * form.size * across
    inner = []
    for side in (1, -1):
        beyond = points + side * aside
        feet = locator.feet(beyond)
        there = feet.inside & (feet.gap < BEYOND * SMALL * form.size)
        inner.append(int(there[1:-1].sum()))
    return across if inner[0] >= inner[1] else -across


def beside(
    form: Form, faces: Iterable[int], points: Array, sideways: Array, distance: float
) -> tuple[Array, np.ndarray]:
    """Points (n, 3) at ``distance`` mm from ``points`` (n, 3) of a curve, and which of them lie on the ``faces``.

    ``sideways`` (n, 3) are the directions in which they set out, along the surface and square to the curve. Raises
    CannotBeDone where ways cross before they are there, so that the curve would turn back.
    """
    found, inside = _arrived(form, points, sideways, faces=tuple(faces), distance=distance)
    steps, before = np.diff(found, axis=0), np.diff(points, axis=0)
    back = -np.einsum("nk,nk->n", steps, before) > NOISE * distance * np.linalg.norm(before, axis=1)
    if (inside[1:] & inside[:-1] & back).any():
        raise CannotBeDone(f"At {distance:g} mm from it the curve would turn back on itself; take a smaller distance.")
    return found, inside


def _arrived(
    form: Form, points: Array, sideways: Array, *, faces: tuple[int, ...], distance: float
) -> tuple[Array, np.ndarray]:
    """Where geodesics from points (n, 3) arrive, and which of them lie on the faces."""
    locator = Locator.of(form, faces)
    count = STEPS
    coarse, _ = _walked(locator, points, sideways, distance, count)
    while True:
        fine, inside = _walked(locator, points, sideways, distance, 2 * count)
        off = np.abs(fine - coarse)[inside]
        if off.max(initial=0.0) < TURNS * distance / count or 2 * count >= MOST:
            break
        coarse, count = fine, 2 * count
    feet = locator.feet(fine + (fine - coarse) / 3)
    return feet.points, inside & feet.inside


def _walked(locator: Locator, points: Array, sideways: Array, distance: float, count: int) -> tuple[Array, np.ndarray]:
    """Where geodesics arrive after ``count`` steps, and which of them stayed within the outlines until there."""
    step = distance / count
    feet = locator.feet(points)
    ends, stayed = feet.points.copy(), np.ones(len(points), bool)
    here, normals = feet.points, locator.outward(feet)
    way = _within(sideways, normals)
    for k in range(count):
        ahead = locator.feet(here + step * way)
        turned = _turned(way, normals, locator.outward(ahead))
        arrived = locator.feet(here + step * (way + turned) / 2)
        after = locator.outward(arrived)
        here, way, normals = arrived.points, _within(_turned(way, normals, after), after), after
        on = arrived.gap < BEYOND * step
        if k < count - 1:  # where the last one ends is asked of the curve itself
            on &= arrived.inside
        ends[stayed] = here
        if not on.all():  # what has left the faces goes no further
            stayed[stayed] = on
            here, way, normals = here[on], way[on], normals[on]
        if not len(here):
            break
    return ends, stayed


def _within(way: Array, normals: Array) -> Array:
    return _unit(way - np.einsum("nk,nk->n", way, normals)[:, None] * normals)


def _turned(way: Array, before: Array, after: Array) -> Array:
    """Directions (n, 3) turned as normals turn from ``before`` to ``after``, by the least rotation."""
    axis = np.cross(before, after)
    cosine = np.einsum("nk,nk->n", before, after)[:, None]
    along = np.einsum("nk,nk->n", axis, way)[:, None]
    return np.asarray(cosine * way + np.cross(axis, way) + axis * along / np.maximum(1 + cosine, 1e-9))
