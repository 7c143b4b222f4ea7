"""The true surfaces of faces, evaluated without the geometry kernel.

Every surface maps parameters ``uv`` (n, 2) to points (n, 3) in mm and back. Angles are in radians;
the parametrisations are those of ISO 10303-42, so that STEP parameters can be used as they are.
"""

from __future__ import annotations

from functools import cached_property
from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import NDArray

from ..lazy import Lazy
from ..record import record
from .curves import Curve, Spline, sharp_knots

if TYPE_CHECKING:
    from scipy.spatial import cKDTree

Array = NDArray[np.float64]
TURN = 2 * np.pi
PIECES = 5
"""So many pieces between creases are tried for a point."""
AT_A_SIDE = 1e-6
"""Within this part of the whole, parameters are at a side of it."""
NOT_ONTO = 0.9
"""How far a careful step goes towards a side: one that is a pole is never left again."""
FOOT = 1e-7
"""A point nearer than this to its foot lies on the surface, in mm."""


@record
class Frame(Lazy):
    """A place in space: ``origin`` (3,) and the rows x, y, z of ``axes`` (3, 3)."""

    origin: Array
    axes: Array

    @cached_property
    def hand(self) -> float:
        """1, or -1 where it is left-handed: some programs write such, and a kernel mirrors them."""
        (a, b, c), (d, e, f), (g, h, i) = self.axes.tolist()
        return 1.0 if a * (e * i - f * h) - b * (d * i - f * g) + c * (d * h - e * g) > 0 else -1.0

    def local(self, points: Array) -> Array:
        return (points - self.origin) @ self.axes.T

    def world(self, local: Array) -> Array:
        return self.origin + local @ self.axes

    def directions(self, local: Array) -> Array:
        return local @ self.axes


class Surface:
    """What all surfaces have. ``periods`` says after which step u or v comes round again, if it does."""

    kind = "freeform"
    developable = False
    periods: tuple[float | None, float | None] = (None, None)

    @property
    def breaks_u(self) -> Array:
        """Inner values of u between which the surface is smooth enough to integrate over."""
        return np.zeros(0)

    @property
    def breaks_v(self) -> Array:
        """The same of v."""
        return np.zeros(0)

    @property
    def sharp(self) -> tuple[Array, Array]:
        """Values of u, and of v, at which the surface is continuous but need not be smooth."""
        return np.zeros(0), np.zeros(0)

    def evaluate(self, uv: Array) -> Array:
        raise NotImplementedError

    def derivatives(self, uv: Array) -> tuple[Array, Array]:
        """The tangents along u and v, each (n, 3)."""
        raise NotImplementedError

    def project(self, points: Array) -> Array:
        """Parameters (n, 2) of the feet of ``points`` (n, 3) on the surface."""
        raise NotImplementedError

    def nearest(self, points: Array) -> Array:
        """The feet (n, 3) of ``points`` (n, 3) on the surface."""
        return self.evaluate(self.project(points))

    def normals(self, uv: Array) -> Array:
        """Unit normals (n, 3) along du x dv; zero at a pole."""
        du, dv = self.derivatives(uv)
        normal = np.cross(du, dv)
        size = np.linalg.norm(normal, axis=-1, keepdims=True)
        return normal / np.maximum(size, 1e-300)

    def smooth_normals(self, uv: Array) -> Array:
        """Unit normals (n, 3) that change evenly where those of the surface jump, as from triangle to triangle."""
        return self.normals(uv)


@record
class Plane(Surface):
    frame: Frame
    kind = "plane"
    developable = True

    def evaluate(self, uv: Array) -> Array:
        return self.frame.origin + uv @ self.frame.axes[:2]

    def derivatives(self, uv: Array) -> tuple[Array, Array]:
        x, y, _ = self.frame.axes
        return np.broadcast_to(x, (len(uv), 3)), np.broadcast_to(y, (len(uv), 3))

    def normals(self, uv: Array) -> Array:
        return np.tile(self.frame.hand * self.frame.axes[2], (len(uv), 1))

    def project(self, points: Array) -> Array:
        return self.frame.local(points)[:, :2]


@record
class Cylinder(Surface):
    frame: Frame
    radius: float
    kind = "cylinder"
    developable = True
    periods = (TURN, None)

    def evaluate(self, uv: Array) -> Array:
        u, v = uv.T
        return self.frame.world(np.array([self.radius * np.cos(u), self.radius * np.sin(u), v]).T)

    def derivatives(self, uv: Array) -> tuple[Array, Array]:
        u = uv[:, 0]
        around = np.array([-self.radius * np.sin(u), self.radius * np.cos(u), 0 * u]).T
        return self.frame.directions(around), np.broadcast_to(self.frame.axes[2], around.shape)

    def normals(self, uv: Array) -> Array:
        u = uv[:, 0]
        way = np.sign(self.radius) * self.frame.hand
        return way * self.frame.directions(np.array([np.cos(u), np.sin(u), 0 * u]).T)

    def project(self, points: Array) -> Array:
        x, y, z = self.frame.local(points).T
        return np.array([np.arctan2(y, x) % TURN, z]).T


@record
class Cone(Surface):
    """``radius`` is that at v = 0; v runs along the slant; ``half_angle`` is from axis to slant."""

    frame: Frame
    radius: float
    half_angle: float
    kind = "cone"
    developable = True
    periods = (TURN, None)

    @property
    def apex_v(self) -> float:
        return -self.radius / np.sin(self.half_angle)

    def evaluate(self, uv: Array) -> Array:
        u, v = uv.T
        r = self.radius + v * np.sin(self.half_angle)
        return self.frame.world(np.array([r * np.cos(u), r * np.sin(u), v * np.cos(self.half_angle)]).T)

    def derivatives(self, uv: Array) -> tuple[Array, Array]:
        u, v = uv.T
        sine, cosine = np.sin(self.half_angle), np.cos(self.half_angle)
        r = self.radius + v * sine
        around = np.array([-r * np.sin(u), r * np.cos(u), 0 * u]).T
        along = np.array([sine * np.cos(u), sine * np.sin(u), cosine + 0 * u]).T
        return self.frame.directions(around), self.frame.directions(along)

    def project(self, points: Array) -> Array:
        """The foot on the near side of the axis; on which side of the apex, the height decides."""
        x, y, z = self.frame.local(points).T
        sine, cosine = np.sin(self.half_angle), np.cos(self.half_angle)
        near = (np.hypot(x, y) - self.radius) * sine + z * cosine
        far = (-np.hypot(x, y) - self.radius) * sine + z * cosine
        gap_near = np.abs((np.hypot(x, y) - self.radius) * cosine - z * sine)
        gap_far = np.abs((-np.hypot(x, y) - self.radius) * cosine - z * sine)
        beyond = gap_far < gap_near * (1 - 1e-9)
        u = np.arctan2(y, x) + np.where(beyond, np.pi, 0)
        return np.array([u % TURN, np.where(beyond, far, near)]).T


@record
class Sphere(Surface):
    frame: Frame
    radius: float
    kind = "sphere"
    periods = (TURN, None)

    def evaluate(self, uv: Array) -> Array:
        u, v = uv.T
        r = self.radius * np.cos(v)
        return self.frame.world(np.array([r * np.cos(u), r * np.sin(u), self.radius * np.sin(v)]).T)

    def derivatives(self, uv: Array) -> tuple[Array, Array]:
        u, v = uv.T
        r, h = self.radius * np.cos(v), self.radius * np.sin(v)
        around = np.array([-r * np.sin(u), r * np.cos(u), 0 * u]).T
        along = np.array([-h * np.cos(u), -h * np.sin(u), r]).T
        return self.frame.directions(around), self.frame.directions(along)

    def project(self, points: Array) -> Array:
        x, y, z = self.frame.local(points).T
        return np.array([np.arctan2(y, x) % TURN, np.arctan2(z, np.hypot(x, y))]).T


@record
class Torus(Surface):
    """``ring`` is the radius of the centre line, ``radius`` that of the tube."""

    frame: Frame
    ring: float
    radius: float
    kind = "torus"
    periods = (TURN, TURN)

    def evaluate(self, uv: Array) -> Array:
        u, v = uv.T
        r = self.ring + self.radius * np.cos(v)
        return self.frame.world(np.array([r * np.cos(u), r * np.sin(u), self.radius * np.sin(v)]).T)

    def derivatives(self, uv: Array) -> tuple[Array, Array]:
        u, v = uv.T
        r, a, h = self.ring + self.radius * np.cos(v), self.radius * np.cos(v), self.radius * np.sin(v)
        around = np.array([-r * np.sin(u), r * np.cos(u), 0 * u]).T
        along = np.array([-h * np.cos(u), -h * np.sin(u), a]).T
        return self.frame.directions(around), self.frame.directions(along)

    def project(self, points: Array) -> Array:
        x, y, z = self.frame.local(points).T
        v = np.arctan2(z, np.hypot(x, y) - self.ring)
        return np.array([np.arctan2(y, x) % TURN, v % TURN]).T


class Fitted(Surface):
    """A surface whose points are projected by iteration; it knows its ``bounds``."""

    bounds: tuple[float, float, float, float]
    """u from, u to, v from, v to."""

    def _seed_counts(self) -> tuple[int, int]:
        return 64, 64

    @cached_property
    def _seeds(self) -> tuple[cKDTree, Array]:
        from scipy.spatial import cKDTree

        u0, u1, v0, v1 = self.bounds
        count_u, count_v = self._seed_counts()
        sharp_u, sharp_v = self.sharp
        u, v = _strewn(u0, u1, count_u, sharp_u), _strewn(v0, v1, count_v, sharp_v)
        grid = np.meshgrid(u, v, indexing="ij")
        uv = np.array([axis.ravel() for axis in grid]).T
        spanned = np.linalg.norm(np.cross(*self.derivatives(uv)), axis=1)
        uv = uv[spanned > 1e-6 * spanned.max()]  # from a pole, no step leads to the right meridian
        return cKDTree(self.evaluate(uv)), uv

    def project(self, points: Array) -> Array:
        """Gauss-Newton from the nearest of a grid of seeds; where a point stays off the surface, also
        from seeds further away, since a folded surface may have a nearer foot there."""
        tree, seeds = self._seeds
        uv, gap = self._refined(points, seeds[tree.query(points)[1]])
        off = np.nonzero(gap > FOOT)[0]
        if len(off):
            for nearest in tree.query(points[off], k=[4, 10, 25])[1].T:
                other, further = self._refined(points[off], seeds[nearest], NOT_ONTO)
                better = further < gap[off]
                uv[off[better]], gap[off[better]] = other[better], further[better]
            self._across_seams(points, uv, gap)
            self._across_creases(points, uv, gap)
        return uv

    def _across_seams(self, points: Array, uv: Array, gap: Array) -> None:
        """Tries points that ended at one side of the parameters from the other side, where a closed surface goes on."""
        low, high = np.array(self.bounds).reshape(2, 2).T
        for axis in (0, 1):
            at, close = uv[:, axis], AT_A_SIDE * (high[axis] - low[axis])
            stuck = np.nonzero((gap > FOOT) & ((at <= low[axis] + close) | (at >= high[axis] - close)))[0]
            if not len(stuck):
                continue
            start = uv[stuck].copy()
            start[:, axis] = low[axis] + high[axis] - start[:, axis]
            self._improve(points, uv, gap, stuck, start)

    def _across_creases(self, points: Array, uv: Array, gap: Array) -> None:
        """Tries points that ended at a crease from the nearest pieces between creases: no step leaves a fan's tip."""
        from scipy.spatial import cKDTree

        low, high = np.array(self.bounds).reshape(2, 2).T
        every, seeds = self._seeds
        for axis, sharp in enumerate(self.sharp):
            off = np.nonzero(gap > FOOT)[0]
            if not len(sharp) or not len(off):
                continue
            away = np.abs(uv[off, axis, None] - sharp).min(axis=1)
            stuck = off[away < AT_A_SIDE * (high[axis] - low[axis])]
            if not len(stuck):
                continue
            piece = np.searchsorted(sharp, seeds[:, axis])
            members = [np.nonzero(piece == k)[0] for k in np.unique(piece)]
            found = [cKDTree(every.data[mine]).query(points[stuck]) for mine in members]
            order = np.argsort([distance for distance, _ in found], axis=0)
            nearest = np.array([mine[at] for mine, (_, at) in zip(members, found, strict=True)])
            for chosen in order[:PIECES]:
                self._improve(points, uv, gap, stuck, seeds[nearest[chosen, np.arange(len(stuck))]])

    def _improve(self, points: Array, uv: Array, gap: Array, which: np.ndarray, start: Array) -> None:
        """Puts nearer feet of the points ``which`` in place, where there are some to be found from ``start``."""
        other, further = self._refined(points[which], start)
        better = further < gap[which]
        uv[which[better]], gap[which[better]] = other[better], further[better]

    def _refined(self, points: Array, uv: Array, towards: float = 1.0) -> tuple[Array, Array]:
        """Parameters (n, 2) near ``uv`` of the feet of ``points``, and their distances (n,).

        No step takes more than the part ``towards`` of the way that is left to a side of the parameters.
        """
        low, high = np.array(self.bounds).reshape(2, 2).T
        reach = (high - low) / 10
        for _ in range(40):
            du, dv = self.derivatives(uv)
            gap = points - self.evaluate(uv)
            a, b, c = (np.einsum("ij,ij->i", p, q) for p, q in ((du, du), (du, dv), (dv, dv)))
            p, q = np.einsum("ij,ij->i", du, gap), np.einsum("ij,ij->i", dv, gap)
            det = np.maximum(a * c - b * b, 1e-30 * (a + c) ** 2 + 1e-300)
            step = np.array([(c * p - b * q) / det, (a * q - b * p) / det]).T
            moved = uv + np.clip(step, -reach, reach)  # near a point where the surface is singular, steps are wild
            for axis, period in enumerate(self.periods):
                if period is None:
                    room = towards * (np.array([[low[axis]], [high[axis]]]) - uv[:, axis])
                    moved[:, axis] = np.clip(moved[:, axis], *(uv[:, axis] + room))
            done = np.abs(moved - uv).max(initial=0) <= 1e-14 * np.abs(high - low).max()
            uv = moved
            if done:
                break
        return uv, np.linalg.norm(points - self.evaluate(uv), axis=1)


@record
class Revolution(Lazy, Fitted):
    """``profile``, a curve in space, turned round the z axis of ``frame``; u is the angle."""

    frame: Frame
    profile: Curve
    bounds: tuple[float, float, float, float]
    periods = (TURN, None)

    @property
    def breaks_v(self) -> Array:
        even = np.linspace(self.bounds[2], self.bounds[3], 9)[1:-1]
        return np.union1d(even, self.profile.breaks) if isinstance(self.profile, Spline) else even

    @property
    def sharp(self) -> tuple[Array, Array]:
        return np.zeros(0), self.profile.sharp if isinstance(self.profile, Spline) else np.zeros(0)

    def evaluate(self, uv: Array) -> Array:
        return self.frame.world(_turned(self.frame.local(self.profile.evaluate(uv[:, 1])), uv[:, 0]))

    def derivatives(self, uv: Array) -> tuple[Array, Array]:
        at = _turned(self.frame.local(self.profile.evaluate(uv[:, 1])), uv[:, 0])
        around = np.array([-at[:, 1], at[:, 0], 0 * at[:, 0]]).T
        slope = self.profile.derivative(uv[:, 1]) @ self.frame.axes.T
        return self.frame.directions(around), self.frame.directions(_turned(slope, uv[:, 0]))


@record
class Extrusion(Lazy, Fitted):
    """``profile``, a curve in space, moved along ``direction`` (3,); v is the distance."""

    profile: Curve
    direction: Array
    bounds: tuple[float, float, float, float]
    kind = "ruled"

    @property
    def breaks_u(self) -> Array:
        even = np.linspace(self.bounds[0], self.bounds[1], 9)[1:-1]
        return np.union1d(even, self.profile.breaks) if isinstance(self.profile, Spline) else even

    @property
    def sharp(self) -> tuple[Array, Array]:
        return self.profile.sharp if isinstance(self.profile, Spline) else np.zeros(0), np.zeros(0)

    def evaluate(self, uv: Array) -> Array:
        return self.profile.evaluate(uv[:, 0]) + uv[:, 1:] * self.direction

    def derivatives(self, uv: Array) -> tuple[Array, Array]:
        along = np.broadcast_to(self.direction, (len(uv), 3))
        return self.profile.derivative(uv[:, 0]), along


def _strewn(low: float, high: float, count: int, sharp: Array) -> Array:
    """Values evenly spread from ``low`` to ``high``, and some in each piece between creases that is short."""
    even = np.linspace(low, high, count)
    ends = np.r_[low, sharp[(sharp > low) & (sharp < high)], high]
    short = np.nonzero(np.diff(ends) < 4 * (high - low) / count)[0]
    within = ends[short, None] + np.diff(ends)[short, None] * np.linspace(0.1, 0.9, 5)
    return np.union1d(even, within.ravel())


def _turned(local: Array, angle: Array) -> Array:
    x, y, z = local.T
    cosine, sine = np.cos(angle), np.sin(angle)
    return np.array([cosine * x - sine * y, sine * x + cosine * y, z]).T


@record
class SplineSurface(Lazy, Fitted):
    """A tensor product B-spline; ``control`` (nu, nv, 3), with ``weights`` (nu, nv) a rational one."""

    knots_u: Array
    knots_v: Array
    control: Array
    degree_u: int
    degree_v: int
    weights: Array | None = None
    ruled: bool = False

    @property
    def kind(self) -> str:  # type: ignore[override]
        return "ruled" if self.ruled else "freeform"

    @property
    def bounds(self) -> tuple[float, float, float, float]:  # type: ignore[override]
        return (
            float(self.knots_u[self.degree_u]),
            float(self.knots_u[-self.degree_u - 1]),
            float(self.knots_v[self.degree_v]),
            float(self.knots_v[-self.degree_v - 1]),
        )

    @property
    def breaks_u(self) -> Array:
        return self._patches[0][1:-1]

    @property
    def breaks_v(self) -> Array:
        return self._patches[1][1:-1]

    @property
    def sharp(self) -> tuple[Array, Array]:
        return sharp_knots(self.knots_u, self.degree_u), sharp_knots(self.knots_v, self.degree_v)

    def _seed_counts(self) -> tuple[int, int]:
        breaks_u, breaks_v, _ = self._patches
        return max(48, 4 * len(breaks_u)), max(48, 4 * len(breaks_v))

    @cached_property
    def _patches(self) -> tuple[Array, Array, Array]:
        """Breaks in u, breaks in v, and power coefficients (pu, pv, ku + 1, kv + 1, d) of each patch.

        Powers rise; they are of the distance to the patch's lower corner. With weights, d is 4.
        """
        control = self.control
        if self.weights is not None:
            control = np.concatenate([control * self.weights[..., None], self.weights[..., None]], axis=2)
        breaks_u, in_u = _pieces(self.knots_u, control, self.degree_u)
        # in_u is (ku + 1, pu, nv, d); the spline along v goes over its third axis
        breaks_v, in_v = _pieces(self.knots_v, np.moveaxis(in_u, 2, 0), self.degree_v)
        return breaks_u, breaks_v, np.ascontiguousarray(in_v.transpose(3, 1, 2, 0, 4))

    def _in_patches(self, uv: Array) -> tuple[Array, Array, Array]:
        breaks_u, breaks_v, patches = self._patches
        if patches.shape[:2] == (1, 1):
            return uv[:, 0] - breaks_u[0], uv[:, 1] - breaks_v[0], np.zeros(0, int)
        i = np.clip(np.searchsorted(breaks_u, uv[:, 0], "right") - 1, 0, len(patches) - 1)
        j = np.clip(np.searchsorted(breaks_v, uv[:, 1], "right") - 1, 0, patches.shape[1] - 1)
        return uv[:, 0] - breaks_u[i], uv[:, 1] - breaks_v[j], i * patches.shape[1] + j

    def _sum(self, patch: Array, factor_u: Array, y: Array, slope: bool = False) -> Array:
        """The polynomial of each point's patch (n, d): given factors for the powers of u, at ``y`` in v.

        With ``slope``, its derivative along v.
        """
        patches = self._patches[2]
        flat = patches.reshape(-1, *patches.shape[2:])
        if len(flat) == 1:
            along = (factor_u @ flat[0].reshape(flat.shape[1], -1)).reshape(-1, *flat.shape[2:])
        else:
            along = np.einsum("na,nabd->nbd", factor_u, flat[patch])
        column = y[:, None]
        if slope:
            total = self.degree_v * along[:, self.degree_v]
            for power in range(self.degree_v - 1, 0, -1):
                total = total * column + power * along[:, power]
            return total
        total = along[:, self.degree_v]
        for power in range(self.degree_v - 1, -1, -1):
            total = total * column + along[:, power]
        return total

    def evaluate(self, uv: Array) -> Array:
        x, y, patch = self._in_patches(uv)
        value = self._sum(patch, _powers(x, self.degree_u), y)
        return value if self.weights is None else value[:, :3] / value[:, 3:]

    def along_u(self, column: int, v: Array) -> tuple[Array, Array]:
        """Rising power coefficients (n, degree + 1, 3) along u of points, and of their derivatives along v.

        At the places ``v`` (n,), between two breaks in u by the number of the first, from which u is measured. Without
        weights only.
        """
        _, breaks_v, patches = self._patches
        j = np.clip(np.searchsorted(breaks_v, v, "right") - 1, 0, patches.shape[1] - 1)
        power = _powers(v - breaks_v[j], self.degree_v)
        found = np.stack([power, _slopes(power)], axis=1)[:, None] @ patches[column][j]
        return found[:, :, 0], found[:, :, 1]

    def derivatives(self, uv: Array) -> tuple[Array, Array]:
        x, y, patch = self._in_patches(uv)
        power_u = _powers(x, self.degree_u)
        du = self._sum(patch, _slopes(power_u), y)
        dv = self._sum(patch, power_u, y, slope=True)
        if self.weights is None:
            return du, dv
        value = self._sum(patch, power_u, y)
        point = value[:, :3] / value[:, 3:]
        return tuple((d[:, :3] - d[:, 3:] * point) / value[:, 3:] for d in (du, dv))  # type: ignore[return-value]


def _powers(x: Array, degree: int) -> Array:
    """Rising powers (n, degree + 1)."""
    powers = np.empty((degree + 1, len(x)))
    powers[0] = 1
    for k in range(degree):
        np.multiply(powers[k], x, out=powers[k + 1])
    return powers.T


def _pieces(knots: Array, control: Array, degree: int) -> tuple[Array, Array]:
    """Breaks, and rising power coefficients (degree + 1, pieces, ...) of a spline's pieces."""
    from math import factorial

    from scipy.interpolate import BSpline

    start = np.arange(degree, len(knots) - degree - 1)
    start = start[knots[start + 1] > knots[start]]
    spline = BSpline(knots, control.reshape(len(control), -1), degree)
    # the Taylor coefficients at the beginning of each piece are its power coefficients
    power = [spline(knots[start], nu=order) / factorial(order) for order in range(degree + 1)]
    breaks = np.append(knots[start], knots[-degree - 1])
    return breaks, np.stack(power).reshape(degree + 1, len(start), *control.shape[1:])


def _slopes(powers: Array) -> Array:
    """Factors of the derivative, from rising powers (n, k + 1)."""
    slopes = np.zeros_like(powers)
    slopes[:, 1:] = powers[:, :-1] * np.arange(1, powers.shape[1])
    return slopes
