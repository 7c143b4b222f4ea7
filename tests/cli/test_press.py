"""The simulated press brake: it folds what it reads as the sheet part is folded, and finds orders that work."""

from __future__ import annotations

import json
from dataclasses import replace

import ezdxf
import numpy as np
import pytest

from zuschnitt.core.files.dxf import dxf_bytes
from zuschnitt.core.files.svg import svg_text
from zuschnitt.core.plane.contour import BendNote, Contour
from zuschnitt.core.sheet.block import hollowed
from zuschnitt.core.sheet.body import folded_body
from zuschnitt.core.sheet.flanges import Flange
from zuschnitt.core.sheet.making import SheetPlan, sheet_part
from zuschnitt.core.sheet.pattern import sheet_blank
from zuschnitt.standins.press.brake import TURNED, planned, punch_of
from zuschnitt.standins.press.flat import folded, read

from .test_commands import call, refused


def drawing(off=("top",), size=(200, 120, 40), **plan):
    plan.setdefault("opened", "auto")
    part = sheet_part(hollowed(*size, 2, off), SheetPlan(radius=2.0, **plan)).part
    blank = sheet_blank(part, folded_body(part))
    return (*blank.outline, *blank.folds)


@pytest.mark.parametrize("ending", ["dxf", "svg"])
def test_it_folds_the_flat_to_the_size_of_the_part(ending):
    lines = drawing()
    content = dxf_bytes(lines) if ending == "dxf" else svg_text(lines).encode()
    flat = read(content, f"tray.{ending}")
    assert len(flat.walls) == 5 and [bend.number for bend in flat.bends] == [1, 2, 3, 4]
    root = int(np.argmax([wall.area for wall in flat.walls]))
    places = folded(flat, {1, 2, 3, 4}, root)
    corners = []
    for k, (turn, shift) in places.items():
        ring = np.array(flat.walls[k].exterior.coords)
        corners.append(np.column_stack([ring, np.zeros(len(ring))]) @ turn.T + shift)
    every = np.vstack(corners)
    # the layer that keeps its length: K 0.44 of 2 mm from the inside of the bends
    assert np.ptp(every, axis=0) == pytest.approx([200 - 2 * 1.12, 120 - 2 * 1.12, 40 - 1.12], abs=1e-6)


def test_a_tray_is_bent_in_four_steps(tmp_path):
    (tmp_path / "tray.dxf").write_bytes(dxf_bytes(drawing()))
    made = call("press", tmp_path / "tray.dxf", "--report", tmp_path / "r.json", "--quiet")
    assert made.returncode == 0, made.stderr
    press = json.loads((tmp_path / "r.json").read_text())["press"]
    assert press["possible"] and sorted(press["order"]) == [1, 2, 3, 4]
    assert all(step["tool"] and step["angle"] == 90 and not step["collides"] for step in press["steps"])


def test_flanges_on_the_walls_come_before_the_walls():
    flat = read(dxf_bytes(drawing(flanges=(Flange((), 12.0),))), "tray.dxf")
    plan = planned(flat)
    assert plan.possible
    assert set(plan.order[:4]) == {5, 6, 7, 8}, "a lip cannot be bent once its wall stands"
    assert "horned punch" in plan.steps[-1].tool


def test_a_deep_narrow_channel_cannot_be_bent():
    wide, narrow = (read(dxf_bytes(drawing(("top", "front", "back"), (width, 80, 150), opened=())), "c.dxf")
                    for width in (260, 40))  # fmt: skip
    assert planned(wide).possible
    plan = planned(narrow)
    assert not plan.possible
    wrong = [step for step in plan.steps if step.collides]
    assert wrong and "would run into" in wrong[0].reason


def test_what_cannot_be_bent_is_said(tmp_path):
    (tmp_path / "c.dxf").write_bytes(dxf_bytes(drawing(("top", "front", "back"), (40, 80, 150), opened=())))
    sentence = refused(call("press", tmp_path / "c.dxf", "--report", tmp_path / "r.json", "--quiet"), 4)
    assert "bend" in sentence
    assert json.loads((tmp_path / "r.json").read_text())["press"]["possible"] is False


@pytest.mark.parametrize("kind", ["no bends", "no angle", "no outline", "nothing", "no drawing"])
def test_files_that_are_no_flats(kind, tmp_path):
    path = tmp_path / ("a.txt" if kind == "no drawing" else "a.dxf")
    document = ezdxf.new("R2010")
    space = document.modelspace()
    if kind != "no outline":
        space.add_lwpolyline([(0, 0), (50, 0), (50, 50), (0, 50)], close=True, dxfattribs={"layer": "CUT"})
    if kind in ("no angle", "no outline"):
        space.add_line((0, 20), (50, 20), dxfattribs={"layer": "BEND_UP"})
    document.saveas(path)
    if kind == "nothing":
        path.write_bytes(b"")
    refused(call("press", path, "--quiet"), 3)


HALF = np.pi / 4 * 2.88
"""Half of what a bend of 90° takes of the flat: radius 2, K 0.44 of 2 mm."""


def test_stops_stand_behind_the_bend_line():
    plan = planned(read(dxf_bytes(drawing()), "tray.dxf"))
    assert [step.gauge for step in plan.steps] == pytest.approx([36 + HALF] * 4, abs=1e-6)


def test_stops_meet_a_lip_that_stands_already():
    plan = planned(read(dxf_bytes(drawing(flanges=(Flange((), 12.0),))), "tray.dxf"))
    lips, walls = plan.steps[:4], plan.steps[4:]
    assert [step.gauge for step in lips] == pytest.approx([8 + HALF] * 4, abs=1e-6)
    # the lip's layer that keeps its length is a radius of 2.88 beyond the straight part of the wall
    assert [step.gauge for step in walls] == pytest.approx([32 + HALF + 2.88] * 4, abs=1e-6)


def test_an_edge_that_runs_to_a_point_gives_the_stops_no_hold():
    a, b = 100.0, 30.0
    outline = Contour.polyline([[0, 0], [a, 0], [a, b], [a / 2, 3 * b], [0, b]], closed=True, layer="CUT")
    pointed = replace(Contour.polyline([[0, b / 2], [a, b / 2]], layer="BEND_UP"), bend=BendNote(90.0, 2.0, 4.0))
    flat = read(dxf_bytes([outline, pointed]), "point.dxf")
    (step,) = planned(flat).steps
    assert step.gauge == pytest.approx(b / 2, abs=1e-6)  # of its two sides the straight one, which hangs less
    both = Contour.polyline([[a / 2, -b], [a, 0], [a / 2, b], [0, 0]], closed=True, layer="CUT")
    across = replace(Contour.polyline([[0, 0], [a, 0]], layer="BEND_UP"), bend=BendNote(90.0, 2.0, 4.0))
    (step,) = planned(read(dxf_bytes([both, across]), "rhomb.dxf")).steps
    assert step.gauge is None


def test_a_gooseneck_says_when_it_is_turned_round():
    names = [punch.name for punch in TURNED]
    assert names == ["straight punch", "gooseneck punch", "gooseneck punch turned round", "horned punch"]
    assert punch_of("gooseneck punch turned round, die 12") is TURNED[2]
    assert punch_of("gooseneck punch, die 12") is TURNED[1]
