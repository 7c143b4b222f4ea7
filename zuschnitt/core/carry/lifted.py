"""Points above a blank carried to the form: each at its height along the form's normal."""

from __future__ import annotations

from collections.abc import Iterable
from functools import cached_property

import numpy as np

from ..correspondence import Correspondence, Leaf
from ..form.form import Form
from ..geometry.curves import Array
from ..lazy import Lazy
from ..record import record

STEP = 1e-3
"""How far apart points are looked at to see how a surface bends, in mm."""


@record
class Lifting(Lazy):
    """The map of points (x, y, z) above a blank to space; z is in mm to the outer side of the form."""

    form: Form
    correspondence: Correspondence

    @cached_property
    def leaves(self) -> dict[int, Leaf]:
        return {leaf.face: leaf for leaf in self.correspondence.leaves}

    def on(self, face: int, points: Array) -> Array:
        """Points (n, 3) carried by one face, continued where they lie beside it."""
        leaf = self.leaves[face]
        uv = leaf.chart.unflatten(leaf.blank_to_chart(points[:, :2])[0])
        surface = self.form.face(face)
        return surface.surface.evaluate(uv) + points[:, 2:] * surface.upright(uv)

    def face_at(self, points: Array) -> np.ndarray:
        """The faces (n,) on which points (n, 2) of the blank lie, or to which they are nearest."""
        return self.correspondence.to_form(points).face

    def bending(self, face: int, points: Array) -> tuple[Array, Array]:
        """The lowest and the highest principal curvature (n,) in 1/mm at points (n, 2) of a face of the blank.

        Positive where the form bends away from its outer side, as a ball does. From the derivatives of points and
        normals along the blank (do Carmo, Differential Geometry of Curves and Surfaces, section 3.3).
        """
        flat = np.column_stack([points, np.zeros(len(points))])
        dx, dy = np.array([STEP, 0, 0]), np.array([0, STEP, 0])
        up = np.array([0, 0, 1.0])

        def normal(at: Array) -> Array:
            return self.on(face, at + up) - self.on(face, at)

        tangents = [(self.on(face, flat + d) - self.on(face, flat - d)) / (2 * STEP) for d in (dx, dy)]
        turns = [(normal(flat + d) - normal(flat - d)) / (2 * STEP) for d in (dx, dy)]
        first = np.array([[np.einsum("ij,ij->i", a, b) for b in tangents] for a in tangents]).transpose(2, 0, 1)
        second = np.array([[np.einsum("ij,ij->i", a, b) for b in tangents] for a in turns]).transpose(2, 0, 1)
        shape = np.linalg.solve(first, (second + second.transpose(0, 2, 1)) / 2)
        values = np.sort(np.linalg.eigvals(shape).real, axis=1)
        return values[:, 0], values[:, 1]


def room(lifting: Lifting, points: Array, faces: Iterable[int]) -> tuple[Array, Array]:
    """How deep (negative) and how high (n,) one may go at points (n, 2) until normals cross; infinite where free."""
    faces = np.asarray(list(faces))
    low, high = np.full(len(points), -np.inf), np.full(len(points), np.inf)
    for face in np.unique(faces).tolist():
        mine = faces == face
        least, most = lifting.bending(face, points[mine])
        with np.errstate(divide="ignore"):
            low[mine] = np.where(most > 1e-9, -1 / np.maximum(most, 1e-300), -np.inf)
            high[mine] = np.where(least < -1e-9, -1 / np.minimum(least, -1e-300), np.inf)
    return low, high
