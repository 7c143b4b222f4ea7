"""Which faces are meant by a word or a rectangle: all of a kind, the others, those within a frame."""

from __future__ import annotations

from collections.abc import Iterable

import numpy as np

from ...core.form.form import Form
from .camera import Camera


def of_same_kind(form: Form, numbers: Iterable[int]) -> tuple[int, ...]:
    """All faces of the kinds that the given ones have."""
    kinds = {form.face(n).kind for n in numbers if n <= len(form.faces)}
    return tuple(face.number for face in form.faces if face.kind in kinds)


def of_same_body(form: Form, numbers: Iterable[int]) -> tuple[int, ...]:
    """All faces of the bodies that the given ones belong to."""
    start = set(numbers)
    return tuple(sorted(n for body in form.bodies if start & set(body.faces) for n in body.faces))


def others(form: Form, numbers: Iterable[int]) -> tuple[int, ...]:
    """All faces but the given ones."""
    left = set(numbers)
    return tuple(face.number for face in form.faces if face.number not in left)


def within(
    form: Form,
    camera: Camera,
    size: tuple[float, float],
    corner: tuple[float, float],
    opposite: tuple[float, float],
    hidden: Iterable[int] = (),
) -> tuple[int, ...]:
    """The faces that lie wholly in a rectangle of pixels, as the camera sees them, hidden ones left out."""
    low, high = np.minimum(corner, opposite), np.maximum(corner, opposite)
    out = set(hidden)
    found = []
    for face, mesh in zip(form.faces, form.meshes, strict=True):
        pixels = camera.project(mesh.points, size)
        if face.number not in out and ((pixels >= low) & (pixels <= high)).all():
            found.append(face.number)
    return tuple(found)
