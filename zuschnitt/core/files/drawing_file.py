"""Cut files of every kind that is written."""

from __future__ import annotations

from collections.abc import Sequence

from ..contour import Contour


def drawing_bytes(kind: str, contours: Sequence[Contour], title: str) -> bytes:
    """Contours as a file of ``kind``, dxf or svg."""
    if kind == "dxf":
        from .dxf import dxf_bytes

        return dxf_bytes(contours)
    from .svg import svg_text

    return svg_text(contours, title).encode()
