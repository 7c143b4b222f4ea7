"""Outlines raised from a form, or sunk into it, of triangles: on meshes, and where the kernel finds no exact body."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from ..carry.lifted import Lifting
from ..develop.blank import Blank
from ..form.form import Form
from ..geometry.curves import Array
from ..progress import Progress
from .bent_mesh import bent_triangles
from .by_mesh import MeshBody, mesh_made
from .drawn_in import drawn_in
from .outlines import FlatFigure
from .pieces import THROUGH, Raised, fallen_apart, inward
from .triangulated import even_triangles
from .under import true_mesh_under


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
    body, off = true_mesh_under(form, blank) or (None, 0.0)
    lifting = Lifting(form, blank.correspondence)
    reach = 0.0 if body is None else THROUGH + off
    pieces, worst = [], off
    for k, flat in enumerate(flats):
        progress.step(0.7 * k / len(flats), "carrying outlines")
        name = flat.figure.name
        points, corners, deviation = bent_triangles(lifting, *_flat_triangles(flat, *how, reach), name)
        worst = max(worst, deviation + off)
        pieces.append(MeshBody.of(points, corners, name))
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


def _flat_triangles(
    flat: FlatFigure, height: float, draft: float, radius: float, reach: float
) -> tuple[Array, np.ndarray]:
    if draft or radius:
        return drawn_in(flat.region, height, draft, radius, reach)
    low, high = (-reach, height) if height > 0 else (height, reach)
    return even_triangles(flat.body(low, high, False))


def _comes_out(lifting: Lifting, body: MeshBody, flat: FlatFigure, depth: float) -> bool:
    below = [body.depth(start, way) for start, way in inward(lifting, flat)]
    return any(far is not None and far < depth for far in below)
