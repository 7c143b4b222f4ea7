"""Which face of a form holds a point, and the point's foot there: for arrays of points."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from ..correspondence import STILL, Correspondence, RigidLeaf
from ..errors import CannotBeDone
from ..lazy import Lazy
from .curves import Array
from .form import Form
from .unwrapped import unwrap, unwrap_plain, without_overlap

FINE = 1e-3
"""Outlines of faces are flattened to this in mm."""


@dataclass(frozen=True)
class Feet:
    """``points`` (n, 3) on the true surfaces, the ``faces`` (n,) they are on, ``gap`` (n,) from what was asked."""

    points: Array
    faces: np.ndarray
    gap: Array


@dataclass(frozen=True)
class Locator(Lazy):
    """Asks the ``faces`` of a form, each within its outline."""

    form: Form
    faces: tuple[int, ...]

    @classmethod
    def of(cls, form: Form, faces: Iterable[int] | None = None) -> Locator:
        return cls(form, tuple(face.number for face in form.faces) if faces is None else tuple(faces))

    @cached_property
    def _leaves(self) -> Correspondence:
        leaves = []
        for number in self.faces:
            face = without_overlap(self.form.face(number))
            try:
                laid = unwrap(face)
            except CannotBeDone:  # closed in every direction
                laid = unwrap_plain(face)
            leaves.append(RigidLeaf(number, laid.chart, laid.region(FINE), STILL))
        return Correspondence(tuple(leaves))

    def feet(self, points: Array) -> Feet:
        """The nearest point of the faces for each of the points (n, 3); beside an outline, on the surface continued."""
        points = np.asarray(points, float).reshape(-1, 3)
        at = self._leaves.to_blank(points)
        feet = points.copy()
        for number in np.unique(at.face).tolist():
            mine = at.face == number
            surface = self.form.face(number).surface
            feet[mine] = surface.evaluate(surface.project(points[mine]))
        return Feet(feet, at.face, np.linalg.norm(feet - points, axis=1))

    def inside(self, points: Array) -> np.ndarray:
        """Which points (n, 3) lie within the outline of the face that holds them."""
        return self._leaves.to_blank(np.asarray(points, float).reshape(-1, 3)).inside

    def normals(self, points: Array, faces: np.ndarray) -> Array:
        """The outward normals (n, 3) of ``faces`` (n,) at points (n, 3) on them."""
        found = np.zeros((len(points), 3))
        for number in np.unique(faces).tolist():
            mine, face = faces == number, self.form.face(number)
            found[mine] = face.outward(face.surface.project(points[mine]))
        return found
