"""Which face of a form holds a point, and the point's foot there: for arrays of points."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from ..correspondence import STILL, Correspondence, RigidLeaf
from ..errors import CannotBeDone
from ..geometry.curves import Array
from ..lazy import Lazy
from .form import Form
from .unwrapped import unwrap, unwrap_plain, without_overlap

FINE = 1e-3
"""Outlines of faces are flattened to this in mm."""


@dataclass(frozen=True)
class Feet:
    """``points`` (n, 3) on the true surfaces, the ``faces`` (n,) they are on, ``gap`` (n,) from what was asked.

    ``uv`` (n, 2) are their parameters there; ``inside`` (n,) tells which of them lie within their face's outline.
    """

    points: Array
    faces: np.ndarray
    gap: Array
    uv: Array
    inside: np.ndarray


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
