"""Panels between curves, against cases of known answer."""

from __future__ import annotations

import numpy as np
import pytest
import trimesh
from scipy.integrate import quad

from tests.meshes import form_of
from zuschnitt.core.develop.assembly import Assembly
from zuschnitt.core.develop.developing import develop
from zuschnitt.core.developable.transition import transition
from zuschnitt.core.errors import CannotBeDone, Refused, ZuschnittError
from zuschnitt.core.form.build import domed_lid, turned_body
from zuschnitt.core.form_curves.edge_runs import run_of_edges
from zuschnitt.core.form_curves.sections import level_sections, section, sections_along
from zuschnitt.core.geometry.ruled_flat import DEVELOPABLE
from zuschnitt.core.geometry.tracks import track
from zuschnitt.core.panels.panel import panel
from zuschnitt.core.panels.panels import panels

S = np.linspace(0, 1, 241)
APART = Assembly(apart=True, labelled=True)


def circle(radius, centre, start=0.0, way=1):
    angle = start + way * 2 * np.pi * S
    x, y, z = centre
    return np.stack([x + radius * np.cos(angle), y + radius * np.sin(angle), z + 0 * angle], axis=1)


def helix(along):
    angle = 2.5 * S
    point = np.stack([50 * np.cos(angle), 50 * np.sin(angle), 20 * angle], axis=1)
    tangent = np.stack([-50 * np.sin(angle), 50 * np.cos(angle), 20 + 0 * angle], axis=1) / np.hypot(50, 20)
    return point + along * tangent


def cut_of_cone(distance, nx, nz):
    """A cone about z, of half angle 0.35, its apex in the origin, cut by a plane."""
    angle = 2 * np.pi * S
    ray = np.stack([np.sin(0.35) * np.cos(angle), np.sin(0.35) * np.sin(angle), np.cos(0.35) + 0 * angle], axis=1)
    return ray * (distance / (nx * ray[:, 0] + nz * ray[:, 2]))[:, None]


def blank_of(curves, **options):
    made = panels(curves, False, "panels")
    return made, develop(made.form, [1], "exact", assembly=APART, **options)


@pytest.mark.parametrize("start, way", [(0.0, 1), (1.0, 1), (2.0, -1)])
def test_two_parallel_circles_span_an_oblique_cone(start, way):
    """Its area is that between two circles seen from the apex, which is where their common tangents meet."""
    made, blank = blank_of([circle(80, (0, 0, 0)), circle(40, (30, 10, 100), start, way)])
    apex = np.array([60.0, 20, 200])  # the circles are in the ratio 2 to 1

    def strip(angle):
        rim = np.array([80 * np.cos(angle), 80 * np.sin(angle), 0.0]) - apex
        return np.linalg.norm(np.cross(rim, [-80 * np.sin(angle), 80 * np.cos(angle), 0.0])) / 2

    area = quad(strip, 0, 2 * np.pi)[0] * (1 - 0.25)
    assert blank.figures.area_blank == pytest.approx(area, rel=1e-6)
    assert made.panels[0].turned == (way < 0)
    assert made.panels[0].error < 1e-8 and made.panels[0].twist < 0.01
    # every ruling passes through the apex
    ends = made.panels[0].surface.evaluate(np.array([[t, v] for t in np.linspace(0.02, 0.98, 25) for v in (0, 1.0)]))
    a, b = ends[0::2], ends[1::2]
    off = np.linalg.norm(np.cross(b - a, apex - a), axis=1) / np.linalg.norm(b - a, axis=1)
    assert off.max() < 1e-4


def test_a_cone_cut_by_two_inclined_planes():
    made, blank = blank_of([cut_of_cone(100, 0.4, 1), cut_of_cone(200, -0.3, 1)])
    assert made.panels[0].error < 1e-8

    def strip(angle):
        ray = np.array([np.sin(0.35) * np.cos(angle), 0, np.cos(0.35)])
        near, far = 100 / (0.4 * ray[0] + ray[2]), 200 / (-0.3 * ray[0] + ray[2])
        return (far**2 - near**2) / 2 * np.sin(0.35)

    assert blank.figures.area_blank == pytest.approx(quad(strip, 0, 2 * np.pi)[0], rel=1e-6)


@pytest.mark.parametrize("turned", [False, True])
def test_the_tangent_surface_of_a_helix_between_two_of_its_curves(turned):
    second = helix(80)[::-1] if turned else helix(80)
    made, blank = blank_of([helix(20), second])
    radius, length = (50**2 + 20**2) / 50, 2.5 * np.hypot(50, 20)
    assert blank.figures.area_blank == pytest.approx(length / radius * (80**2 - 20**2) / 2, rel=1e-6)
    assert made.panels[0].turned == turned
    assert any("other way" in message for message in made.form.messages) == turned


def test_a_square_and_a_circle_span_triangles_and_cones():
    square = np.array([[-100, -80, 0], [100, -80, 0], [100, 80, 0], [-100, 80, 0], [-100, -80, 0]], float)
    _, blank = blank_of([square, circle(60, (20, 10, 150))])
    exact = transition(200, 160, 120, 150, (20, 10))
    assert blank.figures.area_blank == pytest.approx(exact.area(range(1, 10)), rel=1e-6)
    assert blank.figures.round_trip_max < 1e-6


WAVE = np.stack([100 * S, 10 * np.sin(6 * S), 20 * np.sin(3 * S)], axis=1)
OTHER = np.stack([100 * S, 60 + 15 * S, 15 * np.cos(4 * S)], axis=1)


@pytest.mark.parametrize(
    "first, second",
    [
        (WAVE, OTHER),
        (np.array([[0, 0, 0], [100, 0, 0.0]]), np.array([[0, 80, 0], [100, 80, 60.0]])),
    ],
    ids=["waves", "skew lines"],
)
def test_where_there_is_no_developable_it_is_said_and_the_nearest_offered(first, second):
    through = panels([first, second], False, "x")
    assert through.panels[0].error > DEVELOPABLE
    assert "no developable panel" in through.form.messages[0]
    nearest = panels([first, second], True, "x")
    (found,) = nearest.panels
    assert found.error <= DEVELOPABLE and found.gap > 0.1
    assert f"by up to {found.gap:.2f} mm" in nearest.form.messages[0]
    assert nearest.form.faces[0].developable
    # it begins on the first curve, and its far edge is as far off the second as it says
    edge = found.surface.evaluate(np.column_stack([np.linspace(0, 1, 200), np.ones(200)]))
    dense = track(second).at(np.linspace(0, 1, 4001))
    gaps = np.linalg.norm(edge[:, None] - dense[None], axis=2).min(axis=1)
    assert gaps.max() == pytest.approx(found.gap, rel=0.05)


@pytest.mark.parametrize(
    "curves", [(WAVE, OTHER), (helix(20), helix(80)), (circle(80, (0, 0, 0)), circle(40, (30, 10, 90)))]
)
def test_rulings_do_not_cross(curves):
    found = panel(*(track(c) for c in curves))
    assert found.twist < 60
    t = np.linspace(0.001, 0.999, 400)
    normals = [found.surface.normals(np.column_stack([t, np.full(400, v)])) for v in (0.05, 0.5, 0.95)]
    assert (np.einsum("ij,ij->i", normals[0], normals[1]) > 0.5).all()
    assert (np.einsum("ij,ij->i", normals[1], normals[2]) > 0.5).all()


@pytest.mark.parametrize(
    ("curves", "why"),
    [
        ([WAVE], "two curves"),
        ([WAVE, WAVE], "one and the same"),
        ([WAVE, WAVE[:1]], "single point"),
        ([WAVE, circle(10, (0, 0, 50))], "closed and the other is open"),
        ([WAVE, WAVE * np.nan], "finite"),
    ],
)
def test_curves_that_span_nothing_are_refused(curves, why):
    with pytest.raises((Refused, CannotBeDone), match=why):
        panels(curves, False, "x")


def test_a_curve_with_a_cusp_is_a_corner_like_any_other():
    cusp = np.stack([np.abs(S - 0.5) * 60 + 60 * S, 60 + 0 * S, 40 * np.abs(S - 0.5)], axis=1)
    made = panels([np.array([[0, 0, 0], [60.0, 0, 0]]), cusp], False, "x")
    assert np.isfinite(made.panels[0].error)


# --- sections ------------------------------------------------------------------------------------


def test_a_section_lies_on_the_form_and_in_its_plane():
    lid = domed_lid(240, 180, 40, 40, 0)
    (curve,) = section(lid, np.array([0, 0, 1.0]), 25.0)
    x, y, z = curve.T
    assert np.abs(z - 25).max() < 1e-9
    assert np.abs(40 - 20 * (x / 120) ** 2 - 20 * (y / 90) ** 2 - 25).max() < 1e-6
    assert np.linalg.norm(curve[0] - curve[-1]) < 1e-9


def test_sections_run_over_several_faces():
    body = turned_body([(60, 0), (200, 420), (200, 640)])
    (curve, *more) = section(body, np.array([1.0, 0, 0]), 20.0)
    assert len(more) == 1  # front and back
    assert curve[:, 2].min() < 1 and curve[:, 2].max() > 639


def test_a_lid_in_panels_with_marks_where_they_join():
    lid = domed_lid(240, 180, 40, 40, 0)
    made = panels(level_sections(lid, np.array([0, 1.0, 0]), 4), False, "awning")
    assert not made.form.messages and len(made.panels) == 4
    assert max(p.error for p in made.panels) <= DEVELOPABLE
    blank = develop(made.form, range(1, 5), assembly=APART)
    assert blank.figures.pieces == 4 and blank.way == "exact"
    written = [mark for mark in blank.marks if mark.name in ("A", "B", "C", "D")]
    for number, name in enumerate("ABCD", 1):  # letters follow the panels
        ring = next(mark.points for mark in written if mark.name == name)
        assert blank.correspondence.to_form(ring.mean(axis=0)).face[0] == number
    ticks = [mark for mark in blank.marks if mark.layer == "MARK"]
    assert len(ticks) == 2 * 3 * 3  # both sides of three joins, three stations each
    for match in made.form.matches:
        both = [blank.correspondence.to_blank(match.point[None], [face]) for face in match.faces]
        assert all(found.gap[0] < 0.02 for found in both)


WAY = np.array([[-90, 40.0, 0], [-40, 10, 0], [10, 0, 0], [85, -30, 0]])


def test_free_sections_run_square_to_the_way_through_their_points():
    lid = domed_lid(240, 180, 40, 40, 0)
    way = WAY + [[0, 0, 40 - 20 * (x / 120) ** 2 - 20 * (y / 90) ** 2] for x, y, _ in WAY]
    curves = sections_along(lid, way)
    for k, curve in enumerate(curves):
        near = np.linalg.norm(curve - way[k], axis=1).min()
        assert near < 4  # as dense as it is
        before, after = way[max(k - 1, 0)], way[min(k + 1, len(way) - 1)]
        normal = np.linalg.svd(curve - curve.mean(axis=0))[2][2]
        assert np.abs((curve - curve[0]) @ normal).max() < 1e-6
        units = [v / np.linalg.norm(v) for v in (way[k] - before, after - way[k]) if np.linalg.norm(v) > 0]
        along = sum(units) / np.linalg.norm(sum(units))
        assert abs(normal @ along) == pytest.approx(1, abs=1e-9)
        x, y, z = curve.T
        assert np.abs(40 - 20 * (x / 120) ** 2 - 20 * (y / 90) ** 2 - z).max() < 1e-6
    made = panels(curves, False, "free")
    assert len(made.panels) == 3 and len(made.form.matches) == 6
    assert develop(made.form, range(1, 4), assembly=APART, way="exact", limit=5.0).figures.pieces == 3


def test_fanned_sections_of_a_cone_give_back_the_cone():
    """Planes that fan out over a cone: each panel is a part of the cone, exactly."""
    body = turned_body([(60, 0), (200, 420)])
    way = [[60 + z / 3, 0, z] for z in (30.0, 100, 170)] + [[135 * np.cos(0.1), 135 * np.sin(0.1), 225.0]]
    made = panels(sections_along(body, np.array(way)), False, "fan")
    assert max(p.error for p in made.panels) < 1e-5
    for p in made.panels:
        x, y, z = p.surface.evaluate(np.random.default_rng(1).random((40, 2))).T
        assert np.abs(np.hypot(x, y) - 60 - z / 3).max() < 0.01


@pytest.mark.parametrize(
    "way, why",
    [
        ([[0, 0, 40.0]], "two points"),
        ([[0, 0, 40.0], [0, 0, 40.0]], "place of its own"),
        ([[0, 0, 40.0], [50, 0, 36], [0, 0, 40]], "turns back"),
        ([[0, 0, 40.0], [900, 0, 0]], "point 2 does not cut"),
    ],
)
def test_ways_that_give_no_sections_are_refused(way, why):
    with pytest.raises(ZuschnittError, match=why):
        sections_along(domed_lid(240, 180, 40, 40, 0), np.array(way))


# --- edges ---------------------------------------------------------------------------------------


def test_edges_in_a_run_become_one_curve():
    lid = domed_lid(240, 180, 40, 40, 0)
    curve = run_of_edges(lid, [3, 1, 2])
    expected = sum(lid.edges[k].length for k in (0, 1, 2))
    assert np.linalg.norm(np.diff(curve, axis=0), axis=1).sum() == pytest.approx(expected, rel=1e-4)
    with pytest.raises(Refused, match="do not hang together"):
        run_of_edges(lid, [1, 5])


@pytest.mark.parametrize("way", [1, -1])
def test_a_line_and_a_quarter_arc_parallel_to_it_at_its_end_span_a_triangle_and_a_cone(way):
    """The usual corner of a transition: the walk stands still on the arc's beginning, then on the line's end."""
    angle = np.linspace(0, np.pi / 2, 60)
    arc = np.stack([60 * np.cos(angle), 60 * np.sin(angle), 0 * angle], axis=1)
    line = np.array([[70.0, 0, 80], [70, 60, 80]])
    made = panels([arc[::way], line[::way]], False, "corner")
    (found,) = made.panels
    assert found.error < 1e-8 and found.gap == 0 and not made.form.messages
    # the triangle from the arc's beginning, and the cone from the line's end, by a fine fan
    triangle = np.linalg.norm(np.cross(line[1] - line[0], arc[0] - line[0])) / 2
    fine = np.linspace(0, np.pi / 2, 20_001)
    rim = np.stack([60 * np.cos(fine), 60 * np.sin(fine), 0 * fine], axis=1) - line[1]
    cone = np.linalg.norm(np.cross(rim[:-1], rim[1:]), axis=1).sum() / 2
    assert made.form.faces[0].area == pytest.approx(triangle + cone, rel=1e-5)


def test_sections_say_what_they_leave_open_at_a_tip(form):
    from zuschnitt.core.form_curves.sections import left_open, level_sections

    up = np.array([0.0, 0, 1])
    dome, tube = form("dome"), turned_body([(50, 0), (50, 120)])
    (said,) = left_open(dome, up, level_sections(dome, up, 4))
    assert "The last section" in said and "stays open" in said
    assert left_open(tube, up, level_sections(tube, up, 4)) == ()


@pytest.mark.parametrize("height", [0.5, 5.0, 60.0])
def test_like_ellipses_over_each_other_span_a_cone_however_flat_it_is(height):
    """Run against each other they would bend even less where it is flat: a disc laid twice."""
    t = np.linspace(0, 2 * np.pi, 241)
    lower = np.stack([116 * np.cos(t), 87 * np.sin(t), 0 * t], axis=1)
    upper = np.stack([104 * np.cos(t + 0.3), 78 * np.sin(t + 0.3), height + 0 * t], axis=1)
    for curve in (lower, upper):
        curve[-1] = curve[0]
    made = panels([lower, upper], False, "cone").panels[0]
    assert made.error < 1e-9 and made.twist < 1e-3 and made.gap == 0


ROUND = {
    "ball": (trimesh.creation.icosphere(4, 80), (0, 0, 1), 4),
    "flat": (trimesh.creation.icosphere(4, 1.0).apply_transform(np.diag([120, 90, 20, 1])), (0, 0, 1), 5),
    "askew": (trimesh.creation.icosphere(4, 1.0).apply_transform(np.diag([100, 70, 60, 1])), (1, 0.2, 0), 5),
    "tube": (trimesh.creation.cylinder(40, 100, sections=48), (0, 0, 1), 2),
    "box": (trimesh.creation.box((100, 60, 40)).subdivide(), (0, 0, 1), 2),
}


@pytest.mark.parametrize("name", ROUND)
def test_panels_through_sections_of_meshes_are_developable(name):
    """A plane cuts triangles at random places; the sections are as smooth as the surface all the same."""
    mesh, normal, count = ROUND[name]
    sections = level_sections(form_of(mesh), np.array(normal, float), count)
    assert max(made.error for made in panels(sections, False, name).panels) < 1e-4


@pytest.mark.parametrize("count", [3, 6])
def test_sections_of_a_mesh_keep_to_it_and_to_its_corners(count):
    box = level_sections(form_of(ROUND["box"][0]), np.array([0, 0, 1.0]), count)
    for curve in box:
        for corner in ((50, 30), (-50, 30), (-50, -30), (50, -30)):
            assert np.linalg.norm(curve[:, :2] - corner, axis=1).min() < 1e-9
        assert np.linalg.norm(np.diff(curve, axis=0), axis=1).sum() == pytest.approx(320)
    for curve in level_sections(form_of(ROUND["ball"][0]), np.array([0, 0, 1.0]), count)[1:-1]:
        longest = ROUND["ball"][0].edges_unique_length.max()
        assert np.abs(np.linalg.norm(curve, axis=1) - 80).max() < longest**2 / 80 / 2  # off a chord over two edges
