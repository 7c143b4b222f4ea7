"""Clauses, picks, reliefs and the comparison in the real window, driven by mouse and keys."""

from __future__ import annotations

import numpy as np
import pytest
import trimesh
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication

from zuschnitt.core.job.route import Job
from zuschnitt.window.layers.compared import ComparedLayer
from zuschnitt.window.layers.edges import picked_edges
from zuschnitt.window.layers.reliefs import proposed, relief_ends
from zuschnitt.window.stages.stage import HEAD

from .conftest import opened, settle
from .test_window import LEFT, card, chip, click_row, drag, form_pixel, hover, state, value

CONTROL, SHIFT = Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.ShiftModifier


def pieces() -> Job:
    job = Job(name="Pieces", material="card", thickness="0.5")
    job = job.added("transition", length="300", width="240", diameter="160", height="180")
    job = job.added("develop")
    job = job.added("domed_lid", length="240", width="180", crown="40", corner="40", hole="0")
    job = job.added("develop", way="relaxed")
    return job.added("compare", blank=job.rows[3].id)


@pytest.fixture
def window(application, tmp_path):
    made = opened(tmp_path, pieces())
    window = next(made)
    settle(window)
    yield window
    made.close()


def test_a_clause_stands_once_it_is_opened_and_says_something(window):
    click_row(window, 20)
    sentence = card(window, 20).sentence
    assert not sentence.chips["tab"].isVisible() and sentence.chips["way"].isVisible()
    QTest.mouseClick(sentence.more, LEFT)
    offers = [action.text() for action in sentence.menu.actions()]
    assert "glue tabs" in offers and "reliefs" in offers
    sentence.menu.actions()[offers.index("glue tabs")].trigger()
    sentence.menu.close()
    QApplication.processEvents()
    assert sentence.chips["tab"].isVisible()
    field = chip(window, 20, "tab")
    QTest.mouseClick(field, LEFT)
    field.editor.selectAll()
    QTest.keyClicks(field.editor, "10")
    QTest.keyClick(field.editor, Qt.Key.Key_Return)
    settle(window)
    assert sum(fold.name.startswith("tab") for fold in value(window, 20).folds) == 1
    click_row(window, 10)
    click_row(window, 20)
    assert chip(window, 20, "tab").isVisible(), "what says something stays"
    assert not chip(window, 20, "limit").isVisible()


def test_edges_are_picked_on_the_form_to_cut_it_open(window):
    click_row(window, 20)
    card(window, 20).sentence.open_clause("cut edges open")
    field = chip(window, 20, "cuts")
    QTest.mouseClick(field, LEFT)
    assert window.session.wanted.name == "cuts" and "click an edge" in window.form_stage._foot()
    edges = window.form_stage.picture.edges
    seam = edges[1].mean(axis=0)
    QTest.mouseClick(window.form_stage, LEFT, pos=form_pixel(window, seam))
    settle(window)
    assert window.session.job.row(20).parameters["cuts"] == "1"
    assert len(picked_edges(window.form_stage.scene())) == 1
    known = window.session.job.row(20).parameters["remembered"]["cuts"]["like"]  # so that it is found again
    assert list(known) == ["1"] and known["1"][1] == pytest.approx(window.form_stage.form().edge(1).length, abs=1e-3)
    QTest.mouseClick(window.form_stage, LEFT, pos=form_pixel(window, seam))
    settle(window)
    assert window.session.job.row(20).parameters["cuts"] == ""
    assert state(window, 20).status == "done"


def test_a_relief_is_drawn_by_clicks_and_opens_the_blank(window):
    window.session.edit("", lambda job: job.added("draw_relief", form=job.row(30).id))
    window.session.select(window.session.job.row(60).id)
    settle(window)
    assert state(window, 60).status == "waiting" and "waits for points" in state(window, 60).reason
    QTest.mouseClick(chip(window, 60, "through"), LEFT)
    lid = window.form_stage.form()
    rim = lid.edges[0].curve.evaluate(np.array([0.5 * (lid.edges[0].start + lid.edges[0].end)]))[0]
    inside = np.array([0.0, -25.0, 40 - 20 * (25 / 90) ** 2])
    for point in (rim, inside):
        QTest.mouseClick(window.form_stage, LEFT, pos=form_pixel(window, point))
        settle(window)
    assert len(window.session.job.row(60).parameters["through"].split(";")) == 2
    assert state(window, 60).status == "done"
    relief = window.session.job.row(60).id
    window.session.edit("", lambda job: job.added("develop", form=job.row(30).id, way="relaxed", reliefs=relief))
    settle(window)
    plain, cut = value(window, 40), value(window, 70)
    assert cut.figures.outline_length > plain.figures.outline_length + 60
    assert {side.label for side in cut.sides} == {"r1"}


def test_proposals_are_drawn_on_both_stages(window):
    job = window.session.job
    window.session.edit("", lambda j: j.added("propose_reliefs", blank=job.row(40).id, most="4"))
    settle(window)
    window.session.select(window.session.job.row(60).id)
    settle(window)
    reliefs = value(window, 60)
    blank = window.blank_stage.blank()
    drawn = proposed(window.blank_stage.scene())
    assert len(drawn) == len(reliefs) >= 1
    assert all(blank.region.distance(points).min() < 2 for _, points in drawn)  # each begins at the outline
    window.grab()
    proposing = window.session.job.row(60).id
    window.session.edit("", lambda j: j.added("develop", form=j.row(30).id, way="relaxed", reliefs=proposing))
    settle(window)
    assert {side.label for side in value(window, 70).sides} == {f"r{k + 1}" for k in range(len(reliefs))}
    click_row(window, 70)
    field = chip(window, 70, "taken")  # the others are refused
    QTest.mouseClick(field, LEFT)
    assert window.session.wanted is None
    QTest.keyClicks(field.editor, "1")
    QTest.keyClick(field.editor, Qt.Key.Key_Return)
    settle(window)
    assert [side.label for side in value(window, 70).sides] == ["r1", "r1"]


def _compared(window) -> ComparedLayer:
    return next(layer for layer in window.blank_stage.layers if isinstance(layer, ComparedLayer))


def test_a_way_is_taken_from_the_comparison(window):
    click_row(window, 50)
    settle(window)
    window.blank_stage.grab()
    taken = dict(_compared(window).taken)
    assert set(taken) == {"even", "parametric"}
    QTest.mouseClick(window.blank_stage, LEFT, pos=taken["even"].center().toPoint())
    settle(window)
    assert window.session.job.row(40).parameters["way"] == "even"
    assert value(window, 40).way == "even"
    window.blank_stage.grab()
    assert "relaxed" in dict(_compared(window).taken)
    window.session.undo()
    assert window.session.job.row(40).parameters["way"] == "relaxed"


def test_faces_are_picked_by_kind_inverted_and_by_a_frame(window):
    click_row(window, 20)
    stage = window.form_stage
    stage.faces.pick(1)
    settle(window)
    QTest.keyClick(window, Qt.Key.Key_K)
    assert stage.faces.picked() == (1, 3, 5, 7, 9)
    QTest.keyClick(window, Qt.Key.Key_I)
    assert stage.faces.picked() == (2, 4, 6, 8)
    QTest.keyClick(window, Qt.Key.Key_B)
    assert window.session.job.row(20).parameters["faces"] == "all"
    QTest.keyClick(window, Qt.Key.Key_A)
    assert window.session.job.row(20).parameters["faces"] == "all"
    stage.look("front")
    points = stage.picture.form.meshes[1].points  # the face at the right of the front
    pixels = stage.camera.project(points, stage.room)
    low, high = pixels.min(axis=0) - 3, pixels.max(axis=0) + 3
    drag(stage, QPoint(*map(round, low + [0, 40])), QPoint(*map(round, high + [0, 40])), modifier=CONTROL)
    settle(window)
    assert 2 in stage.faces.picked() and len(stage.faces.picked()) < 9


def test_hidden_faces_are_counted_and_come_back(window):
    click_row(window, 20)
    stage = window.form_stage
    face = stage.picture.form.meshes[0]
    at = form_pixel(window, face.points[face.triangles].mean(axis=(0, 1)))
    hover(stage, at)
    before = len(stage.picture._triangles)
    hovered = stage.hover
    assert hovered is not None
    QTest.keyClick(window, Qt.Key.Key_H)
    assert "1 hidden" in stage.about
    assert len(stage.picture._triangles) < before
    QTest.keyClick(window, Qt.Key.Key_H, SHIFT)
    assert "hidden" not in stage.about and len(stage.picture._triangles) == before


def test_a_mesh_is_dropped_and_developed(window, tmp_path):
    trimesh.creation.box((100, 60, 40)).export(tmp_path / "box.stl")
    window.take_file(tmp_path / "box.stl")
    settle(window)
    row = next(r for r in window.session.job.rows if r.operation == "bring_in")
    stand = window.session.states[row.id]
    assert stand.status == "done" and "taken to be in mm" in stand.outcome.messages[0]
    window.session.select(row.id)
    window.session.edit("", lambda job: job.added("develop", row.id, tab="8", marks="numbers"))
    settle(window)
    made = next(r for r in window.session.job.rows if r.operation == "develop" and r.parameters["tab"] == "8")
    assert window.session.states[made.id].outcome.value.figures.pieces == 1
    window.grab()


def test_a_coarse_blank_comes_first_where_the_fine_one_takes_long(window):
    click_row(window, 40)
    seen = []

    def look(_=""):
        row = window.session.job.row(40)
        if row.id in window.session.coarse:
            seen.append(window.session.outcome(row).value.figures.triangles)
            assert "coarse" in window.session.stale(row)

    window.session.row_changed.connect(look)
    window.session.edit("", lambda job: job.set(job.row(40).id, "triangles", "0.9"))
    settle(window)
    assert seen and seen[0] < 10_000 < value(window, 40).figures.triangles
    assert not window.session.coarse and not window.session.stale(window.session.job.row(40))


def test_a_relief_is_moved_by_its_end_and_what_took_it_follows(window):
    session = window.session
    lid = session.job.row(30)
    along = "0, -90, 20; 0, -50, 33.827"
    session.edit("", lambda job: job.added("draw_relief", form=lid.id, through=along))
    drawn = session.job.rows[-1]
    session.edit("", lambda job: job.added("develop", form=lid.id, way="relaxed", reliefs=drawn.id))
    settle(window)
    row = session.job.rows[-1]
    before = session.value(row, "blank").figures.outline_length
    session.select(drawn.id)
    settle(window)
    stage = window.form_stage
    (ends,) = relief_ends(session)
    surface = stage.form().face(1).surface
    target = surface.evaluate(surface.project(np.array([[0, -20.0, 39]])))[0]
    pixels = [QPoint(*map(round, p + [0, HEAD])) for p in stage.pixels(np.array([ends[1], target]))]
    drag(stage, *pixels)
    settle(window)
    moved = session.selected_row
    assert moved.operation == "move_relief" and moved.parameters["which"] == "1"
    (after,) = relief_ends(session)
    assert after[0] == pytest.approx(ends[0], abs=0.01)
    assert after[1] == pytest.approx(target, abs=2.5)  # a pixel of the stage
    row = session.job.row(row.id)
    assert row.parameters["reliefs"] == moved.id
    longer = session.value(row, "blank").figures.outline_length - before
    assert longer == pytest.approx(2 * np.linalg.norm(after[1] - ends[1]), abs=2)
    # once more: the same row is changed, and no other added
    rows = len(session.job.rows)
    pixels = [QPoint(*map(round, p + [0, HEAD])) for p in stage.pixels(np.array([after[1], ends[1]]))]
    drag(stage, *pixels)
    settle(window)
    assert len(session.job.rows) == rows and session.selected == moved.id
    assert relief_ends(session)[0][1] == pytest.approx(ends[1], abs=2.5)


def test_picks_survive_another_crease_angle(window, tmp_path):
    """A wall is picked; when the slopes of the roof become one face, the wall is still what is developed."""
    points = [[x, y, z] for x, y in ((0, 0), (100, 0), (100, 40), (50, 49), (0, 40)) for z in (0, 60)]
    trimesh.convex.convex_hull(np.array(points, float)).export(tmp_path / "roof.stl")
    window.take_file(tmp_path / "roof.stl")
    settle(window)
    session = window.session
    bring = next(r for r in session.job.rows if r.operation == "bring_in")
    session.edit("", lambda job: job.set(bring.id, "crease", "10"))
    session.edit("", lambda job: job.added("develop", form=bring.id))
    settle(window)
    row = session.job.rows[-1]
    session.select(row.id)
    settle(window)
    stage = window.form_stage
    wall = [face.number for face in stage.form().faces if abs(face.area - 2400) < 1][-1]
    stage.faces.pick(wall)
    settle(window)
    area = session.value(session.job.row(row.id), "blank").figures.area_form
    session.edit("", lambda job: job.set(bring.id, "crease", "40"))
    settle(window)
    assert (
        session.value(session.job.row(row.id), "blank").figures.area_form == pytest.approx(area) == pytest.approx(2400)
    )
    (shown,) = stage.faces.picked()
    assert stage.form().face(shown).area == pytest.approx(2400)
