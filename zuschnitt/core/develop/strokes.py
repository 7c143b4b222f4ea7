"""Principal directions of stretch: which way the material gives most."""

from __future__ import annotations

import numpy as np

from ..geometry.curves import Array
from ..record import record
from .blank import StretchMesh

LEAST = 1e-4
"""Where a triangle stretches by less than this part either way, it has no direction worth a stroke."""


@record
class Strokes:
    """At places ``points_blank`` (n, 2) and ``points_form`` (n, 3), unit directions of the larger principal stretch."""

    points_blank: Array
    along_blank: Array
    points_form: Array
    along_form: Array
    stretch: Array


def strokes(mesh: StretchMesh, across: int = 14) -> Strokes:
    """Strokes on a net over the blank, about ``across`` along its longer side."""
    corners = mesh.points_blank[mesh.triangles]
    centres = corners.mean(axis=1)
    low, high = centres.min(axis=0), centres.max(axis=0)
    cell = float((high - low).max()) / across
    index = np.floor((centres - low) / max(cell, 1e-12)).astype(int)
    off = np.linalg.norm(centres - low - (index + 0.5) * cell, axis=1)
    order = np.lexsort((off, index[:, 1], index[:, 0]))
    first = np.r_[True, (np.diff(index[order], axis=0) != 0).any(axis=1)]
    chosen = order[first]
    chosen = chosen[np.abs(mesh.stretch[chosen]).max(axis=1) > LEAST]
    flat, space = corners[chosen], mesh.points_form[mesh.triangles[chosen]]
    sides_blank = np.stack([flat[:, 1] - flat[:, 0], flat[:, 2] - flat[:, 0]], axis=2)
    sides_form = np.stack([space[:, 1] - space[:, 0], space[:, 2] - space[:, 0]], axis=2)
    left, _, right = np.linalg.svd(sides_form @ np.linalg.inv(sides_blank), full_matrices=False)
    return Strokes(centres[chosen], right[:, 0], space.mean(axis=1), left[:, :, 0], mesh.stretch[chosen])
