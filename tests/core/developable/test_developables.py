"""Faces found to be developable by laying them flat: against closed forms, and geodesics computed apart."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.integrate import quad
from scipy.interpolate import make_interp_spline
from scipy.optimize import minimize

from zuschnitt.core import correspondence
from zuschnitt.core.develop.assembly import Assembly
from zuschnitt.core.develop.developing import develop
from zuschnitt.core.developable import fitted_flat as fitting
from zuschnitt.core.developable.fitted_flat import _unrolled, fitted_flat, total_curvature
from zuschnitt.core.developable.ruled import ruled_form, ruled_surface
from zuschnitt.core.developable.transition import transition
from zuschnitt.core.errors import CannotBeDone
from zuschnitt.core.geometry.curves import Spline
from zuschnitt.core.geometry.ruled_flat import DEVELOPABLE, ruled_flat
from zuschnitt.core.geometry.surfaces import Extrusion, SplineSurface

BOX = np.array([[0.0, 0.0], [1.0, 1.0]])


def between(first, second, count: int = 80) -> SplineSurface:
    """The ruled surface between two curves given as functions of a parameter from 0 to 1."""
    t = np.linspace(0, 1, count)
    return ruled_surface([(t, first(t), second(t))])


def helix(t, along: float):
    """On the tangents of a helix, at a distance from it."""
    angle, r, pitch = 2.5 * t, 50.0, 20.0
    point = np.stack([r * np.cos(angle), r * np.sin(angle), pitch * angle], axis=1)
    tangent = np.stack([-r * np.sin(angle), r * np.cos(angle), pitch + 0 * angle], axis=1) / np.hypot(r, pitch)
    return point + along * tangent


def test_the_tangent_surface_of_a_helix_becomes_part_of_a_ring():
    """A helix of curvature k develops into an arc of radius 1 / k, and a tangent's end goes along a circle too."""
    form = ruled_form([between(lambda t: helix(t, 20), lambda t: helix(t, 80))], "tangents")
    (face,) = form.faces
    assert face.kind == "ruled" and face.developable and face.flat.error < 1e-8
    blank = develop(form, [1])
    radius, length = (50**2 + 20**2) / 50, 2.5 * np.hypot(50, 20)
    area = length / radius * (80**2 - 20**2) / 2
    assert blank.way == "exact"
    assert blank.figures.area_blank == pytest.approx(area, rel=1e-6)
    inner, outer = np.hypot(radius, 20), np.hypot(radius, 80)
    around = length / radius * (inner + outer) + 2 * 60
    assert blank.figures.outline_length == pytest.approx(around, rel=1e-6)
    assert blank.figures.round_trip_max < 1e-6


def test_a_symmetric_profile_pulled_out_is_developable():
    """Its knots come within rounding of the even division of the face: a span of that width is none."""
    x = np.linspace(0, 120, 41)
    points = np.stack([x, 0 * x, 12 * np.sin(2 * np.pi * x / 60)], axis=1)
    chords = np.r_[0, np.cumsum(np.linalg.norm(np.diff(points, axis=0), axis=1))]
    profile = make_interp_spline(chords, points, 3)
    profile = Spline(profile.t, profile.c, 3)
    surface = Extrusion(profile, np.array([0, 1.0, 0]), (0.0, chords[-1], 0.0, 80.0))
    assert 0 < np.diff(surface.breaks_u).min() < 1e-9
    flat = ruled_flat(surface, 0, np.r_[0.0, surface.breaks_u, chords[-1]], (0.0, 80.0))
    length = quad(lambda t: np.linalg.norm(profile.derivative(np.array([t]))), 0, chords[-1], limit=500)[0]
    assert flat.error < 1e-9
    ends = flat.to_plane(np.array([[0.0, 0.0], [chords[-1], 0.0]]))
    assert np.linalg.norm(ends[1] - ends[0]) == pytest.approx(length, rel=1e-7)


def oblique_cone():
    apex = np.array([30.0, 10.0, 100.0])
    return between(
        lambda t: np.tile(apex, (len(t), 1)),
        lambda t: np.stack([80 * np.cos(2 * t), 80 * np.sin(2 * t), 0 * t], axis=1),
    ), apex


def test_an_oblique_cone_has_its_area_and_its_apex():
    surface, apex = oblique_cone()
    form = ruled_form([surface], "cone")

    def strip(angle):
        rim = np.array([80 * np.cos(angle), 80 * np.sin(angle), 0.0]) - apex
        step = np.array([-80 * np.sin(angle), 80 * np.cos(angle), 0.0])
        return np.linalg.norm(np.cross(rim, step)) / 2

    blank = develop(form, [1])
    assert blank.figures.area_blank == pytest.approx(quad(strip, 0, 2)[0], rel=1e-7)
    rim = blank.correspondence.to_blank(surface.evaluate(np.array([[0.2, 1], [0.7, 1.0]]))).points
    at = blank.correspondence.to_blank(apex[None]).points
    expected = np.linalg.norm(surface.evaluate(np.array([[0.2, 1], [0.7, 1.0]])) - apex, axis=1)
    assert np.linalg.norm(rim - at, axis=1) == pytest.approx(expected, rel=1e-8)


@pytest.mark.parametrize("name, exact", [("loft", True), ("wave", True), ("vase", False), ("quarter_dome", False)])
def test_faces_of_step_files_are_found_developable_by_their_rulings(form, name, exact):
    part = form(name)
    assert part.faces[0].developable == exact
    if name == "loft":
        apex = np.array([60.0, 0, 200])  # its circles are in the ratio 2 to 1

        def strip(angle):
            rim = np.array([80 * np.cos(angle), 80 * np.sin(angle), 0.0]) - apex
            return np.linalg.norm(np.cross(rim, [-80 * np.sin(angle), 80 * np.cos(angle), 0.0])) / 2

        blank = develop(part, [1])
        assert part.faces[0].kind == "ruled" and blank.way == "exact"
        assert blank.figures.area_blank == pytest.approx(0.75 * quad(strip, 0, 2 * np.pi)[0], rel=1e-6)
        lengths = [edge.length for edge in part.edges]
        twice = sum(lengths[k] for k in part.seams)
        assert blank.figures.outline_length == pytest.approx(sum(lengths) + twice, rel=1e-6)


def askew_cylinder(order: int = 5) -> SplineSurface:
    """A part of a cylinder of radius 60 whose rulings are no isolines of its parameters."""
    from scipy.interpolate import make_interp_spline

    ticks = np.linspace(0, 1, 40)
    u, v = np.meshgrid(ticks, ticks, indexing="ij")
    angle = 1.2 * u + 0.4 * v
    points = np.stack([60 * np.cos(angle), 60 * np.sin(angle), 80 * v + 20 * u * v], axis=-1)
    one = make_interp_spline(ticks, points, order)
    two = make_interp_spline(ticks, one.c.transpose(1, 0, 2), order)
    return SplineSurface(one.t, two.t, two.c.transpose(1, 0, 2), order, order)


def test_rulings_that_are_no_isolines_are_no_hindrance():
    form = ruled_form([askew_cylinder()], "askew")
    blank = develop(form, [1])
    assert form.faces[0].kind == "ruled" and blank.way == "exact"
    # on the cylinder's own flat, (60 angle, z), the patch is bounded by known curves
    assert blank.figures.area_blank == pytest.approx(60 * (1.2 * (80 + 10) - 0.4 * 20 / 2), rel=1e-6)
    assert blank.figures.round_trip_max < 1e-6
    corners = form.faces[0].surface.evaluate(np.array([[0, 0], [1, 1.0]]))
    flat = blank.correspondence.to_blank(corners).points
    assert np.linalg.norm(flat[1] - flat[0]) == pytest.approx(np.hypot(60 * 1.6, 100), rel=1e-6)


@pytest.mark.parametrize("make", [lambda: oblique_cone()[0], askew_cylinder], ids=["cone", "askew"])
def test_a_fitted_flat_stretches_nothing_where_the_face_is_developable(make):
    assert fitted_flat(make(), BOX).error < 1e-6


def corrugated(waves: float, wide: float = 200.0, high: float = 120.0) -> SplineSurface:
    """A sheet in waves that run askew to its parameters, so that its rulings are no isolines."""
    from scipy.interpolate import make_interp_spline

    ticks = np.linspace(0, 1, 120)
    x, y = np.meshgrid(wide * ticks, high * ticks, indexing="ij")
    along, length = x * np.cos(0.5) + y * np.sin(0.5), wide * np.cos(0.5) + high * np.sin(0.5)
    points = np.stack([x, y, length / waves / 8 * np.sin(2 * np.pi * waves * along / length)], axis=-1)
    one = make_interp_spline(ticks, points, 5)
    two = make_interp_spline(ticks, one.c.transpose(1, 0, 2), 5)
    return SplineSurface(one.t, two.t, two.c.transpose(1, 0, 2), 5, 5)


def test_a_sheet_in_several_waves_is_found_developable():
    """With fourteen spans its flat would seem to stretch by 0.13 %; it has no curvature of its own, so it is refined."""
    form = ruled_form([corrugated(2.0)], "waves")
    assert form.faces[0].developable and form.faces[0].flat.error < DEVELOPABLE / 5
    blank = develop(form, [1])
    x, y = np.meshgrid((np.arange(600) + 0.5) / 3, (np.arange(360) + 0.5) / 3)
    along, length = x * np.cos(0.5) + y * np.sin(0.5), 200 * np.cos(0.5) + 120 * np.sin(0.5)
    slope = np.pi / 4 * np.cos(4 * np.pi * along / length)
    assert blank.figures.area_blank == pytest.approx(np.sqrt(1 + slope**2).sum() / 9, rel=1e-5)


def test_a_face_that_no_flat_comes_near_is_given_up(monkeypatch):
    """Between two screws of unlike pitch the flat runs wild at every fineness, which took 40 s."""
    surface = between(
        lambda t: np.stack([60 * np.cos(7 * t), 60 * np.sin(7 * t), 40 * t], axis=1),
        lambda t: np.stack([60 * np.cos(9 * t + 2), 60 * np.sin(9 * t + 2), 40 * t + 30], axis=1),
    )
    asked = []
    fitted = fitting._fitted
    monkeypatch.setattr(fitting, "_fitted", lambda *given: asked.append(given[3]) or fitted(*given))
    assert fitted_flat(surface, BOX).error > fitting.WILD and asked == [4, 7]


def test_unrolling_along_isolines_is_the_cylinders_own_flat():
    """Distances on the flat (60 angle, z) between far corners and along the sides; it is where fitting starts."""
    ticks = np.linspace(0.02, 0.98, 49)
    flat = _unrolled(askew_cylinder(), np.column_stack([ticks, ticks]))
    u, v = np.meshgrid(ticks, ticks, indexing="ij")
    true = np.stack([60 * (1.2 * u + 0.4 * v), 80 * v + 20 * u * v], axis=-1)
    for a, b in (((0, 0), (48, 48)), ((0, 48), (48, 0)), ((0, 0), (48, 0)), ((5, 9), (40, 17))):
        assert np.linalg.norm(flat[a] - flat[b]) == pytest.approx(np.linalg.norm(true[a] - true[b]), rel=1e-5)
    assert (
        _unrolled(hypar(200.0), np.column_stack([ticks, ticks])) is None or fitted_flat(hypar(200.0), BOX).error > 0.01
    )


def test_points_on_many_curved_faces_are_looked_for_where_they_may_be(monkeypatch):
    """Thirty-six strips of a wave, each a curved face: by their boxes the same places are found as by trying every face."""

    def strip(k):
        x = lambda t: 5 * (k + t)  # noqa: E731
        wave = lambda t, y: np.stack([x(t), y + 0 * t, 12 * np.sin(x(t) / 15)], axis=1)  # noqa: E731
        return between(lambda t: wave(t, 0.0), lambda t: wave(t, 30.0), 20)

    form = ruled_form([strip(k) for k in range(36)], "wave")
    made = develop(form, range(1, 37)).correspondence
    random = np.random.default_rng(4)
    x, y = random.random((2, 60)) * [[180.0], [30.0]]
    points = np.column_stack([x, y, 12 * np.sin(x / 15) + random.choice([0.0, 0.5, 30.0], 60)])
    few = made.to_blank(points)
    monkeypatch.setattr(correspondence, "MANY", 1000)
    every = made.to_blank(points)
    assert (few.face == every.face).all() and (few.inside == every.inside).all()
    assert np.abs(few.points - every.points).max() < 1e-9 and np.abs(few.gap - every.gap).max() < 1e-9


def hypar(twist: float) -> SplineSurface:
    return between(
        lambda t: np.stack([100 * t, 0 * t, 0 * t], axis=1),
        lambda t: np.stack([100 * t, 80 + 0 * t, twist * t], axis=1),
    )


def test_a_slightly_twisted_face_is_developed_within_a_limit_and_its_error_said():
    form = ruled_form([hypar(12.0)], "twisted")
    assert not form.faces[0].developable
    with pytest.raises(CannotBeDone, match="more than the limit"):
        develop(form, [1], "exact", limit=0.01)
    blank = develop(form, [1], "exact", limit=1.0)
    assert "slightly twisted" in blank.messages[0]
    assert 0.02 < blank.figures.stretch_max < 1.0
    assert blank.figures.area_blank == pytest.approx(form.area([1]), rel=2e-3)


def test_a_doubly_curved_face_is_refused_whatever_the_limit():
    grid = np.meshgrid([-50, 0, 50], [-50, 0, 50], indexing="ij")
    height = np.array([[0, 40, 0], [40, 80, 40], [0, 40, 0]], float)
    dome = SplineSurface(np.repeat([-50.0, 50], 3), np.repeat([-50.0, 50], 3), np.stack([*grid, height], 2), 2, 2)
    with pytest.raises(CannotBeDone, match="curves both ways"):
        develop(ruled_form([dome], "dome"), [1], "exact", limit=50)


@pytest.mark.parametrize("offset", [(0, 0), (20, 10), (-60, 35)])
def test_a_transition_lies_flat_in_one_piece(offset):
    form = transition(200, 160, 120, 150, offset)
    assert [f.kind for f in form.faces].count("plane") == 5
    assert all(f.developable for f in form.faces)
    assert all(len(f.smooth) == 2 for f in form.faces)  # the ends meet smoothly at the seam, too
    blank = develop(form, range(1, 10), assembly=Assembly(cuts=(1,)))
    assert blank.figures.pieces == 1
    assert blank.figures.area_blank == pytest.approx(form.area(range(1, 10)), rel=1e-6)
    arc = [e for e in form.edges if e.curve.kind == "spline"]
    assert sum(e.length for e in arc) == pytest.approx(np.pi * 120, rel=1e-8)
    seam = form.edges[0].length
    around = np.pi * 120 + 2 * (200 + 160) + 2 * seam
    assert blank.figures.outline_length == pytest.approx(around, rel=1e-6)


def random_surface(kind: str, numbers: list[float]) -> SplineSurface:
    a, b, c, d = numbers

    def profile(t):
        return np.stack([120 * t, 25 * np.sin(3 * t + a) + 10 * b * t**2, 15 * c * np.cos(4 * t * d)], axis=1)

    if kind == "cylinder":
        direction = np.array([10 * a, 20 * b, 90.0])
        return between(profile, lambda t: profile(t) + direction)
    if kind == "cone":
        apex = np.array([60 + 40 * a, 30 * b, 200.0])
        return between(profile, lambda t: profile(t) + 0.6 * (apex - profile(t)))
    step = 1e-5

    def tangent(t):
        made = profile(t + step) - profile(t - step)
        return made / np.linalg.norm(made, axis=1, keepdims=True)

    return between(lambda t: profile(t) + 20 * tangent(t), lambda t: profile(t) + 60 * tangent(t))


@settings(max_examples=25, deadline=None)
@given(st.sampled_from(["cylinder", "cone"]), st.lists(st.floats(-1, 1), min_size=4, max_size=4))
def test_geodesics_of_random_developables_are_straight_on_the_blank(kind, numbers):
    """The shortest way over the surface, found by moving a chain of points, is as long as the line on the blank."""
    surface = random_surface(kind, numbers)
    form = ruled_form([surface], "random")
    assert form.faces[0].flat is not None and form.faces[0].flat.error <= DEVELOPABLE
    assert total_curvature(surface, BOX) < 1e-6
    ends = np.array([[0.3, 0.25], [0.55, 0.7]])
    flat = form.faces[0].flat.to_plane(ends)
    straight = float(np.linalg.norm(flat[1] - flat[0]))
    part = np.linspace(0, 1, 26)[:, None]
    start = ends[0] + part * (ends[1] - ends[0])

    def length(inner):
        path = np.vstack([ends[:1], inner.reshape(-1, 2), ends[1:]])
        fine = np.vstack([path[:-1] + s * np.diff(path, axis=0) for s in (0, 0.25, 0.5, 0.75)])
        fine = fine.reshape(4, -1, 2).transpose(1, 0, 2).reshape(-1, 2)
        return float(np.linalg.norm(np.diff(surface.evaluate(np.vstack([fine, ends[1:]])), axis=0), axis=1).sum())

    found = minimize(length, start[1:-1].ravel(), method="L-BFGS-B", options={"maxiter": 400, "maxfun": 40_000})
    assert found.fun == pytest.approx(straight, rel=2e-3)
    assert found.fun > straight * (1 - 2e-4)
