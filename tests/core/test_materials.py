"""The table of materials, and the verdict."""

from __future__ import annotations

import json
import zipfile
from io import BytesIO

import numpy as np
import pytest

from zuschnitt.core.develop.developing import develop
from zuschnitt.core.errors import Refused
from zuschnitt.core.form.build import domed_lid, turned_body
from zuschnitt.core.job.evaluate import run_all
from zuschnitt.core.job.job_file import job_bytes, job_from_bytes
from zuschnitt.core.job.route import Job
from zuschnitt.core.job.task import keys
from zuschnitt.core.materials import MATERIALS, Material, material_named, required_material, verdict
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


# --- materials of one's own ----------------------------------------------------------------------

OWN = {"name": "amsel sheet", "stretch": 9.0, "compression": 4.0, "k_factor": 0.37, "thickness": 2.0}


def with_table(folder, monkeypatch, *entries):
    (folder / "zuschnitt").mkdir(parents=True, exist_ok=True)
    (folder / "zuschnitt" / "materials.json").write_text(json.dumps(entries))
    monkeypatch.setenv("XDG_CONFIG_HOME", str(folder))


def verdicts(job):
    """Name and permitted stretch of the material that each development was judged by."""
    blanks = [state.outcome.result("blank") for state in run_all(job).values()]
    return [(b.value.verdict.material.name, b.value.verdict.material.stretch) for b in blanks if b is not None]


def test_a_material_of_ones_own_travels_in_the_job(tmp_path, monkeypatch):
    with_table(tmp_path / "here", monkeypatch, OWN, {**OWN, "name": "unused"})
    job = Job(material="amsel sheet").added("domed_lid").added("develop", triangles="20")
    job = job.added("develop", form=job.rows[0].id, triangles="20", material="steel sheet")
    content = job_bytes(job)
    assert verdicts(job) == [("amsel sheet", 9.0), ("steel sheet", 1.5)]
    with_table(tmp_path / "there", monkeypatch)
    there = job_from_bytes(content, "a.zuschnitt")
    assert list(there.materials) == ["amsel sheet"]
    assert verdicts(there) == [("amsel sheet", 9.0), ("steel sheet", 1.5)]
    assert list(job_from_bytes(job_bytes(there), "a.zuschnitt").materials) == ["amsel sheet"]  # saved there, it goes on
    named = there.set(there.rows[2].id, "material", "amsel sheet")
    assert verdicts(named)[1] == ("amsel sheet", 9.0)

    with_table(tmp_path / "other", monkeypatch, {**OWN, "stretch": 2.0})
    there = job_from_bytes(content, "a.zuschnitt")
    assert verdicts(there)[0] == ("amsel sheet", 9.0)  # what it was computed with goes first
    assert verdicts(there.with_material("amsel sheet"))[0] == ("amsel sheet", 2.0)


def test_a_job_of_shipped_materials_is_saved_as_before():
    content = zipfile.ZipFile(BytesIO(job_bytes(Job().added("domed_lid")))).read("job.json")
    assert "materials" not in json.loads(content)


@pytest.mark.parametrize("materials", [5, [5], [{"name": "a"}], [{"name": "a", "stretch": "x", "compression": 1}],
                                       [{"name": "a", "stretch": -1, "compression": 1}]])  # fmt: skip
def test_a_job_with_odd_materials_is_refused(materials):
    packed = BytesIO()
    with zipfile.ZipFile(packed, "w") as archive:
        archive.writestr("job.json", json.dumps({"schema": 1, "rows": [], "materials": materials}))
    with pytest.raises(Refused, match="materials"):
        job_from_bytes(packed.getvalue(), "a.zuschnitt")


def test_a_job_is_saved_though_ones_own_table_is_broken(tmp_path, monkeypatch):
    with_table(tmp_path, monkeypatch, {"name": "half"})
    assert job_from_bytes(job_bytes(Job(material="amsel sheet")), "a.zuschnitt").material == "amsel sheet"
