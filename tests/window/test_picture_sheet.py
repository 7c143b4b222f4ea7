"""The picture of the form: seen before it is written, turned, lit, painted face by face, finer while one waits."""

from __future__ import annotations

import numpy as np
import pytest
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtGui import QImage
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QFileDialog

from zuschnitt.core.form.appearance import Looks
from zuschnitt.core.job.route import Job
from zuschnitt.window.rendering import SAMPLES

from .conftest import opened, wait


@pytest.fixture
def window(application, tmp_path):
    made = opened(tmp_path, Job(material="steel sheet").added("turned_body"))
    yield next(made)
    made.close()


@pytest.fixture
def sheet(window):
    window.menu()
    next(a for a in window.open_menu.actions() if a.text().startswith("Picture of the form")).trigger()
    window.open_menu.close()
    at_rest(window.picture)
    return window.picture


def at_rest(sheet) -> None:
    wait(lambda: not sheet._more.isActive() and not sheet._rest.isActive(), "the picture")


def seen(image: QImage) -> np.ndarray:
    image = image.convertToFormat(QImage.Format.Format_RGBX8888)
    rows = np.frombuffer(image.constBits().asstring(image.sizeInBytes()), np.uint8)
    return rows.reshape(image.height(), image.width(), 4)[..., :3].astype(int)


def test_it_is_turned_lit_and_finished_while_one_waits(sheet):
    assert sheet._picture.samples == SAMPLES and sheet.state.text() == "finished"
    first = seen(sheet.preview.image)
    QTest.mouseClick(sheet.lights["right"], Qt.MouseButton.LeftButton, pos=QPoint(4, 6))
    at_rest(sheet)
    right = seen(sheet.preview.image)
    assert right.shape == first.shape and (right != first).any()
    middle = sheet.preview.rect().center()
    QTest.mousePress(sheet.preview, Qt.MouseButton.LeftButton, pos=middle)
    QTest.mouseMove(sheet.preview, middle + QPoint(0, 60))
    QTest.mouseRelease(sheet.preview, Qt.MouseButton.LeftButton, pos=middle + QPoint(0, 60))
    assert sheet._camera.elevation > 50
    at_rest(sheet)
    assert (seen(sheet.preview.image) != right).any()


def test_a_face_is_painted_and_the_job_keeps_it(window, sheet):
    before = seen(sheet.preview.image)
    QTest.mouseClick(sheet.preview, Qt.MouseButton.LeftButton, pos=sheet.preview.area().center().toPoint())
    face = sheet._face
    assert face and sheet.face.text() == f"face {face}"
    QTest.keyClicks(sheet.paint, "plain:#ff2200")
    QTest.keyClick(sheet.paint, Qt.Key.Key_Return)
    at_rest(sheet)
    after = seen(sheet.preview.image)
    red = (after[..., 0] > after[..., 2] + 80).sum()
    assert red > 2000 > (before[..., 0] > before[..., 2] + 80).sum()
    assert Looks.of(window.session.job.rows[0].view).paints == {face: "plain:#ff2200"}
    window.session.undo()
    assert not Looks.of(window.session.job.rows[0].view).paints


def test_what_is_no_material_is_said_and_the_picture_stays(window, sheet):
    before = seen(sheet.preview.image)
    sheet.material.setText("")
    QTest.keyClicks(sheet.material, "cheese")
    at_rest(sheet)
    assert "no material 'cheese'" in sheet.said.text() and (seen(sheet.preview.image) == before).all()
    sheet.material.setText("")
    QTest.keyClicks(sheet.material, "brass")
    sheet.size_field.setText("")
    QTest.keyClicks(sheet.size_field, "9 x 9000")
    at_rest(sheet)
    assert "16 to 4000 pixels" in sheet.said.text()
    sheet.size_field.setText("")
    QTest.keyClicks(sheet.size_field, "500x300")
    at_rest(sheet)
    assert not sheet.said.text() and (seen(sheet.preview.image)[0, 0] == 255).all()


def test_it_is_written_in_its_own_size(sheet, tmp_path, monkeypatch):
    path = tmp_path / "drum.png"
    sheet.size_field.setText("700 × 500")
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (str(path), ""))
    sheet.write.click()
    wait(path.exists, "the file")
    image = QImage(str(path))
    assert (image.width(), image.height()) == (700, 500) and "is written" in sheet.state.text()
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (str(tmp_path / "no" / "where.png"), ""))
    sheet.write.click()
    wait(sheet.said.text, "a sentence")
    assert "no/where.png" in sheet.said.text() or "where.png" in sheet.said.text()
