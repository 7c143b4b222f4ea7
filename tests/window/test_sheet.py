"""Sheet parts in the real window: hollowed, opened, folded step by step, with the bend table on the blank."""

from __future__ import annotations

import time

import numpy as np
import pytest
from OCP.BRepAlgoAPI import BRepAlgoAPI_Fuse
from OCP.BRepPrimAPI import BRepPrimAPI_MakeBox, BRepPrimAPI_MakeCylinder
from OCP.gp import gp_Ax2, gp_Dir, gp_Pnt
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtGui import QImage
from PyQt6.QtTest import QTest

from zuschnitt.core.job.route import Asset, Job
from zuschnitt.core.kernel.step_out import named_shapes_bytes
from zuschnitt.core.shop.bend_table import bend_rows, named
from zuschnitt.window.card.fold_slider import WRITTEN
from zuschnitt.window.card.link import Link
from zuschnitt.window.layers.edges import picked_edges
from zuschnitt.window.layers.tips import tips_of
from zuschnitt.window.session import Wanted

from .conftest import PATIENCE, opened, settle, wait
from .test_window import LEFT, chip, click_row, drag, form_pixel, state


@pytest.fixture
def window(application, tmp_path):
    job = Job(material="steel sheet", thickness="1.5").added("hollow_block", width="200", depth="120", height="40")
    made = opened(tmp_path, job.added("make_sheet", radius="2"))
    yield next(made)
    made.close()


def write(window, name: str, text: str) -> None:
    """Types a value of row 20."""
    field = chip(window, 20, name)
    QTest.mouseClick(field, LEFT)
    field.editor.selectAll()
    QTest.keyClicks(field.editor, text)
    QTest.keyClick(field.editor, Qt.Key.Key_Return)
    settle(window)


def test_a_tray_is_opened_flanged_and_folded(window):
    assert state(window, 20).status == "broken" and "open 4 edges" in state(window, 20).reason
    click_row(window, 20)
    write(window, "opened", "auto")
    assert state(window, 20).status == "done"
    outcome = window.session.outcome(window.session.job.row(20))
    assert {result.kind for result in outcome.results} == {"form", "blank"}
    blank = outcome.result("blank").value
    rows = bend_rows(blank.folds)
    assert [named(numbers) for numbers, _ in rows] == ["1, 3", "2, 4"]
    assert rows[0][1][:2] == ("90° down", "2")
    plain = window.blank_stage.grab().toImage()
    high = np.ptp(np.array(outcome.value.bounds), axis=0)[2]
    assert high == pytest.approx(40, abs=1e-3)

    window.session.edit("", lambda job: job.set(window.session.job.row(20).id, "stage", "0.5"))
    settle(window)
    field = chip(window, 20, "stage")
    drag(field, QPoint(10, 10), QPoint(10 - 40, 10))  # scrubbed towards the flat: the same blank, another form
    settle(window)
    outcome = window.session.outcome(window.session.job.row(20))
    assert np.ptp(np.array(outcome.value.bounds), axis=0)[2] < 39
    assert outcome.result("blank").value.bounds == pytest.approx(blank.bounds, abs=1e-6)
    assert window.blank_stage.grab().toImage().size() == plain.size()


def test_edges_are_opened_by_clicking_them(window):
    click_row(window, 10)
    click_row(window, 20)
    write(window, "opened", "5, 7, 9, 10")
    assert state(window, 20).status == "done"
    assert window.session.job.row(20).parameters["opened"] == "5, 7, 9, 10"


@pytest.fixture
def closed_box(application, tmp_path):
    """A hollowed block of which no edge is opened yet, so that it cannot be laid flat."""
    job = Job(material="steel sheet", thickness="1.5").added("hollow_block", width="200", depth="120", height="40")
    made = opened(tmp_path, job.added("make_sheet", opened="", radius="2"))
    yield next(made)
    made.close()


def reds(stage) -> int:
    image = stage.grab().toImage().convertToFormat(QImage.Format.Format_RGBX8888)
    rows = np.frombuffer(image.constBits().asstring(image.sizeInBytes()), np.uint8).reshape(-1, 4).astype(int)
    return int(((rows[:, 0] > rows[:, 1] + 70) & (rows[:, 0] > rows[:, 2] + 70)).sum())


def test_edges_that_must_be_opened_are_seen_and_opened_by_a_click(closed_box):
    session, stage = closed_box.session, closed_box.form_stage
    row = session.job.rows[1]
    session.select(session.job.rows[0].id)
    settle(closed_box)
    assert reds(stage) == 0
    session.select(row.id)
    settle(closed_box)
    assert session.states[row.id].status == "broken" and stage.form() is session.value(session.job.rows[0], "form")
    assert session.states[row.id].edges == (5, 7, 9, 10) and reds(stage) > 200
    card = closed_box.card.cards[row.id]
    next(do for words, _, do in card._offers() if words == "open these edges")()
    settle(closed_box)
    assert session.states[row.id].status == "done" and session.job.rows[1].parameters["opened"] == "5, 7, 9, 10"
    assert reds(stage) == 0 and stage.form() is session.value(row, "form")
    session.undo()
    settle(closed_box)
    next(do for words, _, do in card._offers() if words == "have them chosen")()
    settle(closed_box)
    assert session.job.rows[1].parameters["opened"] == "auto"
    next(do for words, _, do in card._offers() if words.startswith("write these edges down"))()
    settle(closed_box)
    assert session.job.rows[1].parameters["opened"] == "5, 7, 9, 10"


def test_what_was_left_out_of_a_sheet_part_is_seen_beside_it(application, tmp_path):
    plate = BRepPrimAPI_MakeBox(120, 80, 2).Shape()
    boss = BRepPrimAPI_MakeCylinder(gp_Ax2(gp_Pnt(60, 40, 2), gp_Dir(0, 0, 1)), 10, 15).Shape()
    content = named_shapes_bytes([("plate", BRepAlgoAPI_Fuse(plate, boss).Shape())])
    job = Job().with_asset(Asset("plate.step", content)).added("bring_in", file="plate.step").added("make_sheet")
    made = opened(tmp_path, job)
    window = next(made)
    row = window.session.job.rows[1]
    window.session.select(row.id)
    settle(window)
    assert window.session.outcome(row).result("form").made.left_out
    lines = window.form_stage.picture.lines.sets["left out"].actor.GetMapper().GetInput()
    bounds = lines.GetBounds()
    assert bounds[4:] == pytest.approx((2, 17), abs=1e-6) and bounds[:2] == pytest.approx((50, 70), abs=1e-3)
    boss = window.form_stage.picture.bodies.corners.reshape(-1, 3)
    assert np.ptp(boss, axis=0)[2] == pytest.approx(15) and boss[:, 2].min() == pytest.approx(2)
    window.session.edit("", lambda job: job.set(row.id, "stage", "0.5"))
    settle(window)
    assert window.form_stage.picture.bodies is None  # it stands on the part when that is folded

    offers = {link.text().strip(): link for link in window.card.findChildren(Link)}
    QTest.mouseClick(offers["work on what is left beside it"], LEFT)
    settle(window)
    kept = window.session.selected_row
    assert kept.operation == "keep_beside"
    assert window.session.outcome(kept).results[0].made[0].volume == pytest.approx(np.pi * 100 * 15)
    made.close()


def test_flanges_are_picked_edge_by_edge_on_the_solid(window):
    session, stage = window.session, window.form_stage
    session.edit("", lambda job: job.set(job.row(20).id, "opened", "auto"))
    click_row(window, 20)
    window.card.cards[session.job.row(20).id].sentence.open_clause("flanges")
    QTest.mouseClick(chip(window, 20, "flanges"), LEFT)
    settle(window)
    assert "bend a flange there" in stage._foot() and stage.form() is session.value(session.job.row(10), "form")
    rims = [n for n, points in stage.picture.edges.items() if np.allclose(points[:, 2], 40)]
    outer = [
        n
        for n in rims
        if abs(stage.picture.edges[n][:, 1]).max() > 59.9 or abs(stage.picture.edges[n][:, 0]).max() > 99.9
    ]
    front = min(outer, key=lambda n: stage.picture.edges[n].mean(axis=0)[1])
    at = stage.picture.edges[front].mean(axis=0)
    QTest.mouseClick(stage, LEFT, pos=form_pixel(window, at))
    settle(window)
    assert session.job.row(20).parameters["flanges"] == f"{front}:15"
    assert picked_edges(stage.scene()) == [front]
    assert len(session.outcome(session.job.row(20)).result("form").made.part.zones) == 11  # one wall and one bend more
    QTest.mouseClick(stage, LEFT, pos=form_pixel(window, at))
    settle(window)
    assert session.job.row(20).parameters["flanges"] == ""


def test_a_flange_is_made_longer_by_its_end(window):
    click_row(window, 20)
    write(window, "opened", "auto")
    write(window, "flanges", "top:12")
    stage, session = window.form_stage, window.session
    tip = max(
        tips_of(session), key=lambda tip: np.ptp(stage.pixels(np.array([tip.point, tip.point + tip.way])), axis=0).max()
    )
    start, end = (form_pixel(window, tip.point + mm * tip.way) for mm in (0, 25))
    seen = []
    glimpse = stage.picture.glimpse
    stage.picture.glimpse = lambda it: (seen.append(it), glimpse(it))[1]
    before, job = stage.grab().toImage(), session.job
    QTest.mousePress(stage, LEFT, pos=start)
    for k in range(1, 6):
        QTest.mouseMove(stage, start + (end - start) * k / 5)
        wait(lambda k=k: len({id(it) for it in seen if it is not None}) >= k, "a glimpse")
    assert session.job is job  # nothing is done until it is let go
    assert stage.grab().toImage() != before
    QTest.mouseRelease(stage, LEFT, pos=end)
    assert session.glimpses  # until the part is there
    settle(window)
    assert not session.glimpses
    length = float(session.job.row(20).parameters["flanges"].split(":")[1])
    assert length == pytest.approx(37, abs=1.5)
    moved = next(t for t in tips_of(session) if (t.way @ tip.way) > 0.99)
    assert (moved.point - tip.point) @ tip.way == pytest.approx(length - 12, abs=1e-6)

    QTest.mouseClick(stage, LEFT, pos=form_pixel(window, moved.point))  # a click moves nothing, and shows nothing late
    end = time.monotonic() + 0.6
    wait(lambda: time.monotonic() > end, "a glimpse that must not come")
    assert not session.glimpses and session.job.row(20).parameters["flanges"] == f"top:{length:g}"
    session.undo()
    settle(window)
    assert session.job.row(20).parameters["flanges"] == "top:12"


def test_the_slider_folds_the_part_at_once_and_is_written_when_it_rests(window):
    click_row(window, 20)
    write(window, "opened", "auto")
    session, slider, stage = window.session, window.card.folding.slider, window.form_stage
    seen, job, rest = [], session.job, window.card.folding._write
    rest.setInterval(round(1000 * PATIENCE))  # what rests is written: on a slow machine before there is a glimpse
    glimpse = stage.picture.glimpse
    stage.picture.glimpse = lambda it: (seen.append(it), glimpse(it))[1]
    for k, value in enumerate((150, 100, 50), 1):
        slider.setValue(value)
        wait(lambda k=k: len({id(it) for it in seen if it is not None}) >= k, "a glimpse")
        high = np.ptp(session.glimpses[session.job.row(20).id].points, axis=0)[2]
    rest.start(WRITTEN)
    settle(window)
    assert session.job.row(20).parameters["stage"] == "0.25" and not session.glimpses
    bounds = session.value(session.job.row(20), "form").bounds
    assert np.ptp(np.array(bounds), axis=0)[2] == pytest.approx(high, abs=0.3)
    session.undo()
    assert session.job == job
    settle(window)


def test_corners_are_rounded_one_by_one(window):
    def flat():
        return window.session.outcome(window.session.job.row(20)).result("blank").value

    def rounded_by(radius):
        window.session.edit("", lambda job: job.set(window.session.job.row(20).id, "rounding", radius))
        settle(window)

    def clicked(corner):
        x, y = window.blank_stage.view.to_pixels(corner[None])[0]
        QTest.mouseClick(window.blank_stage, LEFT, pos=QPoint(round(x), round(y)))
        settle(window)

    click_row(window, 20)
    write(window, "opened", "auto")
    sharp, one = flat(), 100 * (1 - np.pi / 4)
    rounded_by("10")
    assert flat().figures.area_blank == pytest.approx(sharp.figures.area_blank - 8 * one)
    window.session.want(Wanted(window.session.job.row(20).id, "rounded_at"))
    assert window.blank_stage.tool.picks == "corners"
    rounded_by("0")
    points = flat().outline[0].points
    corners = [points[np.lexsort(points.T)[k]] for k in (0, -1)]
    for corner in corners:
        clicked(corner)
    rounded_by("10")
    assert flat().figures.area_blank == pytest.approx(sharp.figures.area_blank - 2 * one)
    clicked(corners[0])  # once more: it is sharp again
    assert flat().figures.area_blank == pytest.approx(sharp.figures.area_blank - one)
