"""Ends of bars: cut by the faces' edge, and mitred where their line turns."""

from __future__ import annotations

import io

import ezdxf
import numpy as np
import pytest
import shapely

from tests.sheet_parts import block
from zuschnitt.core.job.evaluate import run_all
from zuschnitt.core.job.route import Asset, Job
from zuschnitt.core.kernel.step_in import read_step_bytes
from zuschnitt.core.kernel.step_out import shape_bytes
from zuschnitt.core.solids.bodies import unpacked
from zuschnitt.core.solids.booleans import common
from zuschnitt.core.solids.explore import volume

PLATE = shape_bytes(block((0, 0, 0), (200, 120, 10)), "plate")
"""Its face 6, at z = 10, is laid flat with x = y and y = 200 - x."""


def lines(points, closed=False) -> bytes:
    drawing, text = ezdxf.new(units=4), io.StringIO()
    drawing.modelspace().add_lwpolyline(points, close=closed)
    drawing.write(text)
    return text.getvalue().encode()


def bars(content: bytes, faces: str, points, closed=False, **values):
    """The bodies along a line of the blank, and what is said."""
    job = Job().with_asset(Asset("form.step", content)).with_asset(Asset("line.dxf", lines(points, closed)))
    job = job.added("bring_in", file="form.step").added("develop", faces=faces)
    job = job.added("place_artwork", file="line.dxf", x="0", y="0").added("sweep", **{"ends": "fitted", **values})
    state = list(run_all(job).values())[-1]
    assert state.status == "done", state.reason
    return state.outcome.results[0].made, state.outcome.messages


def square(points, closed, size):
    """Half of the footprint of square bars along lines of the plate, times two: mitred, cut at the plate's edge."""
    line = shapely.LinearRing(points) if closed else shapely.LineString(points)
    wide = line.buffer(size / 2, cap_style="flat", join_style="mitre", mitre_limit=20)
    return wide.intersection(shapely.box(0, 0, 120, 200)).area * size


FIGURES = {
    "a corner": ([(20, 20), (20, 120), (90, 120)], False),
    "a frame": ([(20, 20), (30, 150), (100, 120)], True),
    "over an edge": ([(40, 60), (150, 100)], False),
    "from edge to edge": ([(-30, 50), (150, 100)], False),
    "a corner and an edge": ([(30, 30), (80, 90), (150, 110)], False),
}


@pytest.mark.parametrize("points, closed", FIGURES.values(), ids=FIGURES)
def test_they_cover_what_a_line_with_mitres_covers(points, closed):
    made, said = bars(PLATE, "6", points, closed, bar="square", size="8")
    assert not said
    assert sum(body.volume for body in made) == pytest.approx(square(points, closed, 8.0), rel=1e-6)
    shapes = [unpacked(body.content) for body in made]
    for k, one in enumerate(shapes):
        for other in shapes[k + 1 :]:
            assert abs(volume(common(one, [other]))) < 1e-6
    assert all(body.faces == 6 for body in made)
    low, high = np.min([b.box[:3] for b in made], axis=0), np.max([b.box[3:] for b in made], axis=0)
    assert (low > [-1e-6, -1e-6, 5.9]).all() and (high < [200 + 1e-6, 120 + 1e-6, 14.1]).all()


def test_joined_it_is_one_body_with_all_of_them():
    points = FIGURES["a frame"][0]
    (body,), said = bars(PLATE, "6", points, True, bar="square", size="8", join="joined")
    assert not said and body.volume_change == pytest.approx(square(points, True, 8.0) / 2, rel=1e-6)


def test_a_frame_round_a_tube_is_joined_to_it(step):
    """Its mitres leave faces of a thousandth of a square millimetre."""
    tube, points = step("tube").read_bytes(), [(20, 20), (20, 100), (90, 100)]
    (body,), said = bars(tube, "1", points, True, bar="square", size="8", join="joined")
    assert not said and body.by == "exact"
    line = 80 + 70 + np.hypot(80, 70)
    assert body.volume_change == pytest.approx(32 * line, rel=0.06)


def test_a_hollow_bar_is_as_long_as_a_solid_one():
    points = FIGURES["a corner and an edge"][0]
    solid, _ = bars(PLATE, "6", points, bar="round", size="8")
    hollow, _ = bars(PLATE, "6", points, bar="round", size="8", wall="1")
    for whole, pipe in zip(solid, hollow, strict=True):
        assert pipe.volume == pytest.approx(whole.volume * (1 - (3 / 4) ** 2), rel=1e-6)


def test_over_a_crease_they_meet_in_the_mitre():
    """Faces 6 and 2, the plate's top and an end: the corner of both bars is whole."""
    made, said = bars(PLATE, "6,2", [(-50, 60), (6, 60)], bar="square", size="8")
    assert not said and sum(body.volume for body in made) == pytest.approx(64 * 56)
    assert [round(max(body.box[3], 0), 6) for body in made] == [204, 204]
    assert [round(body.box[5], 6) for body in made] == [14, 14]


@pytest.mark.parametrize("bar", ["square", "round", "triangle"])
def test_a_helix_ends_flush_with_its_tube(bar, step):
    tube, line = step("tube").read_bytes(), [(30, -20), (140, 220)]
    size = {"bar": bar, "size": "6", "wall": "0.8"}
    (body,), said = bars(tube, "1", line, **size)
    (plain,), _ = bars(tube, "1", line, **size, ends="square")
    high = read_step_bytes(tube, "tube").bounds[1][2]
    assert not said
    assert body.box[2] == pytest.approx(0, abs=1e-6) and body.box[5] == pytest.approx(high, abs=1e-6)
    assert plain.box[2] < -1 and plain.box[5] > high + 1
    assert body.volume == pytest.approx(plain.volume, rel=1e-4)  # what is added at one side is cut off at the other


def test_what_turns_too_sharply_stays_square():
    made, said = bars(PLATE, "6", [(20, 20), (20, 120), (26, 30)], bar="square", size="4")
    assert said == ("2 ends stayed square: a cut there would run too far along the bar.",)
    assert sum(body.volume for body in made) == pytest.approx(16 * (100 + np.hypot(6, 90)))


def test_a_closed_line_of_which_but_a_hair_lies_on_the_blank_is_no_bar():
    """It was taken for one that runs into itself."""
    job = Job().with_asset(Asset("form.step", PLATE))
    job = job.with_asset(Asset("line.dxf", lines([(119.9998, 100), (160, 60), (160, 140)], True)))
    job = job.added("bring_in", file="form.step").added("develop", faces="6")
    job = job.added("place_artwork", file="line.dxf", x="0", y="0").added("sweep", bar="square", size="4")
    state = list(run_all(job).values())[-1]
    assert state.status == "broken" and "None of the lines lies on the blank" in state.reason
