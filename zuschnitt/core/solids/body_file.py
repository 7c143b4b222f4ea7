"""Solids of STEP files, read in a process of its own: the kernel may crash on damaged ones."""

from __future__ import annotations

from OCP.TopoDS import TopoDS_Shape

from ..files.apart import patience, read_apart
from ..kernel.step_in import read_step_shape
from ..progress import SILENT, Progress
from .packing import packed, unpacked


def read_body(content: bytes, name: str, progress: Progress = SILENT) -> TopoDS_Shape:
    """All that a STEP file holds, as one shape in mm. Raises Refused where it is not whole STEP, or holds nothing."""
    read = read_apart(
        name, "export it again", lambda part: packed(read_step_shape(content, name)), progress, patience(content)
    )
    return unpacked(read)
