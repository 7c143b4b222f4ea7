"""A whole piece of work, as one would do it: a curve clicked on the form, its faces developed, a drawing and a logo on
the blank, carried back, cut into the form, folded; and then the first number of it all is changed."""

from __future__ import annotations

import numpy as np
import pytest
from PyQt6.QtCore import QPoint, QPointF, Qt
from PyQt6.QtTest import QTest

from zuschnitt.core.job.route import Asset, Job
from zuschnitt.window.session import Wanted

from .conftest import opened, settle
from .test_window import LEFT, drag, form_pixel

AHEAD = np.radians(-72)
"""Where the form is seen from."""


def logo() -> bytes:
    """9,000 tiny segments of a spiral, and a speck."""
    t = np.linspace(0.02, 1, 9001)
    at = np.stack([30 + 28 * t * np.cos(20 * t), 30 + 28 * t * np.sin(20 * t)], axis=1)
    path = "M" + " L".join(f"{x:.5f},{y:.5f}" for x, y in at)
    head = '<svg xmlns="http://www.w3.org/2000/svg" width="60mm" height="60mm" viewBox="0 0 60 60" fill="none">'
    return f'{head}<path stroke="blue" d="{path}"/><path stroke="red" d="M1,1 L1.2,1"/></svg>'.encode()


@pytest.fixture
def window(application, tmp_path):
    job = Job(thickness="1").with_value("wide", "240")
    made = opened(tmp_path, job.added("turned_body", top="wide", cylinder="140", cone="160", outlet="100"))
    window = next(made)
    settle(window)
    yield window
    made.close()


def new_row(window, key):
    """A row chosen from the list of operations, selected."""
    window.card.open_list()
    window.card._picked(key)
    settle(window)
    assert window.session.selected_row.operation == key
    return window.session.selected_row


def give(window, **values):
    row = window.session.selected
    window.session.edit("", lambda job: job.set_many(row, values))
    settle(window)


def draw(window, key, where, **values):
    """A figure clicked onto the blank at ``where``, its numbers then given; its number."""
    session, stage = window.session, window.blank_stage
    window.card.cards[session.selected].figures.begin(key)
    at = QPointF(*stage.view.to_pixels(np.array([where], float))[0]).toPoint()
    QTest.mouseMove(stage, at)
    QTest.mouseClick(stage, LEFT, pos=at)
    (number,) = session.figures
    give(window, **{f"figures.{number}.{name}": value for name, value in values.items()})
    return number


def made_of(window, key, *of, **values):
    """A figure made of others that are picked; its number."""
    session = window.session
    session.pick_figures(set(of))
    window.card.cards[session.selected].figures.begin(key)
    (number,) = session.figures
    give(window, **{f"figures.{number}.{name}": value for name, value in values.items()})
    return number


def on_body(angle, z):
    """A point of the body in front: the cylinder is above z = 160, the cone below."""
    radius = 120.0 if z >= 160 else 50 + 70 * z / 160
    return np.array([radius * np.cos(AHEAD + angle), radius * np.sin(AHEAD + angle), z])


def test_from_the_first_click_to_the_last_change(window):
    session, form_stage, blank_stage = window.session, window.form_stage, window.blank_stage
    session.select(session.job.rows[0].id)

    # a smooth closed curve over both faces
    curve = new_row(window, "draw_curve")
    for point in ((-0.35, 200), (0.3, 220), (0.4, 120), (-0.2, 90)):
        QTest.mouseClick(form_stage, LEFT, pos=form_pixel(window, on_body(*point)))
        settle(window)
    QTest.keyClick(form_stage, Qt.Key.Key_Return)
    give(window, ends="closed")
    (drawn,) = session.value(session.job.row(curve.id), "curves")
    assert np.array_equal(drawn.points[0], drawn.points[-1]) and drawn.length > 250
    assert {160.0} <= set(np.round(drawn.points[:, 2], 6))  # it has a point on the edge that it passes

    # the faces developed round a point, and the curve on the blank
    develop = new_row(window, "develop")
    window.session.want(Wanted(develop.id, "hold"))
    QTest.mouseClick(form_stage, LEFT, pos=form_pixel(window, on_body(0.0, 190.0)))
    settle(window)
    give(window, seam="opposite")
    blank = session.value(session.job.row(develop.id), "blank")
    assert blank.way == "exact" and len(blank.faces) == 2
    new_row(window, "trace")
    give(window, curves=curve.id)
    traced = session.value(session.selected_row, "traced")
    assert sum(part.length_blank for part in traced) == pytest.approx(drawn.length, rel=1e-6)

    # a drawing: a centre line, a slot, three holes in a row and the same mirrored, a square cut-out
    drawing = new_row(window, "draw_figures")
    cylinder = (0.0, 60.0) if blank.region.contains(np.array([[0.0, 60.0]]))[0] else (0.0, -60.0)
    side = np.sign(cylinder[1])
    draw(window, "line", cylinder, points="-40, 0; 40, 0", kind="mark", x="0", y=str(side * 20), place="origin")
    slot = draw(window, "slot", cylinder, length="60", width="14", x="0", y=str(side * 60), place="origin")
    hole = draw(window, "circle", cylinder, diameter="10", x="-90", y=str(side * 100), place="origin")
    row = made_of(window, "row", hole, count="3", pitch="25")
    made_of(window, "mirror", hole, row, place="origin", angle="90")
    square = draw(
        window, "rectangle", cylinder, width="20", height="20", radius="0", x="80", y=str(side * 40), place="origin"
    )
    artwork = session.value(session.job.row(drawing.id), "artwork")
    closed = [contour for contour in artwork.contours if contour.closed]
    assert len(closed) == 8 and sum(contour.layer == "MARK" for contour in artwork.contours) == 1
    areas = sorted(abs(contour.area) for contour in closed)
    assert areas == pytest.approx([25 * np.pi] * 6 + [400.0, 46 * 14 + 49 * np.pi], rel=1e-9)

    # the square dragged on the blank
    session.pick_figures({square})
    start = blank_stage.view.to_pixels(np.array([[80.0 + 10, side * 40]]))[0]
    drag(blank_stage, QPoint(*np.round(start).astype(int)), QPoint(*np.round(start + [12, 0]).astype(int)))
    settle(window)
    line = next(each for each in session.selected_row.parameters["figures"] if int(each["number"]) == square)
    assert float(line["x"]) == pytest.approx(80 + 12 / blank_stage.view.scale, abs=1.5 / blank_stage.view.scale + 1)

    # a logo with far too much in it, thinned, without its speck, placed where there is room, scaled and turned
    session.edit("", lambda job: job.with_asset(Asset("logo.svg", logo())))
    window.card._ask = lambda row: None  # no dialog for the file
    thin = new_row(window, "thin_drawing")
    give(window, file="logo.svg", tolerance="0.02", smallest="1", width="50")
    figures = session.states[thin.id].outcome.result("drawing")
    assert figures.segments[0] == 9001 and figures.segments[1] < 300 and len(figures.value) == 1
    place = new_row(window, "place_artwork")
    give(window, drawing=thin.id, blank=develop.id, turn="30", scale="0.8")
    placed = session.value(session.job.row(place.id), "artwork")
    assert blank.region.contains(placed.contours[0].flattened(0.1)).all()
    taken = session.value(session.job.row(drawing.id), "artwork")
    for contour in taken.contours:
        low, high = contour.bounds
        box = placed.bounds
        assert box[2] < low[0] or box[0] > high[0] or box[3] < low[1] or box[1] > high[1]
    assert form_stage.picture.lines.sets["carried"].actor.GetMapper().GetInput().GetNumberOfLines() > 0

    # cut into the form as real edges
    session.select(drawing.id)
    settle(window)
    cut = new_row(window, "cut_into_form")
    give(window, artwork=drawing.id)
    assert session.states[cut.id].reason == "", session.states[cut.id].reason
    holes = session.states[cut.id].outcome.result("form").holes
    assert len(holes) == 8 and sum(each.area for each in holes) == pytest.approx(sum(areas), rel=1e-6)

    # folded, with what is drawn riding along
    session.select(develop.id)
    settle(window)
    slider = window.card.folding.slider
    slider.setValue(slider.maximum() // 2)
    settle(window)
    assert "folded" in session.selected_row.gives
    assert form_stage.picture.lines.sets["riding"].actor.GetMapper().GetInput().GetNumberOfLines() >= 9

    # the first number of it all
    session.edit("Change a value", lambda job: job.with_value("wide", "260"))
    settle(window)
    assert {state.status for state in session.states.values()} == {"done"}
    body = session.value(session.job.rows[0], "form")
    assert np.ptp(np.vstack([mesh.points for mesh in body.meshes])[:, 0]) == pytest.approx(260, rel=1e-3)
    (wider,) = session.value(session.job.row(curve.id), "curves")
    above = wider.points[wider.points[:, 2] > 160]
    assert np.hypot(*above[:, :2].T) == pytest.approx(130, abs=1e-6)
    assert sum(each.area for each in session.states[cut.id].outcome.result("form").holes) == pytest.approx(
        sum(areas), rel=1e-6
    )
    assert slot in {int(each["number"]) for each in session.job.row(drawing.id).parameters["figures"]}
