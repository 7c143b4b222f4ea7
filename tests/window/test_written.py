"""What is written on a blank, as it is seen: never too small to be read, and as it is cut where that is large enough."""

from __future__ import annotations

from dataclasses import replace
from itertools import combinations

import numpy as np
import pytest
from PyQt6.QtCore import QRectF

from zuschnitt.core.develop.assembly import Assembly
from zuschnitt.core.develop.developing import develop
from zuschnitt.core.develop.word import RISE, Word
from zuschnitt.core.plane.contour import Contour
from zuschnitt.core.plane.lettering import lettering
from zuschnitt.window.layers.marks import LEAST, written
from zuschnitt.window.layers.rib_sheet import names_of
from zuschnitt.window.stages.paper_view import PaperView

SIZE = (600, 640)
CAP = 0.6
"""Capitals and figures of the typeface are at least so many em squares high."""


@pytest.fixture(scope="module")
def words(form):
    blank = develop(form("box"), range(1, 7), assembly=Assembly(apart=True, labelled=True))
    return blank.words


def seen(words, scale, centre=(0.0, 0.0)):
    return list(written(words, PaperView(centre, scale, SIZE)))


def heights(words):
    """How high each is drawn, read along its line: turned back, and all in the middle."""
    flat = [Word(word.text, word.size, np.zeros(2)) for word in words]
    return lambda scale: [seen([word], scale)[0][0].boundingRect().height() for word in flat]


@pytest.mark.parametrize("scale", [1e-4, 0.02, 0.3, 1.0])
def test_words_are_drawn_eleven_pixels_high_or_more_whatever_their_size_in_the_file(words, scale):
    assert len(words) > 6 and min(word.size for word in words) * scale < LEAST
    assert min(heights(words)(scale)) > CAP * LEAST


def test_words_that_would_run_into_each_other_wait_for_a_closer_view(words):
    middle = np.mean([word.at for word in words], axis=0)
    counts = []
    for scale in (0.002, 0.2, 2.0):
        drawn = [path.boundingRect() for path, _ in seen(words, scale, tuple(middle))]
        assert drawn and not any(a.intersects(b) for a, b in combinations(drawn, 2))
        counts.append(len(drawn))
    assert counts[0] < counts[-1]
    assert seen(words, 0.002, tuple(middle + 1e7)) == []


def test_what_is_large_enough_is_drawn_as_it_is_cut(words):
    scale = 12.0
    word = max(words, key=lambda each: each.size)
    view = PaperView(tuple(word.middle(word.size)), scale, SIZE)
    [(path, as_cut)] = [each for each in written([word], view)]
    assert as_cut
    cut = view.to_pixels(np.vstack([contour.points for contour in word.contours]))
    low, high = cut.min(axis=0), cut.max(axis=0)
    area = QRectF(*low, *(high - low))
    there = path.boundingRect()
    for mine, other in zip(there.getCoords(), area.getCoords(), strict=True):
        assert mine == pytest.approx(other, abs=0.5)


def test_letters_that_reach_into_view_are_drawn_though_their_middle_is_not_in_it(words):
    word = Word("WWWWWW", 100.0, np.zeros(2))
    assert len(seen([word], 1.0, (480.0, 0.0))) == 1 and seen([word], 1.0, (2000.0, 0.0)) == []


def test_the_names_of_ribs_are_read_from_their_sheet():
    pieces = [Contour.circle((0, 0), 50.0)]
    for name, size, at in (("X1", 8.0, (5.0, 7.0)), ("X12", 3.0, (90.0, 7.0)), ("mate", 4.0, (40.0, 0.0))):
        letters, width = lettering(name, size)
        pieces += [replace(c.moved(at=(at[0] - width / 2, at[1])), layer="TEXT", name=name) for c in letters]
    found = {word.text: word for word in names_of(pieces)}
    assert set(found) == {"X1", "X12"}
    for name, size, at in (("X1", 8.0, (5.0, 7.0)), ("X12", 3.0, (90.0, 7.0))):
        assert found[name].size == pytest.approx(size, rel=0.1)
        assert found[name].middle(size) == pytest.approx([at[0], at[1] + RISE * size], abs=0.1 * size)
