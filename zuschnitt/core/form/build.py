"""Forms built from numbers: a turned body, a domed lid, a flat sheet. No geometry kernel is needed."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from itertools import pairwise

import numpy as np

from ..errors import Refused
from ..geometry.curves import Array, Curve, Ellipse, Line
from ..geometry.surfaces import TURN, Cone, Cylinder, Frame, Plane, SplineSurface, Surface
from ..tolerances import SMOOTH_ANGLE
from .area import face_area
from .form import POLE, Body, Coedge, Edge, Face, Form, OnSurface
from .meshing import with_meshes


def turned_body(profile, name: str = "body") -> Form:
    """A body turned round the z axis, open at both ends, its outer side outwards.

    ``profile`` lists (radius, height) in mm, from the lower end to the upper one. Equal radii give a
    cylinder, others a cone; a radius of 0 at an end gives an apex.
    """
    profile = np.asarray(profile, float)
    if not np.isfinite(profile).all() or (profile < 0).any() or len(profile) < 2:
        raise Refused("A turned body needs finite radii and heights that are not below 0; change them.")
    if (np.diff(profile[:, 1]) <= 0).any() or (profile[1:-1, 0] <= 0).any():
        raise Refused("Each height of a turned body must be above the one before; change the heights.")
    if (profile[:-1, 0] + profile[1:, 0] <= 0).any():
        raise Refused("A part of the body has no diameter at either end; give one of them a size.")
    circles: list[int | None] = []
    edges: list[Edge] = []
    for radius, height in profile:
        if radius == 0:
            circles.append(None)
            continue
        circle = Ellipse(np.array([0, 0, height]), np.array([radius, 0, 0]), np.array([0, radius, 0]))
        circles.append(len(edges))
        edges.append(Edge(len(edges) + 1, circle, 0.0, TURN, ()))
    faces = []
    for i, ((r0, z0), (r1, z1)) in enumerate(pairwise(profile)):
        slant = float(np.hypot(r1 - r0, z1 - z0))
        frame = Frame(np.array([0, 0, z0]), np.eye(3))
        surface = (
            Cylinder(frame, float(r0)) if r0 == r1 else Cone(frame, float(r0), float(np.arctan2(r1 - r0, z1 - z0)))
        )
        seam = len(edges)
        ends = surface.evaluate(np.array([[0, 0], [0, slant]]))
        edges.append(Edge(seam + 1, Line(ends[0], (ends[1] - ends[0]) / slant), 0.0, slant, ()))
        around = np.array([1.0, 0.0])
        along = np.array([0.0, 1.0])
        low, high = (POLE if c is None else c for c in (circles[i], circles[i + 1]))
        loop = (
            Coedge(low, Line(np.array([0.0, 0.0]), around), 0.0, TURN),
            Coedge(seam, Line(np.array([TURN, 0.0]), along), 0.0, slant),
            Coedge(high, Line(np.array([0.0, slant]), around), TURN, 0.0),
            Coedge(seam, Line(np.array([0.0, 0.0]), along), slant, 0.0),
        )
        area = np.pi * (r0 + r1) * slant
        faces.append(Face(i + 1, surface, False, (loop,), float(area)))
    return with_meshes(connected(Form(name, tuple(faces), tuple(edges))))


def domed_lid(length: float, width: float, crown: float, corner: float, hole: float, name: str = "lid") -> Form:
    """A doubly curved lid: an elliptic paraboloid, trimmed to a rounded rectangle, with a round hole.

    ``length`` along x and ``width`` along y, ``corner`` the radius of its corners and ``hole`` the
    diameter of the hole in its middle (0 for none), all as seen from above; ``crown`` is how much
    higher the middle is than the corners of the plain rectangle. All in mm.
    """
    numbers = np.array([length, width, crown, corner, hole])
    if not np.isfinite(numbers).all() or (numbers[:3] <= 0).any() or (numbers[3:] < 0).any():
        raise Refused("A lid needs a length, a width and a crown above 0; change the numbers.")
    if 2 * corner > min(length, width):
        raise Refused("The corner radius of the lid is more than half its width; make it smaller.")
    if hole >= min(length, width):
        raise Refused("The hole is as wide as the lid; make it smaller.")
    a, b = length / 2, width / 2
    sag = crown / 2 * np.array([-1, 1, -1])  # -s² crown / 2 as a quadratic Bézier on [-1, 1]
    height = crown + sag[:, None] + sag[None, :]
    grid = np.meshgrid([-a, 0, a], [-b, 0, b], indexing="ij")
    surface = SplineSurface(np.repeat([-a, a], 3), np.repeat([-b, b], 3), np.stack([*grid, height], axis=2), 2, 2)
    corners = [((1, -1), -1), ((1, 1), 0), ((-1, 1), 1), ((-1, -1), 2)]
    walk: list[tuple[Line | Ellipse, float, float]] = []
    previous = np.array([-a + corner, -b])
    for (x, y), quarter in corners:
        centre = np.array([x * (a - corner), y * (b - corner)])
        axes = corner * np.eye(2)
        turn = Ellipse(centre, axes[0], axes[1])
        begin = centre + corner * np.array([np.cos(quarter * np.pi / 2), np.sin(quarter * np.pi / 2)])
        if np.linalg.norm(begin - previous) > 1e-9:
            walk.append((Line.between(previous, begin), 0.0, 1.0))
        if corner > 0:
            walk.append((turn, quarter * np.pi / 2, (quarter + 1) * np.pi / 2))
        previous = turn.evaluate(np.array([(quarter + 1) * np.pi / 2]))[0] if corner > 0 else begin
    loops = [walk]
    if hole > 0:
        circle = Ellipse(np.zeros(2), np.array([hole / 2, 0]), np.array([0, hole / 2]))
        loops.append([(circle, TURN, 0.0)])
    return bounded(name, surface, loops)


def flat_sheet(width: float, height: float, name: str = "sheet") -> Form:
    """A flat rectangle in the plane z = 0, its lower left corner at the origin, its outer side up; in mm."""
    corners = np.array([[0.0, 0], [width, 0], [width, height], [0, height]])
    surface = Plane(Frame(np.zeros(3), np.eye(3)))
    return bounded(name, surface, [lines_round(corners)])


def bounded(name: str, surface: Surface, loops: Sequence[Sequence[tuple[Curve, float, float]]]) -> Form:
    """One face: a surface within ``loops``, each of curves of its parameters with where they begin and end."""
    edges: list[Edge] = []
    rings = []
    for loop in loops:
        ring = []
        for curve, start, end in loop:
            ring.append(Coedge(len(edges), curve, start, end))
            edges.append(Edge(len(edges) + 1, OnSurface(surface, curve), min(start, end), max(start, end), ()))
        rings.append(tuple(ring))
    face = Face(1, surface, False, tuple(rings), 0.0)
    return with_meshes(connected(Form(name, (replace(face, area=face_area(face)),), tuple(edges))))


def lines_round(corners: Array) -> list[tuple[Curve, float, float]]:
    """Straight lines from corner to corner (n, 2) and back to the first."""
    return [(Line.between(a, b), 0.0, 1.0) for a, b in zip(corners, np.roll(corners, -1, axis=0), strict=True)]


def connected(form: Form) -> Form:
    """Fills in which faces meet at which edges, and where they continue smoothly."""
    walks: dict[int, list[tuple[Face, Coedge]]] = {}
    for face in form.faces:
        for loop in face.loops:
            for coedge in loop:
                if coedge.edge >= 0:
                    walks.setdefault(coedge.edge, []).append((face, coedge))
    neighbours: dict[int, set[int]] = {face.number: set() for face in form.faces}
    smooth: dict[int, set[int]] = {face.number: set() for face in form.faces}
    edges: list[Edge] = []
    for index, edge in enumerate(form.edges):
        around = walks.get(index, [])
        numbers = tuple(sorted({face.number for face, _ in around}))
        is_smooth = len(around) == 2 and _smooth(around[0], around[1], edge)
        for number in numbers:
            neighbours[number].update(n for n in numbers if n != number)
            if is_smooth:
                smooth[number].update(n for n in numbers if n != number)
        edges.append(replace(edge, faces=numbers, smooth=is_smooth))
    faces = tuple(
        replace(f, neighbours=tuple(sorted(neighbours[f.number])), smooth=tuple(sorted(smooth[f.number])))
        for f in form.faces
    )
    return replace(form, faces=faces, edges=tuple(edges), bodies=form.bodies or bodies_of(faces))


def bodies_of(faces: tuple[Face, ...]) -> tuple[Body, ...]:
    """What hangs together along edges, in the order of the faces."""
    by_number = {face.number: face for face in faces}
    left = set(by_number)
    found: list[Body] = []
    while left:
        body: set[int] = set()
        waiting = [min(left)]
        while waiting:
            number = waiting.pop()
            if number not in body:
                body.add(number)
                waiting.extend(by_number[number].neighbours)
        left -= body
        found.append(Body(f"body {len(found) + 1}", tuple(sorted(body))))
    return tuple(found)


def _smooth(first: tuple[Face, Coedge], second: tuple[Face, Coedge], edge: Edge) -> bool:
    t = np.linspace(edge.start, edge.end, 11)[1:-1]
    normals = [face.outward(coedge.uv(t)) for face, coedge in (first, second)]
    cosine = np.einsum("ij,ij->i", *normals)
    return bool((cosine > np.cos(SMOOTH_ANGLE)).all())
