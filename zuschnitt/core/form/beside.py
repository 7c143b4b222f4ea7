"""Curves beside others, at a distance measured along the surface.

From each point a geodesic is walked square to the curve. A step goes along the chord of an arc between the directions
at both its ends; the direction turns with the normal (discrete parallel transport). Walks of N and of 2 N steps give
together what walks of very many steps would (Richardson's extrapolation).
"""

from __future__ import annotations

from collections.abc import Iterable

import numpy as np

from ..errors import CannotBeDone, Refused
from .chained import Chain, chained
from .curves import Array
from .edge_curves import smooth_runs
from .form import Form
from .locator import Locator

STEPS = 24
TURNS = 1 / 12
"""Steps are no longer than a turn of the normals by about this many radians would be, where so many are enough."""
MOST = 192
BEYOND = 0.05
"""Where a step ends off the surface by this part of it, the surface ends there."""
CLOSE = 1e-5
"""Ends of curves within this part of the form's size are one."""
SMALL = 1e-4
"""Which side of an edge is the face is looked at so far beside it, as a part of the form's size."""


def beside_edges(
    form: Form, numbers: Iterable[int], distance: float, faces: Iterable[int] | None = None
) -> tuple[list[Chain], bool]:
    """Curves at ``distance`` mm from edges, on faces that begin at them and run on smoothly; whether parts are missing.

    Of an edge between two faces, ``faces`` must say on which the curve is. What would leave the faces is left out.
    Raises Refused where it is not clear on which face an edge's curve is, CannotBeDone where nothing is left.
    """
    chosen = None if faces is None else set(faces)
    runs: list[Array] = []
    whole = True
    for number in numbers:
        edge = form.edge(number)
        own = sorted({f for f in edge.faces if chosen is None or f in chosen})
        if len(own) != 1:
            named = " and ".join(map(str, sorted(set(edge.faces))))
            raise Refused(f"Edge {number} bounds faces {named}; say on which one of them the curve is.")
        chain = form.smooth_chain(own)
        for points, ways in smooth_runs(edge):
            found, inside = beside(form, chain, points, _inwards(form, own[0], points, ways), distance)
            whole &= bool(inside.all())
            for run in np.split(np.arange(len(points)), np.nonzero(np.diff(inside.astype(int)))[0] + 1):
                if inside[run[0]] and len(run) > 1:
                    runs.append(found[run])
    if not runs:
        raise CannotBeDone(f"At {distance:g} mm from the edges there is no face any more; take a smaller distance.")
    return chained(runs, CLOSE * form.size), not whole


def _inwards(form: Form, number: int, points: Array, ways: Array) -> Array:
    """Directions (n, 3) from points of an edge into a face."""
    locator = Locator.of(form, [number])
    across = np.cross(locator.normals(points, np.full(len(points), number)), ways)
    aside = SMALL * form.size * across
    inner = [int(locator.inside(points + side * aside)[1:-1].sum()) for side in (1, -1)]
    return across if inner[0] >= inner[1] else -across


def beside(
    form: Form, faces: Iterable[int], points: Array, sideways: Array, distance: float
) -> tuple[Array, np.ndarray]:
    """Points (n, 3) at ``distance`` mm from ``points`` (n, 3) of a curve, and which of them lie on the ``faces``.

    ``sideways`` (n, 3) are the directions in which they set out, along the surface and square to the curve. Raises
    CannotBeDone where ways cross before they are there, so that the curve would turn back.
    """
    locator = Locator.of(form, tuple(faces))
    count = STEPS
    coarse, _ = _walked(locator, points, sideways, distance, count)
    while True:
        fine, inside = _walked(locator, points, sideways, distance, 2 * count)
        if np.abs(fine - coarse).max() < TURNS * distance / count or 2 * count >= MOST:
            break
        coarse, count = fine, 2 * count
    feet = locator.feet(fine + (fine - coarse) / 3)
    steps, before = np.diff(feet.points, axis=0), np.diff(points, axis=0)
    if len(steps) and (inside[1:] & inside[:-1] & (np.einsum("nk,nk->n", steps, before) < 0)).any():
        raise CannotBeDone(f"At {distance:g} mm from it the curve would turn back on itself; take a smaller distance.")
    return feet.points, inside & locator.inside(feet.points)


def _walked(locator: Locator, points: Array, sideways: Array, distance: float, count: int) -> tuple[Array, np.ndarray]:
    """Where geodesics arrive after ``count`` steps, and which of them stayed within the outlines until there."""
    step = distance / count
    feet = locator.feet(points)
    here, normals = feet.points, locator.normals(feet.points, feet.faces)
    way = _within(sideways, normals)
    stayed = np.ones(len(points), bool)
    for k in range(count):
        ahead = locator.feet(here + step * way)
        turned = _turned(way, normals, locator.normals(ahead.points, ahead.faces))
        arrived = locator.feet(here + step * (way + turned) / 2)
        after = locator.normals(arrived.points, arrived.faces)
        here, way, normals = arrived.points, _within(_turned(way, normals, after), after), after
        stayed &= arrived.gap < BEYOND * step
        if k < count - 1:  # where the last one ends is asked of the curve itself
            stayed &= locator.inside(here)
    return here, stayed


def _within(way: Array, normals: Array) -> Array:
    flat = way - np.einsum("nk,nk->n", way, normals)[:, None] * normals
    return np.asarray(flat / np.linalg.norm(flat, axis=1, keepdims=True))


def _turned(way: Array, before: Array, after: Array) -> Array:
    """Directions (n, 3) turned as normals turn from ``before`` to ``after``, by the least rotation."""
    axis = np.cross(before, after)
    cosine = np.einsum("nk,nk->n", before, after)[:, None]
    along = np.einsum("nk,nk->n", axis, way)[:, None]
    return np.asarray(cosine * way + np.cross(axis, way) + axis * along / np.maximum(1 + cosine, 1e-9))
