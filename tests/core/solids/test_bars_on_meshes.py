"""Bars along lines on a mesh: as those on the true surface, but of triangles."""

from __future__ import annotations

import io

import ezdxf
import pytest

from zuschnitt.core.files.stl import stl_bytes
from zuschnitt.core.job.evaluate import run_all
from zuschnitt.core.job.route import Asset, Job
from zuschnitt.core.kernel.step_in import read_step_bytes

LINES = {
    "a helix": lambda space: space.add_line((40, 20), (160, 80)),
    "a ring": lambda space: space.add_circle((150, 60), 25),
    "a corner": lambda space: space.add_lwpolyline([(100, 20), (150, 90), (200, 30)]),
}


def drawn(name: str) -> bytes:
    drawing, text = ezdxf.new(units=4), io.StringIO()
    LINES[name](drawing.modelspace())
    drawing.write(text)
    return text.getvalue().encode()


@pytest.fixture
def swept(step):
    """The state of a row that sweeps a line on a tube of radius 50, as STEP or as STL."""
    whole = step("tube").read_bytes()
    files = {"tube.step": whole, "tube.stl": stl_bytes(read_step_bytes(whole, "tube"))}

    def made(file: str, line: str, **values):
        job = Job().with_asset(Asset(file, files[file])).with_asset(Asset("line.dxf", drawn(line)))
        job = job.added("bring_in", file=file, unit="mm").added("develop", faces="1")
        job = job.added("place_artwork", file="line.dxf", x="0", y="0").added("sweep", **values)
        return list(run_all(job).values())[-1]

    return made


BARS = {"square, hollow": {"bar": "square", "size": "8", "wall": "1"}, "round": {"bar": "round", "size": "6"}}


@pytest.mark.parametrize("line", LINES)
@pytest.mark.parametrize("bar", BARS)
def test_they_are_those_of_the_true_surface(swept, line, bar):
    exact, mesh = (swept(file, line, **BARS[bar]) for file in ("tube.step", "tube.stl"))
    assert mesh.status == "done", mesh.reason
    pairs = list(zip(exact.outcome.results[0].made, mesh.outcome.results[0].made, strict=True))
    for one, other in pairs:
        assert (one.by, other.by) == ("exact", "mesh") and one.name == other.name
        assert other.volume == pytest.approx(one.volume, rel=5e-3)
        assert other.area == pytest.approx(one.area, rel=5e-3)
        assert 0 < other.deviation < 0.03


@pytest.mark.parametrize("join, way", [("joined", 1), ("cut", -1)])
def test_joined_to_the_mesh_and_cut_out_of_it(swept, join, way):
    exact, mesh = (swept(file, "a helix", bar="square", size="8", join=join) for file in ("tube.step", "tube.stl"))
    (one,), (other,) = exact.outcome.results[0].made, mesh.outcome.results[0].made
    assert other.by == "mesh" and other.volume_change * way > 0
    assert other.volume == pytest.approx(one.volume, rel=1e-3)
    assert other.volume_change == pytest.approx(one.volume_change, rel=0.02)


def test_what_a_mesh_has_not_is_refused(swept):
    upright = swept("tube.stl", "a helix", bar="round", size="6", upright="axis")
    assert upright.status == "broken" and "no axis" in upright.reason
    fitted = swept("tube.stl", "a corner", bar="round", size="6", ends="fitted")
    assert fitted.status == "broken" and "bars end square" in fitted.reason
    large = swept("tube.stl", "a ring", bar="round", size="60")
    assert large.status == "broken" and "pass through itself" in large.reason
