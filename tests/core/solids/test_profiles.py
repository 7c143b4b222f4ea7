"""Bodies from numbers and from profiles that are drawn, against closed forms."""

from __future__ import annotations

import numpy as np
import pytest

from zuschnitt.core.errors import CannotBeDone, Refused
from zuschnitt.core.job.evaluate import run_all
from zuschnitt.core.job.route import Job
from zuschnitt.core.plane.contour import Contour
from zuschnitt.core.solids.boxes import box_of
from zuschnitt.core.solids.explore import volume
from zuschnitt.core.solids.primitives import block, dome, tube
from zuschnitt.core.solids.profiles import lofted

PI = np.pi


def frustum(a, b, h):
    return PI * h / 3 * (a * a + a * b + b * b)


def cap(radius, height):
    return PI * height**2 * (3 * radius - height) / 3


def ball(diameter, height):
    return ((diameter / 2) ** 2 + height**2) / (2 * height)


def drawing(job, *figures):
    lines = [{"number": k, "place": "origin", **figure} for k, figure in enumerate(figures, start=1)]
    return job.added("lay_sheet", width=400, height=200).added("draw_figures", figures=lines)


def line(points, **more):
    return {"figure": "line", "points": points, **more}


RECTANGLE = {"figure": "rectangle", "width": "40", "height": "20", "x": "50"}
HOLE = {"figure": "circle", "diameter": "10", "x": "50"}


def result(job):
    state = run_all(job)[job.rows[-1].id]
    if state.status != "done":
        raise Refused(state.reason)
    return state.outcome


@pytest.mark.parametrize(
    "shape, expected",
    [
        (block(30, 20, 10), 6000),
        (tube(40, 40, 50, 0), PI * 400 * 50),
        (tube(40, 40, 50, 2), PI * (400 - 324) * 50),
        (tube(60, 40, 50, 0), frustum(30, 20, 50)),
        (
            tube(60, 40, 50, 2),
            frustum(30, 20, 50) - frustum(30 - 2 * np.hypot(50, 10) / 50, 20 - 2 * np.hypot(50, 10) / 50, 50),
        ),
        (tube(60, 0, 50, 0), frustum(30, 0, 50)),
        (tube(0, 60, 50, 2), None),
        (dome(80, 40, 0), cap(40, 40)),
        (dome(80, 20, 2), cap(ball(80, 20), 20) - cap(ball(80, 20) - 2, 18)),
        (dome(40, 60, 2), cap(ball(40, 60), 60) - cap(ball(40, 60) - 2, 58)),
    ],
)
def test_bodies_from_numbers(shape, expected):
    if expected is None:  # a hollow cone on its tip: the cone less the one that its wall leaves
        slope = 30 / 50
        lean = 2 * np.hypot(1, slope)
        inner = 30 - lean
        expected = frustum(30, 0, 50) - PI / 3 * inner**2 * (inner / slope)
    assert volume(shape) == pytest.approx(expected, rel=1e-9)
    assert box_of(shape)[0][2] == pytest.approx(0, abs=1e-6)


@pytest.mark.parametrize("numbers", [(0, 0, 50, 2), (40, 40, 50, 30)])
def test_tubes_that_cannot_be(numbers):
    with pytest.raises(Refused):
        tube(*numbers)
    with pytest.raises(Refused):
        dome(40, 10, 12)


@pytest.mark.parametrize(
    "figures, operation, values, expected",
    [
        ((RECTANGLE, HOLE), "pull_profile", {"length": 10}, 10 * (800 - 25 * PI)),
        ((RECTANGLE, HOLE), "turn_profile", {}, 2 * PI * 50 * (800 - 25 * PI)),
        ((RECTANGLE, HOLE), "turn_profile", {"axis": 20, "angle": 90}, PI / 2 * 30 * (800 - 25 * PI)),
        ((RECTANGLE,), "pull_profile", {"length": 10, "wall": 2}, 10 * (800 - 36 * 16)),
        ((line("20,0; 60,0; 60,40"),), "pull_profile", {"length": 50, "wall": 2}, 50 * (160 - 1 + PI / 4)),
        (({"figure": "arc", "radius": "30"},), "pull_profile", {"length": 50, "wall": 2, "view": "top"}, 50 * 2 * 15 * PI),
        ((line("20,0; 60,0"),), "turn_profile", {"wall": 2}, PI * (60**2 - 20**2) * 2),
        (({**RECTANGLE}, {**RECTANGLE, "width": "80", "height": "40"}), "loft_profiles",
         {"heights": "0, 30", "between": "straight"}, 30 / 3 * (800 + 3200 + 1600)),
    ],
)  # fmt: skip
def test_bodies_from_profiles(figures, operation, values, expected):
    outcome = result(drawing(Job(), *figures).added(operation, **{k: str(v) for k, v in values.items()}))
    assert sum(body.volume for body in outcome.results[0].made) == pytest.approx(expected, rel=1e-9)
    assert outcome.value.bodies


@pytest.mark.parametrize("view, box", [("front", (100, 30, 40)), ("top", (100, 40, 30)), ("side", (30, 100, 40))])
def test_a_profile_stands_where_it_is_seen_from(view, box):
    frame = {"figure": "rectangle", "width": "100", "height": "40"}
    outcome = result(drawing(Job(), frame).added("pull_profile", length="30", view=view))
    assert np.ptp(np.array(outcome.value.bounds), axis=0) == pytest.approx(box, abs=1e-3)


def test_open_profiles_are_surfaces_that_can_be_developed():
    job = drawing(Job(), line("20,0; 60,30")).added("turn_profile", angle="180").added("develop")
    outcome = result(job)
    blank = outcome.result("blank").value
    assert blank.way == "exact" and blank.figures.area_blank == pytest.approx(PI * 80 * 50 / 2, rel=1e-9)


def guides(front, top, *profiles):
    job = drawing(Job(), *front)
    one = job.rows[-1].id
    job = drawing(job, *top)
    two, more = job.rows[-1].id, {}
    if profiles:
        job = drawing(job, *profiles)
        more["profiles"] = job.rows[-1].id
    return job.added("sweep_guides", front=one, top=two, **more)


def test_a_surface_between_guides_goes_through_them():
    front, top = (line("0,0; 300,0"), line("0,40; 300,60")), (line("0,0; 300,0"), line("0,80; 300,80"))
    form = result(guides(front, top)).value
    corners = {tuple(np.round(end, 6).tolist()) for edge in form.edges for end in edge.points(1.0)[[0, -1]]}
    assert corners == {(0, 0, 0), (300, 0, 0), (0, 80, 40), (300, 80, 60)}
    # with half circles between level guides it is half a cylinder
    front, top = (line("0,0; 300,0"), line("0,0; 300,0")), (line("0,0; 300,0"), line("0,80; 300,80"))
    arch = {"figure": "arc_through", "points": "0,0; 40,40; 80,0"}
    form = result(guides(front, top, arch)).value
    assert sum(face.area for face in form.faces) == pytest.approx(PI * 40 * 300, rel=1e-5)
    assert np.array(form.bounds)[1] == pytest.approx([300, 80, 40], abs=1e-3)


@pytest.mark.parametrize(
    "job, why",
    [
        (lambda: drawing(Job(), line("-9,0; 20,5")).added("turn_profile"), "beyond the axis"),
        (lambda: drawing(Job(), RECTANGLE).added("loft_profiles", heights="0"), "do not go together"),
        (lambda: drawing(Job(), RECTANGLE, HOLE).added("loft_profiles", heights="10, 10"), "must rise"),
        (lambda: guides((line("0,0; 300,0"),), (line("0,0; 300,0"),)), "Two guides are needed"),
        (lambda: guides((line("0,0; 9,0"), line("0,9; 9,9")), (line("0,0; 8,0"), line("0,9; 9,9"))), "same x"),
        (lambda: guides((line("0,0; 9,5; 2,9"), line("0,9; 9,9")), (line("0,0; 8,0"), line("0,9; 9,9"))), "turns back"),
        (lambda: guides((line("0,0; 9,0"), line("0,0; 9,0")), (line("0,0; 9,0"), line("0,0; 9,9"))), "The guides meet"),
        (lambda: drawing(Job(), RECTANGLE, {**RECTANGLE, "x": "60"}).added("pull_profile", length="1e-9"), "makes no profile"),
    ],
)  # fmt: skip
def test_profiles_that_make_nothing(job, why):
    with pytest.raises((Refused, CannotBeDone), match=why):
        result(job())


def test_a_body_that_would_run_through_itself_is_refused():
    """From a U to one that is open on the other side: the kernel calls it done."""
    arm = np.array([[0.0, 0], [60, 0], [60, 60], [50, 60], [50, 10], [10, 10], [10, 60], [0, 60]])
    up, down = (Contour.polyline(arm * [1, way], True) for way in (1, -1))
    with pytest.raises(CannotBeDone, match="run through itself at a height of 11"):
        lofted([up, down], [0, 50], False)
    half = lofted([up, Contour.polyline(0.5 * arm, True)], [0, 50], False)
    assert volume(half) == pytest.approx(50 / 3 * (1 + 0.5 + 0.25) * up.area, rel=1e-9)
