"""Slightly twisted faces: developed as nearly as can be, within a limit, and the error said."""

from __future__ import annotations

from collections.abc import Sequence

from ..developable.developable import nearest_flat
from ..developable.fitted_flat import total_curvature
from ..errors import CannotBeDone
from ..form.form import Face, Form
from ..form.unwrapped import plain_box
from ..geometry.ruled_flat import FlatMap
from ..geometry.surfaces import Fitted
from ..progress import SILENT, Progress

PLAINLY_ROUND = 1.0
"""A face with more total curvature than this, in radians, is not tried at all."""
KINDS = {"sphere": "part of a sphere", "torus": "part of a torus", "ruled": "twisted"}


def twisted_flats(form: Form, numbers: Sequence[int], limit: float, progress: Progress = SILENT) -> dict[int, FlatMap]:
    """The flats of the faces that are not developable, each stretching by no more than ``limit`` percent.

    Raises CannotBeDone where one stretches more, or curves both ways plainly.
    """
    curved = [form.face(n) for n in numbers if not form.face(n).developable]
    found: dict[int, FlatMap] = {}
    errors: dict[int, float] = {}
    for i, face in enumerate(curved):
        progress.step(i / max(len(curved), 1), "looking for flats")
        if limit > 0 and _worth_trying(face):
            flat = nearest_flat(face)
            assert flat is not None
            errors[face.number] = 100 * flat.error
            if errors[face.number] <= limit:
                found[face.number] = flat
                continue
        _refuse(face, [f.number for f in curved], errors.get(face.number), limit)
    return found


def _worth_trying(face: Face) -> bool:
    return isinstance(face.surface, Fitted) and total_curvature(face.surface, plain_box(face)) < PLAINLY_ROUND


def _refuse(face: Face, curved: list[int], error: float | None, limit: float) -> None:
    kind = KINDS.get(face.kind, "a free form")
    if error is not None:
        raise CannotBeDone(
            f"Face {face.number} is {kind} and would stretch by {error:.2g} % when laid flat, more than the limit of "
            f"{limit:g} %; allow more, or develop it the relaxed way.",
            faces=[face.number],
        )
    more = f" (and {len(curved) - 1} more)" if len(curved) > 1 else ""
    raise CannotBeDone(
        f"Face {face.number}{more} is {kind} and curves both ways, so it has no exact development; "
        "develop it the relaxed way, which says how much it stretches.",
        faces=curved,
    )
