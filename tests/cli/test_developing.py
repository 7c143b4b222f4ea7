"""Meshes, panels, reliefs and comparison on the command line: real processes, reports, exit codes."""

from __future__ import annotations

import json

import ezdxf
import numpy as np
import pytest
import trimesh

from tests.core.develop.test_sheet_size import fits
from zuschnitt.core.files.dxf import read_dxf

from .test_commands import call, refused


def report_of(path):
    return json.loads(path.read_text())


@pytest.fixture
def dome(tmp_path):
    ball = trimesh.creation.icosphere(4, 50)
    ball.update_faces(ball.triangles_center[:, 2] > 30)
    path = tmp_path / "dome.stl"
    ball.export(path)
    return path


@pytest.fixture
def curves(tmp_path):
    angle = np.linspace(0, 2 * np.pi, 121)
    rings = [np.stack([r * np.cos(angle) + x, r * np.sin(angle), z + 0 * angle], axis=1)
             for r, x, z in ((80, 0, 0), (40, 30, 100), (40, 30, 160))]  # fmt: skip
    path = tmp_path / "rings.json"
    path.write_text(json.dumps({"curves": [ring.tolist() for ring in rings]}))
    return path


def test_a_mesh_in_inches_with_its_creases(tmp_path):
    trimesh.creation.box((4, 3, 2)).export(tmp_path / "box.obj")
    result = call("faces", tmp_path / "box.obj", "--unit", "in", "--report", tmp_path / "r.json")
    assert result.returncode == 0, result.stderr
    faces = report_of(tmp_path / "r.json")["faces"]
    assert len(faces) == 6 and sum(f["area"] for f in faces) == pytest.approx(52 * 25.4**2)
    whole = call("faces", tmp_path / "box.obj", "--unit", "in", "--crease", "120", "--report", tmp_path / "r.json")
    assert whole.returncode == 0 and len(report_of(tmp_path / "r.json")["faces"]) == 1


def test_a_box_with_tabs_and_numbers(tmp_path):
    trimesh.creation.box((100, 60, 40)).export(tmp_path / "box.ply")
    result = call("develop", tmp_path / "box.ply", "--tabs", 8, "--numbers", "--dxf", tmp_path / "b.dxf",
                  "--report", tmp_path / "r.json")  # fmt: skip
    assert result.returncode == 0, result.stderr
    assert "taken to be in mm" in result.stdout + json.dumps(report_of(tmp_path / "r.json")["messages"])
    blank = report_of(tmp_path / "r.json")["blank"]
    assert blank["pieces"] == 1 and blank["area_blank"] == pytest.approx(24800, rel=1e-6)
    layers = {entity.dxf.layer for entity in ezdxf.readfile(tmp_path / "b.dxf").modelspace()}
    assert {"CUT", "TEXT", "BEND_DOWN"} <= layers


def test_reliefs_bring_a_dome_down(dome, tmp_path):
    plain = call("develop", dome, "--edge", 4, "--report", tmp_path / "a.json", "--quiet")
    cut = call(
        "develop",
        dome,
        "--edge",
        4,
        "--under",
        5,
        "--svg",
        tmp_path / "b.svg",
        "--report",
        tmp_path / "b.json",
        "--quiet",
    )
    assert plain.returncode == cut.returncode == 0, cut.stderr
    before, after = (report_of(tmp_path / f"{n}.json")["blank"] for n in "ab")
    assert after["stretch_min"] > -5 > before["stretch_min"]
    assert after["outline_length"] > before["outline_length"]
    assert any("reliefs" in m["text"] for m in report_of(tmp_path / "b.json")["messages"])


def test_a_relief_of_ones_own(dome, tmp_path):
    line = [[[0, y, float(np.sqrt(2500 - y * y))] for y in np.linspace(8, 40.5, 30)]]
    (tmp_path / "line.json").write_text(json.dumps({"curves": line}))
    plain = call("develop", dome, "--edge", 4, "--report", tmp_path / "a.json", "--quiet")
    cut = call(
        "develop", dome, "--edge", 4, "--reliefs", tmp_path / "line.json", "--report", tmp_path / "b.json", "--quiet"
    )
    assert plain.returncode == cut.returncode == 0, cut.stderr
    before, after = (report_of(tmp_path / f"{n}.json")["blank"] for n in "ab")
    assert after["outline_length"] > before["outline_length"] + 50


def test_panels_between_curves(curves, tmp_path):
    result = call("panels", curves, "--dxf", tmp_path / "p.dxf", "--report", tmp_path / "r.json")
    assert result.returncode == 0, result.stderr
    report = report_of(tmp_path / "r.json")
    assert report["command"] == "panels" and len(report["panels"]) == 2
    assert all(p["developable"] and p["stretch_max"] < 1e-4 for p in report["panels"])
    assert report["blank"]["pieces"] == 2 and report["blank"]["round_trip_max"] < 1e-6
    tube = 2 * np.pi * 40 * 60
    assert report["faces"][1]["area"] == pytest.approx(tube, rel=1e-6)


def test_panels_through_free_sections_of_a_step_file(step, tmp_path):
    way = [f"--at={x},0,{z}" for x, z in ((64, 90), (56, 110), (48, 130))]
    result = call("panels", step("cone"), *way, "--report", tmp_path / "r.json")
    assert result.returncode == 0, result.stderr
    found = report_of(tmp_path / "r.json")
    assert [p["developable"] for p in found["panels"]] == [True, True]
    assert found["blank"]["pieces"] == 2
    refused = call("panels", step("cone"), "--at", "70,0,30")
    assert refused.returncode == 3 and "two points" in refused.stderr


def test_panels_through_sections_of_a_step_file(step, tmp_path):
    result = call("panels", step("cone"), "--sections", 3, "--report", tmp_path / "r.json")
    assert result.returncode == 0, result.stderr
    assert len(report_of(tmp_path / "r.json")["panels"]) == 3


def test_comparing_ways(dome, tmp_path):
    result = call("compare", dome, "--ways", "relaxed,parametric,exact", "--report", tmp_path / "r.json")
    assert result.returncode == 0, result.stderr
    relaxed, parametric, exact = report_of(tmp_path / "r.json")["compared"]
    assert relaxed["blank"]["way"] == "relaxed" and parametric["blank"]["way"] == "parametric"
    assert sum(relaxed["histogram"]["share"]) == pytest.approx(100)
    assert "curves both ways" in exact["refusal"]
    assert "never cut material by it" in result.stdout


def test_the_neutral_layer_of_a_tube(step, tmp_path):
    given = call("develop", step("oblique_tube"), "--report", tmp_path / "a.json")
    neutral = call("develop", step("oblique_tube"), "--layer", "neutral", "--thickness", 2, "--material", "steel sheet",
                   "--report", tmp_path / "b.json")  # fmt: skip
    assert given.returncode == neutral.returncode == 0, neutral.stderr
    a, b = (report_of(tmp_path / f"{n}.json")["blank"]["area_blank"] for n in "ab")
    assert b < a and "neutral layer" in neutral.stdout


def test_materials_are_listed_with_their_sources():
    result = call("materials")
    assert result.returncode == 0 and "cast vinyl film" in result.stdout and "typical" in result.stdout


@pytest.mark.parametrize(
    ("arguments", "code"),
    [
        (["develop", "{dome}", "--cuts", "999"], 3),
        (["develop", "{dome}", "--cuts", "one"], 2),
        (["develop", "{dome}", "--tabs", "-4"], 2),
        (["develop", "{dome}", "--ratio", "0"], 2),
        (["develop", "{dome}", "--way", "exact", "--limit", "0.5"], 4),
        (["develop", "{dome}", "--straight", "999", "--way", "relaxed"], 3),
        (["develop", "{dome}", "--faces", "99"], 3),
        (["develop", "{dome}", "--limit", "nan"], 2),
        (["develop", "{dome}", "--limit", "-1"], 2),
        (["develop", "{dome}", "--under", "inf"], 2),
        (["develop", "{dome}", "--under", "0"], 2),
        (["develop", "{dome}", "--edge", "nan"], 2),
        (["develop", "{dome}", "--hold", "1e200,0,0"], 2),
        (["develop", "{dome}", "--along", "0,0,nan"], 2),
        (["develop", "{dome}", "--unit", "parsec"], 2),
        (["develop", "{dome}", "--crease", "0"], 2),
        (["develop", "{dome}", "--layer", "neutral", "--thickness", "nan"], 2),
        (["panels", "{dome}"], 3),
        (["panels", "{dome}", "--sections", "0"], 2),
        (["compare", "{dome}", "--ways", "magic"], 2),
    ],
)
def test_wrong_calls_end_in_one_sentence(dome, arguments, code):
    refused(call(*[a.format(dome=dome) for a in arguments], "--quiet"), code)


def test_a_blank_is_printed_on_pages(dome, tmp_path):
    result = call("develop", dome, "--pdf", tmp_path / "d.pdf", "--paper", "a3", "--shown", "compression")
    assert result.returncode == 0, result.stderr
    assert (tmp_path / "d.pdf").read_bytes().startswith(b"%PDF")
    assert call("develop", dome, "--pdf", tmp_path / "d.pdf", "--paper", "b9").returncode == 2


def fit(path, size):
    """How many outlines a cut file has, each of which must fit a sheet of that ``size``."""
    outlines = [c for c in read_dxf(path.read_bytes(), "a").contours if c.layer == "CUT" and c.area > 0]
    assert all(fits(outline.flattened(0.01), *size) for outline in outlines)
    return len(outlines)


@pytest.mark.parametrize(
    ("name", "faces", "size"),
    [("cone", (), (70, 50)), ("cone", ("--faces", "1", "--tabs", "4"), (90, 70)), ("tube", (), (90, 70))],
)
def test_single_faces_larger_than_the_sheet_are_divided(step, tmp_path, name, faces, size):
    made = call("develop", step(name), *faces, "--within", "{}x{}".format(*size), "--dxf", tmp_path / "a.dxf",
                "--report", tmp_path / "r.json", "--quiet")  # fmt: skip
    assert made.returncode == 0, made.stderr
    blank = json.loads((tmp_path / "r.json").read_text())["blank"]
    assert blank["area_form"] == pytest.approx(blank["area_blank"], rel=1e-9) or "--tabs" in faces
    assert fit(tmp_path / "a.dxf", size) == blank["pieces"] > 4


@pytest.mark.parametrize(("size", "pieces"), [("70x70", 10), ("70x45", 12)])
def test_a_box_is_parted_at_its_edges_and_only_faces_that_are_too_large_are_divided(step, tmp_path, size, pieces):
    made = call("develop", step("box"), "--within", size, "--straight", "1,5", "--cuts", "3", "--dxf",
                tmp_path / "a.dxf", "--report", tmp_path / "r.json", "--quiet")  # fmt: skip
    assert made.returncode == 0, made.stderr
    blank = json.loads((tmp_path / "r.json").read_text())["blank"]
    assert blank["area_blank"] == pytest.approx(2 * (100 * 60 + 100 * 40 + 60 * 40), rel=1e-9)
    assert fit(tmp_path / "a.dxf", [float(side) for side in size.split("x")]) == blank["pieces"] <= pieces


def test_a_rounded_mesh_larger_than_the_sheet_is_divided_until_its_pieces_fit(tmp_path):
    """Each part is relaxed by itself, so the material gives far less than in one sheet; nothing of that is said."""
    trimesh.creation.icosphere(2, 50).export(tmp_path / "ball.stl")
    made = call("develop", tmp_path / "ball.stl", "--unit", "mm", "--within", "90x60", "--edge", "6", "--dxf",
                tmp_path / "a.dxf", "--report", tmp_path / "r.json", "--quiet")  # fmt: skip
    assert made.returncode == 0, made.stderr
    found = json.loads((tmp_path / "r.json").read_text())
    blank = found["blank"]
    assert fit(tmp_path / "a.dxf", (90, 60)) == blank["pieces"] > 6
    assert -15 < blank["stretch_min"] <= 0 <= blank["stretch_max"] < 15
    assert blank["area_form"] == pytest.approx(trimesh.creation.icosphere(2, 50).area, rel=2e-3)
    assert found["messages"] == []
