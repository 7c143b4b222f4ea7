"""Drawings thinned, against shapely's simplifying of the same lines; curves on a mesh of 100,000 triangles, against
trimesh's section of it."""

from __future__ import annotations

import sys
from pathlib import Path

import numpy as np
import shapely
import trimesh

sys.path.insert(0, str(Path(__file__).parents[1]))

from timing import median

from zuschnitt.core.files.form_file import read_form
from zuschnitt.core.form_curves.drawn_curve import drawn_through
from zuschnitt.core.form_curves.plane_curves import plane_curves
from zuschnitt.core.form_curves.shortest import shortest_through
from zuschnitt.core.plane.contour import Contour
from zuschnitt.core.plane.thinning import thinned

RUNS = 3
TOLERANCE = 0.05


def lobes() -> list[Contour]:
    """200 closed lines of 1,000 segments each, a little rough."""
    random, turn = np.random.default_rng(0), np.linspace(0, 2 * np.pi, 1000, endpoint=False)
    made = []
    for _ in range(200):
        radius = 20 + 3 * np.sin(5 * turn) + 0.002 * random.normal(size=1000)
        points = np.column_stack([radius * np.cos(turn), radius * np.sin(turn)]) + random.uniform(0, 2000, 2)
        made.append(Contour.polyline(points, True))
    return made


def spiral() -> list[Contour]:
    t = np.linspace(0, 1, 200_000)
    return [Contour.polyline(np.column_stack([50 * t * np.cos(60 * t), 50 * t * np.sin(60 * t)]))]


def main() -> None:
    print(f"median of {RUNS} runs in s, and what is left of 200,000 segments within {TOLERANCE} mm")
    print(f"{'':<24} {'here':>6} {'segments':>9} {'shapely':>8} {'segments':>9}")
    for name, contours in (("200 rough lobes", lobes()), ("one spiral", spiral())):
        lines = [shapely.LineString(np.vstack([c.points, c.points[:1]]) if c.closed else c.points) for c in contours]
        here, there = (
            median(lambda c=contours: thinned(c, TOLERANCE), RUNS),
            median(lambda c=lines: shapely.simplify(c, TOLERANCE), RUNS),
        )
        left = shapely.get_num_coordinates(shapely.simplify(lines, TOLERANCE)).sum()
        print(f"{name:<24} {here:>6.2f} {thinned(contours, TOLERANCE).segments[1]:>9,} {there:>8.2f} {left:>9,}")
    mesh = trimesh.creation.icosphere(subdivisions=7, radius=100.0)
    mesh.update_faces(np.arange(len(mesh.faces)) < 100_000)
    form = read_form(mesh.export(file_type="stl"), "mesh.stl", "mm")
    low = mesh.vertices[mesh.faces[:90_000:18_000, 0]]
    print(f"\non a mesh of {sum(len(each.triangles) for each in form.meshes):,} triangles, in s")
    cut = median(lambda: plane_curves(form, [3, 0, 0], [1, 0.2, 0.1]), RUNS)
    theirs = median(lambda: mesh.section([1, 0.2, 0.1], [3, 0, 0]), RUNS)
    print(f"{'a plane cuts it':<40} {cut:>6.2f}   trimesh {theirs:.2f}")
    for name, draw in (("a smooth curve", drawn_through), ("the shortest ways", shortest_through)):
        took = median(lambda draw=draw: draw(form, low, False), RUNS)
        print(f"{name + ' through five points':<40} {took:>6.2f}")


if __name__ == "__main__":
    main()
