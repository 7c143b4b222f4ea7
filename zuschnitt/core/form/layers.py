"""The layers of a sheet: a face moved along its normals, laid flat in place of the face itself."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from ..errors import CannotBeDone
from ..triangles import normals_at_points
from .charts import Chart
from .curves import Array
from .developable import with_flat
from .form import Face
from .mesh_surface import MeshSurface
from .surfaces import Cone, Cylinder, Fitted, Frame, Plane, Revolution, Sphere, SplineSurface, Surface, Torus
from .unwrapped import Unwrapped, unwrap

LAYERS = ("given", "neutral", "neutral_of_inner", "other")


@dataclass(frozen=True)
class Offset(Fitted):
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


@dataclass(frozen=True)
class LayerChart(Chart):
    """Lays a layer flat (``inner``), while points are carried on the face that was given."""

    inner: Chart = None  # type: ignore[assignment]

    def flatten(self, uv: Array) -> Array:
        return self.inner.flatten(uv)

    def unflatten(self, xy: Array) -> Array:
        return self.inner.unflatten(xy)

    def to_layer(self, xy: Array) -> Array:
        return self.inner.to_form(xy)


def layered(face: Face, distance: float, seam_uv: Array | None) -> Unwrapped:
    """The face unwrapped as its layer ``distance`` mm along the outer normal. Raises CannotBeDone where a
    radius is too small for that."""
    moved = replace(face, surface=_moved(face, -distance if face.reversed else distance), flat=None)
    laid = unwrap(with_flat(moved), seam_uv)
    return Unwrapped(laid.face, LayerChart(face.surface, laid.chart.window, inner=laid.chart), laid.loops)


def _moved(face: Face, distance: float) -> Surface:
    """The surface moved along du x dv, in the same parameters."""
    surface = face.surface
    if isinstance(surface, Plane):
        return Plane(_lifted(surface.frame, distance))
    if isinstance(surface, Cylinder | Sphere | Torus):
        _require(face, surface.radius + distance)
        return replace(surface, radius=surface.radius + distance)
    if isinstance(surface, Cone):
        across, along = distance * np.cos(surface.half_angle), -distance * np.sin(surface.half_angle)
        return replace(surface, radius=surface.radius + across, frame=_lifted(surface.frame, along))
    if isinstance(surface, MeshSurface):
        normals = normals_at_points(surface.points, surface.triangles)
        return replace(surface, points=surface.points + distance * normals, developable=False)
    assert isinstance(surface, SplineSurface | Revolution | Fitted)
    return Offset(surface, distance, surface.bounds)


def _lifted(frame: Frame, distance: float) -> Frame:
    return Frame(frame.origin + distance * frame.axes[2], frame.axes)


def _require(face: Face, radius: float) -> None:
    if radius <= 0:
        raise CannotBeDone(
            f"Face {face.number} has a radius that is smaller than the sheet is thick, so it has no such layer; "
            "take a thinner sheet, or the faces as they are.",
            faces=[face.number],
        )
