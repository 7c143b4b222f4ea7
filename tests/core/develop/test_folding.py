"""Stages between blank and form: they begin and end where they should, and what is developable keeps its lengths."""

from __future__ import annotations

import numpy as np
import pytest

from zuschnitt.core.develop.developing import develop
from zuschnitt.core.develop.folding import fold_mesh
from zuschnitt.core.develop.lighter import lighter
from zuschnitt.core.developable.transition import transition
from zuschnitt.core.form.build import domed_lid, turned_body
from zuschnitt.core.mesh.triangles import boundary_rings
from zuschnitt.core.panels.panels import panels

TURN = np.linspace(0, 2 * np.pi, 121)


def cone_panel():
    round_ = np.column_stack([np.cos(TURN), np.sin(TURN)])
    rings = [np.column_stack([r * round_, np.full(121, z)]) for r, z in ((40.0, 0.0), (25.0, 60.0))]
    return panels(rings, False, "cone").form


FORMS = {
    "a cone and a tube": lambda: turned_body([(60, 0), (200, 420), (200, 640)]),
    "planes and cones": lambda: transition(200, 140, 120, 150, (20, 10)),
    "a ruled panel": cone_panel,
}


def edges(points, triangles):
    corner = points[triangles]
    return np.linalg.norm(corner - np.roll(corner, 1, axis=1), axis=2)


def area(points, triangles):
    corner = points[triangles]
    return np.linalg.norm(np.cross(corner[:, 1] - corner[:, 0], corner[:, 2] - corner[:, 0]), axis=1).sum() / 2


@pytest.mark.parametrize("name", FORMS)
def test_a_developable_stays_isometric_all_the_way(name):
    form = FORMS[name]()
    blank = develop(form, [face.number for face in form.faces])
    mesh = fold_mesh(form, blank)
    flat = np.column_stack([mesh.points_blank, np.zeros(len(mesh.points_blank))])
    assert np.abs(mesh.stage(0) - flat).max() < 1e-6
    assert np.abs(mesh.stage(1) - mesh.points_form).max() < 1e-6
    for share in (0.0, 0.05, 0.3, 0.6, 0.95, 1.0):
        stage = mesh.stage(share)
        assert area(stage, mesh.triangles) == pytest.approx(blank.figures.area_blank, rel=1e-4)
        stretch = np.abs(edges(stage, mesh.triangles) / edges(flat, mesh.triangles) - 1)
        assert np.quantile(stretch, 0.95) < 1e-3
        assert stretch.max() < 0.1  # where the tips of cones are, bending knows no bounds


def test_half_way_a_tube_is_a_half_tube():
    """Bending grows evenly: at half the way the radius is twice as large."""
    form = turned_body([(50, 0), (50, 100)])
    mesh = fold_mesh(form, develop(form, [1]))
    stage = mesh.stage(0.5)
    # the points lie on a cylinder of twice the radius: fitted in the plane square to the rulings
    rulings = mesh.points_form[:, 2]
    flat = np.linalg.lstsq(np.column_stack([rulings, np.ones(len(rulings))]), stage, rcond=None)[0][0]
    axis = flat / np.linalg.norm(flat)
    basis = np.linalg.svd(axis[None])[2][1:]
    plane = stage @ basis.T
    matrix = np.column_stack([2 * plane, np.ones(len(plane))])
    x, y, c = np.linalg.lstsq(matrix, (plane**2).sum(axis=1), rcond=None)[0]
    radius = np.sqrt(c + x * x + y * y)
    assert radius == pytest.approx(100, rel=2e-3)
    assert np.abs(np.hypot(plane[:, 0] - x, plane[:, 1] - y) - radius).max() < 0.05


def test_what_stretches_goes_from_one_to_the_other_without_a_jump():
    form = domed_lid(240, 180, 36, 40, 0)
    mesh = fold_mesh(form, develop(form, [1], "relaxed"))
    before = mesh.stage(0.0)
    for share in np.linspace(0.1, 1, 10):
        after = mesh.stage(float(share))
        assert np.linalg.norm(after - before, axis=1).max() < 20
        before = after
    assert np.abs(before - mesh.points_form).max() < 1e-6


def test_a_lighter_mesh_is_of_the_same_points_over_the_same_blank():
    """A lid with an opening: fewer triangles, the rim's corners kept, the same stages but for longer chords."""
    form = domed_lid(240, 150, 50, 20, 40)
    blank = develop(form, [1], way="relaxed", edge_length=4.0)
    mesh = fold_mesh(form, blank)
    light = lighter(mesh, 1000)
    assert len(mesh.triangles) > 3000 and 500 < len(light.triangles) < 1500
    assert len(boundary_rings(light.triangles)) == len(boundary_rings(mesh.triangles)) == 2
    known = {tuple(point) for point in mesh.points_blank.tolist()}
    assert all(tuple(point) in known for point in light.points_blank.tolist())
    low, high = light.points_blank.min(axis=0), light.points_blank.max(axis=0)
    assert low == pytest.approx(mesh.points_blank.min(axis=0), abs=0.5)
    assert high == pytest.approx(mesh.points_blank.max(axis=0), abs=0.5)
    for share in (0.0, 0.5, 1.0):
        one, other = (area(m.stage(share), m.triangles) for m in (light, mesh))
        assert one == pytest.approx(other, rel=5e-3)
    assert lighter(light, 10_000) is light
