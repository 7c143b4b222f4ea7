"""The lines by which edges are seen are those of the edges, whatever was done to the form."""

from __future__ import annotations

import pickle

import numpy as np
import pytest
import trimesh

from tests.meshes import form_of
from zuschnitt.core.carry.cutting import cut_into
from zuschnitt.core.develop.developing import develop
from zuschnitt.core.form.build import turned_body
from zuschnitt.core.form.form import SEEN, Form
from zuschnitt.core.form.in_one import in_one
from zuschnitt.core.form.moved import Motion
from zuschnitt.core.plane.contour import Contour

MOTION = Motion.about(np.array([1.0, 2.0, 3.0]), 50, np.array([10.0, 0.0, 5.0]), np.array([300.0, -40.0, 7.0]))


def drilled(given: Form) -> Form:
    """With two holes, one after the other, so that edges were put in twice."""
    for height in (0.4, 0.6):
        blank = develop(given, [2])
        x0, y0, x1, y1 = blank.bounds
        hole = Contour.circle((0, 0), 6.0).moved(1, 0, np.array([(x0 + x1) / 2, y0 + height * (y1 - y0)]))
        given = cut_into(given, blank, [hole]).form
    return given


def vessel() -> Form:
    return turned_body([(100, 0), (100, 120), (40, 270)])


MADE = {
    "turned": vessel,
    "drilled": lambda: drilled(vessel()),
    "drilled and moved": lambda: MOTION.form(drilled(vessel())),
    "moved and drilled": lambda: drilled(MOTION.form(vessel())),
    "beside each other": lambda: in_one([[vessel()], [drilled(vessel())]], beside=True),
    "of triangles": lambda: form_of(trimesh.creation.cylinder(20, 50)),
}


@pytest.mark.parametrize("name", MADE)
@pytest.mark.parametrize("sent", [False, True])
def test_lines_of_edges_lie_on_their_edges(name, sent):
    given = MADE[name]()
    if sent:
        given = pickle.loads(pickle.dumps(given))
    assert len(given.edge_lines) == len(given.edges) > 0
    for edge, line in zip(given.edges, given.lines, strict=True):
        ends = edge.curve.evaluate(np.array([edge.start, edge.end]))
        np.testing.assert_allclose(line[[0, -1]], ends, atol=1e-7)
        along = edge.curve.evaluate(np.linspace(edge.start, edge.end, 400))
        a, b = line[:-1], line[1:]
        way = (b - a) / np.maximum(((b - a) ** 2).sum(axis=1, keepdims=True), 1e-300)
        share = np.clip(np.einsum("pki,ki->pk", along[:, None] - a, way), 0, 1)
        off = np.linalg.norm(along[:, None] - (a + share[..., None] * (b - a)), axis=2).min(axis=1)
        assert off.max() <= 1.5 * SEEN * given.size


def test_lines_given_for_other_edges_are_not_taken():
    given = vessel()
    fewer = Form(given.name, given.faces, given.edges[:-1], edge_lines=given.edge_lines)
    assert len(fewer.lines) == len(fewer.edges)
