"""Drags of artwork as motions, and the view of the paper. No window is needed."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from PyQt6.QtCore import QPointF, Qt

from zuschnitt.window.stages.paper_view import PaperView, scale_words
from zuschnitt.window.tools.grips import Grip, handle_places, motion_of, within

NONE, SHIFT = Qt.KeyboardModifier.NoModifier, Qt.KeyboardModifier.ShiftModifier
PIVOT = np.array([10.0, 20.0])


def grip(what: str) -> Grip:
    return Grip(what, "r", np.array([40.0, 20.0]), PIVOT)


@settings(max_examples=40, deadline=None)
@given(st.floats(-100, 100), st.floats(-100, 100))
def test_moving_brings_what_was_held_to_the_mouse(x, y):
    motion = motion_of(grip("move"), np.array([x, y]), NONE)
    assert motion.apply(grip("move").start[None])[0] == pytest.approx([x, y], abs=1e-9)


@settings(max_examples=40, deadline=None)
@given(st.floats(-3.1, 3.1), st.floats(5, 80))
def test_turning_keeps_the_pivot_and_points_at_the_mouse(angle, arm):
    mouse = PIVOT + arm * np.array([np.cos(angle), np.sin(angle)])
    motion = motion_of(grip("turn"), mouse, NONE)
    held = motion.apply(np.array([grip("turn").start, PIVOT]))
    assert held[1] == pytest.approx(PIVOT)
    assert np.arctan2(*(held[0] - PIVOT)[::-1]) == pytest.approx(angle, abs=1e-9)


def test_scaling_goes_by_the_way_along_the_diagonal():
    motion = motion_of(grip("scale"), np.array([70.0, 33.0]), NONE)
    assert motion.scale == pytest.approx(2) and motion.apply(PIVOT[None])[0] == pytest.approx(PIVOT)
    assert motion_of(grip("scale"), np.array([-90.0, 20.0]), NONE).scale == pytest.approx(0.01)


def test_shift_keeps_to_an_axis_or_to_steps():
    assert motion_of(grip("move"), np.array([70.0, 25.0]), SHIFT).shift == (30.0, 0.0)
    assert motion_of(grip("move"), np.array([43.0, 60.0]), SHIFT).shift == (0.0, 40.0)
    mouse = PIVOT + 30 * np.array([np.cos(0.3), np.sin(0.3)])
    assert np.degrees(motion_of(grip("turn"), mouse, SHIFT).turn) == pytest.approx(15)


def test_handles_lie_at_the_corners_and_beyond_the_top():
    pixels = np.array([[0, 100], [80, 100], [80, 40], [0, 40.0]])
    places = handle_places(pixels)
    assert places["scale2"] == pytest.approx([80, 40]) and places["turn"] == pytest.approx([40, 16])
    assert within(pixels, np.array([40, 70]), 0) and within(pixels, np.array([83, 70]), 4)
    assert not within(pixels, np.array([90, 70]), 4)


@settings(max_examples=40, deadline=None)
@given(st.floats(0.05, 20), st.floats(0, 470), st.floats(0, 640), st.floats(0.2, 5))
def test_the_paper_goes_to_pixels_and_back_and_zooms_about_the_mouse(scale, x, y, factor):
    view = PaperView((3.0, -4.0), scale, (470, 640))
    under = view.to_blank(QPointF(x, y))
    assert view.to_pixels(under[None])[0] == pytest.approx([x, y], abs=1e-6)
    mapped = view.transform.map(QPointF(*under))
    assert (mapped.x(), mapped.y()) == pytest.approx((x, y), abs=1e-6)
    assert view.zoomed(factor, QPointF(x, y)).to_pixels(under[None])[0] == pytest.approx([x, y], abs=1e-6)
    assert view.moved(5, 7).to_pixels(under[None])[0] == pytest.approx([x + 5, y + 7], abs=1e-6)


@pytest.mark.parametrize("pixels_per_mm, words", [(96 / 25.4, "1 : 1"), (96 / 254, "1 : 10"), (2 * 96 / 25.4, "2 : 1")])
def test_the_scale_is_written_as_on_a_drawing(pixels_per_mm, words):
    assert scale_words(pixels_per_mm, 96) == words
