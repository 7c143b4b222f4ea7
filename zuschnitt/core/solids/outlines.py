"""Closed outlines of a drawing as flat bodies: what lies within another one alternates, what crosses is one."""

from __future__ import annotations

from collections.abc import Callable, Sequence

import numpy as np
import shapely
from OCP.BRepAlgoAPI import BRepAlgoAPI_Common
from OCP.TopoDS import TopoDS_Shape

from ..carry.figures import Figure, figures
from ..carry.turns import turns
from ..develop.blank import Blank
from ..errors import CannotBeDone, Refused
from ..plane.contour import Contour
from ..record import record
from ..wording import Fault, counted
from .flat import prism, together, without

TOUCH = 1e-6
"""What lies outside the blank by no more than this part of its area lies on it."""


@record
class FlatFigure:
    """A ``figure`` of a drawing, and what lies within it: its ``region`` of the blank.

    That is ``body(low, high, arcs)`` between two heights, its arcs all faces of their own or not (``prism``).
    """

    figure: Figure
    region: shapely.Geometry
    body: Callable[[float, float, bool], TopoDS_Shape]


def flat_figures(blank: Blank, drawing: Sequence[Contour]) -> tuple[list[FlatFigure], tuple[str, ...]]:
    """The closed figures that lie on the blank, cut off at its outline, and what is to be said of the others.

    Raises Refused where nothing is closed, or an outline crosses itself; CannotBeDone where nothing lies on the blank.
    """
    contours = [c for c in drawing if c.layer != "REFERENCE"]
    closed = [c for c in contours if c.closed and len(c.points) and np.ptp(c.points, axis=0).max() > 0]
    if not closed:
        raise Refused("The drawing has no closed outline, so nothing can be made of it; close its lines.")
    messages: list[str] = []
    if len(closed) < len(contours):
        lines = counted(len(contours) - len(closed), "open line")
        messages.append(Fault(f"{lines} left out: only closed outlines count."))
    found, cut_off, beside = [], 0, 0
    sheet = sheet_under(blank, closed)
    for figure in figures(closed):
        inside = figure.region.intersection(sheet)
        if inside.area <= TOUCH * figure.region.area:
            beside += 1
        elif inside.area < (1 - TOUCH) * figure.region.area:
            cut_off += 1
            found.append(_cut_off(_figure(figure, closed), blank, inside))
        else:
            found.append(_figure(figure, closed))
    if not found:
        raise CannotBeDone("Nothing of the drawing lies on the blank; move or scale it.")
    if cut_off:
        messages.append(f"{counted(cut_off, 'outline')} reached beyond the blank and ends at its edge.")
    if beside:
        messages.append(Fault(f"{counted(beside, 'outline')} left out, being beside the blank."))
    return found, tuple(messages)


def sheet_under(blank: Blank, contours: Sequence[Contour]) -> shapely.Geometry:
    """The blank as far as contours reach: round a closed face it goes on."""
    sheet = blank.region.shape
    if len(round_it := turns(blank.correspondence, contours)) > 1:
        sheet = shapely.union_all([shapely.transform(sheet, turn.motion.undo) for turn in round_it])
        sheet = sheet.buffer(1e-6).buffer(-1e-6)
    return sheet


def _figure(figure: Figure, contours: Sequence[Contour]) -> FlatFigure:
    def body(low: float, high: float, arcs: bool) -> TopoDS_Shape:
        outer = together([prism(contours[i], low, high, arcs=arcs) for i in figure.outer])
        return without(outer, [prism(contours[i], low - 1, high + 1, arcs=arcs) for i in figure.islands])

    return FlatFigure(figure, figure.region, body)


def _cut_off(flat: FlatFigure, blank: Blank, inside: shapely.Geometry) -> FlatFigure:
    def body(low: float, high: float, arcs: bool) -> TopoDS_Shape:
        return BRepAlgoAPI_Common(flat.body(low, high, arcs), sheet_body(blank, low - 1, high + 1)).Shape()

    polygons = [part for part in shapely.get_parts(inside) if isinstance(part, shapely.Polygon)]
    return FlatFigure(flat.figure, shapely.multipolygons(polygons), body)


def sheet_body(blank: Blank, low: float, high: float) -> TopoDS_Shape:
    """The blank itself between two heights, its holes left out."""
    outer = [c for c in blank.outline if c.area > 0]
    inner = [c for c in blank.outline if c.area < 0]
    if not outer:  # nothing says which way round it runs
        outer, inner = list(blank.outline), []
    return without(together([prism(c, low, high) for c in outer]), [prism(c, low - 1, high + 1) for c in inner])
