"""The picture of a form, off the screen."""

from __future__ import annotations

import gc

import numpy as np
import pytest

from zuschnitt.core.form.build import turned_body
from zuschnitt.window.stages.camera import Camera
from zuschnitt.window.stages.form_picture import FormPicture
from zuschnitt.window.theme import theme

SIZE = (240.0, 320.0)


def drawn(picture) -> None:
    """With the form's edges."""
    picture.lines.of("edges", 1.5).show(list(picture.edges.values()), theme().form)


@pytest.fixture
def shown(application):
    picture = FormPicture()
    picture.take(turned_body([(60, 0), (200, 420), (200, 640)]))
    picture.colour((1,), (), None, "as it is", None)
    drawn(picture)
    return picture


def pixels(image) -> np.ndarray:
    """RGB (h, w, 3)."""
    bits = image.constBits()
    bits.setsize(image.sizeInBytes())
    return np.frombuffer(bits, np.uint8).reshape(image.height(), image.width(), 4)[..., :3].astype(int)


def test_a_cone_looks_like_a_cone(shown):
    """From the front its outline is as wide as its diameter at every height."""
    camera = Camera(np.zeros(3)).seen_from("front").fitted(shown.points, SIZE)
    image = pixels(shown.image(camera, SIZE, 2.0))
    assert image.shape == (640, 480, 3)
    inked = np.abs(image - image[2, 2]).sum(axis=2) > 20
    for z, radius in ((20, 60 + 20 / 3), (210, 130), (400, 60 + 400 / 3), (600, 200)):
        ((_, y),) = camera.project(np.array([[0, 0, float(z)]]), SIZE)
        row = np.nonzero(inked[round(2 * y)])[0]
        assert (row[-1] - row[0]) / 2 / camera.scale == pytest.approx(2 * radius, rel=0.03)


def test_picked_faces_are_tinted(shown):
    camera = Camera(np.zeros(3)).seen_from("front").fitted(shown.points, SIZE)
    before = pixels(shown.image(camera, SIZE, 1.0))
    shown.colour((2,), (), None, "as it is", None)
    after = pixels(shown.image(camera, SIZE, 1.0))
    for z in (210.0, 530.0):
        ((x, y),) = camera.project(np.array([[20.0, 0, z]]), SIZE).round().astype(int)
        assert np.abs(before[y, x] - after[y, x]).sum() > 15


def test_what_is_under_a_pixel_is_the_nearest_face(shown):
    camera = Camera(np.zeros(3)).seen_from("front").fitted(shown.points, SIZE)
    ((x, y),) = camera.project(np.array([[0.0, -200, 530]]), SIZE)
    face, point = shown.under(camera, x, y, SIZE)
    assert face == 2 and point == pytest.approx([0, -200, 530], abs=3)
    assert shown.under(camera, 2, 2, SIZE) is None


def test_many_scenes_come_and_go(application):
    """Each is drawn and let go; software contexts that were destroyed under way once ended the process."""
    for k in range(12):
        picture = FormPicture()
        picture.take(turned_body([(60, 0), (200, 420)]))
        picture.colour((), (), None, "as it is", None)
        drawn(picture)
        size = (200.0 + 20 * (k % 5), 300.0)
        camera = Camera(np.zeros(3)).fitted(picture.points, size)
        assert picture.image(camera, size, 1 + k % 2).width() == int(size[0]) * (1 + k % 2)
        del picture
        gc.collect()
