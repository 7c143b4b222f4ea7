"""Edges of a form, one after the other, as one curve."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from ..errors import Refused
from ..form.form import Form
from ..geometry.curves import Array

POINTS = 161
"""Points along an edge that is not straight."""


def run_of_edges(form: Form, numbers: Sequence[int]) -> Array:
    """Points (n, 3) along edges that hang together. Raises Refused where they do not."""
    pieces = []
    for number in numbers:
        edge = form.edge(number)
        count = 2 if edge.curve.kind == "line" else POINTS
        pieces.append(edge.curve.evaluate(np.linspace(edge.start, edge.end, count)))
    reach = 1e-5 * form.size
    curve, left = pieces[0], pieces[1:]
    while left:
        for i, piece in enumerate(left):
            for way in (piece, piece[::-1]):
                if np.linalg.norm(curve[-1] - way[0]) < reach:
                    curve = np.vstack([curve, way[1:]])
                elif np.linalg.norm(curve[0] - way[-1]) < reach:
                    curve = np.vstack([way[:-1], curve])
                else:
                    continue
                break
            else:
                continue
            left.pop(i)
            break
        else:
            listed = ", ".join(map(str, numbers))
            raise Refused(f"The edges {listed} do not hang together, so they make no curve; pick edges in a run.")
    return curve
