"""A surface at a distance from another one, along its normals."""

from __future__ import annotations

import numpy as np

from ..record import record
from .curves import Array
from .surfaces import Fitted, Surface


@record
class OffsetSurface(Fitted):
    """``base`` moved by ``distance`` mm along du x dv."""

    base: Surface
    distance: float
    bounds: tuple[float, float, float, float]
    kind = "freeform"

    def evaluate(self, uv: Array) -> Array:
        return self.base.evaluate(uv) + self.distance * self.base.normals(uv)

    def derivatives(self, uv: Array) -> tuple[Array, Array]:
        """The base's tangents, and the turning of its normals by central differences."""
        u0, u1, v0, v1 = self.bounds
        found = []
        for tangent, step in zip(self.base.derivatives(uv), np.diag([u1 - u0, v1 - v0]) * 1e-5, strict=True):
            turning = (self.base.normals(uv + step) - self.base.normals(uv - step)) / (2 * np.abs(step).max())
            found.append(tangent + self.distance * turning)
        return found[0], found[1]
