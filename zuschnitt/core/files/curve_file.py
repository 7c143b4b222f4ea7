"""Curves of a form, from STEP edges or JSON."""

from __future__ import annotations

import json
import tempfile
from pathlib import Path, PurePath

import numpy as np

from ..errors import Refused
from ..form.curves import Array


def read_curves(content: bytes, name: str) -> tuple[list[Array], list[str]]:
    """Polylines (n, 3) in mm and their names, as JSON {"curves": [[[x, y, z], …], …]} or STEP edges.

    Raises Refused for anything else.
    """
    if not content.strip():
        raise Refused(f"{name} is empty, so there are no curves in it; export it again.")
    if PurePath(name).suffix.lower() in (".step", ".stp"):
        from ..form.kernel import read_step_curves

        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / PurePath(name).name
            path.write_bytes(content)
            curves = read_step_curves(path)
        return curves, [f"edge {i + 1}" for i in range(len(curves))]
    try:
        found = json.loads(content)
        curves = [np.array(points, float).reshape(len(points), 3) for points in found["curves"]]
    except (ValueError, KeyError, TypeError) as error:
        raise Refused(
            f'{name} is not a list of curves; write JSON as {{"curves": [[[x, y, z], …], …]}} or STEP.'
        ) from error
    if not curves:
        raise Refused(f"{name} holds no curves; put at least one in it.")
    return curves, []
