"""STEP written, and read back before it is given away."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence

import numpy as np
from OCP.BRep import BRep_Builder, BRep_Tool
from OCP.BRepAdaptor import BRepAdaptor_Curve
from OCP.BRepGProp import BRepGProp
from OCP.GCPnts import GCPnts_AbscissaPoint
from OCP.GProp import GProp_GProps
from OCP.IFSelect import IFSelect_RetDone
from OCP.Interface import Interface_Static
from OCP.STEPControl import STEPControl_AsIs, STEPControl_Writer
from OCP.TopAbs import TopAbs_EDGE, TopAbs_SOLID
from OCP.TopoDS import TopoDS, TopoDS_Compound, TopoDS_Shape

from ..errors import CannotBeDone, Refused
from ..geometry.curves import Line, Spline
from ..plane.contour import Contour
from .edges import curve_edge, span_edge
from .forms import indexed
from .step_in import as_file, read_step_shape

ROUGH = 1e-3
"""Sizes are first compared as they are quickly found, each to this part of it; alike shapes come out alike."""
READ_BACK = 1e-6
"""What is read back of a STEP file may differ by this part of what was written."""


def step_bytes(curves: Iterable[Spline | Line] = (), contours: Iterable[Contour] = ()) -> bytes:
    """Curves in space, and contours in the plane z = 0, as the edges of a STEP file. Lengths in mm.

    Raises CannotBeDone where there is nothing to write.
    """
    builder, compound = BRep_Builder(), TopoDS_Compound()
    builder.MakeCompound(compound)
    edges = [curve_edge(curve) for curve in curves]
    for contour in contours:
        edges.extend(span_edge(*span) for span in zip(*contour.spans, strict=True))
    if not edges:
        raise CannotBeDone("There are no curves to write as STEP; wrap or develop something first.")
    for edge in edges:
        builder.Add(compound, edge)
    return shape_bytes(compound, "curves")


def shape_bytes(shape: TopoDS_Shape, name: str = "plates") -> bytes:
    """A shape of the kernel as a STEP file."""
    return named_shapes_bytes([(name, shape)])


def named_shapes_bytes(shapes: Iterable[tuple[str, TopoDS_Shape]]) -> bytes:
    """Shapes of the kernel, each under its name, as a STEP file in mm, which is read back before it is given away.

    Raises CannotBeDone where what is read is not what was written.
    """
    shapes = list(shapes)
    writer = STEPControl_Writer()
    Interface_Static.SetCVal_s("write.step.unit", "MM")
    for name, shape in shapes:
        Interface_Static.SetCVal_s("write.step.product.name", name)
        writer.Transfer(shape, STEPControl_AsIs)
    with as_file(b"") as path:
        if writer.Write(str(path)) != IFSelect_RetDone:
            raise Refused("The STEP file could not be written; free some space. Nothing was written.")
        content = path.read_bytes()
    _require_same(content, [shape for _, shape in shapes])
    return content


def _require_same(content: bytes, shapes: Sequence[TopoDS_Shape]) -> None:
    """Raises CannotBeDone where a STEP file does not hold shapes of the same size."""
    read = read_step_shape(content, "The STEP file")
    rough = [_extent(each, ROUGH) for each in (shapes, [read])]
    fine = None
    for k, (what, unit, quick) in enumerate(rough[0]):
        should, found = quick, rough[1][k][2]
        if abs(found - should) > READ_BACK * max(abs(should), 1.0):  # measured quickly they may differ
            fine = fine or [_extent(each, 0.0) for each in (shapes, [read])]
            should, found = fine[0][k][2], fine[1][k][2]
        if abs(found - should) > READ_BACK * max(abs(should), 1.0):
            if what == "edges" and _same_edges(shapes, read):  # the quick measure is not the same for all knots
                continue
            raise CannotBeDone(
                f"The STEP file that was made holds {what} of {found:.9g} {unit}, not {should:.9g} {unit}, so it "
                "is not written. Write another kind of file, and please report it."
            )


def _same_edges(shapes: Sequence[TopoDS_Shape], read: TopoDS_Shape) -> bool:
    """Whether edges have the same lengths, each measured until it is certain."""
    wanted, found = (
        np.sort([
            GCPnts_AbscissaPoint.Length_s(BRepAdaptor_Curve(edge), READ_BACK)
            for edges in (indexed(shape, TopAbs_EDGE) for shape in each)
            for edge in (TopoDS.Edge_s(edges.FindKey(k)) for k in range(1, edges.Size() + 1))
            if not BRep_Tool.Degenerated_s(edge)
        ])
        for each in (shapes, [read])
    )  # fmt: skip
    return len(wanted) == len(found) and bool((np.abs(wanted - found) <= READ_BACK * np.maximum(wanted, 1.0)).all())


def _extent(shapes: Sequence[TopoDS_Shape], accuracy: float) -> list[tuple[str, str, float]]:
    """How many bodies shapes have, and the sizes of their bodies, faces and edges, to this part of them, or to all."""
    to = (accuracy,) if accuracy else ()
    solids = [solids.FindKey(k) for solids in (indexed(s, TopAbs_SOLID) for s in shapes)
              for k in range(1, solids.Size() + 1)]  # fmt: skip
    return [
        ("bodies", "in all", float(len(solids))),
        ("bodies", "mm³", sum(_mass(BRepGProp.VolumeProperties_s, solid, *to) for solid in solids)),
        ("faces", "mm²", sum(_mass(BRepGProp.SurfaceProperties_s, shape, *to) for shape in shapes)),
        ("edges", "mm", sum(_mass(BRepGProp.LinearProperties_s, shape) for shape in shapes)),
    ]


def _mass(measure: Callable[..., object], shape: TopoDS_Shape, *accuracy: float) -> float:
    found = GProp_GProps()
    measure(shape, found, *accuracy)
    return float(found.Mass())
