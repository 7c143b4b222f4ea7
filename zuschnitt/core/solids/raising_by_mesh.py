"""Outlines raised from a form, or sunk into it, of triangles: on meshes, and where the kernel finds no exact body."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from ..carry.lifted import Lifting
from ..develop.blank import Blank
from ..errors import CannotBeDone
from ..form.form import Form
from ..geometry.curves import Array
from ..progress import Progress
from .bent_mesh import bent_triangles
from .by_mesh import MeshBody, mesh_made
from .outlines import FlatFigure
from .pieces import THROUGH, Raised, fallen_apart, flat_piece, inward
from .triangulated import even_triangles
from .under import has_triangles, mesh_under

CHORDS = 1e-3
"""Triangles of a form that is none of triangles keep within this part of its size of it."""


def raised_by_mesh(
    form: Form,
    blank: Blank,
    flats: Sequence[FlatFigure],
    how: tuple[float, float, float],
    messages: tuple[str, ...],
    progress: Progress,
) -> Raised:
    """As ``raised`` of flat figures; ``how`` are height, draft and radius. Raises CannotBeDone."""
    height = how[0]
    body = mesh_under(form, blank)
    lifting = Lifting(form, blank.correspondence)
    off = 0.0 if has_triangles(form, blank) else CHORDS * form.size
    reach = 0.0 if body is None else THROUGH + off
    pieces, worst = [], off
    for k, flat in enumerate(flats):
        progress.step(0.7 * k / len(flats), "carrying outlines")
        name = flat.figure.name
        triangles = even_triangles(flat_piece(flat, *how, reach))
        points, corners, deviation = bent_triangles(lifting, *triangles, name)
        worst = max(worst, deviation + off)
        pieces.append(_closed(points, corners, name, how[1]))
    if body is None:
        about = {"depth_min": min(height, 0.0), "depth_max": max(height, 0.0)}
        made = tuple(
            mesh_made(flat.figure.name, piece, worst, **about) for flat, piece in zip(flats, pieces, strict=True)
        )
        return Raised(made, messages)
    progress.step(0.7, "joining" if height > 0 else "cutting")
    whole = body.united(pieces) if height > 0 else body.cut(pieces)
    if height < 0 and any(_comes_out(lifting, body, flat, -height) for flat in flats):
        messages = (*messages, f"At a depth of {-height:g} mm it goes through the wall.")
    if whole.parts > body.parts:
        messages = (*messages, *fallen_apart(whole.parts))
    change = whole.volume - body.volume
    return Raised((mesh_made(form.name or "body", whole, worst, volume_change=change),), messages)


def _closed(points: Array, triangles: np.ndarray, name: str, draft: float) -> MeshBody:
    """The kernel leaves gaps between walls that it draws in, at times. Raises CannotBeDone where there are any."""
    try:
        return MeshBody.of(points, triangles, name)
    except CannotBeDone:
        if not draft:
            raise
        raise CannotBeDone(
            f"The walls of {name} cannot be drawn in by {draft:g}° there; take a smaller angle, or less height."
        ) from None


def _comes_out(lifting: Lifting, body: MeshBody, flat: FlatFigure, depth: float) -> bool:
    below = [body.depth(start, way) for start, way in inward(lifting, flat)]
    return any(far is not None and far < depth for far in below)
