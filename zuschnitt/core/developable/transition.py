"""A transition from a rectangle to a circle: flat triangles on the sides, oblique cones at the corners."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from ..errors import Refused
from ..form.area import face_area
from ..form.build import connected
from ..form.form import POLE, Coedge, Edge, Face, Form
from ..form.meshing import with_meshes
from ..geometry.curves import Array, Line, Spline
from ..geometry.surfaces import Frame, Plane, SplineSurface
from .developable import with_flat

QUARTER = np.array([1.0, np.sqrt(0.5), 1.0])
"""Weights of a quarter of a circle as a rational quadratic."""


def transition(
    length: float, width: float, diameter: float, height: float, offset=(0.0, 0.0), name="transition"
) -> Form:
    """From a rectangle ``length`` (x) by ``width`` (y) in the plane z = 0 to a circle at z = ``height``, all in mm.

    ``offset`` (2,) is where the circle's centre stands over the rectangle's. Between a side of the rectangle and
    the point of the circle whose tangent is parallel to it lies a plane; between the planes each corner is the
    apex of an oblique cone. The first side is split at its middle, where the seam is. Raises Refused.
    """
    numbers = np.array([length, width, diameter, height, *offset])
    if not np.isfinite(numbers).all() or (numbers[:4] <= 0).any():
        raise Refused("A transition needs a length, a width, a diameter and a height above 0; change the numbers.")
    a, b, r = length / 2, width / 2, diameter / 2
    centre = np.array([*offset, height])
    corners = np.array([[-a, -b, 0], [a, -b, 0], [a, b, 0], [-a, b, 0]])
    outward = np.array([[0.0, -1, 0], [1, 0, 0], [0, 1, 0], [-1, 0, 0]])
    tops = centre + r * outward  # the circle's point over the middle of each side
    middle = (corners[0] + corners[1]) / 2
    edges: list[Edge] = []

    def line(start: Array, end: Array) -> int:
        edges.append(Edge(len(edges) + 1, Line.between(start, end), 0.0, 1.0, ()))
        return len(edges) - 1

    seam = line(middle, tops[0])
    halves = line(corners[0], middle), line(middle, corners[1])
    sides = {k: line(corners[k], corners[(k + 1) % 4]) for k in (1, 2, 3)}
    # from each corner to the ends of the quarter over it
    left = [line(corners[k], tops[(k - 1) % 4]) for k in range(4)]
    right = [line(corners[k], tops[k]) for k in range(4)]
    faces: list[Face] = []

    def plane(walk: list[tuple[int, bool]]) -> None:
        """A plane face whose ``walk`` goes along edges (forwards or not), anticlockwise seen from outside."""
        points = [edges[e].curve.evaluate(np.array([0.0 if ahead else 1.0]))[0] for e, ahead in walk]
        x = points[1] - points[0]
        normal = np.cross(x, points[2] - points[0])
        x, normal = x / np.linalg.norm(x), normal / np.linalg.norm(normal)
        frame = Frame(points[0], np.array([x, np.cross(normal, x), normal]))
        loop = []
        for e, ahead in walk:
            flat = frame.local(edges[e].curve.evaluate(np.array([0.0, 1.0])))[:, :2]
            loop.append(Coedge(e, Line.between(*flat), *((0.0, 1.0) if ahead else (1.0, 0.0))))
        faces.append(_measured(Face(len(faces) + 1, Plane(frame), False, (tuple(loop),), 0.0)))

    def cone(k: int) -> None:
        """The corner ``k``: apex at v = 0, its quarter of the circle at v = 1."""
        before = (k - 1) % 4
        turn = tops[before] + tops[k] - centre
        arc = np.array([tops[before], turn, tops[k]])
        control = np.stack([np.tile(corners[k], (3, 1)), arc], axis=1)
        knots = np.array([0.0, 0, 0, 1, 1, 1])
        surface = SplineSurface(knots, np.array([0.0, 0, 1, 1]), control, 2, 1, np.stack([QUARTER, QUARTER], axis=1))
        edges.append(Edge(len(edges) + 1, Spline(knots, arc, 2, QUARTER), 0.0, 1.0, ()))
        u, v = np.eye(2)
        loop = (
            Coedge(POLE, Line(np.zeros(2), u), 0.0, 1.0),
            Coedge(right[k], Line(u, v), 0.0, 1.0),
            Coedge(len(edges) - 1, Line(v, u), 1.0, 0.0),
            Coedge(left[k], Line(np.zeros(2), v), 1.0, 0.0),
        )
        faces.append(with_flat(_measured(Face(len(faces) + 1, surface, False, (loop,), 0.0))))

    plane([(halves[1], True), (left[1], True), (seam, False)])
    for k in (1, 2, 3):
        cone(k)
        plane([(sides[k], True), (left[(k + 1) % 4], True), (right[k], False)])
    cone(0)
    plane([(halves[0], True), (seam, True), (right[0], False)])
    return with_meshes(connected(Form(name, tuple(faces), tuple(edges))))


def _measured(face: Face) -> Face:
    return replace(face, area=face_area(face))
