"""The shortest ways along the faces of a form, from point to point.

A polyline is relaxed as springs, as a drawn curve is under its bending. Where it passes a sharp edge, the place on the
edge is moved until the way makes the same angle with it on both sides, as a straight line does once the faces are
unfolded.
"""

from __future__ import annotations

from collections.abc import Sequence
from itertools import pairwise

import numpy as np

from ..form.form import Form
from ..form.locator import Locator
from ..geometry.chained import leaving, length_of
from ..geometry.curves import Array
from ..record import record
from .drawn_curve import CREASE, HALVINGS, DrawnCurve, dense, halved, on_the_faces, onto_both, passed, relaxed

ROUNDS = 30
CONVERGED = 1e-9
"""Places on edges have settled when none moves by more than this part of the way."""
MOST = 0.4
"""A place moves by no more than this part of the ways beside it at once."""


@record
class _Passage:
    """A ``point`` (3,) of a sharp edge where the way goes from face ``first`` to ``second``, and its direction."""

    point: Array
    along: Array
    first: int
    second: int


def shortest_through(form: Form, through: Array, closed: bool, faces: Sequence[int] | None = None) -> DrawnCurve:
    """The shortest ways on the ``faces`` (all, by default) from each of the points (k, 3) to the next one.

    Raises Refused as ``on_the_faces`` does.
    """
    locator = Locator.of(form, faces)
    ends, messages = on_the_faces(locator, through, closed)
    ways = [_shortest(locator, start, end) for start, end in pairwise(ends)]
    points, corners = _strung([each for way in ways for each in way])
    return DrawnCurve(points, corners, messages)


def _shortest(locator: Locator, start: Array, end: Array) -> list[DrawnCurve]:
    """The way from sharp edge to sharp edge."""
    draft = _straightened(locator, start, end)
    passages = _passages(locator, draft)
    if not passages:
        return [dense(locator, draft, ())]
    length = length_of(draft)
    for _ in range(ROUNDS):
        legs = _legs(locator, passages, start, end)
        passages, moved = _moved(locator, passages, legs)
        if moved < CONVERGED * length:
            break
    legs = _legs(locator, passages, start, end)
    return [dense(near, leg, ()) for near, leg in zip(_beside(locator, passages), legs, strict=True)]


def _straightened(locator: Locator, start: Array, end: Array) -> Array:
    walk = np.vstack([start, end])
    for _ in range(HALVINGS):
        walk = halved(locator, walk)
    return relaxed(locator, walk, np.array([0, len(walk) - 1]), False, _springs)


def _passages(locator: Locator, walk: Array) -> list[_Passage]:
    """Where a walk goes over sharp edges."""
    faces = locator.feet(walk).faces
    found = []
    for k in np.nonzero(faces[1:] != faces[:-1])[0]:
        first, second = int(faces[k]), int(faces[k + 1])
        point, normals = passed(locator, walk[k], walk[k + 1], first, second)
        if np.linalg.norm(np.cross(*normals)) > np.sin(CREASE):
            found.append(_passage(point, normals, first, second))
    return found


def _passage(point: Array, normals: Array, first: int, second: int) -> _Passage:
    along = np.cross(*normals)
    return _Passage(point, along / np.linalg.norm(along), first, second)


def _beside(locator: Locator, passages: list[_Passage]) -> list[Locator]:
    """What the way is laid onto before the first passage, between, and after the last one."""
    own = [passages[0].first, *(each.second for each in passages)]
    allowed = set(locator.faces)
    return [Locator.of(locator.form, locator.form.smooth_chain([face], allowed)) for face in own]


def _legs(locator: Locator, passages: list[_Passage], start: Array, end: Array) -> list[Array]:
    nodes = [start, *(each.point for each in passages), end]
    return [_straightened(near, a, b) for near, (a, b) in zip(_beside(locator, passages), pairwise(nodes), strict=True)]


def _moved(locator: Locator, passages: list[_Passage], legs: list[Array]) -> tuple[list[_Passage], float]:
    """Each passage moved along its edge by a step of Newton's method for the length; and the largest step."""
    made, furthest = [], 0.0
    for each, before, after in zip(passages, legs, legs[1:], strict=False):
        lengths = length_of(before), length_of(after)
        came, goes = float(-leaving(before[::-1]) @ each.along), float(leaving(after) @ each.along)
        slope = (1 - came**2) / lengths[0] + (1 - goes**2) / lengths[1]
        most = MOST * min(lengths)
        step = float(np.clip((goes - came) / max(slope, 1e-12), -most, most))
        furthest = max(furthest, abs(step))
        point, normals = onto_both(locator, each.point + step * each.along, each.first, each.second)
        made.append(_passage(point, normals, each.first, each.second))
    return made, furthest


def _springs(walk: Array, held: np.ndarray, closed: bool):
    """The quadratic form (n, n) of springs between the points of an open polyline."""
    from scipy.sparse import diags

    n = len(walk)
    first = diags([-1.0, 1.0], [0, 1], shape=(n - 1, n)).tocsr()
    return first.T @ first


def _strung(ways: Sequence[DrawnCurve]) -> tuple[Array, tuple[int, ...]]:
    """Curves one after the other: their points (n, 3), and where the whole has corners."""
    corners: list[int] = []
    count = 0
    for way in ways:
        corners.extend([count] if count else [])
        corners.extend(count + corner for corner in way.corners)
        count += len(way.points) - 1
    return np.vstack([ways[0].points, *(way.points[1:] for way in ways[1:])]), tuple(corners)
