"""STEP in and out, against the kernel's own measures."""

from __future__ import annotations

import numpy as np
import pytest
from OCP.BRepGProp import BRepGProp
from OCP.GProp import GProp_GProps

from tests import parts
from zuschnitt.core.errors import Refused
from zuschnitt.core.form.locator import foot
from zuschnitt.core.geometry.curves import Line, Spline
from zuschnitt.core.kernel.step_in import read_step, read_step_curves
from zuschnitt.core.kernel.step_out import step_bytes


@pytest.mark.parametrize(
    "name, kinds",
    {
        "box": {"plane": 6},
        "cone": {"cone": 1, "plane": 2},
        "tube": {"cylinder": 1, "plane": 2},
        "dome": {"sphere": 1, "plane": 1},
        "ring": {"torus": 1},
        "rounded": {"plane": 6, "cylinder": 12, "sphere": 8},
        "vase": {"freeform": 1},
        "wave": {"ruled": 1},
        "bend": {"plane": 2, "cylinder": 1},
    }.items(),
)
def test_faces_have_their_kinds(form, name, kinds):
    found = [face.kind for face in form(name).faces]
    assert {kind: found.count(kind) for kind in set(found)} == kinds


UNSURE = ("wave", "sine", "waves", "ball_splines")
"""Parts whose areas the kernel itself integrates too coarsely."""


@pytest.mark.parametrize("name", [n for n in parts.PARTS if n not in ("curve", "box_inch", *UNSURE)])
def test_areas_agree_with_the_kernels(form, name):
    measured = GProp_GProps()
    BRepGProp.SurfaceProperties_s(parts.PARTS[name](), measured, 1e-9)
    assert sum(face.area for face in form(name).faces) == pytest.approx(measured.Mass(), rel=2e-7)


def test_the_area_of_an_extrusion_is_its_profile_times_its_width(form):
    """Against the length of a fine polyline: the kernel's own rule is 0.15 % off for this one."""
    face = form("wave").faces[0]
    u0, u1, *_ = face.surface.bounds
    profile = face.surface.profile.evaluate(np.linspace(u0, u1, 200_001))
    length = np.linalg.norm(np.diff(profile, axis=0), axis=1).sum()
    assert face.area == pytest.approx(70 * length, rel=1e-9)


def test_units_of_the_file_are_respected(form):
    inches, millimetres = form("box_inch"), form("box")
    assert (inches.unit, millimetres.unit) == ("in", "mm")
    assert inches.size == pytest.approx(millimetres.size, rel=1e-9)


def test_neighbours_and_smooth_neighbours(form):
    bend = form("bend")
    middle = next(face for face in bend.faces if face.kind == "cylinder")
    ends = [face.number for face in bend.faces if face.kind == "plane"]
    assert list(middle.neighbours) == ends and list(middle.smooth) == ends
    assert bend.smooth_chain([ends[0]]) == (1, 2, 3)
    assert all(len(face.neighbours) == 4 and not face.smooth for face in form("box").faces)
    assert middle.radius == parts.BEND_RADIUS


@pytest.mark.parametrize(
    "name", ["box", "cone", "apex", "tube", "dome", "ball", "ring", "rounded", "vase", "quarter_dome"]
)
def test_triangles_lie_on_the_surface_and_face_outwards(form, name):
    part = form(name)
    for face, mesh in zip(part.faces, part.meshes, strict=True):
        assert np.abs(face.surface.evaluate(mesh.uv) - mesh.points).max() < 1e-9
        corners = mesh.points[mesh.triangles]
        flat = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
        assert np.linalg.norm(flat, axis=1).sum() / 2 == pytest.approx(face.area, rel=0.02)
        assert (np.einsum("ij,ij->i", flat, mesh.normals[mesh.triangles[:, 0]]) > 0).mean() > 0.99


def test_solids_face_outwards(form):
    """The volume by the divergence theorem is positive, and that of the box."""
    total = 0.0
    for mesh in form("box").meshes:
        a, b, c = np.moveaxis(mesh.points[mesh.triangles], 1, 0)
        total += np.einsum("ij,ij->i", a, np.cross(b, c)).sum() / 6
    assert total == pytest.approx(100 * 60 * 40)


def test_curves_written_are_read_back(tmp_path):
    t = np.linspace(0, 1, 30)
    helix = np.stack([20 * np.cos(t), 20 * np.sin(t), 9 * t], axis=1)
    from zuschnitt.core.geometry.smooth import smooth_through

    spline = smooth_through(helix)
    assert isinstance(spline, Spline)
    (tmp_path / "out.step").write_bytes(step_bytes([spline, Line.between([0, 0, 0], [3, 4, 0])]))
    back = read_step_curves(tmp_path / "out.step", 400)
    lengths = sorted(np.linalg.norm(np.diff(curve, axis=0), axis=1).sum() for curve, _ in back)
    assert lengths == pytest.approx([5, np.hypot(20, 9)], rel=1e-5)
    assert b"B_SPLINE_CURVE" in (tmp_path / "out.step").read_bytes()


def test_a_step_with_curves_only_is_refused(step):
    with pytest.raises(Refused, match="holds no faces"):
        read_step(step("curve"))


@pytest.mark.parametrize("name, point, face", [("box", [100, 30, 20], 100.0), ("box", [50, 30, 41], 40.0)])
def test_the_nearest_face_is_found(form, name, point, face):
    found = form(name).face(foot(form(name), np.array(point, float))[0])
    assert np.abs(found.surface.frame.origin @ found.outward(np.zeros((1, 2)))[0]) == pytest.approx(face)


def test_small_faces_far_from_the_origin_have_an_area(tmp_path):
    """Their extent was taken for their distance from it."""
    from OCP.BRepPrimAPI import BRepPrimAPI_MakeBox
    from OCP.gp import gp_Pnt

    from zuschnitt.core.kernel.step_out import shape_bytes

    file = tmp_path / "pin.step"
    file.write_bytes(shape_bytes(BRepPrimAPI_MakeBox(gp_Pnt(3000, -2000, 500), 0.01, 0.01, 5).Shape(), "pin"))
    assert sorted(face.area for face in read_step(file).faces) == pytest.approx([1e-4] * 2 + [0.05] * 4)
