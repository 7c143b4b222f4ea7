"""Plain projection along the normal at the hold point, with which carrying by the blank is compared."""

from __future__ import annotations

import numpy as np

from ..develop.blank import Blank
from ..form.form import Form
from ..geometry.curves import Array

STEPS = 20
HIT = 1e-7
"""A ray has met a surface when it is this near, in mm."""
BLOCK = 2_000_000


def against_projection(form: Form, blank: Blank, points_blank: Array) -> float | None:
    """How far in mm points (n, 2) of the blank lie on the form from their projection along the hold point's normal.

    A ray that meets the form several times counts where it is nearest. None where no ray meets it.
    """
    at = blank.correspondence.to_form(points_blank)
    points, target = points_blank[at.inside], at.points[at.inside]
    if not len(points):
        return None
    across = np.cross(blank.normal_form, blank.along_form)
    start = blank.hold_form + points @ np.stack([blank.along_form, across])
    best = np.full(len(points), np.inf)
    for number in blank.faces:
        mesh = form.meshes[number - 1]
        row, uv = _met(mesh.points[mesh.triangles], mesh.uv[mesh.triangles], start, blank.normal_form)
        surface = form.face(number).surface
        for _ in range(STEPS):
            du, dv = surface.derivatives(uv)
            gap = start[row] - surface.evaluate(uv)
            matrix = np.stack([du, dv, np.broadcast_to(-blank.normal_form, du.shape)], axis=2)
            good = np.abs(np.linalg.det(matrix)) > 1e-9 * np.linalg.norm(matrix, axis=1).prod(axis=1)
            row, uv, matrix, gap = row[good], uv[good], matrix[good], gap[good]
            step = np.linalg.solve(matrix, gap[:, :, None])[:, :2, 0]
            uv = uv + step
        found = surface.evaluate(uv)
        off = found - start[row]
        hit = np.linalg.norm(off - (off @ blank.normal_form)[:, None] * blank.normal_form, axis=1) < HIT
        np.minimum.at(best, row[hit], np.linalg.norm(found[hit] - target[row[hit]], axis=1))
    found = best[np.isfinite(best)]
    return float(found.max()) if len(found) else None


def _met(corners: Array, uv: Array, start: Array, way: Array) -> tuple[np.ndarray, Array]:
    """Which lines along ``way`` from points ``start`` (n, 3) meet triangles (t, 3, 3), and at which parameters."""
    e1, e2 = corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]
    across = np.cross(way, e2)
    det = (across * e1).sum(axis=1)
    seen = np.abs(det) > 1e-12 * np.linalg.norm(e1, axis=1) * np.linalg.norm(e2, axis=1)
    corners, uv, e1, across, det, e2 = (a[seen] for a in (corners, uv, e1, across, det, e2))
    rows, places = [np.zeros(0, int)], [np.zeros((0, 2))]
    size = max(1, BLOCK // max(len(corners), 1))
    for k in range(0, len(start), size):
        off = start[k : k + size, None] - corners[:, 0]
        a = (off * across).sum(axis=2) / det
        b = np.cross(off, e1) @ way / det
        ray, triangle = np.nonzero((a > -1e-6) & (b > -1e-6) & (a + b < 1 + 1e-6))
        a, b = a[ray, triangle][:, None], b[ray, triangle][:, None]
        rows.append(ray + k)
        three = uv[triangle]
        places.append(three[:, 0] + a * (three[:, 1] - three[:, 0]) + b * (three[:, 2] - three[:, 0]))
    return np.concatenate(rows), np.vstack(places)
