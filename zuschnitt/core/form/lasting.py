"""Picked faces that last: what each was like when it was picked, and which face that is now."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from typing import Any

import numpy as np

from ..errors import Refused
from ..wording import coordinates
from .curves import Array
from .form import Form

NEAR = 0.02
"""A face is the same if its middle lies within this part of the form's size of where it was,"""
ALIKE = 0.05
"""and its area differs by no more than this part."""


def remembered(form: Form, numbers: Iterable[int]) -> dict[str, Any]:
    """What the faces ``numbers`` are like, as plain values: kind, area in mm² and middle in mm of each."""
    known = {str(n): [form.face(n).kind, round(form.face(n).area, 4), _middle(form, n).round(4).tolist()]
             for n in numbers if 1 <= n <= len(form.faces)}  # fmt: skip
    return {"of": len(form.faces), "faces": known}


def found_again(
    form: Form, numbers: Iterable[int], memory: Mapping[str, Any] | str
) -> tuple[tuple[int, ...], tuple[str, ...]]:
    """The numbers that picked faces have now, and a sentence where they are others.

    A form with as many faces as before, a face of the same kind under each number, is the same form with other
    measures. Else each face is looked for where it was. Raises Refused for a face that is not there any more.
    """
    numbers = tuple(numbers)
    if not isinstance(memory, Mapping) or not memory.get("faces"):
        return numbers, ()
    faces = memory["faces"]
    same = memory.get("of") == len(form.faces)
    now: dict[int, int] = {}
    for n in numbers:
        about = faces.get(str(n))
        fits = about is None or (same and n <= len(form.faces) and form.face(n).kind == about[0])
        now[n] = n if fits else _looked_for(form, about, set(now.values()))
    lost = [n for n in numbers if now[n] == 0]
    if lost:
        kind, _, middle = faces[str(lost[0])]
        others = f" (nor {len(lost) - 1} others)" if len(lost) > 1 else ""
        raise Refused(
            f"Face {lost[0]}, a {kind} that was picked at {coordinates(middle)}, is not there any more{others} since "
            "the form was changed; pick again."
        )
    changed = [n for n in numbers if now[n] != n]
    if not changed:
        return numbers, ()
    was, is_now = ", ".join(map(str, changed)), ", ".join(str(now[n]) for n in changed)
    said = f"The form was changed: what was picked as face {was} is now face {is_now}."
    return tuple(sorted(now.values())), (said,)


def _looked_for(form: Form, about: list, taken: set[int]) -> int:
    """The number of the free face that is like the one remembered; 0 where there is none."""
    kind, area, middle = about
    best, found = NEAR * form.size, 0
    for face in form.faces:
        if face.kind == kind and face.number not in taken and abs(face.area - area) <= ALIKE * area:
            gap = float(np.linalg.norm(_middle(form, face.number) - middle))
            if gap <= best:
                best, found = gap, face.number
    return found


def _middle(form: Form, number: int) -> Array:
    """The centre of gravity (3,) of a face."""
    mesh = form.meshes[number - 1]
    corners = mesh.points[mesh.triangles]
    double = np.linalg.norm(np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]), axis=1)
    return (corners.mean(axis=1) * double[:, None]).sum(axis=0) / double.sum()
