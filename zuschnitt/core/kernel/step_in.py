"""STEP read: as a form, as a shape of the kernel, or as curves."""

from __future__ import annotations

import os
import re
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

import numpy as np
from OCP.IFSelect import IFSelect_RetDone
from OCP.STEPControl import STEPControl_Reader
from OCP.TColStd import TColStd_SequenceOfAsciiString
from OCP.TopAbs import TopAbs_EDGE, TopAbs_FACE
from OCP.TopoDS import TopoDS, TopoDS_Shape

from ..errors import Refused
from ..form.form import Form
from ..geometry.curves import Array, Spline, parameters_within
from ..progress import SILENT, Progress
from ..tolerances import OUTLINE
from .forms import edge_of, form_of_shape, indexed

UNITS = {"millimetre": "mm", "metre": "m", "centimetre": "cm", "inch": "in", "foot": "ft"}


def read_step(path: Path, name: str = "", progress: Progress = SILENT) -> Form:
    """Reads a STEP file; lengths become mm, whatever the file's unit.

    Raises Refused for a file that is not STEP, is cut short, holds no faces, or faces without area.
    """
    name = name or path.name
    progress.step(0.05, f"reading {name}")
    reader = _opened(path, name)
    unit = _unit(reader)
    progress.step(0.3, "building faces")
    reader.TransferRoots()
    shape = reader.OneShape() if reader.NbShapes() else None
    faces = indexed(shape, TopAbs_FACE) if shape is not None else None
    if faces is None or faces.Size() == 0:
        raise Refused(
            f"{name} holds no faces, only curves or points or nothing at all; export the part's surfaces or its body."
        )
    return form_of_shape(shape, name, unit, progress.part(0.4, 1.0))


def read_step_bytes(content: bytes, name: str, progress: Progress = SILENT) -> Form:
    """As ``read_step``, of a file's content."""
    with as_file(content) as path:
        return read_step(path, name, progress)


def read_step_shape(content: bytes, name: str) -> TopoDS_Shape:
    """All that a STEP file holds, as one shape in mm. Raises Refused where it is not whole STEP, or holds nothing."""
    with as_file(content) as path:
        reader = _opened(path, name)
        reader.TransferRoots()
        if not reader.NbShapes():
            raise Refused(f"{name} holds nothing that can be read; export the part again.")
        return reader.OneShape()


def read_step_curves(path: Path, points_each: int = 65, name: str = "") -> list[tuple[Array, bool]]:
    """The edges of a STEP file as points (n, 3) in mm each, within ``OUTLINE`` of the edge, and whether it is smooth.

    Each has ``points_each`` at least.
    """
    name = name or path.name
    reader = _opened(path, name)
    reader.TransferRoots()
    edges = indexed(reader.OneShape(), TopAbs_EDGE) if reader.NbShapes() else None
    if edges is None or edges.Size() == 0:
        raise Refused(f"{name} holds no curves; export the curves you want to trace.")
    found = [edge_of(i, TopoDS.Edge_s(edges.FindKey(i))) for i in range(1, edges.Size() + 1)]
    read = []
    for edge in found:
        polyline = isinstance(edge.curve, Spline) and edge.curve.degree == 1
        t = parameters_within(edge.curve.evaluate, edge.start, edge.end, OUTLINE)
        if isinstance(edge.curve, Spline):
            t = np.union1d(t, edge.curve.breaks[(edge.curve.breaks > edge.start) & (edge.curve.breaks < edge.end)])
        if not polyline:
            t = np.union1d(t, np.linspace(edge.start, edge.end, points_each))
        read.append((edge.curve.evaluate(t), not polyline))
    return read


def read_step_curves_bytes(content: bytes, name: str) -> list[tuple[Array, bool]]:
    """As ``read_step_curves``, of a file's content."""
    with as_file(content) as path:
        return read_step_curves(path, name=name)


@contextmanager
def as_file(content: bytes) -> Iterator[Path]:
    """The kernel reads from a path only: one in memory, of which nothing stays however the process ends."""
    file = os.memfd_create("form")
    try:
        with open(file, "wb", closefd=False) as written:
            written.write(content)
        yield Path(f"/proc/{os.getpid()}/fd/{file}")
    finally:
        os.close(file)


def _opened(path: Path, name: str) -> STEPControl_Reader:
    """A reader that has read the file. Raises Refused where it is not whole STEP."""
    _require_step_text(path, name)
    reader = STEPControl_Reader()
    if reader.ReadFile(str(path)) != IFSelect_RetDone:
        raise Refused(f"{name} cannot be read as STEP: its contents are damaged; export it again.")
    return reader


def _require_step_text(path: Path, name: str) -> None:
    try:
        text = path.read_bytes()
    except OSError as error:
        reason = error.strerror or str(error)
        raise Refused(f"{name} cannot be read: {reason}; check the path.") from error
    if not text.strip():
        raise Refused(f"{name} is empty, so there is no form in it; export it again.")
    if b"ISO-10303-21" not in text[:1000]:
        raise Refused(f"{name} is not a STEP file (it does not begin with ISO-10303-21); choose another file.")
    if b"END-ISO-10303-21" not in text[-1000:]:
        raise Refused(f"{name} is cut short: its end is missing; copy or export it again.")
    if re.search(rb"[(,\s]([-+]?nan|[-+]?inf)\b", text, re.IGNORECASE):
        raise Refused(f"{name} has numbers that are not finite; export it again.")


def _unit(reader: STEPControl_Reader) -> str:
    lengths, angles, solids = (TColStd_SequenceOfAsciiString() for _ in range(3))
    reader.FileUnits(lengths, angles, solids)
    if lengths.Length() == 0:
        return "mm"
    found = lengths.Value(1).ToCString().lower()
    return UNITS.get(found, found)
