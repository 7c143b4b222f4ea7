"""Curves that divide the plane into cells."""

from __future__ import annotations

from itertools import pairwise

import numpy as np
import pytest

from zuschnitt.core.errors import Refused
from zuschnitt.core.geometry.curves import Ellipse, Line
from zuschnitt.core.plane.arrangement import Piece, cells


def square(x, y, side, border=False):
    corners = np.array([[x, y], [x + side, y], [x + side, y + side], [x, y + side], [x, y]], float)
    return [Piece(Line.between(corners[i], corners[i + 1]), 0, 1, border) for i in range(4)]


def circle(x, y, r, turns=(0, 1, 2)):
    curve = Ellipse(np.array([x, y]), np.array([r, 0.0]), np.array([0, r]))
    return [Piece(curve, a * np.pi, b * np.pi) for a, b in pairwise(turns)]


def line(start, end):
    return [Piece(Line.between(np.array(start, float), np.array(end, float)), 0, 1)]


OUTLINE = square(0, 0, 10, border=True)
CASES = {  # loops of each cell: how many walks each has
    "alone": ([], [[4]]),
    "hole": (circle(5, 5, 2), [[4, 2], [2]]),
    "notch": (circle(10, 5, 2), [[7], [3], [3]]),
    "divided": (line((0, 3), (10, 4)), [[4], [4]]),
    "ends in nothing": (line((0, 3), (5, 4)), [[4]]),
    "lies beside, free": (line((2, 3), (5, 4)), [[4]]),
    "on the outline": (square(6, 3, 4), [[8], [4]]),
    "two that cross": (circle(4, 5, 2) + circle(6, 5, 2), [[4, 4], [4], [4], [4]]),
    "touches the outline": (circle(8, 5, 2), [[7], [2]]),
    "one in the other": (circle(5, 5, 3) + circle(5, 5, 1), [[4, 2], [2, 2], [2]]),
    "clockwise": (circle(5, 5, 2, (2, 1, 0)), [[4, 2], [2]]),
    "a cross": (line((0, 5), (10, 5)) + line((5, 0), (5, 10)), [[4], [4], [4], [4]]),
    "drawn twice": (circle(5, 5, 2) + circle(5, 5, 2), [[4, 2], [2]]),
}


@pytest.mark.parametrize("name", CASES)
def test_cells(name):
    curves, wanted = CASES[name]
    found = cells(OUTLINE + curves, np.ones(2))
    assert sorted([len(loop) for loop in cell.loops] for cell in found) == sorted(wanted)


def test_scale_changes_nothing():
    pieces = OUTLINE + circle(10, 5, 2)
    plain, scaled = cells(pieces, np.ones(2)), cells(pieces, np.array([50.0, 1.0]))
    assert [cell.loops for cell in plain] == [
        tuple(
            tuple(type(w)(w.piece, pytest.approx(w.start), pytest.approx(w.end)) for w in loop) for loop in cell.loops
        )
        for cell in scaled
    ]


def test_walks_are_closed_and_their_ends_meet():
    pieces = OUTLINE + circle(10, 5, 2) + line((0, 2), (10, 9))
    for cell in cells(pieces, np.ones(2)):
        for loop in cell.loops:
            for walk, after in zip(loop, (*loop[1:], loop[0]), strict=True):
                end = pieces[walk.piece].curve.evaluate(np.array([walk.end]))
                begin = pieces[after.piece].curve.evaluate(np.array([after.start]))
                assert np.abs(end - begin).max() < 1e-9


def test_more_meetings_than_anyone_wants_are_refused_at_once():
    """Two bundles of 80 lines, each of which crosses all of the other."""
    across = [Piece(Line.between(np.array([0.0, k]), np.array([100.0, k + 0.3])), 0.0, 1.0) for k in range(80)]
    up = [Piece(Line.between(np.array([k, 0.0]), np.array([k + 0.3, 100.0])), 0.0, 1.0) for k in range(80)]
    with pytest.raises(Refused, match="meet at about 6,400 places"):
        cells([*across, *up], np.ones(2))
