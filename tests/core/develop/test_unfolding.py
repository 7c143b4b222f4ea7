"""Trees over faces: nothing overlaps, no piece too many, and no slit where edges lie on each other anyway."""

from __future__ import annotations

import numpy as np
import pytest
import shapely
import trimesh

from tests.meshes import form_of
from tests.outlines import pieces_of
from zuschnitt.core.develop import unfolding
from zuschnitt.core.develop.developing import develop
from zuschnitt.core.errors import Cancelled
from zuschnitt.core.progress import Progress


def rock(seed: int):
    """A body of about eighty plane faces, dented enough that its plain tree overlaps."""
    random = np.random.default_rng(seed)
    mesh = trimesh.creation.icosphere(subdivisions=1, radius=50)
    mesh.vertices *= (0.75 + 0.5 * random.random(len(mesh.vertices)))[:, None]
    return form_of(mesh, crease=1.0)


@pytest.mark.parametrize("seed", [0, 1, 4])
def test_another_tree_keeps_in_one_piece_what_the_first_one_cannot(monkeypatch, seed):
    form = rock(seed)
    faces = range(1, len(form.faces) + 1)
    blank = develop(form, faces)
    assert blank.figures.pieces == 1
    assert blank.messages == ()
    (piece,) = pieces_of(blank.outline)
    assert piece.is_valid
    assert piece.area == pytest.approx(form.area(faces), rel=1e-6)  # so that no face lies on another
    monkeypatch.setattr(unfolding, "_searched", lambda search, best, progress: best)
    assert develop(form, faces).figures.pieces > 1


def test_where_nothing_overlaps_the_cuts_are_the_shortest():
    """A slender box: of its twelve edges five hold, and they are the long ones."""
    form = form_of(trimesh.creation.box((30, 20, 200)))
    blank = develop(form, range(1, 7))
    held = sorted((float(np.ptp(fold.points, axis=0).max()) for fold in blank.folds), reverse=True)
    assert held == pytest.approx([200, 200, 200, 30, 30])
    assert blank.figures.outline_length == pytest.approx(2 * (200 + 2 * 30 + 4 * 20))


def test_edges_that_lie_on_each_other_anyway_are_joined():
    """Four plane quarters round a point have four edges; a tree alone would leave a slit in one of them."""
    shapes = [shapely.box(0, 0, 10, 10)] * 4
    quarter = np.array([[0.0, -1.0], [1.0, 0.0]])
    joints = [
        unfolding.Joint(i, (i + 1) % 4, unfolding.Rigid(quarter, np.zeros(2)), 10.0, smooth=True) for i in range(4)
    ]
    tree = unfolding.unfolded(shapes, [True] * 4, joints, Progress())
    assert tree.joined == {0, 1, 2, 3}
    laid = [shapely.transform(s, p.apply) for s, p in zip(shapes, tree.placements, strict=True)]
    assert shapely.union_all(laid).area == pytest.approx(400)


@pytest.mark.parametrize(("straight", "pieces"), [(True, 2), (False, 1)])
def test_straight_edged_faces_must_not_overlap_by_hundredths(straight, pieces):
    """Three squares, the last of which would lie on the first in a strip of 0.008 mm; flattened arcs may be so far off."""
    shapes = [shapely.box(0, 0, 10, 10)] * 3
    joints = [unfolding.Joint(0, 1, unfolding.Rigid(np.eye(2), np.array([10.0, 0])), 10.0, smooth=False),
              unfolding.Joint(1, 2, unfolding.Rigid(np.eye(2), np.array([-10.0, 9.992])), 10.0, smooth=False)]  # fmt: skip
    tree = unfolding.unfolded(shapes, [straight] * 3, joints, Progress())
    assert len(set(tree.piece.tolist())) == pieces


def test_the_search_can_be_cancelled():
    asked = iter([False] * 3 + [True] * 100)
    with pytest.raises(Cancelled):
        develop(rock(0), range(1, 78), progress=Progress(stopped=lambda: next(asked)))
