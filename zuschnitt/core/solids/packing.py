"""Shapes of the kernel as bytes, to be kept and sent."""

from __future__ import annotations

from io import BytesIO

from OCP.BinTools import BinTools
from OCP.TopoDS import TopoDS_Shape


def packed(shape: TopoDS_Shape) -> bytes:
    """A shape as bytes."""
    stream = BytesIO()
    BinTools.Write_s(shape, stream)
    return stream.getvalue()


def unpacked(content: bytes) -> TopoDS_Shape:
    """The shape of ``packed``."""
    shape = TopoDS_Shape()
    BinTools.Read_s(shape, BytesIO(content))
    return shape
