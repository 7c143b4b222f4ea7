"""The window as a user works in it: mouse and keys on the real widgets, real computation behind them."""

from __future__ import annotations

import os
import signal
import subprocess
import sys
from pathlib import Path

import numpy as np
import pytest
from PyQt6.QtCore import QEvent, QPoint, QPointF, Qt
from PyQt6.QtGui import QMouseEvent, QWheelEvent
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QFileDialog, QMessageBox

from zuschnitt.core.job.job_file import load_job
from zuschnitt.core.job.route import Job
from zuschnitt.demo.job import cyclone_and_lid
from zuschnitt.window.autosave import Autosave
from zuschnitt.window.card.sentence import Sentence
from zuschnitt.window.layers.artwork import artworks
from zuschnitt.window.layers.handles import frame_of, handles
from zuschnitt.window.shortcuts import KEYS
from zuschnitt.window.stages.stage import HEAD

from .conftest import settle, wait

LEFT = Qt.MouseButton.LeftButton


def card(window, number):
    return window.card.cards[window.session.job.row(number).id]


def click_row(window, number) -> None:
    widget = card(window, number)
    window.card._scroll.ensureWidgetVisible(widget)
    QTest.mouseClick(widget, LEFT, pos=QPoint(100, 18))
    QApplication.processEvents()


def chip(window, number, name):
    return card(window, number).sentence.chips[name]


def state(window, number):
    return window.session.states[window.session.job.row(number).id]


def value(window, number):
    return state(window, number).outcome.value


def form_pixel(window, point) -> QPoint:
    """Where a point of the form is on the form stage."""
    x, y = window.form_stage.camera.project(np.array([point], float), window.form_stage.room)[0]
    return QPoint(round(x), round(y + HEAD))


def hover(widget, at: QPoint) -> None:
    """The mouse moves there, no button pressed.

    It is told to the widget itself, as the toolkit tells nobody where its cursor was there already.
    """
    none = Qt.MouseButton.NoButton
    there = QPointF(widget.mapToGlobal(at))
    moved = QMouseEvent(QEvent.Type.MouseMove, QPointF(at), there, none, none, Qt.KeyboardModifier.NoModifier)
    QApplication.sendEvent(widget, moved)


def drag(widget, start: QPoint, end: QPoint, steps: int = 8, modifier=Qt.KeyboardModifier.NoModifier) -> None:
    QTest.mousePress(widget, LEFT, modifier, start)
    for k in range(1, steps + 1):
        QTest.mouseMove(widget, start + (end - start) * k / steps)
        QApplication.processEvents()
    QTest.mouseRelease(widget, LEFT, modifier, end)
    QApplication.processEvents()


def on_cone(points):
    """The demo cone's closed form: blank points (hold at the front of the rim, x to the right) on the form."""
    slant_rim = 200 * np.hypot(140, 420) / 140
    x, y = points.T
    slant, turn = np.hypot(x, y + slant_rim), np.arctan2(x, y + slant_rim)
    sine = 140 / np.hypot(140, 420)
    angle, radius = turn / sine - np.pi / 2, slant * sine
    return np.stack([radius * np.cos(angle), radius * np.sin(angle), slant * np.sqrt(1 - sine**2) - 180], axis=1)


def test_the_demo_job_is_shown_on_all_stages(window):
    assert len(window.card.cards) == 10
    assert {s.status for s in window.session.states.values()} == {"done"}
    picture = window.grab().toImage()
    assert (picture.width(), picture.height()) == (1280, 800)
    for stage in (window.form_stage, window.blank_stage):
        image = stage.grab().toImage()
        colours = {image.pixel(x, y) for x in range(0, image.width(), 3) for y in range(60, image.height(), 3)}
        assert len(colours) > 12, "the stage is bare"


def test_a_value_is_edited_in_its_sentence_and_all_follows(window):
    click_row(window, 10)
    field = chip(window, 10, "cone")
    QTest.mouseClick(field, LEFT)
    assert field.editor is not None and field.editor.text() == "420"
    field.editor.selectAll()
    QTest.keyClicks(field.editor, "rim*1.2")
    settle(window)
    slant = np.hypot(140, 480)
    assert value(window, 20).figures.area_blank == pytest.approx(np.pi * 260 * slant, rel=1e-9)
    QTest.keyClick(field.editor, Qt.Key.Key_Return)
    assert field.editor is None and "rim*1.2 = 480 mm" in field.words
    window.undo()
    settle(window)
    assert value(window, 20).figures.area_blank == pytest.approx(np.pi * 260 * np.hypot(140, 420), rel=1e-9)
    window.redo()
    settle(window)
    assert window.session.job.row(10).parameters["cone"] == "rim*1.2"


def test_escape_leaves_a_value_as_it_was_and_a_wrong_one_says_why(window):
    click_row(window, 10)
    field = chip(window, 10, "top")
    QTest.mouseClick(field, LEFT)
    field.editor.selectAll()
    QTest.keyClicks(field.editor, "rum*2")
    assert "'rum' is not a named value" in card(window, 10)._refusal.text()
    QTest.keyClick(field.editor, Qt.Key.Key_Return)
    assert field.editor is not None, "a wrong expression is not taken"
    QTest.keyClick(field.editor, Qt.Key.Key_Escape)
    settle(window)
    assert window.session.job == cyclone_and_lid() and not window.session.unsaved and not window.session.history.past


def test_a_value_is_scrubbed_and_that_is_one_step(window):
    click_row(window, 10)
    field = chip(window, 10, "cylinder")
    drag(field, QPoint(20, 12), QPoint(20 + 60, 12))
    settle(window)
    assert window.session.job.row(10).parameters["cylinder"] == "240"
    assert len(window.session.history.past) == 1


def test_values_by_keys_alone(window):
    click_row(window, 10)
    QTest.keyClick(card(window, 10), Qt.Key.Key_Return)
    focused = QApplication.focusWidget()
    assert focused is chip(window, 10, "top")
    field = chip(window, 10, "cylinder")
    field.setFocus()
    QTest.keyClick(field, Qt.Key.Key_Up)
    QTest.keyClick(field, Qt.Key.Key_Up, Qt.KeyboardModifier.ShiftModifier)
    settle(window)
    assert window.session.job.row(10).parameters["cylinder"] == "231"


def test_faces_are_picked_with_the_mouse(window):
    click_row(window, 20)
    stage = window.form_stage
    QTest.mouseClick(stage, LEFT, pos=form_pixel(window, [0, -200, 530]))
    settle(window)
    assert window.session.job.row(20).parameters["faces"] == "2"
    assert value(window, 20).figures.area_blank == pytest.approx(400 * np.pi * 220, rel=1e-9)
    assert "cylinder picked" in stage.about
    QTest.mouseClick(stage, LEFT, Qt.KeyboardModifier.ShiftModifier, form_pixel(window, [0, -130, 210]))
    settle(window)
    assert window.session.job.row(20).parameters["faces"] == "all"
    QTest.mouseClick(stage, LEFT, Qt.KeyboardModifier.ShiftModifier, form_pixel(window, [0, -200, 530]))
    settle(window)
    assert window.session.job.row(20).parameters["faces"] == "1"


def test_a_double_click_takes_the_smooth_chain(window, step):
    window.session.start_job(Job())
    window.take_file(step("bend"))
    window.session.edit("", lambda job: job.added("develop", faces="1"))
    settle(window)
    click_row(window, 20)
    stage = window.form_stage
    at = form_pixel(window, [20, 45, 0])
    QTest.mouseDClick(stage, LEFT, pos=at)
    settle(window)
    assert window.session.job.row(20).parameters["faces"] == "all"
    assert value(window, 20).figures.pieces == 1


def test_the_hold_point_is_clicked_on_the_form(window):
    click_row(window, 20)
    QTest.mouseClick(chip(window, 20, "hold"), LEFT)
    assert window.session.wanted is not None
    QTest.mouseClick(window.form_stage, LEFT, pos=form_pixel(window, [0, -130, 210]))
    settle(window)
    held = value(window, 20).hold_form
    assert window.session.wanted is None
    assert np.linalg.norm(held - [0, -130, 210]) < 2.5
    assert value(window, 20).correspondence.to_blank(held).points[0] == pytest.approx([0, 0], abs=1e-6)


def test_artwork_is_dragged_and_its_curve_follows_on_the_form(window):
    click_row(window, 30)
    stage = window.blank_stage
    frame = frame_of(stage.scene(), window.session.job.row(30))
    start = stage.view.to_pixels(frame.mean(axis=0)[None])[0]
    begin, end = QPoint(*np.round(start).astype(int)), QPoint(*np.round(start + [30, 20]).astype(int))
    before = value(window, 30).contours[0].points.copy()
    seen = []
    window.session.motion_changed.connect(lambda: seen.append(dict(window.session.motions)))
    drag(stage, begin, end)
    assert len(seen) > 4 and all(seen[:4]), "it is shown while it is dragged"
    settle(window)
    moved = value(window, 30).contours[0].points - before
    expected = np.array([30, -20]) / stage.view.scale
    # rounded to what the zoom can tell: a pixel is more than a millimetre here
    assert (
        moved == pytest.approx(np.tile(expected, (len(moved), 1)), abs=0.51)
        and 1 < 1 / window.blank_stage.view.scale < 10
    )
    placed = window.session.job.row(30).parameters
    assert float(placed["x"]).is_integer() and float(placed["y"]).is_integer()
    for curve in value(window, 40):
        assert np.abs(curve.form - on_cone(curve.blank)).max() < 1e-6
    assert len(window.session.history.past) == 1 and not window.session.motions


def test_what_is_seen_while_dragging_is_what_rests(window):
    """The preview on the form, taken in the middle of a drag, lies where the engine then puts the curves."""
    from zuschnitt.window.motion import Motion
    from zuschnitt.window.tools.move_artwork import dropped

    row = window.session.job.row(30).id
    motion = Motion(1.3, 0.4, (25.0, -30.0), (0.0, -180.0))
    blank = value(window, 20)
    preview = blank.correspondence.to_form(motion.apply(value(window, 40)[0].blank)).points
    window.session.drag(row, motion)
    dropped(window.session, row)
    settle(window)
    from scipy.spatial import cKDTree

    gaps = cKDTree(value(window, 40)[0].form).query(preview)[0]
    assert np.median(gaps) < 1.5 and on_cone(value(window, 40)[0].blank) == pytest.approx(
        value(window, 40)[0].form, abs=1e-6
    )


def test_artwork_is_turned_and_scaled_by_its_handles(window):
    click_row(window, 30)
    stage, row = window.blank_stage, window.session.job.row(30)
    places = handles(stage.scene(), row)
    middle = stage.view.to_pixels(frame_of(stage.scene(), row).mean(axis=0)[None])[0]
    arm = places["turn"] - middle
    quarter = middle + [-arm[1], arm[0]]
    drag(stage, QPoint(*np.round(places["turn"]).astype(int)), QPoint(*np.round(quarter).astype(int)))
    settle(window)
    assert float(window.session.job.row(30).parameters["turn"]) == pytest.approx(-90, abs=2)
    places = handles(stage.scene(), window.session.job.row(30))
    opposite, corner = places["scale0"], places["scale2"]
    drag(
        stage,
        QPoint(*np.round(corner).astype(int)),
        QPoint(*np.round(opposite + 1.5 * (corner - opposite)).astype(int)),
    )
    settle(window)
    assert float(window.session.job.row(30).parameters["scale"]) == pytest.approx(1.7 * 1.5, rel=0.03)
    for curve in value(window, 40):
        assert np.abs(curve.form - on_cone(curve.blank)).max() < 1e-6


def test_artwork_is_dragged_on_the_form_too(window):
    click_row(window, 20)
    ring = value(window, 40)[0]
    lowest = ring.form[ring.form[:, 2].argmin()]
    start = form_pixel(window, lowest)
    before = value(window, 30).bounds
    drag(window.form_stage, start, start + QPoint(0, 30))
    settle(window)
    assert window.session.selected == "d30"
    assert value(window, 30).bounds[1] < before[1] - 15


def test_arrow_keys_move_artwork(window):
    click_row(window, 30)
    window.blank_stage.setFocus()
    QTest.keyClick(window.blank_stage, Qt.Key.Key_Right)
    QTest.keyClick(window.blank_stage, Qt.Key.Key_Up, Qt.KeyboardModifier.ShiftModifier)
    settle(window)
    parameters = window.session.job.row(30).parameters
    assert (float(parameters["x"]), float(parameters["y"])) == (-135, -70)


def test_artwork_off_the_blank_is_said_and_kept(window):
    click_row(window, 30)
    window.session.edit("", lambda job: job.set("d30", "x", "400"))
    settle(window)
    assert "outside by" in " ".join(f.text for f in state(window, 30).outcome.figures)
    assert "outside the blank" in state(window, 40).outcome.messages[0]
    assert len(value(window, 40)) == len(value(window, 30).contours)
    click_row(window, 40)
    assert "outside the blank" in card(window, 40)._state.text()


def test_the_twin_cursor_shows_the_same_point_on_both_stages(window):
    click_row(window, 20)
    hover(window.form_stage, form_pixel(window, [0, -130, 210]))
    at = window.session.cursor_blank
    assert np.linalg.norm(on_cone(at[None])[0] - [0, -130, 210]) < 2.5
    x, y = window.blank_stage.view.to_pixels(np.array([[10.0, -200.0]]))[0]
    hover(window.blank_stage, QPoint(round(x), round(y)))
    assert window.session.cursor_blank == pytest.approx([10, -200], abs=2.5)
    window.grab()


def test_turning_panning_zooming_and_views(window):
    stage = window.form_stage
    before = stage.camera
    drag(stage, QPoint(60, 120), QPoint(130, 150))
    assert stage.camera.azimuth != before.azimuth and window.session.job == cyclone_and_lid()
    wheel = QWheelEvent(QPointF(200, 300), stage.mapToGlobal(QPointF(200, 300)), QPoint(), QPoint(0, 240),
                        Qt.MouseButton.NoButton, Qt.KeyboardModifier.NoModifier, Qt.ScrollPhase.NoScrollPhase, False)  # fmt: skip
    scale = stage.camera.scale
    QApplication.sendEvent(stage, wheel)
    assert stage.camera.scale > scale
    QTest.keyClick(window, Qt.Key.Key_6)
    assert stage.camera.elevation == 90
    stage.setFocus()
    QTest.keyClick(stage, Qt.Key.Key_Down)
    assert stage.camera.elevation == 85
    QTest.keyClick(window, Qt.Key.Key_F)


def test_each_stage_takes_the_whole_width_by_one_key(window):
    for key, stage in (
        (Qt.Key.Key_F2, window.form_stage),
        (Qt.Key.Key_F3, window.card),
        (Qt.Key.Key_F4, window.blank_stage),
    ):
        QTest.keyClick(window, key)
        QApplication.processEvents()
        assert stage.width() > 1200
        window.grab()
        QTest.keyClick(window, key)
        QApplication.processEvents()
        assert stage.width() < 700


def test_the_stretch_map_has_a_legend_in_numbers(window):
    click_row(window, 70)
    QTest.keyClick(window, Qt.Key.Key_S)
    assert window.form_stage.mode == "stretch" and window.blank_stage.mode == "stretch"
    image = window.blank_stage.grab().toImage()
    centre = window.blank_stage.view.to_pixels(np.array([[0.0, 30.0]]))[0]
    plain = image.pixelColor(*np.round(centre).astype(int))
    QTest.keyClick(window, Qt.Key.Key_S)
    assert window.form_stage.mode == "compression" and window.blank_stage.mode == "compression"
    assert window.blank_stage.grab().toImage().pixelColor(*np.round(centre).astype(int)) != plain
    QTest.keyClick(window, Qt.Key.Key_S)
    drawn = window.blank_stage.grab().toImage().pixelColor(*np.round(centre).astype(int))
    assert plain != drawn


def test_an_operation_is_added_by_typing(window):
    click_row(window, 20)
    QTest.keyClick(window, Qt.Key.Key_N)
    field = window.card.list.field
    assert field.hasFocus() or QApplication.focusWidget() is field
    QTest.keyClicks(field, "trace")
    assert [e.key for e in window.card.list.lines.shown] == ["trace"]
    QTest.keyClick(field, Qt.Key.Key_Return)
    settle(window)
    assert [row.number for row in window.session.job.rows][:3] == [10, 20, 25]
    assert window.session.selected_row.operation == "trace"
    assert "no file yet" in state(window, 25).reason and state(window, 25).status == "waiting"
    dialog = window.findChild(QFileDialog)  # it asks for the file at once
    assert dialog is not None and dialog.isVisible()
    QTest.keyClick(dialog, Qt.Key.Key_Escape)
    assert not dialog.isVisible()
    window.activateWindow()
    QTest.qWait(50)
    QTest.keyClick(window, Qt.Key.Key_Delete)
    assert len(window.session.job.rows) == 10


def test_rows_are_switched_off_moved_and_noted(window):
    click_row(window, 30)
    QTest.keyClick(window, Qt.Key.Key_O)
    settle(window)
    assert not window.session.job.row(30).enabled
    assert "row 30, which is switched off" in state(window, 40).reason
    assert not artworks(window.blank_stage.scene()) or all(
        row.number != 30 for row, _ in artworks(window.blank_stage.scene())
    )
    QTest.keyClick(window, Qt.Key.Key_O)
    QTest.keyClick(window, Qt.Key.Key_Up, Qt.KeyboardModifier.AltModifier)
    assert "must stay below" in window.notice.label.text()
    note = card(window, 30).note
    note.setFocus()
    QTest.keyClicks(note, "gap = 7.5")
    QTest.keyClick(note, Qt.Key.Key_Return)
    assert window.session.job.numbers["gap"] == 7.5


def test_named_values_are_added_changed_and_refused(window):
    QTest.keyClick(window, Qt.Key.Key_V)
    strip = window.card.values
    QTest.keyClicks(strip.adder, "lift = rim/8")
    QTest.keyClick(strip.adder, Qt.Key.Key_Return)
    assert window.session.job.numbers["lift"] == 50
    strip.fields["rim"].selectAll()
    QTest.keyClicks(strip.fields["rim"], "320")
    QTest.keyClick(strip.fields["rim"], Qt.Key.Key_Return)
    settle(window)
    assert value(window, 10).bounds[1][0] == pytest.approx(160)
    strip.adder.setFocus()
    QTest.keyClicks(strip.adder, "2x = 1")
    QTest.keyClick(strip.adder, Qt.Key.Key_Return)
    assert "cannot be the name" in strip._refusal.text() and strip._refusal.isVisible()
    window.form_stage.setFocus()  # it goes when its field is left, where the text stays
    assert not strip._refusal.isVisible() and strip.adder.text() == "2x = 1"


def test_a_broken_row_shows_its_reason_and_what_is_out_of_date(window):
    click_row(window, 70)
    window.session.edit("", lambda job: job.set("d70", "way", "exact"))
    settle(window)
    assert state(window, 70).status == "broken"
    assert "broken: Face 1 is a free form" in card(window, 70)._state.text()
    assert "out of date: row 70 is broken" in window.blank_stage.warning
    assert not any("write" in text for text, *_ in card(window, 70)._offers())
    window.undo()
    settle(window)
    assert state(window, 70).status == "done" and not window.blank_stage.warning


def test_a_crash_of_the_engine_leaves_the_window_alive(window):
    click_row(window, 70)
    window.session.edit("", lambda job: job.set("d70", "triangles", "0.8"))
    wait(
        lambda: (
            window.session.running is not None and window.session.running[0] == "d70" and window.session.running[1] > 0
        ),
        "the lid",
    )
    os.kill(window.session.engine.process_of("d70"), signal.SIGKILL)
    wait(lambda: "d70" not in window.session.pending and state(window, 70).status == "broken", "the crash to be seen")
    settle(window)
    assert "SIGKILL" in card(window, 70)._state.text() and "try again" in [t for t, *_ in card(window, 70)._offers()]
    window.session.edit("", lambda job: job.set("d70", "triangles", "5"))
    settle(window)
    assert state(window, 70).status == "done"


def test_stop_stops(window):
    click_row(window, 70)
    window.session.edit("", lambda job: job.set("d70", "triangles", "0.8"))
    wait(lambda: window.session.running is not None and window.session.running[0] == "d70", "the lid")
    assert window.top.stop.isVisible()
    QTest.mouseClick(window.top.stop, LEFT)
    settle(window)
    assert state(window, 70).status == "stopped" and state(window, 50).status == "done"


def test_save_open_and_the_unsaved_mark(window, tmp_path, monkeypatch):
    path = tmp_path / "job.zuschnitt"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *a, **k: (str(path), ""))
    window.session.edit("", lambda job: job.set("d30", "turn", "12"))
    assert "•" in window.top.job_button.text() and window.isWindowModified()
    QTest.keyClick(window, Qt.Key.Key_S, Qt.KeyboardModifier.ControlModifier)
    assert path.exists() and "•" not in window.top.job_button.text()
    saved = load_job(path)
    assert saved == window.session.job
    window.session.start_job(Job())
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *a, **k: (str(path), ""))
    QTest.keyClick(window, Qt.Key.Key_O, Qt.KeyboardModifier.ControlModifier)
    settle(window)
    assert window.session.job == saved and {s.status for s in window.session.states.values()} == {"done"}
    window.menu()
    assert window.open_menu.actions()


def test_a_bad_job_file_is_said_and_leaves_the_job(window, tmp_path):
    (tmp_path / "bad.zuschnitt").write_bytes(b"PK nonsense")
    assert not window.open_path(tmp_path / "bad.zuschnitt")
    assert "not a whole job file" in window.notice.label.text()
    assert window.session.job == cyclone_and_lid()


@pytest.mark.parametrize("answer, leaves", [("Stay here", False), ("Lose them", True)])
def test_closing_asks_when_something_would_be_lost(window, monkeypatch, answer, leaves):
    window.session.edit("", lambda job: job.set("d30", "turn", "12"))

    def choose(box):
        button = next(b for b in box.buttons() if b.text() == answer)
        monkeypatch.setattr(box, "clickedButton", lambda: button, raising=False)
        return 0

    monkeypatch.setattr(QMessageBox, "exec", choose)
    assert window._may_leave() is leaves


def test_a_crash_of_the_window_loses_nothing(tmp_path):
    """A real window process is killed after an edit; the next one offers the job again."""
    code = """
import os, sys, time
os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
from PyQt6.QtWidgets import QApplication
app = QApplication([])
from zuschnitt.window.autosave import Autosave
from zuschnitt.window.session import Session
from zuschnitt.window.main_window import MainWindow
from zuschnitt.demo.job import cyclone_and_lid
session = Session(autosave=Autosave()); window = MainWindow(session); session.start_job(cyclone_and_lid()); window.show()
session.edit("Turn", lambda job: job.set("d30", "turn", "33"))
print("edited", flush=True)
while True: app.processEvents(); time.sleep(0.01)
"""
    root = str(Path(__file__).parents[2])
    environment = {**os.environ, "XDG_STATE_HOME": str(tmp_path / "s"), "PYTHONPATH": root}
    process = subprocess.Popen([sys.executable, "-c", code], stdout=subprocess.PIPE, text=True, env=environment)
    assert process.stdout.readline().strip() == "edited"
    process.kill()
    process.wait()
    (left,) = Autosave(tmp_path / "s" / "zuschnitt").left_behind()
    assert left.name == "Chaff cyclone" and left.job().row(30).parameters["turn"] == "33"


def test_a_job_left_behind_is_offered_and_taken_up(window, tmp_path):
    autosave = Autosave(tmp_path / "other")
    autosave.file = tmp_path / "other" / "autosave-999999999.zuschnitt"
    job = cyclone_and_lid().set("d30", "turn", "33")
    autosave.keep(job, None, True)
    (left,) = Autosave(tmp_path / "other").left_behind()
    window.offer(autosave, left)
    assert "was not saved" in window.notice.label.text()
    QTest.mouseClick(window.notice._buttons[0], LEFT)
    settle(window)
    assert window.session.job == job and window.session.unsaved
    assert not autosave.file.exists()


def test_autosave_goes_with_a_clean_end(window):
    window.session.edit("", lambda job: job.set("d30", "turn", "12"))
    assert window.session.autosave.file.exists()
    window.session.close()
    assert not window.session.autosave.file.exists()


def test_files_dropped_become_rows(empty_window, step, tmp_path):
    window = empty_window
    assert "Begin with a form" and window.card._empty.isVisible()
    window.take_file(step("tube"))
    settle(window)
    assert [row.operation for row in window.session.job.rows] == ["bring_in"]
    window.session.select(window.session.job.rows[0].id)
    window.card._picked("develop")
    settle(window)
    assert value(window, 20).way == "exact"
    (tmp_path / "photo.png").write_bytes(b"x")
    window.take_file(tmp_path / "photo.png")
    assert "neither" in window.notice.label.text()


def test_results_are_written_from_a_row(window, tmp_path, monkeypatch):
    for number, kind in ((50, "dxf"), (50, "svg"), (40, "step"), (10, "stl")):
        path = tmp_path / f"out.{kind}"
        monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *a, p=path, **k: (str(p), ""))
        window.card.write_asked.emit(window.session.job.row(number).id, kind)
        wait(lambda: "is written" in window.notice.label.text() or "cannot" in window.notice.label.text(), kind)
        assert path.exists(), window.notice.label.text()
        window.notice.label.setText("")
    assert b"B_SPLINE_CURVE" in (tmp_path / "out.step").read_bytes()
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *a, **k: (str(tmp_path / "no" / "o.dxf"), ""))
    window.card.write_asked.emit("d50", "dxf")
    assert "cannot be written" in window.notice.label.text()


def test_every_key_has_its_action_and_no_two_are_alike(window):
    keys = [key for rows in KEYS.values() for key, _, _ in rows]
    assert len(set(keys)) == len(keys)
    for rows in KEYS.values():
        for _, name, words in rows:
            assert words and (name.startswith("view_") or callable(getattr(window, name)))
    window.keys()
    for each in QApplication.topLevelWidgets():
        if each.windowTitle() == "Keys":
            assert each.grab().width() > 500
            each.close()


def test_a_row_that_is_selected_again_has_one_sentence(window):
    first, second = (row.id for row in window.session.job.rows[:2])
    for row_id in (first, second, first):
        window.session.select(row_id)
        QApplication.processEvents()
    assert sum(each.isVisible() for each in window.card.cards[first].findChildren(Sentence)) == 1


def test_text_is_never_small_and_contrast_is_enough():
    from PyQt6.QtGui import QColor

    from zuschnitt.window.theme import DARK, LIGHT, font

    def luminance(colour):
        c = QColor(colour)
        parts = [v / 12.92 if v <= 0.03928 else ((v + 0.055) / 1.055) ** 2.4 for v in (c.redF(), c.greenF(), c.blueF())]
        return 0.2126 * parts[0] + 0.7152 * parts[1] + 0.0722 * parts[2]

    def contrast(a, b):
        high, low = sorted((luminance(a), luminance(b)), reverse=True)
        return (high + 0.05) / (low + 0.05)

    assert font(8).pixelSize() == 11
    for scheme in (LIGHT, DARK):
        for paper in (scheme.paper, scheme.chosen, scheme.form_paper, scheme.blank_paper):
            for ink in (scheme.ink, scheme.quiet, scheme.form, scheme.blank, scheme.broken):
                assert contrast(ink, paper) >= 4.5, (ink, paper)


def test_the_empty_job_says_what_to_do_first(empty_window):
    assert "First get a form" in empty_window.card._empty.text()
    assert empty_window.form_stage.grab().width() > 100


def test_views_and_fit_are_clicked_at_the_foot_of_a_stage(window):
    stage = window.form_stage
    stage.grab()
    places = dict(stage._offers)
    QTest.mouseClick(stage, LEFT, pos=places["top"].center().toPoint())
    assert stage.camera.elevation == 90
    QTest.mouseClick(stage, LEFT, pos=places["front"].center().toPoint())
    assert (stage.camera.azimuth, stage.camera.elevation) == (-90, 0)
    blank = window.blank_stage
    blank.zoom(3.0, QPointF(100, 300))
    blank.grab()
    QTest.mouseClick(blank, LEFT, pos=dict(blank._offers)["fit"].center().toPoint())
    x0, y0, x1, y1 = blank.blank().bounds
    corners = blank.view.to_pixels(np.array([[x0, y0], [x1, y1]]))
    assert (corners > 0).all() and (corners < [blank.width(), blank.height()]).all()


def test_a_row_and_the_job_are_named_where_their_names_stand(window):
    click_row(window, 40)
    next(do for text, _, do in card(window, 40)._offers() if text == "name")()
    field = card(window, 40).naming
    before = window.session.job.row(40).name
    QTest.keyClicks(field, "something else")
    QTest.keyClick(field, Qt.Key.Key_Escape)
    assert window.session.job.row(40).name == before
    QTest.mouseDClick(card(window, 40), LEFT, pos=QPoint(80, 18))
    QTest.keyClicks(card(window, 40).naming, "Badge on the cone")
    QTest.keyClick(card(window, 40).naming, Qt.Key.Key_Return)
    assert window.session.job.row(40).name == "Badge on the cone"
    window.rename()
    QTest.keyClicks(window.top.naming, "Cyclone two")
    QTest.keyClick(window.top.naming, Qt.Key.Key_Return)
    assert window.session.job.name == "Cyclone two"
    assert "in: artwork" in card(window, 40).toolTip()


def test_places_that_fail_are_marked_on_both_stages(window):
    click_row(window, 70)
    centre = window.blank_stage.view.to_pixels(np.array([[0.0, 6.0]]))[0]
    at = tuple(np.round(centre).astype(int) + [25, 0])
    before = window.blank_stage.grab().toImage().pixelColor(*at)
    form_before = window.form_stage.grab().toImage()
    window.session.edit("", lambda job: job.set("d70", "material", "steel sheet"))
    settle(window)
    assert not value(window, 70).verdict.can
    assert window.blank_stage.grab().toImage().pixelColor(*at) != before
    assert window.form_stage.grab().toImage() != form_before
    assert "no, not on" in window.figures.figures()[-1].text


def test_a_result_that_arrives_during_a_drag_does_not_end_it(window):
    """An earlier edit is still being computed while artwork is dragged; the drop must count."""
    click_row(window, 30)
    stage = window.blank_stage
    window.session.edit("", lambda job: job.set("d30", "turn", "5"))
    start = QPoint(
        *np.round(
            stage.view.to_pixels(frame_of(stage.scene(), window.session.job.row(30)).mean(axis=0)[None])[0]
        ).astype(int)
    )
    QTest.mousePress(stage, LEFT, pos=start)
    QTest.mouseMove(stage, start + QPoint(12, 9))
    settle(window)
    assert "d30" in window.session.motions
    QTest.mouseRelease(stage, LEFT, pos=start + QPoint(12, 9))
    settle(window)
    assert float(window.session.job.row(30).parameters["x"]) > -136 + 20
    assert not window.session.motions


def test_a_new_row_asks_for_what_it_waits_for(window):
    session = window.session
    session.select(session.job.row(60).id)
    window.card._picked("draw_curve")
    settle(window)
    row = session.selected_row
    assert session.wanted is not None and session.wanted.row_id == row.id and session.wanted.name == "through"
    assert state(window, row.number).status == "waiting" and "waits for points" in state(window, row.number).reason
    assert window.form_stage.tool.picks == "points" and "click points" in window.form_stage._foot()
    assert window.blank_stage.blank() is not None  # the blank of the same form, and no invitation to develop it
    form = window.form_stage.form()
    middles = form.meshes[0].points[[len(form.meshes[0].points) // 3, len(form.meshes[0].points) // 2]]
    for point in middles:
        QTest.mouseClick(window.form_stage, Qt.MouseButton.LeftButton, pos=form_pixel(window, point))
        settle(window)
    assert state(window, row.number).status == "done"
    assert len(value(window, row.number)) == 1 and "drawn" in window.form_stage.picture.lines.sets
