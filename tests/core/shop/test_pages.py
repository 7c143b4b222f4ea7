"""Blanks on paper: every page where it belongs, nothing left out, nothing twice but the overlap."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
import shapely

from zuschnitt.core.develop.assembly import Assembly
from zuschnitt.core.develop.developing import develop
from zuschnitt.core.errors import CannotBeDone, Refused
from zuschnitt.core.files.pdf import pdf_bytes
from zuschnitt.core.files.pdf_back import require_same_pages, sheets
from zuschnitt.core.form.build import domed_lid, turned_body
from zuschnitt.core.plane.contour import Contour
from zuschnitt.core.shop.cut_drawing import drawing
from zuschnitt.core.shop.pages import MARGIN, paged

LID = develop(domed_lid(340, 280, 50, 40, 60), [1], assembly=Assembly(labelled=True))
CONE = develop(turned_body([(60, 0), (200, 420)]), [1])


@pytest.mark.parametrize("blank", [LID, CONE], ids=["lid", "cone"])
@pytest.mark.parametrize("paper, overlap, scale", [("a4", 10, 1), ("a3", 0, 1), ("a4", 25, 0.5), ("letter", 5, 1.25)])
def test_pages_cover_the_blank_and_overlap_as_asked(blank, paper, overlap, scale):
    made = paged(blank, drawing(blank, ()), paper, overlap, scale)
    fields = {(p.row, p.column): shapely.box(*p.low, *p.high) for p in made.pages}
    outline = shapely.union_all([shapely.Polygon(c.flattened(0.1)) for c in blank.outline if c.closed])
    assert shapely.union_all(list(fields.values())).buffer(1e-6).covers(outline)
    for page in made.pages:
        assert (page.high - page.low) * scale == pytest.approx(np.array(made.paper) - 2 * MARGIN)
    for (row, column), field in fields.items():
        right = fields.get((row, column + 1))
        if right is not None:
            low, _, high, _ = field.intersection(right).bounds
            assert (high - low) * scale == pytest.approx(overlap)
    # no page is empty
    ink = shapely.union_all([outline, *(shapely.LineString(c.flattened(0.1)) for c in blank.outline)])
    assert all(field.buffer(0.5).intersects(ink) for field in fields.values())


@pytest.mark.parametrize("blank", [LID, CONE], ids=["lid", "cone"])
@pytest.mark.parametrize("paper, scale", [("a4", 1), ("a3", 0.5), ("letter", 1.25)])
def test_pages_are_read_back_in_true_size(blank, paper, scale):
    made = paged(blank, drawing(blank, ()), paper, 10, scale)
    content = pdf_bytes(made, "part")
    require_same_pages(content, made)
    found = sheets(content)
    assert len(found) == len(made.pages)
    (rule,) = [r for r in found[0].lines[29, 29, 27] if len(r) == 2 and abs(np.linalg.norm(r[1] - r[0]) - 100) < 0.01]
    assert rule[0][1] < MARGIN


@pytest.mark.parametrize(
    "wrong",
    [
        lambda made: replace(made, contours=tuple(c.moved(1.0005) for c in made.contours)),
        lambda made: replace(made, contours=tuple(c.moved(at=(0.1, 0)) for c in made.contours)),
        lambda made: replace(made, contours=(*made.contours, Contour.circle((5, 5), 3, "MARK"))),
        lambda made: replace(made, paper=(made.paper[0] + 1, made.paper[1])),
        lambda made: replace(made, pages=(*made.pages, made.pages[-1])),
    ],
)
def test_pages_that_show_something_else_are_not_written(wrong):
    made = paged(CONE, drawing(CONE, ()), "a3", 10)
    with pytest.raises(CannotBeDone, match="do not show what was drawn"):
        require_same_pages(pdf_bytes(made, "cone"), wrong(made))


def test_a_sheet_that_fits_one_page_gets_one():
    assert [page.name for page in paged(CONE, drawing(CONE, ()), "a0").pages] == ["A1"]


def test_a_roll_is_as_long_as_it_must_be():
    made = paged(CONE, drawing(CONE, ()), "roll")
    assert min(made.paper) <= 594 and max(made.paper) < 1.2 * max(np.ptp(np.reshape(CONE.bounds, (2, 2)), axis=0)) + 30


def test_a_map_is_printed_with_its_directions_and_its_scale():
    made = paged(LID, drawing(LID, ()), shown="stretch")
    assert made.corners is not None and len(made.corners) == LID.figures.triangles
    assert made.strokes is not None and len(made.strokes) > 100
    assert np.linalg.norm(made.strokes[:, 1] - made.strokes[:, 0], axis=1) == pytest.approx(6.0)
    assert made.limit >= LID.figures.stretch_max * 0.9
    plain = pdf_bytes(paged(LID, drawing(LID, ())), "lid")
    assert plain.startswith(b"%PDF") and len(plain) < len(pdf_bytes(made, "lid"))
    assert paged(CONE, drawing(CONE, ()), shown="stretch").corners is None  # nothing stretches


@pytest.mark.parametrize(
    "values, error, why",
    [
        ({"paper": "b9"}, Refused, "no paper"),
        ({"scale": 0.0}, Refused, "above 0"),
        ({"overlap": 120.0}, Refused, "overlap"),
        ({"overlap": -1.0}, Refused, "overlap"),
        ({"scale": 40.0}, CannotBeDone, "the limit is 400"),
    ],
)
def test_what_cannot_be_printed_is_said(values, error, why):
    with pytest.raises(error, match=why):
        paged(LID, drawing(LID, ()), **values)
