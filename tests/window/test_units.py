"""Lengths in the job's unit: chosen in the top line, shown in sentences, figures and on stages, and typed."""

from __future__ import annotations

import numpy as np
import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest

from .conftest import settle
from .test_window import LEFT, card, chip, click_row, value


def choose(window, unit):
    QTest.mouseClick(window.top.unit, LEFT)
    menu = window.top.units
    next(action for action in menu.actions() if action.text().startswith(f"lengths in {unit} ")).trigger()
    menu.close()


def test_a_job_in_inches_shows_and_takes_inches_and_keeps_mm(window):
    click_row(window, 10)
    choose(window, "in")
    settle(window)
    assert window.session.job.unit == "in" and window.top.thickness.text().endswith(" in")
    field = chip(window, 10, "cone")
    assert field.words == "16.53543 in"  # 420 mm
    QTest.mouseClick(field, LEFT)
    assert field.editor.text() == "16.53543"
    field.editor.selectAll()
    QTest.keyClicks(field.editor, "18 1/2")
    QTest.keyClick(field.editor, Qt.Key.Key_Return)
    settle(window)
    assert window.session.job.row(10).parameters["cone"] == "18 1/2in" and field.words == "18 1/2 in"
    slant = np.hypot(140, 18.5 * 25.4)
    assert value(window, 20).figures.area_blank == pytest.approx(np.pi * 260 * slant, rel=1e-9)
    click_row(window, 20)
    figures = {figure.label: figure.text for figure in window.figures.figures()}
    assert " in" in figures["size"] and "mm" not in figures["size"]
    assert "mm" not in card(window, 20)._state.text()
    window.undo()
    window.undo()
    settle(window)
    click_row(window, 10)
    assert window.session.job.unit == "mm" and chip(window, 10, "cone").words == "420 mm"


def test_what_is_said_is_in_the_unit_too(window):
    choose(window, "in")
    window.session.said.emit("A hole of 25.4 mm is left out.", "note")
    assert window.notice.label.text() == "A hole of 1.000 in is left out."
    click_row(window, 10)
    field = chip(window, 10, "cone")
    QTest.mouseClick(field, LEFT)
    field.editor.selectAll()
    QTest.keyClicks(field.editor, "-2")
    QTest.keyClick(field.editor, Qt.Key.Key_Return)
    refused = card(window, 10)._refusal
    assert "too small" in refused.text() and " mm" not in refused.text()
