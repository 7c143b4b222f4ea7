"""Points that stay with their face: where on it each was clicked, and where that is once the form has changed."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any

import numpy as np

from ..geometry.curves import Array
from ..mesh.mesh_surface import MeshSurface
from ..wording import Note, coordinates
from .form import Form
from .locator import foot

OFF = 1e-3
"""A point within this of its face, in mm, lies on it still."""


def places_of(form: Form, points: Array, known: Mapping[str, Any]) -> dict[str, Any]:
    """Where points (n, 3) lie, as plain values: by its coordinates the face of each, and its shares of the face's
    parameters, or of the box round a face of triangles, from 0 to 1 each. What is ``known`` of this form is kept."""
    same = known.get("of") == len(form.faces)
    before = known.get("at", {}) if same else {}
    places = {}
    for point in points:
        name = coordinates(point)
        places[name] = before.get(name) or _place(form, point)
    return {"of": len(form.faces), "at": places}


def points_again(
    form: Form, points: Sequence[Sequence[float]], identity: Mapping[str, Any] | str
) -> tuple[Array, tuple[str, ...]]:
    """The points (n, 3) as they are, or moved with their faces where those were changed; and a sentence on that.

    A form with another number of faces is another form, on which they stay where they are.
    """
    found = np.array(points, float).reshape(-1, 3)
    if not isinstance(identity, Mapping) or identity.get("of") != len(form.faces):
        return found, ()
    moved = 0
    for k, point in enumerate(found.copy()):
        place = identity.get("at", {}).get(coordinates(point))
        if place is None:
            continue
        number, *shares = place
        surface = form.face(int(number)).surface
        low, high = _box(form, int(number))
        if len(shares) == len(low) and np.linalg.norm(surface.nearest(point[None])[0] - point) > OFF:
            at = (low + np.array(shares) * (high - low))[None]
            found[k] = (surface.nearest(at) if isinstance(surface, MeshSurface) else surface.evaluate(at))[0]
            moved += 1
    if not moved:
        return found, ()
    went = "the point went with its face" if len(found) == 1 else f"{moved} of the points went with their faces"
    return found, (Note(f"The form was changed: {went}."),)


def _place(form: Form, point: Array) -> list[float]:
    number, at = foot(form, point)
    surface = form.face(number).surface
    low, high = _box(form, number)
    if not isinstance(surface, MeshSurface):
        at = surface.project(np.asarray(point, float)[None])[0]
        for axis, period in enumerate(surface.periods):
            if period is not None:
                at[axis] = low[axis] + (at[axis] - low[axis] + 1e-9) % period - 1e-9
    shares = (at - low) / np.maximum(high - low, 1e-12)
    return [number, *(round(float(share), 9) for share in shares)]


def _box(form: Form, number: int) -> tuple[Array, Array]:
    """The lowest and the highest parameters (2,) of a face, or points (3,) of one of triangles."""
    mesh = form.meshes[number - 1]
    spread = mesh.points if isinstance(form.face(number).surface, MeshSurface) else mesh.uv
    return spread.min(axis=0), spread.max(axis=0)
