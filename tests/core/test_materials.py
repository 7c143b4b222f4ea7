"""The table of materials, and the verdict."""

from __future__ import annotations

import numpy as np
import pytest

from zuschnitt.core.develop.developing import develop
from zuschnitt.core.errors import Refused
from zuschnitt.core.evaluate import run_all
from zuschnitt.core.form.build import domed_lid, turned_body
from zuschnitt.core.materials import MATERIALS, Material, material_named, required_material, verdict
from zuschnitt.core.task import keys
from zuschnitt.demo.job import cyclone_and_lid


def test_every_material_says_where_its_values_come_from():
    assert len(MATERIALS) >= 12
    for material in MATERIALS.values():
        assert material.source and material.thickness > 0 and 0 < material.k_factor <= 0.5
        assert material.stretch > 0 and material.compression > 0


def test_names_are_found_whatever_their_capitals():
    assert material_named(" Steel Sheet ").name == "steel sheet" and material_named("butter") is None
    with pytest.raises(Refused, match="birch ply"):
        required_material("butter")


@pytest.mark.parametrize("stretch, fails", [
    ((0.0, 0.0), False), ((0.02, 0.0), False), ((0.021, 0.0), True), ((0.0, -0.01), False), ((0.0, -0.011), True)])  # fmt: skip
def test_the_verdict_keeps_to_the_limits(stretch, fails):
    material = Material("x", 1, 0.4, 2.0, 1.0, False, "test")
    found = verdict(material, np.array([[0.0, 0.0], stretch]), np.array([3.0, 1.0]))
    assert found.failing.tolist() == [False, fails] and found.can is not fails
    assert found.share == (0.25 if fails else 0.0)


def test_a_lid_is_too_much_for_steel_and_easy_for_film():
    blank = develop(domed_lid(240, 180, 36, 40, 60), [1])
    steel, film = (blank.judged(MATERIALS[name]).verdict for name in ("steel sheet", "cast vinyl film"))
    assert not steel.can and "no, not on" in steel.words and 0 < steel.share < 0.5
    assert film.can and film.words == "yes"
    assert develop(turned_body([(60, 0), (200, 420)]), [1]).judged(MATERIALS["birch ply"]).verdict.can


def test_a_row_takes_its_own_material_or_the_jobs():
    from dataclasses import replace

    job = cyclone_and_lid()
    states = run_all(job)
    assert states["d20"].outcome.value.verdict.material.name == "steel sheet"
    assert states["d70"].outcome.value.verdict.material.name == "cast vinyl film"
    other = replace(job, material="brass sheet")
    assert keys(other)["d20"] != keys(job)["d20"] and keys(other)["d70"] == keys(job)["d70"]
    assert run_all(replace(job, material="butter"))["d20"].outcome.value.verdict is None
    with pytest.raises(Refused, match="table of materials"):
        job.set("d20", "material", "butter")
