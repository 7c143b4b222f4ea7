"""Parts laid on sheets, one sheet after the other, each as a strip that is packed from one end."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
import shapely

from ..contour import Contour
from ..errors import Refused
from ..progress import SILENT, Progress
from .holes import laid_in_holes
from .part import FLAT, Part, Placed, moved

TURNS = {"along": (0.0, 180.0), "across": (90.0, 270.0), "free": None}
"""The turns that are allowed, in degrees, where a part's grain runs along, across, or is free."""
SEED = 1
SAME = 1e-6
MOST_SHEETS = 1000


@dataclass(frozen=True)
class Nest:
    """``gap`` between parts and ``margin`` at the sheet's edge, in mm; ``grain`` of TURNS; ``seconds`` of search."""

    gap: float = 0.0
    margin: float = 0.0
    grain: str = "free"
    seconds: int = 10


@dataclass(frozen=True)
class NestedSheet:
    """A sheet of ``size`` (width, height) in mm with the parts on it."""

    size: tuple[float, float]
    parts: tuple[Placed, ...]

    @property
    def share(self) -> float:
        """The yield in percent."""
        return 100 * sum(placed.part.area for placed in self.parts) / (self.size[0] * self.size[1])

    def contours(self) -> list[Contour]:
        """What is cut of it, small parts and those on its left first; its edge is only for reference."""
        width, height = self.size
        edge = Contour.polyline([[0, 0], [width, 0], [width, height], [0, height]], True, "REFERENCE", "sheet")
        contours = [edge]
        for placed in sorted(self.parts, key=lambda placed: (placed.shape.area, placed.shape.bounds[0])):
            contours.extend(placed.contours)
        return contours

    def report(self, margin: float) -> dict[str, Any]:
        """Its part of a report; ``margin`` in mm is kept free at its edge."""
        return {
            "size": list(self.size),
            "yield": self.share,
            "parts": [{"name": each.part.name, "at": list(each.at), "turn": each.turn} for each in self.parts],
            "offcut": list(self.offcut(margin)),
        }

    def offcut(self, margin: float) -> tuple[float, float]:
        """What is left of it beside the parts, over its whole height: width and height in mm."""
        used = max((placed.shape.bounds[2] for placed in self.parts), default=0.0)
        return max(0.0, self.size[0] - used - margin), self.size[1]


def nested(
    parts: Sequence[Part], sheets: Sequence[tuple[float, float]], how: Nest, progress: Progress = SILENT
) -> tuple[list[NestedSheet], list[Part]]:
    """The parts on sheets, and those that fit on none.

    Each of ``sheets`` (width, height) is taken once, in their order; the last one as often as it is needed. Raises
    Refused for values that cannot be.
    """
    _require(parts, sheets, how)
    left, too_large = _fitting(parts, sheets, how)
    inside, left = laid_in_holes(left, _turns(how), how.gap)
    made: list[NestedSheet] = []
    rounds = _rounds(left, sheets, how)
    while left and len(made) < MOST_SHEETS:
        size = sheets[min(len(made), len(sheets) - 1)]
        progress.step(min(0.95, len(made) / rounds), f"sheet {len(made) + 1}")
        seconds = max(1, round(how.seconds / rounds))
        here = [part for part in left if _fits(part, size, how)]
        placed = _on_sheet(here, size, how, seconds) if here else []
        if not placed and len(made) >= len(sheets) - 1:
            too_large.extend(left)
            break
        gone = {id(each.part) for each in placed}
        left = [part for part in left if id(part) not in gone]
        carried = [deeper for each in placed for deeper in inside.pop(id(each.part), lambda _: [])(each)]
        made.append(NestedSheet(size, (*placed, *carried)))
    return [sheet for sheet in made if sheet.parts], too_large


def _require(parts: Sequence[Part], sheets: Sequence[tuple[float, float]], how: Nest) -> None:
    if not parts or not sheets:
        raise Refused("Nesting needs parts and a sheet to lay them on; name both.")
    if how.grain not in TURNS:
        raise Refused(f"The grain runs {', '.join(TURNS)}; {how.grain!r} is none of these.")
    if not (np.isfinite([how.gap, how.margin]).all() and min(how.gap, how.margin) >= 0):
        raise Refused("The gap and the margin must be 0 mm or more; change them.")
    for width, height in sheets:
        if min(width, height) <= 2 * how.margin:
            raise Refused(f"A margin of {how.margin:g} mm leaves nothing of a sheet of {width:g} x {height:g} mm.")


def _turns(how: Nest) -> tuple[float, ...] | None:
    return TURNS[how.grain]


def _rounds(parts: Sequence[Part], sheets: Sequence[tuple[float, float]], how: Nest) -> int:
    """About how many sheets it will take."""
    width, height = sheets[-1]
    room = (width - 2 * how.margin) * (height - 2 * how.margin)
    return max(1, int(np.ceil(sum(part.shape.area for part in parts) / 0.7 / room)))


def _fitting(parts: Sequence[Part], sheets: Sequence[tuple[float, float]], how: Nest) -> tuple[list[Part], list[Part]]:
    fits = [any(_fits(part, size, how) for size in sheets) for part in parts]
    return [p for p, f in zip(parts, fits, strict=True) if f], [p for p, f in zip(parts, fits, strict=True) if not f]


def _fits(part: Part, size: tuple[float, float], how: Nest) -> bool:
    """Whether a part fits on a sheet at one of the turns that are allowed, alone."""
    wide, high = size[0] - 2 * how.margin, size[1] - 2 * how.margin
    for turn in _turns(how) or np.arange(0, 180, 2.5).tolist():
        x0, y0, x1, y1 = moved(part.shape, (0.0, 0.0), turn).bounds
        if x1 - x0 <= wide + SAME and y1 - y0 <= high + SAME:
            return True
    return False


def _on_sheet(parts: Sequence[Part], size: tuple[float, float], how: Nest, seconds: int) -> list[Placed]:
    """The parts that a strip as high as the sheet has within the sheet's width."""
    import spyrrow

    kinds: dict[int, list[Part]] = {}
    for part in parts:
        kinds.setdefault(id(part.outer), []).append(part)
    turns = _turns(how)
    items = [
        spyrrow.Item(str(key), _ring(group[0]), len(group), None if turns is None else list(turns))
        for key, group in kinds.items()
    ]
    config = spyrrow.StripPackingConfig(
        early_termination=True,
        min_items_separation=how.gap + 2 * FLAT,
        total_computation_time=max(2, seconds),
        seed=SEED,
    )
    height = size[1] - 2 * how.margin
    try:
        solved = spyrrow.StripPackingInstance("sheet", height, items).solve(config)
    except BaseException as error:  # the library ends some searches in a panic of its own
        if isinstance(error, KeyboardInterrupt):
            raise
        return [_alone(parts[0], size, how)]
    stock = {key: list(group) for key, group in kinds.items()}
    found: list[Placed] = []
    order = sorted(solved.placed_items, key=lambda item: item.translation[0])
    for item in order:
        group = stock[int(item.id)]
        x, y = item.translation
        placed = Placed(group[0], (x + how.margin, y + how.margin), float(item.rotation) % 360)
        if _lies(placed, size, how) and not _too_near(placed, found, how.gap):
            found.append(Placed(group.pop(0), placed.at, placed.turn))
    return found or [_alone(parts[0], size, how)]


def _ring(part: Part) -> list[tuple[float, float]]:
    return [(float(x), float(y)) for x, y in part.outer.flattened(FLAT)[:-1]]


def _lies(placed: Placed, size: tuple[float, float], how: Nest) -> bool:
    x0, y0, x1, y1 = placed.shape.bounds
    low, wide, high = how.margin - SAME, size[0] - how.margin + SAME, size[1] - how.margin + SAME
    return bool(x0 >= low and y0 >= low and x1 <= wide and y1 <= high)


def _too_near(placed: Placed, others: Sequence[Placed], gap: float) -> bool:
    """Whether a part lies nearer to others than the gap, or over them: whatever laid them is not trusted."""
    for other in others:
        if gap > 0:
            if placed.shape.distance(other.shape) < gap - SAME:
                return True
        elif shapely.intersection(placed.shape, other.shape).area > FLAT:
            return True
    return False


def _alone(part: Part, size: tuple[float, float], how: Nest) -> Placed:
    """A part by itself in the corner of a sheet on which it fits."""
    for turn in _turns(how) or np.arange(0, 180, 2.5).tolist():
        x0, y0, _, _ = moved(part.shape, (0.0, 0.0), turn).bounds
        placed = Placed(part, (how.margin - x0, how.margin - y0), turn)
        if _lies(placed, size, how):
            return placed
    raise Refused(f"{part.name} fits on no sheet; name a larger one.")
