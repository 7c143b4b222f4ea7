"""Curves drawn on a form: through points, along the surface."""

from __future__ import annotations

from collections.abc import Iterable
from itertools import pairwise

import numpy as np

from ..form.form import Form
from ..geometry.curves import Array

STEPS = 24
"""Points for each span between two of those given."""


def drawn_on(form: Form, points: Array) -> Array:
    """A curve (n, 3) on the form from point to point (k, 3): the chords between them, laid onto the surface."""
    part = np.linspace(0, 1, STEPS, endpoint=False)[:, None]
    chords = [a + part * (b - a) for a, b in pairwise(points)]
    line = np.vstack([*chords, points[-1:]])
    return laid_on(form, line)


def laid_on(form: Form, points: Array, faces: Iterable[int] | None = None) -> Array:
    """The nearest points (n, 3) of the surfaces of the form, or of some of its ``faces``."""
    best, result = np.full(len(points), np.inf), points.copy()
    for face in form.faces if faces is None else [form.face(number) for number in faces]:
        feet = face.surface.evaluate(face.surface.project(points))
        gap = np.linalg.norm(feet - points, axis=1)
        nearer = gap < best
        best[nearer], result[nearer] = gap[nearer], feet[nearer]
    return result
