"""Faces that close on themselves from pole to pole, as a whole ball does: relaxed as two halves, cut along a meridian.

In no chart of the plane does such a face lie well as a whole; each half does, round its pole.
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import replace

import numpy as np

from ..geometry.curves import Array, Line
from .charts import chart_of
from .form import POLE, Coedge, Edge, Form, OnSurface
from .unwrapped import Unwrapped


def halved(form: Form, faces: Iterable[Unwrapped]) -> tuple[Form, list[Unwrapped], list[Array]]:
    """The faces, those from pole to pole as two halves each, and the meridians (n, 3) that open these.

    The halves meet in an edge of their own, which the form that is returned has besides its edges.
    """
    edges, made, meridians = list(form.edges), [], []
    for face in faces:
        if face.pole_to_pole:
            edge = len(edges)
            halves, around = _halves(face, edge)
            made.extend(halves)
            number = face.face.number
            edges.append(Edge(edge + 1, OnSurface(face.face.surface, around), 0.0, 1.0, (number, number), True))
            seam = face.cuts[0]
            meridians.append(face.face.surface.evaluate(seam.uv(np.linspace(seam.start, seam.end, 181))))
        else:
            made.append(face)
    return (form if len(edges) == len(form.edges) else replace(form, edges=tuple(edges))), made, meridians


def _halves(face: Unwrapped, edge: int) -> tuple[list[Unwrapped], Line]:
    surface = face.face.surface
    low, high = face.poles
    around_poles = [c.ends[:, 0] for loop in face.loops for c in loop if c.edge == POLE]
    start = float(np.min(around_poles))
    period = float(np.max(around_poles)) - start
    middle = (low + high) / 2
    around = Line.between(np.array([start, middle]), np.array([start + period, middle]))
    halves = []
    for pole, walk in ((high, Coedge(edge, around, 0.0, 1.0)), (low, Coedge(edge, around, 1.0, 0.0))):
        box = np.array([[start, min(pole, middle)], [start + period, max(pole, middle)]])
        chart = chart_of(surface, face.face.reversed, box, face.chart.window, (pole,), True)
        halves.append(Unwrapped(replace(face.face, loops=((walk,),)), chart, ((walk,),)))
    return halves, around
