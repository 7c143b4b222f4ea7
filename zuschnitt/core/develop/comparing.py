"""The same faces developed in several ways, and what each does to lengths, areas and circles."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from ..errors import CannotBeDone
from ..form.form import Form
from ..form.locator import Locator
from ..geometry.curves import Array
from ..mesh.triangles import signed_double_areas
from ..progress import SILENT, Progress
from .blank import Blank
from .compared import BINS, PURPOSES, Compared
from .developing import develop
from .placing import Hold

CIRCLES = 5
"""Test circles in a row."""


def compare(form: Form, blank: Blank, ways: Sequence[str], progress: Progress = SILENT) -> tuple[Compared, ...]:
    """Develops the faces of ``blank``, held as it is, in each of the ways. A way that is refused says why."""
    hold = Hold(blank.hold_form, blank.along_form)
    found: list[Compared] = []
    for k, way in enumerate(ways):
        part = progress.part(k / len(ways), (k + 1) / len(ways))
        try:
            made = develop(form, blank.faces, way, hold, progress=part)
        except CannotBeDone as error:
            found.append(Compared(way, PURPOSES[way], refusal=f"{way}: {error.sentence}"))
            continue
        found.append(Compared(way, PURPOSES[way], made))
    with_blank = [each.blank for each in found if each.blank is not None]
    reach = max((max(b.figures.stretch_max, -b.figures.stretch_min) for b in with_blank), default=1.0)
    bins = np.linspace(-max(reach, 0.5), max(reach, 0.5), BINS + 1)
    circles = row_of_circles(form, blank)
    return tuple(each if each.blank is None else _measured(each, each.blank, bins, circles) for each in found)


def _measured(each: Compared, blank: Blank, bins: Array, circles: Sequence[Array]) -> Compared:
    carried = tuple(blank.correspondence.to_blank(circle).points for circle in circles)
    return Compared(each.way, each.purpose, blank, "", bins, histogram(blank, bins), carried)


def histogram(blank: Blank, bins: Array) -> Array:
    """Which part of the area has each stretch, in percent; both principal stretches count half."""
    if blank.mesh is None:
        stretch, weight = np.zeros(2), np.ones(2) / 2
    else:
        areas = np.abs(signed_double_areas(blank.mesh.points_blank, blank.mesh.triangles))
        stretch = 100 * blank.mesh.stretch.ravel()
        weight = np.repeat(areas / areas.sum() / 2, 2)
    return 100 * np.histogram(np.clip(stretch, bins[0], bins[-1]), bins, weights=weight)[0]


def row_of_circles(form: Form, blank: Blank) -> list[Array]:
    """A row of circles on the form across its blank, drawn in the tangent planes and laid onto the surface."""
    x0, y0, x1, y1 = blank.bounds
    radius = 0.32 * min((x1 - x0) / CIRCLES, y1 - y0)
    across = np.linspace(x0, x1, 2 * CIRCLES + 1)[1::2]
    heights = np.linspace(y0, y1, 31)[1:-1]
    angle = np.linspace(0, 2 * np.pi, 73)
    locator = Locator.of(form, blank.faces)
    circle = radius * np.stack([np.cos(angle), np.sin(angle)], axis=1)
    rings = []
    for x in across:
        # the place in the column that is nearest to its middle and still about as deep inside as any
        column = np.stack([np.full(len(heights), x), heights], axis=1)
        depth = np.where(blank.region.contains(column), blank.region.distance(column), -1)
        if depth.max() < 0.5 * radius:
            continue
        deep = np.nonzero(depth > 0.8 * depth.max())[0]
        centre = column[deep[np.abs(heights[deep] - (y0 + y1) / 2).argmin()]]
        frame = blank.correspondence.to_form(centre + 1e-3 * np.array([[0, 0], [1, 0], [0, 1.0]])).points
        u = frame[1] - frame[0]
        u /= np.linalg.norm(u)
        w = frame[2] - frame[0]
        w = w - (w @ u) * u
        w /= np.linalg.norm(w)
        size = min(1.0, 0.7 * depth.max() / radius)
        plane = frame[0] + size * (circle[:, :1] * u + circle[:, 1:] * w)
        rings.append(locator.feet(plane).points)
    return rings
