"""Bars along cuts that turn sharp corners: mitred, so that their volumes are those of the closed form."""

from __future__ import annotations

import numpy as np
import pytest
import trimesh

from zuschnitt.core.form_curves.stations import Way, stations
from zuschnitt.core.solids.bars import Bar, bars
from zuschnitt.core.solids.packing import unpacked
from zuschnitt.core.solids.triangulated import triangles_of

ALONG = Way(np.zeros(3), np.array([1.0, 0, 0]))
HIGH, DEEP = 40.0, 60.0
"""Of the box's section square to x."""


def made(given, bar, at=30.0):
    faces = [face.number for face in given.faces]
    found, _ = stations(given, faces, ALONG, [at])
    (body, *_), said = bars(given, faces, found, bar)
    return body, found[0], said


AREAS = {"round": np.pi * 4, "square": 16.0, "half-round": np.pi * 2, "triangle": 4 * np.sqrt(3)}


@pytest.mark.parametrize("kind", AREAS)
def test_round_a_box_it_is_as_long_as_the_line_of_its_centroids(kind, form):
    body, station, said = made(form("box"), Bar(kind, 4))
    off = {"half-round": 4 * 2 / (3 * np.pi)}.get(kind, 0.0)  # its centroid stands so far off the faces
    if kind != "triangle":
        assert body.volume == pytest.approx(AREAS[kind] * (2 * (HIGH + DEEP) + 8 * off), rel=1e-6)
    assert station.closed and not said
    points, triangles = triangles_of(unpacked(body.content))
    mesh = trimesh.Trimesh(points, triangles)
    assert mesh.is_watertight and mesh.is_winding_consistent
    assert mesh.volume == pytest.approx(body.volume, rel=5e-3)


def test_hollow_round_a_box(form):
    body, _, _ = made(form("box"), Bar("square", 4, wall=1))
    assert body.volume == pytest.approx((16 - 4) * 2 * (HIGH + DEEP), rel=1e-6)


@pytest.mark.parametrize(("keep", "sign"), [("outer", 1), ("inner", -1)])
def test_on_one_side_of_a_box(keep, sign, form):
    body, _, said = made(form("box"), Bar("square", 4, keep=keep))
    ring = sign * ((HIGH + 4 * sign) * (DEEP + 4 * sign) - HIGH * DEEP)
    assert body.volume == pytest.approx(4 * ring, rel=1e-6) and not said


def test_over_the_edges_of_a_tube(form):
    body, station, _ = made(form("tube"), Bar("square", 4))
    assert station.length == pytest.approx(2 * (120 + 80))
    assert body.volume == pytest.approx(16 * station.length, rel=1e-6)


@pytest.mark.parametrize("at", [9.0, 15.0, 20.0, 33.0])
def test_sides_of_a_bar_over_the_seam_of_its_cone(at, form):
    given = form("tip_sector")
    whole, outer, inner = (made(given, Bar("round", 4, keep=keep), at)[0] for keep in ("whole", "outer", "inner"))
    assert outer.volume + inner.volume == pytest.approx(whole.volume, rel=1e-5)
    assert 0.4 < outer.volume / whole.volume < 0.6


def test_a_groove_for_a_tongue_round_a_box(form):
    given = form("box")
    faces = [face.number for face in given.faces]
    found, _ = stations(given, faces, ALONG, [30.0])
    (bar, body), _ = bars(given, faces, found, Bar("square", 4, tongue=(2, 5, 0), groove=0.2))
    within = 2.2 * (HIGH * DEEP - (HIGH - 10) * (DEEP - 10))
    assert body.volume_change == pytest.approx(-within, rel=1e-6)
    assert bar.volume == pytest.approx(
        16 * 2 * (HIGH + DEEP) + 2 * ((HIGH - 4) * (DEEP - 4) - (HIGH - 10) * (DEEP - 10))
    )
