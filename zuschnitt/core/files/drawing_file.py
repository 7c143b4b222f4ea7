"""Cut files of every kind that is written."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

from ..contour import Contour


def write_drawing(kind: str, path: Path, contours: Sequence[Contour], title: str) -> None:
    """Writes contours as ``kind`` (dxf or svg), whole or not at all. Raises Refused where it cannot."""
    if kind == "dxf":
        from .dxf import write_dxf

        write_dxf(path, contours)
    else:
        from .svg import write_svg

        write_svg(path, contours, title)
