"""Lines, arcs and splines as edges of the kernel."""

from __future__ import annotations

import numpy as np
from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeEdge
from OCP.GC import GC_MakeArcOfCircle
from OCP.Geom import Geom_BSplineCurve
from OCP.gp import gp_Pnt
from OCP.TColgp import TColgp_Array1OfPnt
from OCP.TColStd import TColStd_Array1OfInteger, TColStd_Array1OfReal

from ..geometry.curves import Array, Line, Spline
from ..plane.contour import arc_centre


def span_edge(start: Array, end: Array, bulge: float):
    """The kernel's edge for a span of a contour, in the plane z = 0."""
    a, b = gp_Pnt(*start, 0.0), gp_Pnt(*end, 0.0)
    if bulge == 0:
        return BRepBuilderAPI_MakeEdge(a, b).Edge()
    centre, radius, angle, sweep = arc_centre(start, end, bulge)
    middle = centre + radius * np.array([np.cos(angle + sweep / 2), np.sin(angle + sweep / 2)])
    return BRepBuilderAPI_MakeEdge(GC_MakeArcOfCircle(a, gp_Pnt(*middle, 0.0), b).Value()).Edge()


def curve_edge(curve: Spline | Line):
    if isinstance(curve, Line):
        a, b = curve.evaluate(np.array([0.0, 1.0]))
        return BRepBuilderAPI_MakeEdge(gp_Pnt(*a), gp_Pnt(*b)).Edge()
    knots, counts = np.unique(curve.knots, return_counts=True)
    poles = TColgp_Array1OfPnt(1, len(curve.control))
    for i, p in enumerate(curve.control):
        poles.SetValue(i + 1, gp_Pnt(*map(float, p)))
    values, multiplicities = TColStd_Array1OfReal(1, len(knots)), TColStd_Array1OfInteger(1, len(knots))
    for i, (knot, count) in enumerate(zip(knots.tolist(), counts.tolist(), strict=True)):
        values.SetValue(i + 1, knot)
        multiplicities.SetValue(i + 1, count)
    made = Geom_BSplineCurve(poles, values, multiplicities, curve.degree)
    return BRepBuilderAPI_MakeEdge(made).Edge()
