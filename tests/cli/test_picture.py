"""``picture``: a form in its material and colour, as a PNG that is looked at here by its pixels."""

from __future__ import annotations

import numpy as np
import pytest
from PyQt6.QtGui import QImage

from zuschnitt.core.form.build import turned_body
from zuschnitt.core.job.job_file import job_bytes
from zuschnitt.core.job.route import Job
from zuschnitt.window.finishes import finish
from zuschnitt.window.rendering import Picture, Wanted, rendered
from zuschnitt.window.stages.camera import VIEWS

from .test_commands import call, refused


def pixels(path):
    image = QImage(str(path)).convertToFormat(QImage.Format.Format_RGBX8888)
    rows = np.frombuffer(image.constBits().asstring(image.sizeInBytes()), np.uint8)
    return rows.reshape(image.height(), image.width(), 4)[..., :3].astype(int)


def test_a_cone_looks_like_a_cone(step, tmp_path):
    made = call("picture", step("cone"), "--png", tmp_path / "p.png", "--size", "600x400", "--view", "front",
                "--colour", "teal", "--no-shadow", "--quiet")  # fmt: skip
    assert made.returncode == 0, made.stderr
    seen = pixels(tmp_path / "p.png")
    assert seen.shape == (400, 600, 3)
    form = (seen < 240).any(axis=2)
    wide = form.sum(axis=1)[form.any(axis=1)]
    assert wide[-5] > 2 * wide[5] and (np.diff(wide[5:-5]) >= -2).all()  # wider and wider downwards
    middle = seen[form].mean(axis=0)
    assert middle[0] < middle[1] and middle[0] < middle[2]  # teal
    part = form[:, :300].sum() / form.sum()
    assert part == pytest.approx(0.5, abs=0.02)


def test_light_comes_from_the_side_that_is_asked_for(tmp_path):
    """Of a tube the half towards the lamp is the lighter one, and the shadow falls to the other side."""
    tube, look = turned_body([(30, 0), (30, 80)]), finish("plain", "#804020")
    shares, shadows = {}, {}
    for light in ("left", "right", "front"):
        for view in ("front", "corner"):
            wanted = Wanted((600, 400), VIEWS[view], light, edges=False, shadow=view == "corner")
            (tmp_path / f"{view}.png").write_bytes(rendered(tube, look, wanted))
        seen = pixels(tmp_path / "front.png")
        form, columns = (seen < 240).any(axis=2), np.arange(600)[None, :]
        middle = np.nonzero(form.any(axis=0))[0].mean()
        shares[light] = seen[form & (columns < middle)].mean() / seen[form & (columns > middle)].mean()
        seen = pixels(tmp_path / "corner.png")
        grey = np.ptp(seen, axis=2) < 12
        shadow, form = grey & (seen[..., 0] < 240), ~grey
        shadows[light] = np.nonzero(shadow)[1].mean() - np.nonzero(form)[1].mean()
    assert shares["left"] > 1.05 and shares["right"] < 0.95 and shares["front"] == pytest.approx(1, abs=0.02)
    assert shadows["left"] > 100 and shadows["right"] < -100 and abs(shadows["front"]) < 30


def test_single_faces_are_painted_and_samples_soften_the_shadow(tmp_path):
    jar = turned_body([(30, 0), (30, 60), (12, 90)])
    seen = {}
    for samples in (1, 25):
        wanted = Wanted((500, 400), VIEWS["corner"], samples=samples)
        (tmp_path / "p.png").write_bytes(rendered(jar, finish("plain", "blue"), wanted, {2: finish("plain", "red")}))
        seen[samples] = pixels(tmp_path / "p.png")
    middle = seen[25][:, 180:320]
    red, blue = (middle[..., 0] > middle[..., 2] + 60), (middle[..., 2] > middle[..., 0] + 60)
    assert red.sum() > 2000 and blue.sum() > 2000
    assert np.nonzero(red)[0].mean() < np.nonzero(blue)[0].mean() - 80  # the cone stands on the tube
    greys = [len(np.unique(each[np.ptp(each, axis=2) < 8][:, 0])) for each in seen.values()]
    assert greys[1] > 2 * greys[0]  # half shadow


def test_a_face_is_found_under_a_pixel_of_the_picture():
    jar = turned_body([(30, 0), (30, 60), (12, 90)])
    picture = Picture(jar, finish("plain"), Wanted((500, 400), VIEWS["front"], shadow=False))
    (cone, tube, none) = (picture.face_under(250, y) for y in (60, 300, 5))
    assert (cone, tube, none) == (2, 1, None)


def test_faces_are_painted_by_their_numbers(step, tmp_path):
    made = call("picture", step("cone"), "--png", tmp_path / "p.png", "--size", "300x200", "--view", "front",
                "--paint", "1=plain:red", "--colour", "blue", "--samples", "3", "--quiet")  # fmt: skip
    assert made.returncode == 0, made.stderr
    seen = pixels(tmp_path / "p.png")
    assert (seen[..., 0] > seen[..., 2] + 60).sum() > 3000


def test_of_a_job_it_shows_the_last_form_in_the_jobs_material(tmp_path):
    job = Job(material="brass sheet").added("hollow_block", width="90", depth="60", height="20", thickness="1")
    (tmp_path / "j.zuschnitt").write_bytes(job_bytes(job))
    made = call("picture", tmp_path / "j.zuschnitt", "--png", tmp_path / "p.png", "--size", "300x200", "--light", "front",
                "--quiet")  # fmt: skip
    assert made.returncode == 0, made.stderr
    seen = pixels(tmp_path / "p.png")
    form = seen[(seen.max(axis=2) - seen.min(axis=2)) > 30]
    assert len(form) > 3000 and (form[:, 0] > form[:, 2]).mean() > 0.95  # yellowish


@pytest.mark.parametrize(
    "more, code",
    [(("--material", "cheese"), 2), (("--colour", "nocolour"), 2), (("--view", "beside"), 2), (("--light", "below"), 2), (("--size", "9x9"), 2),
     (("--size", "9000x900"), 2), (("--paint", "brass"), 2), (("--paint", "1=cheese"), 2), (("--paint", "99=brass"), 3),
     (("--samples", "0"), 2)],
)  # fmt: skip
def test_pictures_that_cannot_be_made(step, tmp_path, more, code):
    refused(call("picture", step("cone"), "--png", tmp_path / "p.png", *more, "--quiet"), code)
    assert not (tmp_path / "p.png").exists()
