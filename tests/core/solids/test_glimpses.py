"""Bodies as they are seen while they move, against those that are made in the end."""

from __future__ import annotations

import numpy as np
import pytest
from OCP.BRepPrimAPI import BRepPrimAPI_MakeBox, BRepPrimAPI_MakeCylinder
from OCP.gp import gp_Pnt

from zuschnitt.core.carry.placement import Placement
from zuschnitt.core.develop.developing import develop
from zuschnitt.core.develop.placing import Hold
from zuschnitt.core.form.build import turned_body
from zuschnitt.core.kernel.step_in import read_step_bytes
from zuschnitt.core.kernel.step_out import named_shapes_bytes
from zuschnitt.core.plane.contour import Contour
from zuschnitt.core.solids.glimpses import bent_glimpse, raised_glimpse
from zuschnitt.core.solids.raising import raised
from zuschnitt.core.solids.standing import bent


@pytest.fixture(scope="module")
def tube():
    """A cylinder of radius 50, 200 long, and the blank of its side."""
    form = read_step_bytes(named_shapes_bytes([("tube", BRepPrimAPI_MakeCylinder(50, 200).Shape())]), "tube")
    side = next(face.number for face in form.faces if face.kind == "cylinder")
    return form, develop(form, [side], hold=Hold(np.array([50.0, 0, 10]), np.array([0.0, 1, 0])))


def ring(blank, reach=18.0):
    """A circle with a hole, in the middle of a blank."""
    x0, y0, x1, y1 = blank.bounds
    middle = np.array([(x0 + x1) / 2, (y0 + y1) / 2])
    t = np.linspace(0, 2 * np.pi, 60, endpoint=False)
    round_ = np.column_stack([np.cos(t), np.sin(t)])
    return [Contour.polyline(middle + r * round_, closed=True) for r in (reach, reach / 2)]


def volume(seen) -> float:
    a, b, c = seen.points[seen.triangles].transpose(1, 0, 2)
    return float(np.einsum("ij,ij->i", a, np.cross(b, c)).sum() / 6)


@pytest.mark.parametrize("height", [3.0, -3.0])
def test_raised_and_sunk_outlines(tube, height):
    form, blank = tube
    drawing = ring(blank)
    seen, made = raised_glimpse(form, blank, drawing, height), raised(form, blank, drawing, height).made[0]
    reach = 0.002 * form.size * sum((1, -1)[k] * contour.area for k, contour in enumerate(drawing)) if height > 0 else 0
    assert volume(seen) - reach == pytest.approx(made.volume, rel=0.01)
    low, high = seen.points.min(axis=0), seen.points.max(axis=0)
    assert np.r_[low, high] == pytest.approx(made.box, abs=0.3)
    assert np.linalg.norm(seen.normals, axis=1) == pytest.approx(1, abs=1e-6)
    edges = np.vstack(seen.lines)
    assert edges.max(axis=0) == pytest.approx(high, abs=0.3)


def test_of_open_faces_the_pieces_alone_are_seen():
    form = turned_body([(60, 0), (40, 90)])
    blank = develop(form, [1])
    seen = raised_glimpse(form, blank, ring(blank, 10.0), 2.0)
    made = raised(form, blank, ring(blank, 10.0), 2.0).made
    assert volume(seen) == pytest.approx(sum(body.volume for body in made), rel=0.02)


@pytest.mark.parametrize("how", [Placement(at=(90, 60)), Placement(at=(100, 70), turn=40, lift=2, mirror="yz")])
def test_bent_bodies(tube, how):
    form, blank = tube
    shapes = [
        (f"p{k}", BRepPrimAPI_MakeBox(gp_Pnt(0, 15.0 * k, -1), gp_Pnt(24, 15.0 * k + 10, 4)).Shape()) for k in (0, 1)
    ]
    content = named_shapes_bytes(shapes)
    seen, made = bent_glimpse(form, blank, content, "p.step", how), bent(form, blank, content, "p.step", how)
    assert volume(seen) == pytest.approx(sum(body.volume for body in made), rel=0.01)
    boxes = np.array([body.box for body in made])
    assert seen.points.min(axis=0) == pytest.approx(boxes[:, :3].min(axis=0), abs=0.1)
    assert seen.points.max(axis=0) == pytest.approx(boxes[:, 3:].max(axis=0), abs=0.1)
    assert len(seen.lines) >= 24 * len(made) / 2

    for body in made:  # where they stand on the blank
        points = np.vstack(body.footprint)
        assert np.ptp(points, axis=0) @ np.ones(2) == pytest.approx(
            34 * (abs(np.cos(np.radians(how.turn))) + abs(np.sin(np.radians(how.turn)))), rel=1e-3
        )
