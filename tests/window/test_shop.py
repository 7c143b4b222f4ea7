"""Nest, laser and brake plan have the blank stage to themselves while their row is selected."""

from __future__ import annotations

import numpy as np
import pytest
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtTest import QTest

from tests.core.shop.test_shop_rows import shop_job

from .conftest import opened, settle


@pytest.fixture
def window(application, tmp_path):
    job = shop_job().added("nest_parts", counts="1, 3, 2", sheets="1000 x 600", seconds="1")
    job = job.added("check_cut", drawing=job.row(60).id, done="50").added("plan_bends")
    made = opened(tmp_path, job)
    yield next(made)
    made.close()


def test_each_has_a_view_of_its_own(window):
    session, stage = window.session, window.blank_stage
    pictures = []
    for number, form in ((100, 10), (110, 40), (120, 80)):
        session.select(session.job.row(number).id)
        settle(window)
        scene = stage.scene()
        assert any(layer.alone(scene) for layer in stage.layers)
        assert session.nearby("form").number == form  # the form belongs to the blank that is shown
        pictures.append(bytes(stage.grab().toImage().constBits().asstring(4 * stage.width() * stage.height())))
    assert len(set(pictures)) == 3
    # more of the laser's way is shown when its share is changed
    session.select(session.job.row(110).id)
    before = stage.grab().toImage()
    session.edit("", lambda job: job.set(job.row(110).id, "done", "90"))
    settle(window)
    assert stage.grab().toImage() != before
    session.select(session.job.row(20).id)
    settle(window)
    assert not any(layer.alone(stage.scene()) for layer in stage.layers)


def test_the_bends_are_played_at_the_press(window):
    session, stage, slider = window.session, window.blank_stage, window.card.folding.slider
    session.select(session.job.row(120).id)
    settle(window)
    before, job = stage.grab().toImage(), session.job
    pictures = []
    for value in (20, 60, 180):
        slider.setValue(value)
        pictures.append(stage.grab().toImage())
    assert len({picture.bits().asstring(picture.sizeInBytes()) for picture in (before, *pictures)}) == 4
    assert session.job is job  # it is only looked at
    slider.setValue(slider.maximum())
    assert stage.grab().toImage() == before


def test_the_cut_is_played_and_the_row_keeps_how_far(window):
    session, stage, slider = window.session, window.blank_stage, window.card.folding.slider
    session.select(session.job.row(110).id)
    settle(window)
    assert slider.value() == slider.maximum() / 2  # 50 % of the way
    before = stage.grab().toImage()
    slider.setValue(slider.maximum() // 4)
    assert stage.grab().toImage() != before  # at once, before it is computed
    slider.sliderReleased.emit()
    settle(window)
    assert float(session.job.row(110).parameters["done"]) == 25


def part_at(stage, name: str, copy: int) -> tuple[int, QPoint]:
    """The number of a part of the nest that is shown, and a pixel on it."""
    nest = stage.tool.nest
    number = next(k for k, (_, p) in enumerate(nest.value.parts) if (p.part.name, p.part.copy) == (name, copy))
    sheet, placed = nest.value.parts[number]
    point = np.array(placed.solid.representative_point().coords[0]) + nest.places()[sheet][1]
    return number, QPoint(*np.round(stage.view.to_pixels(point.reshape(1, 2))[0]).astype(int).tolist())


def test_a_part_of_a_nest_is_dragged_and_turned(window):
    session, stage = window.session, window.blank_stage
    session.select(session.job.row(100).id)
    settle(window)
    name = "Lay a bare sheet"
    number, here = part_at(stage, name, 2)
    before = stage.tool.nest.value.parts[number][1]
    there = here + QPoint(-14, 9)
    QTest.mousePress(stage, Qt.MouseButton.LeftButton, pos=here)
    QTest.mouseMove(stage, there)
    picture = stage.grab().toImage()
    QTest.mouseRelease(stage, Qt.MouseButton.LeftButton, pos=there)
    settle(window)
    row = session.selected_row  # a row of its own, right below
    assert (
        row.operation == "arrange_parts" and session.job.place(row.id) == session.job.place(session.job.row(100).id) + 1
    )
    after = stage.tool.nest.value.parts[part_at(stage, name, 2)[0]][1]
    moved = np.subtract(after.at, before.at) * stage.view.scale
    assert moved == pytest.approx([-14, -9], abs=1.0) and after.turn == pytest.approx(before.turn)
    assert picture != stage.grab().toImage()
    assert not window.card.cards[row.id].visibleRegion().isEmpty()  # the card shows the row that has begun
    QTest.keyClick(stage, Qt.Key.Key_R)
    QTest.keyClick(stage, Qt.Key.Key_Right, Qt.KeyboardModifier.ShiftModifier)
    settle(window)
    turned = stage.tool.nest.value.parts[part_at(stage, name, 2)[0]][1]
    assert turned.turn == pytest.approx((before.turn + 90) % 360, abs=1e-4)
    middle = np.subtract(turned.shape.envelope.centroid.coords[0], after.shape.envelope.centroid.coords[0])
    assert middle == pytest.approx([10, 0], abs=1e-3)
    assert str(session.selected_row.parameters["moves"]).count("Lay a bare sheet") == 1
    for _ in range(3):
        session.undo()
    settle(window)
    assert session.job.row(100) is not None and all(row.operation != "arrange_parts" for row in session.job.rows)


def test_links_are_seen_in_the_margin_and_removing_says_what_hangs_on_it(window):
    session = window.session
    session.select(session.job.row(20).id)
    settle(window)
    links = {row.number: session.link(row) for row in session.job.rows}
    assert {number for number, link in links.items() if link} == {10, 30}
    assert links[10] == "given" and links[30] == "takes"
    card = window.card.cards[session.job.row(30).id]
    assert "takes row 20" in card.toolTip()
    own = window.card.cards[session.selected]
    offers = {text: do for text, _, do in own._offers()}
    offers["remove"]()
    asked = {text: do for text, _, do in own._offers()}
    assert "remove it though row 30 waits then" in asked
    asked["keep it"]()
    assert len(session.job.rows) == 12 and "remove" in {text for text, *_ in own._offers()}
    said = []
    session.said.connect(lambda text, kind: said.append((text, kind)))
    window.row_remove()
    assert said == [("Removed, though row 30 took its result; Ctrl Z brings it back.", "note")]
    session.undo()
    assert len(session.job.rows) == 12


def test_what_a_row_draws_is_hidden_by_one_key_and_seen_in_the_list_as_hidden(window):
    session, stage = window.session, window.blank_stage
    session.select(session.job.row(50).id)
    settle(window)
    session.select(session.job.row(40).id)  # the drawing is seen beside its sheet
    settle(window)
    shown = stage.grab().toImage()
    session.select(session.job.row(50).id)
    window.row_unseen()
    settle(window)
    card = window.card.cards[session.job.row(50).id]
    assert "hidden on the stages" in card._state.text()
    session.select(session.job.row(40).id)
    settle(window)
    hidden = stage.grab().toImage()
    assert hidden != shown and not session.pending  # nothing was computed anew
    session.undo()
    settle(window)
    assert stage.grab().toImage() != hidden
    assert [row.number for row in session.on_blank("artwork")] == [50]
