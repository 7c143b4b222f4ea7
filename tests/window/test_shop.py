"""Nest, laser and brake plan have the blank stage to themselves while their row is selected."""

from __future__ import annotations

import pytest

from tests.core.test_shop_rows import shop_job

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
