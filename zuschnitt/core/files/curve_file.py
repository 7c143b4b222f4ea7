"""Curves of a form, from STEP edges or JSON."""

from __future__ import annotations

import json
import tempfile
from pathlib import Path, PurePath

import numpy as np

from ..carry.tracing import SpaceCurve
from ..errors import Refused


def read_curves(content: bytes, name: str) -> list[SpaceCurve]:
    """Curves in mm, as JSON {"curves": [[[x, y, z], …], …]} or STEP edges, which are smooth.

    Raises Refused for anything else.
    """
    if not content.strip():
        raise Refused(f"{name} is empty, so there are no curves in it; export it again.")
    if PurePath(name).suffix.lower() in (".step", ".stp"):
        from ..form.kernel import read_step_curves

        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / PurePath(name).name
            path.write_bytes(content)
            edges = read_step_curves(path)
        return [SpaceCurve(points, f"edge {i}", smooth) for i, (points, smooth) in enumerate(edges, 1)]
    try:
        found = json.loads(content)
        curves = [np.array(points, float).reshape(len(points), 3) for points in found["curves"]]
    except (ValueError, KeyError, TypeError) as error:
        raise Refused(
            f'{name} is not a list of curves; write JSON as {{"curves": [[[x, y, z], …], …]}} or STEP.'
        ) from error
    if not curves:
        raise Refused(f"{name} holds no curves; put at least one in it.")
    return [SpaceCurve(points) for points in curves]
