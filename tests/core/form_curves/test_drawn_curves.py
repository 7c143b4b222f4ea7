"""Curves drawn on forms: on the true surface, through their points, as short and as smooth as closed forms say."""

from __future__ import annotations

import numpy as np
import pytest

from zuschnitt.core.carry.tracing import SpaceCurve
from zuschnitt.core.errors import Refused
from zuschnitt.core.form.build import turned_body
from zuschnitt.core.form.deviation import held_against
from zuschnitt.core.form.locator import Locator
from zuschnitt.core.form_curves.drawn_curve import drawn_through, own_crossing
from zuschnitt.core.form_curves.offset_curves import beside
from zuschnitt.core.form_curves.shortest import shortest_through


@pytest.fixture(scope="module")
def step_form(tmp_path_factory):
    from tests.parts import write
    from zuschnitt.core.kernel.step_in import read_step

    folder = tmp_path_factory.mktemp("drawn")

    def made(name):
        path = folder / f"{name}.step"
        if not path.exists():
            write(path, name)
        return read_step(path)

    return made


def around(radius, *angles_heights):
    return np.array([[radius * np.cos(a), radius * np.sin(a), z] for a, z in angles_heights])


def test_on_a_tube_it_is_on_the_surface_and_through_its_points(step_form):
    through = around(50, (0.1, 10), (1.4, 60), (2.9, 20))
    drawn = drawn_through(step_form("tube"), through, False, [1])
    assert np.abs(np.hypot(*drawn.points[:, :2].T) - 50).max() < 1e-9
    assert max(np.linalg.norm(drawn.points - point, axis=1).min() for point in through) < 1e-9
    assert drawn.corners == () and drawn.messages == ()


def test_round_a_ball_three_points_give_their_circle(step_form):
    turn = np.linspace(0, 2 * np.pi, 4)[:-1]
    through = np.column_stack([30 * np.cos(turn), 30 * np.sin(turn), np.full(3, 40.0)])
    drawn = drawn_through(step_form("ball"), through, True)
    assert np.abs(np.linalg.norm(drawn.points, axis=1) - 50).max() < 1e-9
    assert (drawn.points[0] == drawn.points[-1]).all()
    assert np.abs(drawn.points[:, 2] - 40).max() < 1.5  # nearly level, as the circle is
    assert SpaceCurve(drawn.points, "", True).length == pytest.approx(2 * np.pi * 30, rel=0.04)


def test_between_two_points_of_a_plane_and_a_tube_it_is_the_shortest_way(step_form):
    plane = drawn_through(step_form("box"), np.array([[10, 10, 0], [50, 40, 0]]), False)
    assert SpaceCurve(plane.points, "", True).length == pytest.approx(50, rel=1e-9)
    ends = around(50, (0.0, 10), (2.0, 70))
    tube = drawn_through(step_form("tube"), ends, False, [1])
    assert SpaceCurve(tube.points, "", True).length == pytest.approx(np.hypot(100, 60), rel=1e-4)


def test_where_faces_meet_at_a_crease_it_has_a_corner_on_the_edge(step_form):
    form = step_form("box")
    low, high = form.bounds
    middle = (low[1] + high[1]) / 2
    drawn = drawn_through(form, np.array([[high[0] - 20, middle, high[2]], [high[0], middle, high[2] - 15]]), False)
    (corner,) = drawn.corners
    assert drawn.points[corner][[0, 2]] == pytest.approx([high[0], high[2]], abs=1e-6)


def test_over_smooth_joins_it_runs_on(step_form):
    form = step_form("three_smooth")
    middles = [face.surface.evaluate(np.mean([mesh.uv.min(axis=0), mesh.uv.max(axis=0)], axis=0)[None])[0]
               for face, mesh in zip(form.faces, form.meshes, strict=True)]  # fmt: skip
    drawn = drawn_through(form, np.array(middles), False)
    assert drawn.corners == ()
    assert Locator.of(form).feet(drawn.points).gap.max() < 1e-6


@pytest.mark.parametrize(("points", "closed", "why"), [
    ([[50, 0, 10]], False, "2 points"), ([[50, 0, 10], [0, 50, 10]], True, "3 points"),
    ([[50, 0, 10], [50, 0, 10]], False, "one and the same"), ([[50, 0, 10], [90, 0, 10]], False, "does not lie on")])  # fmt: skip
def test_points_that_give_no_curve_are_refused(step_form, points, closed, why):
    with pytest.raises(Refused, match=why):
        drawn_through(step_form("tube"), np.array(points, float), closed, [1])


def test_points_a_little_off_are_taken_and_said(step_form):
    drawn = drawn_through(step_form("tube"), around(50.2, (0, 10), (1, 40)), False, [1])
    assert "up to 0.2 mm off" in drawn.messages[0]


def test_forms_and_curves_held_against_each_other():
    cone, wider = (turned_body([(60, 0), (200 + more, 420)]) for more in (0, 2))
    same = held_against(cone, cone)
    assert same.largest < 1e-9
    off = held_against(cone, wider)
    assert off.largest == pytest.approx(2, abs=1e-6)  # at the rim, from edge to edge
    assert off.back == pytest.approx(2, abs=1e-6) and 0.3 < off.mean < 1.6
    turn = np.linspace(0, 2 * np.pi, 721)
    circle, larger = ([np.column_stack([r * np.cos(turn), r * np.sin(turn), 0 * turn])] for r in (30.0, 31.0))
    rings = held_against(circle, larger)
    assert rings.largest == pytest.approx(1, abs=2e-3) and rings.mean == pytest.approx(1, abs=2e-3)
    for held in (off, rings):  # hairs reach from one to the other, the longest of them at the worst place
        lengths = np.linalg.norm(held.hairs[:, 1] - held.hairs[:, 0], axis=1)
        assert lengths.max() == pytest.approx(held.largest) and 100 < len(lengths) <= 600
        assert held.hairs[lengths.argmax(), 0] == pytest.approx(held.worst)
    radii = np.linalg.norm(rings.hairs, axis=2)
    assert np.abs(np.sort(radii, axis=1) - [30, 31]).max() < 2e-3


@pytest.mark.parametrize("name", ["ball", "ring", "vase", "cone"])
def test_the_shortest_way_is_the_geodesic_that_was_walked(step_form, name):
    """Walked from its beginning by another method: it is as long as the walk, and comes through the walk's middle."""
    part = step_form(name)
    locator = Locator.of(part)
    start = locator.feet(part.meshes[0].points[len(part.meshes[0].points) // 2][None]).points
    across = locator.normals(start, locator.feet(start).faces)
    way = np.cross(across, [0.3, 0.4, 0.86])
    way /= np.linalg.norm(way)
    faces = [face.number for face in part.faces]
    middle, end = (beside(part, faces, start, way, length)[0][0] for length in (20.0, 40.0))
    drawn = shortest_through(part, np.vstack([start, end]), False)
    curve = SpaceCurve(drawn.points, "", True, drawn.corners)
    assert curve.length == pytest.approx(40.0, abs=2e-6)
    assert np.linalg.norm(drawn.points - middle, axis=1).min() < 0.16  # a step of the curve at the most
    assert distance_to_polyline(middle, drawn.points) < 1e-3
    assert np.abs(locator.feet(drawn.points).points - drawn.points).max() < 1e-6


def distance_to_polyline(point, line):
    start, way = line[:-1], np.diff(line, axis=0)
    part = np.clip(((point - start) * way).sum(axis=1) / (way**2).sum(axis=1), 0, 1)
    return np.linalg.norm(start + part[:, None] * way - point, axis=1).min()


def test_shortest_ways_turn_at_the_points_and_go_round(step_form):
    ball = step_form("ball")
    through = 50 * np.array([[1, 0, 0], [0, 1, 0], [0, 0, 1.0]])
    drawn = shortest_through(ball, through, True)
    curve = SpaceCurve(drawn.points, "", True, drawn.corners)
    assert curve.length == pytest.approx(3 * 50 * np.pi / 2, rel=1e-7)  # an eighth of the ball
    assert len(drawn.corners) == 2 and np.abs(drawn.points[list(drawn.corners)] - through[1:]).max() < 1e-6
    assert np.array_equal(drawn.points[0], drawn.points[-1])


def test_the_shortest_way_over_an_edge_is_straight_on_the_flat(step_form):
    """Over the edge x = 0 of the box: 30 up one side, 40 on the other, 50 along: unfolded it is a straight line."""
    box = step_form("box")
    drawn = shortest_through(box, np.array([[0, 5, 10.0], [40, 55, 40.0]]), False)
    length = np.linalg.norm(np.diff(drawn.points, axis=0), axis=1).sum()
    assert length == pytest.approx(np.hypot(30 + 40, 50), rel=1e-9) and len(drawn.corners) == 1


@pytest.mark.parametrize("closed", [False, True])
def test_a_curve_that_crosses_itself_is_found_out(step_form, closed):
    square, ball = step_form("square"), step_form("ball")
    crossed = np.array([[10, 10, 0], [60, 40, 0], [60, 10, 0], [10, 40, 0.0]])
    plain = crossed[[0, 2, 1, 3]]
    for draw in (drawn_through, shortest_through):
        found = own_crossing(draw(square, crossed, closed))
        assert found is not None and found[2] == pytest.approx(0, abs=1e-9) and 10 < found[0] < 60
        assert own_crossing(draw(square, plain, closed)) is None
    angles = np.radians([[0, 0], [80, 50], [80, 0], [0, 50]])
    on_ball = 50 * np.column_stack(
        [np.cos(angles[:, 1]) * np.cos(angles[:, 0]), np.cos(angles[:, 1]) * np.sin(angles[:, 0]), np.sin(angles[:, 1])]
    )
    assert own_crossing(shortest_through(ball, on_ball, closed)) is not None
    assert own_crossing(shortest_through(ball, on_ball[[0, 2, 1, 3]], closed)) is None
