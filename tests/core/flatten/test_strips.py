"""Strips that turn far in the plane: they start from being rolled out, settle, and are taken apart where they overlap."""

from __future__ import annotations

import numpy as np
import pytest

from zuschnitt.core.develop.developing import develop
from zuschnitt.core.flatten.metric import Metric
from zuschnitt.core.flatten.newton import polished
from zuschnitt.core.flatten.pinned import Pinned
from zuschnitt.core.flatten.relaxed import relax
from zuschnitt.core.flatten.rolled_out import rolled_out
from zuschnitt.core.mesh.triangles import signed_double_areas


def flight(turns, inner, outer, pitch, around=400, across=7):
    """Points (n, 3) and triangles (t, 3) of a helical strip."""
    angle, radius = np.meshgrid(
        np.linspace(0, 2 * np.pi * turns, around), np.linspace(inner, outer, across), indexing="ij"
    )
    points = np.stack([radius * np.cos(angle), radius * np.sin(angle), pitch * angle / 2 / np.pi], axis=-1)
    index = np.arange(around * across).reshape(around, across)
    a, b, c, d = index[:-1, :-1], index[1:, :-1], index[1:, 1:], index[:-1, 1:]
    triangles = np.concatenate([np.stack(t, axis=-1).reshape(-1, 3) for t in ([a, b, d], [b, c, d])])
    return points.reshape(-1, 3), triangles[:, [0, 2, 1]]


@pytest.mark.parametrize("name, pieces", [("steep_strip", 2), ("strip_of_two_turns", 3)])
def test_a_strip_that_is_all_but_developable_hardly_stretches(form, name, pieces):
    blank = develop(form(name), [1])
    assert blank.way == "relaxed" and 2 <= blank.figures.pieces <= pieces + 1
    assert blank.figures.stretch_max < 0.01 and blank.figures.stretch_min > -0.01
    assert any("taken apart along" in message for message in blank.messages)
    assert not any("settled" in message for message in blank.messages)


@pytest.mark.parametrize("turns, inner, outer, pitch", [(0.95, 40, 50, 20), (1.5, 40, 50, 20), (2.5, 10, 40, 30)])
def test_a_poor_start_does_not_matter(turns, inner, outer, pitch):
    """Started from a straight strip, it comes out as from the annular sector that it nearly is."""
    points, triangles = flight(turns, inner, outer, pitch)
    angle, radius = np.repeat(np.linspace(0, 2 * np.pi * turns, 400), 7), np.hypot(*points[:, :2].T)
    middle, rise = (inner + outer) / 2, pitch / 2 / np.pi
    length = np.hypot(middle, rise)
    straight = np.stack([angle * length, middle - radius], axis=1)
    bent = (middle**2 + rise**2) / middle  # one over the geodesic curvature of a helix
    turned = angle * length / bent
    ideal = (bent + radius - middle)[:, None] * np.stack([np.cos(turned), np.sin(turned)], axis=1)
    assert (signed_double_areas(straight, triangles) > 0).all() and (signed_double_areas(ideal, triangles) > 0).all()
    poor, good = (relax(points, triangles, start=start) for start in (straight, ideal))
    assert poor.arrived and good.arrived
    assert poor.energy == pytest.approx(good.energy, rel=1e-4, abs=1e-9 * 2 * np.pi)


def test_rolling_out_covers_the_plane_more_than_once():
    points, triangles = flight(2.5, 40, 50, 20)
    metric = Metric.of(points, triangles)
    flat = rolled_out(points, triangles, metric, Pinned.of(metric.laplacian()))
    assert flat is not None and (signed_double_areas(flat, triangles) > 0).all()
    assert metric.energy(flat) < 1e-3 * metric.areas.sum()


def test_newtons_slope_and_stiffness_are_those_of_the_energy():
    from zuschnitt.core.flatten.newton import _derivatives

    points, triangles = flight(0.5, 40, 50, 20, around=12, across=4)
    metric = Metric.of(points, triangles)
    random = np.random.default_rng(5)
    # stretched throughout, so that no curvature is left out
    flat = 1.3 * points[:, :2] + random.normal(0, 0.05, (len(points), 2))
    slope, stiffness = _derivatives(flat, metric)
    along = random.normal(0, 1, flat.shape)
    step = 1e-5
    energies = [metric.energy(flat + k * step * along) for k in (-1, 0, 1)]
    assert slope @ along.ravel() == pytest.approx((energies[2] - energies[0]) / 2 / step, rel=1e-6)
    second = (energies[2] - 2 * energies[1] + energies[0]) / step**2
    assert along.ravel() @ (stiffness @ along.ravel()) == pytest.approx(second, rel=1e-3)


def test_what_has_not_arrived_is_known():
    points, triangles = flight(1.5, 40, 50, 20)
    metric = Metric.of(points, triangles)
    angle, radius = np.repeat(np.linspace(0, 3 * np.pi, 400), 7), np.hypot(*points[:, :2].T)
    straight = np.stack([angle * 45, 45 - radius], axis=1)
    order = Pinned.of(metric.laplacian()).order
    assert not polished(straight, metric, order, 0, lambda at, step: at + step).arrived
    assert not relax(points, triangles, start=straight, most_steps=5).arrived
