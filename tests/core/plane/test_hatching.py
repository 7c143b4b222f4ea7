"""Hatching: what it covers is the area, and no line leaves it."""

import numpy as np
import pytest
import shapely

from zuschnitt.core.plane.hatching import MOST, hatched

SQUARE = np.array([[0, 0], [10, 0], [10, 10], [0, 10.0]])
TURNS = np.linspace(0, 2 * np.pi, 400, endpoint=False)


def circle(radius, at=(0, 0)):
    return at + radius * np.stack([np.cos(TURNS), np.sin(TURNS)], axis=1)


@pytest.mark.parametrize("seed", range(4))
def test_lines_times_their_distance_are_the_area(seed):
    random = np.random.default_rng(seed)
    rings = [
        circle(20),
        circle(6, random.uniform(-8, 8, 2)),
        50 + SQUARE,
        100 + circle(1) * random.uniform(5, 20, (400, 1)),
    ]
    area = shapely.Polygon()
    for ring in rings:
        area = area.symmetric_difference(shapely.make_valid(shapely.Polygon(ring)))
    lines = hatched(rings, 0.05)
    lengths = np.linalg.norm(lines[:, 1] - lines[:, 0], axis=1)
    assert lengths.sum() * 0.05 == pytest.approx(area.area, rel=2e-3)
    assert area.buffer(1e-6).covers(shapely.multilinestrings(shapely.linestrings(lines)))
    ways = (lines[:, 1] - lines[:, 0])[lengths > 1e-6]
    assert np.allclose(ways[:, 0], ways[:, 1])


def test_few_lines_and_none():
    assert hatched([], 1.0).shape == (0, 2, 2) and hatched([SQUARE[:2]], 1.0).shape == (0, 2, 2)
    assert 0 < len(hatched([SQUARE], 1e-9)) <= MOST + 1
    assert len(hatched([SQUARE], 100.0)) <= 1


def test_what_is_twice_inside_is_free():
    both = hatched([circle(20), circle(10)], 0.1)
    middles = both.mean(axis=1)
    assert np.linalg.norm(middles, axis=1).min() > 10 - 0.1
