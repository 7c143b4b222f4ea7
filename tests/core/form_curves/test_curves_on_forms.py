"""Curves taken from a form: its edges, its sections, at a distance along its surface; against closed forms."""

from __future__ import annotations

import numpy as np
import pytest
import shapely
from scipy.spatial import cKDTree

from zuschnitt.core.errors import CannotBeDone, Refused
from zuschnitt.core.form.build import domed_lid, turned_body
from zuschnitt.core.form_curves.edge_curves import edge_chains, running_on
from zuschnitt.core.form_curves.offset_curves import beside, beside_edges
from zuschnitt.core.form_curves.plane_curves import plane_curves
from zuschnitt.core.job.evaluate import run_all
from zuschnitt.core.job.route import Job

TUBE = turned_body([(50, 0), (50, 100)])
BODY = turned_body([(50, 0), (50, 100), (20, 160)])


def rims(form, z):
    """The numbers of the edges at that height."""
    return [edge.number for edge in form.edges if np.abs(edge.points(0.1)[:, 2] - z).max() < 1e-9]


# --- beside ---------------------------------------------------------------------------------------


@pytest.mark.parametrize("distance", [3.0, 30.0])
@pytest.mark.parametrize("angle", [20.0, 70.0])
def test_beside_a_helix_on_a_tube_runs_the_helix_that_is_parallel_on_the_flat(distance, angle):
    a = np.radians(angle)
    s = np.linspace(0, 60, 200)
    flat = np.column_stack([s * np.cos(a), 30 + s * np.sin(a) / 2])
    way = np.array([np.cos(a), np.sin(a) / 2]) / np.hypot(np.cos(a), np.sin(a) / 2)
    across = np.array([-way[1], way[0]])

    def on_tube(uv):
        return np.column_stack([50 * np.cos(uv[:, 0] / 50), 50 * np.sin(uv[:, 0] / 50), uv[:, 1]])

    east = np.column_stack([-np.sin(flat[:, 0] / 50), np.cos(flat[:, 0] / 50), 0 * s])
    sideways = across[0] * east + across[1] * np.array([0, 0, 1.0])
    found, inside = beside(TUBE, [1], on_tube(flat), sideways, distance)
    assert inside.all()
    assert np.abs(found - on_tube(flat + distance * across)).max() < 1e-6 * distance


def test_beside_a_meridian_of_a_ball_runs_what_great_circles_give(form):
    """From each point of the equator's half, square to it, by d: a parallel at the latitude d / r."""
    ball = form("ball")
    faces = [face.number for face in ball.faces]
    centre, radius = np.zeros(3), 50.0
    t = np.linspace(0.3, 1.2, 50)
    equator = centre + radius * np.column_stack([np.cos(t), np.sin(t), 0 * t])
    up = np.tile([0, 0, 1.0], (50, 1))
    found, inside = beside(ball, faces, equator, up, 0.7 * radius)
    wanted = centre + radius * np.column_stack(
        [np.cos(t) * np.cos(0.7), np.sin(t) * np.cos(0.7), np.full(50, np.sin(0.7))]
    )
    assert inside.all() and np.abs(found - wanted).max() < 1e-6 * radius


def test_beside_the_rims_of_a_cone_run_circles_along_its_slant():
    (chain,), missing = beside_edges(BODY, rims(BODY, 160), 20.0)
    slant = np.hypot(30, 60)
    assert not missing and chain.closed and chain.corners == ()
    assert np.hypot(*chain.points[:, :2].T) == pytest.approx(20 + 20 * 30 / slant, abs=1e-6)
    assert chain.points[:, 2] == pytest.approx(160 - 20 * 60 / slant, abs=1e-6)


def test_on_which_face_must_be_said_and_what_leaves_it_is_left_out():
    with pytest.raises(Refused, match="bounds faces 1 and 2"):
        beside_edges(BODY, rims(BODY, 100), 5.0)
    for face, z in ((1, 95.0), (2, 100 + 5 * 60 / np.hypot(30, 60))):
        (chain,), _ = beside_edges(BODY, rims(BODY, 100), 5.0, [face])
        assert chain.points[:, 2] == pytest.approx(z, abs=1e-6)
    with pytest.raises(CannotBeDone, match="no face any more"):
        beside_edges(BODY, rims(BODY, 0), 101.0)


def test_beside_an_edge_that_bends_outward_the_ends_leave_the_surface_and_are_left_out():
    """From the lid's front edge ways spread to its ends, where the surface itself is over; the middle is right."""
    lid = domed_lid(240, 150, 50, 0, 40)
    front = next(edge.number for edge in lid.edges if np.abs(edge.points(0.1)[:, 1] + 75).max() < 1e-9)
    (chain,), missing = beside_edges(lid, [front], 12.0)
    assert missing and chain.points[:, 0].min() > -120 and chain.points[:, 0].max() < 120
    x, y, z = chain.points.T
    assert np.abs(z - (50 - 25 * (x / 120) ** 2 - 25 * (y / 75) ** 2)).max() < 1e-9
    middle = chain.points[np.abs(x).argmin()]
    t = np.linspace(-75, middle[1], 100_001)
    assert np.hypot(np.diff(t), np.diff(25 * (t / 75) ** 2)).sum() == pytest.approx(12.0, abs=1e-6)


def bounding(form, number):
    return [edge.number for edge in form.edges if number in edge.faces]


def test_beside_edges_of_a_flat_that_meet_the_curve_is_the_outline_moved_inward(form):
    """Cut where two cross, an arc round a corner that points inward: as shapely moves a polygon."""
    ell = form("L")
    outline = shapely.Polygon([(0, 0), (80, 0), (80, 30), (30, 30), (30, 70), (0, 70)]).buffer(-4, quad_segs=400)
    ends = [f.number for f in ell.faces if len(bounding(ell, f.number)) == 6]
    assert len(ends) == 2
    for number in ends:
        (chain,), said = beside_edges(ell, bounding(ell, number), 4.0, [number])
        assert chain.closed and len(chain.corners) == 5 and said == ()
        made = shapely.Polygon(chain.points[:, :2])
        assert made.length == pytest.approx(outline.length, rel=1e-4)
        assert made.symmetric_difference(outline).area < 0.01


def test_beside_great_circles_that_meet_the_curves_cross_where_both_are_so_far_away(form):
    """On the octant of a ball of 50: where two coordinates are 50 sin(8 / 50)."""
    octant = form("octant")
    (chain,), said = beside_edges(octant, bounding(octant, 1), 8.0, [1])
    assert chain.closed and len(chain.corners) == 3 and said == ()
    for corner in chain.corners:
        assert np.sort(chain.points[corner])[:2] == pytest.approx(50 * np.sin(8 / 50), abs=1e-7)
    assert np.linalg.norm(chain.points, axis=1) == pytest.approx(50, abs=1e-8)
    assert chain.points.min() == pytest.approx(50 * np.sin(8 / 50), abs=1e-6)


@pytest.mark.parametrize("part", ["saddle", "quarter_dome", "gore", "flat_triangle"])
def test_beside_all_edges_of_a_face_runs_one_closed_curve(form, part):
    """On a saddle one side was looked for outside; of a flat with a round edge a part was lost before the corner."""
    body = form(part)
    number = body.faces[1 if part == "quarter_dome" else 0].number
    (chain,), said = beside_edges(body, bounding(body, number), 3.0, [number])
    assert chain.closed and said == ()
    t = np.linspace(0, 1, 2000)
    edges = [body.edge(n) for n in bounding(body, number)]
    around = np.vstack([edge.curve.evaluate(edge.start + t * (edge.end - edge.start)) for edge in edges])
    away = cKDTree(around).query(chain.points)[0]
    assert away.min() > 2.7 and away.max() < 3.01


def test_a_curve_that_would_turn_back_is_refused(form):
    t = np.linspace(0, np.pi, 60)
    bay = np.column_stack([8 * np.cos(t), 8 * np.sin(t), 0 * t])
    plate = form("square")
    bay = bay + [40, 25, 0]
    inward = -(bay - [40, 25, 0]) / 8
    with pytest.raises(CannotBeDone, match="turn back"):
        beside(plate, [1], bay, inward, 12.0)
    found, _ = beside(plate, [1], bay, inward, 5.0)
    assert np.linalg.norm(found - [40, 25, 0], axis=1) == pytest.approx(3.0, abs=1e-9)


# --- edges ----------------------------------------------------------------------------------------


def test_edges_are_joined_and_run_on_smoothly(form):
    bend = form("bend")
    for number in range(1, len(bend.edges) + 1):
        run = running_on(bend, [number])
        (chain,) = edge_chains(bend, run)
        assert number in run and chain.corners == ()
        lengths = sum(bend.edge(n).length for n in run)
        assert np.linalg.norm(np.diff(chain.points, axis=0), axis=1).sum() == pytest.approx(lengths, rel=1e-4)
    every = edge_chains(bend, range(1, len(bend.edges) + 1))
    assert sum(len(chain.pieces) for chain in every) == len(bend.edges)


def test_edges_round_a_face_are_one_closed_curve_with_its_corners(form):
    box = form("box")
    face = box.face(1)
    numbers = sorted({coedge.edge + 1 for loop in face.loops for coedge in loop})
    (chain,) = edge_chains(box, numbers)
    assert chain.closed and len(chain.corners) == 4 and len(chain.points) == 5


# --- planes ---------------------------------------------------------------------------------------


def test_a_plane_askew_through_a_tube_cuts_an_ellipse():
    normal = np.array([0.6, 0, 0.8])
    (chain,) = plane_curves(TUBE, [0, 0, 50], normal)
    points = chain.points
    assert chain.closed and chain.corners == ()
    assert np.abs(np.hypot(*points[:, :2].T) - 50).max() < 1e-9
    assert np.abs((points - [0, 0, 50]) @ normal).max() < 1e-9
    from scipy.special import ellipe

    a, b = 50 / 0.8, 50
    around = 4 * a * ellipe(1 - (b / a) ** 2)
    assert chained_length(chain) == pytest.approx(around, rel=1e-7)


def test_a_plane_through_the_axis_has_corners_where_faces_meet_at_an_angle():
    chains = plane_curves(BODY, [0, 0, 0], [0.3, 1.0, 0])
    assert len(chains) == 2 and all(len(chain.corners) == 1 and not chain.closed for chain in chains)
    for chain in chains:
        ends = chain.points[[0, chain.corners[0], -1]]
        assert sorted(ends[:, 2]) == pytest.approx([0, 100, 160], abs=1e-9)
        assert np.abs(chain.points @ [0.3, 1.0, 0]).max() < 1e-9
    (only,) = plane_curves(BODY, [0, 0, 130], [0, 0, 1], [2])
    assert only.closed and np.hypot(*only.points[:, :2].T) == pytest.approx(35)
    assert plane_curves(BODY, [0, 0, 130], [0, 0, 1], [1]) == []


def test_on_a_free_form_it_lies_on_the_surface_and_in_the_plane():
    lid = domed_lid(200, 150, 30, 35, 40)
    (outer, *_) = plane_curves(lid, [10, 0, 0], [1, 0.2, 0.1])
    x, y, z = outer.points.T
    assert np.abs(z - (30 - 15 * (x / 100) ** 2 - 15 * (y / 75) ** 2)).max() < 1e-9
    assert np.abs((outer.points - [10, 0, 0]) @ np.array([1, 0.2, 0.1])).max() < 1e-9


def chained_length(chain):
    from zuschnitt.core.carry.tracing import SpaceCurve

    return SpaceCurve(chain.points, "", True, chain.corners).length


# --- rows -----------------------------------------------------------------------------------------


def curves_of(job):
    states = list(run_all(job).values())
    assert [state.reason for state in states] == [""] * len(states)
    return states[-1].outcome


def test_rows_take_them_from_the_form_and_trace_them_to_the_blank():
    job = Job(thickness="1").added("turned_body", top="400", cylinder="220", cone="0").added("develop")
    part = curves_of(job.removed(job.rows[1].id)).value
    rim = max(part.edges, key=lambda edge: edge.points(1)[:, 2].min()).number
    for row, length in (
        (("copy_edges", {"edges": str(rim), "reach": "smooth"}), 400 * np.pi),
        (("plane_cut", {"square_to": "0, 0, 1"}), 400 * np.pi),
        (("beside_edges", {"edges": str(rim), "distance": "30"}), 400 * np.pi),
    ):
        made = job.added(row[0], **row[1])
        assert sum(curve.length for curve in curves_of(made).value) == pytest.approx(length, rel=1e-7)
        traced = curves_of(made.added("trace", curves=made.rows[-1].id))
        assert sum(curve.length_blank for curve in traced.value) == pytest.approx(length, rel=1e-6)


@pytest.mark.parametrize(
    ("operation", "values", "why"),
    [
        ("plane_cut", {"at": "0, 0, 9000"}, "misses"),
        ("plane_cut", {"square_to": "0, 0, 0"}, "square to some direction"),
        ("beside_edges", {"edges": "1", "distance": "9000"}, "no face any more"),
        ("copy_edges", {"edges": "99"}, "99"),
    ],
)
def test_what_cannot_be_taken_is_one_sentence(operation, values, why):
    job = Job(thickness="1").added("turned_body", top="400", cylinder="220", cone="0").added(operation, **values)
    state = list(run_all(job).values())[-1]
    assert state.status == "broken" and why in state.reason


def test_rows_that_wait_for_edges_say_so():
    for operation in ("copy_edges", "beside_edges"):
        job = Job().added("turned_body").added(operation)
        assert list(run_all(job).values())[-1].status == "waiting"


def test_panels_and_reliefs_take_drawn_curves():
    """Two level cuts of a cone span a panel as large as the frustum; a drawn curve opens the blank of a dome."""
    job = Job(thickness="1").added("turned_body", top="200", cylinder="0", cone="240", outlet="80")
    for z in ("60", "180"):
        job = job.added("plane_cut", form=job.rows[0].id, at=f"0, 0, {z}")
    low, high = job.rows[1].id, job.rows[2].id
    made = curves_of(job.added("panels_between_curves", curves=low, further=high)).value
    radii = [
        np.hypot(*curve.value[0].points[0, :2]) for curve in (run_all(job)[low].outcome, run_all(job)[high].outcome)
    ]
    slant = np.hypot(radii[0] - radii[1], 120)
    assert made.area([face.number for face in made.faces]) == pytest.approx(np.pi * sum(radii) * slant, rel=1e-3)

    lid = Job(thickness="1").added("domed_lid", length="240", width="150", crown="50", corner="0", hole="0")
    plain = curves_of(lid.added("develop", triangles="8"))
    drawn = lid.added("draw_curve", through="120, 0, 25; 30, 0, 48", between="shortest")
    opened = drawn.added("curve_reliefs", curves=drawn.rows[-1].id)
    opened = curves_of(opened.added("develop", triangles="8", reliefs=opened.rows[-1].id))
    assert opened.value.figures.stretch_max < plain.value.figures.stretch_max
    missing = lid.added("curve_reliefs")
    assert list(run_all(missing).values())[-1].status == "waiting"
