"""Relaxed development of a 100,000-triangle patch against libigl's conformal start and ten steps."""

from __future__ import annotations

import resource
import sys
import time

import numpy as np

from zuschnitt.core.flatten.metric import Metric
from zuschnitt.core.flatten.relaxed import relax


def net(count: int) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Two parameters from -1 to 1 (n,) of a net of about ``count`` triangles, and the triangles (t, 3)."""
    n = int(np.sqrt(count / 2)) + 1
    x, y = np.meshgrid(np.linspace(-1, 1, n), np.linspace(-1, 1, n), indexing="ij")
    index = np.arange(n * n).reshape(n, n)
    a, b, c, d = index[:-1, :-1], index[1:, :-1], index[1:, 1:], index[:-1, 1:]
    triangles = np.concatenate([np.stack(t, axis=2).reshape(-1, 3) for t in ([a, b, c], [a, c, d])])
    return x.ravel(), y.ravel(), triangles


def shallow(x: np.ndarray, y: np.ndarray) -> np.ndarray:
    """A doubly curved patch of 200 mm, 35 mm high: all of it can be seen from above."""
    return np.stack([100 * x, 100 * y, 35 * (1 - x**2) * (1 - 0.7 * y**2) + 10 * x * y], axis=1)


def wrapped(x: np.ndarray, y: np.ndarray) -> np.ndarray:
    """A waisted collar round 250 degrees: from no side can all of it be seen."""
    angle, radius = np.radians(125) * x, 50 + 8 * y**2
    return np.stack([radius * np.sin(angle), 60 * y, -radius * np.cos(angle)], axis=1)


def yardstick(points: np.ndarray, triangles: np.ndarray) -> np.ndarray:
    import igl

    rim = igl.boundary_loop(triangles)
    held = np.array([rim[0], rim[len(rim) // 2]])
    ends = np.array([[0.0, 0.0], [np.linalg.norm(points[held[0]] - points[held[1]]), 0.0]])
    start = igl.lscm(points, triangles, held, ends)
    start = next(a for a in (start if isinstance(start, tuple) else (start,)) if a.shape == (len(points), 2))
    data = igl.ARAPData()
    data.max_iter = 10
    nobody = np.zeros(0, np.int32)
    igl.arap_precomputation(points, triangles, 2, nobody, data)
    return igl.arap_solve(np.zeros((0, 2)), data, start)


def main() -> None:
    count = int(sys.argv[1]) if len(sys.argv) > 1 else 100_000
    print("isometric energy in mm², times in s")
    print(
        f"{'patch':>8} {'triangles':>10} {'run':>4} {'yardstick':>10} {'energy':>10} "
        f"{'ours':>6} {'energy':>10} {'steps':>6} {'ratio':>6}"
    )
    for make in (shallow, wrapped):
        x, y, triangles = net(count)
        points = make(x, y)
        if make is wrapped:
            triangles = triangles[:, ::-1]  # its outer side outwards
        metric = Metric.of(points, triangles)
        for run in range(3):
            begin = time.perf_counter()
            theirs = yardstick(points, triangles)
            their_time = time.perf_counter() - begin
            goal = metric.energy(theirs)
            begin = time.perf_counter()
            ours = relax(points, triangles, goal=goal)
            our_time = time.perf_counter() - begin
            print(
                f"{make.__name__:>8} {len(triangles):>10} {run + 1:>4} {their_time:>10.2f} {goal:>10.4f} "
                f"{our_time:>6.2f} {metric.energy(ours.points_blank):>10.4f} {ours.steps:>6} "
                f"{our_time / their_time:>6.2f}"
            )
    peak = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024
    print(f"peak memory {peak:.0f} MB, yardstick included")


if __name__ == "__main__":
    main()
