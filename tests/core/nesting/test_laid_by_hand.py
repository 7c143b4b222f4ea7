"""Parts of a nest laid by hand: what stays, what lies wrong, what is laid anew round them, what it costs."""

from __future__ import annotations

import numpy as np
import pytest
import shapely

from zuschnitt.core.errors import Refused
from zuschnitt.core.job.evaluate import run_all
from zuschnitt.core.job.route import Job
from zuschnitt.core.nesting.by_hand import arranged
from zuschnitt.core.nesting.laid_part import LaidPart
from zuschnitt.core.nesting.packing import nested
from zuschnitt.core.nesting.part import Part, Placed, copies
from zuschnitt.core.nesting.sheet import Nest, NestedSheet, Nesting
from zuschnitt.core.parameters.laid import put
from zuschnitt.core.plane.contour import Contour

PLATE = Part("plate", Contour.polyline([[0, 0], [100, 0], [100, 60], [0, 60]], True))
FRAME = Part(
    "frame",
    Contour.polyline([[0, 0], [200, 0], [200, 150], [0, 150]], True),
    (Contour.polyline([[30, 30], [170, 30], [170, 120], [30, 120]], True),),
)


def row_of_plates() -> Nesting:
    plates = copies([PLATE] * 3)
    laid = tuple(Placed(plate, (10.0 + 110 * k, 10.0), 0.0) for k, plate in enumerate(plates))
    return Nesting((NestedSheet((400, 200), laid),), how=Nest(gap=5, margin=5), sizes=((400.0, 200.0),), price=50)


def test_what_lies_too_near_is_found():
    nest = row_of_plates()
    assert not nest.wrong
    beside = arranged(nest, [LaidPart("plate", 2, 1, (113.0, 10.0))])  # 3 mm from the first
    assert beside.wrong == ((0, (0, 1)),)
    over_the_edge = arranged(nest, [LaidPart("plate", 3, 1, (320.0, 10.0))])
    assert over_the_edge.wrong == ((0, (2,)),)
    turned = arranged(nest, [LaidPart("plate", 3, 1, (300.0, 80.0), 90.0)])  # it covers 240..300, 80..180
    assert turned.sheets[0].parts[2].shape.bounds == pytest.approx((240, 80, 300, 180)) and not turned.wrong


def test_what_lies_in_a_hole_is_not_too_near_its_frame():
    frame, plate = copies([FRAME, PLATE])
    inside = Placed(plate, (50.0, 50.0), 0.0)
    nest = Nesting((NestedSheet((300, 200), (Placed(frame, (5.0, 5.0), 0.0), inside)),), how=Nest(gap=5, margin=5))
    assert not nest.wrong  # 15 mm from each edge of the hole at least
    nearer = arranged(nest, [LaidPart("plate", 1, 1, (36.0, 50.0))])
    assert nearer.wrong == ((0, (0, 1)),)


def test_another_sheet_can_begin_and_an_empty_one_ends():
    nest = row_of_plates()
    two = arranged(nest, [LaidPart("plate", 1, 2, (10.0, 10.0))])
    assert [len(sheet.parts) for sheet in two.sheets] == [2, 1]
    back = arranged(two, [LaidPart("plate", 1, 1, (10.0, 100.0))])
    assert [len(sheet.parts) for sheet in back.sheets] == [3]
    with pytest.raises(Refused, match="no sheet 4"):
        arranged(nest, [LaidPart("plate", 1, 4, (0.0, 0.0))])
    with pytest.raises(Refused, match="no part plate number 9"):
        arranged(nest, [LaidPart("plate", 9, 1, (0.0, 0.0))])


def test_cost_is_that_of_the_sheets_less_their_offcuts():
    nest = row_of_plates()  # used to 330 + 5 of 400
    assert nest.offcuts == ((65.0, 200.0),)
    assert nest.cost == pytest.approx(50 * 0.335 * 0.2)


@pytest.mark.parametrize("grain", ["free", "along"])
def test_others_are_laid_round_what_is_fixed(grain):
    rng = np.random.default_rng(4)
    kinds = [Part(f"part {k}", Contour.polyline([[0, 0], [w, 0], [w, h], [0, h]], True))
             for k, (w, h) in enumerate(rng.uniform(30, 120, (6, 2)))]  # fmt: skip
    fixed_part, *rest = copies([FRAME, *(kind for kind in kinds for _ in range(4))])
    fixed = [(1, Placed(fixed_part, (300.0, 120.0), 17.0))]
    how = Nest(gap=3, margin=8, grain=grain, seconds=2)
    sheets, left = nested(rest, [(600.0, 400.0)], how, fixed=fixed)
    assert not left
    assert sorted(p.part.name for s in sheets for p in s.parts) == sorted(p.name for p in [fixed_part, *rest])
    assert any(p.part is fixed_part and p.at == (300.0, 120.0) and p.turn == 17.0 for p in sheets[1].parts)
    for sheet in sheets:
        assert not sheet.too_near(how)
        solids = [placed.solid for placed in sheet.parts]  # once more, by hand
        assert all(a.distance(b) > 2.98 for k, a in enumerate(solids) for b in solids[:k])
        assert all(shapely.box(8, 8, 592, 392).buffer(0.02).covers(solid) for solid in solids)


def test_parts_in_the_holes_of_what_does_not_fit_are_left_over_and_not_lost():
    sheets, left = nested(copies([FRAME, PLATE]), [(150.0, 150.0), (120.0, 150.0)], Nest(gap=2, seconds=1))
    assert {part.name for part in left} | {p.part.name for s in sheets for p in s.parts} == {"frame", "plate"}
    # a frame that fits on the first sheet alone, which a larger part takes: its plate is named, too
    wall = Part("wall", Contour.polyline([[0, 0], [210, 0], [210, 155], [0, 155]], True))
    sheets, left = nested(copies([wall, FRAME, PLATE]), [(212.0, 157.0), (50.0, 50.0)], Nest(gap=2, seconds=1))
    names = sorted([part.name for part in left] + [p.part.name for s in sheets for p in s.parts])
    assert names == ["frame", "plate", "wall"]


def test_the_best_so_far_is_shown():
    shown = []
    rng = np.random.default_rng(1)
    kinds = [
        Part(f"p{k}", Contour.polyline([[0, 0], [w, 0], [w / 3, h]], True))
        for k, (w, h) in enumerate(rng.uniform(20, 90, (12, 2)))
    ]
    parts = copies([kind for kind in kinds for _ in range(5)])
    _, left = nested(
        parts, [(3000.0, 300.0)], Nest(gap=2, seconds=4), show=lambda made, left: shown.append((made, left))
    )
    assert shown and not left
    for made, rest in shown:
        assert sum(len(sheet.parts) for sheet in made) + len(rest) == len(parts)
        assert not any(sheet.too_near(Nest(gap=2)) for sheet in made)


def plates_job(**values: str) -> Job:
    job = Job(material="steel sheet", thickness="1.5").added("lay_sheet").added("cut_file")
    return job.added("nest_parts", counts="5", sheets="700 x 300", seconds="1", **values)


def outcome(job: Job):
    state = run_all(job)[job.rows[-1].id]
    assert state.status == "done", state.reason
    return state.outcome


def test_a_row_lays_by_hand_and_says_what_is_wrong():
    job = plates_job(price="40")
    name = outcome(job).value.sheets[0].parts[0].part.name
    moved = job.added("arrange_parts", moves=f"{name}*2:1:20:20:0; {name}*3:1:25:20:0")
    made = outcome(moved)
    assert "lie too near each other" in made.messages[0] and made.warnings
    assert made.results[0].report()["nesting"]["too_near"]
    anew = outcome(
        moved.set(moved.rows[-1].id, "moves", f"{name}*2:1:20:20:0").set(moved.rows[-1].id, "others", "anew")
    )
    assert not anew.value.wrong and len(anew.value.parts) == 5
    assert any(p.at == (20.0, 20.0) and p.part.copy == 2 for _, p in anew.value.parts)
    state = run_all(job.added("arrange_parts", moves="nobody:1:0:0:0"))
    assert "There is no part nobody" in list(state.values())[-1].reason


def test_offcuts_of_another_nest_are_used_first():
    job = plates_job()
    again = job.added("nest_parts", counts="1", sheets="2000 x 1000", seconds="1", offcuts="30")
    states = run_all(again)  # both nests of one search, which finds something else each time
    first, second = (states[again.row(number).id].outcome.value for number in (30, again.rows[-1].number))
    (kept,) = first.offcuts
    assert second.sheets[0].size == kept


def test_a_part_laid_again_takes_its_own_place():
    once = put("", LaidPart("a: lid", 1, 1, (10.0, 20.0), 90.0))
    twice = put(once, LaidPart("a: lid", 2, 1, (0.5, 0.0)))
    assert put(twice, LaidPart("a: lid", 1, 2, (1.0, 2.0))) == "a: lid*2:1:0.5:0:0; a: lid:2:1:2:0"
