"""Relaxed developments against closed forms, an independent energy, and what must never happen."""

from __future__ import annotations

import numpy as np
import pytest
import trimesh
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.optimize import minimize
from scipy.spatial import Delaunay

from tests.outlines import pieces_of
from zuschnitt.core.develop.assembly import Assembly
from zuschnitt.core.develop.developing import develop
from zuschnitt.core.develop.placing import Hold
from zuschnitt.core.errors import CannotBeDone, Refused
from zuschnitt.core.flatten.coarse_start import turned_by_cells
from zuschnitt.core.flatten.metric import Metric, singular_values
from zuschnitt.core.flatten.newton import STUCK_AFTER
from zuschnitt.core.flatten.pinned import Pinned
from zuschnitt.core.flatten.relaxed import SLOW, relax
from zuschnitt.core.flatten.starts import conformal, on_circle
from zuschnitt.core.form.build import domed_lid, turned_body
from zuschnitt.core.mesh.triangles import TriangleFinder, boundary_rings, signed_double_areas


def sheet(height, count=24, size=100.0):
    """A square sheet of triangles with z = height(x, y)."""
    x, y = np.meshgrid(np.linspace(0, size, count), np.linspace(0, size, count), indexing="ij")
    flat = np.stack([x.ravel(), y.ravel()], axis=1)
    triangles = Delaunay(flat + 1e-7 * np.random.default_rng(1).random(flat.shape)).simplices
    double = signed_double_areas(flat, triangles)
    triangles = triangles[np.abs(double) > 1e-3]
    double = double[np.abs(double) > 1e-3]
    triangles[double < 0] = triangles[double < 0][:, ::-1]
    return np.column_stack([flat, height(flat[:, 0], flat[:, 1])]), triangles


def energy_by_svd(points_form, triangles, points_blank):
    """The isometric energy by NumPy's own singular values, triangle by triangle."""
    total = 0.0
    for t in triangles:
        a, b, c = points_form[t]
        x = (b - a) / np.linalg.norm(b - a)
        y = np.cross(np.cross(b - a, c - a), x)
        y /= np.linalg.norm(y)
        flat = np.array([[(b - a) @ x, (c - a) @ x], [(b - a) @ y, (c - a) @ y]])
        p, q, r = points_blank[t]
        s = np.linalg.svd(np.stack([q - p, r - p], axis=1) @ np.linalg.inv(flat), compute_uv=False)
        total += np.linalg.norm(np.cross(b - a, c - a)) / 2 * ((s - 1) ** 2).sum()
    return total


def test_the_energy_is_that_of_the_singular_values():
    points, triangles = sheet(lambda x, y: 0.004 * x * y)
    result = relax(points, triangles)
    assert result.energy == pytest.approx(energy_by_svd(points, triangles, result.points_blank), rel=1e-9)


def test_nothing_nearby_is_better():
    """At rest, random small changes only add energy."""
    points, triangles = sheet(lambda x, y: 12 * np.sin(x / 40) * np.cos(y / 30))
    result = relax(points, triangles, converged=1e-12)
    metric = Metric.of(points, triangles)
    rng = np.random.default_rng(4)
    for size in (1e-3, 1e-2, 1e-1):
        for _ in range(5):
            other = result.points_blank + size * rng.normal(size=result.points_blank.shape)
            assert metric.energy(other) > result.energy * (1 - 1e-9)


@pytest.mark.parametrize(
    "height", [lambda x, y: 30 * np.sin(x / 30) * np.cos(y / 25), lambda x, y: 0.012 * (x - 50) * (y - 50)]
)
def test_the_energy_is_within_a_hundredth_of_the_least_another_minimiser_finds(height):
    """Quasi-Newton steps on the energy itself, from our rest and from three other starts."""
    points, triangles = sheet(height, count=18)
    metric = Metric.of(points, triangles)

    def cost(z):
        flat = z.reshape(-1, 2)
        u, s, v = np.linalg.svd(metric.jacobians(flat))
        gap = metric.areas[:, None, None] * (metric.jacobians(flat) - u @ v)
        slope = metric.gradient.T @ gap.transpose(0, 2, 1).reshape(-1, 2)
        return float((metric.areas * ((s - 1) ** 2).sum(axis=1)).sum()), 2 * slope.ravel()

    ours = relax(points, triangles)
    random = np.random.default_rng(3)
    starts = [ours.points_blank, points[:, :2], *(points[:, :2] + random.normal(0, 0.5, (2, len(points), 2)))]
    least = min(minimize(cost, s.ravel(), jac=True, method="L-BFGS-B", options={"maxiter": 3000}).fun for s in starts)
    assert ours.energy <= 1.01 * least


def collar(count):
    """A waisted collar round 250 degrees: from no side can all of it be seen."""
    points, triangles = sheet(lambda x, y: 0 * x, count)
    x, y = points[:, 0] / 50 - 1, points[:, 1] / 50 - 1
    angle, radius = np.radians(125) * x, 50 + 8 * y**2
    return np.stack([radius * np.sin(angle), 60 * y, -radius * np.cos(angle)], axis=1), triangles[:, ::-1]


def test_a_coarse_mesh_gives_a_start_near_to_where_it_rests():
    points, triangles = collar(90)
    metric = Metric.of(points, triangles)
    factor = Pinned.of(metric.laplacian())
    start = turned_by_cells(points, triangles, metric, factor, lambda p, t: relax(p, t).points_blank)
    assert start is not None and (signed_double_areas(start, triangles) > 0).all()
    rest = relax(points, triangles, start=start)
    assert metric.energy(start) < 1.5 * rest.energy
    assert rest.energy == pytest.approx(relax(points, triangles).energy, rel=1e-3)


def test_no_coarse_mesh_is_made_of_what_is_no_disc():
    ring = trimesh.creation.torus(50, 20, major_sections=60, minor_sections=40)
    points, triangles = np.asarray(ring.vertices), np.asarray(ring.faces)
    metric = Metric.of(points, triangles)
    assert turned_by_cells(points, triangles, metric, Pinned.of(metric.laplacian()), lambda p, t: p[:, :2]) is None


def test_a_developable_sheet_keeps_all_lengths():
    """A sheet bent to a cylinder comes out flat, with its own corners at their distances."""
    points, triangles = sheet(lambda x, y: 0 * x)
    bent = np.stack([60 * np.sin(points[:, 0] / 60), points[:, 1], 60 * np.cos(points[:, 0] / 60)], axis=1)
    blank = relax(bent, triangles, converged=1e-12).points_blank
    for i, j in ((0, -1), (23, -24), (0, 23)):
        chord = np.linalg.norm(points[i] - points[j])
        assert np.linalg.norm(blank[i] - blank[j]) == pytest.approx(chord, rel=2e-3)


@settings(max_examples=15, deadline=None)
@given(st.floats(-60, 60), st.floats(-60, 60), st.floats(5, 60))
def test_no_triangle_ever_flips(bump, saddle, width):
    points, triangles = sheet(
        lambda x, y: bump * np.exp(-((x - 50) ** 2 + (y - 50) ** 2) / width**2) + saddle * (x - 50) * (y - 50) / 2500,
        count=16,
    )
    blank = relax(points, triangles).points_blank
    assert (signed_double_areas(blank, triangles) > 0).all()


def test_the_conformal_start_keeps_angles_on_a_developable_sheet():
    points, triangles = sheet(lambda x, y: 0 * x)
    bent = np.stack([80 * np.sin(points[:, 0] / 80), points[:, 1], 80 * np.cos(points[:, 0] / 80)], axis=1)
    metric = Metric.of(bent, triangles)
    s = singular_values(metric.jacobians(conformal(metric, metric.laplacian())))
    assert np.abs(s[:, 0] / s[:, 1] - 1).max() < 0.01


def test_the_circle_never_folds_even_with_a_hole():
    points, triangles = sheet(lambda x, y: 40 * np.sin(x / 9) * np.sin(y / 7), count=20)
    middle = points[triangles].mean(axis=1)[:, :2]
    triangles = triangles[np.hypot(*(middle - 50).T) > 22]
    used, renumbered = np.unique(triangles, return_inverse=True)
    points, triangles = points[used], renumbered.reshape(-1, 3)
    assert len(boundary_rings(triangles)) == 2
    assert (signed_double_areas(on_circle(points, triangles), triangles) > 0).all()
    assert (signed_double_areas(relax(points, triangles).points_blank, triangles) > 0).all()


def test_relaxing_a_cone_gives_its_sector():
    """The relaxed way, on a face that has an exact flat, comes to the same area and outline."""
    body = turned_body([(60, 0), (200, 420)])
    exact, relaxed = develop(body, [1]), develop(body, [1], "relaxed")
    assert relaxed.figures.area_blank == pytest.approx(exact.figures.area_blank, rel=3e-4)
    assert relaxed.figures.outline_length == pytest.approx(exact.figures.outline_length, rel=3e-4)
    assert abs(relaxed.figures.stretch_max) < 0.2


def test_the_lid_of_200_mm_goes_there_and_back():
    """The accuracy that is promised with the default triangle size."""
    lid = domed_lid(200, 150, 30, 35, 40)
    blank = develop(lid, [1])
    assert blank.way == "relaxed" and blank.figures.flipped == 0
    assert blank.figures.round_trip_max < 0.005
    rng = np.random.default_rng(6)
    points = rng.uniform(blank.bounds[:2], blank.bounds[2:], (4000, 2))
    on_form = blank.correspondence.to_form(points)
    surface = lid.faces[0].surface
    x, y, z = on_form.points[on_form.inside].T
    assert on_form.inside.sum() > 2000
    assert np.abs(z - (30 - 15 * (x / 100) ** 2 - 15 * (y / 75) ** 2)).max() < 1e-9  # its equation
    points = on_form.points[on_form.inside]
    assert np.abs(surface.evaluate(surface.project(points)) - points).max() < 1e-6


def test_stretch_is_what_a_small_circle_does():
    """The stretch of a triangle agrees with small steps carried from the blank to the form."""
    blank = develop(domed_lid(200, 150, 30, 35, 40), [1])
    mesh = blank.mesh
    middle = mesh.points_blank[mesh.triangles].mean(axis=1)
    angle = np.linspace(0, np.pi, 24, endpoint=False)
    step = 0.05 * np.stack([np.cos(angle), np.sin(angle)], axis=1)
    for t in range(0, len(middle), 997):
        there = blank.correspondence.to_form(middle[t] + step).points
        back = blank.correspondence.to_form(middle[t] - step).points
        grown = np.linalg.norm(there - back, axis=1) / 0.1 - 1
        assert grown.max() == pytest.approx(mesh.stretch[t, 0], abs=2e-3)
        assert grown.min() == pytest.approx(mesh.stretch[t, 1], abs=2e-3)


def test_finer_triangles_come_closer():
    lid = domed_lid(200, 150, 30, 35, 40)
    areas = [develop(lid, [1], edge_length=h).figures.area_blank for h in (16, 8, 4, 2)]
    steps = np.abs(np.diff(areas))
    assert steps[0] > steps[1] > steps[2]


def test_several_faces_are_relaxed_as_one_sheet(form):
    bend = form("bend")
    relaxed, exact = develop(bend, [1, 2, 3], "relaxed"), develop(bend, [1, 2, 3])
    assert relaxed.figures.pieces == 1
    assert relaxed.figures.area_blank == pytest.approx(exact.figures.area_blank, rel=2e-4)
    assert relaxed.figures.outline_length == pytest.approx(exact.figures.outline_length, rel=2e-4)


@pytest.mark.parametrize("name", ["quarter_dome", "vase", "wave"])
def test_every_kind_of_open_face_can_be_relaxed(form, name):
    part = form(name)
    number = next((f.number for f in part.faces if not f.developable), 1)
    blank = develop(part, [number], "relaxed")
    assert blank.figures.flipped == 0 and blank.figures.round_trip_max < 0.005


def test_a_dome_with_its_pole_inside_is_relaxed_without_a_seam(form):
    dome = form("dome")
    blank = develop(dome, [next(f.number for f in dome.faces if f.kind == "sphere")])
    assert blank.figures.pieces == 1 and len(blank.outline) == 1
    assert blank.figures.stretch_max > 5 and blank.figures.stretch_min < -5
    assert blank.figures.round_trip_max < 0.005


def test_a_ball_is_cut_along_a_meridian_and_so_many_more_as_are_drawn(form):
    ball = form("ball")
    whole = develop(ball, [1])
    assert whole.figures.pieces == 1 and whole.figures.flipped == 0
    assert whole.figures.round_trip_max < 1e-6
    assert "were cut open along 157 mm" in whole.messages[0]  # pole to pole, half the circumference
    assert "would have to give" in whole.messages[1]
    v = np.radians(np.linspace(-90, 90, 91))
    meridians = tuple(
        50 * np.stack([np.cos(v) * np.cos(a), np.cos(v) * np.sin(a), np.sin(v)], axis=1)
        for a in 2 * np.pi * np.arange(1, 8) / 8
    )
    gores = develop(ball, [1], assembly=Assembly(reliefs=meridians))
    assert gores.figures.pieces == 8 and len(gores.messages) == 1  # the seam is said
    assert gores.figures.area_blank == pytest.approx(4 * np.pi * 50**2, rel=2e-3)
    # half the circumference along its middle, and an eighth of it across: what any ball maker's gore has
    boxes = [np.array(p.minimum_rotated_rectangle.exterior.coords) for p in pieces_of(gores.outline)]
    sizes = [np.linalg.norm(np.diff(box[:3], axis=0), axis=1) for box in boxes]
    assert np.sort(sizes, axis=1) == pytest.approx(np.tile([100 * np.pi / 8, 50 * np.pi], (8, 1)), rel=0.03)


def test_the_seam_of_a_ball_runs_through_the_hold_point(form):
    ball = form("ball")
    hold = Hold(np.array([0.0, 50.0, 0.0]))
    blank = develop(ball, [1], hold=hold)
    (seam,) = blank.seams_form
    assert np.abs(seam[:, 0]).max() < 1e-6 and seam[:, 1].max() == pytest.approx(50)


def test_a_torus_is_opened_both_ways_round(form):
    ring = develop(form("ring"), [1])
    assert ring.figures.pieces == 1 and len(ring.outline) == 1 and ring.figures.flipped == 0
    assert ring.figures.round_trip_max < 1e-6
    torus = ring.correspondence.leaves[0].chart.surface
    waist = max(ring.seams_form, key=lambda seam: np.ptp(seam, axis=0).max())
    radii = np.linalg.norm((waist - torus.frame.origin) @ torus.frame.axes[:2].T, axis=1)
    assert radii == pytest.approx(torus.ring - torus.radius)  # where it stretches least
    assert ring.figures.stretch_max < 60
    assert any("were cut open along" in message for message in ring.messages)
    assert any("would have to give" in message for message in ring.messages)


@pytest.mark.parametrize("name", ["rounded", "dome"])
def test_closed_bodies_are_cut_open_and_it_is_said(form, name):
    """Faces that close on themselves get seams: enough of them for a disc, and no triangle is flipped."""
    body = form(name)
    blank = develop(body, [f.number for f in body.faces], "relaxed")
    assert "were cut open along" in blank.messages[0]
    assert blank.figures.pieces == 1 and blank.figures.flipped == 0
    assert blank.figures.round_trip_max < 1e-6
    seam = float(blank.messages[0].split("along ")[1].split(" mm")[0])
    sides = [np.linalg.norm(np.diff(s.points, axis=0), axis=1).sum() for s in blank.sides if s.label.startswith("r")]
    assert 0 < seam < 20 * body.size and len(sides) >= 2


@pytest.mark.parametrize("size, why", [(0.0, "above 0"), (-3.0, "above 0"), (np.inf, "above 0")])
def test_bad_triangle_sizes_are_refused(size, why):
    with pytest.raises(Refused, match=why):
        develop(domed_lid(200, 150, 30, 35, 40), [1], edge_length=size)


def test_far_too_many_triangles_are_refused_with_a_number():
    with pytest.raises(CannotBeDone, match="2,000,000"):
        develop(domed_lid(200, 150, 30, 35, 40), [1], edge_length=0.05)


def test_the_finder_agrees_with_scipy():
    rng = np.random.default_rng(8)
    points = rng.random((400, 2)) * 100
    delaunay = Delaunay(points)
    asked = rng.random((3000, 2)) * 120 - 10
    found, weights, inside = TriangleFinder(points, delaunay.simplices).find(asked)
    expected = delaunay.find_simplex(asked)
    assert (inside == (expected >= 0)).all()
    assert (found[inside] == expected[inside]).mean() > 0.999
    at = np.einsum("nk,nkd->nd", weights, points[delaunay.simplices[found]])
    assert np.abs(at - asked).max() < 1e-6


def test_the_factor_stays_sparse_whatever_way_the_points_are_numbered():
    """On the numbering of subdivided balls minimum degree alone filled five times as much, and took minutes."""
    ball = trimesh.creation.icosphere(5, 50)
    ball.update_faces(ball.triangles_center[:, 2] > 10)
    ball.remove_unreferenced_vertices()
    laplacian = Metric.of(np.asarray(ball.vertices), np.asarray(ball.faces)).laplacian()
    pinned = Pinned.of(laplacian)
    assert pinned.free.factor.nnz < 100 * laplacian.shape[0]
    right = np.random.default_rng(1).normal(size=(laplacian.shape[0], 2))
    right -= right.mean(axis=0)
    assert np.abs(laplacian @ pinned.solve(right) - right).max() < 1e-9
    assert sorted(pinned.order.tolist()) == list(range(laplacian.shape[0]))


def test_what_nobody_can_make_is_not_polished():
    """A sheet crumpled to many times its size: it says that it has not arrived, after few steps."""
    random = np.random.default_rng(3)
    x, y = (v.ravel().astype(float) for v in np.meshgrid(np.arange(24), np.arange(24)))
    points = np.column_stack([x, y, 40 * random.random(len(x)) ** 8])
    cells = np.arange(24 * 23).reshape(23, 24)[:, :-1].ravel()
    triangles = np.vstack(
        [np.column_stack([cells, cells + 1, cells + 25]), np.column_stack([cells, cells + 25, cells + 24])]
    )
    made = relax(points, triangles)
    assert not made.arrived and made.steps <= SLOW
    assert (signed_double_areas(made.points_blank, triangles) > 0).all()


def test_a_sheet_that_presses_on_triangles_that_lie_flat_is_given_up():
    """A closed form with one small hole: each Newton step promises much and gains nothing, and 120 took a minute."""
    capsule = trimesh.creation.capsule(40, 15, count=[8, 8])
    open_one = trimesh.Trimesh(capsule.vertices, capsule.faces[2:], process=False).subdivide().subdivide()
    made = relax(np.asarray(open_one.vertices), np.asarray(open_one.faces))
    assert not made.arrived and made.steps <= SLOW + 2 * STUCK_AFTER
    assert (signed_double_areas(made.points_blank, np.asarray(open_one.faces)) > 0).all()
