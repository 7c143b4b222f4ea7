"""Artwork made lighter: what is left stays within the tolerance of what there was."""

from __future__ import annotations

import io

import ezdxf
import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st

from zuschnitt.core.files.artwork_file import read_artwork
from zuschnitt.core.job.evaluate import run_all
from zuschnitt.core.job.route import Asset, Job
from zuschnitt.core.plane.contour import Contour, bounds
from zuschnitt.core.plane.thinning import thinned


def apart(one, other):
    """The larger of both one-sided distances, measured at points 0.3 mm apart or nearer."""
    lines = [[shapely.LineString(c.flattened(1e-5)) for c in contours] for contours in (one, other)]
    gaps = []
    for mine, theirs in (lines, lines[::-1]):
        points = shapely.points(np.vstack([shapely.get_coordinates(shapely.segmentize(line, 0.3)) for line in mine]))
        gaps.append(shapely.STRtree(theirs).query_nearest(points, return_distance=True, all_matches=False)[1].max())
    return max(gaps)


def circle(radius, count, noise=0.0):
    turn = np.linspace(0, 2 * np.pi, count, endpoint=False)
    wobble = radius + noise * np.sin(97 * turn)
    return Contour.polyline(np.column_stack([wobble * np.cos(turn), wobble * np.sin(turn)]), True)


@pytest.mark.parametrize("tolerance", [0.005, 0.05, 0.5])
def test_a_circle_of_tiny_segments_becomes_arcs(tolerance):
    given_ = circle(40, 3000)
    made = thinned([given_], tolerance)
    assert made.segments[0] == 3000 and made.segments[1] <= 4 and made.contours[0].bulges.any()
    assert apart(made.contours, [given_]) <= tolerance * 1.01
    assert made.contours[0].area == pytest.approx(np.pi * 1600, rel=2 * tolerance / 40 + 1e-6)


def test_a_square_of_tiny_segments_keeps_its_corners():
    side = np.linspace(0, 1, 500, endpoint=False)[:, None]
    corners = np.array([[0.0, 0], [100, 0], [100, 60], [0, 60]])
    points = np.vstack([a + side * (b - a) for a, b in zip(corners, np.roll(corners, -1, axis=0), strict=True)])
    (made,) = thinned([Contour.polyline(points, True)], 0.01).contours
    assert len(made.points) == 4 and not made.bulges.any()
    assert {tuple(p) for p in np.round(made.points, 6)} == {tuple(c) for c in corners}


def test_gaps_close_doubles_and_specks_go():
    path = [[[0, 0], [50, 0]], [[50.05, 0], [50, 40]], [[50, 40.05], [0, 0.05]]]
    three = [Contour.polyline(p) for p in path]
    speck = Contour.polyline([[5, 5], [5.1, 5.1]])
    made = thinned([*three, three[1].reversed(), speck], 0.01, gaps=0.1, smallest=1)
    assert (made.doubles, made.specks, made.joined, made.opened) == (1, 1, 2, 0)
    (closed,) = made.contours
    assert closed.closed and abs(closed.area) == pytest.approx(1000, rel=5e-3)
    kept = thinned([*three, Contour.circle((0, 0), 5)], 0.01, closed_only=True)
    assert kept.opened == 3 and len(kept.contours) == 1


@settings(max_examples=40, deadline=None)
@given(st.integers(0, 10_000), st.sampled_from([0.01, 0.1, 1.0]), st.booleans())
def test_whatever_it_is_it_stays_within_the_tolerance(seed, tolerance, closed):
    random = np.random.default_rng(seed)
    walk = np.cumsum(random.normal(0, 1, (random.integers(3, 200), 2)), axis=0) * random.choice([0.02, 1.0])
    contour = Contour(walk, np.where(random.random(len(walk)) < 0.1, random.uniform(-0.8, 0.8, len(walk)), 0.0), closed)
    made = thinned([contour], tolerance)
    assert made.segments[1] <= made.segments[0]
    assert apart(made.contours, [contour]) <= tolerance * 1.02 + 1e-4
    assert made.contours[0].closed == closed


# --- sorting out ----------------------------------------------------------------------------------

SORTED = b"""<svg xmlns="http://www.w3.org/2000/svg" width="200mm" height="100mm" viewBox="0 0 200 100">
<g id="Outline" stroke="#ff0000" fill="none"><path d="M10,10 H190 V90 H10 Z"/></g>
<g id="Marks" stroke="blue" fill="none"><path d="M20,50 H180"/><circle cx="100" cy="50" r="20"/>
<circle cx="40" cy="30" r="5" stroke="green"/></g><path d="M1,1 H3"/></svg>"""


def thinned_row(content, name, **values):
    job = Job().with_asset(Asset(name, content)).added("thin_drawing", file=name, tolerance="0.01", **values)
    (state,) = run_all(job).values()
    return state


def layered(document, space):
    document.layers.add("Frame", color=1)
    space.add_lwpolyline([(0, 0), (50, 0), (50, 50), (0, 50)], close=True, dxfattribs={"layer": "Frame"})
    space.add_circle((20, 20), 5, dxfattribs={"color": 5})
    space.add_circle((30, 30), 5, dxfattribs={"true_color": 0x12AB34})


def test_drawings_know_their_layers_groups_and_colours():
    svg = read_artwork(SORTED, "a.svg").contours
    assert [c.sorts for c in svg] == [
        ("outline", "#ff0000"), ("marks", "#0000ff"), ("marks", "#0000ff"), ("marks", "#008000"), ("#000000",)]  # fmt: skip
    document = ezdxf.new("R2010", units=4)
    layered(document, document.modelspace())
    text = io.StringIO()
    document.write(text)
    dxf = read_artwork(text.getvalue().encode(), "a.dxf").contours
    assert [c.sorts for c in dxf] == [("frame", "#ff0000"), ("0", "#0000ff"), ("0", "#12ab34")]


@pytest.mark.parametrize(("blue", "black"), [("#0000FF", "#000000"), ("Blue", "black")])
def test_sorts_are_sent_to_cut_and_mark_or_left_out_and_scaled(blue, black):
    state = thinned_row(SORTED, "a.svg", cut="Outline", mark=blue, without=black, away="20, -12.5", width="90")
    made = state.outcome.value
    assert sorted((c.layer, c.closed) for c in made) == [("CUT", True), ("MARK", False), ("MARK", True)]
    x0, _, x1, _ = bounds(made)
    assert x1 - x0 == pytest.approx(90)
    report = state.outcome.result("drawing").report()["thinned"]
    assert report["away"] == 1 and report["sorts"]["marks"] == 3 and report["contours"] == 3
    assert state.outcome.result("drawing").deviation < 0.011


@pytest.mark.parametrize(
    ("values", "why"),
    [
        ({"cut": "teal"}, "Nothing in the drawing is of 'teal'; it has marks"),
        ({"cut": "marks", "mark": "marks"}, "named twice"),
        ({"cut": "blue", "mark": "#0000ff"}, "named twice"),
        ({"without": "outline, marks, #000000"}, "All of the drawing is left out"),
    ],
)
def test_what_cannot_be_sorted_is_one_sentence(values, why):
    state = thinned_row(SORTED, "a.svg", **values)
    assert state.status == "broken" and why in state.reason


def test_what_is_sent_to_be_cut_is_cut_into_the_form():
    job = Job().with_asset(Asset("a.svg", SORTED)).added("make_block", width="300", depth="200", height="20")
    job = job.added("develop", faces="6").added("thin_drawing", file="a.svg", cut="#008000", without="outline")
    job = job.added("place_artwork", drawing=job.rows[-1].id, x="", y="", scale="0.5")
    job = job.added("cut_into_form", artwork=job.rows[-1].id)
    states = list(run_all(job).values())
    assert [state.reason for state in states] == [""] * 5
    assert len(states[-1].outcome.result("form").holes) == 1
