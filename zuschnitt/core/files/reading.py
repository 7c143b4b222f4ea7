"""A file that is named, read whole."""

from __future__ import annotations

from pathlib import Path

from ..errors import Refused


def content_of(path: Path) -> bytes:
    """What is in a file. Raises Refused where it cannot be read."""
    try:
        return path.read_bytes()
    except OSError as error:
        raise Refused(f"{path} cannot be read: {error.strerror or error}; check the path.") from error
