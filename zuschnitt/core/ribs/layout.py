"""Ribs laid out flat, in order, each with its name and those of its mates at their slots."""

from __future__ import annotations

import numpy as np

from ..contour import Contour
from ..files.lettering import lettering
from ..form.curves import Array
from .ribs import Rib, Ribs
from .standing import pieces

GAP = 8.0
"""Between pieces, in mm."""
LETTER = 8.0
"""Height of a name in mm, at the most; smaller on small pieces."""


def laid_out(ribs: Ribs) -> tuple[Contour, ...]:
    """All pieces on one plane in rows: outlines on layer CUT, names on layer TEXT."""
    boxes = [np.reshape(rib.area.bounds, (2, 2)) for rib in ribs.ribs]
    sizes = np.array([box[1] - box[0] for box in boxes])
    wide = max(float(np.sqrt((sizes + GAP).prod(axis=1).sum()) * 1.3), float(sizes[:, 0].max()))
    found: list[Contour] = []
    x = y = tall = 0.0
    for rib, box, (width, height) in zip(ribs.ribs, boxes, sizes, strict=True):
        if x > 0 and x + width > wide:
            x, y, tall = 0.0, y + tall + GAP, 0.0
        found.extend(_piece(rib, np.array([x, y]) - box[0]))
        x += width + GAP
        tall = max(tall, float(height))
    return tuple(found)


def _piece(rib: Rib, shift: Array) -> list[Contour]:
    made: list[Contour] = []
    for piece in pieces(rib):
        made.extend(contour.moved(at=shift) for contour in piece)
    x0, y0, x1, y1 = rib.area.bounds
    size = min(LETTER, 0.12 * (y1 - y0), 0.25 * (x1 - x0))
    letters, width = lettering(rib.name, size)
    x, y = _room(rib, size) + shift
    made.extend(contour.moved(at=(x - width / 2, y - size / 2)) for contour in letters)
    return [contour if contour.layer == "CUT" and contour.name == rib.name else _text(contour) for contour in made]


def _text(contour: Contour) -> Contour:
    return Contour(contour.points, contour.bulges, contour.closed, "TEXT", "name")


def _room(rib: Rib, size: float) -> Array:
    """A place well inside the plate."""
    inner = rib.area.buffer(-size)
    place = (inner if not inner.is_empty else rib.area).representative_point()
    return np.array([place.x, place.y])
