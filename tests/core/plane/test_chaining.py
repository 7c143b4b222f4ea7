"""Contours without points at which nothing happens, and loose ones joined."""

from __future__ import annotations

from itertools import pairwise

import numpy as np
import pytest

from zuschnitt.core.files.dxf import chained
from zuschnitt.core.plane.chaining import merged
from zuschnitt.core.plane.contour import Contour
from zuschnitt.core.plane.spans import Spans


def divided(corners: int, parts: int, turn: int) -> Contour:
    """A ring of lines and arcs in turn, each in so many equal parts, begun at another of its points."""
    angle = np.arange(corners) * 2 * np.pi / corners
    ring = 100 * np.stack([np.cos(angle), np.sin(angle)], axis=1)
    bulges = np.where(np.arange(corners) % 2, 0.0, 0.3)
    spans = Spans.of([Contour(ring, bulges, True)])
    at = np.tile(np.arange(parts) / parts, corners)
    points = spans.evaluate(at, np.repeat(np.arange(corners), parts))
    fine = np.repeat(np.tan(np.arctan(bulges) / parts), parts)
    return Contour(np.roll(points, turn, axis=0), np.roll(fine, turn), True)


@pytest.mark.parametrize(("corners", "parts", "turn"), [(4, 1, 0), (4, 2, 1), (6, 3, 2), (6, 7, 5), (8, 400, 777)])
def test_lines_go_on_straight_and_arcs_on_their_circle(corners, parts, turn):
    given = divided(corners, parts, turn)
    made = merged(given)
    assert len(made.points) == corners and made.closed
    assert made.area == pytest.approx(given.area, rel=1e-9) and made.length == pytest.approx(given.length, rel=1e-9)


def test_an_open_line_keeps_its_ends_and_a_circle_two_points():
    line = merged(Contour.polyline([[x, 0] for x in range(50)] + [[49, y] for y in range(1, 9)]))
    assert line.points.tolist() == [[0, 0], [49, 0], [49, 8]] and not line.closed
    around = np.linspace(0, 2 * np.pi, 41)[:-1]
    circle = Contour(np.stack([np.cos(around), np.sin(around)], axis=1), np.full(40, np.tan(np.pi / 80)), True)
    assert len(merged(circle).points) == 2 and merged(circle).area == pytest.approx(np.pi)


def loose(points: np.ndarray, bulge: float, random, layer: str = "CUT") -> list[Contour]:
    """The spans between points, each as a contour that runs one way or the other."""
    spans = [Contour(np.array([a, b]), np.array([bulge, 0.0]), False, layer) for a, b in pairwise(points)]
    return [span.reversed() if random.random() < 0.5 else span for span in spans]


def test_pieces_in_any_order_and_direction_become_rings_and_lines():
    random = np.random.default_rng(4)
    angle = np.linspace(0, 2 * np.pi, 25)
    ring = np.stack([np.cos(angle), np.sin(angle)], axis=1) * 30
    ring[-1] = ring[0]
    way = np.cumsum(random.uniform(1, 5, (15, 2)), axis=0) + [100, 0]
    pieces = [*loose(ring, 0.1, random), *loose(way, 0.0, random), *loose(way + [0, 50], 0.0, random, "MARK")]
    lengths = sum(piece.length for piece in pieces)
    first = pieces[0]
    rest = pieces[1:]
    random.shuffle(rest)
    made = chained([first, *rest])
    assert sorted((c.layer, c.closed, len(c.points)) for c in made) == [
        ("CUT", False, 15), ("CUT", True, 24), ("MARK", False, 15),
    ]  # fmt: skip
    assert sum(c.length for c in made) == pytest.approx(lengths)
    whole = next(c for c in made if c.closed)
    ahead = any(np.array_equal(np.roll(whole.points, -k, axis=0)[:2], first.points) for k in range(24))
    assert ahead  # it runs as its first piece does


def test_what_comes_back_by_itself_is_closed_and_what_meets_in_threes_stays():
    square = Contour.polyline([[0, 0], [9, 0], [9, 9], [0, 0]])
    assert [c.closed for c in chained([square])] == [True] and chained([square])[0].area == pytest.approx(40.5)
    star = [Contour.polyline([[0, 0], tip]) for tip in ([5, 0], [0, 5], [-5, 1])]
    assert len(chained(star)) == 3 and chained([]) == []
