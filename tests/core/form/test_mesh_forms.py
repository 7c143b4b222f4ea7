"""Meshes as forms: read, mended, split into faces, developed."""

from __future__ import annotations

import numpy as np
import pytest
import trimesh

from tests.meshes import form_of, given
from zuschnitt.core.develop.developing import develop
from zuschnitt.core.errors import Refused
from zuschnitt.core.files.mesh_file import read_triangles
from zuschnitt.core.form.build import turned_body
from zuschnitt.core.form.mesh_form import form_from_triangles
from zuschnitt.core.mesh.crossing import crossing
from zuschnitt.core.mesh.given import Triangles
from zuschnitt.core.mesh.mesh_surface import MeshSurface
from zuschnitt.core.mesh.opening import boundary_rings, characteristic, cuts_to_disc, opened
from zuschnitt.core.panels.panels import panels


def tube(sections: int = 64) -> trimesh.Trimesh:
    made = trimesh.creation.cylinder(50, 120, sections=sections)
    made.update_faces(np.abs(made.face_normals[:, 2]) < 0.5)
    return made


@pytest.mark.parametrize("ending", ["stl", "obj", "ply", "3mf"])
def test_every_kind_of_file_gives_the_same_form(ending):
    box = trimesh.creation.box((100, 60, 40))
    content = box.export(file_type=ending)
    content = content.encode() if isinstance(content, str) else content
    form = form_from_triangles(read_triangles(content, f"box.{ending}", "mm"), f"box.{ending}")
    assert [face.kind for face in form.faces] == ["plane"] * 6
    assert form.area(range(1, 7)) == pytest.approx(2 * (6000 + 4000 + 2400), rel=1e-6)
    assert sorted(len(face.neighbours) for face in form.faces) == [4] * 6
    assert len(form.edges) == 12 and len(form.bodies) == 1


@pytest.mark.parametrize(("unit", "factor"), [("cm", 10), ("in", 25.4), ("m", 1000)])
def test_a_unit_that_is_asked_for_is_taken(unit, factor):
    content = trimesh.creation.box((2, 3, 4)).export(file_type="stl")
    found = read_triangles(content, "box.stl", unit)
    assert np.ptp(found.points, axis=0) == pytest.approx(np.array([2, 3, 4]) * factor)
    assert not found.messages


def test_a_unit_is_guessed_and_said():
    small = read_triangles(trimesh.creation.box((0.2, 0.3, 0.4)).export(file_type="stl"), "box.stl")
    assert small.unit == "m" and "taken to be in m" in small.messages[0]
    assert np.ptp(small.points, axis=0) == pytest.approx([200, 300, 400])


def test_a_box_unfolds_exactly_into_one_piece():
    blank = develop(form_of(trimesh.creation.box((100, 60, 40))), range(1, 7))
    assert blank.way == "exact" and blank.figures.pieces == 1
    assert blank.figures.area_blank == pytest.approx(24800, rel=1e-9)
    assert len(blank.folds) == 5


@pytest.mark.parametrize("sections", [12, 64, 200])
def test_a_tube_of_triangles_is_developed_without_stretch(sections):
    form = form_of(tube(sections), crease=45)
    (face,) = form.faces
    assert face.kind == "ruled" and face.developable
    blank = develop(form, [1])
    around = sections * 2 * 50 * np.sin(np.pi / sections)
    assert blank.way == "exact"
    assert blank.figures.area_blank == pytest.approx(around * 120, rel=1e-6)
    assert blank.figures.outline_length == pytest.approx(2 * (around + 120), rel=1e-6)
    assert blank.figures.round_trip_max < 1e-6


def test_a_closed_cylinder_has_its_caps_as_pieces():
    form = form_of(trimesh.creation.cylinder(50, 120, sections=64))
    blank = develop(form, [1, 2, 3])
    assert blank.way == "exact" and blank.figures.pieces == 3
    assert blank.figures.area_blank == pytest.approx(form.area([1, 2, 3]), rel=1e-9)


def test_a_dome_is_relaxed_and_points_lie_on_its_triangles():
    ball = trimesh.creation.icosphere(4, 50)
    ball.update_faces(ball.triangles_center[:, 2] > 25)
    form = form_of(ball)
    blank = develop(form, [1])
    assert blank.way == "relaxed" and blank.figures.flipped == 0
    assert blank.figures.round_trip_max < 1e-6
    points = blank.correspondence.to_form(np.array([[0.0, 0.0], [3.0, 2.0]])).points
    assert trimesh.proximity.closest_point_naive(ball, points)[1].max() < 1e-9


@pytest.mark.parametrize(
    ("mesh", "rings"),
    [
        (trimesh.creation.icosphere(3, 50), 1),
        (trimesh.creation.torus(60, 20, major_sections=24, minor_sections=12), 1),
        (tube(24), 1),
        (trimesh.creation.annulus(20, 50, 0.001), 1),
    ],
    ids=["ball", "torus", "tube", "ring with a thickness"],
)
def test_closed_meshes_are_cut_to_a_disc(mesh, rings):
    mesh.merge_vertices()
    triangles, points = np.asarray(mesh.faces), np.asarray(mesh.vertices)
    now, _ = opened(triangles, len(points), cuts_to_disc(points, triangles))
    assert characteristic(now) == 1
    assert len(boundary_rings(now)) == rings


def test_a_hole_in_a_plate_stays_a_hole():
    plate = trimesh.creation.annulus(20, 50, 4)
    plate.update_faces(plate.face_normals[:, 2] > 0.5)
    form = form_of(plate)
    assert len(form.faces[0].loops) == 2
    assert develop(form, [1]).figures.area_blank == pytest.approx(form.area([1]), rel=1e-9)


def test_discs_that_hang_together_at_a_point_need_no_cut():
    """It looked for a way from one to the other a thousand times, and then refused them."""
    points = np.array([[0, 0, 0], [2, 0, 0], [1, 2, 1], [-2, 0, 0], [-1, -2, 1.0]])
    assert len(cuts_to_disc(points, np.array([[0, 1, 2], [0, 3, 4]]))) == 0


def test_the_nearest_point_is_found_among_slivers():
    mesh = tube(12)  # triangles of 120 mm by 26 mm
    uv = np.zeros((len(mesh.vertices), 2))
    surface = MeshSurface(np.asarray(mesh.vertices), uv, np.asarray(mesh.faces))
    random = np.random.default_rng(3)
    points = random.normal(size=(300, 3)) * 60
    surface = form_of(mesh, 45).faces[0].surface
    feet = surface.evaluate(surface.project(points))
    expected = trimesh.proximity.closest_point_naive(mesh, points)[1]
    assert np.linalg.norm(feet - points, axis=1) == pytest.approx(expected, abs=1e-9)


def spoiled(kind: str) -> trimesh.Trimesh:
    box = trimesh.creation.box((100, 60, 40))
    points, triangles = np.asarray(box.vertices), np.asarray(box.faces).copy()
    if kind == "turned over":
        triangles[:3] = triangles[:3, ::-1]
    elif kind == "gap":
        points = np.vstack([points[triangles.ravel()]])
        points = points + np.random.default_rng(1).uniform(-0.004, 0.004, points.shape)
        triangles = np.arange(36).reshape(12, 3)
    elif kind == "twice":
        triangles = np.vstack([triangles, triangles[:2]])
    elif kind == "no area":
        triangles = np.vstack([triangles, [[0, 0, 1]]])
    elif kind == "fin":
        points = np.vstack([points, [[200, 200, 200]]])
        triangles = np.vstack([triangles, [[triangles[0, 0], triangles[0, 1], len(points) - 1]]])
    return trimesh.Trimesh(points, triangles, process=False)


@pytest.mark.parametrize(
    ("kind", "said"),
    [
        ("turned over", "facing the other way"),
        ("gap", "Gaps were welded"),
        ("twice", "lying upon others"),
        ("no area", "without area"),
        ("fin", "more than two triangles meet"),
    ],
)
def test_what_is_wrong_with_triangles_is_mended_and_said(kind, said):
    form = form_of(spoiled(kind), crease=45)
    assert any(said in message for message in form.messages)
    box = [face for face in form.faces if face.area < 7000]
    assert sum(face.area for face in box) == pytest.approx(24800, rel=1e-3)
    outward = [mesh.normals.mean(axis=0) @ mesh.points.mean(axis=0) for mesh in form.meshes[:6]]
    assert min(outward) > 0


def test_two_bodies_keep_their_names():
    scene = trimesh.Scene({
        "hopper": trimesh.creation.box((10, 10, 10)),
        "rim": trimesh.creation.box((5, 5, 5), trimesh.transformations.translation_matrix((40, 0, 0))),
    })  # fmt: skip
    form = form_from_triangles(read_triangles(scene.export(file_type="3mf"), "two.3mf"), "two.3mf")
    assert {body.name: body.faces for body in form.bodies} == {
        "hopper": (1, 2, 3, 4, 5, 6), "rim": (7, 8, 9, 10, 11, 12),
    }  # fmt: skip


def test_bodies_of_built_forms_are_what_hangs_together():
    assert [body.faces for body in turned_body([(60, 0), (200, 420), (200, 640)]).bodies] == [(1, 2)]
    lines = [np.array([[0, y, 0], [100.0, y, 0]]) for y in (0.0, 30.0, 70.0)]
    assert [body.faces for body in panels(lines, False, "x").form.bodies] == [(1,), (2,)]


def moebius() -> trimesh.Trimesh:
    angle = np.linspace(0, 2 * np.pi, 61)[:-1]
    across = np.array([-10.0, 10.0])
    around, out = np.meshgrid(angle, across, indexing="ij")
    r = 60 + out * np.cos(around / 2)
    points = np.stack([r * np.cos(around), r * np.sin(around), out * np.sin(around / 2)], axis=-1).reshape(-1, 3)
    triangles = []
    for i in range(60):
        a, b = 2 * i, 2 * i + 1
        c, d = (2 * i + 2, 2 * i + 3) if i < 59 else (1, 0)
        triangles += [[a, c, b], [b, c, d]]
    return trimesh.Trimesh(points, triangles, process=False)


def test_a_one_sided_strip_is_refused():
    with pytest.raises(Refused, match="only one side"):
        form_of(moebius())


@pytest.mark.parametrize(
    ("content", "name", "why"),
    [
        (b"", "nothing.stl", "empty"),
        (b"solid nothing\nendsolid nothing\n", "none.stl", "no triangles|damaged"),
        (b"\x00" * 200, "zeros.stl", "no triangles|damaged"),
        (b"ply\nformat ascii 1.0\n", "short.ply", "damaged|no triangles"),
        (b"PK not really", "broken.3mf", "damaged"),
        (b"v 0 0 0\nv 1 0 0\nv 0 nan 0\nf 1 2 3\n", "nan.obj", "not finite"),
        (b"v 0 0 0\nv 1 0 0\nv 2 0 0\nf 1 2 3\n", "flat.obj", "no triangle with an area"),
        (b"v 0 0 0\nv 1 0 0\nf 1 2 9\n", "lost.obj", "damaged|name points"),
    ],
)
def test_bad_files_are_refused_in_one_sentence(content, name, why):
    with pytest.raises(Refused, match=why):
        form_from_triangles(read_triangles(content, name), name)


def test_too_many_faces_are_refused_with_what_to_do():
    rough = trimesh.creation.icosphere(6, 50)
    with pytest.raises(Refused, match="larger crease angle"):
        form_from_triangles(given(rough), "rough.stl", crease=0.01)


def test_a_mesh_finer_than_asked_is_laid_anew():
    ball = trimesh.creation.icosphere(5, 50)
    ball.update_faces(ball.triangles_center[:, 2] > 25)
    blank = develop(form_of(ball), [1], edge_length=6.0)
    assert blank.figures.triangles < len(ball.faces) / 4
    assert blank.figures.round_trip_max < 1e-6


def bent_over(gap: float) -> trimesh.Trimesh:
    """A strip that comes round to where it began, ``gap`` mm below it, or through itself where that is negative."""
    angle = np.linspace(0, 2.2 * np.pi, 120)
    radius = 40 - gap * angle / angle[-1] * 1.2
    if gap < 0:
        radius = np.interp(angle / np.pi, [0, 0.2, 2, 2.2], [43, 37, 37, 43])
    points = np.stack([np.stack([radius * np.cos(angle), radius * np.sin(angle), 0 * angle + z]) for z in (0, 20.0)])
    points = points.transpose(2, 0, 1).reshape(-1, 3)
    i = 2 * np.arange(119)[:, None]
    triangles = np.vstack([i + [0, 2, 1], i + [1, 2, 3]])
    return trimesh.Trimesh(points, triangles, process=False)


def test_a_sheet_that_passes_through_itself_is_said_with_the_place():
    form = form_of(bent_over(-1.0))
    (said,) = [message for message in form.messages if "pass through each other" in message]
    x, y, _ = (float(v) for v in said.split("near ")[1].split(";")[0].split(", "))
    assert 36 < np.hypot(x, y) < 44
    assert form_of(bent_over(5.0)).messages == ()


def test_bodies_that_stand_in_each_other_are_no_fault():
    ball = trimesh.creation.icosphere(subdivisions=2, radius=50)
    other = ball.copy()
    other.apply_translation([60, 0, 0])
    both = trimesh.util.concatenate([ball, other])
    assert form_of(both).messages == ()
    pairs, places = crossing(np.asarray(both.vertices), np.asarray(both.faces))
    assert len(pairs) > 20 and np.abs(places[:, 0] - 30).max() < 1e-6  # the mirror plane between them


def test_crossings_are_those_that_every_pair_shows():
    """On random triangles: against plain arithmetic for each edge and each triangle."""
    random = np.random.default_rng(6)
    corners = random.uniform(0, 10, (100, 1, 3)) + random.uniform(-1.5, 1.5, (100, 3, 3))
    points, triangles = corners.reshape(-1, 3), np.arange(300).reshape(-1, 3)
    expected = set()
    for a in range(100):
        for b in range(100):
            if a == b:
                continue
            p, q, r = corners[b]
            for k in range(3):
                s, e = corners[a][k], corners[a][(k + 1) % 3]
                try:
                    t, u, v = np.linalg.solve(np.stack([s - e, q - p, r - p], axis=1), s - p)
                except np.linalg.LinAlgError:
                    continue
                if 0 < t < 1 and u > 0 and v > 0 and u + v < 1:
                    expected.add((min(a, b), max(a, b)))
    found, _ = crossing(points, triangles)
    assert set(map(tuple, found.tolist())) == expected and len(expected) > 10


@pytest.mark.parametrize("sections", [24, 96])
def test_a_cone_of_triangles_is_cut_to_its_tip_and_laid_exactly(sections):
    mesh = trimesh.creation.cone(60, 90, sections=sections)
    mesh.update_faces(mesh.triangles_center[:, 2] > 1e-6)
    form = form_of(mesh)
    (face,) = form.faces
    assert face.developable
    blank = develop(form, [1])
    assert blank.way == "exact" and blank.figures.pieces == 1
    assert blank.figures.area_blank == pytest.approx(mesh.area, rel=1e-6)
    chord = 2 * 60 * np.sin(np.pi / sections)
    assert blank.figures.outline_length == pytest.approx(2 * np.hypot(60, 90) + sections * chord, rel=1e-6)


def test_a_dome_of_triangles_is_no_cone():
    dome = trimesh.creation.icosphere(subdivisions=3, radius=50)
    dome.update_faces(dome.triangles_center[:, 2] > 0)
    assert not form_of(dome).faces[0].developable


def test_a_cloud_of_loose_triangles_is_refused_before_anything_is_made_of_it():
    random = np.random.default_rng(0)
    corners = (random.random((2_400, 1, 3)) * 500 + random.random((2_400, 3, 3)) * 4).reshape(-1, 3)
    given = Triangles(corners, np.arange(7_200).reshape(-1, 3), np.zeros(2_400, int), ("cloud",), "mm")
    with pytest.raises(Refused, match="bodies that hang together nowhere"):
        form_from_triangles(given, "cloud")
