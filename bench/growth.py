"""How the time of a relaxed development grows with its triangles, from 10,000 to 500,000, and its memory."""

from __future__ import annotations

import resource
import time

import numpy as np
from relaxed import net, shallow, wrapped, yardstick

from zuschnitt.core.flatten.relaxed import relax

COUNTS = (10_000, 30_000, 100_000, 250_000, 500_000)


def main() -> None:
    print("time in s of a whole relaxed development, to where a step gains less than a millionth")
    print(f"{'patch':>8} {'triangles':>10} {'steps':>6} {'time':>7} {'yardstick':>10} {'ratio':>6}")
    for make in (shallow, wrapped):
        counts, times = [], []
        for count in COUNTS:
            x, y, triangles = net(count)
            points = make(x, y)
            if make is wrapped:
                triangles = triangles[:, ::-1]
            begin = time.perf_counter()
            made = relax(points, triangles)
            took = time.perf_counter() - begin
            theirs = 0.0
            if count == 100_000:  # the yardstick fails at some sizes, and takes minutes at others
                begin = time.perf_counter()
                yardstick(points, triangles)
                theirs = time.perf_counter() - begin
            counts.append(len(triangles))
            times.append(took)
            ratio = f"{took / theirs:>6.2f}" if theirs else "     -"
            print(f"{make.__name__:>8} {len(triangles):>10} {made.steps:>6} {took:>7.2f} {theirs:>10.2f} {ratio}")
        growth = np.polyfit(np.log(counts), np.log(times), 1)[0]
        print(f"{make.__name__:>8} grows with n^{growth:.2f}")
    peak = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024
    print(f"peak memory {peak:.0f} MB, yardstick included")


if __name__ == "__main__":
    main()
