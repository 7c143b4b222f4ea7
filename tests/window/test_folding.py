"""The slider from flat to formed, over the route card."""

from __future__ import annotations

import numpy as np
import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest

from zuschnitt.core.develop.folding import FoldMesh
from zuschnitt.core.job.route import Asset, Job
from zuschnitt.window.layers.folded import ridden

from .conftest import opened, settle, wait

CONE = Job(thickness="1.5").added("turned_body", top="200", cylinder="0", cone="240", outlet="80").added("develop")
TRAY = Job(thickness="1.5").added("hollow_block", width="200", depth="120", height="40").added(
    "make_sheet", opened="auto", radius="2"
)  # fmt: skip


@pytest.fixture
def window(application, tmp_path, request):
    """With the job of the test."""
    made = opened(tmp_path, request.param)
    yield next(made)
    made.close()


def given(job: Job):
    return pytest.mark.parametrize("window", [job], indirect=True, ids=[""])


@given(CONE)
def test_a_blank_is_folded_by_a_row_that_begins_by_itself(window):
    session, slider = window.session, window.card.folding.slider
    session.select(session.job.row(20).id)
    settle(window)
    assert window.card.folding.isVisible() and slider.value() == slider.maximum()
    QTest.keyClick(slider, Qt.Key.Key_Left)
    settle(window)
    assert [row.number for row in session.job.rows] == [10, 20, 30]
    row = session.selected_row
    assert row.number == 30 and float(row.parameters["share"]) == pytest.approx(1 - 1 / slider.maximum())
    slider.setValue(slider.maximum() // 2)
    settle(window)
    assert session.job.row(30).parameters["share"] == "0.5" and len(session.job.rows) == 3
    before = window.form_stage.grab().toImage()
    slider.setValue(20)
    settle(window)
    assert window.form_stage.grab().toImage() != before
    session.undo()
    assert session.job.row(30).parameters["share"] != "0.1"


@given(CONE.added("cut_file").added("check_cut"))
def test_a_blank_that_is_cut_by_the_laser_is_still_folded_by_its_slider(window):
    session, folding = window.session, window.card.folding
    ends = {}
    for number in (20, 40):
        session.select(session.job.row(number).id)
        settle(window)
        ends[number] = [label.text() for label in folding._ends]
    assert ends == {20: ["flat", "formed"], 40: ["whole", "cut"]}


@given(CONE)
def test_a_stage_is_seen_at_once_and_the_job_has_the_last_one(window, monkeypatch):
    """Stages of the same mesh follow the slider; what that has worked out is not worked out again."""
    session, slider = window.session, window.card.folding.slider
    session.select(session.job.row(20).id)
    settle(window)
    slider.setValue(100)
    settle(window)
    asked, solved = [], []
    held, solver = FoldMesh.held_at, FoldMesh._solver
    monkeypatch.setattr(FoldMesh, "held_at", lambda mesh, share, at: (asked.append(share), held(mesh, share, at))[1])
    monkeypatch.setattr(solver, "func", lambda mesh, made=solver.func: (solved.append(1), made(mesh))[1])
    for value in range(99, 79, -1):
        slider.setValue(value)
        window.repaint()
        assert asked[-1] == pytest.approx(value / slider.maximum()) and slider.value() == value
    settle(window)
    assert session.job.row(30).parameters["share"] == "0.4" and session.folding is None and solved == []
    session.undo()
    assert session.job.row(30).parameters["share"] == "0.5"


@given(TRAY)
def test_a_sheet_part_has_its_own_stage_and_is_played(window):
    session, folding = window.session, window.card.folding
    session.select(session.job.row(20).id)
    settle(window)
    folding.slider.setValue(0)
    settle(window)
    assert session.job.row(20).parameters["stage"] == "0" and len(session.job.rows) == 2
    window.fold()
    wait(lambda: not folding._play.isActive(), "the last stage")
    settle(window)
    assert session.job.row(20).parameters["stage"] == "1"


@given(Job().added("make_block").added("make_ribs", x="40", y="30", thickness="3"))
def test_ribs_are_put_together_one_after_the_other_and_no_row_changes(window):
    """What is played is only looked at: the second family comes from above, each plate when those before are in."""
    session, folding = window.session, window.card.folding
    row = session.job.rows[-1]
    session.select(row.id)
    settle(window)
    made = session.value(row, "ribs")
    seconds = [rib for rib in made.ribs if rib.name.startswith("Y")]
    assert folding.isVisible() and folding.slider.value() == folding.slider.maximum()
    assert not any(off.any() for _, off in made.played(1.0, 100.0))
    off = {rib.name: float(shift @ [0, 0, 1]) for rib, shift in made.played(1.5 / len(seconds), 100.0)}
    assert all(value == 0 for name, value in off.items() if name.startswith("X"))
    assert [off[rib.name] for rib in seconds] == pytest.approx([0, 50, *([100] * (len(seconds) - 2))])
    together = window.form_stage.grab().toImage()
    before = session.job
    QTest.keyClick(folding.slider, Qt.Key.Key_Home)
    settle(window)
    apart = window.form_stage.grab().toImage()
    assert apart != together and session.job == before
    window.fold()
    wait(lambda: not folding._play.isActive(), "the last move")
    assert session.together == 1.0
    wait(lambda: window.form_stage.grab().toImage() == together, "a fine picture")


@given(CONE)
def test_artwork_rides_along_on_every_stage(window):
    """On the form it lies where it is wrapped, on the blank where it was drawn, and in between it keeps its length."""
    session = window.session
    develop = session.job.row(20).id
    drawing = '<svg xmlns="http://www.w3.org/2000/svg" width="60mm" height="40mm" viewBox="0 0 60 40"><path d="M0,0 L50,30"/></svg>'
    session.edit("Bring in", lambda job: job.with_asset(Asset("a.svg", drawing.encode())).added(
        "place_artwork", after=develop, file="a.svg", blank=develop, x="10", y="100"))  # fmt: skip
    settle(window)
    session.select(develop)
    settle(window)
    window.card.folding.slider.setValue(window.card.folding.slider.maximum() // 2)
    settle(window)
    assert "folded" in session.selected_row.gives
    mesh = session.value(session.selected_row, "folded")
    contours = session.value(session.on_blank("artwork")[0], "artwork").contours
    (line,) = ridden(mesh, contours, 300.0)
    blank = session.value(session.job.row(20), "blank")
    flat = line.on(np.column_stack([mesh.points_blank, np.zeros(len(mesh.points_blank))]))
    assert flat[[0, -1], :2] == pytest.approx(contours[0].points, abs=1e-9)
    assert line.on(mesh.points_form) == pytest.approx(blank.correspondence.to_form(flat[:, :2]).points, abs=0.3)
    for share in (0.0, 0.3, 0.7, 1.0):
        length = np.linalg.norm(np.diff(line.on(mesh.stage(share)), axis=0), axis=1).sum()
        assert length == pytest.approx(contours[0].length, rel=2e-3)
    lines = window.form_stage.picture.lines.sets["riding"].actor.GetMapper().GetInput()
    assert lines.GetNumberOfLines() == 1


@given(CONE)
def test_a_drawing_rides_along_and_what_it_cuts_out_is_hatched(window):
    session = window.session
    develop = session.job.row(20).id
    hole = {"number": 1, "figure": "circle", "diameter": "30", "x": "0", "y": "0", "place": "middle"}
    session.edit("Draw", lambda job: job.added("draw_figures", after=develop, blank=develop, figures=[hole]))
    drawing = session.job.rows[-1].id
    session.select(drawing)
    settle(window)
    lines = window.form_stage.picture.lines.sets
    hatching = lines["hatched"].actor.GetMapper().GetInput()
    size = session.value(session.job.row(10), "form").size
    assert hatching.GetNumberOfLines() == pytest.approx(30 / (size / 120), abs=1)
    session.edit("Mark", lambda job: job.set(drawing, "figures.1.kind", "mark"))
    settle(window)
    assert lines["hatched"].actor.GetMapper().GetInput().GetNumberOfLines() == 0

    session.select(develop)
    settle(window)
    window.card.folding.slider.setValue(window.card.folding.slider.maximum() // 2)
    settle(window)
    mesh = session.value(session.selected_row, "folded")
    (ring,) = ridden(mesh, session.value(session.job.row(drawing_number(session)), "artwork").contours, 300.0)
    assert lines["riding"].actor.GetMapper().GetInput().GetNumberOfLines() == 1
    for share in (0.0, 0.5, 1.0):
        around = np.linalg.norm(np.diff(ring.on(mesh.stage(share)), axis=0), axis=1).sum()
        assert around == pytest.approx(30 * np.pi, rel=3e-3)


def drawing_number(session) -> int:
    return next(row.number for row in session.job.rows if row.operation == "draw_figures")
