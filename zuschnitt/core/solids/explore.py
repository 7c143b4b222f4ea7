"""What a shape of the kernel consists of, and how large it is."""

from __future__ import annotations

from collections import deque
from collections.abc import Iterator, Sequence

import numpy as np
from OCP.BRepGProp import BRepGProp
from OCP.GProp import GProp_GProps
from OCP.TopAbs import TopAbs_FACE, TopAbs_SOLID
from OCP.TopExp import TopExp
from OCP.TopoDS import TopoDS_Shape
from OCP.TopTools import TopTools_IndexedMapOfShape

from ..form.area import face_measures
from ..geometry.curves import Array
from ..kernel.forms import faces_of

ROUGH = 1e-3
"""What is found by the kernel is integrated to this part of it."""


def each(shape: TopoDS_Shape, kind) -> Iterator[TopoDS_Shape]:
    """The parts of a shape of one kind (``TopAbs_FACE`` …), each once."""
    found = TopTools_IndexedMapOfShape()
    TopExp.MapShapes_s(shape, kind, found)
    for k in range(1, found.Size() + 1):
        yield found.FindKey(k)


def solids_of(shape: TopoDS_Shape) -> list[TopoDS_Shape]:
    return list(each(shape, TopAbs_SOLID))


_measured: deque[tuple[TopoDS_Shape, tuple[float, float]]] = deque(maxlen=8)


def volume(shape: TopoDS_Shape) -> float:
    """In mm³; negative where the shape is inside out. Those asked for last are remembered: it takes its time.

    By rules that go from knot to knot (``face_measures``): the kernel's own miss parts of faces with many spans, or
    take minutes.
    """
    return measures(shape)[1]


def measures(shape: TopoDS_Shape) -> tuple[float, float]:
    """The area in mm² of a shape's faces, and the volume within them in mm³."""
    known = next((found for other, found in _measured if shape.IsEqual(other)), None)
    if known is None:
        every = [face_measures(face) for face in faces_of(shape)]
        known = sum(area for area, _ in every), sum(share for _, share in every)
        _measured.append((shape, known))
    return known


def rough_volume(shape: TopoDS_Shape) -> float:
    """Like ``volume``, but quick: mostly it is less than a thousandth off, but nothing is made sure of."""
    return float(_integrated(shape).Mass())


def _integrated(shape: TopoDS_Shape) -> GProp_GProps:
    """By the kernel's adaptive rule."""
    about = GProp_GProps()
    BRepGProp.VolumeProperties_s(shape, about, ROUGH)
    return about


def centre(shape: TopoDS_Shape) -> Array:
    """The centre of gravity (3,) of a solid."""
    at = _integrated(shape).CentreOfMass()
    return np.array([at.X(), at.Y(), at.Z()])


def shared_faces(parts: Sequence[TopoDS_Shape]) -> TopTools_IndexedMapOfShape:
    """Faces that two parts have in common: where they were split."""
    seen, shared = TopTools_IndexedMapOfShape(), TopTools_IndexedMapOfShape()
    for part in parts:
        for face in each(part, TopAbs_FACE):
            (shared if seen.Contains(face) else seen).Add(face)
    return shared
