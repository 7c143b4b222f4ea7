"""On which side of a face the material of a sheet is, and on which side of each bend the face is."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from ..geometry.curves import Array
from ..geometry.surfaces import Plane
from .form import Face, FaceMesh, Form, distance_to_triangles

PLACES = 12
"""At so many triangles of a face, about, it is looked what lies below and how it bends."""
AS_THICK = 0.02
"""The other side of a sheet lies the thickness away, within this part of it."""
STRAIGHT = 1e-4
"""What turns by less than this over a triangle, in radians, does not bend there."""


def has_other_side(form: Form, number: int, thickness: float) -> bool:
    """Whether the form has another face ``thickness`` mm below this one: then it is the skin of a solid sheet."""
    mesh = form.meshes[number - 1]
    face = form.face(number)
    uv = mesh.uv[mesh.triangles[_spread(mesh)]].mean(axis=1)  # on the surface itself: triangles cut its bends short
    below = face.surface.evaluate(uv) - thickness * face.outward(uv)
    body = next((body.faces for body in form.bodies if number in body.faces), ())
    others = [form.face(n) for n in body if n != number]
    found = [any(_reaches(form, other, point, AS_THICK * thickness) for other in others) for point in below]
    return sum(found) > len(found) / 2


def _spread(mesh: FaceMesh) -> np.ndarray:
    """The numbers of triangles that lie spread over a face."""
    return np.unique(np.linspace(0, len(mesh.triangles) - 1, PLACES).astype(int))


def _reaches(form: Form, face: Face, point: Array, tolerance: float) -> bool:
    """Whether a face passes within ``tolerance`` mm of a point (3,)."""
    mesh = form.meshes[face.number - 1]
    low, high = mesh.points.min(axis=0), mesh.points.max(axis=0)
    sag = 1e-3 * form.size
    if ((point < low - tolerance - sag) | (point > high + tolerance + sag)).any():
        return False
    uv = face.surface.project(point[None])
    gap = float(np.linalg.norm(face.surface.evaluate(uv)[0] - point))
    return gap <= tolerance and distance_to_triangles(point, mesh.points[mesh.triangles]) <= tolerance + sag


def bends(face: Face, mesh: FaceMesh) -> tuple[bool, bool]:
    """Whether a face bends away from its outer side somewhere, and whether towards it.

    Away means that the outer side is the outside of the bend.
    """
    if isinstance(face.surface, Plane):
        return False, False
    chosen = _spread(mesh)
    away = towards = False
    for one, other in ((0, 1), (1, 2), (2, 0)):
        a, b = mesh.triangles[chosen, one], mesh.triangles[chosen, other]
        along, turned = mesh.points[b] - mesh.points[a], mesh.normals[b] - mesh.normals[a]
        turn = np.einsum("ij,ij->i", turned, along) / np.maximum(np.linalg.norm(along, axis=1), 1e-300)
        away |= bool((turn > STRAIGHT).any())
        towards |= bool((turn < -STRAIGHT).any())
    return away, towards


def depths(form: Form, numbers: Sequence[int], layer: str, thickness: float, k_factor: float) -> dict[int, float]:
    """How far, in mm along the outer normal, a layer of the sheet lies from each of the faces.

    A face of a solid knows where its material is: below it. Otherwise the faces are the outer side of the sheet or,
    for "neutral_of_inner", the inner one. The neutral layer lies ``k_factor`` of the thickness from the inner side of
    each bend, whichever way it goes; in the middle where one face bends both ways.
    """
    if layer == "given":
        return dict.fromkeys(numbers, 0.0)
    found = {}
    for number in numbers:
        into = 1.0 if layer == "neutral_of_inner" and not has_other_side(form, number, thickness) else -1.0
        if layer == "other":
            found[number] = into * thickness
            continue
        away, towards = bends(form.face(number), form.meshes[number - 1])
        if into > 0:  # the material is on the outer side, which is then the inside of a bend away from it
            away, towards = towards, away
        if away and towards:
            share = 0.5
        elif towards:
            share = k_factor
        else:
            share = 1 - k_factor
        if not away and not towards and layer == "neutral_of_inner":
            share = k_factor
        found[number] = into * share * thickness
    return found
