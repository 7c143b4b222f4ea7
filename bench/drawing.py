"""Areas of lines and arcs moved outward and joined, and a plate made ready to be cut, against shapely's polygons."""

from __future__ import annotations

import sys
from pathlib import Path

import numpy as np
import shapely

sys.path.insert(0, str(Path(__file__).parents[1]))
from timing import median

RUNS = 5
FINE = 0.001
"""What shapely is given is flattened to this, in mm; so exactly the arcs are kept here."""


def polygon(contours) -> shapely.Geometry:
    area = shapely.Polygon()
    for contour in contours:
        area = area.symmetric_difference(shapely.Polygon(contour.flattened(FINE)))
    return area


def main() -> None:
    from zuschnitt.core.cutting.prepared import Preparing, prepared
    from zuschnitt.core.plane.combining import combined
    from zuschnitt.core.plane.contour import Contour
    from zuschnitt.core.plane.lettering import lettering
    from zuschnitt.core.plane.offsetting import moved_outward

    print(f"median of {RUNS} runs in ms")
    print(f"{'':<44} {'here':>8} {'shapely':>8}")
    gear = [Contour.circle((0, 0), 50)]
    for k in range(36):
        at = 50 * np.array([np.cos(k * np.pi / 18), np.sin(k * np.pi / 18)])
        gear = combined(gear, [Contour.circle(at, 3)], "less")
    flat = polygon(gear)
    print(f"{'a gear of 72 arcs moved outward':<44} {1e3 * median(lambda: moved_outward(gear, 1.0), RUNS):>8.2f}"
          f" {1e3 * median(lambda: flat.buffer(1.0, quad_segs=64), RUNS):>8.2f}")  # fmt: skip
    text = [c for c in lettering("Amselhof", 20)[0] if c.area > 0]
    bar = [Contour.polyline([[0, 4], [120, 4], [120, 8], [0, 8]], closed=True)]
    letters, strip = polygon(text), polygon(bar)
    print(f"{'a bar joined with eight letters':<44} {1e3 * median(lambda: combined(text, bar, 'joined'), RUNS):>8.2f}"
          f" {1e3 * median(lambda: letters.union(strip), RUNS):>8.2f}")  # fmt: skip
    for count in (10, 32):
        at = np.stack(np.meshgrid(np.arange(count) * 6.0, np.arange(count) * 6.0), -1).reshape(-1, 2)
        edge = 6.0 * count
        plate = Contour.polyline([[-10, -10], [edge, -10], [edge, edge], [-10, edge]], closed=True)
        holes = [plate, *(Contour.circle(p, 2) for p in at)]
        flat = polygon([plate]).difference(shapely.union_all([polygon([hole]) for hole in holes[1:]]))
        took = median(lambda holes=holes: prepared(holes, Preparing(kerf=0.2, lead=1.0)), RUNS)
        other = median(lambda flat=flat: flat.buffer(0.1, quad_segs=64), RUNS)
        words = f"a plate of {count * count} holes with kerf, leads, order"
        print(f"{words:<44} {1e3 * took:>8.0f} {1e3 * other:>8.0f}  (kerf alone)")


if __name__ == "__main__":
    main()
