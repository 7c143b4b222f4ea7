"""What a shape of the kernel consists of, and how large it is."""

from __future__ import annotations

from collections import deque
from collections.abc import Iterator, Sequence

import numpy as np
from OCP.Bnd import Bnd_Box
from OCP.BRepBndLib import BRepBndLib
from OCP.BRepGProp import BRepGProp
from OCP.GProp import GProp_GProps
from OCP.TopAbs import TopAbs_FACE, TopAbs_SOLID
from OCP.TopExp import TopExp
from OCP.TopoDS import TopoDS_Shape
from OCP.TopTools import TopTools_IndexedMapOfShape

from ..geometry.curves import Array

FINE, ROUGH = 1e-7, 1e-3
"""Volumes are integrated to this part of them."""
AGREE = 1e-7
"""Two rules that differ by no more than this part are both right."""


def each(shape: TopoDS_Shape, kind) -> Iterator[TopoDS_Shape]:
    """The parts of a shape of one kind (``TopAbs_FACE`` …), each once."""
    found = TopTools_IndexedMapOfShape()
    TopExp.MapShapes_s(shape, kind, found)
    for k in range(1, found.Size() + 1):
        yield found.FindKey(k)


def solids_of(shape: TopoDS_Shape) -> list[TopoDS_Shape]:
    return list(each(shape, TopAbs_SOLID))


def box_of(shape: TopoDS_Shape) -> tuple[Array, Array]:
    """The lowest and the highest corner (3,) of a shape's bounding box."""
    box = Bnd_Box()
    BRepBndLib.AddOptimal_s(shape, box, False, False)
    if box.IsVoid():
        return np.zeros(3), np.zeros(3)
    found = np.array(box.Get())
    return found[:3] + box.GetGap(), found[3:] - box.GetGap()


def rough_box(shape: TopoDS_Shape) -> tuple[Array, Array]:
    """Like ``box_of``, but quick: it may be larger than need be."""
    box = Bnd_Box()
    BRepBndLib.Add_s(shape, box, False)
    found = np.array(box.Get())
    return found[:3], found[3:]


_measured: deque[tuple[TopoDS_Shape, float]] = deque(maxlen=8)


def volume(shape: TopoDS_Shape) -> float:
    """In mm³; negative where the shape is inside out. Those asked for last are remembered: it takes its time.

    The kernel's adaptive rule is fast, but may stop early and miss a part of a face with many spans; where its rule
    of fixed order finds something else, the slow rule of Gauss and Kronrod decides, which goes from knot to knot.
    """
    known = next((found for other, found in _measured if shape.IsEqual(other)), None)
    if known is None:
        known = float(_integrated(shape, FINE).Mass())
        if abs(float(_integrated(shape).Mass()) - known) > AGREE * abs(known):
            about = GProp_GProps()
            BRepGProp.VolumePropertiesGK_s(shape, about, FINE, False, True)
            known = float(about.Mass())
        _measured.append((shape, known))
    return known


def rough_volume(shape: TopoDS_Shape) -> float:
    """Like ``volume``, but quick: mostly it is less than a thousandth off, but nothing is made sure of."""
    return float(_integrated(shape, ROUGH).Mass())


def _integrated(shape: TopoDS_Shape, *accuracy: float) -> GProp_GProps:
    """By the kernel's adaptive rule, or without an accuracy by that of fixed order."""
    about = GProp_GProps()
    BRepGProp.VolumeProperties_s(shape, about, *accuracy)
    return about


def centre(shape: TopoDS_Shape) -> Array:
    """The centre of gravity (3,) of a solid."""
    at = _integrated(shape, ROUGH).CentreOfMass()
    return np.array([at.X(), at.Y(), at.Z()])


def shared_faces(parts: Sequence[TopoDS_Shape]) -> TopTools_IndexedMapOfShape:
    """Faces that two parts have in common: where they were split."""
    seen, shared = TopTools_IndexedMapOfShape(), TopTools_IndexedMapOfShape()
    for part in parts:
        for face in each(part, TopAbs_FACE):
            (shared if seen.Contains(face) else seen).Add(face)
    return shared
