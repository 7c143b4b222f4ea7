"""A form: its faces, the edges between them, and what one may ask of them."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import field, replace
from functools import cached_property

import numpy as np

from ..errors import Refused
from ..geometry.curves import Array, Curve, Line, length, parameters_within
from ..geometry.ruled_flat import FlatMap
from ..geometry.surfaces import Surface
from ..lazy import LateSequence, Lazy, late
from ..record import record

SEEN = 4e-4
"""What is looked at lies within this part of the form's size of what it stands for."""


@record
class OnSurface:
    """A curve in space that is a curve of surface parameters, seen on its surface."""

    surface: Surface
    parameters: Curve
    kind = "spline"

    def evaluate(self, t: Array) -> Array:
        return self.surface.evaluate(self.parameters.evaluate(t))


@record
class Edge(Lazy):
    """``curve`` in space from parameter ``start`` to ``end``; ``faces`` are numbers of faces."""

    number: int
    curve: Curve | OnSurface
    start: float
    end: float
    faces: tuple[int, ...]
    smooth: bool = False

    @cached_property
    def length(self) -> float:
        if isinstance(self.curve, Line):
            return float(np.linalg.norm(self.curve.direction) * abs(self.end - self.start))
        return length(self.curve.evaluate, self.start, self.end)

    def points(self, tolerance: float) -> Array:
        """A polyline (n, 3) within ``tolerance`` mm of the edge."""
        return self.curve.evaluate(parameters_within(self.curve.evaluate, self.start, self.end, tolerance))


@late("curve")
@record
class Coedge:
    """An edge as one face walks along it: ``curve`` in the face's parameters, from start to end.

    ``edge`` is the index of the edge in the form, or negative where there is none: ``POLE`` for a
    side of the surface that is a single point, ``CUT`` for a seam that developing has put in, ``WAIST`` for
    one round the waist of a whole torus.
    """

    edge: int
    curve: Curve
    start: float
    end: float

    def uv(self, t: Array) -> Array:
        return self.curve.evaluate(t)

    @property
    def backwards(self) -> bool:
        return self.end < self.start

    @property
    def ends(self) -> Array:
        """Parameters (2, 2) where the walk begins and ends."""
        return self.uv(np.array([self.start, self.end]))


POLE, CUT, WAIST = -1, -2, -3


@record
class Face:
    """One face. ``loops`` go round it in its parameters, the material on their left.

    ``flat`` is its development where it was found to have one without being of a type that always has, if it was
    ``looked_at``, which takes its time.
    ``reversed`` tells that the outer side is not the side of du x dv. ``area`` is in mm².
    """

    number: int
    surface: Surface
    reversed: bool
    loops: tuple[tuple[Coedge, ...], ...]
    area: float
    neighbours: tuple[int, ...] = ()
    smooth: tuple[int, ...] = ()
    flat: FlatMap | None = None
    looked_at: bool = True

    @property
    def kind(self) -> str:
        return self.surface.kind if self.flat is None else "ruled"

    @property
    def radius(self) -> float | None:
        return getattr(self.surface, "radius", None)

    @property
    def developable(self) -> bool:
        return self.surface.developable or self.flat is not None

    def outward(self, uv: Array) -> Array:
        """Unit normals (n, 3) towards the outer side."""
        return self.surface.normals(uv) * (-1 if self.reversed else 1)

    def upright(self, uv: Array) -> Array:
        """Unit normals (n, 3) towards the outer side that change evenly, from triangle to triangle of a mesh too."""
        return self.surface.smooth_normals(uv) * (-1 if self.reversed else 1)


@late("uv")
@record
class FaceMesh:
    """Triangles of one face with their surface parameters: ``points`` (n, 3), ``uv`` (n, 2).

    ``triangles`` (t, 3) run anticlockwise seen from the outer side; ``normals`` (n, 3) point there.
    """

    points: Array
    uv: Array
    triangles: np.ndarray
    normals: Array


@record
class Body:
    """Faces (their numbers) that hang together, under one name."""

    name: str
    faces: tuple[int, ...]


@record
class Match:
    """A ``point`` (3,) at which the blanks of two or more faces are to meet when they are put together."""

    label: str
    faces: tuple[int, ...]
    point: Array


@record
class Before:
    """What a form was before it was cut.

    ``parents`` says of which face of the ``form`` then each face is a part; ``removed`` are the loops of what was taken
    out, of which face.
    """

    form: Form
    parents: tuple[int, ...]
    removed: tuple[tuple[int, tuple[tuple[Coedge, ...], ...]], ...]

    def whole(self, numbers: Iterable[int]) -> tuple[int, ...] | None:
        """The faces then that ``numbers`` are all that is left of; None where more is left of them."""
        chosen = set(numbers)
        wanted = {self.parents[number - 1] for number in chosen}
        all_of_them = {k for k, parent in enumerate(self.parents, 1) if parent in wanted}
        return tuple(sorted(wanted)) if all_of_them == chosen else None


@record
class Form(Lazy):
    """The part in space, in mm. Face numbers count from 1 in the order of ``faces``."""

    name: str
    faces: tuple[Face, ...]
    edges: tuple[Edge, ...]
    meshes: Sequence[FaceMesh] = field(default=(), repr=False)
    unit: str = "mm"
    source: str = ""
    messages: tuple[str, ...] = ()
    bodies: tuple[Body, ...] = ()
    matches: tuple[Match, ...] = ()
    before: Before | None = field(default=None, repr=False)
    edge_lines: Sequence[Array] = field(default=(), repr=False)

    def face(self, number: int) -> Face:
        if not 1 <= number <= len(self.faces):
            raise Refused(
                f"Face {number} was asked for, but the form has faces 1 to {len(self.faces)}; pick one of those."
            )
        return self.faces[number - 1]

    def edge(self, number: int) -> Edge:
        if not 1 <= number <= len(self.edges):
            raise Refused(
                f"Edge {number} was asked for, but the form has edges 1 to {len(self.edges)}; pick one of those."
            )
        return self.edges[number - 1]

    @cached_property
    def lines(self) -> Sequence[Array]:
        """A polyline (n, 3) for each edge, to look at."""
        if len(self.edge_lines) == len(self.edges):
            return self.edge_lines
        return _lines_of(self)

    @cached_property
    def size(self) -> float:
        """The diagonal of the form's bounding box, in mm."""
        low, high = self.bounds
        return float(np.linalg.norm(high - low))

    @cached_property
    def bounds(self) -> tuple[Array, Array]:
        """The lowest and the highest corner (3,) of its bounding box."""
        if self.meshes:
            points = np.concatenate([mesh.points for mesh in self.meshes])
        else:
            points = np.concatenate([edge.curve.evaluate(np.linspace(edge.start, edge.end, 33)) for edge in self.edges])
        return points.min(axis=0), points.max(axis=0)

    def area(self, numbers: Iterable[int]) -> float:
        """Area of the given faces in mm²."""
        return float(sum(self.face(number).area for number in numbers))

    @cached_property
    def seams(self) -> frozenset[int]:
        """Indices of edges that are only where a face's parameters come round: no edges of the part."""
        found: set[int] = set()
        for face in self.faces:
            walked = [c.edge for loop in face.loops for c in loop if c.edge >= 0]
            found.update(edge for edge in walked if walked.count(edge) == 2)
        return frozenset(found)

    def smooth_chain(self, numbers: Iterable[int], within: set[int] | None = None) -> tuple[int, ...]:
        """The given faces and all (of those ``within``) that continue smoothly from them."""
        chain, waiting = set(), list(numbers)
        while waiting:
            number = waiting.pop()
            if number not in chain:
                chain.add(number)
                waiting.extend(n for n in self.face(number).smooth if within is None or n in within)
        return tuple(sorted(chain))


def distance_to_triangles(point: Array, corners: Array) -> float:
    """The least distance from ``point`` (3,) to triangles ``corners`` (t, 3, 3)."""
    sub = np.array([[1, 0, 0], [0, 1, 0], [0, 0, 1], [1, 1, 0], [0, 1, 1], [1, 0, 1], [1, 1, 1]], float)
    sub /= sub.sum(axis=1, keepdims=True)
    middle = corners.mean(axis=1)
    far, reach = np.linalg.norm(middle - point, axis=1), np.linalg.norm(corners - middle[:, None], axis=2).max(axis=1)
    corners = corners[far - reach <= (far + reach).min()]
    for _ in range(6):  # halve the few nearest triangles until the distance settles
        samples = np.einsum("sk,tkd->tsd", sub, corners)
        gap = np.linalg.norm(samples - point, axis=2).min(axis=1)
        near = np.argsort(gap)[:12]
        best = float(gap[near[0]])
        corners = _halved(corners[near])
    return min(best, float(np.linalg.norm(corners.reshape(-1, 3) - point, axis=1).min()))


def _halved(corners: Array) -> Array:
    """Each triangle (t, 3, 3) as four."""
    a, b, c = corners[:, 0], corners[:, 1], corners[:, 2]
    ab, bc, ca = (a + b) / 2, (b + c) / 2, (c + a) / 2
    four = [(a, ab, ca), (ab, b, bc), (ca, bc, c), (ab, bc, ca)]
    return np.concatenate([np.stack(t, axis=1) for t in four])


def with_lines(form: Form) -> Form:
    """The form with lines to look at, which are made when they are first asked for."""
    return replace(form, edge_lines=LateSequence(len(form.edges), _lines_of, form))


def _lines_of(form: Form) -> tuple[Array, ...]:
    return tuple(edge.points(form.size * SEEN) for edge in form.edges)
