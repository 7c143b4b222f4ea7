"""Parametric development: rectangles by the patch's own directions, and what they do to lengths."""

from __future__ import annotations

import numpy as np
import pytest
import shapely

from zuschnitt.core.develop.developing import develop
from zuschnitt.core.develop.patch_net import PatchNet, cells_of
from zuschnitt.core.develop.placing import Hold
from zuschnitt.core.form.build import domed_lid, turned_body
from zuschnitt.core.job.evaluate import run_all
from zuschnitt.core.job.route import Job

LID = domed_lid(200, 150, 30, 35, 40)
HOLD = Hold(np.array([0, 20.0, 30 - 15 * (20 / 75) ** 2]), np.array([1.0, 0, 0]))


def on_lid(x, y):
    """Points of the lid by its equation."""
    return np.stack([x, y, 30 - 15 * (x / 100) ** 2 - 15 * (y / 75) ** 2], axis=1)


def test_the_blank_is_linear_in_the_patchs_own_parameters():
    """The lid's parameters are x and y in mm: the blank scales them by the length of its middle lines."""
    blank = develop(LID, [1], "parametric", HOLD)
    rng = np.random.default_rng(1)
    x, y = rng.uniform(-60, 60, 300), rng.uniform(25, 70, 300)
    got = blank.correspondence.to_blank(on_lid(x, y)).points
    t = np.linspace(-1, 1, 100_001)
    middle = [np.hypot(np.diff(size * t), np.diff(15 * t**2)).sum() / (2 * size) for size in (100, 75)]
    expected = np.stack([middle[0] * x, middle[1] * (y - 20)], axis=1)
    assert np.abs(got - expected).max() < 1e-3
    assert blank.figures.round_trip_max < 1e-9


def test_even_spacing_goes_by_arc_length_along_the_middle():
    blank = develop(LID, [1], "even", HOLD)
    x = np.linspace(-60, 60, 7)
    along = blank.correspondence.to_blank(on_lid(x, 0 * x + 30)).points[:, 0]
    t = np.linspace(-60, 60, 60_001)
    arc = np.r_[0, np.cumsum(np.hypot(np.diff(t), np.diff(15 * (t / 100) ** 2)))]
    assert np.diff(along) == pytest.approx(np.diff(np.interp(x, t, arc)), rel=1e-4)


@pytest.mark.parametrize("way", ["parametric", "even"])
def test_the_trimmed_part_lies_inside_the_whole_patch(way):
    blank = develop(LID, [1], way)
    (whole,) = blank.folds
    assert whole.layer == "REFERENCE" and whole.closed and len(whole.points) == 4
    rectangle = shapely.Polygon(whole.points)
    assert rectangle.area == pytest.approx(rectangle.minimum_rotated_rectangle.area, rel=1e-9)
    outline = shapely.Polygon(blank.outline[0].flattened(0.01))
    assert rectangle.buffer(1e-3).contains(outline) and outline.area < 0.99 * rectangle.area


def test_it_says_that_lengths_are_not_kept_and_by_how_much():
    blank = develop(LID, [1], "parametric")
    assert "Lengths are not kept" in blank.messages[-1]
    rng = np.random.default_rng(2)
    points = rng.uniform(blank.bounds[:2], blank.bounds[2:], (3000, 2))
    points = points[blank.region.contains(points)]
    grown = []
    for angle in np.linspace(0, np.pi, 16, endpoint=False):
        step = 0.01 * np.array([np.cos(angle), np.sin(angle)])
        there, back = (blank.correspondence.to_form(points + s * step).points for s in (1, -1))
        grown.append(np.linalg.norm(there - back, axis=1) / 0.02 - 1)
    assert 100 * np.max(grown) == pytest.approx(blank.figures.stretch_max, abs=0.3)
    assert 100 * np.min(grown) == pytest.approx(blank.figures.stretch_min, abs=0.3)


def test_a_tube_by_parameters_is_its_exact_development():
    tube = turned_body([(50, 0), (50, 120)])
    exact, parametric = develop(tube, [1]), develop(tube, [1], "parametric")
    assert parametric.figures.area_blank == pytest.approx(exact.figures.area_blank, rel=1e-6)
    assert parametric.figures.stretch_max == pytest.approx(0, abs=0.1)


def test_a_cone_by_parameters_is_a_rectangle():
    blank = develop(turned_body([(60, 0), (200, 420)]), [1], "parametric")
    assert len(blank.outline[0].points) == 4
    assert blank.bounds[2] - blank.bounds[0] == pytest.approx(260 * np.pi, rel=1e-5)
    # the rim is 200/130 of the middle, the outlet 60/130
    assert blank.figures.stretch_max == pytest.approx(100 * (200 / 130 - 1), abs=0.1)
    assert blank.figures.stretch_min == pytest.approx(100 * (60 / 130 - 1), abs=0.1)


def test_every_kind_of_face_has_parameters(form):
    for name in ("dome", "ring", "ball", "vase", "bend"):
        part = form(name)
        blank = develop(part, [1], "parametric")
        assert blank.figures.pieces == 1 and blank.figures.round_trip_max < 1e-6


@pytest.mark.parametrize(
    ("given", "counts"),
    [
        ({}, (9, 6)),
        ({"cells_along": "12"}, (12, 8)),
        ({"cells_across": "4"}, (6, 4)),
        ({"cells_along": "5", "cells_across": "7"}, (5, 7)),
    ],
)
@pytest.mark.parametrize("turned", [False, True])
def test_the_net_has_the_cells_that_are_asked_for(given, counts, turned):
    """Along x and y of the blank, whichever side of the patch lies there; where one is given the other is nearly square."""
    job = Job(thickness="1").added("domed_lid", length="240", width="150", crown="50", corner="0", hole="0")
    begun = job.added("develop", way="even")
    blank = list(run_all(begun).values())[-1].outcome
    if turned:  # held at the next corner, so that the patch's shorter side lies along x
        given = {_across(name): value for name, value in given.items()}
        hold, along = PatchNet.of(blank.value).hold_at(blank.value, 1)
        held = {name: ",".join(map(str, point)) for name, point in (("hold", hold), ("along", along))}
        begun = begun.set_many(begun.rows[-1].id, held)
    blank = list(run_all(begun.set_many(begun.rows[-1].id, given)).values())[-1].outcome
    (along, across), (wide, high) = cells_of(blank.value)
    assert (across, along) == counts if turned else (along, across) == counts
    net = PatchNet.of(blank.value)
    assert len(net.lines_blank) == sum(counts) + 2
    x0, y0, x1, y1 = blank.value.bounds
    assert (wide * along, high * across) == pytest.approx((x1 - x0, y1 - y0), abs=0.05)
    assert any(
        figure.label == "net" and figure.text.startswith(f"{along} × {across} cells") for figure in blank.figures
    )


def _across(name):
    return {"cells_along": "cells_across", "cells_across": "cells_along"}[name]
