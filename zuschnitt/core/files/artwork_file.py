"""Artwork files of every kind that is understood."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import PurePath

from ..errors import Refused
from ..plane.artwork import Artwork
from ..progress import SILENT, Progress
from .apart import patience, read_apart


def read_artwork(content: bytes, name: str, progress: Progress = SILENT) -> Artwork:
    """Reads SVG or DXF by the ending of ``name``. Raises Refused for other endings and bad files."""
    ending = PurePath(name).suffix.lower()
    if ending == ".svg":
        from .svg import read_svg

        return _apart(read_svg, content, name, progress)
    if ending == ".dxf":
        from .dxf import read_dxf

        return _apart(read_dxf, content, name, progress)
    raise Refused(f"{name} is neither SVG nor DXF; export the artwork as one of them.")


def _apart(read: Callable[[bytes, str, Progress], Artwork], content: bytes, name: str, progress: Progress) -> Artwork:
    seconds = patience(content)
    return read_apart(name, "export it again", lambda part: read(content, name, part), progress, seconds)
