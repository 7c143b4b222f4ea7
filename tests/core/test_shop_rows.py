"""Rows of the way out of the door: nested, prepared, checked by the laser, planned for the press."""

from __future__ import annotations

import pytest
import shapely

from zuschnitt.core.errors import Refused
from zuschnitt.core.evaluate import run_all
from zuschnitt.core.files.dxf import read_dxf
from zuschnitt.core.results.result import Printing
from zuschnitt.core.route import Job


def shop_job():
    """A cone, a plate with holes, and a tray, each with its cut file."""
    figures = [
        {"number": 1, "figure": "circle", "diameter": "20", "x": "30"},
        {"number": 2, "figure": "row", "of": "1", "count": "3", "pitch": "22"},
    ]
    job = Job(material="steel sheet", thickness="1.5")
    job = job.added("turned_body", top="200", cylinder="0", cone="240", outlet="80").added("develop").added("cut_file")
    job = job.added("lay_sheet").added("draw_figures", figures=figures).added("cut_file")
    job = job.added("hollow_block", width="200", depth="120", height="40")
    return job.added("make_sheet", opened="auto", radius="2").added("cut_file")


def last(job):
    state = run_all(job)[job.rows[-1].id]
    if state.status != "done":
        raise Refused(state.reason)
    return state.outcome


def test_all_cut_files_are_nested_under_their_names():
    outcome = last(shop_job().added("nest_parts", counts="1, 3, 2", sheets="1000 x 600", seconds="1"))
    nest = outcome.results[0]
    assert nest.pieces() == {"Develop": 1, "Lay a bare sheet": 3, "Make a sheet part": 2} and not nest.value.left
    for sheet in nest.value.sheets:
        shapes = [placed.shape for placed in sheet.parts]
        assert all(shapely.box(0, 0, *sheet.size).buffer(-4.99).covers(shape) for shape in shapes)
        assert all(a.distance(b) > 3.98 for k, a in enumerate(shapes) for b in shapes[:k])
    written = read_dxf(nest.content("dxf", "nest", Printing()), "nest.dxf").contours
    cut = [c for c in written if c.layer == "CUT"]
    assert len(cut) == 1 + 3 * 4 + 2
    report = nest.report()["nesting"]
    assert report["yield"] == pytest.approx(nest.value.share) and len(report["sheets"]) == len(nest.value.sheets)


def test_some_rows_are_nested_and_a_sheet_of_it_is_prepared():
    job = shop_job().added("nest_parts", parts="60", counts="2", sheets="500 x 300", seconds="1")
    assert last(job).results[0].pieces() == {"Lay a bare sheet": 2}
    made = last(job.added("prepare_cut", drawing=job.rows[-1].id, kerf="0.2")).value
    assert sum(c.layer == "CUT" for c in made) == 8
    with pytest.raises(Refused, match="no sheet 2"):
        last(job.added("prepare_cut", drawing=job.rows[-1].id, sheet="2"))


@pytest.mark.parametrize(
    "values, why",
    [
        ({"parts": "10"}, "Row 10 gives nothing"),
        ({"parts": "777"}, "Row 777 gives nothing"),
        ({"counts": "1, 2"}, "2 counts for 3 cut files"),
        ({"counts": "0"}, "whole numbers"),
        ({"counts": "4000"}, "too many"),
        ({"sheets": "1000"}, "no size of a sheet"),
        ({"sheets": "0 x 5"}, "cannot be"),
        ({"sheets": "20 x 20"}, "No part fits"),
    ],
)
def test_nests_that_cannot_be(values, why):
    with pytest.raises(Refused, match=why):
        last(shop_job().added("nest_parts", seconds="1", **values))


def test_blanks_are_nested_without_a_cut_file():
    job = shop_job().added("nest_parts", parts="20, 80", counts="2, 3", sheets="1000 x 600", seconds="1")
    made = last(job).results[0]
    assert made.pieces() == {"Develop": 2, "Make a sheet part": 3}
    bare = Job(material="steel sheet", thickness="1.5").added("lay_sheet").added("nest_parts", seconds="1")
    assert last(bare).results[0].pieces() == {"Lay a bare sheet": 1}  # where there is no cut file, all blanks are meant


def test_rows_that_go_away_are_missed():
    job = shop_job().added("nest_parts", parts="30, 60", seconds="1")
    gone = job.removed(job.row(60).id)
    assert "Row 60 gives nothing" in run_all(gone)[gone.rows[-1].id].reason
    alone = Job().added("nest_parts")
    assert run_all(alone)[alone.rows[-1].id].lacks


def test_the_laser_finds_no_fault_and_the_press_an_order():
    job = shop_job()
    laser = last(job.added("check_cut", drawing=job.row(60).id))
    assert not laser.value.faults and len(laser.value.cuts) == 4 and laser.plain
    plan = last(job.added("plan_bends"))
    assert plan.value.possible and sorted(plan.value.order) == [1, 2, 3, 4]
    assert plan.results[0].report()["press"]["possible"]
    with pytest.raises(Refused, match="no bend lines"):
        last(job.added("plan_bends", blank=job.row(20).id))


@pytest.mark.parametrize("relief", ["none", "square", "round"])
@pytest.mark.parametrize("more", [{}, {"flanges": "top:14", "rounding": "3", "gap": "0.2"}])
def test_trays_with_every_relief_are_bent(relief, more):
    job = Job(thickness="1").added("hollow_block", width="300", depth="180", height="60")
    plan = last(job.added("make_sheet", opened="auto", radius="2", relief=relief, **more).added("plan_bends"))
    assert plan.value.possible and len(plan.value.order) == (8 if more else 4)
    assert len(plan.results[0].flat.walls) >= len(plan.value.order) + 1
