"""What of a solid does not belong to the sheet part that is made of it, as solids of their own."""

from __future__ import annotations

from collections.abc import Sequence
from contextlib import suppress
from typing import Protocol

import numpy as np
from OCP.gp import gp_Pnt
from OCP.TopoDS import TopoDS_Shape

from ..errors import CannotBeDone
from ..form.form import Form
from ..form.joined_triangles import joined_triangles
from ..form.made_body import MadeBody
from ..form.middles import middles
from ..geometry.curves import Array
from .bodies import made_body
from .booleans import cut, cut_within
from .boxes import box_of
from .by_mesh import MeshBody, mesh_made
from .explore import solids_of
from .shape import shape_of
from .under import is_mesh
from .within import held

BELOW = 0.01
"""A piece has a face of the solid where it holds what is so far below it, in mm."""
FILM = 0.01
"""What lies between the solid and its sheet is lost where it is no thicker, in mm: parts from elsewhere are no more
exact."""
PLACES = 8
"""It is looked for below so many places of a face."""


def left_beside(form: Form, numbers: Sequence[int], sheet: Form) -> list[tuple[MadeBody, tuple[int, ...]]]:
    """The pieces of a solid without its sheet part that have some of the faces ``numbers``, and which these are.

    What is sunk into the sheet leaves none. Exact where it can be, else of triangles. Raises CannotBeDone where there
    is no valid body either way.
    """
    places = {number: _below(form, number) for number in numbers}
    found: list[_Found] = []
    if not any(is_mesh(form, body) for body in form.bodies):
        body, taken = shape_of(form), shape_of(sheet)
        with suppress(CannotBeDone):
            found = _having([_ExactPiece(solid) for solid in solids_of(cut(body, [taken]))], places)
            if _alone(form, found):
                return _named(found)
        with suppress(CannotBeDone):
            rough = _having([_ExactPiece(s, FILM) for s in solids_of(cut_within(body, taken, FILM))], places)
            if _alone(form, rough):
                return _named(rough)
    return _named(found or _having(_by_mesh(form, sheet), places))


class _Piece(Protocol):
    @property
    def box(self) -> tuple[Array, Array]: ...
    def holds(self, points: Array) -> np.ndarray: ...
    def made(self, name: str) -> MadeBody: ...


class _ExactPiece:
    def __init__(self, solid: TopoDS_Shape, deviation: float = 0.0) -> None:
        self._solid, self._deviation = solid, deviation

    @property
    def box(self) -> tuple[Array, Array]:
        return box_of(self._solid)

    def holds(self, points: Array) -> np.ndarray:
        return np.array(held(self._solid, [gp_Pnt(*point) for point in points.tolist()]))

    def made(self, name: str) -> MadeBody:
        return made_body(name, self._solid, self._deviation)


class _MeshPiece:
    def __init__(self, body: MeshBody) -> None:
        self._body = body

    @property
    def box(self) -> tuple[Array, Array]:
        low, high = self._body.box
        return low, high

    def holds(self, points: Array) -> np.ndarray:
        return np.array([self._body.holds(point) for point in points])

    def made(self, name: str) -> MadeBody:
        return mesh_made(name, self._body, 0.0)


def _by_mesh(form: Form, sheet: Form) -> list[_Piece]:
    whole, taken = (
        MeshBody.of(*joined_triangles(each, {face.number for face in each.faces}), each.name or "the solid")
        for each in (form, sheet)
    )
    return [_MeshPiece(part) for part in whole.cut([taken]).apart()]


_Found = tuple[_Piece, tuple[int, ...]]


def _having(pieces: Sequence[_Piece], places: dict[int, Array]) -> list[_Found]:
    """The pieces that have some of the faces, each with these."""
    having = [tuple(number for number, points in places.items() if piece.holds(points).any()) for piece in pieces]
    return sorted(((p, faces) for p, faces in zip(pieces, having, strict=True) if faces), key=lambda each: each[1])


def _alone(form: Form, found: Sequence[_Found]) -> bool:
    """Whether no piece reaches beyond its faces, as one does on which there hangs a film of sheet."""
    for piece, faces in found:
        points = np.vstack([form.meshes[number - 1].points for number in faces])
        low, high = piece.box
        if (low < points.min(axis=0) - FILM).any() or (high > points.max(axis=0) + FILM).any():
            return False
    return True


def _named(found: Sequence[_Found]) -> list[tuple[MadeBody, tuple[int, ...]]]:
    names = ["left beside"] if len(found) == 1 else [f"left beside {k}" for k in range(1, len(found) + 1)]
    return [(piece.made(name), faces) for name, (piece, faces) in zip(names, found, strict=True)]


def _below(form: Form, number: int) -> Array:
    """Places (n, 3) just below a face."""
    face, mesh = form.face(number), form.meshes[number - 1]
    uv = middles(mesh, PLACES)
    below: Array = face.surface.evaluate(uv) - BELOW * face.outward(uv)
    return below
