"""How a form is looked at: kept with the row, and without effect on what is computed."""

from __future__ import annotations

import trimesh

from tests.meshes import form_of
from zuschnitt.core.form.appearance import TINTS, Looks
from zuschnitt.core.job.evaluate import run_all
from zuschnitt.core.job.job_file import job_bytes, job_from_bytes
from zuschnitt.core.job.route import Asset, Job


def two_boxes() -> trimesh.Trimesh:
    other = trimesh.creation.box((30, 30, 30))
    other.apply_translation([120, 0, 0])
    return trimesh.util.concatenate([trimesh.creation.box((60, 60, 60)), other])


def test_looks_are_kept_with_the_job_and_only_what_differs():
    job = Job().with_asset(Asset("two.stl", two_boxes().export(file_type="stl"))).added("bring_in", file="two.stl")
    row = job.rows[0]
    looks = Looks.of(row.view).toggled([1, 2]).named(2, " lid ").tinted(1)
    job = job.changed(row.id, view=looks.view)
    again = job_from_bytes(job_bytes(job), "job")
    assert Looks.of(again.rows[0].view) == Looks(frozenset({1, 2}), {2: "lid"}, {1: 1})
    assert Looks().view == {} and "view" not in again.rows[0].extra
    before, after = run_all(Job(assets=job.assets, rows=(row,))), run_all(job)
    assert before[row.id].outcome.value.area(range(1, 13)) == after[row.id].outcome.value.area(range(1, 13))


def test_bodies_by_their_looks():
    form = form_of(two_boxes())
    first, second = form.bodies
    looks = Looks().toggled(first.faces).named(1, "drum").tinted(2).tinted(2)
    assert looks.hides(first) and not looks.hides(second)
    assert looks.name(1, first) == "drum" and looks.name(2, second) == second.name
    assert looks.tint_of_faces(form) == dict.fromkeys(second.faces, 2)
    assert not looks.toggled(first.faces).hidden
    for _ in range(TINTS):
        looks = looks.tinted(1)
    assert looks.tints[1] == 0


def test_looks_that_cannot_be_read_are_none():
    assert Looks.of({"hidden": ["x"]}) == Looks() == Looks.of({"names": 5})
