"""What lies on the flat of a sheet part rides along to the folded body, at every stage."""

from __future__ import annotations

import numpy as np
import pytest

from zuschnitt.core.sheet.block import hollowed
from zuschnitt.core.sheet.body import folded_body
from zuschnitt.core.sheet.making import SheetPlan, sheet_part
from zuschnitt.core.sheet.pattern import sheet_blank


@pytest.mark.parametrize("stage", [0.0, 0.4, 1.0])
def test_points_of_the_flat_lie_where_the_walls_and_bends_are(stage):
    part = sheet_part(hollowed(200, 120, 40, 2, ["top"]), SheetPlan(opened="auto", radius=2.0)).part
    folded = folded_body(part, stage)
    blank = sheet_blank(part, folded, stage)
    frames = part.frames(stage)
    rng = np.random.default_rng(5)
    for k, zone in enumerate(part.zones):
        corners = np.vstack([step.points() for step in zone.loops[0]])
        low, high = corners.min(axis=0), corners.max(axis=0)
        xy = low + (high - low) * rng.uniform(0.1, 0.9, (20, 2))
        expected = frames[k].world(part.surface(k, xy, stage)[0])
        found = blank.correspondence.to_form(part.places[k].apply(xy)).points
        assert np.abs(found - expected).max() < 1e-6
    assert blank.figures.area_blank == pytest.approx(part.flat_area, rel=1e-9)
    assert blank.figures.round_trip_max < 1e-6
