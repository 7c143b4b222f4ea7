"""Where a material can no longer take a blank: the region beyond its limits, bounded by the contour at the limit."""

from __future__ import annotations

import numpy as np

from ..geometry.curves import Array
from ..record import record
from .blank import Blank


def excess(blank: Blank) -> Array:
    """By how many percent the limits of the material are passed (n,) at each point of the blank's mesh.

    That of the triangles round a point, by their areas; above 0 where the material cannot take it. A triangle that
    fails among others that do not keeps its own.
    """
    assert blank.mesh is not None and blank.verdict is not None
    mesh, material = blank.mesh, blank.verdict.material
    stretch = 100 * mesh.stretch
    own = np.maximum(stretch[:, 0] - material.stretch, -stretch[:, 1] - material.compression)
    corners = mesh.points_blank[mesh.triangles]
    one, other = corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]
    area = np.abs(one[:, 0] * other[:, 1] - one[:, 1] * other[:, 0]) + 1e-300
    count = len(mesh.points_blank)
    total = np.bincount(mesh.triangles.ravel(), np.repeat(area, 3), count)
    values = np.bincount(mesh.triangles.ravel(), np.repeat(area * own, 3), count) / np.maximum(total, 1e-300)
    lost = blank.verdict.failing & (values[mesh.triangles] <= 0).all(axis=1)
    np.maximum.at(values, mesh.triangles[lost].ravel(), np.repeat(own[lost], 3))
    return values


@record
class Parted:
    """Triangles divided where values at their points are 0.

    The first points are those there were, then one for each pair ``between`` (k, 2) of them, at ``share`` (k,) of the
    way from the first to the second. ``parent`` (t,) is the triangle that each of ``triangles`` (t, 3) is a part of;
    ``above`` (t,) where the values are above 0.
    """

    triangles: np.ndarray
    between: np.ndarray
    share: Array
    parent: np.ndarray
    above: np.ndarray

    def at(self, points: Array) -> Array:
        """Values (n, d) at the points there were, for all points."""
        first, second = points[self.between[:, 0]], points[self.between[:, 1]]
        return np.vstack([points, first + self.share[:, None] * (second - first)])


def parted(triangles: np.ndarray, values: Array) -> Parted:
    """Divides triangles (t, 3) where ``values`` (n,) change their sign."""
    high = values[triangles] > 0
    count = high.sum(axis=1)
    mixed = np.nonzero((count == 1) | (count == 2))[0]
    # turned so that the corner that is alone on its side comes first
    alone = np.where(count[mixed] == 1, high[mixed].argmax(axis=1), (~high[mixed]).argmax(axis=1))
    a, b, c = (triangles[mixed, (alone + k) % 3] for k in range(3))
    pairs = np.sort(np.vstack([np.column_stack([a, b]), np.column_stack([a, c])]), axis=1).reshape(-1, 2)
    between, number = np.unique(pairs, axis=0, return_inverse=True)
    start, end = values[between[:, 0]], values[between[:, 1]]
    share = start / np.where(start == end, 1.0, start - end)
    ab, ac = len(values) + number.ravel().reshape(2, -1)
    first_above = count[mixed] == 1
    whole = np.setdiff1d(np.arange(len(triangles)), mixed)
    return Parted(
        np.vstack([triangles[whole], np.column_stack([a, ab, ac]), np.column_stack([ab, b, c]),
                   np.column_stack([ab, c, ac])]),
        between,
        share,
        np.r_[whole, mixed, mixed, mixed],
        np.r_[count[whole] == 3, first_above, ~first_above, ~first_above],
    )  # fmt: skip
