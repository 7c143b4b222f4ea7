"""``sheet``: a block by numbers and a STEP file become sheet parts; what is written is read back."""

from __future__ import annotations

import json
import re

import ezdxf
import numpy as np
import pytest
import trimesh

from tests.sheet_parts import block, drawn_out, drill, joined, without
from zuschnitt.core.files.dxf import read_dxf
from zuschnitt.core.kernel.step_in import read_step
from zuschnitt.core.kernel.step_out import shape_bytes

from .test_commands import call, refused

TRAY = ("sheet", "--block", "200,120,40", "--hollow", "2", "--open", "auto", "--radius", "2", "--quiet")


@pytest.fixture(scope="module")
def files(tmp_path_factory):
    folder = tmp_path_factory.mktemp("sheet")
    bracket = without(drawn_out([40, 60, 40], [90, 90], 3.0, 2.0, 80.0), drill((20, 20, -10), (0, 0, 1), 5, 30))
    (folder / "bracket.step").write_bytes(shape_bytes(bracket, "bracket"))
    (folder / "cube.step").write_bytes(shape_bytes(block((0, 0, 0), (50, 50, 50)), "cube"))
    (folder / "bends.csv").write_text("material,thickness,radius,angle,allowance\nsteel,2,3,90,5.5\n")
    return folder


def report_of(path):
    return json.loads(path.read_text())["sheet"]


def test_a_block_is_written_flat_and_folded(tmp_path):
    out = {kind: tmp_path / f"tray.{kind}" for kind in ("json", "dxf", "svg", "pdf", "step", "stl")}
    flat = tmp_path / "flat.step"
    made = call(*TRAY, "--gap", "0.1", "--report", out["json"], "--dxf", out["dxf"], "--svg", out["svg"], "--pdf", out["pdf"],
                "--step", out["step"], "--mesh", out["stl"], "--step-flat", flat)  # fmt: skip
    assert made.returncode == 0, made.stderr
    about = report_of(out["json"])
    takes = np.pi / 2 * (2 + 0.44 * 2)
    assert about["flat_size"] == pytest.approx([280 - 16 + 2 * takes, 200 - 16 + 2 * takes], rel=1e-9)
    assert (about["walls"], len(about["bends"]), about["k_factor"]) == (5, 4, 0.44)
    for bend in about["bends"]:
        assert bend["allowance"] == pytest.approx(takes) and bend["direction"] == "down"
        assert np.linalg.norm(np.subtract(bend["from"], bend["to"])) == pytest.approx(bend["length"])
        assert bend["verdict"]["can_take_it"]
    assert [seam["length"] for seam in about["seams"]] == [40.0] * 4
    drawing = read_dxf(out["dxf"].read_bytes(), "tray.dxf")
    (outline,) = (contour for contour in drawing.contours if contour.layer == "CUT")
    assert abs(outline.area) == pytest.approx(about["flat_area"], rel=1e-9)
    lines = [contour for contour in drawing.contours if contour.layer == "BEND_DOWN"]
    assert [(line.bend.angle, line.bend.radius) for line in lines] == [(90.0, 2.0)] * 4
    assert [line.bend.allowance for line in lines] == pytest.approx([takes] * 4)
    assert not ezdxf.readfile(out["dxf"]).audit().has_errors
    assert out["svg"].read_text().count('data-radius="2"') == 4
    assert out["pdf"].read_bytes().startswith(b"%PDF")
    plain = tmp_path / "plain.pdf"
    assert call("sheet", "--block", "200,120,40", "--hollow", "2", "--off", "top,bottom,left,right,front", "--pdf", plain,
                "--quiet").returncode == 0  # fmt: skip
    pages = [len(re.findall(rb"/Type /Page\b", path.read_bytes())) for path in (out["pdf"], plain)]
    assert pages[0] > 1 and pages[1] >= 1
    folded, laid = read_step(out["step"]), read_step(flat)
    assert np.allclose(np.ptp(np.array(folded.bounds), axis=0), [200, 120, 40], atol=1e-4)
    assert sorted(np.ptp(np.array(laid.bounds), axis=0)) == pytest.approx([2, *sorted(about["flat_size"])], rel=1e-6)
    assert trimesh.load(out["stl"]).is_watertight


def test_what_is_written_folded_becomes_the_same_part(tmp_path):
    call(*TRAY, "--report", tmp_path / "a.json", "--step", tmp_path / "tray.step")
    made = call("sheet", tmp_path / "tray.step", "--report", tmp_path / "b.json", "--quiet")
    assert made.returncode == 0, made.stderr
    one, other = report_of(tmp_path / "a.json"), report_of(tmp_path / "b.json")
    assert other["flat_area"] == pytest.approx(one["flat_area"], rel=1e-9)
    assert other["volume"] == pytest.approx(one["volume"], rel=1e-9)
    assert sorted(other["flat_size"]) == pytest.approx(sorted(one["flat_size"]), rel=1e-9)


@pytest.mark.parametrize(
    "options, length",
    [
        ((), 140 + np.pi * (3 + 0.88)),
        (("--k", "0.3"), 140 + np.pi * (3 + 0.6)),
        (("--din6935",), 140 + np.pi * (3 + (0.65 + 0.5 * np.log10(1.5)) * 1)),
        (("--bend-table", "bends.csv"), 140 + 2 * 5.5),
        (("--other-side",), 140 + np.pi * (3 + 0.88)),
        (("--pick", "20,40,2"), 140 + np.pi * (3 + 0.88)),
        (("--rounds", "as-they-are"), 140 + np.pi * (3 + 0.88)),
        (("--rounds", "sharp", "--radius", "1"), 140 + 8 + np.pi * (1 + 0.88)),
        (("--flange", "top:20:90:2", "--without", "99"), None),
    ],
)
def test_a_part_from_elsewhere(options, length, files, tmp_path):
    words = [files / word if (files / word).is_file() else word for word in options]
    made = call("sheet", files / "bracket.step", *words, "--report", tmp_path / "r.json", "--quiet")
    if length is None:
        refused(made, 3)
        return
    assert made.returncode == 0, made.stderr
    about = report_of(tmp_path / "r.json")
    assert max(about["flat_size"]) == pytest.approx(length, rel=1e-9)
    assert about["thickness"] == pytest.approx(2.0)


@pytest.mark.parametrize(
    "arguments, code",
    [
        (("sheet",), 2),
        (("sheet", "bracket.step", "--block", "1,2,3", "--hollow", "1"), 2),
        (("sheet", "--block", "200,120,40"), 2),
        (("sheet", "--block", "200,120,nan", "--hollow", "2"), 2),
        (("sheet", "--block", "200,120,40", "--hollow", "-2"), 2),
        (("sheet", "--block", "200,120,40", "--hollow", "30"), 3),
        (("sheet", "--block", "200,120,40", "--hollow", "2"), 4),
        (("sheet", "--block", "200,120,40", "--hollow", "2", "--off", "lid"), 2),
        (("sheet", "--block", "200,120,40", "--hollow", "2", "--open", "99"), 3),
        ((*TRAY, "--radius", "60"), 4),
        ((*TRAY, "--corner-relief", "oval"), 2),
        ((*TRAY, "--flange", "top"), 2),
        ((*TRAY, "--flange", "top:3"), 4),
        ((*TRAY, "--flange", "99:20"), 3),
        ((*TRAY, "--step-bends", "500"), 2),
        ((*TRAY, "--k", "2"), 2),
        ((*TRAY, "--k", "0.4", "--din6935"), 2),
        (("sheet", "cube.step"), 4),
        (("sheet", "bracket.step", "--side", "99"), 3),
        (("sheet", "bracket.step", "--bend-table", "bracket.step"), 3),
        (("sheet", "bracket.step", "--bend-table", "bends.csv", "--rounds", "sharp", "--radius", "9"), 4),
        (("sheet", "bracket.step", "--step-bends", "7"), 4),
    ],
)
def test_what_cannot_be_ends_in_one_sentence(arguments, code, files):
    refused(call(*[files / word if (files / word).is_file() else word for word in arguments]), code)


def test_a_part_that_passes_through_itself_is_written_flat_only(tmp_path):
    bent = tmp_path / "bent.step"
    bent.write_bytes(shape_bytes(drawn_out([70, 60], [90], 3.0, 2.0, 80.0), "bent"))
    report, flat, folded = (tmp_path / name for name in ("a.json", "a.dxf", "a.step"))
    edges = [e for e in read_step(bent).edges if e.length > 79]
    top = max(edges, key=lambda e: (round(e.points(0.1)[:, 2].min(), 6), -e.number)).number
    through = ("sheet", bent, "--radius", "2", "--flange", f"{top}:40 > 75", "--quiet")
    call(*through, "--report", report, "--dxf", flat)
    assert flat.exists()
    reasons = [bend["verdict"]["reason"] for bend in report_of(report)["bends"] if not bend["verdict"]["can_take_it"]]
    assert any("wall 1 through wall 4" in reason for reason in reasons)
    assert "passes through itself" in refused(call(*through, "--step", folded), 4)
    assert not folded.exists()


def test_what_does_not_belong_is_written_as_a_solid_beside_it(tmp_path):
    bent, report, beside = (tmp_path / name for name in ("boss.step", "a.json", "b.step"))
    bent.write_bytes(
        shape_bytes(joined(drawn_out([70, 60], [90], 3.0, 2.0, 80.0), block((10, 10, 1), (20, 30, 11))), "boss")
    )
    call("sheet", bent, "--report", report, "--step-beside", beside, "--quiet")
    (about,) = json.loads(report.read_text())["left_beside"]
    assert about["volume"] == pytest.approx(6000) and about["of_faces"] == report_of(report)["left_out"]
    assert about["box"] == pytest.approx([10, 10, 2, 30, 40, 12])
    assert len(read_step(beside).faces) == 6
    plain = tmp_path / "plain.step"
    plain.write_bytes(shape_bytes(drawn_out([70, 60], [90], 3.0, 2.0, 80.0), "plain"))
    assert "Nothing is left beside" in refused(call("sheet", plain, "--step-beside", tmp_path / "c.step"), 4)
    assert not (tmp_path / "c.step").exists()
