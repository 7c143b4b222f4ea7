"""Mapping 20,000 points from the blank to the form, against SciPy doing only the search for triangles."""

from __future__ import annotations

import numpy as np
from scipy.spatial import Delaunay
from timing import median

from zuschnitt.core.develop.developing import develop
from zuschnitt.core.form.build import domed_lid, turned_body

COUNT = 20_000
RUNS = 15


def inside_points(blank) -> np.ndarray:
    """Points strewn over the blank."""
    points = np.random.default_rng(1).uniform(blank.bounds[:2], blank.bounds[2:], (6 * COUNT, 2))
    return points[blank.region.contains(points)][:COUNT]


def main() -> None:
    print(f"{COUNT} points, blank to form, median of {RUNS} runs in ms")
    print(f"{'blank':<28} {'ours':>8} {'form to blank':>14} {'SciPy find_simplex':>20}")
    forms = {"cone, exact": turned_body([(60, 0), (200, 420)]), "lid, relaxed": domed_lid(240, 180, 36, 40, 60)}
    for name, form in forms.items():
        blank = develop(form, [1])
        points = inside_points(blank)
        there = blank.correspondence.to_form(points)  # builds what is built once
        blank.correspondence.to_blank(there.points)
        ours = 1000 * median(lambda b=blank, p=points: b.correspondence.to_form(p), RUNS)
        back = 1000 * median(lambda b=blank, p=there.points: b.correspondence.to_blank(p), RUNS)
        yardstick = float("nan")
        if blank.mesh is not None:
            triangles = Delaunay(blank.mesh.points_blank)
            triangles.find_simplex(points)
            yardstick = 1000 * median(lambda t=triangles, p=points: t.find_simplex(p), RUNS)
        print(f"{name:<28} {ours:>8.2f} {back:>14.2f} {yardstick:>20.2f}")


if __name__ == "__main__":
    main()
