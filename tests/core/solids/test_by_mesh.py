"""Bodies joined and cut as meshes: of forms that are meshes, and where the kernel finds no exact body."""

from __future__ import annotations

import io

import numpy as np
import pytest
import trimesh
from OCP.BRepPrimAPI import BRepPrimAPI_MakeBox, BRepPrimAPI_MakeTorus
from OCP.gp import gp_Pnt

from zuschnitt.core.carry.placement import Placement
from zuschnitt.core.carry.tracks import tracks
from zuschnitt.core.develop.developing import develop
from zuschnitt.core.develop.inset import inset
from zuschnitt.core.develop.placing import Hold
from zuschnitt.core.errors import CannotBeDone
from zuschnitt.core.files.mesh_file import read_triangles
from zuschnitt.core.files.stl import stl_bytes
from zuschnitt.core.form.mesh_form import form_from_triangles
from zuschnitt.core.kernel.step_in import read_step_bytes
from zuschnitt.core.kernel.step_out import named_shapes_bytes, shape_bytes
from zuschnitt.core.plane.contour import Contour
from zuschnitt.core.solids import raising
from zuschnitt.core.solids.bodies import form_of_bodies
from zuschnitt.core.solids.pocketing import pocketed
from zuschnitt.core.solids.raising import raised
from zuschnitt.core.solids.standing import bent
from zuschnitt.core.solids.sweeping import swept
from zuschnitt.core.solids.thickening import thickened

R, H = 50.0, 120.0
SQUARE = Contour.polyline([[-8, -6], [8, -6], [8, 6], [-8, 6]], closed=True)
ISLAND = Contour.circle((0, 0), 3.0)
AREA = 16 * 12 - np.pi * 9


@pytest.fixture(scope="module")
def drum():
    """A cylinder of many triangles, and the blank of its round side."""
    made = trimesh.creation.cylinder(R, H, sections=360)
    form = form_from_triangles(read_triangles(made.export(file_type="stl"), "drum.stl", "mm"), "drum")
    side = next(face.number for face in form.faces if face.kind != "plane")
    return form, develop(form, [side], hold=Hold(np.array([0.0, -R, 0.0]), np.array([1.0, 0, 0])))


def closed(form):
    """The bodies as another program reads them."""
    mesh = trimesh.load(io.BytesIO(stl_bytes(form)), file_type="stl")
    assert mesh.is_watertight
    return mesh


@pytest.mark.parametrize("height", [2.0, -2.0, 0.5])
def test_outlines_are_raised_from_a_mesh_and_sunk_into_it(drum, height):
    """Square to a cylinder, a figure of area A and height h has A h (1 + h / 2R)."""
    found = raised(*drum, [SQUARE, ISLAND], height)
    (body,) = found.made
    assert body.by == "mesh"
    assert body.volume_change == pytest.approx(AREA * height * (1 + height / (2 * R)), rel=3e-3)
    made = closed(form_of_bodies(found.made, "drum"))
    assert made.volume == pytest.approx(body.volume, rel=1e-6)
    far = np.linalg.norm(made.vertices[np.abs(made.vertices[:, 2]) < 7][:, :2], axis=1)
    assert far.max() == pytest.approx(R + max(height, 0), abs=0.02)


def test_walls_drawn_in_leave_less(drum):
    plain, drawn = (raised(*drum, [SQUARE], 4.0, draft).made[0].volume_change for draft in (0.0, 20.0))
    inwards = 4 * np.tan(np.radians(20))
    frustum = 4 / 3 * (192 + (16 - 2 * inwards) * (12 - 2 * inwards)
                       + np.sqrt(192 * (16 - 2 * inwards) * (12 - 2 * inwards)))  # fmt: skip
    assert drawn / plain == pytest.approx(frustum / 768, rel=0.02)


def test_a_pocket_in_a_mesh_and_one_through_it(drum):
    form, blank = drum
    outline = inset(blank, 20.0, 5.0)
    deep = pocketed(form, blank, outline, 3.0)
    area = sum(abs(contour.area) for contour in outline)
    assert deep.made[0].volume_change == pytest.approx(-3 * area * (1 - 3 / (2 * R)), rel=3e-3)
    shell = trimesh.creation.annulus(R - 4, R, H, sections=180)
    hollow = form_from_triangles(read_triangles(shell.export(file_type="stl"), "a.stl", "mm"), "shell")
    outer = max((f for f in hollow.faces if f.kind != "plane"), key=lambda face: face.area)
    around = develop(hollow, [outer.number], hold=Hold(np.array([0.0, -R, 0.0]), np.array([1.0, 0, 0])))
    through = pocketed(hollow, around, (SQUARE,), None)
    assert any("goes through the wall" in said for said in through.messages)
    assert through.made[0].volume_change == pytest.approx(-192 * 4 * (1 - 4 / (2 * R)), rel=0.01)
    assert closed(form_of_bodies(through.made, "shell")).euler_number == closed(hollow).euler_number - 2


def test_the_blank_of_a_mesh_is_thickened_and_bent_back(drum):
    made, _ = thickened(*drum, 2.0, (), 0.0, True)
    assert sum(body.volume for body in made) == pytest.approx(np.pi * ((R + 2) ** 2 - R**2) * H, rel=1e-3)


def test_a_solid_that_stands_on_the_blank_of_a_mesh_is_bent_as_triangles(drum):
    stud = BRepPrimAPI_MakeBox(gp_Pnt(-8, -6, -0.5), gp_Pnt(8, 6, 3)).Shape()
    form, blank = drum
    body, twin = bent(form, blank, named_shapes_bytes([("stud", stud)]), "stud.step", Placement(mirror="zx"))
    assert (body.by, body.crosses, body.depth_min, body.depth_max) == ("mesh", True, -0.5, 3.0)
    assert body.volume == pytest.approx(192 * 3.5 * (1 + 2.5 / 2 / R), rel=1e-3)
    assert twin.box[4] == pytest.approx(-body.box[1])
    line = Contour.polyline([[-20, 5], [20, -5]], layer="MARK")
    with pytest.raises(CannotBeDone, match="take the form as STEP"):
        swept(tracks(form, blank.correspondence, [line])[0], SQUARE, "surface")


def test_where_the_kernel_finds_no_body_it_is_made_of_triangles_and_that_is_said(form, monkeypatch):
    given = form("tube")
    blank = develop(given, [1], hold=Hold(np.array([0.0, -50, 60]), np.array([1.0, 0, 0])))
    exact = raised(given, blank, [SQUARE], 3.0).made[0]

    def fails(*_):
        raise CannotBeDone("The kernel finds no body.")

    monkeypatch.setattr(raising, "united", fails)
    found = raised(given, blank, [SQUARE], 3.0)
    assert found.made[0].by == "mesh"
    assert "made of triangles" in found.messages[-1]
    assert found.made[0].volume_change == pytest.approx(exact.volume_change, rel=0.01)
    assert closed(form_of_bodies(found.made, "tube")).volume == pytest.approx(exact.volume, rel=1e-3)


def test_an_open_mesh_gets_the_pieces_themselves(drum):
    form, _ = drum
    side = form_from_triangles(
        read_triangles(trimesh.Trimesh(*_side(form)).export(file_type="stl"), "a.stl", "mm"), "side"
    )
    there = develop(side, [1], hold=Hold(np.array([0.0, -R, 0.0]), np.array([1.0, 0, 0])))
    (piece,) = raised(side, there, [SQUARE], 2.0).made
    assert (piece.depth_min, piece.depth_max) == (0.0, 2.0)
    assert piece.volume == pytest.approx(192 * 2 * (1 + 1 / R), rel=3e-3)


def _side(form):
    mesh = next(m for f, m in zip(form.faces, form.meshes, strict=True) if f.kind != "plane")
    return mesh.points, mesh.triangles


def test_what_the_kernel_leaves_out_without_a_word_is_made_by_mesh():
    """A pocket in a part of a ring: the kernel said it was cut, and the body was as it had been."""
    major, minor = 49.96476896875414, 10.877913525800528
    ring = read_step_bytes(shape_bytes(BRepPrimAPI_MakeTorus(major, minor, -0.8, 0.8, 1.6).Shape(), "ring"), "ring")
    blank = develop(ring, [1], "relaxed")
    low, high = np.reshape(blank.bounds, (2, 2))
    middle = (low + high) / 2 + [-4.351, 1.759]
    eight = (np.arange(8) + 0.5) * np.pi / 4 + np.radians(9.26)
    points = middle + 1.263 / np.cos(np.pi / 8) * np.column_stack([np.cos(eight), np.sin(eight)])
    (body,) = raised(ring, blank, [Contour.polyline(points, True)], -0.7483).made
    wanted = -0.7483 * 8 * np.tan(np.pi / 8) * 1.263**2
    assert body.volume_change == pytest.approx(wanted, rel=0.1) and body.by == "mesh"
