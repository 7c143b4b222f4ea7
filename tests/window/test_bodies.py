"""Bodies of a form in the real window: named, tinted, hidden; and what an exactly laid face is coloured."""

from __future__ import annotations

import numpy as np
import pytest
import trimesh
from PyQt6.QtCore import Qt
from PyQt6.QtGui import QColor
from PyQt6.QtTest import QTest

from zuschnitt.core.job.route import Asset, Job
from zuschnitt.window.theme import theme

from .conftest import opened, settle
from .test_window import LEFT, card, click_row


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
