"""Reliefs: where curves on a form open its blank, and where to put them."""

from __future__ import annotations

import numpy as np
import pytest

from zuschnitt.core.develop.assembly import Assembly
from zuschnitt.core.develop.developing import develop
from zuschnitt.core.errors import CannotBeDone
from zuschnitt.core.form.build import domed_lid, turned_body
from zuschnitt.core.form.lines_on_faces import lines_on_faces
from zuschnitt.core.form.unwrapped import unwrap
from zuschnitt.core.form_curves.drawn import drawn_on
from zuschnitt.core.reliefs.proposal import largest

LID = domed_lid(240, 180, 60, 40, 0)


def on_lid(x, y):
    return np.stack([x, y, 60 - 30 * (x / 120) ** 2 - 30 * (y / 90) ** 2], axis=-1)


def from_corner(angle, inner=0.25, outer=1.5):
    share = np.linspace(inner, outer, 60)
    return on_lid(115 * share * np.cos(angle), 85 * share * np.sin(angle))


FOUR = tuple(from_corner(a) for a in np.arange(4) * np.pi / 2 + np.pi / 4)


def test_four_reliefs_at_the_corners_take_most_of_the_stretch():
    plain = develop(LID, [1])
    cut = develop(LID, [1], assembly=Assembly(reliefs=FOUR, labelled=True))
    assert largest(plain.mesh.stretch) > 5
    assert largest(cut.mesh.stretch) < 0.5 * largest(plain.mesh.stretch)
    assert cut.figures.flipped == 0 and cut.figures.round_trip_max < 1e-6
    assert cut.figures.pieces == 1 and len(cut.outline) == 1
    labels = sorted(side.label for side in cut.sides)
    assert labels == ["r1", "r1", "r2", "r2", "r3", "r3", "r4", "r4"]
    assert {mark.name for mark in cut.marks} == {"r1", "r2", "r3", "r4"}


def test_both_sides_of_a_relief_are_as_long_as_the_line_on_the_form():
    line = FOUR[0]
    inside = line[(np.abs(line[:, 0]) <= 120) & (np.abs(line[:, 1]) <= 90)]
    cut = develop(LID, [1], assembly=Assembly(reliefs=(line,)), edge_length=3.0)
    sides = [side for side in cut.sides if side.label == "r1"]
    lengths = [np.linalg.norm(np.diff(s.points, axis=0), axis=1).sum() for s in sides]
    assert lengths[0] == pytest.approx(lengths[1], rel=0.02)
    assert lengths[0] < np.linalg.norm(np.diff(inside, axis=0), axis=1).sum() * 1.02
    # the part outside the lid's rounded corner does not count
    assert lengths[0] > 60


def test_points_on_both_sides_of_a_relief_are_carried_there_and_back():
    cut = develop(LID, [1], assembly=Assembly(reliefs=FOUR))
    random = np.random.default_rng(4)
    points = on_lid(random.uniform(-80, 80, 400), random.uniform(-60, 60, 400))
    assert cut.correspondence.round_trip(points) < 1e-6


def test_a_relief_across_two_faces_opens_both():
    body = turned_body([(60, 0), (120, 100), (120, 160)])
    height = np.linspace(40, 170, 120)
    r = np.where(height < 100, 60 + 0.6 * height, 120)
    line = np.stack([r * np.cos(1.0), r * np.sin(1.0), height], axis=1)
    plain = develop(body, [1, 2], "relaxed")
    cut = develop(body, [1, 2], "relaxed", assembly=Assembly(reliefs=(line,)))
    assert len(cut.sides) >= len(plain.sides)
    assert sum(side.label == "r1" for side in cut.sides) >= 2
    assert cut.figures.outline_length > plain.figures.outline_length + 180


def test_a_line_that_reaches_no_edge_opens_a_slit(form):
    """On a saddle the slit gapes."""
    saddle = form("saddle")
    slit = saddle.faces[0].surface.evaluate(np.stack([np.linspace(0.25, 0.75, 40), np.full(40, 0.5)], axis=1))
    cut = develop(saddle, [1], assembly=Assembly(reliefs=(slit,)))
    assert len(cut.outline) == 2 and cut.figures.pieces == 1
    assert any("reaches no edge and opens as a slit" in message for message in cut.messages)


def test_a_slit_whose_sides_would_lie_on_each_other_is_left_out_and_said():
    slit = on_lid(np.linspace(-40, 40, 40), np.zeros(40))
    cut, plain = develop(LID, [1], assembly=Assembly(reliefs=(slit,))), develop(LID, [1])
    assert cut.figures.pieces == 1 and cut.figures.stretch_max == pytest.approx(plain.figures.stretch_max)
    assert any("Relief 1 reaches no edge" in message for message in cut.messages)


def test_a_relief_right_across_makes_two_pieces():
    across = on_lid(np.linspace(-140, 140, 80), np.full(80, 12.0))
    cut = develop(LID, [1], assembly=Assembly(reliefs=(across,)))
    assert cut.figures.pieces == 2


def test_a_drawn_line_lies_on_the_form():
    line = drawn_on(LID, on_lid(np.array([-100.0, 0, 60]), np.array([0.0, 30, 20])))
    x, y, z = line.T
    assert np.abs(on_lid(x, y)[:, 2] - z).max() < 1e-6


def test_a_relief_too_near_to_the_edge_is_refused_with_what_to_do():
    along = on_lid(np.linspace(-60, 60, 60), np.full(60, 89.9999))
    other = on_lid(np.linspace(-60, 60, 60), np.full(60, 89.9998))
    try:
        cut = develop(LID, [1], assembly=Assembly(reliefs=(along, other)))
    except CannotBeDone as error:
        assert "smaller triangles" in error.sentence
    else:  # or it is done without a flip
        assert cut.figures.flipped == 0


def test_reliefs_that_open_nothing_are_said():
    aside = FOUR[0] + [0, 0, 400.0]
    cut = develop(LID, [1], assembly=Assembly(reliefs=(FOUR[1], aside)))
    assert any("Relief 2 lies beside" in message for message in cut.messages)
    body = turned_body([(60, 0), (120, 100)])
    assert any("relaxed blank only" in m for m in develop(body, [1], assembly=Assembly(reliefs=(FOUR[0],))).messages)


def test_a_relief_across_a_seam_opens_both_sides_of_it(form):
    """It was refused as too near to an edge, whose two sides lie far apart on the chart."""
    along = np.linspace(-0.6, 0.4, 60)  # round the tube of a ring, across its waist
    ring = form("ring")
    torus = ring.faces[0].surface
    line = torus.evaluate(np.stack([np.full(60, 1.0), np.pi + along], axis=1))
    cut = develop(ring, [1], assembly=Assembly(reliefs=(line,), labelled=True))
    sides = sorted(np.linalg.norm(np.diff(s.points, axis=0), axis=1).sum() for s in cut.sides if s.label == "r1")
    assert len(sides) == 4 and cut.figures.pieces == 1
    assert sides == pytest.approx(torus.radius * np.array([0.4, 0.4, 0.6, 0.6]), rel=0.45)  # it stretches so much
    assert cut.figures.round_trip_max < 1e-6


@pytest.mark.parametrize("beyond", [0.5, 2.0, 3.0, 8.0])
def test_a_relief_that_begins_beyond_the_edge_is_caught_by_it(beyond):
    """Off the end of a spline surface its foot lies on the edge, whose samples it must then be one of."""
    line = on_lid(np.zeros(40), np.linspace(-90 - beyond, -40, 40))
    face = unwrap(LID.face(1))
    (part,) = lines_on_faces(LID, [face], [line], 3.4)
    assert part.start is not None and part.end is None
    edge, at = part.start
    assert LID.edges[edge].curve.evaluate(np.array([at]))[0] == pytest.approx([0, -90, 30], abs=0.02)
    cut = develop(LID, [1], assembly=Assembly(reliefs=(line,), labelled=True))
    lengths = [np.linalg.norm(np.diff(s.points, axis=0), axis=1).sum() for s in cut.sides if s.label == "r1"]
    assert len(lengths) == 2 and lengths == pytest.approx([57.5, 57.5], abs=1.5)
