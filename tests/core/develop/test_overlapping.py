"""Sheets that come round on themselves are taken apart by the shortest cut, and it is said."""

from __future__ import annotations

import numpy as np
import pytest
import trimesh

from tests.meshes import form_of
from tests.outlines import pieces_of
from zuschnitt.core.develop.assembly import Assembly
from zuschnitt.core.develop.developing import develop
from zuschnitt.core.develop.overlapping import lies_over_itself, separating
from zuschnitt.core.mesh.opening import opened


def strip(turns: float, around: int = 90, across: int = 7, pitch: float = 50.0):
    """A helical flight from radius 20 to 60: points (n, 3), triangles (t, 3)."""
    angle, radius = np.meshgrid(np.linspace(0, 2 * np.pi * turns, around), np.linspace(20, 60, across), indexing="ij")
    points = np.stack([radius * np.cos(angle), radius * np.sin(angle), pitch * angle / 2 / np.pi], axis=-1)
    index = np.arange(around * across).reshape(around, across)
    a, b, c, d = index[:-1, :-1], index[1:, :-1], index[1:, 1:], index[:-1, 1:]
    triangles = np.concatenate([np.stack(t, axis=-1).reshape(-1, 3) for t in ([a, b, c], [a, c, d])])
    return points.reshape(-1, 3), triangles


@pytest.mark.parametrize("turns, parts", [(0.9, [1]), (1.6, [2]), (2.5, [3, 4])])
def test_a_helical_flight_of_more_than_one_turn(turns, parts):
    form = form_of(trimesh.Trimesh(*strip(turns), process=False))
    blank = develop(form, [1], assembly=Assembly(labelled=True))
    assert blank.figures.pieces in parts
    laid = pieces_of(blank.outline)
    assert len(laid) == blank.figures.pieces and all(piece.is_valid for piece in laid)
    assert sum(piece.area for piece in laid) == pytest.approx(form.area([1]), rel=0.01)
    assert blank.figures.round_trip_max < 1e-6
    assert not any("overlaps itself" in message for message in blank.messages)
    said = [message for message in blank.messages if "taken apart along" in message]
    assert len(said) == (blank.figures.pieces > 1)
    if said:  # right across, each time
        cuts = blank.figures.pieces - 1
        assert float(said[0].split("along ")[1].split(" mm")[0]) == pytest.approx(40 * cuts, rel=0.15)
        assert sum(side.label.startswith("r") for side in blank.sides) == 2 * cuts


def test_the_cut_is_the_shortest_that_separates():
    """A flat ring of a turn and a quarter that narrows in one place: it is cut there."""
    points, triangles = strip(1.25, pitch=0.0)
    angle = np.repeat(np.linspace(0, 2.5 * np.pi, 90), 7)
    narrow = np.abs(angle - 1.25 * np.pi) < 0.3
    radius = np.hypot(*points[:, :2].T)
    points[narrow, :2] *= ((40 + (radius - 40) / 4) / radius)[narrow, None]
    flat = points[:, :2]
    assert lies_over_itself(flat, triangles)
    keys = separating(points, flat, triangles)
    ends = np.stack([keys // len(points), keys % len(points)], axis=1)
    assert np.linalg.norm(points[ends[:, 0]] - points[ends[:, 1]], axis=1).sum() == pytest.approx(10, rel=0.05)
    _, old = opened(triangles, len(points), keys)
    assert len(old) == len(points) + 7


def test_a_sheet_that_lies_beside_itself_is_left_alone():
    points, triangles = strip(0.9, pitch=0.0)
    assert not lies_over_itself(points[:, :2], triangles)
    assert len(separating(points, points[:, :2], triangles)) == 0
