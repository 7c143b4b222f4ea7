"""Walls drawn in and edges rounded by levels, against the areas of the outline moved in, and on forms."""

import numpy as np
import pytest
import shapely

from zuschnitt.core.carry.figures import figures
from zuschnitt.core.errors import CannotBeDone
from zuschnitt.core.form.joined_triangles import welded
from zuschnitt.core.job.evaluate import run_all
from zuschnitt.core.job.route import Job
from zuschnitt.core.plane.lettering import lettering
from zuschnitt.core.solids.by_mesh import MeshBody
from zuschnitt.core.solids.drawn_in import drawn_in

SQUARE = shapely.box(0, 0, 20, 20)


def solid(*how):
    return MeshBody.of(*welded(*drawn_in(*how)), "it")


@pytest.mark.parametrize("sign", [1, -1])
def test_a_square_drawn_in_is_part_of_a_pyramid(sign):
    made = solid(SQUARE, sign * 3.0, 20.0, 0.0, 0.5)
    top = 20 - 6 * np.tan(np.radians(20))
    assert made.volume == pytest.approx(3 / 3 * (400 + top**2 + 20 * top) + 0.5 * 400, rel=1e-12)
    assert made.box[:, 2] == pytest.approx((-0.5, 3) if sign > 0 else (-3, 0.5))


@pytest.mark.parametrize("draft", [0.0, 12.0])
def test_a_disc_rounded_is_a_body_turned_round(draft):
    """Its volume by Simpson's rule over the circles at all heights."""
    height, radius, lean = 3.0, 1.2, np.radians(draft)
    made = solid(shapely.Point(0, 0).buffer(10, 400), height, draft, radius, 0.0)
    z = np.linspace(0, height, 200_001)
    inset = z * np.tan(lean)
    centre = (radius + (height - radius) * np.sin(lean)) / np.cos(lean)
    round_ = z > height - radius + radius * np.sin(lean)
    inset[round_] = centre - np.sqrt(radius**2 - (z[round_] - height + radius) ** 2)
    assert made.volume == pytest.approx(np.trapezoid(np.pi * (10 - inset) ** 2, z), rel=2e-4)
    assert made.box[1, 2] == pytest.approx(height)


def test_letters_with_islands_are_closed_and_measured_by_their_outlines_moved_in():
    for figure in figures(lettering("R&g8", 36.0)[0]):
        made = solid(figure.region, 1.2, 8.0, 0.0, 0.3)
        insets = np.linspace(0, 1.2 * np.tan(np.radians(8)), 41)
        areas = [figure.region.buffer(-at, join_style="mitre", mitre_limit=5).area for at in insets]
        over = np.trapezoid(areas, np.linspace(0, 1.2, 41))
        assert made.volume == pytest.approx(over + 0.3 * figure.region.area, rel=1e-3) and made.parts == 1


def test_what_is_too_narrow_is_told_how_wide_it_is():
    narrow = shapely.union_all([SQUARE, shapely.box(20, 9, 40, 10.5), shapely.box(40, 0, 60, 20)])
    solid(narrow, 2.0, 0.0, 0.7, 0.0)
    with pytest.raises(
        CannotBeDone,
        match=r"rounded with 0.8 mm: it is 1.5 mm wide .* 1.6 mm would be needed; take no more than 0.7\d* mm",
    ):
        solid(narrow, 2.0, 0.0, 0.8, 0.0)
    with pytest.raises(CannotBeDone, match=r"drawn in by 30°: it is 1.5 mm wide"):
        solid(narrow, 2.0, 30.0, 0.0, 0.0)
    with pytest.raises(CannotBeDone, match="cannot be rounded with 2.5 mm at a height of 2"):
        solid(SQUARE, 2.0, 0.0, 2.5, 0.0)


def test_words_with_rounded_edges_are_raised_though_the_kernel_refuses_them():
    """On a tube: what stands on its outside grows with the distance from its axis."""
    word = {"number": 1, "figure": "text", "text": "Rag", "height": "26", "place": "middle"}
    job = Job().added("make_tube", diameter="120", height="100", wall="4").added("develop", faces="1", way="exact")
    job = job.added("draw_figures", figures=[word])
    drawn = run_all(job)[job.rows[-1].id].outcome.value
    job = job.added("raise_artwork", by="1.5", round="0.4")
    outcome = run_all(job)[job.rows[-1].id].outcome
    (made,) = outcome.results[0].made
    z = 1.5 - 0.4 * (1 - np.sin(np.linspace(0, np.pi / 2, 41)))
    inset = 0.4 * (1 - np.sqrt(1 - ((z - 1.1) / 0.4) ** 2))
    wanted = 0.0
    for figure in figures([c for c in drawn.contours if c.closed]):
        areas = [figure.region.buffer(-at, join_style="mitre", mitre_limit=5).area for at in inset]
        wanted += figure.region.area * 1.1 * (1 + 0.55 / 60) + np.trapezoid(areas * (1 + z / 60), z)
    assert made.volume_change == pytest.approx(wanted, rel=3e-3) and made.by == "mesh"
    assert made.deviation < 0.05 and any("made of triangles" in said for said in outcome.messages)


def test_an_eight_is_drawn_in_and_rounded_downwards():
    """The kernel left gaps between the walls of an 8, and it was refused."""
    outline = lettering("8", 20.0)[0]
    (figure,) = figures(outline)
    made = solid(figure.region, -1.0, 8.0, 0.2, 0.2)
    assert made.parts == 1 and 1.0 * figure.region.area < made.volume < 1.2 * figure.region.area
