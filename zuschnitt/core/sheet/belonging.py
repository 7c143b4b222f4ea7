"""Which faces of a solid belong to the sheet that it is, and which do not: a boss, a pocket, another thickness."""

from __future__ import annotations

from collections.abc import Collection, Iterable, Iterator

import numpy as np

from ..form.form import Face, Form, distance_to_triangles
from ..geometry.curves import Array
from ..geometry.surfaces import Cone, Cylinder, Plane
from .facing import bulges, outwards
from .skins import ALIKE, ROUGH, Skins

SLANT = 0.05
"""The sine of an angle: an edge face that is off by no more stands square on the sheet."""
BEVEL = 1.5
"""At a slanted edge of the sheet points lie so many thicknesses from a skin, and no more."""


def left_out(form: Form, skins_of: Skins, side: Iterable[int], other: Iterable[int]) -> tuple[int, ...]:
    """Faces that are neither of a skin nor at the edge of the sheet, which joins both skins and lies between them."""
    one, two = set(side), set(other)
    waiting = {face.number for face in form.faces} - one - two
    found: set[int] = set()
    for group, touched in _groups(form, waiting):
        if not (touched & one and touched & two):
            found |= group
            continue
        for number in group:
            beside = set(form.face(number).neighbours)
            alone = number in skins_of.opposite and not (beside & one and beside & two)
            if alone or not _between(form, skins_of.thickness, number, touched & (one | two)):
                found.add(number)  # a skin that hangs on by its edge alone is no edge, nor is what goes beyond
    for group, touched in _groups(form, waiting - found):
        if not (touched & one and touched & two):
            found |= group
    return tuple(sorted(found))


def _groups(form: Form, numbers: Collection[int]) -> Iterator[tuple[set[int], set[int]]]:
    """Faces of those that hang together, and all that they touch."""
    waiting = set(numbers)
    while waiting:
        group, more = set(), [min(waiting)]
        while more:
            number = more.pop()
            if number in waiting:
                waiting.discard(number)
                group.add(number)
                more.extend(n for n in form.face(number).neighbours if n in waiting)
        yield group, {n for number in group for n in form.face(number).neighbours}


def _between(form: Form, thickness: float, number: int, skins: Collection[int]) -> bool:
    """Whether all of a face lies between both skins: above neither, and no deeper below one than it is thick."""
    points = _points(form, number)
    hair = _hair(thickness)
    mine = [n for n in form.face(number).neighbours if n in skins]
    within = {n: np.abs(height(form.face(n), points) + thickness / 2) <= thickness / 2 + hair for n in mine or skins}
    near = np.all(list(within.values()), axis=0) if mine else np.zeros(len(points), bool)
    for n, lies in within.items():  # most places have a corner of a skin's triangles near by
        corners = form.meshes[n - 1].points
        low, high = corners.min(axis=0) - BEVEL * thickness, corners.max(axis=0) + BEVEL * thickness
        here = np.flatnonzero(lies & ~near & ((points >= low) & (points <= high)).all(axis=1))
        apart = points[here][:, None] - corners[None]
        near[here] = (np.einsum("ijk,ijk->ij", apart, apart) <= (BEVEL * thickness) ** 2).any(axis=1)
    for k in np.flatnonzero(~near).tolist():  # of faces that run round a corner, each place lies below another skin
        meshes = [form.meshes[n - 1] for n, lies in within.items() if lies[k]]
        if not any(distance_to_triangles(points[k], m.points[m.triangles]) <= BEVEL * thickness for m in meshes):
            return False
    return True


def _hair(thickness: float) -> float:
    return max(ALIKE * thickness, ROUGH)


def height(face: Face, points: Array) -> Array:
    """How far points (n, 3) lie above a plane or round face, out of the material, in mm (n,)."""
    surface = face.surface
    assert isinstance(surface, Plane | Cylinder | Cone)
    away = points - surface.frame.origin
    if isinstance(surface, Plane):
        return away @ outwards(face)
    along = away @ surface.frame.axes[2]
    above = np.linalg.norm(away - np.outer(along, surface.frame.axes[2]), axis=1) - surface.radius
    if isinstance(surface, Cone):
        above = (above - along * np.tan(surface.half_angle)) * np.cos(surface.half_angle)
    return above if bulges(face) else -above


def slanted(form: Form, thickness: float, edge: Iterable[int], skins: Collection[int]) -> list[int]:
    """Faces at the edge of plane walls that do not stand square on them: bevels, countersinks, floors of recesses."""
    found = []
    for number in edge:
        face, mesh = form.face(number), form.meshes[number - 1]
        beside = set(face.neighbours) & set(skins)
        if not beside:
            beside = {n for other in face.neighbours for n in form.face(other).neighbours} & set(skins)
        uv = mesh.uv[mesh.triangles].mean(axis=1)
        points, normals = face.surface.evaluate(uv), face.outward(uv)
        for skin in map(form.face, beside):
            if not isinstance(skin.surface, Plane):
                continue
            within = np.abs(height(skin, points) + thickness / 2) <= thickness / 2 + _hair(thickness)
            if (np.abs(normals[within] @ outwards(skin)) > SLANT).any():
                found.append(number)
                break
    return found


def pierced(form: Form, thickness: float, skin: Iterable[int], number: int) -> bool:
    """Whether a face that does not belong goes through all of the sheet, from those faces of a skin that it touches."""
    deepest = [height(form.face(n), _points(form, number)).min() for n in _beside(form, skin, number)]
    return any(each <= _hair(thickness) - thickness for each in deepest)


def unseen(form: Form, thickness: float, rest: Iterable[int], side: Iterable[int], other: Iterable[int]) -> list[int]:
    """Faces that do not belong, and make holes in the other skin that are none in the side that is followed."""
    away = set(rest)
    loops = [loop for number in other for loop in form.face(number).loops]
    holes = [
        c.edge
        for loop in loops
        if all(c.edge >= 0 and away & set(form.edges[c.edge].faces) for c in loop)
        for c in loop
    ]
    round_holes = {n for edge in holes for n in form.edges[edge].faces}
    return [n for n in rest if n in round_holes and not _beside(form, side, n) and pierced(form, thickness, other, n)]


def _beside(form: Form, skin: Iterable[int], number: int) -> list[int]:
    neighbours = form.face(number).neighbours
    return [n for n in skin if n in neighbours]


def _points(form: Form, number: int) -> Array:
    return form.meshes[number - 1].points
