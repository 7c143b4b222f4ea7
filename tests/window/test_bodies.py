"""Bodies of a form in the real window: named, tinted, hidden; and what an exactly laid face is coloured."""

from __future__ import annotations

import numpy as np
import pytest
import trimesh
from OCP.BRepPrimAPI import BRepPrimAPI_MakeBox
from OCP.gp import gp_Pnt
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtGui import QColor
from PyQt6.QtTest import QTest

from zuschnitt.core.job.route import Asset, Job
from zuschnitt.core.kernel.step_out import named_shapes_bytes
from zuschnitt.window.layers.handles import frame_of, handles, held
from zuschnitt.window.layers.tips import tips_of
from zuschnitt.window.theme import theme

from .conftest import opened, settle, wait
from .test_window import LEFT, card, click_row, drag, form_pixel


@pytest.fixture
def window(application, tmp_path):
    drum, dome = trimesh.creation.cylinder(60, 120), trimesh.creation.icosphere(subdivisions=3, radius=50)
    dome.update_faces(dome.triangles_center[:, 2] > -10)
    dome.apply_translation([150, 0, 0])
    content = trimesh.Scene({"drum": drum, "dome": dome}).export(file_type="3mf")
    job = Job(material="steel sheet").with_asset(Asset("parts.3mf", content)).added("bring_in", file="parts.3mf")
    made = opened(tmp_path, job.added("develop"))
    yield next(made)
    made.close()


def shades(window) -> np.ndarray:
    """The colours (f, 3) of the form's faces as the stage has them, by the first triangle of each."""
    shown = window.form_stage.picture
    _, first = np.unique(shown.face_of, return_index=True)
    return shown.colours[first]


def test_bodies_are_named_tinted_and_hidden_and_it_is_undone(window):
    click_row(window, 10)
    bodies = card(window, 10).bodies
    assert sorted(name.text() for name in bodies.names) == ["dome", "drum"]
    place = [name.text() for name in bodies.names].index("drum")
    QTest.mouseClick(bodies.names[place], LEFT)
    bodies.names[place].selectAll()
    QTest.keyClicks(bodies.names[place], "roasting drum")
    QTest.keyClick(bodies.names[place], Qt.Key.Key_Return)
    settle(window)
    bodies = card(window, 10).bodies
    assert bodies.names[place].text() == "roasting drum"
    before = shades(window)
    QTest.mouseClick(bodies.dots[place], LEFT)
    settle(window)
    assert (shades(window) != before).any()
    stage = window.form_stage
    count = len(stage.picture._triangles)
    QTest.mouseClick(card(window, 10).bodies.links[place], LEFT)
    settle(window)
    assert len(stage.picture._triangles) < count and "hidden" in stage.about
    assert card(window, 10).bodies.links[place].text().strip() == "show"
    assert not card(window, 10).bodies.links[1 - place].isEnabled(), "the last body in sight stays"
    for _ in range(3):
        QTest.keyClick(window, Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    settle(window)
    assert not window.session.job.rows[0].view and len(stage.picture._triangles) == count


def test_a_face_that_was_laid_exactly_never_fails_with_another_one(window):
    """The dome is too much for steel; the drum beside it, developed exactly in the same row, is not."""
    click_row(window, 20)
    blank = window.session.value(window.session.selected_row, "blank")
    assert blank.verdict is not None and not blank.verdict.can
    form = window.form_stage.picture.form
    failing = QColor(theme().failing)
    wrong = np.array([failing.red(), failing.green(), failing.blue()])
    shown = window.form_stage.picture
    relaxed = np.unique(blank.mesh.faces)
    fails = (shown.colours == wrong).all(axis=1)
    assert fails[np.isin(shown.face_of, relaxed)].any()
    assert not fails[~np.isin(shown.face_of, relaxed)].any()
    assert 0 < len(relaxed) < len(form.faces)


@pytest.fixture
def raised(application, tmp_path):
    """A ring of artwork raised from a tube, and a body that stands on its blank."""
    svg = (
        b'<svg xmlns="http://www.w3.org/2000/svg" width="30mm" height="30mm" viewBox="0 0 30 30">'
        b'<circle cx="15" cy="15" r="14"/><circle cx="15" cy="15" r="8"/></svg>'
    )
    stud = named_shapes_bytes([("stud", BRepPrimAPI_MakeBox(gp_Pnt(0, 0, -1), gp_Pnt(12, 8, 4)).Shape())])
    job = Job(thickness="2").with_asset(Asset("ring.svg", svg)).with_asset(Asset("stud.step", stud))
    job = job.added("turned_body", top="200", cylinder="0", cone="300", outlet="80").added("develop")
    job = job.added("place_artwork", file="ring.svg", x="-20", y="40").added("raise_artwork", by="3")
    job = job.added("stand_body", file="stud.step", blank=job.rows[1].id, x="30", y="70")
    made = opened(tmp_path, job)
    yield next(made)
    made.close()


def dragged(window, row, across: int, up: int) -> tuple[list, QPoint]:
    """What was seen while the frame of a row was dragged over the blank; the mouse is still down there."""
    stage, seen = window.blank_stage, []
    take = window.form_stage.picture.glimpse
    window.form_stage.picture.glimpse = lambda glimpse: (seen.append(glimpse), take(glimpse))[1]
    middle = frame_of(stage.scene(), row).mean(axis=0)
    start = QPoint(*np.round(stage.view.to_pixels(middle[None])[0]).astype(int))
    QTest.mousePress(stage, LEFT, pos=start)
    end = start + QPoint(across, up)
    for k in (1, 2, 3, 4):
        QTest.mouseMove(stage, start + QPoint(across * k // 4, up * k // 4))
        wait(lambda k=k: len({id(each) for each in seen if each is not None}) >= k, "a glimpse")
    window.form_stage.picture.glimpse = take
    return [each for each in seen if each is not None], end


@pytest.mark.parametrize("number", [40, 50])
def test_what_is_dragged_on_the_blank_is_seen_as_a_body_at_once(raised, number):
    window, session = raised, raised.session
    click_row(window, number)
    row = held(session)
    assert row.number == (30 if number == 40 else 50)
    job, before = session.job, session.value(session.job.row(number), "form")
    seen, end = dragged(window, row, 24, -16)
    scale = window.blank_stage.view.scale
    assert session.job is job and session.selected == session.job.row(number).id
    QTest.mouseRelease(window.blank_stage, LEFT, pos=end)
    settle(window)
    assert not session.glimpses
    moved = session.job.row(row.number).parameters
    old = job.row(row.number).parameters
    assert float(moved["x"]) - float(old["x"]) == pytest.approx(24 / scale, abs=1.5 / scale)
    assert float(moved["y"]) - float(old["y"]) == pytest.approx(16 / scale, abs=1.5 / scale)
    made = session.value(session.job.row(number), "form")
    assert made is not before
    for corner, last in zip(made.bounds, (seen[-1].points.min(axis=0), seen[-1].points.max(axis=0)), strict=True):
        assert last == pytest.approx(corner, abs=1.5)  # of the last but one place of the mouse, perhaps

    session.undo()
    settle(window)
    assert session.job.row(row.number).parameters == old


def test_a_body_that_stands_on_the_blank_is_scaled_by_its_handles(raised):
    window, session = raised, raised.session
    click_row(window, 50)
    stage = window.blank_stage
    row = session.job.row(50)
    places = handles(stage.scene(), row)
    corner, other = (QPoint(*np.round(places[name]).astype(int)) for name in ("scale2", "scale0"))
    drag(stage, corner, corner + (corner - other))
    settle(window)
    assert float(session.job.row(50).parameters["scale"]) == pytest.approx(2, abs=0.1)
    assert session.states[row.id].status == "done"


def placed_with(window, number, name, across, up):
    """A handle of a body on the blank dragged by so many pixels; what its row says then."""
    session, stage = window.session, window.blank_stage
    x, y = np.round(handles(stage.scene(), session.job.row(number))[name]).astype(int)
    drag(stage, QPoint(x, y), QPoint(x + across, y + up))
    settle(window)
    row = session.job.row(number)
    assert session.states[row.id].status == "done", session.states[row.id].reason
    return {k: float(row.parameters.get(k, 1)) for k in ("x", "y", "stretch_x", "stretch_y", "count")}, row


def test_a_body_is_stretched_along_its_own_axes_and_put_in_a_row(raised):
    window, session = raised, raised.session
    session.edit("Turn", lambda job: job.set_many(job.row(50).id, {"turn": "90", "x": "60"}))
    settle(window)
    click_row(window, 50)
    scale = window.blank_stage.view.scale
    before = session.outcome(session.job.row(50)).results[0].made[0].volume
    now, row = placed_with(window, 50, "stretch_x", 0, -round(12 * scale))  # its x runs upwards: twice as long
    assert now["stretch_x"] == pytest.approx(2, abs=0.1) and now["stretch_y"] == 1 and now["count"] == 1
    assert now["x"] == pytest.approx(60, abs=1) and now["y"] == pytest.approx(70, abs=1)
    after = session.outcome(row).results[0].made[0].volume
    assert after / before == pytest.approx(now["stretch_x"], rel=0.02)

    now, row = placed_with(window, 50, "more", round(20 * scale), 0)
    apart = [float(row.parameters[name]) for name in ("apart_x", "apart_y")]
    assert now["count"] == 2 and apart == pytest.approx([20, 0], abs=1.5)
    now, row = placed_with(window, 50, "more", round(40 * scale), 0)  # two more, as far apart
    assert now["count"] == 4 and [float(row.parameters[name]) for name in ("apart_x", "apart_y")] == apart
    made = session.outcome(row).results[0].made
    assert [body.name for body in made] == ["stud, 1", "stud, 2", "stud, 3", "stud, 4"]
    assert [body.volume for body in made] == pytest.approx([after] * 4, rel=0.1)  # on a cone each a little other
    middles = np.array([body.footprint[0].mean(axis=0) for body in made])
    assert np.diff(middles, axis=0) == pytest.approx(np.tile(apart, (3, 1)), abs=1e-3)
    now, row = placed_with(window, 50, "more", -round(70 * scale), 0)
    assert now["count"] == 1


def test_a_body_is_lifted_by_its_top_on_the_form(raised):
    window, session = raised, raised.session
    click_row(window, 50)
    stage = window.form_stage
    (tip,) = tips_of(session)
    before = session.outcome(session.job.row(50)).results[0].made[0]
    assert before.depth_max == pytest.approx(4, abs=1e-6)
    drag(stage, *(form_pixel(window, tip.point + mm * tip.way) for mm in (0, 40)))
    settle(window)
    row = session.job.row(50)
    lift = float(row.parameters["lift"])
    assert lift == pytest.approx(40, abs=1.5)
    made = session.outcome(row).results[0].made[0]
    assert made.depth_max == pytest.approx(4 + lift, abs=1e-6)
    (moved,) = tips_of(session)
    assert (moved.point - tip.point) @ tip.way == pytest.approx(lift, abs=1e-3)


def test_what_is_added_and_what_is_cut_away_is_hatched_while_its_row_is_selected(application, tmp_path):
    svg = (
        b'<svg xmlns="http://www.w3.org/2000/svg" width="30mm" height="30mm" viewBox="0 0 30 30">'
        b'<circle cx="15" cy="15" r="14"/></svg>'
    )
    job = Job().with_asset(Asset("disc.svg", svg)).added("make_tube").added("develop", faces="1")
    made = opened(tmp_path, job.added("place_artwork", file="disc.svg", x="40", y="30").added("raise_artwork", by="3"))
    window = next(made)
    session, row = window.session, window.session.job.rows[-1]

    def hatched() -> tuple[bool, bool]:
        sets = window.form_stage.picture.lines.sets
        return tuple(sets[name].actor.GetMapper().GetInput().GetNumberOfCells() > 0 for name in ("added", "cut away"))

    session.select(row.id)
    settle(window)
    assert session.states[row.id].status == "done" and hatched() == (True, False)
    session.edit("", lambda job: job.set(row.id, "by", "-0.5"))
    settle(window)
    assert hatched() == (False, True)
    session.select(session.job.rows[0].id)
    settle(window)
    assert hatched() == (False, False)
    made.close()
