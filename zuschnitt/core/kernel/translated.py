"""Curves and surfaces of the kernel as those that are evaluated here."""

from __future__ import annotations

import numpy as np
from OCP.BRep import BRep_Tool
from OCP.BRepAdaptor import BRepAdaptor_Surface
from OCP.Geom import Geom_RectangularTrimmedSurface
from OCP.GeomAbs import GeomAbs_CurveType as CurveType
from OCP.GeomAbs import GeomAbs_Shape, GeomAbs_SurfaceType
from OCP.GeomConvert import GeomConvert, GeomConvert_ApproxSurface
from scipy.interpolate import make_interp_spline

from ..geometry.curves import Array, Curve, Ellipse, Line, Spline
from ..geometry.surfaces import (
    Cone,
    Cylinder,
    Extrusion,
    Frame,
    Plane,
    Revolution,
    Sphere,
    SplineSurface,
    Surface,
    Torus,
)

APPROXIMATED = 1e-7
"""Surfaces of rare kinds are replaced by B-splines within this distance, in mm."""


def vector_of(p) -> Array:
    return np.array([p.X(), p.Y(), p.Z()])


def frame_of(position) -> Frame:
    axes = (position.XDirection(), position.YDirection(), position.Direction())
    return Frame(vector_of(position.Location()), np.array([vector_of(axis) for axis in axes]))


def coordinates_of(p, dimension: int) -> Array:
    return np.array([p.X(), p.Y()] if dimension == 2 else [p.X(), p.Y(), p.Z()])


def curve_of(adaptor, dimension: int) -> Curve:
    """Lines, circles, ellipses and B-splines as they are; other kinds by a spline in their parameter."""
    kind = adaptor.GetType()

    def vector(p) -> Array:
        return coordinates_of(p, dimension)

    if kind == CurveType.GeomAbs_Line:
        line = adaptor.Line()
        return Line(vector(line.Location()), vector(line.Direction()))
    if kind in (CurveType.GeomAbs_Circle, CurveType.GeomAbs_Ellipse):
        circle = kind == CurveType.GeomAbs_Circle
        conic = adaptor.Circle() if circle else adaptor.Ellipse()
        radii = (conic.Radius(),) * 2 if circle else (conic.MajorRadius(), conic.MinorRadius())
        position = conic.Position() if dimension == 3 else conic.Axis()
        x = vector(position.XDirection()) * radii[0]
        y = vector(position.YDirection()) * radii[1]
        return Ellipse(vector(conic.Location()), x, y)
    if kind == CurveType.GeomAbs_BSplineCurve:
        return _spline(adaptor.BSpline(), dimension)
    t = np.linspace(adaptor.FirstParameter(), adaptor.LastParameter(), 401)
    points = np.array([vector(adaptor.Value(float(s))) for s in t])
    spline = make_interp_spline(t, points, 5)
    return Spline(spline.t, spline.c, 5)


def _spline(curve, dimension: int) -> Spline:
    if curve.IsPeriodic():
        curve = curve.Copy()
        curve.SetNotPeriodic()
    count = curve.NbPoles()
    control = np.array([coordinates_of(curve.Pole(i), dimension) for i in range(1, count + 1)])
    weights = None
    if curve.IsRational():
        weights = np.array([curve.Weight(i) for i in range(1, count + 1)])
    knots = _flat_knots(curve.NbKnots(), curve.Knot, curve.Multiplicity)
    return Spline(knots, control, curve.Degree(), weights)


def _flat_knots(count: int, knot, multiplicity) -> Array:
    return np.repeat([knot(i) for i in range(1, count + 1)], [multiplicity(i) for i in range(1, count + 1)])


def surface_of(adaptor: BRepAdaptor_Surface, bounds) -> Surface:
    kind = adaptor.GetType()
    types = GeomAbs_SurfaceType
    if kind == types.GeomAbs_Plane:
        return Plane(frame_of(adaptor.Plane().Position()))
    if kind == types.GeomAbs_Cylinder:
        cylinder = adaptor.Cylinder()
        return Cylinder(frame_of(cylinder.Position()), cylinder.Radius())
    if kind == types.GeomAbs_Cone:
        cone = adaptor.Cone()
        return Cone(frame_of(cone.Position()), cone.RefRadius(), cone.SemiAngle())
    if kind == types.GeomAbs_Sphere:
        sphere = adaptor.Sphere()
        return Sphere(frame_of(sphere.Position()), sphere.Radius())
    if kind == types.GeomAbs_Torus:
        torus = adaptor.Torus()
        return Torus(frame_of(torus.Position()), torus.MajorRadius(), torus.MinorRadius())
    if kind == types.GeomAbs_SurfaceOfExtrusion:
        return Extrusion(curve_of(adaptor.BasisCurve(), 3), vector_of(adaptor.Direction()), bounds)
    if kind == types.GeomAbs_SurfaceOfRevolution:
        return Revolution(_axis_frame(adaptor.AxeOfRevolution()), curve_of(adaptor.BasisCurve(), 3), bounds)
    if kind == types.GeomAbs_BSplineSurface:
        return _spline_surface(adaptor.BSpline())
    if kind == types.GeomAbs_BezierSurface:
        return _spline_surface(GeomConvert.SurfaceToBSplineSurface_s(adaptor.Bezier()))
    trimmed = Geom_RectangularTrimmedSurface(BRep_Tool.Surface_s(adaptor.Face()), *bounds)
    smooth = GeomAbs_Shape.GeomAbs_C1
    return _spline_surface(GeomConvert_ApproxSurface(trimmed, APPROXIMATED, smooth, smooth, 9, 9, 60, 1).Surface())


def _axis_frame(axis) -> Frame:
    """A frame whose z is the axis; the profile turned by angle 0 stays where it is."""
    z = vector_of(axis.Direction())
    x = np.cross(z, np.eye(3)[np.argmin(np.abs(z))])
    x /= np.linalg.norm(x)
    return Frame(vector_of(axis.Location()), np.array([x, np.cross(z, x), z]))


def _spline_surface(surface) -> SplineSurface:
    if surface.IsUPeriodic() or surface.IsVPeriodic():
        surface = surface.Copy()
        if surface.IsUPeriodic():
            surface.SetUNotPeriodic()
        if surface.IsVPeriodic():
            surface.SetVNotPeriodic()
    rows, columns = range(1, surface.NbUPoles() + 1), range(1, surface.NbVPoles() + 1)
    control = np.array([[vector_of(surface.Pole(i, j)) for j in columns] for i in rows])
    weights = None
    if surface.IsURational() or surface.IsVRational():
        weights = np.array([[surface.Weight(i, j) for j in columns] for i in rows])
    degrees = surface.UDegree(), surface.VDegree()
    ruled = 1 in degrees
    return SplineSurface(
        _flat_knots(surface.NbUKnots(), surface.UKnot, surface.UMultiplicity),
        _flat_knots(surface.NbVKnots(), surface.VKnot, surface.VMultiplicity),
        control,
        *degrees,
        weights,
        ruled,
    )
