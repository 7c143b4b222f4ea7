"""Curves on a form, cut to its faces: what each face has of them, and where they pass an edge."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from ..geometry.curves import Array
from ..plane.region import Region
from ..record import record
from .form import Form
from .unwrapped import Unwrapped

ON_EDGE = 0.35
"""An end nearer to an edge than this part of the triangle size lies on it."""

BESIDE = 0.5 * ON_EDGE
"""A point that lies beside a face by less than this part of the triangle size still counts to it.

Well less than ``ON_EDGE``, so that such a point is surely caught by the edge, charts being in proportion only nearly.
"""

HALVINGS = 14
"""How often the place where a curve leaves a face is narrowed down by half; then the edge says where it is."""
AT_ONCE = 7
"""So many of these are done at once."""
TORN = 0.4
"""A chart is torn between two points where their middle is charted this part of their distance beside theirs."""


@record
class LineOnFace:
    """A part of curve ``line`` on the face of index ``face``: chart points (n, 2) along it.

    ``start`` and ``end`` are the edge's index and parameter where that end lies on an edge, else None.
    """

    line: int
    face: int
    points: Array
    start: tuple[int, float] | None
    end: tuple[int, float] | None


def lines_on_faces(form: Form, faces: Sequence[Unwrapped], lines: Sequence[Array], h: float) -> list[LineOnFace]:
    """Cuts curves (n, 3) near the form to the ``faces``; what lies beside all of them is left out.

    ``h`` is the size of triangles in mm: points along a curve are about half of it apart.
    """
    found: list[LineOnFace] = []
    regions = [face.region(0.01) for face in faces]
    for number, line in enumerate(lines):
        dense = _spaced(np.asarray(line, float), h / 2)
        owner, charted = _owners(faces, regions, dense, h)
        seams = _seams_passed(faces, dense, owner, charted)
        changes = np.nonzero((np.diff(owner) != 0) | np.isin(np.arange(len(dense) - 1), list(seams)))[0] + 1
        for run in np.split(np.arange(len(dense)), changes):
            face = int(owner[run[0]])
            if face < 0 or (len(run) < 2 and len(dense) > 2):
                continue
            points = charted[face][run]
            # where they lie on the face: beyond its surface's own end a curve is off it, and yet not beside it
            first, last = faces[face].chart.to_form(points[[0, -1]])
            if run[0] - 1 in seams:
                first = seams[run[0] - 1]
            elif run[0] > 0:
                first = _leaving(faces[face], regions[face], dense[run[0]], dense[run[0] - 1])
            if run[-1] in seams:
                last = seams[run[-1]]
            elif run[-1] < len(dense) - 1:
                last = _leaving(faces[face], regions[face], dense[run[-1]], dense[run[-1] + 1])
            start = _edge_at(form, faces[face], first, h)
            end = _edge_at(form, faces[face], last, h)
            points = _ended(form, faces[face], regions[face], points, start, end, h)
            if len(points) > 1:
                found.append(LineOnFace(number, face, points, start, end))
    return found


def _spaced(points: Array, step: float) -> Array:
    lengths = np.r_[0, np.cumsum(np.linalg.norm(np.diff(points, axis=0), axis=1))]
    count = max(2, int(np.ceil(lengths[-1] / step)) + 1)
    at = np.linspace(0, lengths[-1], count)
    return np.stack([np.interp(at, lengths, points[:, k]) for k in range(3)], axis=1)


def _owners(
    faces: Sequence[Unwrapped], regions: Sequence[Region], points: Array, h: float
) -> tuple[np.ndarray, list[Array]]:
    """The index of the face that holds each point, -1 where none does, and all points in each chart."""
    best, owner = np.full(len(points), np.inf), np.full(len(points), -1)
    charted = []
    for i, face in enumerate(faces):
        uv = face.chart.within(face.chart.surface.project(points))
        off = np.linalg.norm(face.chart.surface.evaluate(uv) - points, axis=1)
        xy = face.chart.flatten(uv)
        region = regions[i]
        inside = region.contains(xy, 1e-6)
        gap = off + np.where(inside, 0.0, region.distance(xy))
        nearer = (gap < best - 1e-9) & (inside & (off < h) | (gap < BESIDE * h))
        best[nearer], owner[nearer] = gap[nearer], i
        charted.append(xy)
    return owner, charted


def _seams_passed(
    faces: Sequence[Unwrapped], points: Array, owner: np.ndarray, charted: Sequence[Array]
) -> dict[int, Array]:
    """Where a curve passes a seam of the face it is on: the point (3,) of the seam, by the index of the point before.

    There the chart is torn: what lies in the middle of two points is charted next to one of them.
    """
    found = {}
    middles = (points[1:] + points[:-1]) / 2
    for i in np.unique(owner[owner >= 0]):
        edges = [c.edge for loop in faces[i].loops for c in loop if c.edge >= 0]
        if len(set(edges)) == len(edges):  # none of them is walked along twice
            continue
        steps = np.nonzero((owner[1:] == i) & (owner[:-1] == i))[0]
        here, there, between = charted[i][steps], charted[i][steps + 1], _charted(faces[i], middles[steps])
        off = np.linalg.norm(between - (here + there) / 2, axis=1)
        for k in steps[off > TORN * np.linalg.norm(there - here, axis=1)].tolist():
            low, high = points[k], points[k + 1]
            for _ in range(HALVINGS):
                middle = (low + high) / 2
                at = _charted(faces[i], middle[None])[0]
                if np.linalg.norm(at - charted[i][k]) < np.linalg.norm(at - charted[i][k + 1]):
                    low = middle
                else:
                    high = middle
            surface = faces[i].chart.surface
            found[k] = surface.evaluate(surface.project(low[None]))[0]
    return found


def _charted(face: Unwrapped, points: Array) -> Array:
    return face.chart.flatten(face.chart.within(face.chart.surface.project(points)))


def _leaving(face: Unwrapped, region: Region, inside: Array, outside: Array) -> Array:
    """Where the way between two points (3,) leaves a face: a point (3,) of its surface."""
    part = np.linspace(0, 1, 2**AT_ONCE + 1)[:, None]
    for _ in range(HALVINGS // AT_ONCE):  # many places at once: a foot alone costs nearly as much
        way = inside + part * (outside - inside)
        beyond = ~region.contains(_charted(face, way))
        beyond[0], beyond[-1] = False, True
        k = int(np.argmax(beyond))
        inside, outside = way[k - 1], way[k]
    return face.chart.surface.evaluate(face.chart.surface.project(inside[None]))[0]


def _edge_at(form: Form, face: Unwrapped, point: Array, h: float) -> tuple[int, float] | None:
    """The edge of the face that a point lies on, with its parameter there; None where it lies on none."""
    best, found = ON_EDGE * h, None
    for loop in face.loops:
        for c in loop:
            if c.edge < 0:
                continue
            t = np.linspace(c.start, c.end, 257)
            for _ in range(3):
                gap = np.linalg.norm(form.edges[c.edge].curve.evaluate(t) - point, axis=1)
                k = int(gap.argmin())
                low, high = t[max(k - 1, 0)], t[min(k + 1, len(t) - 1)]
                if gap[k] < best:
                    best, found = float(gap[k]), (c.edge, float(t[k]))
                t = np.linspace(low, high, 65)
    return found


def _ended(form: Form, face: Unwrapped, region: Region, points: Array, start, end, h: float) -> Array:
    """The points, those too near to an edge that the curve ends on left out; the ends come from the edge."""
    clear = region.contains(points) & (region.distance(points) > 0.3 * h)
    keep = clear.copy()
    if start is None:
        keep[0] = True
    if end is None:
        keep[-1] = True
    kept = points[keep]
    ends = []
    for on in (start, end):
        if on is None:
            ends.append(np.zeros((0, 2)))
            continue
        uv = [c.uv(np.array([on[1]])) for loop in face.loops for c in loop if c.edge == on[0]]
        flat = np.vstack([face.chart.flatten(at) for at in uv])
        reference = kept[0] if len(ends) == 0 and len(kept) else (kept[-1] if len(kept) else points[0])
        ends.append(flat[[np.linalg.norm(flat - reference, axis=1).argmin()]])
    return np.vstack([ends[0], kept, ends[1]])
