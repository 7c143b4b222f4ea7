"""Pieces of a blank, against what its lines alone bound, and what is made of them."""

from __future__ import annotations

import numpy as np
import pytest
import shapely

from tests.outlines import pieces_of
from zuschnitt.core.develop.assembly import Assembly
from zuschnitt.core.develop.developing import develop
from zuschnitt.core.develop.piece import letter
from zuschnitt.core.job.evaluate import run_all
from zuschnitt.core.job.route import Job
from zuschnitt.core.nesting.part import parts_of
from zuschnitt.core.shop.cut_drawing import drawing
from zuschnitt.core.shop.pages import paged


def blank_of(job):
    return run_all(job)[job.rows[-1].id].outcome.result("blank").value


CASES = {
    "a box apart": lambda form: develop(form("box"), range(1, 7), assembly=Assembly(apart=True)),
    "a box with tabs": lambda form: develop(
        form("box"), range(1, 7), assembly=Assembly(apart=True, tab=4.0, tab_angle=60.0)
    ),
    "a lid in gores": lambda form: blank_of(Job().added("make_dome").added("develop", faces="all")),
    "patches": lambda form: develop(form("tube"), range(1, 4), "parametric"),
}


@pytest.mark.parametrize("case", CASES)
def test_pieces_are_what_the_outline_bounds(form, case):
    blank = CASES[case](form)
    found = pieces_of(blank.outline)
    assert len(blank.pieces) == len(found) == blank.figures.pieces
    shapes = sorted((piece.shape for piece in blank.pieces), key=lambda shape: shape.bounds[0])
    for mine, other in zip(shapes, found, strict=True):
        assert mine.symmetric_difference(other).area < 1e-6 * other.area
    assert {face for piece in blank.pieces for face in piece.faces} == set(blank.faces)
    if len(found) > 1:
        assert sorted(piece.name for piece in blank.pieces) == sorted(letter(k) for k in range(len(found)))
    for piece in blank.pieces:
        assert all(c.name == piece.name for c in piece.outline)
        near = piece.shape.buffer(1e-3)
        assert all(near.covers(shapely.LineString(fold.points)) for fold in piece.folds if fold.layer != "REFERENCE")
        for leaf in (leaf for leaf in blank.correspondence.leaves if piece.faces == (leaf.face,)):
            inner = leaf.chart_to_blank(np.array(leaf.region.shape.representative_point().coords))
            assert piece.shape.contains(shapely.Point(inner[0]))


def test_marks_stand_on_their_piece(form):
    blank = develop(form("box"), range(1, 7), assembly=Assembly(apart=True, labelled=True))
    for piece in blank.pieces:
        assert piece.marks and all(piece.shape.covers(shapely.LineString(mark.points)) for mark in piece.marks)
        assert sum(mark.name == piece.name for mark in piece.marks) >= 1
    assert len(blank.marks) == sum(len(piece.marks) for piece in blank.pieces)


def test_parts_and_pages_bear_the_names_of_pieces(form):
    blank = develop(form("box"), range(1, 7), assembly=Assembly(apart=True))
    contours = drawing(blank, ())
    assert sorted(part.name for part in parts_of(contours, "box")) == [f"box-{letter(k)}" for k in range(6)]
    pages = paged(blank, contours)
    assert {name for page in pages.pages for name in page.pieces} == {letter(k) for k in range(6)}
    for page in pages.pages:
        field = shapely.box(*page.low, *page.high)
        assert set(page.pieces) == {p.name for p in blank.pieces if p.shape.intersects(field)}
