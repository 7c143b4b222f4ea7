"""The picture of a form, off the screen."""

from __future__ import annotations

import gc

import numpy as np
import pytest
import trimesh

from zuschnitt.core.files.mesh_file import read_triangles
from zuschnitt.core.form.build import turned_body
from zuschnitt.core.form.mesh_form import form_from_triangles
from zuschnitt.window.stages.camera import Camera
from zuschnitt.window.stages.form_picture import FormPicture
from zuschnitt.window.stages.stand_in import stand_in
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


def test_lines_follow_their_places_and_their_colour(shown):
    camera = Camera(np.zeros(3)).seen_from("front").fitted(shown.points, SIZE)
    line, none = np.array([[-205.0, 0, 60], [205, 0, 60]]), pixels(shown.image(camera, SIZE, 1.0))
    seen = []
    for polylines, colour in (
        ([line], "#d00000"),
        ([line], "#0000d0"),
        ([line + [0, 0, 40]], "#0000d0"),
        ([], "#0000d0"),
    ):
        shown.lines.of("tried", 3).show(polylines, colour)
        seen.append(pixels(shown.image(camera, SIZE, 1.0)))
    red, blue, higher, gone = seen
    assert (red - blue)[..., 0].max() > 100 and (blue - red)[..., 2].max() > 100
    assert not np.array_equal(blue, higher) and np.array_equal(gone, none)


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


def test_while_it_moves_a_lighter_form_stands_in_and_looks_the_same(application):
    mesh = trimesh.creation.torus(120, 45, major_sections=320, minor_sections=160)
    form = form_from_triangles(read_triangles(mesh.export(file_type="stl"), "ring.stl", "mm"), "ring")
    picture = FormPicture()
    picture.take(form)
    picture.colour((1,), (), None, "as it is", None)
    camera = Camera(np.zeros(3)).fitted(picture.points, SIZE)
    whole, light, again = (pixels(picture.image(camera, SIZE, 1.0, moving)) for moving in (False, True, False))
    assert (whole == again).all()
    assert len(picture._stand_in.triangles) < 0.7 * len(picture._triangles) == 0.7 * 320 * 160 * 2
    off = np.abs(whole - light).sum(axis=2)
    assert 0 < (off > 60).mean() < 0.01
    picture.image(camera, SIZE, 1.0, True)
    picture.colour((), (), None, "as it is", None)  # what is picked while it moves is seen at once
    assert np.abs(pixels(picture.image(camera, SIZE, 1.0, True)) - light).sum() > 1e5


def test_a_stand_in_keeps_edges_sharp_and_closes_no_face():
    box = trimesh.creation.box((100, 60, 40)).subdivide_to_size(2.0)
    normals = np.array(box.face_normals)[np.repeat(np.arange(len(box.faces)), 3)]
    made = stand_in(np.array(box.triangles).reshape(-1, 3), normals, np.arange(3 * len(box.faces)).reshape(-1, 3))
    own = np.cross(*(made.points[made.triangles[:, k]] - made.points[made.triangles[:, 0]] for k in (1, 2)))
    own /= np.linalg.norm(own, axis=1)[:, None]
    assert np.abs(own).max(axis=1) == pytest.approx(np.ones(len(own)))  # every triangle lies in one of the six sides
    assert (made.normals[made.triangles[:, 0]] * own).sum(axis=1) == pytest.approx(np.ones(len(own)))
    assert set(made.parent.tolist()) <= set(range(len(box.faces)))
