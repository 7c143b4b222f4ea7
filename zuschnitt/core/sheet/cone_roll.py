"""A rolled wall that is a part of a cone: its flat is a part of a ring about the apex of its neutral layer.

All layers of a sheet on a cone are cones of one angle, with the same sector as their flat; from layer to layer the
distance from the apex changes by the thickness between them over the tangent of the half angle.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

import numpy as np

from ..errors import CannotBeDone
from ..form.area import gauss_rule
from ..geometry.curves import Array, Ellipse, Line, Spline
from ..geometry.surfaces import Cone, Frame
from ..record import record
from .zones import STRAIGHT, Loop, Step, area

DEGREE = 5
"""Of splines that stand for curves which are neither rulings nor arcs."""
FITTED = 1e-6
"""Curves that are neither rulings nor arcs about the apex are fitted within this, in mm."""
SAMPLED = 256
"""In so many spans a curve is looked at, in 8 places each."""


@record
class ConeRoll:
    """How a zone is rolled up to a cone. On its flat the apex lies on the line x = 0, on which it is held.

    ``rho`` is the distance in mm from the apex to the zone's origin on the flat, ``half_angle`` that of the cone in
    radians; both are negative where the cone narrows along the axis of its frame. ``depth`` is how far the layer that
    keeps its length lies from the followed side, in mm along the normal away from the axis. ``up`` tells that the
    followed side is the inside.
    """

    rho: float
    half_angle: float
    depth: float
    up: bool
    rolled: bool = True

    @property
    def way(self) -> float:
        """1 where the followed side looks away from the axis, else -1."""
        return -1.0 if self.up else 1.0

    @property
    def apex(self) -> Array:
        """Where the apex lies on the flat, (2,)."""
        return np.array([0.0, -self.way * self.rho])

    def staged(self, stage: float) -> ConeRoll:
        """At a stage between flat and rolled: the curvature grows evenly, and the flat stays as it is."""
        return replace(self, half_angle=float(np.arctan(np.tan(self.half_angle) / stage)))

    def radius(self, height: float = 0.0) -> float:
        """The radius in mm round the axis at the zone's origin, ``height`` mm above the followed side."""
        sine, cosine = np.sin(self.half_angle), np.cos(self.half_angle)
        return float(self.rho * sine + (self.way * height - self.depth) * cosine)

    # --- flat and form ----------------------------------------------------------------------------

    def flat(self, uv: Array) -> Array:
        """Points (n, 2) of the flat for angle and place along the slant, from the zone's origin."""
        turn, rho = uv[:, 0] * np.sin(self.half_angle), self.rho + uv[:, 1]
        return np.column_stack([rho * np.sin(turn), self.way * (rho * np.cos(turn) - self.rho)])

    def parameters(self, xy: Array) -> Array:
        """Angle and place along the slant (n, 2) for points of the flat."""
        x, y = xy[:, 0], self.way * xy[:, 1] + self.rho
        sign = np.sign(self.rho)
        turn = np.arctan2(sign * x, sign * y)
        return np.column_stack([turn / np.sin(self.half_angle), sign * np.hypot(x, y) - self.rho])

    def surface(self, xy: Array, height: float) -> tuple[Array, Array, Array, Array]:
        """Points (n, 3) in the zone's own space, ``height`` mm above the followed side, with the directions x, y, z."""
        u, v = self.parameters(xy).T
        sine, cosine, zero = np.sin(self.half_angle), np.cos(self.half_angle), np.zeros(len(xy))
        radial = np.column_stack([np.cos(u), np.sin(u), zero])
        around = np.column_stack([-np.sin(u), np.cos(u), zero])
        axis = np.array([0.0, 0.0, 1.0])
        along, normal = sine * radial + cosine * axis, cosine * radial - sine * axis
        at = (self.radius() + v * sine)[:, None] * radial + (v * cosine)[:, None] * axis + self.way * height * normal
        own = np.array(
            [[0.0, 1.0, 0.0], self.way * np.array([sine, 0, cosine]), self.way * np.array([cosine, 0, -sine])]
        )
        turn = (u * sine)[:, None]
        x = np.sin(turn) * along + np.cos(turn) * around
        y = self.way * (np.cos(turn) * along - np.sin(turn) * around)
        local = (at - np.array([self.radius(), 0.0, 0.0])) @ own.T
        return local, x @ own.T, y @ own.T, self.way * normal @ own.T

    def skin(self, frame: Frame, height: float) -> Cone:
        """The surface ``height`` mm above the followed side, where the zone's own frame stands in space."""
        sine, cosine = np.sin(self.half_angle), np.cos(self.half_angle)
        x, y, z = frame.axes
        along, normal = self.way * y, self.way * z
        radial, axis = sine * along + cosine * normal, cosine * along - sine * normal
        origin = frame.origin - self.radius() * radial - self.way * height * sine * axis
        return Cone(Frame(origin, np.array([radial, x, axis])), self.radius(height), self.half_angle)

    # --- steps --------------------------------------------------------------------------------------

    def laid(self, step: Step) -> Step:
        """A step in angle and place along the slant as one of the flat: rulings are lines, circles arcs."""
        if isinstance(step.curve, Line):
            first, last = step.first, step.last
            if abs(first[0] - last[0]) <= STRAIGHT * 1e-3:
                ends = self.flat(step.curve.evaluate(np.array([0.0, 1.0])))
                return replace(step, curve=Line(ends[0], ends[1] - ends[0]))
            if abs(first[1] - last[1]) <= STRAIGHT * 1e-3:
                rho = self.rho + first[1]
                curve = Ellipse(self.apex, np.array([0.0, self.way * rho]), np.array([rho, 0.0]))
                sine = np.sin(self.half_angle)
                return replace(step, curve=curve, start=float(first[0] * sine), end=float(last[0] * sine))
        return fitted(step, self.flat, True)

    def rolled_up(self, step: Step) -> Step:
        """A step of the flat in angle and place along the slant."""
        first, last = self.parameters(np.array([step.first, step.last]))
        size = max(1.0, abs(self.rho))
        if step.straight and abs(first[0] - last[0]) * size <= STRAIGHT:
            last[0] = first[0]
            return replace(Step.between(first, last, step.joint), edge=step.edge)
        curve = step.curve
        if (
            isinstance(curve, Ellipse)
            and curve.kind == "circle"
            and np.abs(curve.centre - self.apex).max() < STRAIGHT * size
        ):
            return replace(
                step,
                curve=Line(np.array([0.0, first[1]]), np.array([1.0, 0.0])),
                start=float(first[0]),
                end=float(last[0]),
            )
        return fitted(step, self.parameters, False, FITTED / size)

    def around(self, loops: tuple[Loop, ...]) -> tuple[float, float]:
        """The least and the largest angle of a zone round the axis."""
        u = np.concatenate([self.parameters(step.points())[:, 0] for loop in loops for step in loop])
        return float(u.min()), float(u.max())

    def inside_radii(self, loops: tuple[Loop, ...], thickness: float) -> tuple[float, float]:
        """The least and the largest radius in mm round the axis on the inside of the sheet."""
        v = np.concatenate([self.parameters(step.points())[:, 1] for loop in loops for step in loop])
        radii = np.abs(self.radius(self.inside(thickness)) + np.array([v.min(), v.max()]) * np.sin(self.half_angle))
        return float(radii.min()), float(radii.max())

    def inside(self, thickness: float) -> float:
        """How far the inside of the sheet lies above the followed side, in mm: 0, or the thickness below it."""
        return 0.0 if self.up else -thickness

    def layer(self, loops: tuple[Loop, ...], height: float) -> float:
        """The area in mm² of the layer ``height`` mm above the followed side.

        Its points lie so much further from the apex that what is laid flat grows by that over its distance; the
        integral of 1/r over a region is that of the unit vector from the apex, outwards through its boundary.
        """
        further = (self.way * height - self.depth) / np.tan(self.half_angle)
        total = area(loops)
        for loop in loops:
            for step in loop:
                t, weights = gauss_rule(step.spans)
                away = step.curve.evaluate(t) - self.apex
                slope = step.curve.derivative(t)
                distance = np.maximum(np.linalg.norm(away, axis=1), 1e-300)
                cross = away[:, 0] * slope[:, 1] - away[:, 1] * slope[:, 0]
                total += further * np.sign(self.rho) * float(weights @ (cross / distance))
        return total


def fitted(step: Step, through: Callable[[Array], Array], by_length: bool, within: float = FITTED) -> Step:
    """The image of a step along a smooth spline of as few pieces as do, over the same parameter or ``by_length``.

    It is no further off than ``within`` mm.

    Splines of other programs are often smooth as curves only, and not over their parameter. Raises CannotBeDone where
    the curve is too crooked.
    """
    from scipy.interpolate import make_lsq_spline

    low, high = sorted((step.start, step.end))
    inner = step.curve.breaks if isinstance(step.curve, Spline) else np.zeros(0)
    spans = np.union1d(np.linspace(low, high, SAMPLED), inner[(inner > low) & (inner < high)])
    t = np.unique(np.append(spans[:-1, None] + np.diff(spans)[:, None] * np.linspace(0, 1, 9)[:-1], high))
    at = through(step.curve.evaluate(t))
    along = np.concatenate([[0.0], np.cumsum(np.linalg.norm(np.diff(at, axis=0), axis=1))]) if by_length else t - low
    size = float(along[-1])
    parts = 1
    while parts <= SAMPLED:
        knots = np.concatenate([np.zeros(DEGREE), np.linspace(0, size, parts + 1), np.full(DEGREE, size)])
        control = np.array(make_lsq_spline(along, at, knots, DEGREE).c)
        control[[0, -1]] = at[[0, -1]]
        made = Spline(knots, control, DEGREE)
        if np.linalg.norm(made.evaluate(along) - at, axis=1).max() < within:
            ends = (0.0, size) if step.start < step.end else (size, 0.0)
            return replace(step, curve=made, start=ends[0], end=ends[1])
        parts *= 2
    raise CannotBeDone("A cut across a rolled cone is too crooked to be laid flat; make its curve smoother.")
