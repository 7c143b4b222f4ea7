"""A mesh file read back before it leaves, by trimesh, which knows nothing of the writer."""

from __future__ import annotations

import io

import numpy as np

from ..errors import CannotBeDone
from ..geometry.curves import Array

RATIO = 1e-5
"""Numbers are written with some seven digits: what is measured may differ by this part of it."""
MOST = 400_000
"""Files of more triangles than this are not read back: that would take longer than writing them."""


def require_same_triangles(content: bytes, ending: str, corners: Array) -> None:
    """Raises CannotBeDone where the file does not hold the triangles ``corners`` (t, 3, 3), in mm.

    Their number, their area and their middles are compared.
    """
    if not 0 < len(corners) <= MOST:
        return
    import trimesh

    scene = trimesh.load_scene(io.BytesIO(content), file_type=ending, process=False)
    read = scene.to_mesh().triangles
    if len(read) != len(corners):
        raise _broken(ending, f"it has {len(read):,} triangles, not {len(corners):,}")
    off, reach = _apart(read, corners), float(np.abs(corners).max())
    if off > RATIO * reach:
        raise _broken(ending, f"a triangle lies {off:.3f} mm from where it should")
    found, wanted = _area(read), _area(corners)
    if abs(found - wanted) > RATIO * max(wanted, reach**2 * RATIO):
        raise _broken(ending, f"its area is {found:.3f} mm², not {wanted:.3f} mm²")


def _apart(read: Array, corners: Array) -> float:
    """The largest distance in mm from the middle of a triangle to the nearest one of the others, both ways."""
    from scipy.spatial import cKDTree

    one, other = cKDTree(read.mean(axis=1)), cKDTree(corners.mean(axis=1))
    return float(max(one.query(other.data)[0].max(), other.query(one.data)[0].max()))


def _area(corners: Array) -> float:
    double = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    return float(np.linalg.norm(double, axis=1).sum()) / 2


def _broken(ending: str, why: str) -> CannotBeDone:
    return CannotBeDone(
        f"The {ending.upper()} file that was made does not hold what it should, so it is not written: {why}. Write "
        "another kind of file, and please report it."
    )
