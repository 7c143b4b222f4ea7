"""Rows of the way out of the door: nested, prepared, checked by the laser, planned for the press."""

from __future__ import annotations

import numpy as np
import pytest
import shapely

from zuschnitt.core.errors import Refused
from zuschnitt.core.files.dxf import read_dxf
from zuschnitt.core.form.deviation import gaps_to
from zuschnitt.core.job.evaluate import run_all
from zuschnitt.core.job.route import Asset, Job
from zuschnitt.core.results.result import Printing


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
    assert not laser.value.faults and len(laser.value.cuts) == 4 and not laser.warnings
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


def test_what_the_laser_cuts_is_formed_back_and_held_against_its_form():
    job = shop_job()
    good = last(job.added("check_cut", drawing=job.row(30).id, back="drawn"))
    held = good.result("held").value
    assert good.results[0].kind == "laser" and held.largest < 0.01 and len(held.hairs) > 50
    area = next(f.text for f in good.figures if f.label == "cut area against the blank")
    assert abs(float(area.split()[0].replace("+", ""))) < 0.01
    kerf = job.added("prepare_cut", drawing=job.row(30).id, kerf="2")
    made = kerf.rows[-1].id
    assert last(kerf.added("check_cut", drawing=made, kerf="2", back="compensated")).result("held").value.largest < 0.05
    off = last(kerf.added("check_cut", drawing=made, kerf="2", back="drawn")).result("held").value
    assert off.largest == pytest.approx(1.0, abs=0.5)  # half a kerf too large, and the beam's way in
    tray = last(job.added("check_cut", drawing=job.row(90).id, back="drawn")).result("held").value
    assert tray.largest < 0.05  # folded by its bend lines
    assert last(job.added("check_cut", drawing=job.row(60).id)).result("held") is None


def test_a_part_with_a_hole_in_the_wrong_place_is_caught():
    """A hole drawn on the blank that the form does not have lies on none of its edges."""
    job = Job(material="steel sheet").added("turned_body", top="200", cylinder="0", cone="240", outlet="80")
    job = job.added("develop")
    hole = [{"number": 1, "figure": "circle", "x": "0", "y": "-180", "diameter": "20", "kind": "cut"}]
    job = job.added("draw_figures", blank=job.row(20).id, figures=hole).added("cut_file", blank=job.row(20).id)
    found = last(job.added("check_cut", back="drawn")).result("held").value
    assert found.largest > 20


def test_the_nearest_place_on_curves_of_long_and_short_spans_is_certain():
    """A long straight line beside a finely divided circle: against all spans of all curves."""
    t = np.linspace(0, 2 * np.pi, 800)
    circle = np.column_stack([40 * np.cos(t), 40 * np.sin(t), 0 * t])
    seam = np.array([[40.0, 0, 0], [100, 0, 240.0]])
    curves = [circle, circle, seam, seam]
    rng = np.random.default_rng(3)
    points = np.vstack(
        [rng.uniform(-5, 5, (200, 3)) + [40, 0, 0], seam[0] + rng.uniform(0, 1, (200, 1)) * (seam[1] - seam[0])]
    )
    start, end = (np.vstack([c[a : len(c) + b] for c in curves]) for a, b in ((0, -1), (1, 0)))
    along = end - start
    share = np.clip(((points[:, None] - start) * along).sum(axis=2) / (along**2).sum(axis=1), 0, 1)
    true = np.linalg.norm(points[:, None] - start - share[..., None] * along, axis=2).min(axis=1)
    assert gaps_to(curves)(points) == pytest.approx(true, abs=1e-9)


def with_file(job, name, content):
    return job.with_asset(Asset(name, content))


def test_a_file_from_elsewhere_is_read_as_it_is():
    """What leaves as a cut file comes back as one: the same run, the same order of bends."""
    job = shop_job()
    states = run_all(job)
    cut, flat = (states[job.row(number).id].outcome for number in (30, 90))
    files = job
    for name, found in (("cone.dxf", cut), ("flat.dxf", flat)):
        files = with_file(files, name, found.writer("dxf").content("dxf", name, Printing()))
    own = last(job.added("check_cut", drawing=job.row(30).id, back="drawn"))
    again = last(files.added("check_file", file="cone.dxf", back="drawn", blank=job.row(20).id))
    assert again.result("laser").report() == own.result("laser").report()
    assert again.result("held").report() == own.result("held").report()
    plan = last(files.added("bend_file", file="flat.dxf"))
    assert plan.value.possible and sorted(plan.value.order) == [1, 2, 3, 4]
    with pytest.raises(Refused, match="No blank of a form is named"):
        last(Job().with_asset(files.assets["cone.dxf"]).added("check_file", file="cone.dxf", back="drawn"))
    with pytest.raises(Refused, match="no bend lines"):
        last(files.added("bend_file", file="cone.dxf"))
    with pytest.raises(Refused):
        last(with_file(Job(), "no.dxf", b"nothing").added("check_file", file="no.dxf"))
