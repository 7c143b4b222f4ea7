"""Curves drawn on a form: through points, along the surface."""

from __future__ import annotations

from itertools import pairwise

import numpy as np

from ..form.form import Form
from ..form.locator import Locator
from ..geometry.curves import Array

STEPS = 24
"""Points for each span between two of those given."""


def drawn_on(form: Form, points: Array) -> Array:
    """A curve (n, 3) on the form from point to point (k, 3): the chords between them, laid onto the surface."""
    part = np.linspace(0, 1, STEPS, endpoint=False)[:, None]
    chords = [a + part * (b - a) for a, b in pairwise(points)]
    line = np.vstack([*chords, points[-1:]])
    return Locator.of(form).feet(line).points
