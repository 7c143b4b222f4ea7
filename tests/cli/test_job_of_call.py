"""A command and a job give the same result for the same request."""

from __future__ import annotations

import hashlib
import json
import zipfile

import numpy as np
import pytest
import trimesh

from ..parts import write
from .test_commands import call, refused

PARTS = ("blank", "curves", "panels", "compared", "thinned", "distance", "ribs", "assembly", "sheet", "laser", "press")
"""Parts of a report that both have."""


@pytest.fixture(scope="module")
def files(tmp_path_factory):
    """A cone, a dome, artwork, curves for each command."""
    folder = tmp_path_factory.mktemp("calls")
    write(folder / "cone.step", "cone")
    ball = trimesh.creation.icosphere(3, 50)
    ball.update_faces(ball.triangles_center[:, 2] > 30)
    ball.export(folder / "dome.stl")
    (folder / "art.svg").write_text(
        '<svg xmlns="http://www.w3.org/2000/svg" width="20mm" height="20mm" viewBox="0 0 20 20">'
        '<path d="M2,2 L18,4 L9,17 Z"/><circle cx="9" cy="8" r="4"/></svg>'
    )
    (folder / "angle.svg").write_text(
        '<svg xmlns="http://www.w3.org/2000/svg" width="124mm" height="84mm" viewBox="-2 -2 124 84">'
        '<g class="CUT"><path d="M0,0 H120 V80 H0 Z"/></g>'
        '<g class="BEND_UP"><path data-angle="90" data-radius="2" data-allowance="4.5" d="M30,0 V80"/></g></svg>'
    )
    turn = np.linspace(0, 2 * np.pi, 61)
    rings = [[[r * np.cos(t), r * np.sin(t), z] for t in turn] for r, z in ((40, 0), (40, 60), (25, 90))]
    (folder / "rings.json").write_text(json.dumps({"curves": rings}))
    (folder / "line.json").write_text(json.dumps({"curves": [[[80, 0, 0], [72, 0, 40], [64, 0, 80]]]}))
    (folder / "cut.json").write_text(json.dumps({"curves": [[[41, 0, 28.6], [35, 0, 35.7], [24, 0, 43.9]]]}))
    return folder


CALLS = {
    "develop": ("cone.step", "--faces", "1", "--hold", "80,0,0", "--seam", "opposite", "--tabs", "4", "--numbers"),
    "develop, relaxed": ("dome.stl", "--way", "relaxed", "--edge", "6", "--keep", "areas", "--ratio", "2"),
    "develop, under a stretch": ("dome.stl", "--way", "relaxed", "--edge", "12", "--under", "4"),
    "develop, with reliefs": ("dome.stl", "--way", "relaxed", "--edge", "6", "--reliefs", "cut.json"),
    "wrap": ("cone.step", "art.svg", "--faces", "1", "--scale", "2", "--turn", "15", "--at=30,-40"),
    "trace": ("cone.step", "line.json", "--faces", "1"),
    "panels": ("rings.json",),
    "panels, of a form": ("cone.step", "--sections", "2"),
    "wrap, stretched to fit": ("cone.step", "art.svg", "--faces", "1", "--fit", "both", "--scale", "0.8"),
    "draw": ("cone.step", "--faces", "1", "--through", "64,0,90; 0,56,110; -48,0,130"),
    "thin": ("art.svg", "--tolerance", "0.1"),
    "ribs": ("cone.step", "--x", "40", "--y", "40", "--thickness", "3", "--fit", "0.1"),
    "sheet": (
        "--block",
        "90,60,20",
        "--hollow",
        "1",
        "--open",
        "auto",
        "--flange",
        "top:6",
        "--corner-relief",
        "round:3",
    ),
    "compare-curves": ("cone.step", "dome.stl"),
    "compare": ("dome.stl", "--ways", "relaxed,parametric"),
    "check": ("angle.svg", "--kerf", "0.3", "--feed", "2500"),
    "press": ("angle.svg",),
}


def timeless(part):
    """A part of a report without how long it took."""
    if isinstance(part, list):
        return [timeless(each) for each in part]
    if isinstance(part, dict):
        return {key: timeless(value) for key, value in part.items() if key != "seconds"}
    return part


@pytest.mark.parametrize("name", CALLS)
def test_a_call_written_as_a_job_gives_the_same(name, files, tmp_path):
    arguments = [files / word if (files / word).is_file() else word for word in CALLS[name]]
    made = call(name.split(",")[0], *arguments, "--report", tmp_path / "a.json", "--as-job", tmp_path / "a.zuschnitt")
    assert made.returncode == 0, made.stderr
    again = call("run", tmp_path / "a.zuschnitt", "--report", tmp_path / "b.json")
    assert again.returncode == 0, again.stderr
    one, other = (json.loads((tmp_path / f"{n}.json").read_text()) for n in "ab")
    there = [part for part in PARTS if part in one]
    assert there
    for part in there:
        assert timeless(one[part]) == timeless(other[part])
    assert one["messages"] == other["messages"]


def test_a_job_written_by_hand_gives_what_the_call_gives(files, tmp_path):
    rows = [
        {"id": "f", "number": 10, "operation": "bring_in", "parameters": {"file": "cone.step"}},
        {"id": "d", "number": 20, "operation": "develop",
         "parameters": {"form": "f", "faces": "1", "hold": "80, 0, 0", "seam": "opposite", "tab": "4"}},
        {"id": "a", "number": 30, "operation": "place_artwork",
         "parameters": {"file": "art.svg", "blank": "d", "x": "30", "y": "-40", "turn": "15", "scale": "2"}},
        {"id": "w", "number": 40, "operation": "wrap", "parameters": {"artwork": "a"}},
    ]  # fmt: skip
    sums = {name: hashlib.sha256((files / name).read_bytes()).hexdigest() for name in ("cone.step", "art.svg")}
    with zipfile.ZipFile(tmp_path / "hand.zuschnitt", "w") as job:
        job.writestr("job.json", json.dumps({"schema": 1, "material": "", "rows": rows, "assets": sums}))
        for name in sums:
            job.write(files / name, f"assets/{name}")
    options = ("--faces", "1", "--hold", "80,0,0", "--seam", "opposite", "--tabs", "4", "--scale", "2", "--turn", "15")
    parts = (files / "cone.step", files / "art.svg")
    by_call = call("wrap", *parts, *options, "--at=30,-40", "--report", tmp_path / "a.json")
    by_hand = call("run", tmp_path / "hand.zuschnitt", "--report", tmp_path / "b.json")
    assert by_call.returncode == by_hand.returncode == 0, by_call.stderr + by_hand.stderr
    one, other = (json.loads((tmp_path / f"{n}.json").read_text()) for n in "ab")
    assert one["curves"] == other["curves"]
    assert timeless(one["blank"]) == timeless(other["blank"])


@pytest.mark.parametrize(("arguments", "code"), [
    (("draw", "cone.step", "--through", "nan,0,0; 1,2,3"), 2), (("draw", "cone.step", "--through", "64,0,90"), 3),
    (("draw", "cone.step", "--through", "900,0,0; 64,0,90"), 3), (("develop", "cone.step", "--folded", "2"), 2),
    (("thin", "art.svg", "--tolerance", "0"), 2), (("thin", "art.svg", "--tolerance", "1", "--smallest", "900"), 3),
    (("ribs", "cone.step", "--y", "20", "--thickness", "3"), 2),
    (("ribs", "cone.step", "--x", "20", "--y", "20", "--thickness", "3", "--and", "1,0,0"), 3),
    (("compare-curves", "cone.step", "nowhere.json"), 3), (("wrap", "cone.step", "art.svg", "--fit", "sideways"), 2)])  # fmt: skip
def test_calls_that_cannot_be_done_end_in_one_sentence(arguments, code, files):
    refused(call(*[files / word if (files / word).is_file() else word for word in arguments], "--quiet"), code)


def test_the_demo_job_is_written_without_a_window(tmp_path):
    made = call("--demo", "--save", tmp_path / "demo.zuschnitt")
    assert made.returncode == 0, made.stderr
    from zuschnitt.core.job.job_file import load_job
    from zuschnitt.demo.job import demo_job

    assert load_job(tmp_path / "demo.zuschnitt").rows == demo_job().rows
    refused = call("--demo", "--save", tmp_path / "no" / "demo.zuschnitt")
    assert refused.returncode == 3 and "Traceback" not in refused.stderr
