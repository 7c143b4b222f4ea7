"""Bodies from artwork: a logo raised over two faces, stations with tongues and grooves, pieces bent; cost by segments.

Beside each stands the bare boolean operation of the geometry kernel on as many simple tools in the same run.
"""

from __future__ import annotations

import sys
import time
from pathlib import Path

import numpy as np

sys.path.insert(0, str(Path(__file__).parents[1]))

from OCP.Bnd import Bnd_Box
from OCP.BRepAlgoAPI import BRepAlgoAPI_Cut, BRepAlgoAPI_Fuse
from OCP.BRepBndLib import BRepBndLib
from OCP.BRepFilletAPI import BRepFilletAPI_MakeFillet
from OCP.BRepPrimAPI import BRepPrimAPI_MakeBox, BRepPrimAPI_MakeCylinder
from OCP.gp import gp_Pnt
from OCP.TopAbs import TopAbs_EDGE
from OCP.TopExp import TopExp_Explorer
from OCP.TopoDS import TopoDS
from OCP.TopTools import TopTools_ListOfShape

from zuschnitt.core.carry.placement import Placement
from zuschnitt.core.develop.developing import develop
from zuschnitt.core.develop.placing import Hold
from zuschnitt.core.form.form import Form
from zuschnitt.core.form_curves.stations import Way, stations
from zuschnitt.core.kernel.step_in import read_step_bytes
from zuschnitt.core.kernel.step_out import named_shapes_bytes
from zuschnitt.core.plane.contour import Contour
from zuschnitt.core.solids.bars import Bar, bars
from zuschnitt.core.solids.bodies import bodies_step
from zuschnitt.core.solids.raising import raised
from zuschnitt.core.solids.standing import bent

SIZES = (25, 50, 100, 200, 400, 800)
"""Segments of a logo."""


def logo(segments: int, reach: float = 30.0) -> Contour:
    """A star with rounded lobes, closed, of so many straight segments."""
    t = np.linspace(0, 2 * np.pi, segments, endpoint=False)
    r = reach * (1 + 0.25 * np.cos(7 * t))
    return Contour.polyline(np.column_stack([r * np.cos(t), r * np.sin(t)]), closed=True)


def timed(work) -> tuple[float, object]:
    begin = time.perf_counter()
    made = work()
    return time.perf_counter() - begin, made


def bare(count: int, fuse: bool) -> float:
    """Seconds that the kernel takes to unite a box with so many small boxes, or to cut them out of it."""
    tools = TopTools_ListOfShape()
    for k in range(count):
        x, y = divmod(k, 10)
        tools.Append(BRepPrimAPI_MakeBox(gp_Pnt(10.0 * x + 2, 10.0 * y + 2, 15), 4, 4, 10).Shape())
    base = TopTools_ListOfShape()
    base.Append(BRepPrimAPI_MakeBox(1000, 100, 20).Shape())
    operation = BRepAlgoAPI_Fuse() if fuse else BRepAlgoAPI_Cut()
    operation.SetArguments(base)
    operation.SetTools(tools)
    return timed(operation.Build)[0]


def slab():
    """A block of 200 x 140 x 60 mm, one edge rounded by 40: a flat face runs on into a quarter of a tube."""
    shape = BRepPrimAPI_MakeBox(200, 140, 60).Shape()
    rounded = BRepFilletAPI_MakeFillet(shape)
    explorer = TopExp_Explorer(shape, TopAbs_EDGE)
    while explorer.More():
        edge = TopoDS.Edge_s(explorer.Current())
        box = Bnd_Box()
        BRepBndLib.Add_s(edge, box)
        x0, y0, z0, _, y1, _ = box.Get()
        if y1 - y0 > 100 and x0 > 190 and z0 > 50:
            rounded.Add(40, edge)
            break
        explorer.Next()
    return read_step_bytes(named_shapes_bytes([("slab", rounded.Shape())]), "slab")


def top_of(form: Form) -> int:
    """The number of the plane face that looks up."""
    return next(
        face.number
        for face, mesh in zip(form.faces, form.meshes, strict=True)
        if face.kind == "plane" and mesh.normals[0, 2] > 0.9
    )


def raised_logo(segments: int) -> tuple[float, str]:
    """The logo over the rim between the two faces, 1 mm high."""
    form = slab()
    flat = top_of(form)
    round_ = next(f.number for f in form.faces if f.kind == "cylinder")
    blank = develop(form, [flat, round_], hold=Hold(np.array([160.0, 70, 60]), np.array([1.0, 0, 0])))
    seconds, made = timed(lambda: raised(form, blank, [logo(segments)], 1.0))
    return seconds, made.made[0].by


def main() -> None:
    print(f"a logo raised over two faces{'':>12} {'s':>6}   how   exponent of the last doubling")
    before = None
    for segments in SIZES:
        seconds, how = raised_logo(segments)
        growth = "" if before is None else f"{np.log2(seconds / before):.2f}"
        before = seconds
        print(f"{segments:>14,} segments {'':>13} {seconds:>8.2f}   {how}   {growth}", flush=True)
    block = read_step_bytes(named_shapes_bytes([("block", BRepPrimAPI_MakeBox(500, 60, 40).Shape())]), "block")
    top = top_of(block)
    found, _ = stations(block, [top], Way(np.zeros(3), np.array([1.0, 0, 0])), [20.0] * 22)
    bar = Bar("half-round", 6, tongue=(2, 8, 5), groove=0.3)
    seconds, _ = timed(lambda: bars(block, [top], found, bar))
    print(
        f"{len(found)} stations with tongue and groove {seconds:>12.2f}   bare cut of as many "
        f"{bare(len(found), False):.2f}"
    )
    round_form = read_step_bytes(named_shapes_bytes([("tube", BRepPrimAPI_MakeCylinder(50, 400).Shape())]), "tube")
    blank = develop(round_form, [1], hold=Hold(np.array([50.0, 0, 10]), np.array([0.0, 1, 0])))
    pieces = [
        (f"p{k}", BRepPrimAPI_MakeBox(gp_Pnt(0, 18.0 * k, -1), gp_Pnt(24, 18.0 * k + 12, 4)).Shape()) for k in range(20)
    ]
    content = named_shapes_bytes(pieces)
    seconds, _ = timed(lambda: bodies_step(bent(round_form, blank, content, "p.step", Placement(at=(100, 10)))))
    print(f"20 pieces bent onto a tube and written {seconds:>8.2f}   bare union of as many {bare(20, True):.2f}")


if __name__ == "__main__":
    main()
