"""Parametric development: each patch as a rectangle by its own two directions. Lengths are not kept."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from ..correspondence import Correspondence, RigidLeaf
from ..form.charts import Chart, EvenChart, ScaledChart, orientation
from ..form.form import Face, Form
from ..form.unwrapped import Unwrapped, plain_box, plain_window
from ..geometry.curves import Array
from ..geometry.surfaces import Fitted
from ..plane.contour import Contour
from ..progress import SILENT, Progress
from .blank import Flat
from .layout import AS_IT_IS, Joining, flat_of, laid_face, rigid_leaves, rims, spread
from .measuring import measured

TABLE = 2001
"""Entries of the tables of arc lengths; between them parameters are spread evenly."""


def patch_chart(face: Face, even: bool) -> Unwrapped:
    """The face in its own two directions, in mm: as they run, or ``even`` by arc length.

    The scale is that of the whole patch, of which the face may be a trimmed part.
    """
    surface, window = face.surface, plain_window(face)
    box = whole_patch(face)
    middle = box.mean(axis=0)
    tables = []
    for axis in (0, 1):
        parameter = np.linspace(box[0, axis], box[1, axis], TABLE)
        line = np.tile(middle, (TABLE, 1))
        line[:, axis] = parameter
        steps = np.linalg.norm(np.diff(surface.evaluate(line), axis=0), axis=1)
        tables.append(np.stack([parameter, np.r_[0, np.cumsum(np.maximum(steps, 1e-12))]], axis=1))
    chart: Chart
    if even:
        chart = EvenChart(surface, window, table_u=tables[0], table_v=tables[1])
    else:
        lengths = [float(t[-1, 1] / (t[-1, 0] - t[0, 0])) for t in tables]
        chart = ScaledChart(surface, window, scale=(lengths[0], lengths[1]))
    mirror = orientation(chart, middle) * (-1 if face.reversed else 1)
    return Unwrapped(face, replace(chart, mirror=mirror), face.loops)


def whole_patch(face: Face) -> Array:
    """Low and high parameters (2, 2) of the patch that the face is part of."""
    if isinstance(face.surface, Fitted):
        u0, u1, v0, v1 = face.surface.bounds
        return np.array([[u0, v0], [u1, v1]])
    return plain_box(face)


def lay_parametric(
    form: Form,
    numbers: list[int],
    even: bool,
    edge_length: float | None = None,
    how: Joining = AS_IT_IS,
    progress: Progress = SILENT,
) -> Flat:
    """Each face as a piece of its own, the first one first; whole patches as reference lines."""
    unwrapped = [patch_chart(form.face(n), even) for n in numbers]
    flats = [laid_face(face) for face in unwrapped]
    for piece, flat in enumerate(flats):
        flat.piece = piece
    spread(flats, len(flats), how)
    leaves = rigid_leaves(flats)
    by_number = {face.face.number: face for face in unwrapped}
    mesh = measured(form, by_number, Correspondence(leaves), by_number, edge_length, progress)
    whole = [(f.piece, _whole(f.unwrapped, leaf)) for f, leaf in zip(flats, leaves, strict=True)]
    return flat_of(rims(flats, whole), leaves, mesh)


def _whole(face: Unwrapped, leaf: RigidLeaf) -> Contour:
    """The rectangle of the whole patch, as a reference line."""
    (u0, v0), (u1, v1) = whole_patch(face.face)
    corners = np.array([[u0, v0], [u1, v0], [u1, v1], [u0, v1]])
    points = leaf.chart_to_blank(leaf.chart.flatten(corners))
    return Contour.polyline(points, closed=True, layer="REFERENCE", name="whole patch")
