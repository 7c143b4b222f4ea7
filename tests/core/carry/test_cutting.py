"""A drawing on a blank, cut into its form: holes and edges on the true surfaces."""

from __future__ import annotations

import numpy as np
import pytest
import shapely
import trimesh

from zuschnitt.core.carry.cutting import cut_into
from zuschnitt.core.develop.developing import develop
from zuschnitt.core.develop.placing import Hold
from zuschnitt.core.errors import CannotBeDone, Refused
from zuschnitt.core.files.mesh_file import read_triangles
from zuschnitt.core.form.mesh_form import form_from_triangles
from zuschnitt.core.job.evaluate import run_all
from zuschnitt.core.job.route import Job
from zuschnitt.core.kernel.step_in import read_step_bytes
from zuschnitt.core.plane.contour import Contour
from zuschnitt.core.solids.shape import form_step

R = 8.0
CIRCLE = Contour.circle((0, 0), R)
SLOT = Contour(np.array([[-20, -5], [20, -5], [20, 5], [-20, 5.0]]), np.array([0, 1.0, 0, 1]), True)
LINE = Contour.polyline([[-400, 0], [400, 0.0]], layer="MARK")
AREAS = {"circle": np.pi * R**2, "slot": 400 + np.pi * 25}


def middle(blank):
    x0, y0, x1, y1 = blank.bounds
    return (x0 + x1) / 2, (y0 + y1) / 2


def area(form):
    return sum(face.area for face in form.faces)


FREE = Hold()


def cut(form, faces, *contours, at=None, hold=FREE, **how):
    blank = develop(form, faces or [f.number for f in form.faces], hold=hold, **how)
    there = middle(blank) if at is None else at
    drawing = [c.moved(1, 0, there) for c in contours]
    return blank, drawing, cut_into(form, blank, drawing)


FORMS = {
    "box": [6], "bend": None, "joggle": None, "sine": None, "cone": [1], "apex": [1], "tube": [1], "oblique_tube": [1],
    "three_smooth": None, "wave": None, "drilled_tube": [1], "tip_up": [1],
}  # fmt: skip


@pytest.mark.parametrize("name", FORMS)
def test_what_is_cut_out_of_an_exact_form_is_what_was_drawn(form, name):
    given = form(name)
    for figure, wanted in ((CIRCLE, AREAS["circle"]), (SLOT, AREAS["slot"])):
        blank, drawing, made = cut(given, FORMS[name], figure)
        sheet = shapely.Polygon(drawing[0].flattened(1e-6)).intersection(blank.region.shape)
        whole = sheet.area > wanted * (1 - 1e-6)
        assert area(given) - area(made.form) == pytest.approx(made.holes[0].area, rel=1e-9)
        assert made.holes[0].area == pytest.approx(wanted if whole else sheet.area, rel=1e-8 if whole else 1e-3)
        if whole:
            assert made.holes[0].length == pytest.approx(drawing[0].length, rel=1e-7)
        read = read_step_bytes(form_step(made.form), "cut")
        assert area(read) == pytest.approx(area(made.form), rel=1e-9)
        assert len(read.faces) == len(made.form.faces)


@pytest.mark.parametrize("name", ["bend", "tube", "sine", "three_smooth", "saddle", "quarter_dome", "octant"])
def test_a_line_across_divides_faces_and_takes_nothing_away(form, name):
    given = form(name)
    _, _, made = cut(given, {"tube": [1], "quarter_dome": [1]}.get(name), LINE)
    assert area(made.form) == pytest.approx(area(given), rel=1e-9)
    assert len(made.form.faces) > len(given.faces) and not made.holes
    shared = [e for e in made.form.edges if len(e.faces) == 2 and e.smooth]
    assert shared
    assert len(read_step_bytes(form_step(made.form), "cut").faces) == len(made.form.faces)


HELD = {
    "bend": Hold(np.array([0.0, 0, 0]), np.array([1.0, 0, 0])),
    "tube": Hold(np.array([50.0, 0, 10]), np.array([0.0, 1, 0])),
    "cone": Hold(np.array([90.0, 0, 15]), np.array([0.0, 1, 0])),
    "sine": Hold(np.array([0.0, 0, 0]), np.array([0.0, 1, 0])),
    "joggle": Hold(np.array([0.0, 0, 0]), np.array([0.0, 1, 0])),
    "saddle": Hold(),
    "quarter_dome": Hold(np.array([50.0, 0, 0]), np.array([0.0, 1, 0])),
    "dome": Hold(np.array([50.0, 0, 0]), np.array([0.0, 1, 0])),
}


@pytest.mark.parametrize("name", HELD)
def test_the_hole_comes_back_where_it_was_drawn(form, name):
    faces = {"cone": [1], "tube": [1], "dome": [1], "quarter_dome": [1]}.get(name)
    blank, _, made = cut(form(name), faces, CIRCLE, hold=HELD[name])
    again = develop(made.form, faces or [f.number for f in made.form.faces], hold=HELD[name])
    inner = min(again.outline, key=lambda c: abs(c.area))
    off = np.linalg.norm(inner.flattened(1e-7) - middle(blank), axis=1) - R
    assert np.abs(off).max() < (2e-6 if blank.way == "exact" else 5e-3)
    assert inner.area < 0
    assert again.figures.area_blank == pytest.approx(blank.figures.area_blank - AREAS["circle"], abs=0.05)


def test_against_projection_on_a_tube(form):
    """A point at the arc x lies at x / r round the tube; its projection at asin(x / r)."""
    hold = HELD["tube"]
    r, far = 50.0, 30.0
    _, _, made = cut(form("tube"), [1], Contour.circle((0, 0), 1.0), at=(far, 40.0), hold=hold)
    x = far + 1.0
    wanted = 2 * r * np.sin((np.arcsin(x / r) - x / r) / 2)
    assert made.holes[0].against_projection == pytest.approx(wanted, rel=1e-3)
    _, _, behind = cut(form("tube"), [1], Contour.circle((0, 0), 1.0), at=(120.0, 40.0), hold=hold)
    assert behind.holes[0].against_projection is None


@pytest.mark.parametrize(("name", "hold"), [("tube", HELD["tube"]), ("tube", Hold()), ("cone", HELD["cone"])])
def test_a_hole_across_the_seam_goes_on_at_the_other_side(form, name, hold):
    given = form(name)
    blank = develop(given, [1], hold=hold)
    start = blank.correspondence.to_blank(blank.seams_form[0][16:17]).points[0]
    made = cut_into(given, blank, [CIRCLE.moved(1, 0, start)])
    assert made.holes[0].area == pytest.approx(AREAS["circle"], rel=1e-7)
    assert made.holes[0].length == pytest.approx(2 * np.pi * R, rel=1e-6)
    read = read_step_bytes(form_step(made.form), "cut")
    assert area(read) == pytest.approx(area(given) - AREAS["circle"], rel=1e-9)


def test_figures_that_cross_are_one_and_what_lies_within_a_hole_is_said(form):
    other = Contour.circle((6, 0), R)
    _, drawing, made = cut(form("square"), None, CIRCLE, other)
    union = shapely.union_all([shapely.Polygon(c.flattened(1e-6)) for c in drawing]).area
    assert [hole.area for hole in made.holes] == [pytest.approx(union, rel=1e-6)]
    _, _, ring = cut(form("square"), None, CIRCLE, Contour.circle((0, 0), 3.0))
    assert ring.holes[0].area == pytest.approx(np.pi * (R**2 - 9), rel=1e-9)
    assert len(ring.form.faces) == 2 and "left loose" in ring.messages[0]


def test_reference_figures_stay_behind_and_faces_keep_their_numbers(form):
    given = form("box")
    reference = Contour.circle((0, 0), 15, "REFERENCE")
    _, _, made = cut(given, [6], CIRCLE, reference)
    assert len(made.holes) == 1 and len(made.form.faces) == 6
    assert [f.area for f in made.form.faces[:5]] == [f.area for f in given.faces[:5]]
    for before, after in zip(given.edges, made.form.edges, strict=False):
        assert np.allclose(
            before.curve.evaluate(np.array([before.start])), after.curve.evaluate(np.array([after.start]))
        )


@pytest.mark.parametrize("beside", [0.0, 3e-14, 1e-9, 1e-4])
@pytest.mark.parametrize("short", [(-1, 10), (10, 50), (50, 71)])
def test_lines_that_lie_on_each_other_divide_as_one(form, beside, short):
    """A short one on a long one, both over the edge of the face: 9,000 mm² of a box were lost, and nothing said."""
    given = form("box")
    blank = develop(given, [6], hold=FREE)
    x0, y0, x1, y1 = blank.bounds
    middle = (x0 + x1) / 2
    long_line = Contour.polyline([[middle, y0 - 1], [middle, y1 + 1]], layer="MARK")
    short_line = Contour.polyline([[middle + beside, y0 + short[0]], [middle + beside, y0 + short[1]]], layer="MARK")
    made = cut_into(given, blank, [long_line, short_line]).form
    assert area(made) == pytest.approx(area(given), rel=1e-9)
    parts = [face for face, parent in zip(made.faces, made.before.parents, strict=True) if parent == 6]
    assert sorted(part.area for part in parts)[-2:] == pytest.approx([3000, 3000], rel=1e-4)


def test_cut_twice_is_cut_both_times(form):
    _, _, first = cut(form("saddle"), None, CIRCLE)
    blank = develop(first.form, [1])
    second = cut_into(first.form, blank, [CIRCLE.moved(1, 0, np.array(middle(blank)) + [30, 0])])
    assert len(second.form.before.removed) == 2
    again = develop(second.form, [1])
    assert sorted(len(c.points) > 3 and c.area < 0 for c in again.outline) == [False, True, True]


def test_across_two_relaxed_faces(form):
    given = form("wedge_60")
    _, _, divided = cut(given, None, LINE)
    blank = develop(divided.form, [1, 2])
    made = cut_into(divided.form, blank, [CIRCLE.moved(0.5, 0, middle(blank))])
    again = develop(made.form, [f.number for f in made.form.faces])
    inner = min(again.outline, key=lambda c: abs(c.area))
    off = np.linalg.norm(inner.flattened(1e-6) - middle(blank), axis=1) - R / 2
    assert np.abs(off).max() < 0.02


def test_on_a_mesh(tmp_path):
    path = tmp_path / "tube.stl"
    trimesh.creation.cylinder(50, 120, sections=96).export(path)
    given = form_from_triangles(read_triangles(path.read_bytes(), "tube.stl", "mm"), "tube.stl", 30.0)
    side = max(given.faces, key=lambda face: face.area).number
    _, _, made = cut(given, [side], CIRCLE)
    assert made.holes[0].area == pytest.approx(AREAS["circle"], rel=1e-3)
    mesh = made.form.meshes[side - 1]
    corners = mesh.points[mesh.triangles]
    shown = np.linalg.norm(np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]), axis=1).sum() / 2
    assert shown == pytest.approx(given.face(side).area - AREAS["circle"], rel=1e-3)
    with pytest.raises(CannotBeDone, match="write it with --mesh"):
        form_step(made.form)


def test_bad_drawings_are_one_sentence(form):
    bow = Contour.polyline([[0, 0], [10, 10], [10, 0], [0, 10.0]], closed=True, layer="CUT", name="bow")
    given = form("square")
    with pytest.raises(Refused, match="bow crosses itself"):
        cut(given, None, bow)
    with pytest.raises(CannotBeDone, match="lies on the blank"):
        cut(given, None, CIRCLE, at=(900, 900))
    with pytest.raises(Refused, match="no figures"):
        cut(given, None, Contour.circle((0, 0), 5, "REFERENCE"))
    with pytest.raises(CannotBeDone, match="Nothing would be left"):
        cut(given, None, Contour.circle((0, 0), 500))
    _, _, made = cut(given, None, Contour.polyline([[0, 0], [5, 5.0]], layer="CUT"), CIRCLE)
    assert "divides no face" in made.messages[0] or made.holes


@pytest.mark.parametrize("turn", [0.0, 0.3, 1.2, 2.0])
def test_lines_across_round_outlines_divide_them(step, turn):
    """They end on the round outline itself, not on the flattened one."""
    form = read_step_bytes(step("cone").read_bytes(), "cone")
    for number in (1, 3):  # the cone, and its disc
        blank = develop(form, [number])
        line = Contour.polyline([[-400, 0], [400, 0.0]], layer="MARK").moved(1, turn, middle(blank))
        if number == 1:
            at = blank.region.shape.representative_point()
            line = Contour.polyline([[-400, 0], [400, 0.0]], layer="MARK").moved(1, turn, (at.x, at.y))
        made = cut_into(form, blank, [line])
        parts = [face.area for face, parent in zip(made.form.faces, made.form.before.parents, strict=True)
                 if parent == number]  # fmt: skip
        assert len(parts) >= 2 and sum(parts) == pytest.approx(form.face(number).area, rel=1e-9)


@pytest.mark.parametrize("below", [False, True])
def test_what_lies_on_one_piece_of_a_blank_is_cut_there_alone(below):
    """Cylinder and cone lie side by side: a hole in the strip is at an angle at which the cone's sector would go on
    round its tip, and is not repeated on the cone, whether it is on the strip whole or reaches beyond its edge."""
    job = Job(thickness="1").added("turned_body", top="240", cylinder="140", cone="160", outlet="100")
    job = job.added("develop", hold="37.0820, -114.1268, 160", seam="opposite")
    square = {"number": 1, "figure": "rectangle", "width": "20", "height": "20", "radius": "0", "place": "origin"}
    square |= {"x": "100", "y": "135" if below else "40"}
    job = job.added("draw_figures", figures=[square]).added("cut_into_form")
    states = list(run_all(job).values())
    assert states[-1].reason == ""
    (hole,) = states[-1].outcome.result("form").holes
    assert hole.area == pytest.approx(20 * 15 if below else 400, rel=1e-6)
    before, after = (states[k].outcome.value for k in (0, -1))
    assert after.area([1, 2]) == pytest.approx(before.area([1, 2]) - hole.area, rel=1e-9)
