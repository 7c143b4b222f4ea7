"""Forms beside each other: moved, laid on faces, and where they clash."""

from __future__ import annotations

import numpy as np
import pytest
import trimesh
from OCP.BRepPrimAPI import BRepPrimAPI_MakeBox, BRepPrimAPI_MakeSphere
from OCP.gp import gp_Pnt

from zuschnitt.core.develop.developing import develop
from zuschnitt.core.errors import Refused
from zuschnitt.core.files.mesh_file import read_triangles
from zuschnitt.core.form.mating import laid_on
from zuschnitt.core.form.mesh_form import form_from_triangles
from zuschnitt.core.form.moved import Motion
from zuschnitt.core.geometry.surfaces import Plane
from zuschnitt.core.kernel.forms import form_of_shape
from zuschnitt.core.kernel.step_in import read_step_bytes
from zuschnitt.core.solids.clashing import clashes
from zuschnitt.core.solids.shape import form_step

MOTION = Motion.about(np.array([1.0, 2, 0.5]), 37.0, np.array([10.0, -4, 3]), np.array([50.0, 60, -7]))


def box(x0, y0, z0, x1, y1, z1, name="box"):
    return form_of_shape(BRepPrimAPI_MakeBox(gp_Pnt(x0, y0, z0), gp_Pnt(x1, y1, z1)).Shape(), name)


def test_a_motion_turns_about_its_axis():
    quarter = Motion.about(np.array([0.0, 0, 2]), 90, np.array([10.0, 0, 0]), np.array([0.0, 0, 5]))
    assert quarter.points(np.array([[12.0, 0, 1]])) == pytest.approx(np.array([[10.0, 2, 6]]))
    assert MOTION.turn @ MOTION.turn.T == pytest.approx(np.eye(3))


@pytest.mark.parametrize("name", ["loft", "box", "cone", "tube", "dome", "ring", "vase", "wave", "bend", "drilled_tube",
                                  "oblique_tube", "rounded"])  # fmt: skip
def test_a_moved_form_is_the_same_elsewhere(form, name):
    """Its surfaces, edges and triangles lie on each other, and it is written and developed as before."""
    given = form(name)
    made = MOTION.form(given)
    for old, new in zip(given.faces, made.faces, strict=True):
        uv = np.vstack([c.uv(np.linspace(c.start, c.end, 5)) for loop in old.loops for c in loop])
        assert new.surface.evaluate(uv) == pytest.approx(MOTION.points(old.surface.evaluate(uv)), abs=1e-9)
        assert new.outward(uv) == pytest.approx(MOTION.directions(old.outward(uv)), abs=1e-9)
    for old, new in zip(given.edges, made.edges, strict=True):
        t = np.linspace(old.start, old.end, 5)
        assert new.curve.evaluate(t) == pytest.approx(MOTION.points(old.curve.evaluate(t)), abs=1e-9)
    assert made.meshes[0].points == pytest.approx(MOTION.points(given.meshes[0].points))
    again = read_step_bytes(form_step(made), "a")
    assert [face.kind for face in again.faces] == [face.kind for face in given.faces]
    assert [face.area for face in again.faces] == pytest.approx([face.area for face in given.faces], rel=1e-6)
    if all(face.developable for face in given.faces):
        areas = [develop(each, [1], "exact").figures.area_blank for each in (given, made)]
        assert areas[1] == pytest.approx(areas[0], rel=1e-9)


def test_a_moved_mesh_keeps_its_faces():
    mesh = trimesh.creation.cylinder(20, 50, sections=40)
    given = form_from_triangles(read_triangles(mesh.export(file_type="stl"), "a.stl", "mm"), "a")
    made = MOTION.form(given)
    assert [face.area for face in made.faces] == pytest.approx([face.area for face in given.faces])
    side = next(face.number for face in given.faces if not isinstance(face.surface, Plane))
    assert develop(made, [side]).figures.area_blank == pytest.approx(given.face(side).area, rel=1e-9)


@pytest.mark.parametrize("gap", [0.0, 2.5])
@pytest.mark.parametrize("onto", range(1, 7))
def test_a_face_is_laid_against_another(gap, onto):
    here, there = box(0, 0, 0, 60, 40, 20), MOTION.form(box(0, 0, 0, 200, 100, 80))
    made = laid_on(here, 5, there, onto, gap).form(here)
    normal = there.face(onto).outward(np.zeros((1, 2)))[0]
    assert made.face(5).outward(np.zeros((1, 2)))[0] == pytest.approx(-normal)
    off = (made.meshes[4].points - there.meshes[onto - 1].points[0]) @ normal
    assert off == pytest.approx(np.full(len(off), gap), abs=1e-9)
    middles = [np.mean([form.meshes[k].points.min(axis=0), form.meshes[k].points.max(axis=0)], axis=0)
               for form, k in ((made, 4), (there, onto - 1))]  # fmt: skip
    assert middles[0] - middles[1] == pytest.approx(gap * normal, abs=1e-6)
    found = clashes(made, there)
    assert found.found == () and found.gap == pytest.approx(gap, abs=1e-6)


def test_it_is_turned_and_shifted_on_the_face():
    here, there = box(0, 0, 0, 60, 40, 20), box(0, 0, 0, 200, 100, 80)
    front = next(f.number for f in there.faces if f.outward(np.zeros((1, 2)))[0] == pytest.approx([0, -1, 0]))
    plain, other = (laid_on(here, 5, there, front, 0, *how).form(here) for how in ((0, (0, 0)), (90, (30, -10))))
    boxes = [np.ptp(np.vstack([m.points for m in each.meshes]), axis=0) for each in (plain, other)]
    assert sorted(boxes[0]) == pytest.approx([20, 40, 60]) and boxes[1] == pytest.approx(boxes[0][[2, 1, 0]])
    middles = [np.vstack([m.points for m in each.meshes]) for each in (plain, other)]
    shift = [(points.min(axis=0) + points.max(axis=0)) / 2 for points in middles]
    assert shift[1] - shift[0] == pytest.approx([30, 0, -10])
    with pytest.raises(Refused, match="no flat face"):
        laid_on(form_of_shape(BRepPrimAPI_MakeSphere(10).Shape(), "ball"), 1, there, 1)


def test_clashes_have_the_volume_that_both_share():
    found = clashes(box(0, 0, 0, 60, 40, 20), box(50, 30, 10, 90, 90, 90))
    (clash,) = found.found
    assert clash.volume == pytest.approx(10 * 10 * 10)
    assert clash.middle == pytest.approx([55, 35, 15])
    assert np.vstack(clash.outlines).min(axis=0) == pytest.approx([50, 30, 10], abs=1e-6)
    assert clashes(box(0, 0, 0, 10, 10, 10), box(13, 14, 0, 20, 20, 10)).gap == pytest.approx(5)
    assert clashes(box(0, 0, 0, 10, 10, 10), box(10, 0, 0, 20, 10, 10)).found == ()


def test_meshes_clash_as_bodies_do():
    mesh = trimesh.creation.cylinder(20, 50, sections=256)
    drum = form_from_triangles(read_triangles(mesh.export(file_type="stl"), "a.stl", "mm"), "drum")
    (clash,) = clashes(drum, box(-50, -50, 15, 50, 50, 90)).found
    assert clash.volume == pytest.approx(np.pi * 400 * 10, rel=1e-3)
    assert clashes(drum, box(23, -5, -5, 50, 5, 5)).gap == pytest.approx(3, abs=1e-3)


def test_what_is_open_encloses_nothing(form):
    found = clashes(form("wave"), box(0, 0, 500, 10, 10, 510))
    assert found.found == () and "1 body is open" in found.messages[0]
