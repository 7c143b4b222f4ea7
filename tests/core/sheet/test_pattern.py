"""The flat as a blank: every point of every zone is carried to where the zone itself says that it is in space."""

from __future__ import annotations

import numpy as np
import pytest

from tests.sheet_parts import drawn_out, drill, form, without
from zuschnitt.core.sheet.allowance import ByK
from zuschnitt.core.sheet.block import hollowed
from zuschnitt.core.sheet.body import folded_body, is_sharp
from zuschnitt.core.sheet.flanges import Flange
from zuschnitt.core.sheet.making import SheetPlan, sheet_part
from zuschnitt.core.sheet.pattern import sheet_blank
from zuschnitt.core.sheet.zones import region

from .test_cones import cone, winged


def tray(radius: float, of_flanges: float, **plan):
    """Opened at its corners, its bends and those of its flanges with radii of their own; 0 is an edge on one side."""
    flanges = (Flange((), 14.0, radius=of_flanges),)
    solid = hollowed(200, 120, 40, 2, ["top"])
    return sheet_part(solid, SheetPlan(radius=radius, opened="auto", flanges=flanges, **plan)).part


PARTS = {
    "tray": lambda other: tray(2.0, 3.0, other_side=other),
    "tray of edges": lambda other: tray(0.0, 0.0, other_side=other),
    "tray of edges, flanges bent": lambda other: tray(0.0, 3.0, other_side=other),
    "tray bent, flanges of edges": lambda other: tray(3.0, 0.0, other_side=other),
    "profile": lambda other: (
        sheet_part(form(drawn_out([40, 60, 40], [90, -50], 3.0, 2.0, 80.0)), SheetPlan(other_side=other)).part
    ),
    "ring with a hole": lambda other: (
        sheet_part(
            form(
                without(
                    drill((0, 0, 0), (0, 0, 1), 40, 100),
                    drill((0, 0, -1), (0, 0, 1), 37, 102),
                    drill((0, 0, 30), (1, 0.2, 0), 9, 60),
                )
            ),
            SheetPlan(other_side=other, opened="auto"),
        ).part
    ),
    "ring on a cone": lambda other: (
        sheet_part(form(cone(turn=360.0)), SheetPlan(rule=ByK(0.4), other_side=other, opened="auto")).part
    ),
    "cone and wall": lambda other: (
        sheet_part(form(winged(turn=140.0)), SheetPlan(rule=ByK(0.4), other_side=other)).part
    ),
}


@pytest.mark.parametrize("stage", [1.0, 0.45, 0.0])
@pytest.mark.parametrize("other", [False, True])
@pytest.mark.parametrize("name", PARTS)
def test_every_zone_is_carried_to_its_place(name, other, stage):
    part = PARTS[name](other)
    blank = sheet_blank(part, folded_body(part, stage), stage)
    frames, rng = part.frames(stage), np.random.default_rng(1)
    for k, zone in enumerate(part.zones):
        if is_sharp(part.rolled(k, stage), part.thickness):
            continue  # an edge on the followed side, which nothing is carried from
        within, ends = region(zone.loops), np.vstack([step.points() for step in zone.steps])
        xy = rng.uniform(ends.min(axis=0), ends.max(axis=0), (300, 2))
        xy = xy[within.contains(xy) & (within.distance(xy) > 0.05)][:30]
        carried = blank.correspondence.to_form(part.places[k].apply(xy))
        assert carried.inside.all()
        where = frames[k].world(part.surface(k, xy, stage)[0])
        near = 1e-3 if name.startswith("ring") else 1e-9  # a ring's slit is a hair wide
        assert np.linalg.norm(carried.points - where, axis=1).max(initial=0.0) < near
