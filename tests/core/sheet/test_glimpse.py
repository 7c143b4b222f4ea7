"""Sheet parts as they are seen while a value moves: the same part, roughly."""

from __future__ import annotations

import numpy as np
import pytest

from tests.core.sheet.test_cones import cone
from tests.sheet_parts import drawn_out, form
from zuschnitt.core.parameters.flanges import with_length
from zuschnitt.core.sheet.block import hollowed
from zuschnitt.core.sheet.body import folded_body
from zuschnitt.core.sheet.flange_tips import flange_tips
from zuschnitt.core.sheet.flanges import Flange
from zuschnitt.core.sheet.glimpse import glimpse
from zuschnitt.core.sheet.making import SheetPlan, sheet_part


def tray(*flanges: Flange, **more):
    return sheet_part(
        hollowed(200, 120, 40, 1.5, ["top"]), SheetPlan(opened="auto", radius=2.0, flanges=flanges, **more)
    )


def volume(seen) -> float:
    """Of closed bodies of triangles, by the divergence theorem."""
    a, b, c = seen.points[seen.triangles].transpose(1, 0, 2)
    return float(np.einsum("ij,ij->i", a, np.cross(b, c)).sum() / 6)


PARTS = {
    "tray": lambda: tray(Flange((), 12.0)),
    "strip": lambda: sheet_part(form(drawn_out([40, 60, 30], [70, -120], 3.0, 2.0, 50.0)), SheetPlan()),
    "cone": lambda: sheet_part(form(cone()), SheetPlan()),
}


@pytest.mark.parametrize("name", PARTS)
@pytest.mark.parametrize("stage", [0.0, 0.4, 1.0])
def test_it_is_the_part_that_is_made(name, stage):
    part = PARTS[name]().part
    seen, body = glimpse(part, stage), folded_body(part, stage)
    assert volume(seen) == pytest.approx(part.volume_at(stage), rel=0.02)
    for corner, other in zip(body.bounds, (seen.points.min(axis=0), seen.points.max(axis=0)), strict=True):
        assert other == pytest.approx(corner, abs=0.2 * part.thickness)
    ends = np.vstack(seen.lines)
    assert ends.min(axis=0) == pytest.approx(body.bounds[0], abs=0.2 * part.thickness)
    assert np.linalg.norm(seen.normals, axis=1) == pytest.approx(1, abs=1e-9)


def test_a_tray_changed_again_and_again_is_that_of_a_new_start():
    solid = hollowed(200, 120, 40, 1.5, ["top"])
    for length, radius, rounding in ((10.0, 2.0, 0.0), (14.0, 2.0, 3.0), (14.0, 3.0, 3.0), (10.0, 2.0, 0.0)):
        plan = SheetPlan(opened="auto", radius=radius, flanges=(Flange((), length),), rounding=rounding)
        again = sheet_part(solid, plan)
        anew = sheet_part(hollowed(200, 120, 40, 1.5, ["top"]), plan)
        assert again.part.flat_area == anew.part.flat_area and again.part.volume == anew.part.volume
        assert again.messages == anew.messages and again.seams == anew.seams


def test_free_ends_of_flanges_move_with_their_lengths():
    chain = Flange((), 12.0, then=(Flange((), 9.0, np.radians(70)),))
    before, after = (flange_tips(tray(flange).part) for flange in (chain, Flange((), 15.0, then=chain.then)))
    assert [(tip.flange, tip.wall) for tip in before] == [(0, 0)] * 4 + [(0, 1)] * 4
    for k, (tip, other) in enumerate(zip(before, after, strict=True)):
        way = before[k % 4].way  # of the first wall, which takes the second along
        assert other.point - tip.point == pytest.approx(3.0 * way, abs=1e-9)


def test_one_length_is_written_anew():
    written = "top:15:90:2:in; 4, 7: 20 > 10:60 > 5"
    assert with_length(written, 0, 0, 12.5) == "top:12.5:90:2:in; 4, 7: 20 > 10:60 > 5"
    assert with_length(written, 1, 0, 18) == "top:15:90:2:in; 4, 7:18 > 10:60 > 5"
    assert with_length(written, 1, 2, 6) == "top:15:90:2:in; 4, 7: 20 > 10:60 > 6"
