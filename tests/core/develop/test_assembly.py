"""Pieces made ready to be put together: cuts, tabs, letters, edge numbers."""

from __future__ import annotations

from collections import Counter

import numpy as np
import pytest
import shapely
import trimesh

from tests.meshes import form_of
from tests.outlines import pieces_of
from zuschnitt.core.develop.assembly import Assembly
from zuschnitt.core.develop.developing import develop
from zuschnitt.core.develop.piece import letter
from zuschnitt.core.developable.transition import transition
from zuschnitt.core.errors import Refused
from zuschnitt.core.form.build import turned_body

BOX = form_of(trimesh.creation.box((100, 60, 40)))
EVERY = range(1, 7)


def area_of(blank) -> float:
    return sum(piece.area for piece in pieces_of(blank.outline))


def test_each_open_edge_of_a_box_gets_one_tab_and_two_numbers():
    blank = develop(BOX, EVERY, assembly=Assembly(tab=8, labelled=True))
    numbers = Counter(side.label for side in blank.sides)
    assert sorted(numbers.values()) == [2] * 7  # twelve edges, five of them folds
    assert sum(fold.name.startswith("tab") for fold in blank.folds) == 7
    tabs = area_of(blank) - 24800
    lengths = [side.points for side in blank.sides]
    full = sum(float(np.linalg.norm(p[-1] - p[0])) for p in lengths) / 2
    assert 0 < tabs <= 8 * full
    assert blank.figures.area_blank == pytest.approx(24800, rel=1e-9)  # the tabs are no part of the form
    written = Counter(mark.name for mark in blank.marks)
    assert set(written) == set(numbers)


def test_tabs_do_not_overlap_what_is_laid():
    blank = develop(BOX, EVERY, assembly=Assembly(tab=39))
    (piece,) = pieces_of(blank.outline)
    assert piece.is_valid
    assert all(shapely.LinearRing(c.flattened(0.1)[:-1]).is_simple for c in blank.outline)


def test_a_tab_on_a_curved_edge_becomes_teeth():
    drum = turned_body([(60, 0), (40, 60), (50, 61)])  # two cones that meet in a circle
    blank = develop(drum, [1, 2], assembly=Assembly(tab=6))
    assert blank.figures.pieces == 2
    assert any(fold.name.startswith("tab") for fold in blank.folds)
    assert max(len(c.points) for c in blank.outline) > 40


def test_cutting_an_edge_opens_the_blank_there():
    form = transition(200, 160, 120, 150)
    plain = develop(form, range(1, 10), assembly=Assembly(cuts=(1,)))
    two = develop(form, range(1, 10), assembly=Assembly(cuts=(1, 12)))
    assert (plain.figures.pieces, two.figures.pieces) == (1, 2)
    with pytest.raises(Refused, match="Edge 99"):
        develop(form, range(1, 10), assembly=Assembly(cuts=(99,)))


def test_faces_apart_are_a_piece_each():
    blank = develop(BOX, EVERY, assembly=Assembly(apart=True, labelled=True))
    assert blank.figures.pieces == 6
    letters = {mark.name for mark in blank.marks if mark.name.isalpha()}
    assert letters == set("ABCDEF")
    assert not blank.folds


@pytest.mark.parametrize(("number", "text"), [(0, "A"), (25, "Z"), (26, "AA"), (27, "AB"), (701, "ZZ"), (702, "AAA")])
def test_letters_go_on_after_z(number, text):
    assert letter(number) == text


@pytest.mark.parametrize("rows", [3, 6])
def test_a_long_polyhedron_is_unfolded_without_overlap(rows):
    """A twisted tower of boxes unfolds into pieces that do not lie upon each other."""
    rings = []
    for i in range(rows + 1):
        angle = 0.35 * i + np.arange(7) * 2 * np.pi / 7
        r = 30 + 12 * (i % 2)
        rings.append(np.stack([r * np.cos(angle), r * np.sin(angle), 40.0 * i + 0 * angle], axis=1))
    tower = trimesh.convex.convex_hull(np.vstack(rings)) if rows < 4 else _stack(rings)
    form = form_of(tower, crease=1.0)
    blank = develop(form, [f.number for f in form.faces])
    shape = pieces_of(blank.outline)
    assert sum(s.area for s in shape) == pytest.approx(form.area(range(1, len(form.faces) + 1)), rel=1e-4)
    assert len(shape) == blank.figures.pieces


def _stack(rings):
    n = len(rings[0])
    points = np.vstack(rings)
    triangles = []
    for i in range(len(rings) - 1):
        for k in range(n):
            a, b = i * n + k, i * n + (k + 1) % n
            triangles += [[a, b, b + n], [a, b + n, a + n]]
    return trimesh.Trimesh(points, triangles, process=False)


def test_pieces_are_laid_so_far_apart_that_tabs_have_their_room():
    """Of a box in single faces, each edge has a tab of the full width, wider than pieces are apart without tabs."""
    blank = develop(BOX, EVERY, assembly=Assembly(apart=True, tab=14))
    assert not blank.messages
    tabs = [(fold, 14) for fold in blank.folds if fold.name.startswith("tab")]
    assert len(tabs) == 12
    added = area_of(blank) - 24800
    full = sum(width * (fold.length - width) for fold, width in tabs)  # ends run in by 45 degrees
    assert added == pytest.approx(full, rel=1e-3)
