"""The largest free place of an area for a box: against places that can be named, and by trying others."""

import numpy as np
import pytest
import shapely

from zuschnitt.core.job.evaluate import run_all
from zuschnitt.core.job.route import Asset, Job
from zuschnitt.core.plane.free_place import BESIDE, largest_place, without_boxes

SHEET = shapely.box(0, 0, 300, 100)


def lies(middle, width, height, scale):
    half = np.array([width, height]) * scale / 2
    return shapely.box(*(middle - half), *(middle + half))


@pytest.mark.parametrize(
    ("area", "size", "middle", "scale"),
    [
        (SHEET, (30, 10), (150, 50), 1),
        (SHEET, (40, 40), (150, 50), 1),
        (SHEET, (300, 100), (150, 50), 1),
        (SHEET, (600, 200), (150, 50), 0.5 * BESIDE),
        (SHEET, (10, 400), (150, 50), 0.25 * BESIDE),
        (SHEET, (50, 0), (150, 50), 1),
        (shapely.Point(7, -3).buffer(50, 256), (40, 40), (7, -3), 1),
        (shapely.Point(7, -3).buffer(50, 256), (100, 100), (7, -3), BESIDE / np.sqrt(2)),
        (shapely.union(SHEET, shapely.box(300, -300, 500, 300)), (150, 150), (400, 0), 1),
    ],
)
def test_the_middle_of_what_is_free(area, size, middle, scale):
    found, factor = largest_place(area, *size)
    assert found == pytest.approx(middle, abs=2)
    assert factor == pytest.approx(scale, rel=1e-3)
    assert area.buffer(1e-6).covers(lies(found, *size, factor))


def test_what_is_taken_is_kept_clear_of():
    free = without_boxes(SHEET, [(0, 0, 180, 100)])
    found, factor = largest_place(free, 60, 40)
    assert found == pytest.approx((240, 50), abs=1) and factor == 1
    assert largest_place(without_boxes(SHEET, [(-1, -1, 301, 101)]), 60, 40) is None


@pytest.mark.parametrize("seed", range(6))
def test_no_other_place_has_much_more_room(seed):
    random = np.random.default_rng(seed)
    holes = [
        shapely.Point(p).buffer(r)
        for p, r in zip(random.uniform(0, 200, (14, 2)), random.uniform(4, 22, 14), strict=True)
    ]
    free = shapely.difference(shapely.box(0, 0, 200, 200), shapely.union_all(holes))
    width, height = random.uniform(5, 400, 2)
    found, factor = largest_place(free, width, height)
    assert free.buffer(1e-6).covers(lies(found, width, height, factor))
    others = [
        s
        for s in np.linspace(0.01, 1, 30)
        for p in random.uniform(0, 200, (400, 2))
        if free.covers(lies(p, width, height, s))
    ]
    assert factor > 0.6 * BESIDE * max(others)


# --- artwork in rows -----------------------------------------------------------------------------


def logo(width, height):
    box = f"M0,0 H{width} V{height} H0 Z"
    return f'<svg xmlns="http://www.w3.org/2000/svg" width="{width}mm" height="{height}mm" viewBox="0 0 {width} {height}"><path d="{box}"/></svg>'.encode()


def placed(*rows, size=(40, 20)):
    """What rows of artwork give on the blank of one of a block's sides, 120 x 200 mm."""
    job = Job(thickness="1").with_asset(Asset("a.svg", logo(*size)))
    job = job.added("make_block", width="200", depth="120", height="40").added("develop", faces="6")
    for row in rows:
        job = job.added("place_artwork", file="a.svg", **row)
    states = list(run_all(job).values())
    assert [state.status for state in states] == ["done"] * len(states)
    return job, [state.outcome for state in states[2:]], states[1].outcome.value


FREE = {"x": "", "y": ""}


@pytest.mark.parametrize("turn", [0, 30, 90])
def test_artwork_lands_upright_in_the_middle_in_its_own_size(turn):
    _, (outcome,), blank = placed({**FREE, "turn": str(turn)})
    x0, y0, x1, y1 = outcome.value.bounds
    left, bottom, right, top = blank.bounds
    assert ((x0 + x1) / 2, (y0 + y1) / 2) == pytest.approx(((left + right) / 2, (bottom + top) / 2), abs=0.01)
    assert outcome.value.contours[0].length == pytest.approx(120)
    assert outcome.messages == ()
    x, y, scale = outcome.result("artwork").landed
    assert scale == 1
    again = placed({"x": repr(x), "y": repr(y), "turn": str(turn)})[1][0]
    assert np.abs(again.value.contours[0].points - outcome.value.contours[0].points).max() < 1e-9


def test_artwork_that_is_larger_is_laid_in_smaller_which_is_said():
    _, (outcome,), blank = placed(FREE, size=(800, 240))
    x0, y0, x1, y1 = outcome.value.bounds
    scale = BESIDE * (blank.bounds[2] - blank.bounds[0]) / 800
    assert x1 - x0 == pytest.approx(800 * scale) and blank.region.contains(np.array([[x0, y0], [x1, y1]])).all()
    assert outcome.messages == ("It is larger than the largest free place; it lies there at 13.5 % of its size.",)


def test_the_next_artwork_keeps_clear_of_the_one_before():
    job, (first, second, third), _ = placed(FREE, FREE, {**FREE, "beside": "none"})
    assert not shapely.box(*first.value.bounds).buffer(1).intersects(shapely.box(*second.value.bounds))
    assert third.value.bounds == pytest.approx(first.value.bounds)
    assert [row.number for row in job.sources(job.row(40))] == [20, 30]
    given = job.set_many(job.row(40).id, {"x": "1", "y": "2"})
    assert [row.number for row in given.sources(given.row(40))] == [20]


def test_one_given_coordinate_stays_as_it_is():
    _, (outcome,), _ = placed({"x": "-70", "y": ""})
    x, _, scale = outcome.result("artwork").landed
    assert (x, scale) == (-70, 1) and outcome.value.bounds[0] == pytest.approx(-70)


def test_where_nothing_is_free_it_lies_over_the_rest_and_says_so():
    _, outcomes, _ = placed({"x": "-100", "y": "2100", "scale": "200"}, FREE)
    assert "Nothing of the blank is free" in outcomes[1].messages[0]
