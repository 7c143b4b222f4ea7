"""Cut files of every kind that is written."""

from __future__ import annotations

from collections.abc import Sequence

from ..plane.contour import Contour
from .reading_back import require_same


def drawing_bytes(kind: str, contours: Sequence[Contour], title: str, version: str = "R2010") -> bytes:
    """Contours as a file of ``kind``, dxf or svg, read back before it is given. Raises CannotBeDone if it is wrong."""
    if kind == "dxf":
        from .dxf import dxf_bytes

        content = dxf_bytes(contours, version)
    else:
        from .svg import svg_text

        content = svg_text(contours, title).encode()
    require_same(content, kind, contours)
    return content
