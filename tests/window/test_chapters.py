"""Chapters on the route card, with mouse and keys; and all bodies of the job together on the form stage."""

from __future__ import annotations

import pytest
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication

from tests.window.conftest import opened, settle
from zuschnitt.core.job.chapters import chapters, named
from zuschnitt.core.job.route import Job
from zuschnitt.window.card.row_card import RowCard

LEFT = Qt.MouseButton.LeftButton


def two_parts() -> Job:
    job = Job(name="Two parts").added("turned_body", top="200", cylinder="80", cone="150", outlet="60").added("develop")
    job = job.added("hollow_block", width="120", depth="90", height="40").added("lay_sheet")
    return named(named(job, job.row(10).id, "Hopper"), job.row(30).id, "Tray")


@pytest.fixture
def window(application, tmp_path):
    made = opened(tmp_path, two_parts())
    yield next(made)
    next(made, None)


def head(window, name):
    return next(each for each in window.card.heads.values() if each.chapter.name == name)


def shown(window) -> list[int]:
    return sorted(card.row.number for card in window.card.cards.values())


def click(widget, at: QPoint | None = None):
    QTest.mouseClick(widget, LEFT, pos=at or QPoint(120, widget.height() // 2))
    QApplication.processEvents()


def test_a_job_opens_with_the_chapter_at_work_unfolded(window):
    assert shown(window) == [10, 20] and not head(window, "Hopper").folded and head(window, "Tray").folded


def test_a_click_folds_and_unfolds(window):
    click(head(window, "Tray"))
    assert shown(window) == [10, 20, 30, 40]
    click(head(window, "Hopper"))
    assert shown(window) == [30, 40] and window.session.selected_row.number == 10
    QTest.keyClick(head(window, "Hopper"), Qt.Key.Key_Space)
    assert shown(window) == [10, 20, 30, 40]
    QTest.keyClick(window, Qt.Key.Key_D)
    assert shown(window) == [30, 40]


def test_a_folded_one_says_what_its_form_and_its_blank_are(window):
    click(head(window, "Hopper"))
    blank = window.session.outcome(window.session.job.row(20)).result("blank").value
    said = [f"{f.label} {f.text}" for f in head(window, "Hopper").figures()]
    assert len(said) == 2 and said[0].startswith("form ") and said[1].startswith("blank ")
    assert float(said[1].split()[1]) == pytest.approx(blank.figures.area_blank / 1e6, rel=1e-3)
    assert head(window, "Tray").figures()[0].label == "form"


def test_a_folded_one_does_not_hide_what_is_broken(window):
    broken = window.session.job.row(20).id
    window.session.edit("Break it", lambda job: job.set(broken, "faces", "99"))
    settle(window)
    click(head(window, "Hopper"))
    assert "row 20 is broken" in head(window, "Hopper").accessibleName()


def test_selecting_a_row_unfolds_its_chapter(window):
    QTest.keyClick(window, Qt.Key.Key_PageDown)
    QTest.keyClick(window, Qt.Key.Key_PageDown)
    assert window.session.selected_row.number == 30 and shown(window) == [10, 20, 30, 40]
    assert window.card.cards[window.session.selected].hasFocus()


def test_a_row_begins_a_chapter_which_is_named_where_it_stands(window):
    window.session.select(window.session.job.row(20).id)
    QApplication.processEvents()
    QTest.keyClick(window, Qt.Key.Key_T)
    field = head(window, "Part 3").naming
    assert field.isVisible() and field.selectedText() == "Part 3"
    QTest.keyClicks(field, "Blank of the hopper")
    QTest.keyClick(field, Qt.Key.Key_Return)
    assert [c.name for c in chapters(window.session.job.rows)] == ["Hopper", "Blank of the hopper", "Tray"]
    window.session.undo()
    window.session.undo()
    assert [c.name for c in chapters(window.session.job.rows)] == ["Hopper", "Tray"]


def test_a_chapter_without_a_name_is_none(window):
    QTest.mouseDClick(head(window, "Tray"), LEFT, pos=QPoint(60, 16))
    field = head(window, "Tray").naming
    field.selectAll()
    QTest.keyClick(field, Qt.Key.Key_Delete)
    QTest.keyClick(field, Qt.Key.Key_Return)
    assert [c.name for c in chapters(window.session.job.rows)] == ["Hopper"]
    assert shown(window) == [10, 20, 30, 40]


def test_a_row_that_hangs_together_with_nothing_shows_its_chapter(window):
    job = window.session.job.added("bring_in_drawing", window.session.job.row(40).id)
    window.session.edit("Add", lambda _: job)
    window.session.select(window.session.job.rows[-1].id)
    settle(window)
    assert window.form_stage.form_row().number == 30


def test_all_bodies_are_shown_as_they_stand_then_beside_each_other_then_one_again(window):
    stage = window.form_stage
    QTest.keyClick(window, Qt.Key.Key_J)
    rows = [row.number for row in stage.all_bodies().rows]
    assert rows == [10, 30] and len(stage.picture.form.bodies) == 2 and "as they stand" in stage.about
    tints = stage.all_bodies().looks.tints
    assert len(set(tints.values())) == 2
    width = stage.picture.form.size
    QTest.keyClick(window, Qt.Key.Key_J)
    assert stage.picture.form.size > width and "beside each other" in stage.about
    QTest.keyClick(window, Qt.Key.Key_J)
    assert stage.all_bodies() is None and stage.picture.form is stage.form()


def test_a_click_on_a_body_goes_to_its_row(window):
    stage = window.form_stage
    QTest.keyClick(window, Qt.Key.Key_J)
    QTest.keyClick(window, Qt.Key.Key_J)
    faces = stage.all_bodies().form.bodies[1].faces
    grid = [QPoint(x, y) for x in range(10, stage.width() - 10, 12) for y in range(60, stage.height() - 40, 12)]
    at = next(p for p in grid if (under := stage.under(p.toPointF())) is not None and under[0] in faces)
    QTest.mouseClick(stage, LEFT, pos=at)
    settle(window)
    assert window.session.selected_row.number == 30 and stage.all_bodies() is None
    assert stage.picture.form is window.session.value(window.session.job.row(30), "form")


def test_what_is_hidden_or_off_is_not_among_the_bodies(window):
    tray = window.session.job.row(30).id
    QTest.keyClick(window, Qt.Key.Key_J)
    window.session.edit("Off", lambda job: job.changed(tray, enabled=False))
    settle(window)
    QApplication.processEvents()
    assert [row.number for row in window.form_stage.all_bodies().rows] == [10]
    stage = window.form_stage
    stage.setFocus()
    QTest.keyClick(stage, Qt.Key.Key_Escape)
    assert stage.all_bodies() is None


def test_a_row_that_was_just_unfolded_is_scrolled_into_sight(window):
    job = window.session.job
    for _ in range(6):
        job = job.added("lay_sheet")
    job = job.added("make_ribs", form=job.rows[2].id)
    window.session.edit("Add", lambda _: job)
    settle(window)
    window.session.fold_chapter(job.rows[2].id, True)
    QApplication.processEvents()
    last = job.rows[-1].id
    window.session.select(last)
    window.card.show_selected()
    QApplication.processEvents()
    card = window.card.cards[last]
    assert card.visibleRegion().boundingRect().height() >= card.height() - 1


def test_of_a_very_long_job_only_what_comes_into_sight_has_cards(application, tmp_path, monkeypatch):
    monkeypatch.setattr("zuschnitt.window.card.route_card.AT_ONCE", 20)
    job = Job(name="Long")
    for _ in range(100):
        job = job.added("lay_sheet")
    made = opened(tmp_path, None)
    window = next(made)
    window.session.start_job(job)
    settle(window)
    card = window.card
    assert len(card.cards) < 40
    last = job.rows[-1].id
    window.session.select(last)
    assert last in card.cards  # what is selected is there whatever its place
    card.show_selected()
    QApplication.processEvents()
    assert not card.cards[last].visibleRegion().isEmpty()

    middle = job.rows[45].id
    assert middle not in card.cards
    bar = card._scroll.verticalScrollBar()
    bar.setValue(round(bar.maximum() * 45 / 100))
    for _ in range(20):
        QApplication.processEvents()
    in_sight = [each for each in card.cards.values() if not each.visibleRegion().isEmpty()]
    heights = sum(each.visibleRegion().boundingRect().height() for each in in_sight)
    assert heights >= card._scroll.viewport().height() - 1 and 30 < in_sight[0].row.number / 10 < 60
    order = [widget for k in range(card._rows.count()) if isinstance(widget := card._rows.itemAt(k).widget(), RowCard)]
    assert [each.row.number for each in order] == sorted(each.row.number for each in order)
    assert len(order) == len(card.cards) < 80
    next(made, None)


def test_cards_that_went_out_of_sight_are_let_go_of_and_nothing_moves(application, tmp_path, monkeypatch):
    monkeypatch.setattr("zuschnitt.window.card.route_card.AT_ONCE", 20)
    job = Job(name="Long")
    for k in range(100):
        job = job.added("lay_sheet")
        job = job.changed(job.rows[-1].id, note="a note, and a long one, so that this card is higher " * (k % 3))
    made = opened(tmp_path, None)
    window = next(made)
    window.session.start_job(job)
    settle(window)
    card = window.card
    bar = card._scroll.verticalScrollBar()
    for share in range(0, 101, 2):
        bar.setValue(round(bar.maximum() * share / 100))
        for _ in range(4):
            QApplication.processEvents()
        assert len(card.cards) < 60
    for share in (80, 30, 60):
        bar.setValue(round(bar.maximum() * share / 100))
        for _ in range(4):
            QApplication.processEvents()
        in_sight = [each for each in card.cards.values() if not each.visibleRegion().isEmpty()]
        first, second = sorted(in_sight, key=lambda each: each.y())[1:3]
        before = first.mapTo(card, QPoint(0, 0))
        made_up = set(card.cards)
        window.session.select(second.row.id)
        for _ in range(4):
            QApplication.processEvents()
        assert first.mapTo(card, QPoint(0, 0)) == before
        assert not made_up <= set(card.cards) and len(card.cards) < 60
    next(made, None)
