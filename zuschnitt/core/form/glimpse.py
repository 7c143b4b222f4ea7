"""What a row would give, quickly and roughly: looked at while one of its values is being moved."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

import numpy as np

from ..geometry.curves import Array
from ..record import record


@record
class Glimpse:
    """Triangles and lines, in mm, that stand in for a form.

    ``points`` and ``normals`` (n, 3), ``triangles`` (t, 3); each of the ``lines`` is a polyline (k, 3).
    """

    points: Array
    normals: Array
    triangles: np.ndarray
    lines: tuple[Array, ...] = ()

    @staticmethod
    def of_bodies(bodies: Iterable[tuple[Array, np.ndarray]], lines: Sequence[Array] = ()) -> Glimpse:
        """Of bodies, each its points (n, 3) and its flat triangles (t, 3), anticlockwise from outside."""
        corners = np.concatenate([np.zeros((0, 3, 3)), *(points[triangles] for points, triangles in bodies)])
        normal = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
        size = np.linalg.norm(normal, axis=1)
        corners, normal = corners[size > 0], normal[size > 0] / size[size > 0, None]
        every = np.arange(3 * len(corners)).reshape(-1, 3)
        return Glimpse(corners.reshape(-1, 3), np.repeat(normal, 3, axis=0), every, tuple(lines))

    @staticmethod
    def of_shaded(bodies: Sequence[tuple[Array, Array, np.ndarray]], lines: Sequence[Array] = ()) -> Glimpse:
        """Of bodies, each its points and normals (n, 3) and its triangles (t, 3)."""
        if not bodies:
            return Glimpse.of_bodies((), lines)
        points, normals, triangles = zip(*bodies, strict=True)
        begin = np.cumsum([0, *(len(each) for each in points)])[:-1]
        corners = [each + first for each, first in zip(triangles, begin, strict=True)]
        return Glimpse(np.vstack(points), np.vstack(normals), np.vstack(corners), tuple(lines))
