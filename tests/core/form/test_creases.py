"""Display meshes of faces with creases in them: triangles end at a crease, on both faces alike."""

import itertools

import numpy as np
import pytest

from zuschnitt.core.panels.panels import panels

HEIGHTS = (0.0, 50.0, 90.0)


def outline(size, height, closed):
    """An L of two straight lines, or a whole square, at a height."""
    corners = np.array([[1.0, -1], [1, 1], [-1, 1], [-1, -1], [1, -1]])[: None if closed else 3] * size
    along = np.vstack([np.linspace(a, b, 40, endpoint=False) for a, b in itertools.pairwise(corners)])
    points = np.vstack([along, corners[-1:]])
    return np.column_stack([points, np.full(len(points), height)])


def display(form):
    return [(mesh.points[mesh.triangles], face) for face, mesh in zip(form.faces, form.meshes, strict=True)]


@pytest.mark.parametrize("closed", [False, True])
def test_the_display_mesh_does_not_cut_the_corners_of_a_panel(closed):
    form = panels(
        [outline(s, z, closed) for s, z in zip((40, 30, 30), HEIGHTS, strict=True)][: 2 if closed else 3],
        False,
        "square",
    ).form
    for corners, face in display(form):
        doubled = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
        assert np.linalg.norm(doubled, axis=1).sum() / 2 == pytest.approx(face.area, rel=1e-9)
        middles = (corners + np.roll(corners, 1, axis=1)).reshape(-1, 3) / 2
        feet = face.surface.evaluate(face.surface.project(middles))
        assert np.abs(feet - middles).max() < 1e-4


def test_neighbouring_panels_share_the_spans_of_their_edge():
    square = outline(40, 0.0, True)
    turn = np.linspace(0, 2 * np.pi, 200)
    circle = np.column_stack([30 * np.cos(turn), 30 * np.sin(turn), np.full(200, 50.0)])
    form = panels([square, circle, outline(35, 100.0, True)], False, "waist").form
    rims = []
    for mesh in form.meshes:
        edges = np.sort(np.vstack([mesh.triangles[:, [0, 1]], mesh.triangles[:, [1, 2]], mesh.triangles[:, [2, 0]]]))
        unique, count = np.unique(edges, axis=0, return_counts=True)
        ends = mesh.points[unique[count == 1]]
        mine = ends[(np.abs(ends[:, :, 2] - 50) < 1e-9).all(axis=1)].mean(axis=1)
        rims.append(mine[np.argsort(np.arctan2(mine[:, 1], mine[:, 0]))])
    assert len(rims[0]) == len(rims[1]) > 20
    assert np.abs(rims[0] - rims[1]).max() < 1e-5


def test_near_the_tip_of_a_fan_every_point_of_the_flat_comes_back():
    form = panels([outline(40, 0.0, False), outline(30, 50.0, False)], False, "fans").form
    flat = form.faces[0].flat
    random = np.random.default_rng(3)
    uv = np.column_stack([random.random(20_000), 1 - random.random(20_000) ** 6])
    points = flat.to_plane(uv)
    back = flat.from_plane(points)
    assert np.abs(flat.to_plane(back) - points).max() < 1e-7
    assert np.abs(form.faces[0].surface.evaluate(back) - form.faces[0].surface.evaluate(uv)).max() < 1e-6
    tip = flat.to_plane(np.array([[0.48, 1.0]]))
    beside = tip + random.normal(0, 0.05, (400, 2))  # beyond the outline too, where what is nearest is good enough
    assert np.abs(flat.to_plane(flat.from_plane(beside)) - beside).max() < 0.5
