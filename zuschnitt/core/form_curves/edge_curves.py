"""Edges of a form as curves: joined end to end, or with all that run on smoothly."""

from __future__ import annotations

from collections.abc import Iterable
from itertools import pairwise

import numpy as np

from ..form.form import Edge, Form
from ..geometry.chained import CREASE, Chain, chained, turn_between
from ..geometry.curves import Array, Line, Spline, parameters_within

CLOSE = 1e-6
"""Ends within this part of the form's size are one."""
FINE = 1e-3
"""Edges are divided to this in mm, of which a smooth curve through the points keeps some 1e-8."""
LEAST = 9
ASIDE = 1e-5
SHARP = 30.0
"""A polyline has a corner where it turns by so many degrees."""


def edge_chains(form: Form, numbers: Iterable[int]) -> list[Chain]:
    """Edges of a form by their ``numbers``, joined where they meet."""
    return chained([edge_points(form.edge(number)) for number in numbers], CLOSE * form.size)


def running_on(form: Form, numbers: Iterable[int]) -> tuple[int, ...]:
    """The numbers of edges and of all that go on from them smoothly, at the end of one the straightest."""
    from scipy.spatial import cKDTree

    edges = {edge.number: edge_points(edge) for edge in form.edges if edge.number - 1 not in form.seams}
    names = list(edges)
    tree = cKDTree([edges[name][k] for name in names for k in (0, -1)])
    found, waiting = set(numbers), list(numbers)
    while waiting:
        name = waiting.pop()
        if name not in edges:
            continue
        for run in (edges[name], edges[name][::-1]):
            best, least = None, CREASE
            for end in tree.query_ball_point(run[-1], CLOSE * form.size):
                other = names[end // 2]
                if other == name:
                    continue
                turn = turn_between(run, edges[other][:: -1 if end % 2 else 1])
                if turn < least:
                    best, least = other, turn
            if best is not None and best not in found:
                found.add(best)
                waiting.append(best)
    return tuple(sorted(found))


def edge_points(edge: Edge) -> Array:
    """Points (n, 3) of an edge, close enough for a smooth curve through them."""
    straight = isinstance(edge.curve, Line)
    return np.asarray(edge.curve.evaluate(np.array([edge.start, edge.end]) if straight else _places(edge)))


def smooth_runs(edge: Edge) -> list[tuple[Array, Array]]:
    """What of an edge has no sharp corner: points (n, 3), and the direction (n, 3) at each."""
    if isinstance(edge.curve, Spline) and edge.curve.degree == 1:  # of a mesh: as the curve that it stands for
        return [(run, _ways(run)) for run in map(_filled, _split(edge.curve.control))]
    t = _places(edge)
    near = ASIDE * (edge.end - edge.start)
    inner = [np.clip(t + side * near, min(edge.start, edge.end), max(edge.start, edge.end)) for side in (-1, 1)]
    ways = edge.curve.evaluate(inner[1]) - edge.curve.evaluate(inner[0])
    return [(edge.curve.evaluate(t), ways / np.linalg.norm(ways, axis=1, keepdims=True))]


def _filled(points: Array) -> Array:
    """A polyline of few points (n, 3) with more of them on its spans."""
    if len(points) >= LEAST:
        return points
    each = -(-LEAST // (len(points) - 1))
    places = np.arange((len(points) - 1) * each + 1) / each
    return np.column_stack([np.interp(places, np.arange(len(points)), column) for column in points.T])


def _ways(points: Array) -> Array:
    """The directions (n, 3) of a smooth curve through points, which may be closed."""
    spans = np.diff(points, axis=0)
    spans /= np.linalg.norm(spans, axis=1, keepdims=True)
    closed = np.array_equal(points[0], points[-1])
    before = np.vstack([spans[-1:] if closed else spans[:1], spans])
    after = np.vstack([spans, spans[:1] if closed else spans[-1:]])
    ways = before + after
    return np.asarray(ways / np.linalg.norm(ways, axis=1, keepdims=True))


def _places(edge: Edge) -> Array:
    t = parameters_within(edge.curve.evaluate, edge.start, edge.end, FINE)
    return t if len(t) >= LEAST else np.linspace(edge.start, edge.end, LEAST)


def _split(points: Array) -> list[Array]:
    """A polyline from sharp corner to sharp corner."""
    spans = np.diff(points, axis=0)
    spans /= np.linalg.norm(spans, axis=1, keepdims=True)
    turns = np.einsum("nk,nk->n", spans[1:], spans[:-1]) < np.cos(np.radians(SHARP))
    ends = [0, *(np.nonzero(turns)[0] + 1).tolist(), len(points) - 1]
    return [points[start : end + 1] for start, end in pairwise(ends)]
