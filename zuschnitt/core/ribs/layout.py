"""Ribs laid out flat, in order, each with its name and those of its mates at their slots."""

from __future__ import annotations

from dataclasses import replace
from functools import lru_cache

import numpy as np
import shapely

from ..geometry.curves import Array
from ..plane.contour import Contour
from ..plane.lettering import lettering
from .rib import Rib
from .ribs import Ribs
from .standing import pieces

GAP = 8.0
"""Between pieces, in mm."""
PLACES = 32
"""So many places along and across are tried for a name, at these parts of its height, with this much left round it."""
SMALLER, CLEAR = (1.0, 0.7, 0.5, 0.35, 0.2), 0.15
MATE, LEAST = 0.5, 1.5
"""The name of a mate is so many times as high as that of the plate, and left out where it would be lower, in mm."""
LETTER = 8.0
"""Height of a name in mm, at the most; smaller on small pieces."""


def laid_out(ribs: Ribs) -> tuple[Contour, ...]:
    """The pieces on one plane in rows: outlines on layer CUT, names on layer TEXT.

    The letters of a plate's name bear it, those at its slots are called "mate".
    """
    return tuple(contour for rib, shift in placed(ribs) for contour in _piece(rib, shift))


def placed(ribs: Ribs) -> list[tuple[Rib, Array]]:
    """Each plate that is laid out, and by how much (2,) it is shifted from its own plane to its place on the sheet."""
    plates = [rib for rib in ribs.ribs if ribs.laid == "both" or rib.name[0] == ribs.laid]
    boxes = [np.reshape(rib.area.bounds, (2, 2)) for rib in plates]
    sizes = np.array([box[1] - box[0] for box in boxes])
    wide = max(float(np.sqrt((sizes + GAP).prod(axis=1).sum()) * 1.3), float(sizes[:, 0].max()))
    found: list[tuple[Rib, Array]] = []
    x = y = tall = 0.0
    for rib, box, (width, height) in zip(plates, boxes, sizes, strict=True):
        if x > 0 and x + width > wide:
            x, y, tall = 0.0, y + tall + GAP, 0.0
        found.append((rib, np.array([x, y]) - box[0]))
        x += width + GAP
        tall = max(tall, float(height))
    return found


def marked(ribs: Ribs) -> Array:
    """The places (n, 2) on the sheet at which something is wrong with a plate."""
    found = [np.zeros((0, 2))]
    for rib, shift in placed(ribs):
        found += [rib.frame.flat(trouble.at) + shift for trouble in ribs.troubles if rib.name in trouble.ribs]
    return np.vstack(found)


def _piece(rib: Rib, shift: Array) -> list[Contour]:
    """In the order in which they are run: the name, then holes, and last what cuts a piece loose."""
    x0, y0, x1, y1 = rib.area.bounds
    size = min(LETTER, 0.12 * (y1 - y0), 0.25 * (x1 - x0))
    wide = lettering(rib.name, size)[1] / size
    mates, taken = _mates(rib)
    at, size = _room(rib.area.difference(taken), wide, size)
    letters, width = lettering(rib.name, size)
    x, y = at + shift
    made = [_text(contour.moved(at=(x - width / 2, y - size / 2)), rib.name) for contour in letters]
    made.extend(replace(letter, points=letter.points + shift) for letter in mates)
    for outline, *holes in pieces(rib):
        made.extend(contour.moved(at=shift) for contour in (*holes, outline))
    return made


@lru_cache(maxsize=1024)
def _lettered(name: str, size: float) -> tuple[list[Contour], float]:
    """A mate's name, whose letters many slots share, and its width."""
    letters, width = lettering(name, size)
    return [_text(each, "mate") for each in letters], width


def _mates(rib: Rib) -> tuple[list[Contour], shapely.Geometry]:
    """The names of the plates that a rib meets, each beyond the inner end of its slot, and the room that they take."""
    if not rib.slots:
        return [], shapely.MultiPolygon()
    inward = np.array([(slot.way if slot.opens == "down" else -slot.way) for slot in rib.slots])
    size = np.array([min(MATE * LETTER, slot.depth / 2) for slot in rib.slots])
    wide = np.array([_lettered(slot.other, 1.0)[1] for slot in rib.slots]) * size
    reach = np.abs(inward[:, 0]) * wide / 2 + np.abs(inward[:, 1]) * size / 2
    x, y = (np.array([slot.at for slot in rib.slots]) + inward * (reach + CLEAR * size)[:, None]).T
    shapely.prepare(rib.area)
    boxes = shapely.box(x - wide / 2, y - size / 2, x + wide / 2, y + size / 2)
    found: list[Contour] = []
    there = (size >= LEAST) & shapely.contains_properly(rib.area, boxes)
    for k in np.nonzero(there)[0]:
        letters, width = _lettered(rib.slots[k].other, float(size[k]))
        shift = np.array([x[k] - width / 2, y[k] - size[k] / 3])
        found.extend(replace(each, points=each.points + shift) for each in letters)
    return found, shapely.union_all(boxes[there])


def _text(contour: Contour, name: str) -> Contour:
    return Contour(contour.points, contour.bulges, contour.closed, "TEXT", name)


def _room(area: shapely.Geometry, wide: float, size: float) -> tuple[Array, float]:
    """Where a name ``wide`` times as long as high is well inside the plate, and its height, at most ``size``."""
    x0, y0, x1, y1 = area.bounds
    x, y = (each.ravel() for each in np.meshgrid(np.linspace(x0, x1, PLACES), np.linspace(y0, y1, PLACES)))
    middle = np.array([area.centroid.x, area.centroid.y])
    shapely.prepare(area)
    for part in SMALLER:
        half = np.array([wide, 1.0]) * part * size * (0.5 + CLEAR)
        boxes = shapely.box(x - half[0], y - half[1], x + half[0], y + half[1])
        fits = np.nonzero(shapely.contains_properly(area, boxes))[0]
        if len(fits):
            k = fits[np.argmin(np.hypot(x[fits] - middle[0], y[fits] - middle[1]))]
            return np.array([x[k], y[k]]), part * size
    place = area.representative_point()
    return np.array([place.x, place.y]), SMALLER[-1] * size
