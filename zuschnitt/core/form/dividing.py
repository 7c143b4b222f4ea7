"""Faces divided by curves on them: the form with new edges on its true surfaces."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Callable, Mapping, Sequence
from dataclasses import replace
from functools import cached_property
from itertools import pairwise

import numpy as np

from ..errors import CannotBeDone
from ..geometry.curves import Array, parameters_within
from ..mesh.mesh_surface import MeshSurface
from ..plane.arrangement import Cell, Piece, Walk, cells
from ..plane.region import Region
from ..record import record
from .area import face_area
from .build import connected
from .form import CUT, Before, Coedge, Edge, Face, Form, OnSurface
from .meshing import with_meshes

Loops = tuple[tuple[Coedge, ...], ...]
SAME = 1e-6
"""Places of an edge nearer to each other than this, in mm, are one."""
LOST, LOST_OF_MESH = 1e-5, 5e-3
"""The parts of a face must make up all of it but for this part; areas of parts of a mesh are summed up less exactly."""


@record
class Removed:
    """A part of ``face`` that was taken out for a ``figure``: its ``area`` in mm², and ``loops`` round it."""

    face: int
    figure: int
    area: float
    loops: Loops


@record
class Divided:
    """The ``form`` with its new edges, what was ``removed``, and the numbers of the ``new`` edges by their tag."""

    form: Form
    removed: tuple[Removed, ...]
    new: Mapping[int, tuple[int, ...]]


@record
class OnFace:
    """A ``piece`` in the parameters of a face, with a ``tag`` of the caller's."""

    piece: Piece
    tag: int


def divided(form: Form, curves: Mapping[int, Sequence[OnFace]], figure: Callable[[int, Array], int]) -> Divided:
    """The form with ``curves``, by face numbers, as edges.

    ``figure`` says of a face's number and a point (3,) in a part of it for which figure that part is taken out, or -1
    where it stays. Faces and edges keep their numbers; further parts of them, and new edges, come last.
    """
    work = _Dividing(form, figure)
    for number, mine in curves.items():
        work.divide(form.face(number), mine)
    return work.form_of()


class _Dividing:
    def __init__(self, form: Form, figure: Callable[[int, Array], int]) -> None:
        self.form, self.figure = form, figure
        self.splits: dict[int, list[float]] = defaultdict(list)
        self.parts: dict[int, list[list[list[tuple]]]] = {}
        self.removed: list[Removed] = []

    def divide(self, face: Face, curves: Sequence[OnFace]) -> None:
        """Finds the parts of one face; each is loops of (coedge of the face or piece, from, to)."""
        own = [c for loop in face.loops for c in loop]
        pieces = [Piece(c.curve, c.start, c.end, True) for c in own] + [each.piece for each in curves]
        kept = []
        whole = _Whole(face)
        for cell in cells(pieces, whole.scale):
            if not _within(cell, own, whole):
                continue
            number = self.figure(face.number, face.surface.evaluate(cell.inside[None])[0])
            if number >= 0:
                round_it = self._loops(cell, own, curves)
                area = face_area(replace(face, loops=round_it))
                self.removed.append(Removed(face.number, number, area, round_it))
                continue
            kept.append([[self._step(walk, own, curves) for walk in loop] for loop in cell.loops])
        for loops in kept:
            for loop in loops:
                for what, start, end in loop:
                    if isinstance(what, Coedge) and what.edge >= 0:
                        self.splits[what.edge].extend((start, end))
        self.parts[face.number] = kept

    @staticmethod
    def _step(walk: Walk, own: Sequence[Coedge], curves: Sequence[OnFace]) -> tuple:
        what = own[walk.piece] if walk.piece < len(own) else curves[walk.piece - len(own)]
        return what, walk.start, walk.end

    def _loops(self, cell: Cell, own: Sequence[Coedge], curves: Sequence[OnFace]) -> Loops:
        """The walks round a cell in the face's parameters; new ones are on no edge yet."""
        found = []
        for loop in cell.loops:
            steps = [self._step(walk, own, curves) for walk in loop]
            found.append(tuple(
                replace(what, start=a, end=b) if isinstance(what, Coedge) else Coedge(CUT, what.piece.curve, a, b)
                for what, a, b in steps
            ))  # fmt: skip
        return tuple(found)

    def form_of(self) -> Divided:
        """All faces anew, over edges that are split alike on both sides."""
        edges = list(self.form.edges)
        pieces_of: dict[int, list[int]] = {}
        at: dict[int, Array] = {}
        for index, edge in enumerate(self.form.edges):
            at[index] = self._places(edge, self.splits.get(index, []))
            pieces_of[index] = [index, *range(len(edges), len(edges) + len(at[index]) - 2)]
            for k, (a, b) in zip(pieces_of[index], pairwise(at[index].tolist()), strict=True):
                edges[k : k + 1] = [replace(edge, number=k + 1, start=a, end=b)]
        new: dict[tuple, int] = {}
        tagged: dict[int, list[int]] = defaultdict(list)
        first: list[Face] = []
        further: list[Face] = []
        for face in self.form.faces:
            parts = self.parts.get(face.number)
            if parts is None:
                parts = [[[(c, c.start, c.end) for c in loop] for loop in face.loops]]
            made = []
            for loops in parts:
                ring: list[tuple[Coedge, ...]] = []
                for loop in loops:
                    walk: list[Coedge] = []
                    for what, start, end in loop:
                        if isinstance(what, Coedge):
                            walk.extend(self._along(what, start, end, at, pieces_of))
                            continue
                        low, high = sorted((start, end))
                        key = (face.number, id(what), low, high)
                        if key not in new:
                            new[key] = len(edges)
                            curve = OnSurface(face.surface, what.piece.curve)
                            edges.append(Edge(len(edges) + 1, curve, low, high, ()))
                            tagged[what.tag].append(len(edges))
                        walk.append(Coedge(new[key], what.piece.curve, start, end))
                    ring.append(tuple(walk))
                part = replace(face, loops=tuple(ring))
                made.append(replace(part, area=face_area(part)) if face.number in self.parts else part)
            if face.number in self.parts:
                self._require_whole(face, made)
            made.sort(key=lambda part: -part.area)
            if made:
                first.append(made[0])
                further.extend(made[1:])
        if not first:
            raise CannotBeDone("Nothing would be left of the form; cut out less.")
        parents = [face.number for face in (*first, *further)]
        faces = tuple(replace(face, number=k) for k, face in enumerate([*first, *further], 1))
        walked = {c.edge for face in self.form.faces for loop in face.loops for c in loop}
        used = {c.edge for face in faces for loop in face.loops for c in loop}
        used |= {k for k in range(len(self.form.edges)) if k not in walked}  # as a pole is, it stays unused
        faces, kept, numbers = _without_unused(faces, edges, used)
        before = self._before(parents)
        form = replace(
            self.form, faces=faces, edges=kept, bodies=(), meshes=(), matches=(), before=before, edge_lines=()
        )
        marks = {tag: tuple(numbers[n - 1] + 1 for n in mine if n - 1 in numbers) for tag, mine in tagged.items()}
        return Divided(with_meshes(connected(form)), tuple(self.removed), marks)

    def _require_whole(self, face: Face, parts: Sequence[Face]) -> None:
        """Raises CannotBeDone where the parts and what was taken out are not all of a face."""
        area = sum(part.area for part in parts) + sum(each.area for each in self.removed if each.face == face.number)
        if abs(area - face.area) > face.area * (LOST_OF_MESH if isinstance(face.surface, MeshSurface) else LOST):
            raise CannotBeDone(
                f"Face {face.number} cannot be divided by these lines: {abs(area - face.area):.3g} mm² of it would be "
                "lost where they nearly lie on each other; move or turn the drawing a little."
            )

    def _before(self, parents: Sequence[int]) -> Before:
        """What the form was before it was cut for the first time."""
        removed = tuple((each.face, each.loops) for each in self.removed)
        first = self.form.before
        if first is None:
            return Before(self.form, tuple(parents), removed)
        then = {face.number: first.parents[face.number - 1] for face in self.form.faces}
        earlier = tuple((then[face], loops) for face, loops in removed)
        return Before(first.form, tuple(then[n] for n in parents), (*first.removed, *earlier))

    def _places(self, edge: Edge, values: Sequence[float]) -> Array:
        """Where an edge is split, each place once."""
        t = np.unique(np.r_[edge.start, np.clip(values, edge.start, edge.end), edge.end])
        points = edge.curve.evaluate(t)
        kept = [0]
        for k in range(1, len(t)):
            middle = edge.curve.evaluate(np.array([(t[kept[-1]] + t[k]) / 2]))[0]
            away = max(np.linalg.norm(points[k] - points[kept[-1]]), np.linalg.norm(middle - points[k]))
            if away > SAME:
                kept.append(k)
            elif k == len(t) - 1 and len(kept) > 1:
                kept[-1] = k
        found = t[kept]
        found[0], found[-1] = edge.start, edge.end
        return found if len(found) > 1 else np.array([edge.start, edge.end])

    def _along(
        self, coedge: Coedge, start: float, end: float, at: Mapping[int, Array], pieces: Mapping[int, Sequence[int]]
    ) -> list[Coedge]:
        """A walk along an edge, over the pieces into which it was split."""
        if coedge.edge < 0:
            return [replace(coedge, start=start, end=end)]
        places = at[coedge.edge]
        low, high = (int(np.abs(places - t).argmin()) for t in sorted((start, end)))
        steps = [replace(coedge, edge=pieces[coedge.edge][k], start=float(places[k]), end=float(places[k + 1]))
                 for k in range(low, high)]  # fmt: skip
        return steps if end > start else [replace(c, start=c.end, end=c.start) for c in reversed(steps)]


def scale_of(face: Face) -> Array:
    """How many mm a unit of each parameter of a face is, about (2,)."""
    samples = np.vstack([c.uv(np.linspace(c.start, c.end, 9)) for loop in face.loops for c in loop])
    low, high = samples.min(axis=0), samples.max(axis=0)
    grid = np.stack(np.meshgrid(*(np.linspace(a, b, 7) for a, b in zip(low, high, strict=True))), -1).reshape(-1, 2)
    du, dv = face.surface.derivatives(grid)
    return np.maximum([np.linalg.norm(du, axis=1).max(), np.linalg.norm(dv, axis=1).max()], 1e-12)


class _Whole:
    """A face as a region of its parameters, in mm by ``scale`` (2,)."""

    def __init__(self, face: Face) -> None:
        self.face, self.scale = face, scale_of(face)

    @cached_property
    def region(self) -> Region:
        rings = []
        for loop in self.face.loops:
            ring = []
            for c in loop:
                t = parameters_within(lambda t, c=c: c.uv(t) * self.scale, c.start, c.end, 1e-3)
                ring.append((c.uv(t) * self.scale)[:-1])
            rings.append(np.vstack(ring))
        return Region(tuple(rings))


def _within(cell: Cell, own: Sequence[Coedge], whole: _Whole) -> bool:
    """Whether a cell is a part of the face: the face lies on the left of its own walks."""
    for loop in cell.loops:
        for walk in loop:
            if walk.piece < len(own):
                coedge = own[walk.piece]
                return (walk.end > walk.start) == (coedge.end > coedge.start)
    return bool(whole.region.contains(cell.inside[None] * whole.scale)[0])


def _without_unused(
    faces: tuple[Face, ...], edges: Sequence[Edge], used: set[int]
) -> tuple[tuple[Face, ...], tuple[Edge, ...], dict[int, int]]:
    """Faces and edges without the edges that no face walks along any more, and the new index of each that is left."""
    numbers = {old: new for new, old in enumerate(k for k in range(len(edges)) if k in used)}
    kept = tuple(replace(edges[old], number=new + 1) for old, new in numbers.items())

    def renamed(loop: tuple[Coedge, ...]) -> tuple[Coedge, ...]:
        return tuple(replace(c, edge=numbers.get(c.edge, c.edge)) for c in loop)

    return tuple(replace(face, loops=tuple(map(renamed, face.loops))) for face in faces), kept, numbers
