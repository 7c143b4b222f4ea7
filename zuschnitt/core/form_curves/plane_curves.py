"""Where a plane cuts a form: curves on its true surfaces that end exactly on its edges."""

from __future__ import annotations

from collections.abc import Iterable

import numpy as np

from ..form.form import Face, Form
from ..geometry.chained import Chain, chained, length_of
from ..geometry.curves import Array
from ..mesh.mesh_surface import MeshSurface
from .sections import face_sections, on_surface

FINE = 1e-3
"""Curves are divided to this in mm."""
HALVINGS = 8
SNAPPED = 5e-3
"""The end of a section of a face belongs to a crossing of an edge within this part of the form's size."""
CLOSE = 1e-7
BISECTIONS = 60


def plane_curves(form: Form, point: Array, normal: Array, faces: Iterable[int] | None = None) -> list[Chain]:
    """The curves in which the plane through ``point`` (3,) square to ``normal`` (3,) cuts the ``faces``; longest first.

    On meshes they are the polylines on the triangles.
    """
    normal = np.asarray(normal, float) / np.linalg.norm(normal)
    height = float(np.asarray(point, float) @ normal)
    pieces = [_finer(face, line, normal, height) for face, line in Cutting(form, faces).lines(normal, height)]
    return sorted(chained(pieces, CLOSE * form.size), key=lambda chain: -length_of(chain.points))


class Cutting:
    """Some ``faces`` of a form, or all, that planes cut one after the other."""

    def __init__(self, form: Form, faces: Iterable[int] | None = None) -> None:
        self._form = form
        self._faces = None if faces is None else set(faces)
        near = form.edges if self._faces is None else [e for e in form.edges if self._faces.intersection(e.faces)]
        self._edges = [(edge, np.linspace(edge.start, edge.end, max(33, 2 * len(edge.points(0.1))))) for edge in near]
        self._points = [edge.curve.evaluate(t) for edge, t in self._edges]

    def lines(self, normal: Array, height: float) -> list[tuple[Face, Array]]:
        """What the plane ``normal · p = height``, ``normal`` (3,) of length 1, cuts of each face: points (n, 3) of it.

        Where faces meet they end in the same point.
        """
        crossings = self._crossings(normal, height)
        found = []
        for face, chain in face_sections(self._form, normal, height, self._faces):
            line = _ended(self._form, chain, crossings)
            if len(line) > 1:
                found.append((face, line))
        return found

    def _crossings(self, normal: Array, height: float) -> Array:
        """Where edges pass through the plane, (n, 3)."""
        found = [np.zeros((0, 3))]
        for (edge, t), points in zip(self._edges, self._points, strict=True):
            above = points @ normal - height
            here = np.nonzero((above[1:] >= 0) != (above[:-1] >= 0))[0]
            low, high, rises = t[here], t[here + 1], above[here + 1] >= 0
            for _ in range(BISECTIONS if len(here) else 0):
                middle = (low + high) / 2
                beyond = (edge.curve.evaluate(middle) @ normal - height >= 0) == rises
                low, high = np.where(beyond, low, middle), np.where(beyond, middle, high)
            if len(here):
                found.append(edge.curve.evaluate(high))
        return np.vstack(found)


def _ended(form: Form, chain: Array, crossings: Array) -> Array:
    """A section of a face with its ends on the edges."""
    line = chain.copy()
    closed = np.linalg.norm(line[0] - line[-1]) < CLOSE * form.size
    for end in (0, -1):
        gaps = np.linalg.norm(crossings - line[end], axis=1)
        if len(gaps) and gaps.min() < SNAPPED * form.size and not (closed and gaps.min() > CLOSE * form.size):
            line[end] = crossings[gaps.argmin()]
    spans = np.linalg.norm(np.diff(line, axis=0), axis=1)
    kept = np.r_[True, spans[:-1] > CLOSE * form.size, True] if len(line) > 2 else np.ones(len(line), bool)
    return line[kept]


def _finer(face: Face, line: Array, normal: Array, height: float) -> Array:
    """A section of a face with as many points as it needs."""
    if isinstance(face.surface, MeshSurface):
        return line
    for _ in range(HALVINGS):
        middles = (line[1:] + line[:-1]) / 2
        feet = on_surface(face.surface, middles, normal, height)
        coarse = np.nonzero(np.linalg.norm(feet - middles, axis=1) > FINE)[0]
        if not len(coarse):
            break
        line = np.insert(line, coarse + 1, feet[coarse], axis=0)
    return line
