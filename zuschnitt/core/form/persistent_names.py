"""Picks that last: what each face or edge was like when it was picked, and which one that is now."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from typing import Any

import numpy as np

from ..errors import Refused
from ..geometry.curves import Array
from ..wording import Note, coordinates, counted
from .form import Form

NEAR = 0.02
"""A face or edge is the same if its middle lies within this part of the form's size of where it was,"""
ALIKE = 0.05
"""and its area or length differs by no more than this part."""


def remembered(form: Form, numbers: Iterable[int], what: str = "face") -> dict[str, Any]:
    """What faces or edges are like, as plain values: kind, area in mm² or length in mm, and middle in mm of each."""
    count = _count(form, what)
    like = {str(n): [_kind(form, n, what), round(_size(form, n, what), 4), _middle(form, n, what).round(4).tolist()]
            for n in numbers if 1 <= n <= count}  # fmt: skip
    return {"of": count, "like": like}


def found_again(
    form: Form, numbers: Iterable[int], identity: Mapping[str, Any] | str, what: str = "face"
) -> tuple[tuple[int, ...], tuple[str, ...]]:
    """The numbers that picked faces or edges have now, and a sentence where they are others.

    A form with as many as before, one of the same kind under each number, is the same form with other measures.
    Else each is looked for where it was. Raises Refused for one that is not there any more.
    """
    numbers = tuple(numbers)
    if not isinstance(identity, Mapping) or not identity.get("like"):
        return numbers, ()
    likes, count = identity["like"], _count(form, what)
    same = identity.get("of") == count
    now: dict[int, int] = {}
    for n in numbers:
        about = likes.get(str(n))
        fits = about is None or (same and n <= count and _kind(form, n, what) == about[0])
        now[n] = n if fits else _looked_for(form, about, set(now.values()), what)
    lost = [n for n in numbers if now[n] == 0]
    if lost:
        kind, _, middle = likes[str(lost[0])]
        others = f" (nor {counted(len(lost) - 1, 'other')})" if len(lost) > 1 else ""
        raise Refused(
            f"{what.capitalize()} {lost[0]}, a {kind} that was picked at {coordinates(middle)}, is not there any "
            f"more{others} since the form was changed; pick again."
        )
    changed = [n for n in numbers if now[n] != n]
    if not changed:
        return numbers, ()
    was, is_now = ", ".join(map(str, changed)), ", ".join(str(now[n]) for n in changed)
    said = Note(f"The form was changed: what was picked as {what} {was} is now {what} {is_now}.")
    return tuple(sorted(now.values())), (said,)


def faces_again(
    form: Form, faces: Iterable[int] | str, identity: Mapping[str, Any] | None
) -> tuple[tuple[int, ...] | None, tuple[str, ...]]:
    """What ``found_again`` says of the picked ``faces`` with this ``identity``; no numbers where it is "all"."""
    if isinstance(faces, str):
        return None, ()
    return found_again(form, faces, (identity or {}).get("faces", ""))


def _looked_for(form: Form, about: list, taken: set[int], what: str) -> int:
    """The number of the free face or edge that is like the one remembered; 0 where there is none."""
    kind, size, middle = about
    best, found = NEAR * form.size, 0
    for number in range(1, _count(form, what) + 1):
        if number in taken or _kind(form, number, what) != kind:
            continue
        if abs(_size(form, number, what) - size) <= ALIKE * size:
            gap = float(np.linalg.norm(_middle(form, number, what) - middle))
            if gap <= best:
                best, found = gap, number
    return found


def _count(form: Form, what: str) -> int:
    return len(form.faces if what == "face" else form.edges)


def _kind(form: Form, number: int, what: str) -> str:
    return form.face(number).kind if what == "face" else form.edge(number).curve.kind


def _size(form: Form, number: int, what: str) -> float:
    """The area of a face, the length of an edge."""
    return form.face(number).area if what == "face" else form.edge(number).length


def _middle(form: Form, number: int, what: str) -> Array:
    """The centre of gravity (3,) of a face or an edge."""
    if what == "face":
        mesh = form.meshes[number - 1]
        corners = mesh.points[mesh.triangles]
        weights = np.linalg.norm(np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]), axis=1)
        middles = corners.mean(axis=1)
    else:
        points = form.edge(number).points(1e-3 * form.size)
        weights = np.linalg.norm(np.diff(points, axis=0), axis=1)
        middles = (points[1:] + points[:-1]) / 2
    return (middles * weights[:, None]).sum(axis=0) / max(float(weights.sum()), 1e-300)
