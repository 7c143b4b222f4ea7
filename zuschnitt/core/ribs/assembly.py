"""Whether plates go together: what hangs together, which run through each other, and the order of their moves."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from itertools import pairwise

import numpy as np
import shapely

from ..geometry.curves import Array
from .outlines import PlateFrame
from .slots import Crossing
from .trouble import Trouble

LITTLE = 1e-6
"""In mm."""


def groups(names: Sequence[str], met: Sequence[tuple[str, str]]) -> tuple[tuple[str, ...], ...]:
    """What hangs together, in the order of the ribs."""
    group = {name: name for name in names}

    def head(name: str) -> str:
        while group[name] != name:
            name = group[name]
        return name

    for a, b in met:
        group[head(a)] = head(b)
    found: dict[str, list[str]] = {}
    for name in names:
        found.setdefault(head(name), []).append(name)
    return tuple(tuple(members) for members in found.values())


def run_through(plates: Mapping[str, tuple[PlateFrame, shapely.Geometry]]) -> list[Trouble]:
    """Pairs of plates of one family that are both there where their planes cross."""
    names = list(plates)
    found = []
    for i, one in enumerate(names):
        for two in names[i + 1 :]:
            crossing = Crossing.of(plates[one][0], plates[two][0])
            spans = [crossing.spans(plates[k][1], plates[k][0]) for k in (one, two)] if crossing is not None else None
            if crossing is not None and spans is not None and (shared := Crossing.shared(*spans)):
                at = crossing.foot + np.mean(shared, axis=1)[:, None] * crossing.way
                said = f"{one} and {two} run through each other; space them wider, or take fewer."
                found.append(Trouble(said, (one, two), at))
    return found


def order_of_moves(
    plates: Mapping[str, tuple[PlateFrame, shapely.Geometry]], below: Collection[str]
) -> tuple[tuple[str, ...], list[Trouble]]:
    """In which order plates that each slide their own way go in, and pairs of which neither can go before the other.

    Those that stand ``below`` what they are slid into come against the way they slide, the others along it. What stands
    in a plate's way goes in after it.
    """
    names = list(plates)
    after: dict[str, set[str]] = {name: set() for name in names}
    for name in names:
        frame, area = plates[name]
        swept = None
        for other in names:
            crossing = Crossing.of(frame, plates[other][0]) if other != name else None
            spans = crossing.spans(plates[other][1], plates[other][0]) if crossing is not None else []
            if crossing is None or not spans:
                continue
            if swept is None:
                swept = _swept(area, frame, -1.0 if name in below else 1.0)
            foot, way = crossing.on(frame)
            lines = shapely.MultiLineString([[foot + a * way, foot + b * way] for a, b in spans])
            if swept.intersection(lines).length > LITTLE:
                after[other].add(name)  # it would be in the way
    ordered: list[str] = []
    left = list(names)
    held: list[Trouble] = []
    while left:
        free = next((name for name in left if not (after[name] & set(left))), None)
        if free is None:
            free = left[0]
            for other in sorted(after[free] & set(left)):
                said = f"{free} and {other} stand in each other's way; leave one of them out."
                held.append(Trouble(said, (free, other)))
        ordered.append(free)
        left.remove(free)
    return tuple(ordered), held


def _swept(area: shapely.Geometry, frame: PlateFrame, towards: float) -> shapely.Geometry:
    """What a plate passes over while it is drawn out of the form."""
    way = towards * np.array([frame.slides @ frame.along, frame.slides @ frame.up])
    low, high = np.reshape(area.bounds, (2, 2))
    shift = way * 2 * float(np.linalg.norm(high - low))
    parts = []
    for part in shapely.get_parts(area):
        ring = shapely.get_coordinates(part.exterior)
        parts.append(part)
        parts.extend(_parallelogram(a, b, shift) for a, b in pairwise(ring))
    return shapely.union_all(np.array(parts))


def _parallelogram(a: Array, b: Array, shift: Array) -> shapely.Polygon:
    return shapely.Polygon([a, b, b + shift, a + shift]).buffer(0)
