"""Curves of a form, from STEP edges or JSON."""

from __future__ import annotations

import json
from pathlib import PurePath
from typing import Any

import numpy as np

from ..carry.tracing import SpaceCurve
from ..errors import Refused
from .apart import patience, read_apart

LARGEST = 1e7
"""No point lies further from the origin than this, in mm."""
MOST_POINTS = 2_000_000


def read_curves(content: bytes, name: str) -> list[SpaceCurve]:
    """Curves in mm, as JSON {"curves": [[[x, y, z], …], …]} or STEP edges, which are smooth.

    Raises Refused for anything else.
    """
    if not content.strip():
        raise Refused(f"{name} is empty, so there are no curves in it; export it again.")
    if PurePath(name).suffix.lower() in (".step", ".stp"):
        return read_apart(name, "export it again", lambda _: _from_step(content, name))
    return read_apart(name, "write it as JSON or STEP", lambda _: _from_json(content, name), seconds=patience(content))


def _from_step(content: bytes, name: str) -> list[SpaceCurve]:
    from ..kernel.step_in import read_step_curves_bytes

    edges = read_step_curves_bytes(content, name)
    return [SpaceCurve(points, f"edge {i}", smooth) for i, (points, smooth) in enumerate(edges, 1)]


def _from_json(content: bytes, name: str) -> list[SpaceCurve]:
    wrong = f'{name} is not a list of curves; write JSON as {{"curves": [[[x, y, z], …], …]}} or STEP.'
    try:
        found = json.loads(content)
    except (ValueError, RecursionError) as error:
        raise Refused(wrong) from error
    curves = found.get("curves") if isinstance(found, dict) else None
    if not isinstance(curves, list) or not all(_is_curve(points) for points in curves):
        raise Refused(wrong)
    if not curves:
        raise Refused(f"{name} holds no curves; put at least one in it.")
    made = [np.array(points, float) for points in curves]
    if sum(map(len, made)) > MOST_POINTS:
        raise Refused(f"{name} has more than {MOST_POINTS:,} points; thin the curves out.")
    for number, points in enumerate(made, 1):
        if not np.isfinite(points).all() or np.abs(points).max() > LARGEST:
            raise Refused(f"Curve {number} of {name} has numbers that are not finite or not in mm; mend the file.")
    return [SpaceCurve(points) for points in made]


def _is_curve(points: Any) -> bool:
    return isinstance(points, list) and len(points) > 0 and all(_is_point(point) for point in points)


def _is_point(point: Any) -> bool:
    return (
        isinstance(point, list)
        and len(point) == 3
        and all(isinstance(value, int | float) and not isinstance(value, bool) for value in point)
    )
