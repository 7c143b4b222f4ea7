"""200 parts of 30 shapes on one long sheet: what they take of it, against the packing library alone in equal time."""

from __future__ import annotations

import time

import numpy as np
import spyrrow

from zuschnitt.core.nesting.packing import nested
from zuschnitt.core.nesting.part import Part
from zuschnitt.core.nesting.sheet import Nest
from zuschnitt.core.plane.contour import Contour

SHAPES, PARTS, HEIGHT, GAP, SECONDS = 30, 200, 600.0, 4.0, 20
FLAT = 0.01


def shapes(seed: int) -> list[Contour]:
    """Sectors, brackets, discs, rounded plates and irregular outlines, 40 to 200 mm large."""
    rng = np.random.default_rng(seed)
    made = []
    for k in range(SHAPES):
        size = rng.uniform(20, 100)
        if k % 5 == 0:
            made.append(Contour.circle((0, 0), size))
        elif k % 5 == 1:  # a sector
            turn, inner = rng.uniform(0.6, 2.6), size * rng.uniform(0.2, 0.7)
            ends = np.array([[np.cos(a), np.sin(a)] for a in (0, turn)])
            points = np.vstack([inner * ends[0], size * ends[0], size * ends[1], inner * ends[1]])
            made.append(Contour(points, np.array([0, np.tan(turn / 4), 0, -np.tan(turn / 4)]), True))
        elif k % 5 == 2:  # an angle
            a, b, t = size, size * rng.uniform(0.5, 1), size * rng.uniform(0.2, 0.4)
            made.append(Contour.polyline([[0, 0], [a, 0], [a, t], [t, t], [t, b], [0, b]], True))
        elif k % 5 == 3:
            w, h = size, size * rng.uniform(0.3, 1)
            made.append(Contour.polyline([[0, 0], [w, 0], [w, h], [0, h]], True))
        else:
            angles = np.sort(rng.uniform(0, 2 * np.pi, 9))
            reach = size * rng.uniform(0.5, 1, 9)
            made.append(Contour.polyline(np.column_stack([np.cos(angles), np.sin(angles)]) * reach[:, None], True))
    return made


def main() -> None:
    print(f"{PARTS} parts of {SHAPES} shapes, {SECONDS} s of search, gap {GAP:g} mm: yield in percent")
    print(f"{'seed':>4} {'library alone':>14} {'nest':>6} {'seconds':>14}")
    for seed in range(3):
        kinds = shapes(seed)
        counts = [PARTS // SHAPES + (k < PARTS % SHAPES) for k in range(SHAPES)]
        area = sum(count * abs(kind.area) for kind, count in zip(kinds, counts, strict=True))
        begin = time.perf_counter()
        items = [
            spyrrow.Item(str(k), [(float(x), float(y)) for x, y in kind.flattened(FLAT)[:-1]], count, None)
            for k, (kind, count) in enumerate(zip(kinds, counts, strict=True))
        ]
        config = spyrrow.StripPackingConfig(
            early_termination=True, min_items_separation=GAP, total_computation_time=SECONDS, seed=1
        )
        alone = area / spyrrow.StripPackingInstance("strip", HEIGHT, items).solve(config).width / HEIGHT
        took = time.perf_counter() - begin
        parts = [Part(f"part {k}", kind) for k, kind in enumerate(kinds) for _ in range(counts[k])]
        begin = time.perf_counter()
        (sheet,), left = nested(parts, [(100 * HEIGHT, HEIGHT)], Nest(gap=GAP, seconds=SECONDS))
        assert not left and len(sheet.parts) == PARTS
        mine = area / (sheet.size[0] - sheet.offcut(0.0)[0]) / HEIGHT
        seconds = time.perf_counter() - begin
        print(f"{seed:>4} {100 * alone:>14.2f} {100 * mine:>6.2f} {took:>7.1f} {seconds:>6.1f}")


if __name__ == "__main__":
    main()
