"""What of a drawing is cut, marked or left out: by the names of its layers and colours, or picked one by one."""

from __future__ import annotations

from collections import Counter
from collections.abc import Collection, Sequence
from dataclasses import replace

import numpy as np
import shapely

from ..errors import Refused
from ..geometry.curves import Array
from ..wording import listed
from .contour import Contour

FINE = 1e-3
ASIDE = 0.382


def sent(
    contours: Sequence[Contour], cut: Collection[str], mark: Collection[str], left_out: Collection[str]
) -> list[Contour]:
    """Contours of the named sorts to be ``cut``, others to be marked, and without those ``left_out``.

    A colour may also be called by its common name, such as red.

    Raises Refused for a name that none of them has, and for one that is asked for twice.
    """
    known = sorts_of(contours)
    cut, mark, left_out = ([_meant(name, known) for name in names] for names in (cut, mark, left_out))
    asked = [*cut, *mark, *left_out]
    for name in asked:
        if name not in known:
            there = listed([f"{other} ({count:,})" for other, count in known.most_common()])
            raise Refused(f"Nothing in the drawing is of {name!r}; it has {there or 'no such names'}.")
        if asked.count(name) > 1:
            raise Refused(f"{name!r} is named twice, as what is cut, marked or left out; leave it in one place.")
    made = []
    for contour in contours:
        mine = set(contour.sorts)
        if mine.isdisjoint(left_out):
            layer = "CUT" if mine & set(cut) else "MARK" if mine & set(mark) else contour.layer
            made.append(replace(contour, layer=layer))
    return made


def _meant(name: str, known: Collection[str]) -> str:
    """The colour that a name stands for, where the drawing has that and nothing of the name itself."""
    if name in known:
        return name
    from reportlab.lib.colors import getAllNamedColors

    colour = getAllNamedColors().get(name)
    code = f"#{colour.int_rgb():06x}" if colour is not None else name
    return code if code in known else name


def sorts_of(contours: Sequence[Contour]) -> Counter[str]:
    """How many contours there are of each layer, group and colour."""
    return Counter(name for contour in contours for name in contour.sorts)


def picked(contours: Sequence[Contour], points: Array) -> set[int]:
    """The places of the contours that pass nearest to points (n, 2)."""
    return set(nearest(contours, points).tolist()) if len(points) and contours else set()


def nearest(contours: Sequence[Contour], points: Array) -> np.ndarray:
    """The place of the contour that passes nearest to each of the points (n, 2)."""
    lines = [shapely.LineString(contour.flattened(FINE)) for contour in contours]
    return np.asarray(shapely.STRtree(lines).query_nearest(shapely.points(points), all_matches=False)[1])


def point_of(contour: Contour) -> Array:
    """A point (2,) by which a contour is known: neither an end nor the middle, where others may meet or cross it."""
    line = shapely.LineString(contour.flattened(FINE))
    return np.asarray(shapely.get_coordinates(shapely.line_interpolate_point(line, ASIDE, normalized=True))[0])
