"""One flat face laid on another: the motion that does it."""

from __future__ import annotations

import numpy as np

from ..errors import Refused
from ..geometry.curves import Array
from ..geometry.surfaces import Plane
from .form import Face, Form
from .moved import Motion

LEVEL = 1e-9


def laid_on(
    form: Form,
    face: int,
    other: Form,
    onto: int,
    gap: float = 0.0,
    turn: float = 0.0,
    shift: tuple[float, float] = (0, 0),
) -> Motion:
    """The motion of ``form`` that lays its ``face`` against face ``onto`` of the other, ``gap`` mm away from it.

    Middle comes on middle, and what points up stays up as far as it can; then it is turned by ``turn`` degrees round
    the other face's normal, and shifted along that face by ``shift`` mm, across and upwards. Raises Refused for faces
    that are not flat.
    """
    here, there = _flat(form, face), _flat(other, onto)
    from_normal, from_middle = _pose(form, here)
    to_normal, to_middle = _pose(other, there)
    start, end = _axes(from_normal), _axes(-to_normal)
    placed = _axes(to_normal)
    motion = Motion(end.T @ start, np.zeros(3))
    about = Motion.about(to_normal, turn, np.zeros(3), np.zeros(3))
    whole = about.turn @ motion.turn
    across, upwards = placed[0], placed[1]
    target = to_middle + gap * to_normal + shift[0] * across + shift[1] * upwards
    return Motion(whole, target - whole @ from_middle)


def _flat(form: Form, number: int) -> Face:
    face = form.face(number)
    if not isinstance(face.surface, Plane):
        raise Refused(f"Face {number} of {form.name or 'the form'} is no flat face; pick one that is.")
    return face


def _pose(form: Form, face: Face) -> tuple[Array, Array]:
    """The outward normal of a flat face, and its middle."""
    mesh = form.meshes[face.number - 1]
    corners = mesh.points[mesh.triangles]
    sizes = np.linalg.norm(np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]), axis=1)
    middle = (sizes[:, None] * corners.mean(axis=1)).sum(axis=0) / sizes.sum()
    return face.outward(np.zeros((1, 2)))[0], middle


def _axes(normal: Array) -> Array:
    """Rows across, upwards and normal (3, 3): upwards as near to z as can be, or to y for a level face."""
    up = np.array([0.0, 0, 1]) if abs(normal[2]) < 1 - LEVEL else np.array([0.0, 1, 0])
    up = up - (up @ normal) * normal
    up /= np.linalg.norm(up)
    return np.array([np.cross(up, normal), up, normal])
