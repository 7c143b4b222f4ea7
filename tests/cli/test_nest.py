"""``nest``: parts of cut files on sheets, held to gap, margin, grain and counts by what is written."""

from __future__ import annotations

import json
from collections import Counter

import ezdxf
import numpy as np
import pytest
import shapely

from zuschnitt.core.files.dxf import read_dxf
from zuschnitt.core.job.evaluate import run_all
from zuschnitt.core.job.job_file import load_job

from .test_commands import call, refused


def part(path, points, holes=(), bulge=0.0):
    document = ezdxf.new("R2010")
    document.units = ezdxf.units.MM
    space = document.modelspace()
    about = {"layer": "CUT"}
    space.add_lwpolyline([(x, y, bulge) for x, y in points], format="xyb", close=True, dxfattribs=about)
    for x, y, radius in holes:
        space.add_circle((x, y), radius, dxfattribs=about)
    space.add_line(points[0], points[1], dxfattribs={"layer": "MARK"})
    document.saveas(path)
    return path


@pytest.fixture(scope="module")
def files(tmp_path_factory):
    folder = tmp_path_factory.mktemp("nest")
    part(folder / "ell.dxf", [(0, 0), (90, 0), (90, 30), (30, 30), (30, 70), (0, 70)])
    part(folder / "strip.dxf", [(10, 10), (130, 10), (130, 22), (10, 22)])
    part(folder / "ring.dxf", [(0, 0), (120, 0), (120, 120), (0, 120)], holes=[(60, 60, 50)])
    part(folder / "disc.dxf", [(0, 0), (40, 0)], bulge=1.0)
    return folder


def nest(files, tmp_path, *words):
    made = call("nest", *words, "--report", tmp_path / "r.json", "--dxf", tmp_path / "n.dxf", "--seconds", "3",
                "--quiet", cwd=files)  # fmt: skip
    return made, json.loads((tmp_path / "r.json").read_text())["nesting"] if (tmp_path / "r.json").exists() else None


def shapes_of(path):
    """The outlines that are cut on a sheet, those within others apart."""
    cut = [c for c in read_dxf(path.read_bytes(), "n.dxf").contours if c.layer == "CUT"]
    return [shapely.Polygon(c.flattened(0.005)) for c in cut]


def test_parts_keep_their_gap_and_the_margin(files, tmp_path):
    made, nesting = nest(files, tmp_path, "ell.dxf:9", "strip.dxf:4", "disc.dxf:5", "--sheet", "400x300",
                         "--gap", "4", "--margin", "6")  # fmt: skip
    assert made.returncode == 0, made.stderr
    names = Counter(p["name"] for sheet in nesting["sheets"] for p in sheet["parts"])
    assert names == {"ell": 9, "strip": 4, "disc": 5} and nesting["left_over"] == []
    total = 0.0
    for sheet in nesting["sheets"]:
        shapes = shapes_of(tmp_path / sheet["file"].rpartition("/")[2])
        assert len(shapes) == len(sheet["parts"])
        for k, shape in enumerate(shapes):
            x0, y0, x1, y1 = shape.bounds
            assert min(x0, y0) > 6 - 1e-3 and x1 < 394 + 1e-3 and y1 < 294 + 1e-3
            assert all(shape.distance(other) > 4 - 1e-3 for other in shapes[:k])
        area = sum(shape.area for shape in shapes)
        assert sheet["yield"] == pytest.approx(100 * area / 120_000, rel=1e-3)
        total += area
    assert nesting["yield"] == pytest.approx(100 * total / 120_000 / len(nesting["sheets"]), rel=1e-3)


def test_more_sheets_come_when_one_is_full(files, tmp_path):
    made, nesting = nest(files, tmp_path, "ring.dxf", "--count", "5", "--sheet", "130x130", "260x130", "--gap", "2")
    assert made.returncode == 0, made.stderr
    assert [sheet["size"] for sheet in nesting["sheets"]] == [[130, 130], [260, 130], [260, 130]]
    assert [len(sheet["parts"]) for sheet in nesting["sheets"]] == [1, 2, 2]


def test_small_parts_lie_in_the_holes_of_large_ones(files, tmp_path):
    made, nesting = nest(files, tmp_path, "ring.dxf", "disc.dxf:2", "--sheet", "130x130", "--gap", "2")
    assert made.returncode == 0, made.stderr
    (sheet,) = nesting["sheets"]
    assert len(sheet["parts"]) == 3
    shapes = shapes_of(tmp_path / "n-1.dxf")
    hole = next(s for s in shapes if abs(s.area - np.pi * 2500) < 5)
    discs = [s for s in shapes if abs(s.area - np.pi * 400) < 5]
    assert len(discs) == 2 and all(hole.contains(d) and hole.exterior.distance(d) > 2 - 1e-3 for d in discs)
    assert call("check", tmp_path / "n-1.dxf", "--quiet").returncode == 0  # holes and what is in them come first


@pytest.mark.parametrize("grain, turns", [("along", {0, 180}), ("across", {90, 270})])
def test_the_grain_is_kept(files, tmp_path, grain, turns):
    made, nesting = nest(files, tmp_path, "strip.dxf:6", "--sheet", "300x200", "--grain", grain)
    assert made.returncode == 0, made.stderr
    assert {round(p["turn"]) % 360 for sheet in nesting["sheets"] for p in sheet["parts"]} <= turns


def test_what_fits_on_no_sheet_is_left_over_and_said(files, tmp_path):
    made, nesting = nest(files, tmp_path, "strip.dxf", "disc.dxf", "--sheet", "100x100", "--grain", "along")
    assert "strip" in refused(made, 4)
    assert nesting["left_over"] == ["strip"] and [p["name"] for p in nesting["sheets"][0]["parts"]] == ["disc"]


@pytest.mark.parametrize(
    "words, code",
    [(("ell.dxf",), 2), (("ell.dxf", "--sheet", "0x9"), 2), (("nowhere.dxf", "--sheet", "99x99"), 3),
     (("ell.dxf:0", "--sheet", "99x99"), 2), (("ell.dxf", "--sheet", "99x99", "--margin", "60"), 3),
     (("ell.dxf", "--sheet", "99x99", "--gap", "-1"), 2)],
)  # fmt: skip
def test_calls_that_cannot_be_done(files, tmp_path, words, code):
    refused(nest(files, tmp_path, *words)[0], code)


def test_the_call_is_a_job_of_drawings_and_a_nest(files, tmp_path):
    made, _ = nest(files, tmp_path, "ell.dxf:2", "disc.dxf", "--sheet", "400x300", "--gap", "3", "--margin", "6",
                   "--seconds", "1", "--as-job", str(tmp_path / "n.zuschnitt"))  # fmt: skip
    assert made.returncode == 0, made.stderr
    job = load_job(tmp_path / "n.zuschnitt")
    assert [(row.operation, row.title) for row in job.rows] == [
        ("bring_in_drawing", "ell"), ("bring_in_drawing", "disc"), ("nest_parts", "")]  # fmt: skip
    again = run_all(job)[job.rows[-1].id].outcome.results[0]
    assert again.pieces() == {"ell": 2, "disc": 1} and not again.value.wrong


def test_a_sheet_is_never_written_over_a_drawing_that_is_read(files, tmp_path):
    read = tmp_path / "n-1.dxf"
    read.write_bytes((files / "ell.dxf").read_bytes())
    before = read.read_bytes()
    made = call("nest", read, "--sheet", "400x300", "--seconds", "1", "--dxf", tmp_path / "n.dxf", "--quiet")
    assert "is read by this call" in refused(made, 2) and read.read_bytes() == before
