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

from ..geometry.curves import Array

FINE, ROUGH = 1e-9, 1e-6
"""Volumes are integrated to this part of them,"""
CENTRE = 1e-3
"""and centres of gravity found within this part of the size."""


def each(shape: TopoDS_Shape, kind) -> Iterator[TopoDS_Shape]:
    """The parts of a shape of one kind (``TopAbs_FACE`` …), each once."""
    found = TopTools_IndexedMapOfShape()
    TopExp.MapShapes_s(shape, kind, found)
    for k in range(1, found.Size() + 1):
        yield found.FindKey(k)


def solids_of(shape: TopoDS_Shape) -> list[TopoDS_Shape]:
    return list(each(shape, TopAbs_SOLID))


_measured: deque[tuple[TopoDS_Shape, float]] = deque(maxlen=8)


def volume(shape: TopoDS_Shape) -> float:
    """In mm³; negative where the shape is inside out. Those asked for last are remembered: it takes its time.

    By the kernel's rule of Gauss and Kronrod, which goes from knot to knot; its other rules may miss a part of a face
    with many spans.
    """
    known = next((found for other, found in _measured if shape.IsEqual(other)), None)
    if known is None:
        known = _integrated(shape, FINE)
        _measured.append((shape, known))
    return known


def rough_volume(shape: TopoDS_Shape) -> float:
    """Like ``volume``, but quick."""
    return _integrated(shape, ROUGH)


def _integrated(shape: TopoDS_Shape, accuracy: float) -> float:
    about = GProp_GProps()
    BRepGProp.VolumePropertiesGK_s(shape, about, accuracy, False, True)
    return float(about.Mass())


def centre(shape: TopoDS_Shape) -> Array:
    """The centre of gravity (3,) of a solid."""
    about = GProp_GProps()
    BRepGProp.VolumeProperties_s(shape, about, CENTRE)
    at = about.CentreOfMass()
    return np.array([at.X(), at.Y(), at.Z()])


def shared_faces(parts: Sequence[TopoDS_Shape]) -> TopTools_IndexedMapOfShape:
    """Faces that two parts have in common: where they were split."""
    seen, shared = TopTools_IndexedMapOfShape(), TopTools_IndexedMapOfShape()
    for part in parts:
        for face in each(part, TopAbs_FACE):
            (shared if seen.Contains(face) else seen).Add(face)
    return shared
