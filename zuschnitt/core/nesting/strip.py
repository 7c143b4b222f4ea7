"""Parts packed from one end of a strip, by the packing library; what it finds is looked through before it is taken."""

from __future__ import annotations

import threading
import time
from collections.abc import Callable, Sequence
from typing import Any

import shapely

from ..errors import Refused
from ..progress import Progress
from .part import FLAT, Part, Placed, moved
from .sheet import FREE_TURNS, SAME, Box, Nest

SEED = 1
LOOKED = 0.2
"""The search is asked how far it is so often, in seconds,"""
SHOWN = 1.0
"""and its best so far is shown so often."""


def packed(
    parts: Sequence[Part], box: Box, how: Nest, seconds: int, progress: Progress, so_far: Callable[[list[Placed]], None]
) -> list[Placed]:
    """The parts that a strip as high as ``box`` has within its width; none where the search fails."""
    import spyrrow

    kinds: dict[int, list[Part]] = {}
    for part in parts:
        kinds.setdefault(id(part.outer), []).append(part)
    turns = how.turns
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
    search = _Search(spyrrow.StripPackingInstance("strip", box[3] - box[1], items), config)
    begun = shown = time.monotonic()
    while search.runs():
        now = time.monotonic()
        progress.step(min(0.99, (now - begun) / max(2, seconds)), "laying parts")
        if now - shown > SHOWN and search.best is not None:
            shown = now
            so_far(_within(search.best, kinds, box, how))
            search.best = None
    return [] if search.found is None else _within(search.found, kinds, box, how)


class _Search:
    """A search of the library in a thread of its own; ``best`` is what it has found last, ``found`` its end."""

    def __init__(self, instance: Any, config: Any) -> None:
        import spyrrow

        self._queue = spyrrow.ProgressQueue()
        self._feasible = (spyrrow.ReportType.ExplFeas, spyrrow.ReportType.CmprFeas)
        self.best: Any = None
        self.found: Any = None
        self._thread = threading.Thread(target=self._run, args=(instance, config), daemon=True)
        self._thread.start()

    def runs(self) -> bool:
        """Whether it goes on, after a moment."""
        self._thread.join(LOOKED)
        for kind, solution in self._queue.drain():
            if kind in self._feasible:
                self.best = solution
        return self._thread.is_alive()

    def _run(self, instance: Any, config: Any) -> None:
        try:
            self.found = instance.solve(config, self._queue)
        except BaseException:  # the library ends some searches in a panic of its own: nothing is found then
            self.found = None


def alone(part: Part, box: Box, how: Nest) -> Placed:
    """A part by itself in the corner of a box into which it fits."""
    for turn in how.turns or FREE_TURNS:
        x0, y0, _, _ = moved(part.shape, (0.0, 0.0), turn).bounds
        placed = Placed(part, (box[0] - x0, box[1] - y0), turn)
        if _lies(placed, box):
            return placed
    raise Refused(f"{part.name} fits on no sheet; name a larger one.")


def _within(solution: Any, kinds: dict[int, list[Part]], box: Box, how: Nest) -> list[Placed]:
    """What of a solution lies in the box, the gap kept: whatever laid it is not trusted."""
    stock = {key: list(group) for key, group in kinds.items()}
    found: list[Placed] = []
    for item in sorted(solution.placed_items, key=lambda item: item.translation[0]):
        group = stock[int(item.id)]
        x, y = item.translation
        placed = Placed(group[0], (x + box[0], y + box[1]), float(item.rotation) % 360)
        if _lies(placed, box) and not _too_near(placed, found, how.gap):
            found.append(placed)
            group.pop(0)
    return found


def _ring(part: Part) -> list[tuple[float, float]]:
    return [(float(x), float(y)) for x, y in part.outer.flattened(FLAT)[:-1]]


def _lies(placed: Placed, box: Box) -> bool:
    x0, y0, x1, y1 = placed.shape.bounds
    return bool(x0 >= box[0] - SAME and y0 >= box[1] - SAME and x1 <= box[2] + SAME and y1 <= box[3] + SAME)


def _too_near(placed: Placed, others: Sequence[Placed], gap: float) -> bool:
    for other in others:
        if gap > 0:
            if placed.shape.distance(other.shape) < gap - SAME:
                return True
        elif shapely.intersection(placed.shape, other.shape).area > FLAT:
            return True
    return False
