"""A table of sizes in the window: any row is looked at, and the files of all are made by real processes."""

from __future__ import annotations

import json

import numpy as np
import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QFileDialog

from zuschnitt.core.files.dxf import read_dxf
from zuschnitt.core.job.route import Job

from .conftest import opened, settle, wait

TABLE = "name,rim,high\nsmall,120,60\nlarge,300,200\nwrong,-5,60\nempty,,10\n"


@pytest.fixture
def window(application, tmp_path):
    job = Job(material="steel sheet").with_value("rim", "200").with_value("high", "100")
    job = (
        job.added("turned_body", top="rim", cylinder="0", cone="high", outlet="rim/2")
        .added("develop")
        .added("cut_file")
    )
    made = opened(tmp_path, job)
    yield next(made)
    made.close()


@pytest.fixture
def sheet(window, tmp_path, monkeypatch):
    path = tmp_path / "sizes.csv"
    path.write_text(TABLE)
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *_: (str(path), ""))
    window.menu()
    next(a for a in window.open_menu.actions() if a.text().startswith("A table of sizes")).trigger()
    window.open_menu.close()
    return window.table


def cone(rim: float, high: float) -> float:
    """The area of its wall, which is half as wide below as above."""
    return np.pi * 0.75 * rim * np.hypot(rim / 4, high)


def click(sheet, row: int) -> None:
    area = sheet.table.visualItemRect(sheet.table.item(row, 0))
    QTest.mouseClick(sheet.table.viewport(), Qt.MouseButton.LeftButton, pos=area.center())


def blank_of(window):
    settle(window)
    return window.session.value(window.session.job.rows[1], "blank")


def test_a_row_is_looked_at_and_the_job_is_as_before(window, sheet):
    session = window.session
    before, area = session.job, blank_of(window).figures.area_blank
    areas = []
    for row in (0, 1):
        click(sheet, row)
        areas.append(blank_of(window).figures.area_blank)
    assert areas == pytest.approx([cone(120, 60), cone(300, 200)], rel=1e-6)
    click(sheet, 3)
    assert "no value for rim" in sheet.state.text()
    sheet.close()
    assert session.job == before and not session.history.past[2:]
    assert blank_of(window).figures.area_blank == area


def test_a_rows_values_are_kept_and_one_undo_brings_the_others_back(window, sheet):
    session = window.session
    before = session.job
    click(sheet, 0)
    click(sheet, 1)
    QTest.mouseClick(sheet.keep, Qt.MouseButton.LeftButton)
    sheet.close()
    assert dict(session.job.values) == {"rim": "300", "high": "200"}
    session.undo()
    assert session.job == before


def test_what_was_edited_while_a_row_is_looked_at_stays(window, sheet):
    session = window.session
    click(sheet, 0)
    session.edit("", lambda job: job.set(job.rows[0].id, "cone", "high+1"))
    edited = session.job
    sheet.close()
    assert session.job == edited


def test_the_files_of_all_rows_are_made_and_bad_rows_say_why(window, sheet, tmp_path):
    session = window.session
    session.select(session.job.rows[2].id)
    settle(window)
    out = tmp_path / "out"
    sheet.begin(out)
    wait(lambda: sheet._process is None, "the batch")
    assert {path.name for path in out.glob("*.dxf")} == {"small.dxf", "large.dxf"}
    report = {row["name"]: row["status"] for row in json.loads((out / "report.json").read_text())["rows"]}
    assert report["small"] == report["large"] == "done"
    texts = [sheet.table.item(k, sheet.table.columnCount() - 1).text() for k in range(4)]
    assert texts[0] == "small.dxf" and texts[1] == "large.dxf" and texts[2] and "no value for rim" in texts[3]
    assert "2 of 4 rows were not made" in sheet.state.text()
    (small,) = [c for c in read_dxf((out / "small.dxf").read_bytes(), "small.dxf").contours if c.layer == "CUT"]
    assert abs(small.area) == pytest.approx(cone(120, 60), rel=1e-6)


def test_a_table_that_is_none_is_refused_with_a_sentence(window, tmp_path):
    said = []
    window.notice.say = lambda text, kind: said.append(text)
    path = tmp_path / "t.csv"
    path.write_text("name,depth\na,1\n")
    window.show_table(path)
    assert "no value of that name" in said[0]
