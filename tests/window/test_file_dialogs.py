"""Where files are asked for, and under which names they are offered."""

from __future__ import annotations

import pytest
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QFileDialog

from tests.window.conftest import opened, settle
from zuschnitt.core.job.route import Asset, Job
from zuschnitt.window.file_dialogs import offered_name, plain_name
from zuschnitt.window.recent import last_folder

SQUARE = (
    b'<svg xmlns="http://www.w3.org/2000/svg" width="9mm" height="9mm" viewBox="0 0 9 9"><path d="M0,0H9V9H0Z"/></svg>'
)


@pytest.fixture
def window(application, tmp_path):
    job = Job(name="Outlet").added("turned_body").added("develop").added("cut_file")
    made = opened(tmp_path, job)
    yield next(made)
    next(made, None)


def test_the_folder_is_the_one_used_last_by_any_dialog_and_any_window(window, tmp_path, monkeypatch):
    asked = []

    def answer(name):
        monkeypatch.setattr(
            QFileDialog, "getSaveFileName", lambda _, __, offered, *a: asked.append(offered) or (name, "")
        )

    shop, plans = tmp_path / "shop", tmp_path / "plans"
    shop.mkdir()
    plans.mkdir()
    answer(str(shop / "a.dxf"))
    window.write(window.session.job.rows[1].id, "dxf")
    assert (shop / "a.dxf").exists() and last_folder() == shop
    answer("")
    window.write(window.session.job.rows[2].id, "dxf")
    assert asked[-1].startswith(f"{shop}/") and last_folder() == shop
    (plans / "mark.svg").write_bytes(SQUARE)
    window.take_file(plans / "mark.svg")
    settle(window)
    window.write(window.session.job.rows[1].id, "dxf")
    assert asked[-1].startswith(f"{plans}/")
    for each in plans.iterdir():
        each.unlink()
    plans.rmdir()
    assert last_folder().is_dir()


def test_a_file_is_offered_under_the_form_s_and_the_row_s_name(window):
    session = window.session
    body, blank, cut = session.job.rows
    assert offered_name(session, body, "step") == "Turn a body.step"
    assert offered_name(session, cut, "dxf") == "Turn a body - Cut file.dxf"
    session.edit("Name", lambda job: job.changed(body.id, title="Cone, 3/4").changed(blank.id, title="Flat"))
    assert offered_name(session, session.job.row(blank.id), "svg") == "Cone 34 - Flat.svg"
    assert offered_name(session, session.job.row(body.id), "stl") == "Cone 34.stl"
    assert plain_name(" ../..: ") == ""


def test_a_form_from_a_file_gives_its_name(window, tmp_path):
    import trimesh

    content = trimesh.creation.box((30, 20, 10)).export(file_type="stl")
    job = Job().with_asset(Asset("bonnet_left.stl", content)).added("bring_in", file="bonnet_left.stl").added("develop")
    window.session.start_job(job)
    settle(window)
    assert offered_name(window.session, window.session.job.rows[1], "dxf") == "bonnet_left - Develop.dxf"


def test_a_chip_of_a_file_asks_at_once_unless_the_job_has_another_that_it_could_be(window, tmp_path):
    session = window.session
    (tmp_path / "other.svg").write_bytes(SQUARE)
    job = Job().with_asset(Asset("mark.svg", SQUARE)).added("bring_in_drawing", file="mark.svg")
    session.start_job(job)
    settle(window)
    session.select(session.job.rows[0].id)
    settle(window)

    def clicked():
        chip = window.card.cards[session.job.rows[0].id].sentence.chips["file"]
        QTest.mouseClick(chip, Qt.MouseButton.LeftButton, pos=QPoint(12, 14))
        return chip

    clicked()
    dialog = window.findChild(QFileDialog)
    assert dialog is not None and dialog.isVisible()
    dialog.fileSelected.emit(str(tmp_path / "other.svg"))
    dialog.reject()
    settle(window)
    assert session.job.rows[0].parameters["file"] == "other.svg"
    chip = clicked()
    assert chip.menu.isVisible() and "mark.svg" in [action.text() for action in chip.menu.actions()]
    chip.menu.close()
