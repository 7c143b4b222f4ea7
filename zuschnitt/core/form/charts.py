"""Charts: each face's parameters as a plane that resembles the face.

For planes, cylinders and cones the chart is the exact development. For other surfaces it only has
nearly the right proportions; it is where they are triangulated, and where their development starts.
Every chart is seen from the outer side: it never mirrors the face.
"""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from ..geometry.curves import Array, Line
from ..geometry.ruled_flat import FlatMap
from ..geometry.surfaces import Cone, Cylinder, Plane, Sphere, Surface
from ..mesh.mesh_surface import MeshSurface
from ..record import record
from .form import Coedge

ROWS = 257
"""How many rows a tapered chart knows."""
WIDEST = np.radians(330)
"""No chart round a pole that is open somewhere takes more than this angle."""
STRAIGHT = 1e-9
"""A walk on a cylinder is straight where the angle at its ends differs by no more than this, in radians."""
NEAR = 0.02
"""How far from a pole, as a part of the face, it is looked at how wide the angle round it is."""

Window = tuple[float | None, float | None]


@record
class Chart:
    """``flatten`` maps parameters (n, 2) to the chart (n, 2) in mm, ``unflatten`` maps back.

    ``window`` is where a parameter that comes round again begins; ``mirror`` is -1 where y is
    turned over so that the outer side is seen.
    """

    surface: Surface
    window: Window
    mirror: float = 1.0

    def flatten(self, uv: Array) -> Array:
        return self._to_plane(uv) * [1, self.mirror]

    def unflatten(self, xy: Array) -> Array:
        return self._from_plane(xy * [1, self.mirror])

    def within(self, uv: Array) -> Array:
        """The same points with their parameters in the window."""
        uv = np.array(uv, float)
        for axis, (start, period) in enumerate(zip(self.window, self.surface.periods, strict=True)):
            if start is not None and period is not None:
                uv[:, axis] = start + (uv[:, axis] - start) % period
        return uv

    def to_form(self, xy: Array) -> Array:
        """Points (n, 3) on the true surface of chart points (n, 2)."""
        return self.surface.evaluate(self.unflatten(xy))

    def to_layer(self, xy: Array) -> Array:
        """Points (n, 3) of what is laid flat, of chart points (n, 2): the surface itself, or a layer of the sheet."""
        return self.to_form(xy)

    def squeezed(self, coedge: Coedge) -> float:
        """How much shorter a walk is in the chart than it would be in nearly the right proportions."""
        return 1.0

    def _to_plane(self, uv: Array) -> Array:
        raise NotImplementedError

    def _from_plane(self, xy: Array) -> Array:
        raise NotImplementedError

    def _middle(self) -> float:
        start, period = self.window[0], self.surface.periods[0]
        return 0.0 if start is None or period is None else start + period / 2


@record
class PlaneChart(Chart):
    def _to_plane(self, uv: Array) -> Array:
        return np.asarray(uv, float)

    def _from_plane(self, xy: Array) -> Array:
        return np.asarray(xy, float)


@record
class CylinderChart(Chart):
    surface: Cylinder

    def _to_plane(self, uv: Array) -> Array:
        return (uv - np.array([self._middle(), 0])) * [self.surface.radius, 1]

    def _from_plane(self, xy: Array) -> Array:
        return xy / [self.surface.radius, 1] + [self._middle(), 0]


@record
class SqueezedChart(CylinderChart):
    """Shorter along the axis, where nothing bends: triangles are long there, and fine across."""

    along: float = 1.0

    def squeezed(self, coedge: Coedge) -> float:
        straight = isinstance(coedge.curve, Line) and abs(np.subtract(*coedge.ends)[0]) < STRAIGHT
        return self.along if straight else 1.0

    def _to_plane(self, uv: Array) -> Array:
        return super()._to_plane(uv) * [1, self.along]

    def _from_plane(self, xy: Array) -> Array:
        return super()._from_plane(xy / [1, self.along])


@record
class ConeChart(Chart):
    """The sector round the apex: an angle on the cone shrinks by the sine of the half angle."""

    surface: Cone
    side: float = 1.0

    def _to_plane(self, uv: Array) -> Array:
        angle = (uv[:, 0] - self._middle()) * abs(np.sin(self.surface.half_angle))
        slant = (uv[:, 1] - self.surface.apex_v) * self.side
        return np.array([slant * np.cos(angle), slant * np.sin(angle)]).T

    def _from_plane(self, xy: Array) -> Array:
        angle = np.arctan2(xy[:, 1], xy[:, 0]) / abs(np.sin(self.surface.half_angle))
        slant = np.hypot(xy[:, 0], xy[:, 1])
        return np.array([angle + self._middle(), slant * self.side + self.surface.apex_v]).T


@record
class ScaledChart(Chart):
    """Parameters scaled to their mean length in mm."""

    scale: tuple[float, float] = (1.0, 1.0)

    def _to_plane(self, uv: Array) -> Array:
        return uv * np.array(self.scale)

    def _from_plane(self, xy: Array) -> Array:
        return xy / self.scale


@record
class EvenChart(Chart):
    """Each parameter by the length of the patch's middle line along it: ``table_u``, ``table_v`` (k, 2)
    of parameter and length in mm."""

    table_u: Array = None  # type: ignore[assignment]
    table_v: Array = None  # type: ignore[assignment]

    def _to_plane(self, uv: Array) -> Array:
        return np.array([_looked_up(uv[:, k], *table.T) for k, table in enumerate((self.table_u, self.table_v))]).T

    def _from_plane(self, xy: Array) -> Array:
        return np.array(
            [_looked_up(xy[:, k], *table.T[::-1]) for k, table in enumerate((self.table_u, self.table_v))]
        ).T


def _looked_up(values: Array, known: Array, result: Array) -> Array:
    """Linear between the entries, and on beyond both ends."""
    k = np.clip(np.searchsorted(known, values) - 1, 0, len(known) - 2)
    slope = (result[k + 1] - result[k]) / (known[k + 1] - known[k])
    return result[k] + (values - known[k]) * slope


@record
class FlatChart(Chart):
    """A face that was found to be developable, by its flat."""

    flat: FlatMap = None  # type: ignore[assignment]

    def _to_plane(self, uv: Array) -> Array:
        return self.flat.to_plane(uv)

    def _from_plane(self, xy: Array) -> Array:
        return self.flat.from_plane(xy)


@record
class PolarChart(Chart):
    """Round a pole: ``v`` from the pole is the radius, ``u`` the angle (azimuthal equidistant)."""

    pole_v: float = 0.0
    side: float = 1.0
    scale: float = 1.0
    start_u: float = 0.0
    angle_per_u: float = 1.0

    def _to_plane(self, uv: Array) -> Array:
        angle = (uv[:, 0] - self.start_u) * self.angle_per_u
        r = (uv[:, 1] - self.pole_v) * self.side * self.scale
        return np.array([r * np.cos(angle), r * np.sin(angle)]).T

    def _from_plane(self, xy: Array) -> Array:
        angle = (np.arctan2(xy[:, 1], xy[:, 0]) + 1e-12) % (2 * np.pi) - 1e-12
        r = np.hypot(xy[:, 0], xy[:, 1])
        return np.array([angle / self.angle_per_u + self.start_u, r * self.side / self.scale + self.pole_v]).T


@record
class TaperedChart(Chart):
    """From one pole to another, as a gore: each row of equal ``v`` as wide as it is on the surface.

    ``v`` (k,) are rows, ``height`` (k,) how far each is from the first one and ``width`` (k,) its mm per ``u``; both
    are mean values (the sinusoidal projection of maps is that of a sphere).
    """

    v: Array = None  # type: ignore[assignment]
    height: Array = None  # type: ignore[assignment]
    width: Array = None  # type: ignore[assignment]
    middle_u: float = 0.0

    def _to_plane(self, uv: Array) -> Array:
        across = (uv[:, 0] - self.middle_u) * np.interp(uv[:, 1], self.v, self.width)
        return np.array([across, self._beyond(uv[:, 1], self.v, self.height)]).T

    def _from_plane(self, xy: Array) -> Array:
        v = self._beyond(xy[:, 1], self.height, self.v)
        width = np.interp(v, self.v, self.width)
        u = np.where(width > 0, xy[:, 0] / np.maximum(width, 1e-300), 0.0)
        return np.array([u + self.middle_u, v]).T

    @staticmethod
    def _beyond(at: Array, known: Array, values: Array) -> Array:
        """Interpolated, and continued straight beyond both ends."""
        slopes = (values[[1, -1]] - values[[0, -2]]) / (known[[1, -1]] - known[[0, -2]])
        before, after = np.minimum(at - known[0], 0), np.maximum(at - known[-1], 0)
        return np.interp(at, known, values) + slopes[0] * before + slopes[1] * after


def chart_of(
    surface: Surface, reversed_: bool, box: Array, window: Window, poles: tuple[float, ...] = (), closed: bool = False
) -> Chart:
    """The chart of a face whose parameters lie in ``box`` ((2, 2): low, high).

    ``poles`` are the v where the surface is a single point, as far as the face reaches them; ``closed`` tells that it
    goes all round a pole.
    """
    middle = box.mean(axis=0)
    chart: Chart
    if isinstance(surface, Plane):
        chart = PlaneChart(surface, window)
    elif isinstance(surface, Cylinder):
        chart = CylinderChart(surface, window)
    elif isinstance(surface, Cone):
        chart = ConeChart(surface, window, side=float(np.sign(middle[1] - surface.apex_v) or 1))
    elif len(poles) == 1:
        chart = _polar(surface, box, window, poles[0], closed)
    elif len(poles) == 2 and not closed:
        chart = _tapered(surface, box, window)
    elif isinstance(surface, MeshSurface):  # its parameters are in mm
        chart = ScaledChart(surface, window)
    else:
        chart = ScaledChart(surface, window, scale=_mean_lengths(surface, box))
    return replace(chart, mirror=orientation(chart, middle) * (-1 if reversed_ else 1))


def _tapered(surface: Surface, box: Array, window: Window) -> TaperedChart:
    v = np.linspace(box[0, 1], box[1, 1], ROWS)
    grid = np.stack(np.meshgrid(np.linspace(box[0, 0], box[1, 0], 9), v, indexing="ij"), -1)
    du, dv = (np.linalg.norm(d, axis=1).reshape(9, ROWS).mean(axis=0) for d in surface.derivatives(grid.reshape(-1, 2)))
    du[[0, -1]] = 0.0
    dv = np.maximum(dv, 1e-9 * dv.max())
    height = np.r_[0, np.cumsum((dv[1:] + dv[:-1]) / 2 * np.diff(v))]
    return TaperedChart(surface, window, v=v, height=height, width=du, middle_u=float(box[:, 0].mean()))


def _polar(surface: Surface, box: Array, window: Window, pole_v: float, closed: bool) -> PolarChart:
    far_v = box[0, 1] if abs(box[1, 1] - pole_v) < abs(box[0, 1] - pole_v) else box[1, 1]
    if isinstance(surface, Sphere):
        scale, per_u, start = surface.radius, 1.0, window[0] or 0.0
    else:
        width = float(box[1, 0] - box[0, 0])
        scale = _mean_lengths(surface, box)[1]
        if closed:
            per_u, start = 2 * np.pi / width, float(box[0, 0])
        else:  # as wide an angle as there is round the pole, which lies in the middle of those that it leaves free
            per_u = min(_angle_at(surface, box, pole_v, far_v), WIDEST / width)
            start = float(box[:, 0].mean()) - np.pi / per_u
    return PolarChart(
        surface,
        window,
        pole_v=pole_v,
        side=float(np.sign(far_v - pole_v)),
        scale=scale,
        start_u=start,
        angle_per_u=per_u,
    )


def _angle_at(surface: Surface, box: Array, pole_v: float, far_v: float) -> float:
    """How far it is round the pole for each u, as an angle in radians."""
    u = np.linspace(box[0, 0], box[1, 0], 9)
    near = pole_v + NEAR * (far_v - pole_v)
    du, _ = surface.derivatives(np.stack([u, np.full(9, near)], axis=1))
    off = surface.evaluate(np.stack([u, np.full(9, near)], axis=1)) - surface.evaluate(np.array([[u[4], pole_v]]))
    return float(np.linalg.norm(du, axis=1).mean() / max(np.linalg.norm(off, axis=1).mean(), 1e-300))


def _mean_lengths(surface: Surface, box: Array) -> tuple[float, float]:
    low, high = box
    grid = np.stack(np.meshgrid(*(np.linspace(a, b, 9) for a, b in zip(low, high, strict=True))), -1)
    du, dv = surface.derivatives(grid.reshape(-1, 2))
    return float(np.linalg.norm(du, axis=1).mean()), float(np.linalg.norm(dv, axis=1).mean())


def orientation(chart: Chart, uv: Array, scale: float = 1.0) -> float:
    """+1 where the chart (unmirrored) turns as the parameters do, else -1."""
    step = 1e-4 * scale * np.eye(2)
    columns = chart._to_plane(uv + step) - chart._to_plane(uv - step)
    return float(np.sign(np.linalg.det(columns)) or 1)
