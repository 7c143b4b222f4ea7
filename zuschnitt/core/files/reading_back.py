"""A cut file read back before it leaves, by the reader of the simulated machines, which knows nothing of the writer."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Sequence

from ..errors import CannotBeDone
from ..plane.contour import Contour

PLACES = 2e-4
"""Numbers in files are rounded: each span of a contour may be longer or shorter by so many mm."""
RATIO = 1e-6
MOST = 20_000
"""Drawings of more contours than this are not read back: that would take longer than writing them."""


def require_same(content: bytes, ending: str, contours: Sequence[Contour]) -> None:
    """Raises CannotBeDone where the file does not have the same length on each layer as the contours."""
    from ...standins.files.path import UnreadableError
    from ...standins.files.reading import read

    drawn = [contour for contour in contours if len(contour.points) > 1]
    if len(drawn) > MOST:
        return
    try:
        found, _ = read(content, f"file.{ending}")
    except UnreadableError as error:
        raise _broken(str(error)) from None
    wanted = _by_layer((c.layer, c.length, len(c.points)) for c in drawn)
    there = _by_layer((path.layer, path.length, 1) for path in found)
    for layer, (length, spans) in wanted.items():
        if abs(there.get(layer, (0.0, 0))[0] - length) > PLACES * spans + RATIO * length:
            got = there.get(layer, (0.0, 0))[0]
            raise _broken(f"layer {layer} is {got:.3f} mm long in it, not {length:.3f} mm")


def _by_layer(runs: Iterable[tuple[str, float, int]]) -> dict[str, tuple[float, int]]:
    """The length in mm and the number of spans on each layer."""
    found: dict[str, tuple[float, int]] = defaultdict(lambda: (0.0, 0))
    for layer, length, spans in runs:
        found[layer] = found[layer][0] + length, found[layer][1] + spans
    return found


def _broken(why: str) -> CannotBeDone:
    return CannotBeDone(
        f"The file that was made does not say what was drawn, so it is not written: {why}. Write another kind of file, "
        "and please report it."
    )
