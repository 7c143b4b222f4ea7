"""Figures of a drawing: what they draw, where they lie, what follows from a changed number, what is refused."""

from __future__ import annotations

import numpy as np
import pytest
from scipy.special import ellipe

from zuschnitt.core.errors import CannotBeDone, Refused
from zuschnitt.core.figures.drawn import drawn
from zuschnitt.core.figures.figures_value import Figures, next_number
from zuschnitt.core.figures.ground import Ground
from zuschnitt.core.figures.registry import figure_entries
from zuschnitt.core.job.evaluate import run_all
from zuschnitt.core.job.route import Job
from zuschnitt.core.plane.contour import Contour, bounds

SHEET = Ground.bare(200, 100)
PI = np.pi


def lines(*figures):
    """Figures numbered in order, as a job has them."""
    return [{"number": k, **line} for k, line in enumerate(figures, start=1)]


def draw(*figures, ground=SHEET, **numbers):
    return drawn(Figures().resolved(lines(*figures), numbers), ground)


def of(figure, **values):
    return {"figure": figure, **values}


def area(each):
    return sum(contour.area for contour in each.contours)


def middle(each):
    box = bounds(each.contours)
    return (box[0] + box[2]) / 2, (box[1] + box[3]) / 2


@pytest.mark.parametrize(
    "line, expected",
    [
        (of("circle", diameter=10), 25 * PI),
        (of("slot", length=40, width=12), 28 * 12 + 36 * PI),
        (of("slot", length=12, width=12), 36 * PI),
        (of("rectangle", width=30, height=20), 600),
        (of("rectangle", width=30, height=20, radius=5), 600 - (4 - PI) * 25),
        (of("polygon", sides=6, across=20), 200 * np.sqrt(3)),
        (of("ellipse", length=30, width=18), 135 * PI),
        (of("ellipse", length=300, width=20), 1500 * PI),
        (of("line", points="0,0; 10,0; 10,10", ends="closed"), 50),
        (of("arc", radius=10, begin=0, end=0), 100 * PI),
        (of("outline"), 20000),
        (of("outline", outward=5), 20000 + 600 * 5 + 25 * PI),
    ],
)
def test_areas_of_closed_figures(line, expected):
    (each,) = draw(
        {**line, **({"turn": 33} if "turn" in {p.name for p in figure_entries()[line["figure"]].parameters} else {})}
    )
    assert abs(area(each)) == pytest.approx(expected, rel=2e-5)


@pytest.mark.parametrize(
    "line, expected",
    [
        (of("arc", radius=20, begin=350, end=80), 20 * PI / 2),
        (of("arc_through", points="0,0; 10,10; 20,0"), 10 * PI),
        (of("arc_through", points="0,0; 10,-10; 20,0"), 10 * PI),
        (of("arc_through", points="10,0; -7.0710678,7.0710678; 0,-10"), 15 * PI),
        (of("line", points="0,0; 30,0; 30,40", radius=5), 60 + 2.5 * PI),
        (of("curve", points="0,0; 30,40"), 50),
    ],
)
def test_lengths_of_open_figures(line, expected):
    (each,) = draw(line)
    assert each.contours[0].length == pytest.approx(expected, rel=1e-7)


@pytest.mark.parametrize(
    "place, x, y, expected",
    [
        ("origin", 10, 20, (10, 20)),
        ("middle", 10, 20, (110, 70)),
        ("corner 1", 10, 20, (10, 20)),
        ("corner 3", 10, 20, (190, 80)),  # from a corner both run into the sheet
        ("edge 1", 10, 20, (110, 20)),
        ("edge 2", 10, 20, (180, 60)),
        ("Edge 3", 10, 20, (90, 80)),
        ("the middle", 0, 0, (100, 50)),
    ],
)
def test_figures_are_placed_from_what_is_there(place, x, y, expected):
    (each,) = draw(of("circle", x=x, y=y, place=place))
    assert middle(each) == pytest.approx(expected)


def test_a_place_holds_when_what_it_is_measured_from_changes():
    for width in (20, 60):
        first, second = draw(of("slot", length="w", x=-30), of("circle", place="figure 1", x=25), w=width)
        assert middle(second)[0] - middle(first)[0] == pytest.approx(25)
    # beside an edge that is not level a figure stands along it
    slanted = Ground((draw(of("line", points="0,0; 100,0; 60,40", ends="closed"))[0].contours[0],))
    (slot,) = draw(of("slot", length=20, width=4, place="edge 2", y=5), ground=slanted)
    start, end = slot.contours[0].points[:2]
    assert np.abs(end - start) == pytest.approx([16 / np.sqrt(2)] * 2)


def test_what_is_made_of_others_stands_in_their_place():
    figures = draw(
        of("rectangle", width=40, height=20),
        of("circle", diameter=10),
        of("combine", of="1", way="less", other="2"),
        of("corners", of="3", size=2),
        of("offset", of="4", distance=3, corners="sharp"),
        of("stretch", of="2", along=2),
    )
    assert [each.used for each in figures] == [True, True, True, False, False, False]
    assert area(figures[2]) == pytest.approx(800 - 25 * PI)
    assert area(figures[3]) == pytest.approx(800 - 25 * PI - (4 - PI) * 4)
    assert area(figures[5]) == pytest.approx(50 * PI, rel=1e-4)
    outline = draw(of("outline"), of("circle", place="corner 1", diameter=20), of("combine", of=1, way="less", other=2))
    assert [each.outline for each in outline] == [True, False, True]
    assert area(outline[2]) == pytest.approx(20000 - 25 * PI)


@pytest.mark.parametrize(
    "line, count, last",
    [
        (of("row", of=1, count=5, pitch=12, angle=90), 4, (60, 90)),
        (of("grid", of=1, count=4, pitch=10, rows=3, rise=5), 11, (90, 52)),
        (of("mirror", of=1, place="middle"), 1, (140, 42)),
        (of("mirror", of=1, place="edge 1", angle=0), 1, (60, -42)),
        (of("ring", of=1, count=4), 3, (92, 90)),
        (of("ring", of=1, count=3, angle=90, turns="upright"), 2, (108, 10)),
    ],
)
def test_figures_are_repeated(line, count, last):
    first, repeated = draw(of("slot", length=10, width=4, x=-40, y=-8, turn=20), line)
    assert not first.used and len(repeated.contours) == count
    assert all(contour.area == pytest.approx(first.contours[0].area) for contour in repeated.contours)
    assert middle(type(first)(0, "", repeated.contours[-1:], False, False)) == pytest.approx(last)


def test_an_allowance_along_some_edges_is_joined_with_the_outline():
    _, strips, joined = draw(
        of("outline"),
        of("allowance", edges="1, 3", width=8),
        of("combine", of=1, way="joined", other=2),
    )
    assert area(strips) == pytest.approx(2 * 200 * 8) and len(strips.contours) == 2
    assert joined.outline and bounds(joined.contours) == pytest.approx((0, -8, 200, 108))
    (inward,) = draw(of("allowance", edges="2", width=-5))
    assert area(inward) == pytest.approx(500) and bounds(inward.contours) == pytest.approx((195, 0, 200, 100))
    (edge,) = draw(of("allowance", edges="4", width=0))
    assert not edge.contours[0].closed and edge.contours[0].length == pytest.approx(100)


def test_an_allowance_along_a_round_edge_is_a_ring_of_its_width():
    """A sector of 40 to 100 mm over a quarter turn: outside it grows, inside it fills the hole."""
    sector = Contour(np.array([[40, 0], [100, 0], [0, 100], [0, 40.0]]), np.tan([0, PI / 8, 0, -PI / 8]), True)
    for edge, width, expected in ((2, 7, (107**2 - 100**2)), (2, -7, 100**2 - 93**2), (4, 7, 40**2 - 33**2)):
        (strip,) = draw(of("allowance", edges=edge, width=width), ground=Ground((sector,)))
        assert area(strip) == pytest.approx(PI / 4 * expected)
    with pytest.raises(Refused, match="too strongly curved"):
        draw(of("allowance", edges=4, width=41), ground=Ground((sector,)))
    with pytest.raises(Refused, match="no edge 5 of the outline; it has 4"):
        draw(of("allowance", edges=5), ground=Ground((sector,)))


@pytest.mark.parametrize("picked", ["2", "1, 2"])
def test_what_is_made_of_a_row_is_made_of_the_first_one_too(picked):
    circle, _, mirrored, ring = draw(
        of("circle", diameter=10, x=30),
        of("row", of=1, count=3, pitch=20),
        of("mirror", of=picked),
        of("ring", of="2", count=2),
    )
    xs = sorted(middle(type(circle)(0, "", (contour,), False, False))[0] for contour in mirrored.contours)
    assert xs == pytest.approx([30, 50, 70])
    assert len(ring.contours) == 3
    placed = draw(of("circle", x=-40), of("row", of=1, count=3, pitch=40), of("circle", place="figure 2"))[2]
    assert middle(placed) == pytest.approx((100, 50))
    used = draw(of("circle"), of("row", of=1), of("stretch", of=2))
    assert [each.used for each in used] == [True, True, False] and len(used[2].contours) == 3


def test_a_circle_stretched_one_way_is_an_ellipse_of_arcs():
    _, ellipse = draw(of("circle", diameter=10), of("stretch", of=1, along=3, across=2))
    _, arc = draw(of("arc", radius=10, begin=0, end=90), of("stretch", of=1, along=2))
    assert area(ellipse) == pytest.approx(PI * 15 * 10, rel=1e-7)
    assert ellipse.contours[0].bulges.all() and not arc.contours[0].closed
    assert arc.contours[0].length == pytest.approx(20 * ellipe(0.75), rel=1e-7)


def test_text_stands_on_its_line_as_high_as_it_says():
    (each,) = draw(of("text", text="HEH", height=10, x=0, y=0, place="origin"))
    box = bounds(each.contours)
    assert box[3] - box[1] == pytest.approx(10, rel=1e-3) and box[1] == pytest.approx(0, abs=1e-6)
    assert box[0] + box[2] == pytest.approx(0, abs=1.5)
    assert each.contours[0].layer == "MARK"


def test_an_arc_goes_on_in_the_direction_of_what_it_goes_on_from():
    line, arc = draw(of("line", points="0,0; 20,0", place="origin"), of("arc_on", of=1, x=40, y=20))
    assert arc.contours[0].length == pytest.approx(20 * PI / 2)
    assert arc.contours[0].points[0] == pytest.approx(line.contours[0].points[-1])


@pytest.mark.parametrize(
    "figures, why",
    [
        ([of("circle", diameter=0)], "Figure 1, circle: .*too small"),
        ([of("slot", length=5, width=12)], "longer"),
        ([of("star")], "There is no figure 'star'"),
        ([of("circle", size=4)], "no value 'size'"),
        ([of("circle", place="corner 5")], "There is no corner 5; it has 4"),
        ([of("circle", place="bend 1")], "it has none"),
        ([of("circle", place="figure 1")], "no figure 1 above"),
        ([of("circle", place="somewhere")], "no place to measure from"),
        ([of("row", of=2)], "no figure 2 above"),
        ([of("row")], "made of no figure"),
        ([of("circle"), of("row", of=1, count=2.5)], "whole number"),
        ([of("circle"), of("row", of=1, count=1e6)], "too large"),
        ([of("circle"), of("grid", of=1, count=5000, rows=5000)], "too many"),
        ([of("circle"), of("offset", of=1, distance=-6)], "nothing is left"),
        ([of("line"), of("offset", of=1)], "Only closed figures"),
        ([of("circle"), of("circle", x=90), of("combine", of=1, way="common", other=2)], "nothing is left"),
        ([of("text", text="  ")], "no words"),
        ([of("text", text="茶")], "has no '茶'"),
        ([of("line", points="0,0; 0,0")], "too few points"),
        ([of("line", points="0,0,0; 1,1")], "two numbers"),
        ([of("curve", points="")], "too few points"),
        ([of("arc_through", points="0,0; 1,0; 2,0")], "one line"),
        ([of("circle"), of("arc_on", of=1)], "no end"),
        ([of("rectangle"), of("corners", of=1, size=50)], "no room"),
        ([of("circle", x="1e9")], "far too large"),
        ([of("circle"), of("trim", of=1, by=1)], "cross|left"),
    ],
)
def test_what_makes_no_figure_is_one_sentence(figures, why):
    with pytest.raises((Refused, CannotBeDone), match=why) as caught:
        draw(*figures)
    assert len(caught.value.sentence) < 300 and caught.value.sentence.endswith(".")


def drawing_job():
    job = Job().with_value("w", "30").added("turned_body", top=120, cylinder=80, cone=0).added("develop")
    return job.added(
        "draw_figures",
        figures=lines(of("slot", length="w", x=10, place="edge 1", y=20), of("circle", place="figure 1")),
    )


def test_a_drawing_on_a_blank_is_artwork_that_follows_its_numbers():
    job = drawing_job()
    row = job.rows[-1]
    states = run_all(job)
    artwork = states[row.id].outcome.results[0].value
    assert artwork.layered and artwork.numbers == (1, 2)
    job = job.with_value("w", "50").set(row.id, "figures.2.diameter", "8")
    wider = run_all(job)[row.id].outcome.results[0].value
    assert wider.contours[0].area - artwork.contours[0].area == pytest.approx(20 * 12)
    assert wider.contours[1].area == pytest.approx(16 * PI)
    assert job.row(row.id).written("figures.2.diameter", "") == "8"
    assert next_number(job.row(row.id).parameters["figures"]) == 3
    with pytest.raises(Refused, match="far too|no value|too small"):
        job.set(row.id, "figures.2.diameter", "-1")
    with pytest.raises(Refused, match="Row 30"):
        job.with_value("w", None)


def test_an_outline_that_is_drawn_anew_is_cut_instead_of_the_blanks_own():
    job = drawing_job()
    draw_row = job.rows[-1].id
    job = job.set(draw_row, "figures", lines(of("outline", outward=5))).added("cut_file")
    contours = run_all(job)[job.rows[-1].id].outcome.results[0].value
    cut = [c for c in contours if c.layer == "CUT"]
    assert len(cut) == 1
    assert abs(cut[0].area) == pytest.approx(120 * PI * 80 + (240 * PI + 160) * 5 + 25 * PI, rel=1e-9)


def test_a_value_says_where_it_is_used():
    job = drawing_job().with_value("v", "w*2")
    rows, values = job.users("w")
    assert [row.number for row in rows] == [30] and values == ["v"]
    assert job.users("v") == ([], [])
    assert job.set(job.rows[0].id, "top", "v + 20").users("v")[0][0].number == 10


def test_figures_that_overlap_are_moved_outward_as_one_area():
    figures = draw(
        of("circle", diameter=20),
        of("row", of=1, count=3, pitch=15),  # circles that overlap
        of("offset", of="1, 2", distance=1),
        of("offset", of="2", distance=1),  # a row is the first one with its copies
        of("offset", of="1", distance=1),
    )
    lens = lambda r, d: 2 * r**2 * np.arccos(d / 2 / r) - d / 2 * np.sqrt(4 * r**2 - d**2)  # noqa: E731
    assert area(figures[2]) == pytest.approx(3 * PI * 121 - 2 * lens(11, 15), rel=1e-9)
    assert area(figures[3]) == pytest.approx(area(figures[2]), rel=1e-12)
    assert area(figures[4]) == pytest.approx(PI * 121, rel=1e-9)
    with pytest.raises(Refused, match="crosses itself"):
        draw(of("line", points="0,0; 20,20; 20,0; 0,20", ends="closed"), of("offset", of=1, distance=1))
