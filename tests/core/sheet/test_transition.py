"""Transitions in sheet: volumes against the kernel, flats against closed forms and the developable one between them."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import assume, given, settings
from hypothesis import strategies as st

from zuschnitt.core.developable.transition import transition
from zuschnitt.core.errors import CannotBeDone, Refused
from zuschnitt.core.sheet.allowance import ByK
from zuschnitt.core.sheet.body import folded_body
from zuschnitt.core.sheet.making import SheetPlan, sheet_part
from zuschnitt.core.sheet.pattern import sheet_blank
from zuschnitt.core.sheet.transition import Profile, stepped_transition
from zuschnitt.core.solids.bodies import made_body
from zuschnitt.core.solids.shape import shape_of

RECTANGLE, CIRCLE = Profile(200.0, 160.0, 0.0), Profile(120.0, 120.0)
K = 0.44


def made(lower=RECTANGLE, upper=CIRCLE, height=150.0, offset=(0.0, 0.0), thick=2.0, count=2, radius=2.0, outside=False):
    return stepped_transition(lower, upper, height, np.array(offset), thick, count, radius, ByK(K), outside)


def agrees_with_the_kernel(part):
    for stage in (0.5, 1.0):
        body = made_body("part", shape_of(folded_body(part, stage)))
        assert body.volume == pytest.approx(part.volume_at(stage), rel=1e-8)
    assert sheet_blank(part, folded_body(part)).figures.area_blank == pytest.approx(part.flat_area, rel=1e-8)


SHAPES = {
    "rectangle to round": {},
    "off the middle": {"offset": (40.0, -20.0)},
    "round to rectangle": {"lower": CIRCLE, "upper": RECTANGLE},
    "wide to narrow": {"lower": Profile(300, 200, 30), "upper": Profile(150, 100, 15), "offset": (10.0, 20.0)},
    "four sides": {"lower": Profile(300, 200, 0), "upper": Profile(100, 80, 0), "offset": (0.0, 30.0)},
    "a cone": {"lower": Profile(200, 200), "upper": Profile(100, 100)},
    "an oblique cylinder": {"lower": Profile(100, 100), "upper": Profile(100, 100), "offset": (30.0, 0.0)},
    "slot to round": {"lower": Profile(200, 100), "upper": Profile(100, 100)},
    "sharp bends": {"radius": 0.0},
    "five flats a corner": {"count": 5},
    "one flat a corner": {"count": 1},
}


@pytest.mark.parametrize("outside", [False, True])
@pytest.mark.parametrize("sizes", SHAPES.values(), ids=SHAPES)
def test_flat_and_folded_are_one_part(sizes, outside):
    found = made(**sizes, outside=outside)
    agrees_with_the_kernel(found.part)
    flats = [zone for zone in found.part.zones if zone.wall]
    assert all(zone.roll is None for zone in flats)
    assert sum(1 for zone in found.part.zones if zone.bend) == len(flats) - 1


@settings(deadline=None, max_examples=4)
@given(
    lower=st.tuples(st.floats(60, 400), st.floats(60, 400), st.floats(0, 1)),
    upper=st.tuples(st.floats(60, 400), st.floats(60, 400), st.floats(0, 1)),
    height=st.floats(40, 400),
    offset=st.tuples(st.floats(-100, 100), st.floats(-100, 100)),
    thick=st.floats(0.5, 3),
    count=st.integers(1, 3),
    outside=st.booleans(),
)
def test_transitions_of_any_size_agree_with_the_kernel_or_say_why_not(
    lower, upper, height, offset, thick, count, outside
):
    one, other = (Profile(a, b, round(part, 1) * min(a, b) / 2) for a, b, part in (lower, upper))
    try:
        part = made(one, other, height, offset, thick, count, thick, outside).part
    except CannotBeDone as error:
        assert "take fewer" in str(error)
        assume(False)
    agrees_with_the_kernel(part)


def test_the_sides_stand_on_the_profiles():
    inside, outside = made().part, made(outside=True).part
    low, high = folded_body(outside).bounds
    assert np.allclose((high - low)[:2], [200, 160], atol=1e-6)
    for part in (inside, outside):
        z = []
        for frame, zone in zip(part.frames(), part.zones, strict=True):
            if zone.wall:
                corners = np.vstack([step.points() for step in zone.loops[0]])
                z.append(frame.world(np.column_stack([corners, np.zeros(len(corners))]))[:, 2])
        assert min(each.min() for each in z) == pytest.approx(0.0, abs=1e-6)
        assert max(each.max() for each in z) == pytest.approx(150.0, abs=1e-6)


def test_four_walls_have_the_size_of_the_closed_form():
    """A hopper: its slant sides by Pythagoras, its bends by the angle between the walls' normals."""
    part = made(Profile(300, 300, 0), Profile(100, 100, 0), height=100.0, radius=1.0).part
    normals = np.array([[0, -1, 1], [1, 0, 1]]) / np.sqrt(2)
    turn = np.arccos(normals[0] @ normals[1])
    bends = [zone for zone in part.zones if zone.bend]
    assert [zone.angle for zone in bends] == pytest.approx([turn] * 4, rel=1e-12)
    slant = np.hypot(100, 100)
    edge = np.hypot(slant, 100)
    whole = 4 * (300 + 100) / 2 * slant
    assert sum(zone.area for zone in part.zones if zone.wall) > whole - 8 * np.tan(turn / 2) * (edge + 10)
    assert sum(zone.area for zone in part.zones if zone.wall) < whole - 8 * np.tan(turn / 2) * (edge - 10)
    assert sum(z.area for z in bends) == pytest.approx(4 * edge * turn * (1 + K * 2), rel=0.02)


def test_flats_are_as_far_off_the_developable_transition_as_is_said():
    count = 3
    found = made(offset=(30.0, 10.0), count=count, radius=0.0)
    true = transition(200.0, 160.0, 120.0, 150.0, (30.0, 10.0))
    frames = [f for f, z in zip(found.part.frames(), found.part.zones, strict=True) if z.wall]
    worst = 0.0
    for face in true.faces:
        u = np.linspace(0, 1, 4 * count + 1)
        if face.surface.kind == "plane":
            continue
        points = face.surface.evaluate(np.column_stack([u, np.ones_like(u)]))
        away = np.array([(points - frame.origin) @ frame.axes[2] for frame in frames])
        worst = max(worst, np.abs(away.min(axis=0)).max(), np.abs(away).min(axis=0).max())
    assert worst == pytest.approx(max(each.gap for each in found.stepped), rel=0.02)


def test_what_runs_together_is_cut_out_and_said():
    found = made()
    assert "cut out round the corner" in found.messages[0]
    assert not made(Profile(300, 200, 30), Profile(150, 100, 15)).messages


@pytest.mark.parametrize("outside", [False, True])
def test_it_is_recognised_as_the_same_part(outside):
    part = made(outside=outside, lower=Profile(300, 200, 30), upper=Profile(150, 100, 15)).part
    back = sheet_part(folded_body(part), SheetPlan()).part
    assert back.thickness == pytest.approx(2.0, rel=1e-6)
    assert back.volume == pytest.approx(part.volume, rel=1e-6)
    assert back.flat_area == pytest.approx(part.flat_area, rel=1e-6)


@pytest.mark.parametrize(
    "sizes, error, why",
    [
        ({"lower": Profile(0.0, 100, 0)}, Refused, "above 0"),
        ({"height": float("nan")}, Refused, "above 0"),
        ({"lower": Profile(100, 60, 31)}, Refused, "a radius from 0 to 30 mm"),
        ({"count": 0}, Refused, "1 to 200 flats"),
        ({"count": 500}, Refused, "1 to 200 flats"),
        ({"lower": Profile(200, 160, 1.0), "radius": 5.0}, CannotBeDone, "too narrow"),
        ({"radius": 60.0}, CannotBeDone, "too narrow"),
    ],
)
def test_what_cannot_be_made_says_so(sizes, error, why):
    with pytest.raises(error, match=why):
        made(**sizes)
