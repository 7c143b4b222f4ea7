"""``prepare``: what is written for a machine is what the form needs, once the kerf is taken off."""

from __future__ import annotations

import pytest

from zuschnitt.core.job.job_file import save_job
from zuschnitt.core.job.route import Job

from .test_commands import call, refused
from .test_developing import report_of


@pytest.mark.parametrize("ending, more", [("dxf", ()), ("gcode", ("--bridges", 2)), ("svg", ("--tolerance", 0.001))])
def test_a_prepared_file_gives_the_part_back(step, tmp_path, ending, more):
    cone, plain = step("cone"), tmp_path / "plain.dxf"
    assert call("develop", cone, "--pick", "70,0,75", "--dxf", plain, "--quiet").returncode == 0
    path = tmp_path / f"cut.{'nc' if ending == 'gcode' else ending}"
    made = call(
        "prepare", plain, "--kerf", 0.4, "--lead", 4, f"--{ending}", path, "--report", tmp_path / "p.json", *more
    )
    assert made.returncode == 0, made.stderr
    about = report_of(tmp_path / "p.json")["prepared"]
    assert about["leads"] == (0 if "--bridges" in more else 2) and about["length_cut"] > 0
    held = []
    for back in ((), ("--compensated",)):
        options = ("--kerf", 0.4, "--form", cone, "--pick", "70,0,75", "--report", tmp_path / "r.json", "--quiet")
        made = call("check", path, *options, *back)
        assert made.returncode == 0, made.stderr
        held.append(report_of(tmp_path / "r.json")["held"])
    assert held[0]["deviation_max"] > 0.19 and held[1]["deviation_max"] < 0.005
    assert abs(held[1]["area_difference"]) < 0.5 < held[0]["area_difference"]


def test_what_cannot_be_prepared(step, tmp_path):
    (tmp_path / "marks.svg").write_text(
        '<svg xmlns="http://www.w3.org/2000/svg"><path class="MARK" d="M0,0 L9,9"/></svg>'
    )
    assert "nothing on the layer CUT" in refused(
        call("prepare", tmp_path / "marks.svg", "--dxf", tmp_path / "o.dxf"), 3
    )
    refused(call("prepare", tmp_path / "marks.svg", "--kerf", -1), 2)
    refused(call("prepare", tmp_path / "marks.svg", "--bridges", 2.5), 2)
    refused(call("prepare", tmp_path / "none.svg"), 3)
    assert not (tmp_path / "o.dxf").exists()


def test_a_job_writes_its_program(tmp_path):
    figures = [
        {"number": 1, "figure": "circle", "diameter": "20", "x": "30"},
        {"number": 2, "figure": "row", "of": "1", "count": "3", "pitch": "22"},
        {"number": 3, "figure": "text", "text": "AB", "height": "20", "x": "-40"},
    ]
    job = Job().added("lay_sheet").added("draw_figures", figures=figures).added("cut_file")
    save_job(tmp_path / "a.zuschnitt", job)
    assert "prepares" in refused(call("run", tmp_path / "a.zuschnitt", "--gcode", tmp_path / "a.nc"), 4)
    save_job(tmp_path / "b.zuschnitt", job.added("prepare_cut", lead="3"))
    made = call("run", tmp_path / "b.zuschnitt", "--gcode", tmp_path / "b.nc", "--dxf", tmp_path / "b.dxf")
    assert made.returncode == 0, made.stderr
    for name in ("b.nc", "b.dxf"):
        made = call("check", tmp_path / name, "--report", tmp_path / "r.json")
        assert made.returncode == 0, made.stdout + made.stderr
        assert report_of(tmp_path / "r.json")["laser"]["pierces"] == 4
