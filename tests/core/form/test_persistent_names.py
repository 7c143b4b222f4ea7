"""Picks that survive an edit of the form where the faces are still there."""

from __future__ import annotations

import numpy as np
import pytest
import trimesh

from tests.meshes import form_of
from zuschnitt.core.errors import Refused
from zuschnitt.core.form.build import turned_body
from zuschnitt.core.form.persistent_names import found_again, remembered
from zuschnitt.core.job.evaluate import run_all
from zuschnitt.core.job.route import Asset, Job


def roof(angle: float = 20.0) -> trimesh.Trimesh:
    """A prism with a roof of two slopes that meet at ``angle`` degrees: at a larger crease angle they are one face."""
    rise = 50 * np.tan(np.radians(angle / 2))
    outline = [[0, 0], [100, 0], [100, 40], [50, 40 + rise], [0, 40]]
    return trimesh.convex.convex_hull(np.array([[x, y, z] for x, y in outline for z in (0, 60)]))


FINE, COARSE = form_of(roof(), crease=10), form_of(roof(), crease=30)
WALLS = [face.number for face in FINE.faces if face.area == pytest.approx(2400, rel=1e-6)]
SLOPES = [face.number for face in FINE.faces if face.area == pytest.approx(50 / np.cos(np.radians(10)) * 60, rel=1e-6)]


def test_faces_are_found_under_their_new_numbers():
    numbers, said = found_again(COARSE, WALLS, remembered(FINE, WALLS))
    assert len(FINE.faces) == 7 and len(COARSE.faces) == 6
    assert all(COARSE.face(n).area == pytest.approx(2400) for n in numbers) and len(set(numbers)) == 2
    assert (numbers == tuple(WALLS)) == (said == ())


def test_a_face_that_is_gone_is_named_with_its_place():
    assert len(SLOPES) == 2
    with pytest.raises(Refused, match=rf"Face {SLOPES[0]}, a plane that was picked at .* \(nor 1 other\)"):
        found_again(COARSE, SLOPES, remembered(FINE, SLOPES))


def test_other_measures_keep_the_numbers():
    small, large = turned_body([(60, 0), (200, 420), (200, 640)]), turned_body([(90, 0), (350, 900), (350, 1000)])
    assert found_again(large, [2], remembered(small, [2])) == ((2,), ())


def eaves(form) -> list[int]:
    """The edges at which the roof ends."""
    return [e.number for e in form.edges if np.abs(e.points(1.0)[:, 1] - 40).max() < 1e-6]


def test_edges_are_found_under_their_new_numbers():
    before, after = eaves(FINE), eaves(COARSE)
    assert len(before) == len(after) == 2 and before != after
    numbers, said = found_again(COARSE, before, remembered(FINE, before, "edge"), "edge")
    assert sorted(numbers) == after and "was picked as edge" in said[0]


def test_an_edge_that_is_gone_is_named_with_its_place():
    ridge = [e.number for e in FINE.edges if (e.points(1.0)[:, 1] > 40 + 1e-3).all()]
    with pytest.raises(Refused, match=rf"Edge {ridge[0]}, a .* picked at 50, 48.*, 30, is not there any more"):
        found_again(COARSE, ridge, remembered(FINE, ridge, "edge"), "edge")


def test_edges_that_are_cut_open_stay_the_same_when_the_crease_angle_changes():
    job = Job().with_asset(Asset("roof.stl", roof().export(file_type="stl")))
    job = job.added("bring_in", file="roof.stl", crease="10")
    (bring,) = job.rows
    fine = run_all(job)[bring.id].outcome.value
    coarse = run_all(job.set(bring.id, "crease", "30"))[bring.id].outcome.value
    was = next(n for n, now in zip(eaves(fine), eaves(coarse), strict=True) if n != now)
    is_now = eaves(coarse)[eaves(fine).index(was)]
    job = job.added("develop", cuts=str(was), marks="numbers", way="exact", faces="all")
    develop = job.rows[-1]
    job = job.set(develop.id, "remembered", {"cuts": remembered(fine, [was], "edge")})
    after = run_all(job.set(bring.id, "crease", "30"))[develop.id]
    assert any(f"picked as edge {was} is now edge {is_now}" in message for message in after.outcome.messages)
    labels = [side.label.rstrip(".") for side in after.outcome.value.sides]
    assert labels.count(str(is_now)) == 2


def test_picks_without_a_memory_go_by_their_numbers():
    assert found_again(COARSE, [1, 3], "") == ((1, 3), ())


def test_a_route_keeps_its_picks_when_the_crease_angle_changes():
    job = Job().with_asset(Asset("roof.stl", roof().export(file_type="stl")))
    job = job.added("bring_in", file="roof.stl", crease="10").added("develop", faces=", ".join(map(str, WALLS)))
    bring, develop = job.rows
    before = run_all(job)
    job = job.set(develop.id, "remembered", {"faces": remembered(before[bring.id].outcome.value, WALLS)})
    after = run_all(job.set(bring.id, "crease", "30"))[develop.id]
    assert after.status == "done" and after.outcome.value.figures.area_form == pytest.approx(4800)
    slopes = job.set(develop.id, "faces", ", ".join(map(str, SLOPES)))
    slopes = slopes.set(develop.id, "remembered", {"faces": remembered(before[bring.id].outcome.value, SLOPES)})
    lost = run_all(slopes.set(bring.id, "crease", "30"))[develop.id]
    assert lost.status == "broken" and "not there any more" in lost.reason
