"""Plates as the solids of a STEP file."""

from __future__ import annotations

from collections.abc import Iterable

import numpy as np
from OCP.BRep import BRep_Builder
from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeFace, BRepBuilderAPI_MakeWire, BRepBuilderAPI_Transform
from OCP.BRepCheck import BRepCheck_Analyzer
from OCP.BRepPrimAPI import BRepPrimAPI_MakeCylinder, BRepPrimAPI_MakePrism
from OCP.gp import gp_Ax2, gp_Ax3, gp_Dir, gp_Pnt, gp_Trsf, gp_Vec
from OCP.TopoDS import TopoDS_Compound, TopoDS_Shape, TopoDS_Wire

from ..errors import CannotBeDone
from ..kernel.edges import span_edge
from ..kernel.step_out import shape_bytes
from ..plane.contour import Contour
from ..ribs.rods import Rod
from ..ribs.standing import Plate


def plates_step(plates: Iterable[Plate], rods: Iterable[Rod] = ()) -> bytes:
    """Each plate and each rod as a solid. Lengths in mm. Raises CannotBeDone for one that does not become valid."""
    builder, compound = BRep_Builder(), TopoDS_Compound()
    builder.MakeCompound(compound)
    for plate in plates:
        solid = _solid(plate)
        if not BRepCheck_Analyzer(solid).IsValid():
            raise CannotBeDone(f"{plate.name} does not become a valid solid; take other slots, or write it flat.")
        builder.Add(compound, solid)
    for rod in rods:
        along = gp_Ax2(gp_Pnt(*rod.start.tolist()), gp_Dir(*(rod.end - rod.start).tolist()))
        builder.Add(compound, BRepPrimAPI_MakeCylinder(along, rod.diameter / 2, rod.length).Shape())
    return shape_bytes(compound)


def _solid(plate: Plate) -> TopoDS_Shape:
    face = BRepBuilderAPI_MakeFace(_wire(_turning(plate.outline, 1)), True)
    for hole in plate.holes:
        face.Add(_wire(_turning(hole, -1)))
    flat = BRepPrimAPI_MakePrism(face.Face(), gp_Vec(0, 0, plate.thickness)).Shape()
    frame = plate.frame
    side = 1 if frame.normal @ np.cross(frame.along, frame.up) > 0 else -1
    origin = frame.normal * (frame.at - side * plate.thickness / 2)
    into = gp_Trsf()
    into.SetTransformation(
        gp_Ax3(gp_Pnt(*origin.tolist()), gp_Dir(*(side * frame.normal).tolist()), gp_Dir(*frame.along.tolist())),
        gp_Ax3(),
    )
    return BRepBuilderAPI_Transform(flat, into, True).Shape()


def _turning(contour: Contour, way: int) -> Contour:
    """The contour run anticlockwise (1) or clockwise (-1)."""
    return contour if contour.area * way > 0 else contour.reversed()


def _wire(contour: Contour) -> TopoDS_Wire:
    made = BRepBuilderAPI_MakeWire()
    for span in zip(*contour.spans, strict=True):
        made.Add(span_edge(*span))
    return made.Wire()
