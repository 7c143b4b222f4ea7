"""Sheet parts: a strip of many bends recognised and laid flat, against the kernel's triangulation of the same solid."""

from __future__ import annotations

import sys
from pathlib import Path

import numpy as np

sys.path.insert(0, str(Path(__file__).parents[1]))
from timing import median

RUNS = 5
BENDS = (10, 30, 60)


def main() -> None:
    from OCP.BRepMesh import BRepMesh_IncrementalMesh
    from OCP.BRepTools import BRepTools
    from OCP.TopoDS import TopoDS_Shape

    from tests.sheet_parts import drawn_out, form
    from zuschnitt.core.sheet.block import hollowed
    from zuschnitt.core.sheet.body import folded_body
    from zuschnitt.core.sheet.flanges import Flange
    from zuschnitt.core.sheet.flat import bend_lines, outline
    from zuschnitt.core.sheet.glimpse import glimpse
    from zuschnitt.core.sheet.making import SheetPlan, rough_part, sheet_part

    def strip(count: int, width: float) -> TopoDS_Shape:
        return drawn_out([30] * (count + 1), [40 if k % 2 == 0 else -40 for k in range(count)], 3.0, 2.0, width)

    print(f"median of {RUNS} runs in s")
    print(f"{'bends':>6} {'recognised, flat':>18} {'folded body':>12} {'kernel meshes it':>18}")
    for count in BENDS:
        shape = strip(count, 200.0)
        solid = form(shape)
        made = sheet_part(solid, SheetPlan())

        others = iter([form(strip(count, 200.0 + k)) for k in range(1, RUNS + 1)])

        def flat(others=others) -> None:
            part = sheet_part(next(others), SheetPlan()).part  # another solid, so nothing of it is kept
            outline(part)
            bend_lines(part)

        def mesh(shape=shape) -> None:
            BRepTools.Clean_s(shape)
            BRepMesh_IncrementalMesh(shape, 0.05, False, 0.1, False)

        folded = median(lambda made=made: folded_body(made.part), RUNS)
        print(f"{count:>6} {median(flat, RUNS):>18.3f} {folded:>12.3f} {median(mesh, RUNS):>18.3f}")
    tray = hollowed(300, 180, 60, 1.5, ["top"])
    lengths = iter(np.linspace(10, 20, 100))

    def plan() -> SheetPlan:
        return SheetPlan(opened="auto", radius=2.0, flanges=(Flange((), float(next(lengths))),))

    exact = median(lambda: folded_body(sheet_part(tray, plan()).part), RUNS)
    rough = median(lambda: glimpse(rough_part(tray, plan())), RUNS)
    print(f"the flanges of a tray made anew: folded body {exact:.3f}, to look at while they move {rough:.3f}")


if __name__ == "__main__":
    main()
