"""Pieces within a named size: each one fits, tabs and all, and nothing is lost or laid on anything else."""

from __future__ import annotations

import numpy as np
import pytest
import shapely
import trimesh

from tests.meshes import form_of
from zuschnitt.core.carry.cutting import cut_into
from zuschnitt.core.develop.assembly import Assembly
from zuschnitt.core.develop.developing import develop
from zuschnitt.core.develop.sheet_size import SheetSize
from zuschnitt.core.errors import CannotBeDone, Refused
from zuschnitt.core.shop.division import dividing_lines

BODIES = {
    "ball": trimesh.creation.icosphere(2, 50),
    "ring": trimesh.creation.torus(60, 20, major_sections=14, minor_sections=8),
    "box": trimesh.creation.box((100, 60, 40)),
    "cone": trimesh.creation.cone(50, 120, sections=14),
}


def fits(ring: np.ndarray, width: float, height: float) -> bool:
    """Tried at 1,440 turns and along each side of the hull, by projection; independent of what is tested."""
    hull = np.array(shapely.Polygon(ring).convex_hull.exterior.coords)
    sides = np.diff(hull, axis=0)
    for angle in np.r_[np.linspace(0, np.pi, 1440), np.arctan2(sides[:, 1], sides[:, 0])]:
        x = hull @ [np.cos(angle), np.sin(angle)]
        y = hull @ [-np.sin(angle), np.cos(angle)]
        if np.ptp(x) <= width + 1e-3 and np.ptp(y) <= height + 1e-3:
            return True
    return False


@pytest.mark.parametrize(
    ("name", "size", "tab"),
    [
        ("ball", (80, 60), 4),
        ("ball", (200, 60), 0),
        ("ring", (120, 90), 3),
        ("box", (150, 110), 5),
        ("cone", (125, 110), 2),
    ],
)
def test_each_piece_fits_with_its_tabs(name, size, tab):
    form = form_of(BODIES[name], crease=0.01)
    every = [face.number for face in form.faces]
    free = develop(form, every, "exact", assembly=Assembly(tab=tab))
    blank = develop(form, every, "exact", assembly=Assembly(tab=tab, within=size))
    shapes = [shapely.Polygon(contour.flattened(0.01)) for contour in blank.outline]
    assert len(shapes) == blank.figures.pieces > free.figures.pieces
    assert all(shape.is_valid and fits(shape.exterior.coords, *size) for shape in shapes)
    assert shapely.union_all(shapes).area == pytest.approx(sum(shape.area for shape in shapes), rel=1e-9)
    assert blank.figures.area_blank == pytest.approx(form.area(every), rel=1e-9)


def test_pieces_are_no_more_than_need_be():
    """A box of 100 x 60 x 40: on a sheet that its whole cross fits on it stays in one piece, turned as need be."""
    form = form_of(BODIES["box"])
    for size in ((300, 210), (210, 300)):
        assert develop(form, range(1, 7), "exact", assembly=Assembly(within=size)).figures.pieces == 1


@pytest.mark.parametrize("size", [(90, 50), (59, 1000)])
def test_a_face_that_is_too_large_by_itself_is_said(size):
    with pytest.raises(CannotBeDone, match="larger than .* mm .*name a larger sheet"):
        develop(form_of(BODIES["box"]), range(1, 7), "exact", assembly=Assembly(within=size))


@pytest.mark.parametrize("size", [(10, 100), (float("nan"), 100), (float("inf"), 100), (-5, 100)])
def test_sizes_that_are_none_are_refused(size):
    with pytest.raises(Refused, match="larger than two tabs"):
        develop(form_of(BODIES["box"]), range(1, 7), "exact", assembly=Assembly(tab=5, within=size))


def test_a_piece_may_lie_across():
    square = np.array([[0, 0], [100, 100], [98, 102], [-2, 2]], float)
    turn = SheetSize(145, 5).turn(square)
    assert np.ptp(square @ turn.T, axis=0) == pytest.approx([np.hypot(100, 100), np.hypot(2, 2)])
    assert SheetSize(140, 5).turn(square) is None
    assert SheetSize(5, 145).turn(square) is not None


def test_a_ring_is_divided_by_lines_that_do_not_run_along_its_seam(form):
    """They lay within 0.1 mm of it, and the whole face was lost between them."""
    given = form("ring")
    blank = develop(given, [1], edge_length=6.0)
    lines = dividing_lines(blank, given, 120, 80, 0.0)
    assert lines
    made = cut_into(given, blank, lines).form
    assert sum(face.area for face in made.faces) == pytest.approx(4 * np.pi**2 * 50 * 20, rel=1e-6)
    assert len(made.faces) >= len(lines) + 1
