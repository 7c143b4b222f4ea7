"""The two skins of a solid sheet, and how thick it is: faces that lie opposite each other with material between."""

from __future__ import annotations

from collections import Counter, defaultdict
from collections.abc import Iterable, Mapping

import numpy as np

from ..errors import CannotBeDone, Refused
from ..form.form import Face, Form
from ..geometry.curves import Array
from ..geometry.surfaces import Cone, Cylinder, Plane
from ..record import record
from ..wording import counted
from .facing import bulges, outwards

PLACES = 8
"""From so many places of a face, about, it is looked for what lies opposite."""
PARALLEL = 1e-4
"""Normals and axes that differ by no more are parallel."""
ALIKE = 2e-3
"""Thicknesses that differ by no more than this part are one: parts from elsewhere are no more exact."""
ROUGH, THIN = 5e-3, 0.02
"""Nor are those that differ by less than this in mm, if that is no more than so much of the thickness."""
ON_EDGE = 1e-9
SHARP = 0.01
"""A round whose radius is the thickness within this part goes round a sharp edge."""
SHARE = 0.55
"""A part is sheet where both skins together are more than this part of the area of all that belongs to it."""


@record
class Skins:
    """``thickness`` in mm; ``opposite`` are, for each face that has another at the thickness below it, those faces."""

    thickness: float
    opposite: Mapping[int, frozenset[int]]


def skins(form: Form) -> Skins:
    """The thickness of a solid sheet, and which faces lie opposite each other.

    Raises CannotBeDone for what is no sheet, Refused for what is not closed.
    """
    uses = Counter(c.edge for face in form.faces for loop in face.loops for c in loop if c.edge >= 0)
    once = sorted(edge for edge, count in uses.items() if count < 2)
    if once:
        raise Refused(
            f"{form.name or 'The form'} is not closed: edge {once[0] + 1} has a face on one side only; "
            "a sheet part needs a solid, and thicken makes one of an open form."
        )
    met = _met(form)
    weight: dict[float, float] = defaultdict(float)
    gaps: dict[tuple[int, int], float] = {}
    for (one, other), share in met.items():
        gap = _gap(form.face(one), form.face(other))
        if gap is not None and gap > 0:
            gaps[one, other] = gap
            same = next((g for g in weight if _alike(gap, g)), gap)
            weight[same] += share * form.face(one).area
    if not weight:
        raise CannotBeDone(no_sheet(form, "no two faces lie opposite each other at one distance"))
    best = max(weight, key=lambda g: (weight[g], -g))
    alike = {pair: gap for pair, gap in gaps.items() if _alike(gap, best)}
    opposite: dict[int, set[int]] = defaultdict(set)
    for one, other in alike:
        opposite[one].add(other)
        opposite[other].add(one)
    areas = np.array([form.face(one).area for one, _ in alike])
    thickness = float(np.average(list(alike.values()), weights=areas))
    return Skins(thickness, {number: frozenset(others) for number, others in opposite.items()})


def _alike(gap: float, thickness: float) -> bool:
    return abs(gap - thickness) <= max(ALIKE * thickness, min(ROUGH, THIN * thickness))


def no_sheet(form: Form, why: str) -> str:
    """The sentence that refuses what is no sheet."""
    return (
        f"{form.name or 'The form'} is no sheet: {why}; give a solid with walls of one thickness, "
        "or hollow a block with --block and --hollow."
    )


def _met(form: Form) -> dict[tuple[int, int], float]:
    """For pairs of faces that lie opposite each other: the part of the first from which the other is the nearest such.

    One goes from places of a face square into the material.
    """
    found: dict[tuple[int, int], float] = {}
    for number, others in _candidates(form).items():
        mesh = form.meshes[number - 1]
        chosen = np.unique(np.linspace(0, len(mesh.triangles) - 1, PLACES).astype(int))
        mine = mesh.triangles[chosen]
        start, way = mesh.points[mine].mean(axis=1), -mesh.normals[mine].mean(axis=1)
        way /= np.linalg.norm(way, axis=1, keepdims=True)
        corners = [form.meshes[n - 1].points[form.meshes[n - 1].triangles] for n in others]
        owner = np.repeat(others, [len(each) for each in corners])
        hit = _first_hits(start, way, np.concatenate(corners), owner)
        for other in set(hit.tolist()) - {0}:
            found[number, other] = float((hit == other).mean())
    return found


def _candidates(form: Form) -> dict[int, list[int]]:
    """For each face those that lie below it, parallel to it."""
    found: dict[int, list[int]] = defaultdict(list)
    planes = [face for face in form.faces if isinstance(face.surface, Plane)]
    if planes:
        normals = np.array([outwards(face) for face in planes])
        points = np.array([face.surface.frame.origin for face in planes if isinstance(face.surface, Plane)])
        below = np.einsum("ik,ijk->ij", normals, points[:, None] - points[None])
        pairs = np.argwhere((normals @ normals.T < -1 + PARALLEL**2) & (below > 0))
        for i, j in pairs.tolist():
            found[planes[i].number].append(planes[j].number)
    for kind in (Cylinder, Cone):
        rounds = [face for face in form.faces if isinstance(face.surface, kind)]
        outlines = {face.number: _outline(face) for face in rounds}
        for one in rounds:
            outline = outlines[one.number]
            gaps = [(_gap(one, other, outline) or 0.0, other.number) for other in rounds if other is not one]
            found[one.number].extend(number for gap, number in gaps if gap > 0)
    return {number: others for number, others in found.items() if others and len(form.meshes[number - 1].triangles)}


def _first_hits(start: Array, way: Array, corners: Array, owner: np.ndarray) -> np.ndarray:
    """The number of the face (r,) whose triangles each ray meets first; 0 where it meets none.

    Möller and Trumbore, Fast, minimum storage ray/triangle intersection (1997), for all rays and triangles at once.
    """
    a, e1, e2 = corners[:, 0], corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]
    p = np.cross(way[:, None], e2[None])
    with np.errstate(divide="ignore", invalid="ignore"):
        inverse = 1 / np.einsum("rti,ti->rt", p, e1)
        t0 = start[:, None] - a
        u = np.einsum("rti,rti->rt", t0, p) * inverse
        q = np.cross(t0, e1[None])
        v = np.einsum("ri,rti->rt", way, q) * inverse
        far = np.einsum("rti,ti->rt", q, e2) * inverse
        met = (u > -ON_EDGE) & (v > -ON_EDGE) & (u + v < 1 + ON_EDGE) & (far > ON_EDGE)
    far = np.where(met, far, np.inf)
    nearest = far.argmin(axis=1)
    return np.where(np.isfinite(far[np.arange(len(far)), nearest]), owner[nearest], 0)


def _gap(one: Face, other: Face, outline: Array | None = None) -> float | None:
    """How far in mm a face lies below another one of its kind, everywhere; None where they are not parallel.

    ``outline`` are some points (n, 3) along the edges of the first one, where they are known.
    """
    a, b = one.surface, other.surface
    if isinstance(a, Plane) and isinstance(b, Plane):
        n, m = outwards(one), outwards(other)
        return float((a.frame.origin - b.frame.origin) @ n) if n @ m < -1 + PARALLEL**2 else None
    if type(a) is not type(b) or not isinstance(a, Cylinder | Cone):
        return None
    assert isinstance(b, Cylinder | Cone)
    if bulges(one) == bulges(other):
        return None
    way = 1 if bulges(one) else -1
    if isinstance(a, Cone) and isinstance(b, Cone):
        return between_cones(a, b) * way if coaxial(a, b) else None
    if not _parallel(a, b):
        return None
    # arcs through places that are off by a thousandth have radii that are off by several, but lie as far apart
    away = (_outline(one) if outline is None else outline) - b.frame.origin
    gaps = np.linalg.norm(away - np.outer(away @ b.frame.axes[2], b.frame.axes[2]), axis=1) - b.radius
    alike = np.ptp(gaps) <= max(ALIKE * max(a.radius, b.radius), ROUGH)
    return float(gaps.min() + gaps.max()) / 2 * way if alike else None


def _outline(face: Face) -> Array:
    """Some points (n, 3) along the edges of a face."""
    uv = [c.uv(np.linspace(c.start, c.end, 5)) for loop in face.loops for c in loop]
    return face.surface.evaluate(np.vstack(uv))


def _parallel(a: Cylinder | Cone, b: Cylinder | Cone) -> bool:
    return bool(abs(a.frame.axes[2] @ b.frame.axes[2]) > 1 - PARALLEL**2)


def coaxial(a: Cylinder | Cone, b: Cylinder | Cone) -> bool:
    axis = a.frame.axes[2]
    apart = b.frame.origin - a.frame.origin
    aside = np.linalg.norm(apart - (apart @ axis) * axis)
    return bool(_parallel(a, b) and aside <= max(ALIKE * max(a.radius, b.radius), ROUGH))


def between_cones(a: Cone, b: Cone) -> float:
    """How far the cone ``b`` lies within ``a``, square to both; NaN where they are not parallel."""
    same = 1 if a.frame.axes[2] @ b.frame.axes[2] > 0 else -1
    if abs(a.half_angle - same * b.half_angle) > PARALLEL:
        return float("nan")
    along = float((b.frame.origin - a.frame.origin) @ a.frame.axes[2])
    return float((a.radius + along * np.tan(a.half_angle) - b.radius) * np.cos(a.half_angle))


def side_of(form: Form, found: Skins, start: int) -> tuple[int, ...]:
    """The faces of the skin that has the face ``start``: what runs on from it and has the other skin below it."""
    reached, waiting = {start}, [start]
    while waiting:
        here = waiting.pop()
        below = found.opposite.get(here, frozenset())
        for other in form.face(here).neighbours:
            if other in reached or other in below:
                continue
            if other not in found.opposite and not _round_about(form, found.thickness, here, other):
                continue
            if set(form.face(other).neighbours) & below:  # at the edge of the sheet: it touches both skins
                continue
            reached.add(other)
            waiting.append(other)
    return tuple(sorted(reached))


def _round_about(form: Form, thickness: float, here: int, other: int) -> bool:
    """Whether a face is the outside of a bend round a sharp inner edge: it has no face opposite."""
    face = form.face(other)
    if not isinstance(face.surface, Cylinder) or not bulges(face) or other not in form.face(here).smooth:
        return False
    return abs(face.surface.radius - thickness) <= SHARP * thickness


def sides(form: Form, found: Skins) -> list[tuple[int, ...]]:
    """The skins of the form, the largest first; of two that are as large, the one with the lowest face."""
    left, made = set(found.opposite), []
    for face in sorted(form.faces, key=lambda face: -face.area):
        if face.number in left:
            made.append(side_of(form, found, face.number))
            left -= set(made[-1])
    return sorted(made, key=lambda side: (-round(form.area(side), 6), side))


def beyond(form: Form, found: Skins, side: Iterable[int]) -> tuple[int, ...]:
    """The skin on the other side of one."""
    of_side = set(side)
    below = {n for number in of_side for n in found.opposite.get(number, ())} - of_side
    return tuple(sorted({n for number in below for n in side_of(form, found, number)} - of_side))


def named(numbers: Iterable[int]) -> str:
    """Face numbers in words."""
    mine = list(numbers)
    return f"{counted(len(mine), 'face')} ({', '.join(map(str, mine))})"
