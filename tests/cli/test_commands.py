"""The command line as scripts call it: real processes, reports, exit codes."""

from __future__ import annotations

import contextlib
import json
import os
import resource
import signal
import subprocess
import sys
import time
from pathlib import Path

import ezdxf
import numpy as np
import pytest

from zuschnitt.core.job.job_file import save_job
from zuschnitt.demo.job import HERE, cyclone_and_lid, demo_job

from .warm import called

LIMIT = 240.0
"""Seconds that a call may take."""


def call(*arguments, **more) -> subprocess.CompletedProcess:
    """Runs zuschnitt with arguments, without any display, forked from a process that has imported what it needs.

    With anything ``more`` that ``subprocess.run`` takes, it starts from nothing.
    """
    environment = {k: v for k, v in os.environ.items() if k not in ("DISPLAY", "WAYLAND_DISPLAY", "QT_QPA_PLATFORM")}
    environment["PYTHONPATH"] = str(Path(__file__).parents[2])
    if not more:
        return called([*map(str, arguments)], environment, LIMIT)
    return subprocess.run(
        [sys.executable, "-m", "zuschnitt", *map(str, arguments)],
        capture_output=True, text=True, timeout=LIMIT, check=False, **{"env": environment, **more},
    )  # fmt: skip


def refused(result: subprocess.CompletedProcess, code: int) -> str:
    """The sentence of a call that ended with ``code``; no traceback, one sentence last."""
    assert result.returncode == code, result.stderr
    assert "Traceback" not in result.stderr
    last = result.stderr.strip().splitlines()[-1]
    assert last.endswith(".") and len(last) > 25
    return last


@pytest.fixture
def line(tmp_path):
    """Artwork: a line of 200 mm from the origin, to be turned."""
    path = tmp_path / "line.svg"
    path.write_text(
        '<svg xmlns="http://www.w3.org/2000/svg" width="300mm" height="10mm" viewBox="0 0 300 10"><path d="M0 0 H200"/></svg>'
    )
    return path


def test_faces(step, tmp_path):
    result = call("faces", step("cone"), "--report", tmp_path / "r.json")
    assert result.returncode == 0 and "cone" in result.stdout
    report = json.loads((tmp_path / "r.json").read_text())
    assert report["schema"] == 1 and report["command"] == "faces" and len(report["input"]["sha256"]) == 64
    cone = next(face for face in report["faces"] if face["kind"] == "cone")
    assert cone["area"] == pytest.approx(np.pi * 140 * np.hypot(60, 150), rel=1e-9)
    assert cone["developable"] and cone["radius"] == 100 and len(cone["neighbours"]) == 2


def test_develop_writes_all_it_is_asked_for(step, tmp_path):
    out = {kind: tmp_path / f"o.{kind}" for kind in ("json", "dxf", "svg", "step", "stl")}
    result = call("develop", step("cone"), "--pick", "70,0,75", "--report", out["json"], "--dxf", out["dxf"],
                  "--svg", out["svg"], "--step", out["step"], "--mesh", out["stl"], "--quiet")  # fmt: skip
    assert result.returncode == 0, result.stderr
    blank = json.loads(out["json"].read_text())["blank"]
    slant = np.hypot(60, 150)
    assert blank["way"] == "exact" and blank["pieces"] == 1 and blank["flipped"] == 0
    assert blank["area_blank"] == pytest.approx(np.pi * 140 * slant, rel=1e-9)
    assert blank["outline_length"] == pytest.approx(2 * np.pi * 140 + 2 * slant, rel=1e-9)
    assert blank["round_trip_max"] < 1e-9 and blank["stretch_max"] == 0 and "triangles" not in blank
    assert not ezdxf.readfile(out["dxf"]).audit().has_errors
    assert out["svg"].read_text().startswith("<?xml") and out["step"].read_text().startswith("ISO-10303-21")
    triangles = int.from_bytes(out["stl"].read_bytes()[80:84], "little")
    assert out["stl"].stat().st_size == 84 + 50 * triangles
    assert sorted(p.name for p in tmp_path.iterdir() if p.name != "state") == sorted(p.name for p in out.values())


def test_develop_needs_no_qt(step):
    code = (
        "import sys; from zuschnitt.cli.main import main; "
        f"code = main(['develop', {str(step('bend'))!r}, '--quiet']); "
        "assert not any(m.startswith('PyQt') for m in sys.modules), 'Qt was imported'; sys.exit(code)"
    )
    result = subprocess.run(
        [sys.executable, "-c", code],
        check=False,
        capture_output=True,
        text=True,
        env={**os.environ, "PYTHONPATH": str(Path(__file__).parents[2])},
    )
    assert result.returncode == 0, result.stderr


def test_picks_chains_and_ways(step, tmp_path):
    report = tmp_path / "r.json"
    assert call("develop", step("bend"), "--pick", "10,45,0", "--tangent", "--report", report).returncode == 0
    blank = json.loads(report.read_text())["blank"]
    assert blank["faces"] == [1, 2, 3] and blank["pieces"] == 1
    assert (
        call(
            "develop", step("bend"), "--faces", "1,2", "--way", "relaxed", "--edge", "4", "--report", report
        ).returncode
        == 0
    )
    blank = json.loads(report.read_text())["blank"]
    assert blank["faces"] == [1, 2] and blank["way"] == "relaxed" and blank["triangles"] > 500


def test_wrap_makes_a_helix(step, line, tmp_path):
    report = tmp_path / "r.json"
    result = call("wrap", step("tube"), line, "--pick", "0,50,60", "--hold", "50,0,0", "--along", "0,1,0",
                  "--scale", "1.5", "--turn", "20", "--at", "3,4", "--report", report, "--step", tmp_path / "o.step")  # fmt: skip
    assert result.returncode == 0, result.stderr
    (curve,) = json.loads(report.read_text())["curves"]
    form, blank = np.array(curve["form"]), np.array(curve["blank"])
    a = np.radians(20)
    s = np.linalg.norm(blank - [3, 4], axis=1)
    x, y = 3 + s * np.cos(a), 4 + s * np.sin(a)
    assert np.abs(blank - np.stack([x, y], 1)).max() < 1e-9
    assert np.abs(form - np.stack([50 * np.cos(x / 50), 50 * np.sin(x / 50), y], 1)).max() < 1e-6
    assert curve["layer"] == "MARK" and not curve["closed"] and curve["length_form"] == pytest.approx(300, rel=1e-6)
    assert "B_SPLINE_CURVE" in (tmp_path / "o.step").read_text()


def test_wrap_lays_artwork_where_there_is_room(step, line, tmp_path):
    """A line of 200 mm on the developed tube, 314 mm wide and 120 high: in its middle, whole or smaller."""
    report = tmp_path / "r.json"
    for turn, length, said in ((0, 200, []), (90, 108, ["54 %"])):
        result = call(
            "wrap", step("tube"), line, "--faces", "1", "--at", "free", "--turn", str(turn), "--report", report
        )
        assert result.returncode == 0, result.stderr
        content = json.loads(report.read_text())
        (curve,) = content["curves"]
        assert curve["inside"] and curve["length_form"] == pytest.approx(length, rel=1e-4)
        middle = np.array(curve["blank"]).mean(axis=0)
        x0, y0, x1, y1 = content["blank"]["bounds"]
        assert middle == pytest.approx([(x0 + x1) / 2, (y0 + y1) / 2], abs=0.5)
        assert all(any(word in message["text"] for message in content["messages"]) for word in said)
    assert call("wrap", step("tube"), step("bend"), "--faces", "1", "--at", "free").returncode == 2


def test_wrap_says_what_is_outside(step, line, tmp_path):
    report = tmp_path / "r.json"
    call(
        "wrap",
        step("tube"),
        line,
        "--faces",
        "1",
        "--hold",
        "50,0,0",
        "--along",
        "0,1,0",
        "--at",
        "250,-100",
        "--report",
        report,
    )
    content = json.loads(report.read_text())
    assert "outside the blank" in content["messages"][0]["text"] and content["curves"][0]["inside"] is False


def test_trace_goes_the_other_way(step, tmp_path):
    angle = np.linspace(0.1, 3, 50)
    curve = np.stack([50 * np.cos(angle), 50 * np.sin(angle), 20 + 9 * angle], 1)
    (tmp_path / "c.json").write_text(json.dumps({"curves": [curve.tolist()]}))
    result = call("trace", step("tube"), tmp_path / "c.json", "--faces", "1", "--hold", "50,0,0", "--along", "0,1,0",
                  "--report", tmp_path / "r.json", "--dxf", tmp_path / "o.dxf")  # fmt: skip
    assert result.returncode == 0, result.stderr
    (traced,) = json.loads((tmp_path / "r.json").read_text())["curves"]
    assert np.abs(np.array(traced["blank"]) - np.stack([50 * angle, 20 + 9 * angle], 1)).max() < 1e-6
    assert len(ezdxf.readfile(tmp_path / "o.dxf").modelspace().query('LWPOLYLINE[layer=="MARK"]')) == 1


def test_run_with_values_set(tmp_path):
    job = tmp_path / "demo.zuschnitt"
    save_job(job, cyclone_and_lid())
    result = call("run", job, "--set", "rim=300", "--set", "10.cone=400", "--set", "30.turn=12", "--report", tmp_path / "r.json",
                  "--dxf", tmp_path / "o.dxf", "--step", tmp_path / "o.step", "--mesh", tmp_path / "o.stl")  # fmt: skip
    assert result.returncode == 0, result.stderr
    rows = json.loads((tmp_path / "r.json").read_text())["rows"]
    assert [row["row"] for row in rows] == list(range(10, 101, 10))
    slant = np.hypot(150 - 45, 400)
    assert rows[1]["blank"]["area_blank"] == pytest.approx(np.pi * 195 * slant, rel=1e-9)
    result = call("run", job, "--row", "50", "--svg", tmp_path / "cone.svg")
    assert result.returncode == 0 and "BEND" not in (tmp_path / "cone.svg").read_text()


@pytest.mark.parametrize("arguments", [
    [], ["develop"], ["develop", "a.step", "--fold"], ["develop", "a.step", "--way", "melted"], ["develop", "a.step", "--hold", "1,2"],
    ["develop", "a.step", "--edge", "wide"], ["wrap", "a.step"], ["--shot", "cone"]])  # fmt: skip
def test_wrong_calls(arguments):
    if not arguments:
        assert "no display" in refused(call(), 4)
    else:
        assert "see zuschnitt" in refused(call(*arguments), 2)


BAD_FORMS = {
    "empty": (b"", 3, "is empty"),
    "text": (b"This is my part.\n" * 9, 3, "not a STEP file"),
    "cut in half": (None, 3, "cut short"),
    "damaged": (
        b"ISO-10303-21;\nHEADER;\nENDSEC;\nDATA;\n#1=(((;\nENDSEC;\nEND-ISO-10303-21;\n",
        3,
        "no faces|damaged",
    ),
    "no entities": (b"ISO-10303-21;\nHEADER;\nENDSEC;\nDATA;\nENDSEC;\nEND-ISO-10303-21;\n", 3, "no faces|damaged"),
}


@pytest.mark.parametrize("case", BAD_FORMS)
def test_bad_forms_are_refused(step, tmp_path, case):
    content, code, why = BAD_FORMS[case]
    if content is None:
        whole = step("rounded").read_bytes()
        content = whole[: len(whole) // 2]
    path = tmp_path / "bad.step"
    path.write_bytes(content)
    import re

    sentence = refused(call("develop", path, "--dxf", tmp_path / "o.dxf", "--report", tmp_path / "r.json"), code)
    assert re.search(why, sentence), sentence
    assert not (tmp_path / "o.dxf").exists() and not (tmp_path / "r.json").exists()


def test_a_form_with_curves_only(step):
    assert "holds no faces" in refused(call("develop", step("curve")), 3)


def test_a_face_without_area(tmp_path):
    """A triangle drawn out to a line, and one that is not there at all."""
    from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeFace, BRepBuilderAPI_MakePolygon
    from OCP.gp import gp_Pln, gp_Pnt
    from OCP.STEPControl import STEPControl_AsIs, STEPControl_Writer

    thin = BRepBuilderAPI_MakePolygon(gp_Pnt(0, 0, 0), gp_Pnt(100, 0, 0), gp_Pnt(50, 1e-6, 0), True).Wire()
    writer = STEPControl_Writer()
    writer.Transfer(BRepBuilderAPI_MakeFace(gp_Pln(), thin).Face(), STEPControl_AsIs)
    writer.Write(str(tmp_path / "thin.step"))
    assert "no area" in refused(call("develop", tmp_path / "thin.step"), 3)


@pytest.mark.parametrize("arguments, code, why", [
    (["--faces", "99"], 3, "faces 1 to"), (["--faces", "round"], 2, "no list of numbers"), (["--pick", "nan,0,0"], 2, "not finite"),
    (["--hold", "0,inf,0"], 2, "not finite"), (["--edge", "-1", "--way", "relaxed"], 2, "above 0"), (["--way", "exact"], 4, "relaxed"), (["--edge", "1e-300", "--way", "relaxed"], 4, "far too many")])  # fmt: skip
def test_calls_that_cannot_be_done(step, arguments, code, why):
    assert why in refused(call("develop", step("quarter_dome"), *arguments), code)


def test_a_missing_file_and_a_missing_folder(step, tmp_path):
    assert "cannot be read" in refused(call("develop", tmp_path / "no.step"), 3)
    assert "cannot be written" in refused(call("develop", step("bend"), "--dxf", tmp_path / "no" / "o.dxf"), 3)
    assert list(tmp_path.iterdir()) in ([], [tmp_path / "state"])


def test_bad_artwork_writes_nothing(step, tmp_path):
    (tmp_path / "a.svg").write_text("not a drawing")
    assert "not well-formed" in refused(call("wrap", step("tube"), tmp_path / "a.svg", "--dxf", tmp_path / "o.dxf"), 3)
    assert "finite" in refused(call("wrap", step("tube"), HERE / "amsel.svg", "--scale", "nan"), 2)
    assert not (tmp_path / "o.dxf").exists()


def test_a_file_size_limit_leaves_nothing_half_written(step, tmp_path):
    """A real limit of the system, as a full disk would be."""

    def limit():
        signal.signal(signal.SIGXFSZ, signal.SIG_IGN)
        resource.setrlimit(resource.RLIMIT_FSIZE, (300, 300))

    for option, name in (("--mesh", "o.stl"), ("--dxf", "o.dxf"), ("--report", "o.json")):
        result = call("develop", step("cone"), option, tmp_path / name, preexec_fn=limit)
        assert "cannot be written" in refused(result, 3) or "could not be written" in result.stderr
    assert not [p for p in tmp_path.iterdir() if p.name != "state"]


def test_stopping_by_the_keyboard(step, tmp_path):
    process = subprocess.Popen(
        [sys.executable, "-m", "zuschnitt", "develop", str(step("quarter_dome")), "--pick", "29,29,29", "--edge", "0.2", "--dxf", str(tmp_path / "o.dxf")],
        stderr=subprocess.PIPE, text=True, env={**os.environ, "PYTHONPATH": str(Path(__file__).parents[2])},
    )  # fmt: skip
    time.sleep(4)
    process.send_signal(signal.SIGINT)
    _, said = process.communicate(timeout=200)
    assert process.returncode == 130 and "Stopped" in said.splitlines()[-1]
    assert not (tmp_path / "o.dxf").exists()


def test_headless_demo(tmp_path):
    result = call("--headless", tmp_path / "out")
    assert result.returncode == 0, result.stderr
    names = {path.name for path in (tmp_path / "out").iterdir()}
    assert {
        "job.zuschnitt",
        "report.json",
        "50-cut_file.dxf",
        "100-cut_file.svg",
        "40-wrap.step",
        "cone.png",
        "lid.png",
    } <= names
    assert (tmp_path / "out" / "cone.png").read_bytes().startswith(b"\x89PNG")
    rows = json.loads((tmp_path / "out" / "report.json").read_text())["rows"]
    assert len(rows) == len(demo_job().rows) and {row["status"] for row in rows} == {"done"}


def test_a_shot_of_an_unknown_view_is_refused(tmp_path):
    assert "views are" in refused(call("--demo", "--shot", "moon", tmp_path / "a.png"), 2)


def turned_into_an_error():
    """As the kernel's binding does where Ctrl-C hits it."""
    try:
        signal.raise_signal(signal.SIGINT)
    except KeyboardInterrupt as error:
        raise SystemError("a compiled function returned a result with an exception set") from error


def swallowed():
    """As callbacks do, from which nothing can be raised; then the call goes on for longer than anyone waits."""
    with contextlib.suppress(KeyboardInterrupt):
        signal.raise_signal(signal.SIGINT)
    time.sleep(20)


@pytest.mark.parametrize("broken", [turned_into_an_error, swallowed])
def test_an_interruption_that_does_not_come_through_is_still_one(broken, monkeypatch, capsys):
    import zuschnitt.cli.main as entry

    before = signal.getsignal(signal.SIGINT), sys.unraisablehook
    monkeypatch.setattr(entry, "_command", lambda arguments: broken())
    try:
        assert entry.main(["faces", "x.step"]) == 130
    finally:
        signal.signal(signal.SIGINT, before[0])
        sys.unraisablehook = before[1]
        entry._interrupted.clear()
    assert "Stopped" in capsys.readouterr().err
