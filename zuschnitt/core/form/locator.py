"""Which face of a form holds a point, and the point's foot there: for arrays of points."""

from __future__ import annotations

from collections.abc import Iterable
from functools import cached_property

import numpy as np

from ..correspondence import STILL, Correspondence, RigidLeaf
from ..errors import CannotBeDone
from ..geometry.curves import Array
from ..lazy import Lazy
from ..mesh.mesh_surface import MeshSurface
from ..record import record
from .form import Form, distance_to_triangles
from .unwrapped import Unwrapped, unwrap, unwrap_plain, without_overlap

FINE = 1e-3
"""Outlines of faces are flattened to this in mm."""
SAG = 0.02
"""Triangles lie no further from the face they are of than this part of their extent."""


@record
class Feet:
    """``points`` (n, 3) on the true surfaces, the ``faces`` (n,) they are on, ``gap`` (n,) from what was asked.

    ``uv`` (n, 2) are their parameters there; ``inside`` (n,) tells which of them lie within their face's outline.
    """

    points: Array
    faces: np.ndarray
    gap: Array
    uv: Array
    inside: np.ndarray


@record
class Locator(Lazy):
    """Asks the ``faces`` of a form, each within its outline."""

    form: Form
    faces: tuple[int, ...]

    @classmethod
    def of(cls, form: Form, faces: Iterable[int] | None = None) -> Locator:
        return cls(form, tuple(face.number for face in form.faces) if faces is None else tuple(faces))

    @cached_property
    def _leaves(self) -> Correspondence:
        laid = []
        for number in self.faces:
            face = without_overlap(self.form.face(number))
            try:
                laid.append(unwrap(face))
            except CannotBeDone:  # closed in every direction
                laid.append(unwrap_plain(face))
        return charted(laid, FINE)

    def feet(self, points: Array) -> Feet:
        """The nearest point of the faces for each of the points (n, 3); beside an outline, on the surface continued."""
        points = np.asarray(points, float).reshape(-1, 3)
        at = self._leaves.nearest(points)
        feet = points.copy()
        for number in np.unique(at.face).tolist():
            mine = at.face == number
            feet[mine] = self.form.face(number).surface.evaluate(at.uv[mine])
        return Feet(feet, at.face, np.linalg.norm(feet - points, axis=1), at.uv, at.inside)

    def inside(self, points: Array) -> np.ndarray:
        """Which points (n, 3) lie within the outline of the face that holds them."""
        return self._leaves.to_blank(np.asarray(points, float).reshape(-1, 3)).inside

    def normals(self, points: Array, faces: np.ndarray) -> Array:
        """The outward normals (n, 3) of ``faces`` (n,) at points (n, 3) on them."""
        uv = np.zeros((len(points), 2))
        for number in np.unique(faces).tolist():
            mine = faces == number
            uv[mine] = self.form.face(number).surface.project(points[mine])
        return self._outward(uv, faces)

    def outward(self, feet: Feet) -> Array:
        """The outward normals (n, 3) at feet."""
        return self._outward(feet.uv, feet.faces)

    def _outward(self, uv: Array, faces: np.ndarray) -> Array:
        found = np.zeros((len(uv), 3))
        for number in np.unique(faces).tolist():
            mine = faces == number
            found[mine] = self.form.face(number).outward(uv[mine])
        return found


def charted(faces: Iterable[Unwrapped], fine: float) -> Correspondence:
    """Faces each in its own chart, their outlines flattened to ``fine`` mm: to ask which of them holds a point."""
    return Correspondence(tuple(RigidLeaf(laid.face.number, laid.chart, laid.region(fine), STILL) for laid in faces))


def foot(form: Form, point: Array) -> tuple[int, Array]:
    """The face of a form that holds a ``point`` (3,), or is nearest to it, and the nearest point (3,) on it.

    Triangles say first which faces are near, so that few of many are asked.
    """
    point = np.asarray(point, float)
    corners = [mesh.points[mesh.triangles] for mesh in form.meshes]
    gaps = np.array([distance_to_triangles(point, each) for each in corners])
    sags = np.array([SAG * float(np.ptp(each.reshape(-1, 3), axis=0).max()) for each in corners])
    near = np.nonzero(gaps - sags <= (gaps + sags).min())[0]
    best, found = np.inf, (0, point)
    smooth = []
    for k in near.tolist():
        surface = form.faces[k].surface
        if not isinstance(surface, MeshSurface):
            smooth.append(k + 1)
            continue
        at = surface.nearest(point[None])[0]  # its triangles end where the face does
        if (gap := float(np.linalg.norm(at - point))) < best:
            best, found = gap, (k + 1, at)
    if smooth:
        feet = Locator.of(form, smooth).feet(point)
        if feet.gap[0] < best:
            found = int(feet.faces[0]), feet.points[0]
    return found
