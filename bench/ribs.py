"""Ribs: 40 by 40 through a mesh, with slots and layout, against the bare sections of the same planes by trimesh."""

from __future__ import annotations

import sys
import time
from pathlib import Path

import numpy as np
import trimesh

sys.path.insert(0, str(Path(__file__).parents[1]))

COUNT, THICKNESS = 40, 2.0


def potato(rings: int) -> trimesh.Trimesh:
    """A lumpy ball of 4 * rings^2 triangles, about."""
    ball = trimesh.creation.uv_sphere(1.0, [rings, rings])
    x, y, z = ball.vertices.T
    ball.vertices *= 200 * (1 + 0.1 * np.sin(3 * x) * np.cos(2 * y) + 0.05 * np.sin(5 * z))[:, None]
    return ball


def main() -> None:
    from zuschnitt.core.files.form_file import read_form
    from zuschnitt.core.ribs.layout import laid_out
    from zuschnitt.core.ribs.planes import Spread, family
    from zuschnitt.core.ribs.rib import Making
    from zuschnitt.core.ribs.ribs import interlocking

    print(f"{COUNT} by {COUNT} ribs, in s")
    print(f"{'triangles':>10} {'read':>7} {'ribs, slots, layout':>20} {'sections by trimesh':>20}")
    for rings in (71, 224, 500):
        mesh = potato(rings)
        begin = time.perf_counter()
        form = read_form(mesh.export(file_type="stl"), "potato.stl", unit="mm")
        read = time.perf_counter() - begin
        begin = time.perf_counter()
        families = [
            family(form, letter, way, Spread(count=COUNT), THICKNESS)
            for letter, way in zip("XY", np.eye(3), strict=False)
        ]
        made = interlocking(form, *families, Making(THICKNESS, 0.2))
        laid_out(made)
        ours = time.perf_counter() - begin
        begin = time.perf_counter()
        for each in families:
            mesh.section_multiplane(np.zeros(3), each.normal, each.at)
        theirs = time.perf_counter() - begin
        print(f"{len(mesh.faces):>10,} {read:>7.2f} {ours:>20.2f} {theirs:>20.2f}")


if __name__ == "__main__":
    main()
