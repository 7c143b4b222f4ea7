"""Cut files of every kind that is written."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

from ..contour import Contour
from .whole import write_whole

KINDS = ("dxf", "svg")


def drawing_bytes(kind: str, contours: Sequence[Contour], title: str) -> bytes:
    """Contours as a file of ``kind``, dxf or svg."""
    if kind == "dxf":
        from .dxf import dxf_bytes

        return dxf_bytes(contours)
    from .svg import svg_text

    return svg_text(contours, title).encode()


def write_drawing(kind: str, path: Path, contours: Sequence[Contour], title: str) -> None:
    """Writes contours as ``kind``, whole or not at all. Raises Refused where it cannot."""
    write_whole(path, drawing_bytes(kind, contours, title))
