"""Words on pieces: where their letters stand, written as they are cut and larger."""

from __future__ import annotations

import numpy as np
import pytest

from zuschnitt.core.correspondence import Rigid
from zuschnitt.core.develop.word import CLEAR, Word


def box(word):
    points = np.vstack([contour.points for contour in word.contours])
    return points.min(axis=0), points.max(axis=0)


def test_letters_stand_round_the_middle_and_inside_of_the_em_square():
    word = Word("88", 10.0, np.array([40.0, 7.0]), away=np.array([0.0, 9.0]))
    low, high = box(word)
    assert (low + high) / 2 == pytest.approx([40.0, 16.0], abs=0.6)
    assert 6 < high[1] - low[1] < 10
    assert {(c.layer, c.name, c.closed) for c in word.contours} == {("TEXT", "88", True)}


def test_a_word_goes_with_its_piece():
    word = Word("1.2", 6.0, np.array([3.0, 1.0]), 0.4, np.array([0.0, 5.0]))
    cosine, sine = np.cos(2.1), np.sin(2.1)
    motion = Rigid(np.array([[cosine, -sine], [sine, cosine]]), np.array([100.0, -20.0]))
    for before, after in zip(word.contours, word.moved(motion).contours, strict=True):
        assert after.points == pytest.approx(motion.apply(before.points), abs=1e-9)


@pytest.mark.parametrize("size", [1.0, 4.0, 30.0])
def test_written_larger_it_stays_beside_what_it_tells_about(size):
    word = Word("7", 4.0, np.array([1.0, 2.0]), away=np.array([3.0, 0.0]))
    assert word.middle(size) == pytest.approx([1.0 + max(3.0, CLEAR * size), 2.0])
    assert Word("A", 4.0, np.array([1.0, 2.0])).middle(size) == pytest.approx([1.0, 2.0])
