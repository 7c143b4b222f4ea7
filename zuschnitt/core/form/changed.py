"""Which faces of a body are new: those that lie on no face of what it was before."""

from __future__ import annotations

import numpy as np

from ..mesh.mesh_surface import MeshSurface
from .form import Form
from .middles import middles

PLACES = 4
"""A face is looked at in the middle of so many triangles, the largest ones."""
ON = 1e-6
"""Places no further from a surface than this part of the form's size lie on it."""


def new_faces(before: Form, after: Form) -> tuple[int, ...]:
    """Numbers of the faces of ``after`` that lie on no face of ``before``; none of forms that are meshes."""
    if any(isinstance(face.surface, MeshSurface) for form in (before, after) for face in form.faces):
        return ()
    places = [f.surface.evaluate(middles(mesh, PLACES)) for f, mesh in zip(after.faces, after.meshes, strict=True)]
    owner = np.repeat(np.arange(len(places)), [len(each) for each in places])
    points = np.concatenate(places)
    known = np.zeros(len(points), bool)
    near = ON * before.size
    for face, mesh in zip(before.faces, before.meshes, strict=True):
        reach = 0.02 * float(np.linalg.norm(np.ptp(mesh.points, axis=0))) + near  # it bulges between its corners
        low, high = mesh.points.min(axis=0) - reach, mesh.points.max(axis=0) + reach
        here = np.flatnonzero(~known & ((points >= low) & (points <= high)).all(axis=1))
        if len(here):
            foot = face.surface.evaluate(face.surface.project(points[here]))
            known[here] = np.linalg.norm(foot - points[here], axis=1) <= near
    new = np.bincount(owner[~known], minlength=len(places)) > 0
    return tuple((np.flatnonzero(new) + 1).tolist())
