"""The corners of a patch by number: one click holds it there, on both stages."""

from __future__ import annotations

import numpy as np
import pytest
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtTest import QTest

from zuschnitt.core.develop.patch_net import PatchNet
from zuschnitt.core.job.route import Asset, Job
from zuschnitt.window.layers.patch_net import BlankNet

from .conftest import opened, settle


@pytest.fixture
def window(application, tmp_path):
    job = Job(thickness="1").added("domed_lid", length="240", width="150", crown="50", corner="0", hole="0")
    made = opened(tmp_path, job.added("develop", way="even"))
    yield next(made)
    made.close()


def test_a_click_on_a_corner_turns_the_patch_by_it(window):
    session, stage = window.session, window.blank_stage
    session.select(session.job.rows[-1].id)
    settle(window)
    layer = next(layer for layer in stage.layers if isinstance(layer, BlankNet))
    corners = PatchNet.of(stage.scene().blank).corners_form
    for number in (2, 3, 4, 1):
        discs = layer._discs(PatchNet.of(stage.scene().blank), stage.scene())
        QTest.mouseClick(stage, Qt.MouseButton.LeftButton, pos=QPoint(*map(round, discs[number - 1])))
        settle(window)
        blank = stage.scene().blank
        net = PatchNet.of(blank)
        assert net.corners_blank[number - 1] == pytest.approx([0, 0], abs=1e-3)
        assert net.corners_form == pytest.approx(corners, abs=1e-3)  # the numbers stay with the patch
        side = net.corners_blank[number % 4]
        assert side[0] > 100 and side[1] == pytest.approx(0, abs=5e-3)
        assert blank.bounds == pytest.approx((0, 0, *net.corners_blank.max(axis=0)), abs=2e-2)
    assert len(session.job.rows) == 2
    session.undo()
    assert session.job.rows[-1].parameters["hold"] != ""


def test_the_net_is_the_same_on_form_and_blank(window):
    settle(window)
    blank = window.session.value(window.session.job.rows[-1], "blank")
    net = PatchNet.of(blank)
    for flat, space in zip(net.lines_blank, net.lines_form, strict=True):
        assert blank.correspondence.to_form(flat).points == pytest.approx(space)
    cells = [np.ptp([line[0] for line in net.lines_blank], axis=0), len(net.lines_blank)]
    assert cells[1] == 6 + 1 + 9 + 1


def test_artwork_on_a_patch_is_flipped_by_one_click_and_the_side_is_seen(window):
    session, stage = window.session, window.blank_stage
    logo = b'<svg xmlns="http://www.w3.org/2000/svg" width="40mm" height="20mm" viewBox="0 0 40 20"><path d="M0,0 H40 L0,20 Z"/></svg>'
    session.edit("", lambda job: job.with_asset(Asset("a.svg", logo)).added("place_artwork", file="a.svg", x="", y=""))
    session.select(session.job.rows[1].id)
    settle(window)
    stage.grab()
    layer = next(layer for layer in stage.layers if isinstance(layer, BlankNet))
    before = session.value(session.job.rows[-1], "artwork").contours[0]
    for reads, mirrored in (("inside", -1), ("outside", 1)):
        QTest.mouseClick(stage, Qt.MouseButton.LeftButton, pos=layer._side.center().toPoint())
        settle(window)
        stage.grab()
        assert session.job.rows[-1].parameters["reads"] == reads
        after = session.value(session.job.rows[-1], "artwork").contours[0]
        assert after.area * before.area * mirrored > 0
        assert np.mean(after.bounds, axis=0) == pytest.approx(np.mean(before.bounds, axis=0), abs=0.1)  # in its place
    session.undo()
    session.undo()
    assert session.job.rows[-1].parameters["reads"] == "outside"
