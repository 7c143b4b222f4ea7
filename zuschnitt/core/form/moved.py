"""A form elsewhere in space: turned and shifted, every face and edge under its number."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from functools import singledispatchmethod
from typing import Any

import numpy as np

from ..geometry.curves import Array, Ellipse, Line, Spline
from ..geometry.offset_surface import OffsetSurface
from ..geometry.surfaces import Cone, Cylinder, Extrusion, Frame, Plane, Revolution, Sphere, SplineSurface, Torus
from ..lazy import LateSequence, untouched
from ..mesh.mesh_surface import MeshSurface
from ..record import record
from .form import Before, Edge, Face, FaceMesh, Form, OnSurface


@record
class Motion:
    """Points x go to ``turn`` (3, 3) x + ``shift`` (3,)."""

    turn: Array
    shift: Array

    @classmethod
    def about(cls, axis: Array, degrees: float, through: Array, shift: Array) -> Motion:
        """Turned by ``degrees`` round an ``axis`` (3,) ``through`` a point, then shifted."""
        x, y, z = axis / np.linalg.norm(axis)
        angle = np.radians(degrees)
        across = np.array([[0, -z, y], [z, 0, -x], [-y, x, 0]])
        turn = np.eye(3) + np.sin(angle) * across + (1 - np.cos(angle)) * across @ across  # Rodrigues
        return cls(turn, through - turn @ through + shift)

    def points(self, points: Array) -> Array:
        return points @ self.turn.T + self.shift

    def directions(self, directions: Array) -> Array:
        return directions @ self.turn.T

    def form(self, form: Form) -> Form:
        """The form, moved. What was found of its faces' developments is looked for again when they are developed."""
        before = form.before
        return replace(
            form,
            faces=tuple(self._face(face) for face in form.faces),
            edges=tuple(self._edge(edge) for edge in form.edges),
            meshes=LateSequence(len(form.meshes), self._meshes, form.meshes),
            edge_lines=LateSequence(len(form.edge_lines), self._lines, form.edge_lines),
            matches=tuple(replace(match, point=self.points(match.point)) for match in form.matches),
            before=before and Before(self.form(before.form), before.parents, before.removed),
        )

    def _face(self, face: Face) -> Face:
        looked_at = face.looked_at and face.flat is None
        return replace(face, surface=self.moved(face.surface), flat=None, looked_at=looked_at)

    def _edge(self, edge: Edge) -> Edge:
        return replace(edge, curve=self.moved(edge.curve))

    def _meshes(self, meshes: Sequence[FaceMesh]) -> tuple[FaceMesh, ...]:
        return tuple(self._mesh(mesh) for mesh in meshes)

    def _lines(self, lines: Sequence[Array]) -> tuple[Array, ...]:
        return tuple(self.points(line) for line in lines)

    def _mesh(self, mesh: FaceMesh) -> FaceMesh:
        return untouched(mesh, points=self.points(mesh.points), normals=self.directions(mesh.normals))

    @singledispatchmethod
    def moved(self, thing: Any) -> Any:
        """A surface, or a curve in space."""
        raise TypeError(f"{type(thing).__name__} cannot be moved")

    @moved.register
    def _(self, thing: Frame) -> Frame:
        return Frame(self.points(thing.origin), self.directions(thing.axes))

    @moved.register(Plane)
    @moved.register(Cylinder)
    @moved.register(Cone)
    @moved.register(Sphere)
    @moved.register(Torus)
    def _(self, thing: Any) -> Any:
        return replace(thing, frame=self.moved(thing.frame))

    @moved.register
    def _(self, thing: Revolution) -> Revolution:
        return replace(thing, frame=self.moved(thing.frame), profile=self.moved(thing.profile))

    @moved.register
    def _(self, thing: Extrusion) -> Extrusion:
        return replace(thing, profile=self.moved(thing.profile), direction=self.directions(thing.direction))

    @moved.register
    def _(self, thing: SplineSurface) -> SplineSurface:
        return replace(thing, control=self.points(thing.control))

    @moved.register
    def _(self, thing: MeshSurface) -> MeshSurface:
        return untouched(thing, points=self.points(thing.points))

    @moved.register
    def _(self, thing: OffsetSurface) -> OffsetSurface:
        return replace(thing, base=self.moved(thing.base))

    @moved.register
    def _(self, thing: Line) -> Line:
        return Line(self.points(thing.origin), self.directions(thing.direction))

    @moved.register
    def _(self, thing: Ellipse) -> Ellipse:
        axes = self.directions(np.array([thing.x_axis, thing.y_axis]))
        return Ellipse(self.points(thing.centre), axes[0], axes[1])

    @moved.register
    def _(self, thing: Spline) -> Spline:
        return replace(thing, control=self.points(thing.control))

    @moved.register
    def _(self, thing: OnSurface) -> OnSurface:
        return replace(thing, surface=self.moved(thing.surface))
