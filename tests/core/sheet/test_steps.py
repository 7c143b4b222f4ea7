"""Large bends and rolled cones in steps: volumes against the kernel, how far off the arc against distances from it."""

from __future__ import annotations

import numpy as np
import pytest
from scipy.optimize import brentq

from tests.core.sheet.test_cones import cone, winged, winged_twice
from tests.sheet_parts import block, drawn_out, drill, form, mirrored, without
from zuschnitt.core.errors import CannotBeDone, Refused
from zuschnitt.core.sheet.body import folded_body
from zuschnitt.core.sheet.making import SheetPlan, sheet_part
from zuschnitt.core.sheet.pattern import sheet_blank
from zuschnitt.core.sheet.stepping import Steps
from zuschnitt.core.solids.bodies import made_body
from zuschnitt.core.solids.shape import shape_of


def made(shape, **plan):
    return sheet_part(form(shape), SheetPlan(**{"radius": 2.0, **plan}))


def kernel_volume(part, stage=1.0):
    return made_body("part", shape_of(folded_body(part, stage))).volume


def off_the_arc(shape, steps, **plan):
    """How far inside and outside of the rolled surface, on the bends' inside, the flats lie, and what is said."""
    solid = form(shape)
    plan = {"radius": 0.01, **plan}
    found = sheet_part(solid, SheetPlan(**plan, steps=steps))
    points = np.vstack([edge.points(1e-3) for edge in folded_body(found.part).edges])
    rolled = [f for f in solid.faces if f.surface.kind in ("cone", "cylinder")]
    face = sorted(rolled, key=lambda f: f.area)[-2]  # its largest face is the outside
    inside = face.surface
    sides = [side for loop in face.loops for side in loop]
    round_it = np.vstack([side.curve.evaluate(np.array([side.start, side.end])) for side in sides])[:, 0]
    turn = inside.project(points)[:, 0]
    points = points[(turn > round_it.min()) & (turn < round_it.max())]  # beside walls run on
    foot = inside.evaluate(inside.project(points))
    axis, arm = inside.frame.axes[2], foot - inside.frame.origin
    out = np.sign(((points - foot) * (arm - np.outer(arm @ axis, axis))).sum(axis=1))
    away = out * np.linalg.norm(points - foot, axis=1)
    return -away.min(), away.max(), found.stepped[0].gap, found.part.thickness


ROLLED = {
    "a cone": cone,
    "a cone that opens upwards": lambda: cone(60.0, 120.0),
    "a mirrored cone": lambda: mirrored(cone()),
    "a cone between walls": winged_twice,
    "a mirrored cone with a wall that opens upwards": lambda: mirrored(winged(wide=60.0, narrow=120.0)),
    "a cylinder": lambda: drawn_out([0, 0], [60], 80.0, 2.0, 50.0),
    "a cylinder with a wall": lambda: drawn_out([0, 30], [60], 80.0, 2.0, 50.0),
    "a cylinder between walls": lambda: drawn_out([20, 30], [80], 80.0, 2.0, 50.0),
}


@pytest.mark.parametrize("opposite", [False, True])
@pytest.mark.parametrize("side", ["inside", "middle", "outside"])
@pytest.mark.parametrize("shape", ROLLED.values(), ids=ROLLED)
def test_flats_are_as_far_off_the_arc_as_is_said(shape, side, opposite):
    inwards, outwards, gap, thick = off_the_arc(shape(), Steps(6, 50.0, side), other_side=opposite)
    outwards -= thick  # the other skin of the sheet
    expected = {"inside": (gap, 0.0), "middle": (gap, gap), "outside": (0.0, gap)}[side]
    assert (inwards, outwards) == pytest.approx(expected, abs=1e-3)


STEPPED = {
    "a cone": cone,
    "a winged cone": winged,
    "a mirrored winged cone": lambda: mirrored(winged()),
    "nearly all round": lambda: cone(turn=350.0),
    "a drilled cone": lambda: without(cone(), drill((0, 0, 75), (1, 1, 0), 12, 200), drill((0, 0, 60), (0, 1, 0), 9, 200)),
    "an oblique cone end": lambda: without(winged(), block((-300, -300, 120), (600, 600, 100))),
    "a wing in two": lambda: without(winged(), block((60, -60, 60), (100, 58, 40))),
}  # fmt: skip


@pytest.mark.parametrize("opposite", [False, True])
@pytest.mark.parametrize("shape", STEPPED.values(), ids=STEPPED)
def test_a_cone_in_steps_is_flats_and_bends(shape, opposite):
    found = made(shape(), other_side=opposite, steps=Steps(7, 50.0))
    part = found.part
    flats = [zone for zone in part.zones if zone.roll is None]
    assert found.stepped[0].flats == 7
    assert {zone.roll.radius for zone in part.zones if zone.roll is not None} == {2.0}
    assert sum(1 for zone in part.zones if zone.bend) == len(flats) - 1
    require_whole(part)


def require_whole(part):
    """Its volume at three stages is the kernel's, and its flat that of the folded body developed anew."""
    assert len(part.order) == len(part.joints) == len(part.zones) - 1
    for stage in (0.0, 0.4, 1.0):
        assert kernel_volume(part, stage) == pytest.approx(part.volume_at(stage), rel=1e-8)
    blank = sheet_blank(part, folded_body(part))
    assert blank.figures.area_blank == pytest.approx(part.flat_area, rel=1e-8)


def bored(y, radius):
    """A winged cone with a hole beside the ruling at its wall, which is at y = 0; its corner is at 17 to 29."""
    return without(winged(), drill((70, y, 60), (1, 0, 0.4), radius, 60))


BESIDE = {
    "an oblique end": lambda: without(winged_twice(), block((-300, -300, 120), (600, 600, 100))),
    "two walls at an end": lambda: without(winged(), block((60, -60, 60), (100, 60, 40))),
    "a slot over the corner": lambda: without(winged(), block((60, -60, 60), (100, 90, 40))),
    "a wall shorter than the cone": lambda: without(winged(), block((50, -60, 100), (100, 60, 60))),
    "a hole in the wall": lambda: bored(-8, 6),
    "a hole over the ruling": lambda: bored(3, 6),
    "a hole between ruling and corner": lambda: bored(10, 3),
    "a hole over the corner": lambda: bored(17, 5),
    "a hole over all": lambda: bored(5, 30),
}  # fmt: skip


@pytest.mark.parametrize("name", BESIDE)
def test_walls_run_on_to_the_first_corner_of_a_cone_in_steps(name):
    place = list(BESIDE).index(name)
    solid, side, opposite = BESIDE[name](), ("middle", "outside")[place % 2], place % 4 > 1
    part = made(solid, radius=3.0, other_side=opposite, steps=Steps(5, 50.0, side)).part
    require_whole(part)
    corners = made(solid, radius=3.0, other_side=opposite, steps=Steps(5, 50.0, "inside")).part
    assert part.flat_area > corners.flat_area  # none of the ways drops what lies between wall and corner


@pytest.mark.parametrize(("side", "opposite"), [("middle", True), ("outside", False)], ids=["middle", "outside"])
def test_walls_beside_a_cone_grow_by_wedges_of_the_closed_form(side, opposite):
    count, turn, wide, narrow, high, long = 5, np.radians(120), 120.0, 60.0, 150.0, 40.0
    part = made(winged_twice(long), radius=0.0, other_side=opposite, steps=Steps(count, 50.0, side)).part
    lean = np.arctan2(wide - narrow, high)
    slants = (np.array([wide, narrow]) - 2.0 * np.cos(lean)) / np.sin(lean)  # from the apex of the inside
    if side == "outside":
        first = turn / (count + 1) / 2
    else:
        first = brentq(lambda x: 2 / (1 + np.cos((turn - 2 * x) / count / 2)) - 1 / np.cos(x), 0.01, 0.5)
    wedge = np.tan(first) * np.sin(lean) * (slants[0] ** 2 - slants[1] ** 2) / 2
    walls = sorted(zone.area for zone in part.zones if zone.wall)
    expected = long * (slants[0] - slants[1]) + wedge
    found = [size for size in walls if size == pytest.approx(expected, rel=1e-9)]
    assert len(found) == 2


def test_a_cone_in_steps_is_the_pyramid_of_the_closed_form():
    count, turn, wide, narrow, high = 5, np.radians(200), 120.0, 60.0, 150.0
    part = made(cone(wide, narrow, high), radius=0.0, steps=Steps(count, 50.0)).part
    step, lean = turn / count, np.arctan2(wide - narrow, high)
    ends = np.array([wide, narrow]) - 2.0 * np.cos(lean)  # the inside at both ends, which are square to the sheet
    flat = count * (2 * ends * np.sin(step / 2)).mean() * np.hypot(np.diff(ends)[0] * np.cos(step / 2), high)
    bends = [zone for zone in part.zones if zone.bend]
    assert sum(zone.area for zone in part.zones if zone.wall) == pytest.approx(flat, rel=1e-9)
    assert len(bends) == count - 1
    middle = np.arctan(np.tan(lean) * np.cos(step / 2))
    assert bends[0].angle == pytest.approx(2 * np.arcsin(np.cos(middle) * np.sin(step / 2)), rel=1e-12)


@pytest.mark.parametrize("plan", [{"rounds": "sharp"}, {"steps": Steps(5)}, {}], ids=["sharp", "in steps", "as it is"])
def test_all_walls_at_one_end_of_a_bend_move_with_it(plan):
    whole = made(drawn_out([60, 40], [90], 100.0, 2.0, 300.0), **plan).part
    two = made(without(drawn_out([60, 40], [90], 100.0, 2.0, 300.0), block((-5, 120, -5), (65, 60, 20))), **plan).part
    assert np.allclose(folded_body(two).bounds, folded_body(whole).bounds, atol=1e-6)
    assert kernel_volume(two) == pytest.approx(two.volume, rel=1e-9)
    # the slot is 60 mm wide and as long as a wall of the whole part
    gone = (whole.flat_area - two.flat_area) / 60
    assert any(gone == pytest.approx(zone.area / 300, rel=1e-6) for zone in whole.zones if zone.wall)


@pytest.mark.parametrize(
    "shape, plan, error, why",
    [
        (lambda: drawn_out([40, 0, 40], [60, -60], 80, 2, 50), {"steps": Steps(4)}, CannotBeDone, "runs on into another"),
        (lambda: winged(1.0), {"radius": 12.0, "steps": Steps(5)}, CannotBeDone, "wall beside a cone is narrower"),
        (lambda: cone(80, 8), {"radius": 9.0, "steps": Steps(5)}, Refused, "where it is narrowest"),
        (lambda: cone(80, 8), {"radius": 5.9, "steps": Steps(3)}, CannotBeDone, "At its narrow end"),
        (lambda: cone(turn=350), {"steps": Steps(2)}, CannotBeDone, "take more"),
        (cone, {"steps": Steps(5, 500)}, CannotBeDone, "No bend has an inside radius over 500 mm"),
    ],
)  # fmt: skip
def test_what_cannot_be_made_in_steps_says_so(shape, plan, error, why):
    with pytest.raises(error, match=why):
        made(shape(), **plan)


def test_many_small_flats_that_only_touch_do_not_lie_over_each_other():
    part = made(cone(80.0, 8.0), radius=4.0, steps=Steps(30)).part
    assert len(part.zones) == 59
