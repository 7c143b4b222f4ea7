"""Drawing on the blank with mouse and keys: figures are added, picked, moved, caught, dimensioned, copied, removed."""

from __future__ import annotations

import numpy as np
import pytest
from PyQt6.QtCore import QPoint, QPointF, Qt
from PyQt6.QtTest import QTest

from zuschnitt.core.job.route import Job

from .conftest import opened, settle


def drawing_job(*figures):
    lines = [{"number": k, **line} for k, line in enumerate(figures, start=1)]
    return Job().with_value("w", "40").added("lay_sheet", width=200, height=100).added("draw_figures", figures=lines)


SLOT = {"figure": "slot", "length": "w", "width": "12", "x": "30", "y": "20", "place": "edge 1"}
HOLE = {"figure": "circle", "diameter": "10", "x": "20", "y": "20", "place": "corner 3"}


@pytest.fixture
def window(application, tmp_path):
    """A window with a sheet and a drawing of a slot and a hole on it, which is selected."""
    made = opened(tmp_path, drawing_job(SLOT, HOLE))
    window = next(made)
    window.session.select(window.session.job.rows[-1].id)
    settle(window)
    yield window
    made.close()


def pixel(window, x, y) -> QPoint:
    at = window.blank_stage.view.to_pixels(np.array([[x, y]], float))[0]
    return QPointF(*at).toPoint()


def click(window, x, y, modifiers=Qt.KeyboardModifier.NoModifier):
    stage, at = window.blank_stage, pixel(window, x, y)
    QTest.mouseMove(stage, at)
    QTest.mouseClick(stage, Qt.MouseButton.LeftButton, modifiers, at)


def pull(window, start, end, modifiers=Qt.KeyboardModifier.NoModifier):
    stage = window.blank_stage
    a, b = pixel(window, *start), pixel(window, *end)
    QTest.mouseMove(stage, a)
    QTest.mousePress(stage, Qt.MouseButton.LeftButton, modifiers, a)
    for k in range(1, 5):
        QTest.mouseMove(stage, a + (b - a) * k / 4)
    QTest.mouseRelease(stage, Qt.MouseButton.LeftButton, modifiers, b)


def figures(window):
    return window.session.selected_row.parameters["figures"]


def test_a_figure_is_placed_by_a_click_and_catches_what_is_there(window):
    session = window.session
    card = window.card.cards[session.selected]
    card.figures.begin("circle")
    assert session.placing == "circle" and "click where it is to be" in window.blank_stage.tool.foot
    click(window, 61, 41)
    assert session.placing is None and session.figures == {3}
    new = figures(window)[-1]
    assert float(new["x"]) == pytest.approx(61 - 100, abs=1) and new["place"] == "middle"
    card.figures.begin("circle")
    click(window, 199, 99)  # near a corner
    assert figures(window)[-1]["place"] == "corner 3"
    settle(window)
    artwork = session.value(session.selected_row, "artwork")
    assert artwork.numbers == (1, 2, 3, 4)
    session.undo()
    session.undo()
    assert len(figures(window)) == 2


def test_figures_are_picked_by_click_and_box_and_moved(window):
    session = window.session
    click(window, 130, 14)  # the lower line of the slot
    assert session.figures == {1}
    click(window, 180, 85, Qt.KeyboardModifier.ShiftModifier)
    assert session.figures == {1, 2}
    click(window, 20, 50)
    assert session.figures == set()
    pull(window, (170, 70), (192, 92))  # wholly inside
    assert session.figures == {2}
    pull(window, (100, 5), (130, 50))  # touches only
    assert session.figures == set()
    pull(window, (100, 5), (130, 50), Qt.KeyboardModifier.ControlModifier)
    assert session.figures == {1}
    pull(window, (130, 14), (110, 44))
    line = figures(window)[0]
    assert float(line["x"]) == pytest.approx(10, abs=1.5) and float(line["y"]) == pytest.approx(50, abs=1.5)
    assert len(line["x"]) <= 4  # rounded to what the zoom can tell
    session.undo()
    assert figures(window)[0]["x"] == "30"


def test_keys_move_copy_and_remove(window):
    session, stage = window.session, window.blank_stage
    click(window, 180, 85)
    QTest.keyClick(stage, Qt.Key.Key_Right)
    QTest.keyClick(stage, Qt.Key.Key_Up, Qt.KeyboardModifier.ShiftModifier)
    assert (figures(window)[1]["x"], figures(window)[1]["y"]) == ("19", "10")  # measured from the upper right corner
    QTest.keyClick(stage, Qt.Key.Key_C, Qt.KeyboardModifier.ControlModifier)
    QTest.keyClick(stage, Qt.Key.Key_V, Qt.KeyboardModifier.ControlModifier)
    assert len(figures(window)) == 3 and session.figures == {3}
    QTest.keyClick(stage, Qt.Key.Key_Delete)
    assert len(figures(window)) == 2 and len(session.job.rows) == 2
    QTest.keyClick(stage, Qt.Key.Key_A, Qt.KeyboardModifier.ControlModifier)
    assert session.figures == {1, 2}
    QTest.keyClick(stage, Qt.Key.Key_Escape)
    assert session.figures == set()


def test_a_dimension_is_edited_where_it_stands(window):
    session, stage = window.session, window.blank_stage
    click(window, 130, 14)
    stage.grab()
    layer = next(layer for layer in stage.layers if hasattr(layer, "number_at"))
    area = next(area for area, dimension in layer._numbers if dimension.name == "length")
    QTest.mouseClick(stage, Qt.MouseButton.LeftButton, pos=area.center().toPoint())
    assert stage.field.text() == "w"
    QTest.keyClicks(stage.field, "w + 2*5")
    assert figures(window)[0]["length"] == "w + 2*5"
    QTest.keyClick(stage.field, Qt.Key.Key_Return)
    settle(window)
    artwork = session.value(session.selected_row, "artwork")
    assert artwork.contours[0].bounds[1][0] - artwork.contours[0].bounds[0][0] == pytest.approx(50)
    # what is no good changes nothing, and is left as it was
    stage.grab()
    area = next(area for area, dimension in layer._numbers if dimension.name == "width")
    QTest.mouseClick(stage, Qt.MouseButton.LeftButton, pos=area.center().toPoint())
    QTest.keyClicks(stage.field, "-3")
    assert "too small" in stage.field.toolTip()
    QTest.keyClick(stage.field, Qt.Key.Key_Escape)
    assert figures(window)[0]["width"] == "12"


def test_a_place_is_picked_on_the_stage_and_the_list_follows(window):
    session = window.session
    click(window, 130, 14)
    card = window.card.cards[session.selected]
    sentence = card.figures.sentences[1]
    sentence.chips["place"].open()
    click(window, 180, 80)  # the middle of the hole
    assert figures(window)[0]["place"] == "figure 2" and session.wanted is None
    assert sentence.chips["place"].words == "figure 2"
    chip = sentence.chips["length"]
    chip.open()
    QTest.keyClicks(chip.editor, "55")
    assert figures(window)[0]["length"] == "55"
    QTest.keyClick(chip.editor, Qt.Key.Key_Return)
    # what is made of others takes those that are picked
    session.pick_figures({1, 2})
    card.figures.begin("combine")
    assert figures(window)[-1] == {"number": 3, "figure": "combine", "of": "1", "other": "2"}


def test_a_value_that_waits_for_a_click_may_go_away(window):
    session = window.session
    click(window, 130, 14)
    window.card.cards[session.selected].figures.sentences[1].chips["place"].open()
    assert session.wanted is not None
    session.edit("", lambda job: job.set(session.selected, "figures", []))
    assert session.wanted is None
    pull(window, (20, 20), (60, 60))  # nothing is there any more, and nothing falls over
    window.form_stage.refresh()
    session.undo()
    click(window, 130, 14)
    window.card.cards[session.selected].figures.sentences[1].chips["place"].open()
    session.pick_figures({2})
    assert session.wanted is None
    session.edit("", lambda job: job.removed(session.selected))
    settle(window)
    click(window, 130, 14)


def test_figures_of_another_version_are_shown_and_break_their_row_alone(application, tmp_path):
    from dataclasses import replace

    job = drawing_job(SLOT, HOLE)
    row = job.rows[-1]
    odd = [*row.parameters["figures"], {"number": 3, "figure": "star", "points": "5"}]
    job = replace(job, rows=(*job.rows[:-1], replace(row, parameters={**row.parameters, "figures": odd})))
    made = opened(tmp_path, job)
    window = next(made)
    session = window.session
    session.select(row.id)
    settle(window)
    assert "no figure 'star'" in session.states[row.id].reason
    session.pick_figures({3})
    settle(window)
    click(window, 130, 14)
    made.close()


@pytest.mark.parametrize(
    "line", [{"figure": "circle"}, {"number": "x", "figure": "circle"}, {"number": 1}, 7, {"number": 1, "figure": 3}]
)
def test_a_job_file_with_odd_figures_is_refused_by_its_place(line, tmp_path):
    import json
    import zipfile

    from zuschnitt.core.errors import Refused
    from zuschnitt.core.job.job_file import job_bytes, job_from_bytes

    content = job_bytes(drawing_job(SLOT))
    path = tmp_path / "a.zip"
    path.write_bytes(content)
    with zipfile.ZipFile(path) as archive:
        about = json.loads(archive.read("job.json"))
    about["rows"][1]["parameters"]["figures"] = [line]
    with zipfile.ZipFile(path, "w") as archive:
        archive.writestr("job.json", json.dumps(about))
    with pytest.raises(Refused, match="figures"):
        job_from_bytes(path.read_bytes(), "a.zuschnitt")


def test_a_new_drawing_waits_in_calm_words(window):
    session = window.session
    session.edit("", lambda job: job.added("draw_figures"))
    session.select(session.job.rows[-1].id)
    settle(window)
    state = session.states[session.selected]
    assert state.status == "waiting" and "waits for a figure" in state.reason
    assert "choose draw" in window.blank_stage.tool.foot
    window.card.cards[session.selected].figures.begin("circle")
    click(window, 60, 40)
    settle(window)
    assert session.states[session.selected].status == "done"
