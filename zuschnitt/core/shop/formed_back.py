"""What a laser has cut, formed back by the correspondence and held against the form."""

from __future__ import annotations

from collections.abc import Sequence
from itertools import pairwise
from typing import TYPE_CHECKING

import numpy as np

from ...standins.laser.machine import bridged_parts
from ..develop.blank import Blank
from ..errors import Refused
from ..form.deviation import Held, feet_on, held, samples
from ..form.form import Form
from ..plane.containing import holes
from ..plane.contour import Contour
from ..plane.offsetting import moved_outward

if TYPE_CHECKING:
    from ...standins.files.path import Path
    from ...standins.laser.machine import Run

FINE = 0.002
"""Edges are looked at within this, in mm."""
SPACING = 1.0
"""Contours are held against the form at points so far apart, in mm."""


def held_formed_back(made: Run, form: Form, blank: Blank, kerf: float = 0.0) -> tuple[Held, float]:
    """The cut part formed back onto its form, against the form's edges; and by how many mm² it is too large.

    Each cut must lie on some edge, and each outer edge must have been cut. The cuts are first moved by half a ``kerf``
    in mm towards the material. Raises Refused for cuts that are open and have to be moved.
    """
    cut = _contours(made, kerf)
    if not cut:
        raise Refused("Nothing was cut that could be formed back; choose a cut file with an outline.")
    carried = [blank.correspondence.to_form(_dense(contour.flattened(FINE))).points for contour in cut]
    picked = set(blank.faces)
    edges = [edge for edge in form.edges if picked & set(edge.faces)]
    rims = [edge for edge in edges if len(picked & set(edge.faces)) == 1 and edge.number - 1 not in form.seams]
    seams = list(blank.seams_form)
    every, outer = ([edge.points(FINE) for edge in some] + seams for some in (edges, rims))
    first, second = samples(carried), samples(outer or every)
    found = held(first, feet_on(every)(first), second, feet_on(carried)(second))
    return found, _area(cut) - blank.figures.area_blank


def _contours(made: Run, kerf: float) -> list[Contour]:
    """What comes out: the closed cuts, half a ``kerf`` nearer to the material than the beam's middle ran."""
    parts = bridged_parts(made.paths)  # their bridges are broken off
    held = {k for runs in parts for k in runs}
    contours = [_joined([made.paths[k] for k in runs], True) for runs in parts]
    contours += [_joined([made.paths[k]], made.paths[k].gap <= FINE) for k in made.cuts if k not in held]
    if kerf <= 0:
        return contours
    if not all(contour.closed for contour in contours):
        raise Refused("Cuts that are open cannot be moved back by half a kerf; close them, or form them back as drawn.")
    moved = [
        moved_outward([c], kerf / 2 if hole else -kerf / 2) for c, hole in zip(contours, holes(contours), strict=True)
    ]
    return [each for found in moved for each in found]


def _joined(runs: Sequence[Path], closed: bool) -> Contour:
    """Runs one after the other as one contour, straight between them."""
    points, bulges = [], []
    for run_ in runs:
        points += [span.start for span in run_.spans]
        bulges += [float(np.tan(span.sweep / 4)) for span in run_.spans]
        if len(runs) > 1 or not closed:
            points.append(run_.spans[-1].end)
            bulges.append(0.0)
    return Contour(np.array(points), np.array(bulges), closed)


def _dense(points: np.ndarray) -> np.ndarray:
    """With points no further apart than SPACING."""
    made = [points[:1]]
    for a, b in pairwise(points):
        count = max(1, int(np.ceil(np.linalg.norm(b - a) / SPACING)))
        made.append(a + (b - a) * (np.arange(1, count + 1) / count)[:, None])
    return np.vstack(made)


def _area(contours: list[Contour]) -> float:
    """What is cut out: closed runs within an odd number of others are holes."""
    closed = [contour for contour in contours if contour.closed]
    return float(sum(-abs(c.area) if hole else abs(c.area) for c, hole in zip(closed, holes(closed), strict=True)))
