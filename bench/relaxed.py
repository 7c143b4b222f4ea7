"""Relaxed development of a 100,000-triangle patch against libigl's conformal start and ten steps."""

from __future__ import annotations

import resource
import sys
import time

import numpy as np

from zuschnitt.core.develop.relaxed import Metric, relax


def patch(count: int) -> tuple[np.ndarray, np.ndarray]:
    """A doubly curved patch of about ``count`` triangles: points (n, 3), triangles (t, 3)."""
    n = int(np.sqrt(count / 2)) + 1
    x, y = np.meshgrid(np.linspace(-100, 100, n), np.linspace(-100, 100, n), indexing="ij")
    z = 35 * (1 - (x / 100) ** 2) * (1 - 0.7 * (y / 100) ** 2) + 10 * x * y / 1e4
    index = np.arange(n * n).reshape(n, n)
    a, b, c, d = index[:-1, :-1], index[1:, :-1], index[1:, 1:], index[:-1, 1:]
    triangles = np.concatenate([np.stack(t, axis=2).reshape(-1, 3) for t in ([a, b, c], [a, c, d])])
    return np.stack([x.ravel(), y.ravel(), z.ravel()], axis=1), triangles


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
    points, triangles = patch(count)
    metric = Metric.of(points, triangles)
    print(f"{len(triangles)} triangles; isometric energy in mm²")
    print(f"{'run':>4} {'yardstick s':>12} {'energy':>12} {'ours s':>8} {'energy':>12} {'steps':>6} {'ratio':>6}")
    for run in range(3):
        begin = time.perf_counter()
        theirs = yardstick(points, triangles)
        their_time = time.perf_counter() - begin
        goal = metric.energy(theirs)
        begin = time.perf_counter()
        ours = relax(points, triangles, goal=goal)
        our_time = time.perf_counter() - begin
        print(
            f"{run + 1:>4} {their_time:>12.2f} {goal:>12.4f} {our_time:>8.2f} "
            f"{metric.energy(ours.points_blank):>12.4f} "
            f"{ours.steps:>6} {our_time / their_time:>6.2f}"
        )
    best = relax(points, triangles, settled=1e-9)
    print(f"energy where it settles: {best.energy:.4f} after {best.steps} steps")
    print(f"peak memory {resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024:.0f} MB, yardstick included")


if __name__ == "__main__":
    main()
