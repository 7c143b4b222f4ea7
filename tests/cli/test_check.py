"""The simulated laser: what it reads, how long it takes, what goes wrong, and the cut part held against the form."""

from __future__ import annotations

import json

import ezdxf
import numpy as np
import pytest
import shapely

from zuschnitt.core.files.dxf import read_dxf

from .test_commands import call, refused


def drawing(path, *entities):
    """A DXF of (kind, layer, numbers…)."""
    document = ezdxf.new("R2010")
    document.units = ezdxf.units.MM
    space = document.modelspace()
    for kind, layer, *numbers in entities:
        about = {"layer": layer}
        if kind == "line":
            space.add_line(*numbers, dxfattribs=about)
        elif kind == "circle":
            space.add_circle(*numbers, dxfattribs=about)
        elif kind == "arc":
            space.add_arc(*numbers, dxfattribs=about)
        else:
            space.add_lwpolyline(numbers[0], format="xyb", close=kind == "closed", dxfattribs=about)
    document.saveas(path)
    return path


def square(x, y, size):
    return [(x, y, 0), (x + size, y, 0), (x + size, y + size, 0), (x, y + size, 0)]


def checked(path, report, *more):
    made = call("check", path, "--report", report, "--quiet", *more)
    return made, json.loads(report.read_text())["laser"]


def test_lengths_and_time_are_those_of_the_closed_form(tmp_path):
    path = drawing(
        tmp_path / "a.dxf",
        ("circle", "CUT", (30, 30), 10), ("line", "MARK", (5, 5), (45, 5)), ("closed", "CUT", square(0, 0, 60)),
        ("line", "REFERENCE", (0, 0), (900, 0)),
    )  # fmt: skip
    made, laser = checked(path, tmp_path / "r.json", "--feed", "1200", "--rapid", "6000", "--pierce", "0.5")
    assert made.returncode == 0, made.stderr
    assert (laser["contours"], laser["pierces"], laser["faults"]) == (2, 2, [])
    assert laser["length_cut"] == pytest.approx(2 * np.pi * 10 + 240)
    assert laser["length_mark"] == pytest.approx(40)
    rapid = np.hypot(40, 30) + np.hypot(35, 25) + np.hypot(45, 5)
    assert laser["length_rapid"] == pytest.approx(rapid)
    assert laser["seconds"] == pytest.approx((280 + 20 * np.pi) / 20 + rapid / 100 + 1.0)
    assert [step["layer"] for step in laser["order"]] == ["CUT", "MARK", "CUT"]


FAULTS = {
    "open": [("open", "CUT", [(0, 0, 0), (50, 0, 0), (50, 50, 0), (0, 50, 0), (0, 1, 0)])],
    "double": [("closed", "CUT", square(0, 0, 50)), ("line", "CUT", (10, 0), (40, 0))],
    "crossing": [("closed", "CUT", square(0, 0, 50)), ("closed", "CUT", square(40, 10, 20))],
    "crossing itself": [("closed", "CUT", [(0, 0, 0), (50, 50, 0), (50, 0, 0), (0, 50, 0)])],
    "crossing itself in a corner": [
        ("closed", "CUT", [(0, 0, 0), (25, 25, 0), (50, 0, 0), (50, 50, 0), (25, 25, 0), (0, 50, 0)])
    ],
    "crossing nothing but touching itself": [
        ("closed", "CUT", [(0, 0, 0), (50, 0, 0), (50, 50, 0), (25, 0, 0), (0, 50, 0)])
    ],
    "double all round": [("closed", "CUT", [*square(0, 0, 50), *square(0, 0, 50)])],
    "double out and back": [
        ("closed", "CUT", [(0, 0, 0), (50, 0, 0), (50, 25, 0), (80, 25, 0), (50, 25, 0), (50, 50, 0), (0, 50, 0)])
    ],
    "double along an arc": [
        ("closed", "CUT", [(0, 0, 0), (50, 0, 0.5), (50, 30, -0.5), (50, 0, 0), (50, -40, 0), (0, -40, 0)])
    ],
    "double and nothing in it": [("closed", "CUT", [(0, 0, 0), (50, 0, 0)])],
    "tiny": [("circle", "CUT", (25, 25), 0.08), ("closed", "CUT", square(0, 0, 50))],
    "loose": [("closed", "CUT", square(0, 0, 50)), ("circle", "CUT", (25, 25), 5)],
    "outside": [("closed", "CUT", square(0, 0, 50)), ("line", "MARK", (60, 0), (90, 0))],
}


@pytest.mark.parametrize("name", FAULTS)
def test_faults_are_found(name, tmp_path):
    made, laser = checked(drawing(tmp_path / "a.dxf", *FAULTS[name]), tmp_path / "r.json")
    assert name.split()[0] in {fault["kind"] for fault in laser["faults"]}
    if name == "outside":
        assert made.returncode == 0
    else:
        assert "would spoil the part" in refused(made, 4)


@pytest.mark.parametrize("opening", [0.1, 1.0])
def test_a_narrow_cut_and_sharp_corners_are_no_faults(opening, tmp_path):
    """The sides of a relief run together at its end; a saw has many sharp teeth."""
    teeth = [(0.3 * k, 3.0 * (k % 2) - 40, 0) for k in range(1, 400)]
    relief = [(130, -opening / 2, 0), (90, 0, 0), (130, opening / 2, 0)]
    outline = [*teeth, (130, -40, 0), *relief, (130, 20, 0), (0, 20, 0)]
    made, laser = checked(drawing(tmp_path / "a.dxf", ("closed", "CUT", outline)), tmp_path / "r.json")
    assert laser["faults"] == [] and made.returncode == 0


def test_single_lines_and_arcs_are_put_together(tmp_path):
    path = drawing(
        tmp_path / "a.dxf",
        ("line", "CUT", (0, 0), (40, 0)), ("line", "CUT", (0, 20), (40, 20)),
        ("arc", "CUT", (40, 10), 10, -90, 90), ("arc", "CUT", (0, 10), 10, 90, 270),
    )  # fmt: skip
    made, laser = checked(path, tmp_path / "r.json")
    assert made.returncode == 0, made.stderr
    assert laser["contours"] == 1 and laser["length_cut"] == pytest.approx(80 + 20 * np.pi)


def test_what_is_written_is_what_the_form_needs(step, tmp_path):
    cone = step("cone")
    for ending in ("dxf", "svg"):
        path = tmp_path / f"cone.{ending}"
        assert call("develop", cone, "--pick", "70,0,75", f"--{ending}", path, "--quiet").returncode == 0
        report = tmp_path / "r.json"
        made = call("check", path, "--form", cone, "--pick", "70,0,75", "--report", report, "--quiet")
        assert made.returncode == 0, made.stderr
        held = json.loads(report.read_text())["held"]
        assert held["deviation_max"] < 0.01 and abs(held["area_difference"]) < 0.01


def test_a_part_with_a_wrong_hole_is_caught(step, tmp_path):
    cone, path = step("cone"), tmp_path / "cone.dxf"
    call("develop", cone, "--pick", "70,0,75", "--dxf", path, "--quiet")
    document = ezdxf.readfile(path)
    (outline,) = read_dxf(path.read_bytes(), "cone.dxf").contours
    at = shapely.Polygon(outline.flattened(0.1)).representative_point()
    document.modelspace().add_circle((at.x, at.y), 12, dxfattribs={"layer": "CUT"})
    document.saveas(path)
    made = call("check", path, "--form", cone, "--pick", "70,0,75", "--report", tmp_path / "r.json", "--quiet")
    about = json.loads((tmp_path / "r.json").read_text())
    assert made.returncode == 4  # and it would be cut when the part is loose
    assert about["held"]["deviation_max"] > 5
    assert about["held"]["area_difference"] == pytest.approx(-np.pi * 144, abs=1)


@pytest.mark.parametrize(
    "name, content",
    [("a.dxf", b""), ("a.dxf", b"hello\nworld\n"), ("a.svg", b"<svg"), ("a.svg", b"<html/>"), ("a.txt", b"x"),
     ("a.svg", b'<svg xmlns="http://www.w3.org/2000/svg"><text>a</text></svg>'),
     ("a.dxf", b"  0\nSECTION\n  2\nENTITIES\n  0\nTEXT\n  8\nCUT\n  0\nENDSEC\n  0\nEOF\n")],
)  # fmt: skip
def test_files_that_are_no_cut_files(name, content, tmp_path):
    (tmp_path / name).write_bytes(content)
    refused(call("check", tmp_path / name, "--quiet"), 3)


def test_values_that_no_laser_has(tmp_path):
    path = drawing(tmp_path / "a.dxf", ("closed", "CUT", square(0, 0, 50)))
    for option in (("--kerf", "-1"), ("--feed", "0"), ("--pierce", "nan")):
        refused(call("check", path, *option, "--quiet"), 2)


def test_a_tangle_of_lines_is_counted_not_listed(tmp_path):
    """Two bundles of 160 lines each: 25,600 crossings, of which the first 20,000 are named."""
    across = [("line", "CUT", (0, k), (400, k + 0.5)) for k in range(160)]
    up = [("line", "CUT", (k, -10), (k + 0.5, 390)) for k in range(160)]
    made, laser = checked(drawing(tmp_path / "a.dxf", *across, *up), tmp_path / "r.json")
    assert made.returncode == 4
    crossing = [fault["text"] for fault in laser["faults"] if fault["kind"] == "crossing"]
    assert len(crossing) == 20_001
    assert "5,600 more that meet others" in crossing[-1]


@pytest.mark.parametrize("command", ["check", "press"])
def test_an_unknown_encoding_ends_in_a_sentence(tmp_path, command):
    path = tmp_path / "a.svg"
    path.write_text('<?xml version="1.0" encoding="UTF-4"?><svg xmlns="http://www.w3.org/2000/svg"/>')
    assert "is damaged" in refused(call(command, path, "--quiet"), 3)


@pytest.mark.parametrize(
    ("before", "after", "why"),
    [(b"40.0", b"4\xff.0", "is damaged"), (b"40.0", b"nan", "not finite"), (b"40.0", b"1e999", "not finite")],
)
@pytest.mark.parametrize("command", ["check", "press"])
def test_numbers_that_are_none_end_in_a_sentence(tmp_path, before, after, why, command):
    path = drawing(tmp_path / "a.dxf", ("closed", "CUT", square(0, 0, 40)), ("line", "BEND_UP", (20, 0), (20, 40)))
    content = path.read_bytes()
    assert before in content
    path.write_bytes(content.replace(before, after))
    assert why in refused(call(command, path, "--quiet"), 3)
