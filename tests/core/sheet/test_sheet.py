"""Sheet parts against closed forms, against the kernel's volumes, and against themselves folded and found again."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from tests.sheet_parts import block, drawn_out, drill, form, joined, mirrored, without
from zuschnitt.core.errors import CannotBeDone, Refused, WrongCall
from zuschnitt.core.job.evaluate import run_all
from zuschnitt.core.job.route import Job
from zuschnitt.core.materials import material_named
from zuschnitt.core.parameters.flanges import Flanges, toggled, with_length
from zuschnitt.core.parameters.shares import Shares
from zuschnitt.core.sheet.allowance import ByDin, ByK, bend_table
from zuschnitt.core.sheet.block import hollowed
from zuschnitt.core.sheet.body import flat_body, folded_body
from zuschnitt.core.sheet.corners import Relief
from zuschnitt.core.sheet.finishing import overlap
from zuschnitt.core.sheet.flanges import Flange
from zuschnitt.core.sheet.flat import bend_lines, flat_size, outline
from zuschnitt.core.sheet.grain import along_the_grain
from zuschnitt.core.sheet.making import SheetPlan, sheet_part
from zuschnitt.core.sheet.opening import Link, hung_on
from zuschnitt.core.sheet.part import folded_apart
from zuschnitt.core.sheet.passing import passings
from zuschnitt.core.sheet.pattern import sheet_blank
from zuschnitt.core.sheet.stepping import Steps
from zuschnitt.core.sheet.verdicts import verdicts
from zuschnitt.core.solids.bodies import made_body
from zuschnitt.core.solids.shape import shape_of
from zuschnitt.core.wording import Note

K = 0.44


def made(shape, **plan):
    return sheet_part(shape if hasattr(shape, "faces") else form(shape), SheetPlan(**plan))


def size(part):
    low, high = flat_size(outline(part))
    return sorted((high - low).tolist())


def kernel_volume(part, stage=1.0):
    return made_body("part", shape_of(folded_body(part, stage))).volume


def allowance(degrees, radius, thickness=2.0, k=K):
    return np.radians(degrees) * (radius + k * thickness)


PATHS = {
    "an angle": ([50, 30], [90]),
    "a channel": ([40, 60, 40], [90, 90]),
    "a step": ([40, 60, 40], [90, -90]),
    "a hat": ([20, 30, 50, 30, 20], [-90, 90, 90, -90]),
    "an acute angle": ([40, 60], [135]),
    "an obtuse angle": ([40, 60], [30]),
}


@pytest.mark.parametrize("opposite", [False, True])
@pytest.mark.parametrize("legs, turns", PATHS.values(), ids=PATHS)
def test_profiles_have_the_length_of_the_closed_form(legs, turns, opposite):
    solid = drawn_out(legs, turns, 3.0, 2.0, 80.0)
    found = made(solid, other_side=opposite)
    expected = sum(legs) + sum(allowance(abs(turn), 3.0) for turn in turns)
    assert size(found.part) == pytest.approx(sorted([80.0, expected]), rel=1e-9)
    assert found.part.thickness == pytest.approx(2.0, rel=1e-9)
    assert found.part.volume == pytest.approx(made_body("solid", solid).volume, rel=1e-9)
    assert kernel_volume(found.part) == pytest.approx(found.part.volume, rel=1e-9)
    lines = bend_lines(found.part)
    assert sorted(round(float(np.degrees(line.angle)), 6) for line in lines) == sorted(map(abs, turns))
    against = bend_lines(made(solid, other_side=not opposite).part)
    assert sum(line.up for line in lines) == sum(not line.up for line in against)


def test_din_and_tables_say_what_a_bend_takes():
    solid = drawn_out([50, 30], [90], 3.0, 2.0, 80.0)
    din = made(solid, rule=ByDin()).part
    factor = 0.65 + 0.5 * np.log10(3.0 / 2.0)
    assert max(size(din)) == pytest.approx(80 + np.pi / 2 * (3 + factor * 1.0), rel=1e-12)
    rows = b"material,thickness,radius,angle,allowance\nsteel,2,2,90,4.0\nsteel,2,4,90,8.0\nsteel,1,3,90,1.0\n"
    table = made(solid, rule=bend_table(rows, "bends.csv")).part
    assert max(size(table)) == pytest.approx(80 + 6.0, rel=1e-12)
    with pytest.raises(CannotBeDone, match=r"nothing for 2 mm thick, radius 3 mm, 45"):
        made(drawn_out([50, 30], [45], 3.0, 2.0, 80.0), rule=bend_table(rows, "bends.csv"))


@pytest.mark.parametrize(
    "content, why",
    [
        (b"\xff\xfe\x00", "no CSV"),
        (b"", "no bend table"),
        (b"thickness,radius\n1,2\n", "no bend table"),
        (b"material,thickness,radius,angle,allowance\nsteel,2,x,90,4\n", "Line 2"),
        (b"material,thickness,radius,angle,allowance\nsteel,nan,2,90,4\n", "Line 2"),
        (b"material,thickness,radius,angle,allowance\na,2,2,90,4\nb,2,2,90,4\n", "name the material"),
    ],
)
def test_tables_that_are_none_are_refused(content, why):
    with pytest.raises(Refused, match=why):
        bend_table(content, "bends.csv")


def tray(**plan):
    return made(hollowed(200, 120, 40, 2, ["top"]), opened="auto", **plan)


@pytest.mark.parametrize("radius", [0.0, 1.0, 2.0, 8.0, 30.0])
@pytest.mark.parametrize("opposite", [False, True])
def test_a_tray_has_the_size_of_the_closed_form(radius, opposite):
    part = tray(radius=radius, other_side=opposite).part
    bends = 2 * allowance(90, radius) - 4 * (radius + 2)
    expected = sorted([200 + 2 * 40 + bends, 120 + 2 * 40 + bends])
    assert size(part) == pytest.approx(expected, rel=1e-9)
    assert kernel_volume(part) == pytest.approx(part.volume, rel=1e-8)
    low, high = folded_body(part).bounds
    assert np.allclose(high - low, [200, 120, 40], atol=1e-6)
    assert len(bend_lines(part)) == 4


def test_a_tray_says_which_edges_must_be_opened():
    with pytest.raises(CannotBeDone, match=r"open 4 edges: 5, 7, 9, 10"):
        made(hollowed(200, 120, 40, 2, ["top"]))
    opened = made(hollowed(200, 120, 40, 2, ["top"]), opened=(5, 7, 9, 10))
    assert [(seam.edge, seam.length) for seam in opened.seams] == [(n, 40.0) for n in (5, 7, 9, 10)]
    with pytest.raises(CannotBeDone, match="falls into 5 pieces"):
        made(hollowed(200, 120, 40, 2, ["top"]), opened=tuple(range(1, 13)))


@pytest.mark.parametrize("corners", ["closed", "half-open", "overlapping"])
@pytest.mark.parametrize("length", [0.0, 12.0])
def test_seams_are_chosen_with_which_the_folded_part_can_be(corners, length):
    """A box higher than it is deep: its shortest seams run along the floor, and its flanges went through each other."""
    flanges = (Flange((), length),) if length else ()
    deep = hollowed(175.3, 63.4, 131.1, 1.0, ["top"])
    found = made(deep, opened="auto", radius=1.31, corners=corners, flanges=flanges)
    assert not found.passed and overlap(found.part) == 0
    assert kernel_volume(found.part) == pytest.approx(found.part.volume, rel=1e-8)
    shortest = 2 * 63.4 + 2 * 131.1
    longer = sum(seam.length for seam in found.seams) > shortest + 1e-6
    assert longer is (corners != "closed" or length > 0)
    said = [message for message in found.messages if "the shortest seams, 389 mm" in message]
    assert len(said) == longer and all(isinstance(message, Note) for message in said)
    again = made(deep, opened="auto", radius=1.31)  # what was chosen for the flanges does not stay without them
    assert sum(seam.length for seam in again.seams) == pytest.approx(shortest)


@pytest.mark.parametrize("count, links, root, opened", [
    (4, [(0, 1, 5), (1, 2, 9), (2, 3, 9), (0, 3, 4), (0, 2, 1)], 0, (1, 2)),
    (4, [(0, 1, 5), (1, 2, 9), (2, 3, 7), (0, 3, 4)], 0, (2,)),
    (5, [(0, 1, 1), (2, 3, 1), (3, 4, 1), (2, 4, 2)], 0, (2,)),
])  # fmt: skip
def test_zones_hang_on_one_as_near_as_may_be(count, links, root, opened):
    made_of = [Link((a, b), (k,), float(length)) for k, (a, b, length) in enumerate(links)]
    assert hung_on(count, made_of, root) == opened


@pytest.mark.parametrize(
    "off, bends",
    [
        ("top,front", 3),
        ("top,bottom", 3),
        ("left,front,top", 2),
        ("top,bottom,left,right,front", 0),
        ("left,right,front,top", 1),
    ],
)
def test_blocks_with_other_sides_off(off, bends):
    part = made(hollowed(200, 120, 40, 2, off.split(",")), opened="auto").part
    assert len(bend_lines(part)) == bends
    assert kernel_volume(part) == pytest.approx(part.volume, rel=1e-8)


def test_walls_at_open_corners_cover_what_they_should():
    def across(**plan):  # the front wall and a side wall, both along the part's outer size
        return tray(radius=2.0, **plan).part.flat_area

    closed = across()
    assert across(gap=0.5) == pytest.approx(closed - 8 * 36 * 0.25 / np.cos(np.pi / 4), rel=1e-9)
    # the one grows by its half thickness over the other's edge, which ends where the inner side was
    assert across(corners="half-open") == pytest.approx(closed + 4 * 36 * 1.0, rel=1e-9)
    assert across(corners="overlapping") == pytest.approx(closed + 4 * 36 * 2.0, rel=1e-9)


def test_reliefs_take_their_area_out_of_the_flat():
    plain = tray(radius=2.0).part
    relieved = tray(radius=2.0, relief=Relief("square", 5.0)).part
    wide = allowance(90, 2.0)
    # a square of 5 round the crossing of the bends' middles: its part over walls and bends, less the open corner
    over = (5.0 - wide) / 2
    lost = 4 * (over * (2 * over + 2 * wide) - over**2 + 2 * over * (2.0 - 0.0))
    assert plain.flat_area - relieved.flat_area == pytest.approx(lost, rel=0.2)
    assert kernel_volume(relieved) == pytest.approx(relieved.volume, rel=1e-7)
    round_ = tray(radius=2.0, relief=Relief("round")).part
    assert round_.flat_area < relieved.flat_area
    assert any(not step.straight for loop in outline(round_) for step in loop)


def test_flanges_keep_the_outer_size():
    part = tray(radius=2.0, flanges=(Flange((), 15.0),)).part
    more = 2 * (15 - 2 * 4 + allowance(90, 2.0))
    assert size(part) == pytest.approx([x + more for x in size(tray(radius=2.0).part)], rel=1e-9)
    low, high = folded_body(part).bounds
    assert np.allclose(high - low, [200, 120, 40], atol=1e-6)
    out = tray(radius=2.0, flanges=(Flange((), 15.0, inwards=False),)).part
    low, high = folded_body(out).bounds
    assert np.allclose(high - low, [200 + 2 * 13, 120 + 2 * 13, 40], atol=1e-6)
    assert len(bend_lines(part)) == 8


def test_a_plate_with_flanges_round_it_is_a_tray():
    part = made(block((0, 0, 0), (50, 40, 3)), flanges=(Flange((), 20.0),)).part
    low, high = folded_body(part).bounds
    assert np.allclose(high - low, [50, 40, 20], atol=1e-6)
    assert kernel_volume(part) == pytest.approx(part.volume, rel=1e-8)
    assert len(bend_lines(part)) == 4


def free_edge(shape) -> int:
    """The number of an edge of a plate's lower side at its right end."""
    given = form(shape)
    return next(
        edge.number
        for edge in given.edges
        if np.allclose(edge.points(0.1)[:, 0], 50) and np.allclose(edge.points(0.1)[:, 2], 0)
    )


@pytest.mark.parametrize("way, wide", [(False, 50 + 15 - 3), (True, 50.0)])
def test_a_wall_is_bent_on_from_a_flange(way, wide):
    """50 over, 20 up, 15 back out or in: a Z or a U of which all outer sizes are given."""
    plate = block((0, 0, 0), (50, 40, 3))
    then = (Flange((), 15.0, np.pi / 2, 2.0, way),)
    part = made(plate, flanges=(Flange((free_edge(plate),), 20.0, np.pi / 2, 2.0, True, 0.0, then),)).part
    low, high = folded_body(part).bounds
    assert sorted(high - low) == pytest.approx(sorted([wide, 40, 20]), abs=1e-6)
    k = np.pi / 2 * (2 + 0.44 * 3)
    assert max(size(part)) == pytest.approx((50 - 5) + (20 - 10) + (15 - 5) + 2 * k, rel=1e-9)
    assert kernel_volume(part) == pytest.approx(part.volume, rel=1e-8)
    ups = [line.up for line in bend_lines(part)]
    assert len(ups) == 2 and (ups[0] == ups[1]) == way


@pytest.mark.parametrize("degrees", [40, 90, 135])
@pytest.mark.parametrize(("measure", "deep"), [("over", 5.0), ("inside", 2.0), ("tangent", 0.0)])
def test_a_flange_is_as_long_as_it_is_measured(measure, deep, degrees):
    plate = block((0, 0, 0), (50, 40, 3))
    angle, slope = np.radians(degrees), np.tan(np.radians(min(degrees, 90)) / 2)
    flange = Flange((free_edge(plate),), 20.0, angle, 2.0, measure=measure)
    part = made(plate, flanges=(flange,)).part
    k = angle * (2 + 0.44 * 3)
    assert max(size(part)) == pytest.approx((50 - 5 * slope) + (20 - deep * slope) + k, rel=1e-9)
    assert kernel_volume(part) == pytest.approx(part.volume, rel=1e-8)
    then = (Flange((), 15.0, angle, 2.0, measure=measure),)
    longer = made(plate, flanges=(replace(flange, then=then),)).part  # measured alike at the wall that is bent on
    last = 15 - deep * slope
    assert max(size(longer)) == pytest.approx((50 - 5 * slope) + (20 - 2 * deep * slope) + last + 2 * k, rel=1e-9)


def test_an_offset_bend_ends_parallel_to_its_wall():
    """A joggle of two bends of 30 degrees: what comes after it is offset by the height of the slope between."""
    plate = block((0, 0, 0), (50, 40, 3))
    then = (Flange((), 15.0, np.pi / 6, 2.0, False),)
    part = made(plate, flanges=(Flange((free_edge(plate),), 20.0, np.pi / 6, 2.0, True, 0.0, then),)).part
    low, high = folded_body(part).bounds
    slope = 20 - 2 * 5 * np.tan(np.pi / 12)
    offset = (2 + 5) * (1 - np.cos(np.pi / 6)) + slope * np.sin(np.pi / 6)
    assert min(high - low) == pytest.approx(3 + offset, abs=1e-6)
    assert kernel_volume(part) == pytest.approx(part.volume, rel=1e-8)


def test_flanges_are_written_in_chains_and_set_back():
    (first,) = Flanges().resolved("4, 7:20:45:2:out:3 > 15:45 > 6:180:0.5:in", {})
    assert (first.edges, first.length, first.angle, first.radius, first.inwards, first.setback) == (
        (4, 7), 20.0, 45.0, 2.0, False, 3.0)  # fmt: skip
    (inside,) = Flanges().resolved("4:2 * 10 Inside > 9 tangent:60", {})
    assert (inside.length, inside.measure, inside.angle) == (20.0, "inside", 90.0)
    assert (inside.then[0].length, inside.then[0].measure, inside.then[0].angle) == (9.0, "tangent", 60.0)
    assert with_length("4:20 inside:60 > 9", 0, 0, 25.5) == "4:25.5 inside:60 > 9"
    assert with_length("4:20 inside:60 > 9", 0, 1, 7.0) == "4:20 inside:60 > 7"
    assert [(w.length, w.angle, w.inwards) for w in first.then] == [(15.0, 45.0, True), (6.0, 180.0, True)]
    for wrong in ("4:20:90:2:in:3:9", "4:inside", "4:20 beside", "4", "4:20 >", "4:20 > 8:90:2:up", "x:20"):
        with pytest.raises(Refused):
            Flanges().resolved(wrong, {})


def test_clicked_edges_of_flanges():
    assert toggled("", 4) == "4:15" and toggled("4:15", 7) == "4, 7:15" and toggled("4, 7:15", 4) == "7:15"
    assert toggled("top:12", 3) == "top:12; 3:15" and toggled("7:15", 7) == ""
    assert toggled("2:9; 4:20:45 > 8", 6) == "2:9; 4, 6:20:45 > 8" and toggled("2:9; 4:20", 2) == "4:20"


def test_a_hem_lies_back_on_its_wall():
    part = tray(radius=2.0, flanges=(Flange((), 8.0, np.pi, 0.5),)).part
    assert kernel_volume(part) == pytest.approx(part.volume, rel=1e-8)
    assert max(line.angle for line in bend_lines(part)) == pytest.approx(np.pi)


@pytest.mark.parametrize("count", [1, 7, 24])
@pytest.mark.parametrize("side", ["inside", "middle", "outside"])
def test_a_large_bend_in_steps(count, side):
    solid = drawn_out([60, 40], [90], 100.0, 2.0, 300.0)
    found = made(solid, radius=2.0, steps=Steps(count, 50.0, side))
    lines = bend_lines(found.part)
    assert len(lines) == count + 1
    assert sum(line.angle for line in lines) == pytest.approx(np.pi / 2)
    assert {line.radius for line in lines} == {2.0}
    walls = [zone for zone in found.part.zones if zone.wall]
    assert len(walls) == count + 2
    low, high = folded_body(found.part).bounds
    assert np.allclose(high - low, [162, 300, 142], atol=1e-6)  # the walls stay where they were
    if side == "inside":
        assert found.stepped[0].gap == pytest.approx(100 * (1 - np.cos(np.pi / 4 / count)), rel=1e-3)
        chord = 200 * np.sin(np.pi / 4 / count)
        ends = 60 + 40 - 2 * 2 * np.tan(np.pi / 8 / count)
        small = (count - 1) * 2 * 2 * np.tan(np.pi / 4 / count) + 2 * 2 * np.tan(np.pi / 8 / count)
        takes = np.pi / 2 * (2 + K * 2)
        assert 300.0 in [pytest.approx(x) for x in size(found.part)]
        assert min(size(found.part)) == pytest.approx(ends + count * chord - small + takes, rel=1e-9)


def test_a_rolled_wall_in_steps_has_one_bend_less_than_flats():
    ring = without(drill((0, 0, 0), (0, 0, 1), 140, 100), drill((0, 0, -1), (0, 0, 1), 137, 102))
    half = without(ring, block((-200, -200, -1), (400, 200, 200)))
    found = made(half, radius=2.0, steps=Steps(12, 50.0))
    assert len(bend_lines(found.part)) == 11
    assert kernel_volume(found.part) == pytest.approx(found.part.volume, rel=1e-8)


def test_holes_over_walls_and_bends_stay_where_they_are():
    solid = drawn_out([50, 40], [90], 3.0, 2.0, 80.0)
    holed = without(solid, drill((20, 40, -10), (0, 0, 1), 8, 100), block((40, 30, -1), (20, 10, 20)))
    part = made(holed).part
    assert part.volume == pytest.approx(made_body("holed", holed).volume, rel=1e-9)
    # a hole by its diameter, a window as wide as it was
    assert len(outline(part)) == 3
    back = made(folded_body(part)).part
    assert back.flat_area == pytest.approx(part.flat_area, rel=1e-12)


def test_what_does_not_belong_is_named_and_left_out():
    solid = joined(drawn_out([50, 40], [90], 3.0, 2.0, 80.0), drill((20, 40, 1), (0, 0, 1), 6, 20))
    for opposite in (False, True):
        found = made(solid, other_side=opposite)
        assert len(found.left_out) == 2
        assert found.part.flat_area == pytest.approx(80 * (90 + allowance(90, 3.0)), rel=1e-9)
        assert "left out" in found.messages[-1]


@pytest.mark.parametrize("way", ["as it is", "mirrored"])
def test_parts_are_the_same_mirrored(way):
    solid = drawn_out([40, 60, 40], [90, 45], 3.0, 2.0, 80.0)
    solid = without(solid, drill((20, 20, -10), (0, 0, 1), 5, 30))
    found = made(mirrored(solid) if way == "mirrored" else solid).part
    assert found.volume == pytest.approx(made_body("solid", solid).volume, rel=1e-9)
    assert kernel_volume(found) == pytest.approx(found.volume, rel=1e-9)


def test_rounds_stay_or_go():
    solid = drawn_out([50, 30], [90], 3.0, 2.0, 80.0)
    rolled = made(solid, rounds="as-they-are").part
    assert bend_lines(rolled) == ()
    assert max(size(rolled)) == pytest.approx(80 + allowance(90, 3.0))
    sharp = made(solid, rounds="sharp", radius=1.0).part
    assert max(size(sharp)) == pytest.approx(80 + 2 * 2.0 + allowance(90, 1.0))
    assert folded_body(sharp).bounds[1] == pytest.approx(folded_body(rolled).bounds[1], abs=1e-6)


@pytest.mark.parametrize("opposite", [False, True])
def test_a_bend_without_an_inside_radius(opposite):
    solid = drawn_out([50, 30], [90], 0.0, 2.0, 80.0)
    part = made(solid, other_side=opposite).part
    assert max(size(part)) == pytest.approx(80 + allowance(90, 0.0))
    assert part.volume == pytest.approx(made_body("solid", solid).volume, rel=1e-9)
    folded = folded_body(part)
    assert made_body("folded", shape_of(folded)).volume == pytest.approx(part.volume, rel=1e-9)
    blank = sheet_blank(part, folded)
    assert blank.figures.area_blank == pytest.approx(part.flat_area, rel=1e-9)
    for leaf in blank.correspondence.leaves:  # each wall where it lies on the flat
        assert leaf.rings_blank.min(axis=0).min() > min(blank.bounds) - 1e-6


def test_a_tube_must_be_opened():
    tube = without(drill((0, 0, 0), (0, 0, 1), 40, 100), drill((0, 0, -1), (0, 0, 1), 37, 102))
    with pytest.raises(CannotBeDone, match="comes round to itself.*open 1 edge: 2"):
        made(tube)
    part = made(tube, opened=(2,)).part
    assert max(size(part)) == pytest.approx(2 * np.pi * (37 + K * 3))
    assert kernel_volume(part) == pytest.approx(np.pi * (40**2 - 37**2) * 100)


def test_every_stage_keeps_the_volume_of_its_own_closed_form():
    part = tray(radius=2.0).part
    wide = allowance(90, 2.0)
    for stage in (0.0, 0.3, 0.7, 1.0):
        radius = wide / (np.pi / 2 * stage) - K * 2 if stage else np.inf
        ratio = 1.0 if stage == 0 else (radius + 1) / (radius + K * 2)
        bends = sum(zone.area for zone in part.zones if zone.roll is not None)
        expected = 2 * (part.flat_area - bends) + 2 * bends * ratio
        assert kernel_volume(part, stage) == pytest.approx(expected, rel=1e-8)
    assert made_body("flat", shape_of(flat_body(part))).volume == pytest.approx(2 * part.flat_area, rel=1e-10)


def test_bends_that_cannot_be_made_say_why():
    short = made(drawn_out([50, 3], [90], 3.0, 2.0, 80.0)).part
    assert "shorter than a die of 16 mm needs" in verdicts(short)[1].reason
    near = without(drawn_out([50, 40], [90], 3.0, 2.0, 80.0), drill((44, 40, -10), (0, 0, 1), 4, 20))
    assert "A hole in wall 1 is 2 mm from it" in verdicts(made(near).part)[1].reason
    tight = made(drawn_out([50, 40], [90], 0.2, 2.0, 80.0)).part
    assert "under the 2 mm that stainless sheet takes" in verdicts(tight, material_named("stainless sheet"))[1].reason
    assert verdicts(made(drawn_out([50, 40], [90], 3.0, 2.0, 80.0)).part)[1].can
    assert verdicts(short, dies=(8.0, 10.0))[1].can  # a shop's own dies
    soft = replace(material_named("stainless sheet"), bend_radius=0.1)
    assert verdicts(tight, soft)[1].can


@pytest.mark.parametrize(
    "solid, plan, error, why",
    [
        (lambda: block((0, 0, 0), (50, 50, 50)), {}, CannotBeDone, "is no sheet: only 33 %"),
        (lambda: drill((0, 0, 0), (0, 0, 1), 50, 100), {}, CannotBeDone, "is no sheet"),
        (lambda: drawn_out([50, 30], [90], 3, 2, 80), {"side": 99}, Refused, "Face 99"),
        (lambda: drawn_out([50, 30], [90], 3, 2, 80), {"opened": (99,)}, Refused, "Edge 99"),
        (
            lambda: drawn_out([50, 30], [90], 3, 2, 80),
            {"steps": Steps(7)},
            CannotBeDone,
            "No bend has an inside radius",
        ),
        (lambda: drawn_out([50, 30], [90], 99, 2, 80), {"steps": Steps(0)}, WrongCall, "1 to 200 flats"),
        (lambda: drawn_out([50, 30], [90], 99, 2, 80), {"steps": Steps(500)}, WrongCall, "1 to 200 flats"),
        (lambda: block((0, 0, 0), (50, 40, 3)), {"flanges": (Flange((), 3.0),)}, CannotBeDone, "shorter than its bend"),
        (lambda: block((0, 0, 0), (50, 40, 3)), {"flanges": (Flange((77,), 9.0),)}, Refused, "Edge 77 is no free"),
        (lambda: block((0, 0, 0), (50, 40, 3)), {"radius": -1.0}, WrongCall, "0 or more"),
        (lambda: block((0, 0, 0), (50, 40, 3)), {"gap": float("nan")}, WrongCall, "0 or more"),
        (lambda: drawn_out([50, 30], [90], 3, 2, 80), {"without": tuple(range(1, 11))}, Refused, "left out"),
    ],
)
def test_what_cannot_be_is_said(solid, plan, error, why):
    with pytest.raises(error, match=why):
        made(solid(), **plan)


def test_a_radius_larger_than_the_leg_is_said():
    with pytest.raises(CannotBeDone, match="narrower than the bends"):
        tray(radius=50.0)


@pytest.mark.parametrize("seed", range(16))
def test_flat_folded_found_and_flat_again_is_the_same(seed):
    rng = np.random.default_rng(seed)
    walls = int(rng.integers(2, 9))
    legs = rng.uniform(15, 60, walls)
    turns = rng.choice([-1, 1], walls - 1) * rng.uniform(10, 60, walls - 1)
    thickness, radius = float(rng.uniform(0.5, 3)), float(rng.uniform(0.5, 6))
    solid = drawn_out(legs, turns, radius, thickness, float(rng.uniform(30, 120)))
    if rng.random() < 0.5:
        solid = mirrored(solid)
    rule = ByK(float(rng.uniform(0.3, 0.5)))
    part = made(solid, rule=rule, other_side=bool(rng.random() < 0.5)).part
    again = made(folded_body(part), rule=rule).part
    assert again.flat_area == pytest.approx(part.flat_area, rel=1e-9)
    assert size(again) == pytest.approx(size(part), rel=1e-9)
    assert again.volume == pytest.approx(made_body("solid", solid).volume, rel=1e-9)
    assert [round(line.angle, 9) for line in bend_lines(again)] in (
        [round(line.angle, 9) for line in bend_lines(part)],
        [round(line.angle, 9) for line in reversed(bend_lines(part))],
    )


@pytest.mark.parametrize("seed", range(10))
def test_blocks_of_all_kinds_become_valid_solids_that_agree_with_their_flat(seed):
    rng = np.random.default_rng(seed)
    sides = rng.permutation(["bottom", "top", "front", "back", "left", "right"])[: rng.integers(1, 5)].tolist()
    flange = Flange((), 12.0, float(np.radians(rng.choice([45, 90, 135]))), None, bool(rng.random() < 0.5))
    found = made(
        hollowed(200, 120, 50, 2, sides),
        opened="auto",
        radius=float(rng.choice([0, 1, 2, 4])),
        relief=Relief(str(rng.choice(["none", "round", "square"]))),
        corners=str(rng.choice(["closed", "half-open", "overlapping"])),
        gap=float(rng.choice([0, 0.3])),
        other_side=bool(rng.random() < 0.4),
        rounding=float(rng.choice([0, 3])),
        flanges=(flange,) if rng.random() < 0.6 else (),
    )
    folded = folded_body(found.part)
    # a bend without an inside radius that is cut across gets a thousandth of a millimetre
    assert made_body("block", shape_of(folded)).volume == pytest.approx(found.part.volume, rel=1e-4)
    assert sheet_blank(found.part, folded).figures.area_blank == pytest.approx(found.part.flat_area, rel=1e-5)


@pytest.mark.parametrize("thickness", ["1e-300", "0", "-1", "0.0005"])
def test_walls_of_no_thickness_are_refused_at_once(thickness):
    with pytest.raises(Refused, match="too small; at least 0.001 mm"):
        Job().added("hollow_block", width="60", depth="40", height="40", thickness=thickness)


def test_narrow_bends_look_round():
    """A bend of 2 mm on a part of 240 mm: its triangles are fine across, and long where nothing bends."""
    part = sheet_part(hollowed(200, 120, 40, 1.5, ("top",)), SheetPlan(radius=2.0, opened="auto")).part
    form = folded_body(part)
    bends = [(face, mesh) for face, mesh in zip(form.faces, form.meshes, strict=True) if face.kind == "cylinder"]
    assert bends
    for face, mesh in bends:
        middles = face.surface.evaluate(mesh.uv[mesh.triangles].mean(axis=1))
        off = np.linalg.norm(middles - mesh.points[mesh.triangles].mean(axis=1), axis=1).max()
        assert off < 0.01 * face.radius and len(mesh.triangles) < 1500


def test_each_bend_is_folded_by_itself():
    part = tray(radius=2.0).part
    whole = folded_body(part)
    flat_wall = folded_apart(part, {1: 0.0})
    low, high = folded_body(flat_wall).bounds
    more = np.array(high - low) - np.subtract(*whole.bounds[::-1])
    # of the wall that lies flat, and of the floor, the outer size of the bend goes, and what it takes of the flat comes
    assert sorted(np.round(more, 6)) == pytest.approx([0, 0, 40 - 8 + allowance(90, 2.0)], abs=1e-6)
    for shares in ({1: 0.5}, {1: 0.0, 3: 0.25}, {2: 1.0}):
        shown = folded_apart(part, shares)
        assert kernel_volume(shown) == pytest.approx(shown.volume, rel=1e-8)
        assert size(shown) == size(part) and [line.angle for line in bend_lines(shown)] == [
            line.angle for line in bend_lines(part)]  # fmt: skip
        folded = folded_body(shown)
        assert sheet_blank(shown, folded).figures.area_blank == pytest.approx(part.flat_area, rel=1e-9)
    with pytest.raises(Refused, match="no bend 9"):
        folded_apart(part, {9: 0.5})
    assert Shares().resolved("2:0.5; 3, 4:0", {}) == {2: 0.5, 3: 0.0, 4: 0.0}
    for wrong in ("2", "2:1.5", "x:1", "2:"):
        with pytest.raises(Refused):
            Shares().resolved(wrong, {})


def lidded(last, **more):
    """An angle with a flange at its top over its bottom, and a further one down from that."""
    solid = form(drawn_out([70, 60], [90], 3.0, 2.0, 80.0))
    top = max((e for e in solid.edges if e.length > 79), key=lambda e: (e.points(0.1)[:, 2].min(), -e.number))
    flange = Flange((top.number,), 40.0, then=(Flange((), last),))
    return sheet_part(solid, SheetPlan(radius=2.0, flanges=(flange,), **more)).part


def test_walls_that_would_pass_through_each_other_are_named():
    """The wall has 62 mm of room below: it passes through the bottom from 63 mm on, the outer faces included."""
    assert not passings(lidded(62.5))
    part = lidded(75.0)
    (found,) = passings(part)
    assert {part.zones[k].wall for k in found.zones} == {1, 4}
    said = verdicts(part, None, [found])
    assert [number for number, verdict in said.items() if not verdict.can] == list(found.bends)
    assert "wall 1 through wall 4" in said[found.bends[0]].reason


@pytest.mark.parametrize("corners", ["closed", "half-open", "overlapping"])
@pytest.mark.parametrize("radius", [0.0, 2.0, 8.0])
def test_what_only_touches_does_not_pass(corners, radius):
    part = tray(radius=radius, corners=corners, flanges=(Flange((), 8.0, np.pi, 0.0),)).part
    assert not passings(part)


def test_the_grain_decides_between_seams_as_short():
    open_box = hollowed(200, 200, 200, 2, ["front"])
    lengths, along = [], []
    for grain in (0.0, np.pi / 2):
        found = made(open_box, opened="auto", grain=grain)
        lengths.append(sum(seam.length for seam in found.seams))
        along.append((along_the_grain(found.part, 0.0), along_the_grain(found.part, np.pi / 2)))
        assert "along the grain" in found.messages[-1]
    assert lengths[0] == pytest.approx(lengths[1])
    assert along[0][0] < along[0][1] and along[1][0] > along[1][1]
    assert not made(open_box, opened="auto").messages


@pytest.mark.parametrize("cut_off, gone", [(False, 1 - np.pi / 4), (True, 0.5)])
def test_corners_are_rounded_or_cut_off_one_by_one(cut_off, gone):
    plain = tray()
    corners = np.vstack([step.first for loop in outline(plain.part) for step in loop])
    every = tray(rounding=6.0, cut_off=cut_off)
    assert plain.part.flat_area - every.part.flat_area == pytest.approx(8 * gone * 36, rel=1e-9)
    low = corners[np.lexsort(corners.T)][:1]  # a corner of the lowest wall
    one = tray(rounding=6.0, cut_off=cut_off, rounded_at=((low[0][0] + 0.2, low[0][1]),))
    assert plain.part.flat_area - one.part.flat_area == pytest.approx(gone * 36, rel=1e-9)
    with pytest.raises(Refused, match="No outer corner of the flat lies at 20, 20"):
        tray(rounding=6.0, rounded_at=((20.0, 20.0),))


def test_a_drawn_wall_becomes_a_sheet_part():
    figures = [
        {"number": 1, "figure": "line", "points": "20,20; 220,20; 220,120; 120,160; 20,120", "ends": "closed",
         "place": "origin"},
        {"number": 2, "figure": "circle", "diameter": "30", "x": "110", "y": "80", "place": "origin"},
    ]  # fmt: skip
    job = Job(material="steel sheet", thickness="2").added("lay_sheet", width="300", height="200")
    job = job.added("draw_figures", figures=figures).added("pull_profile", length="thickness")
    job = job.added("make_sheet", flanges="top:20", radius="2")
    states = run_all(job)
    assert [states[row.id].status for row in job.rows] == ["done"] * 4, states[job.rows[-1].id].reason
    part = states[job.rows[-1].id].outcome.results[0].made.part
    assert sum(1 for zone in part.zones if zone.bend) == 5
    assert kernel_volume(part) == pytest.approx(part.volume, rel=1e-8)
