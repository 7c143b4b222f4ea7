"""What of a solid does not belong to its sheet part: it is named, whatever it is, and becomes a solid of its own."""

from __future__ import annotations

import numpy as np
import pytest
from OCP.gp import gp_Pnt
from OCP.ShapeUpgrade import ShapeUpgrade_UnifySameDomain

from tests import sheet_parts
from tests.sheet_parts import block, cone, drawn_out, drill, form, joined, without
from zuschnitt.core.files.form_file import read_form
from zuschnitt.core.files.stl import stl_bytes
from zuschnitt.core.sheet.body import folded_body
from zuschnitt.core.sheet.making import Made, SheetPlan, sheet_part
from zuschnitt.core.solids.bodies import made_body
from zuschnitt.core.solids.booleans import common
from zuschnitt.core.solids.left_beside import left_beside
from zuschnitt.core.solids.shape import shape_of


def angle():
    """A wall of 60 along x from z = 0 to 2, its bend, a wall of 40 upright."""
    return drawn_out([60, 40], [90], 3.0, 2.0, 80.0)


def seamless(shape):
    """Faces that run on into each other are one, as most programs write them."""
    unify = ShapeUpgrade_UnifySameDomain(shape)
    unify.Build()
    return unify.Shape()


def parted(shape, **plan) -> tuple[Made, list[tuple[float, int]]]:
    """The sheet part, and the volume and the number of faces of each solid beside it."""
    solid = form(shape)
    made = sheet_part(solid, SheetPlan(radius=3.0, **plan))
    left = left_beside(solid, made.left_out, folded_body(made.part))
    named = [number for _, faces in left for number in faces]
    assert set(named) <= set(made.left_out) and all(body.by == "exact" for body, _ in left)
    return made, [(body.volume, body.faces) for body, _ in left]


ALONE = sheet_part(form(angle()), SheetPlan(radius=3.0)).part
DISC = np.pi * 8**2
ATTACHED = {
    "a boss": (drill((30, 40, 2), (0, 0, 1), 8, 10), None, [(DISC * 10, 3)], 0),
    "a boss on the other side": (drill((30, 40, -6), (0, 0, 1), 8, 6), None, [(DISC * 6, 3)], 0),
    "a bush with a hole through the sheet": (
        drill((30, 40, 2), (0, 0, 1), 8, 10),
        drill((30, 40, -1), (0, 0, 1), 4, 20),
        [((DISC - np.pi * 16) * 10, 4)],
        np.pi * 16,
    ),
    "a bush with a blind hole": (
        drill((30, 40, 2), (0, 0, 1), 8, 10),
        drill((30, 40, 5), (0, 0, 1), 4, 20),
        [(DISC * 10 - np.pi * 16 * 7, 5)],
        0,
    ),
    "a thicker wall from edge to edge": (block((20, 0, 2), (6, 80, 30)), None, [(6 * 80 * 30, 6)], 0),
    "a rib": (block((20, 10, 2), (6, 60, 30)), None, [(6 * 60 * 30, 6)], 0),
    "a block that hangs over": (block((20, 70, 2), (10, 30, 8)), None, [(10 * 30 * 8, 7)], 0),
    "a pin on both sides": (drill((30, 40, -6), (0, 0, 1), 8, 20), None, [(DISC * 6, 3), (DISC * 12, 3)], 0),
}


@pytest.mark.parametrize("name", ATTACHED)
def test_it_is_named_and_left_beside_as_a_solid(name):
    added, drilled, solids, hole = ATTACHED[name]
    shape = joined(angle(), added)
    made, left = parted(seamless(shape if drilled is None else without(shape, drilled)))
    assert made.left_out and "do not belong to the sheet" in made.messages[-1]
    assert len(made.part.zones) == 3
    assert made.part.flat_area == pytest.approx(ALONE.flat_area - hole, rel=1e-12)
    assert sorted(left) == [(pytest.approx(size, rel=1e-9), faces) for size, faces in sorted(solids)]


def test_what_is_sunk_into_it_leaves_nothing():
    made, left = parted(without(angle(), block((20, 20, 1), (20, 20, 5))))
    assert len(made.left_out) == 5 and not left
    assert made.part.flat_area == pytest.approx(ALONE.flat_area)


def test_a_block_in_the_bend_is_the_solid_without_the_sheet():
    solid = seamless(joined(angle(), block((50, 20, 2), (13, 20, 10))))
    made, left = parted(solid)
    shared = common(solid, [shape_of(folded_body(made.part))])
    assert [size for size, _ in left] == [
        pytest.approx(made_body("a", solid).volume - made_body("b", shared).volume, rel=1e-9)
    ]


def test_a_hole_that_the_side_followed_does_not_show_is_said():
    bush = without(joined(angle(), drill((30, 40, 2), (0, 0, 1), 8, 10)), drill((30, 40, -1), (0, 0, 1), 4, 20))
    made, _ = parted(bush, other_side=True)
    assert any("cannot be seen from the side that is followed" in said for said in made.messages)
    assert not any("cannot be seen" in said for said in parted(bush)[0].messages)


def test_what_stands_at_the_edge_of_the_side_followed_is_said():
    over = seamless(joined(angle(), block((20, 70, -8), (10, 30, 8))))
    made, _ = parted(over)
    assert any("is at the sheet's edge" in said for said in made.messages)
    other, left = parted(over, other_side=True)
    assert not any("is at the sheet's edge" in said for said in other.messages)
    assert other.part.flat_area == pytest.approx(ALONE.flat_area) and left == [(pytest.approx(2400), 7)]


SLANTED = {
    "a countersink": (cone((30, 40, 0.5), 3, 4.5, 1.5), drill((30, 40, -1), (0, 0, 1), 3, 4)),
    "a counterbore": (drill((30, 40, 1), (0, 0, 1), 6, 4), drill((30, 40, -1), (0, 0, 1), 3, 4)),
    "a milled edge": (block((10, -1, 1.5), (30, 20, 4)),),
}


@pytest.mark.parametrize("name", SLANTED)
def test_edges_that_are_not_square_to_the_sheet_are_said(name):
    """Both sides have another outline there."""
    part = without(angle(), *SLANTED[name])
    made, left = parted(part)
    assert not made.left_out and not left
    assert any("not square to it" in said for said in made.messages)
    assert parted(part, other_side=True)[0].part.flat_area != pytest.approx(made.part.flat_area, abs=1)
    plain, _ = parted(without(angle(), drill((30, 40, -1), (0, 0, 1), 3, 4), block((-1, 10, -1), (20, 20, 9))))
    assert not plain.messages


@pytest.mark.parametrize("seed", range(4))
def test_where_places_are_off_by_a_thousandth_no_film_hangs_on(seed, monkeypatch):
    rng, known = np.random.default_rng(seed), {}

    def near(x, y, z):
        if y == 0.0:
            place = (round(x, 6), round(z, 6))
            x, z = known.setdefault(place, (x + rng.uniform(-1e-3, 1e-3), z + rng.uniform(-1e-3, 1e-3)))
        return gp_Pnt(x, y, z)

    with monkeypatch.context() as rough:
        rough.setattr(sheet_parts, "gp_Pnt", near)
        shape = angle()
    _, left = parted(joined(shape, drill((30, 40, 1), (0, 0, 1), 8, 11)))
    assert left == [(pytest.approx(DISC * 10, rel=1e-3), 3)]


def test_of_triangles_it_is_made_of_triangles():
    walls = block((0, 0, 0), (60, 80, 2)), block((58, 0, 0), (2, 80, 40))
    content = stl_bytes(form(seamless(joined(*walls, drill((30, 40, 1), (0, 0, 1), 8, 11)))))
    solid = read_form(content, "boss.stl", unit="mm")
    made = sheet_part(solid, SheetPlan(radius=3.0))
    ((body, _),) = left_beside(solid, made.left_out, folded_body(made.part))
    assert body.by == "mesh" and body.volume == pytest.approx(DISC * 10, rel=0.02)
