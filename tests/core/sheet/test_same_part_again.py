"""Flat, folded, recognised and flat again: random parts of 2 to 14 walls stay the same."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from tests.sheet_parts import drawn_out, form, mirrored
from zuschnitt.core.errors import CannotBeDone
from zuschnitt.core.sheet.allowance import ByK
from zuschnitt.core.sheet.body import folded_body
from zuschnitt.core.sheet.flanges import Flange
from zuschnitt.core.sheet.flat import bend_lines
from zuschnitt.core.sheet.making import SheetPlan, sheet_part
from zuschnitt.core.sheet.part import SheetPart

PARTS, MOST_WALLS = 200, 14
BLOCKS = 20


def flange(rng, *edges):
    """With up to two further walls bent on from it."""
    then = () if len(edges) == 0 or rng.random() < 0.6 else (flange(rng),)
    return Flange(
        edges, float(rng.uniform(12, 30)), float(np.radians(rng.uniform(20, 100))), float(rng.uniform(0.5, 4)),
        bool(rng.random() < 0.5), float(rng.choice([0.0, rng.uniform(0, 6)])) if edges else 0.0, then,
    )  # fmt: skip


def walls(part: SheetPart) -> int:
    return sum(zone.wall > 0 for zone in part.zones)


def bends(part: SheetPart) -> list[tuple[float, ...]]:
    return sorted((round(b.angle, 7), round(b.radius, 6), round(b.length, 6)) for b in bend_lines(part))


def random_part(rng):
    """A strip of 1 to 4 walls with flanges on some of its free edges, and how it is made."""
    thickness, radius, count = float(rng.uniform(0.6, 3)), float(rng.uniform(0.5, 5)), int(rng.integers(1, 5))
    turns = rng.choice([-1, 1], count - 1) * rng.uniform(20, 90, count - 1)
    shape = drawn_out(rng.uniform(40, 90, count), turns, radius, thickness, float(rng.uniform(60, 150)))
    solid = form(mirrored(shape) if rng.random() < 0.3 else shape)
    plan = SheetPlan(radius=radius, other_side=bool(rng.random() < 0.5), rule=ByK(float(rng.uniform(0.3, 0.5))))
    strip = sheet_part(solid, plan).part
    free = {s.edge for zone in strip.zones if zone.roll is None for s in zone.steps
            if s.joint is None and s.straight and s.edge and s.length > 25}  # fmt: skip
    edges = rng.permutation(sorted(free))[: rng.integers(count == 1, min(len(free), MOST_WALLS - count, 8) + 1)]
    return solid, replace(plan, flanges=tuple(flange(rng, int(edge)) for edge in edges))


@pytest.mark.parametrize("block", range(BLOCKS))
def test_a_part_folded_and_found_again_is_the_same(block):
    seen, seed = 0, 1000 * block
    while seen < PARTS // BLOCKS:
        seed += 1
        solid, plan = random_part(np.random.default_rng(seed))
        try:
            part = sheet_part(solid, plan).part
        except CannotBeDone as error:  # the flat of a few lies over itself
            assert "lie over itself" in str(error), seed
            continue
        if walls(part) > MOST_WALLS:
            continue
        seen += 1
        again = sheet_part(folded_body(part), SheetPlan(radius=plan.radius, rule=plan.rule)).part
        assert again.flat_area == pytest.approx(part.flat_area, rel=1e-8), seed
        assert again.volume == pytest.approx(part.volume, rel=1e-8), seed
        assert walls(again) == walls(part), seed
        assert np.array(bends(again)) == pytest.approx(np.array(bends(part)), abs=2e-6), seed
