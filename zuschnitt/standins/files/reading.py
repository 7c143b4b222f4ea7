"""Which reader takes a file; whatever is wrong in it becomes one sentence."""

from __future__ import annotations

import numpy as np

from . import dxf, gcode, svg
from .path import Path, UnreadableError

READERS = {"dxf": dxf, "svg": svg, "nc": gcode, "gcode": gcode, "ngc": gcode, "tap": gcode}


def read(content: bytes, name: str) -> tuple[list[Path], list[str]]:
    """The runs in a file whose ending is one of ``READERS``, and the kinds of thing that cannot be cut.

    Raises UnreadableError.
    """
    try:
        found, left = READERS[ending_of(name)].read(content)
    except UnreadableError:
        raise
    except Exception:  # whatever a reader or a library stumbles over
        raise UnreadableError(
            f"{name} is damaged: something else stands there than should be; export it again."
        ) from None
    if not all(np.isfinite([*span.start, *span.end, span.sweep]).all() for path in found for span in path.spans):
        raise UnreadableError(f"{name} has a number that is not finite; export it again.")
    return found, left


def ending_of(name: str) -> str:
    return name.lower().rpartition(".")[2]
