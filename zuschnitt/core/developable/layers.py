"""The layers of a sheet: a face moved along its normals, laid flat in place of the face itself."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from ..errors import CannotBeDone
from ..form.charts import Chart
from ..form.form import Face
from ..form.unwrapped import Unwrapped, unwrap
from ..geometry.curves import Array
from ..geometry.offset_surface import OffsetSurface
from ..geometry.surfaces import Cone, Cylinder, Fitted, Frame, Plane, Revolution, Sphere, SplineSurface, Surface, Torus
from ..mesh.mesh_surface import MeshSurface
from ..mesh.triangles import normals_at_points
from ..record import record
from .developable import with_flat

LAYERS = ("given", "neutral", "neutral_of_inner", "other")


@record
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
    return OffsetSurface(surface, distance, surface.bounds)


def _lifted(frame: Frame, distance: float) -> Frame:
    return Frame(frame.origin + distance * frame.axes[2], frame.axes)


def _require(face: Face, radius: float) -> None:
    if radius <= 0:
        raise CannotBeDone(
            f"Face {face.number} has a radius that is smaller than the sheet is thick, so it has no such layer; "
            "take a thinner sheet, or the faces as they are.",
            faces=[face.number],
        )
