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
    chosen = None if faces is None else set(faces)
    crossings = _edge_crossings(form, normal, height)
    pieces = []
    for face, chain in face_sections(form, normal, height, chosen):
        line = _ended(form, face, chain, crossings, normal, height)
        if len(line) > 1:
            pieces.append(line)
    return sorted(chained(pieces, CLOSE * form.size), key=lambda chain: -length_of(chain.points))


def _edge_crossings(form: Form, normal: Array, height: float) -> Array:
    """Where edges pass through the plane, (n, 3)."""
    found = [np.zeros((0, 3))]
    for edge in form.edges:
        t = np.linspace(edge.start, edge.end, max(33, 2 * len(edge.points(0.1))))
        above = edge.curve.evaluate(t) @ normal - height
        here = np.nonzero((above[1:] >= 0) != (above[:-1] >= 0))[0]
        low, high, rises = t[here], t[here + 1], above[here + 1] >= 0
        for _ in range(BISECTIONS if len(here) else 0):
            middle = (low + high) / 2
            beyond = (edge.curve.evaluate(middle) @ normal - height >= 0) == rises
            low, high = np.where(beyond, low, middle), np.where(beyond, middle, high)
        if len(here):
            found.append(edge.curve.evaluate(high))
    return np.vstack(found)


def _ended(form: Form, face: Face, chain: Array, crossings: Array, normal: Array, height: float) -> Array:
    """A section of a face with its ends on the edges, and with as many points as it needs."""
    line = chain.copy()
    closed = np.linalg.norm(line[0] - line[-1]) < CLOSE * form.size
    for end in (0, -1):
        gaps = np.linalg.norm(crossings - line[end], axis=1)
        if len(gaps) and gaps.min() < SNAPPED * form.size and not (closed and gaps.min() > CLOSE * form.size):
            line[end] = crossings[gaps.argmin()]
    spans = np.linalg.norm(np.diff(line, axis=0), axis=1)
    kept = np.r_[True, spans[:-1] > CLOSE * form.size, True] if len(line) > 2 else np.ones(len(line), bool)
    line = line[kept]
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
