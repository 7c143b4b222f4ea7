"""A blank knows its form, artwork its blank: what cannot belong together cannot be written down."""

from __future__ import annotations

import pytest

from zuschnitt.core.errors import Refused
from zuschnitt.core.job.evaluate import run_all
from zuschnitt.core.job.route import Job
from zuschnitt.core.job.task import Task, tasks, tasks_behind
from zuschnitt.core.operations.registry import entries
from zuschnitt.demo.job import cyclone_and_lid, demo_job


def two_forms() -> Job:
    """A turned body with its blank, and then a lid: the form that stands nearest to what follows."""
    return Job("two").added("turned_body", cylinder="0").added("develop").added("domed_lid")


def numbers(job: Job, row) -> set[int]:
    return {taken.number for taken in job.sources(row)}


@pytest.mark.parametrize("operation", ["compare", "propose_reliefs"])
def test_a_row_put_together_by_defaults_takes_the_form_of_its_blank(operation):
    job = two_forms().added(operation)
    assert numbers(job, job.rows[-1]) == {10, 20}


def test_the_comparison_measures_the_blank_s_own_form():
    job = two_forms().added("compare", first="exact", second="even", third="none")
    compared = run_all(job)[job.rows[-1].id].outcome.value
    form = run_all(job)[job.rows[0].id].outcome.value
    assert compared[0].blank.figures.area_form == pytest.approx(form.area([face.number for face in form.faces]))


def test_artwork_is_wrapped_from_the_blank_it_lies_on():
    job = Job("two").added("turned_body").added("develop").added("circle_grid", spacing="60")
    job = job.added("domed_lid").added("develop", after=None)
    job = job.added("wrap", artwork=job.rows[2].id)
    assert numbers(job, job.rows[-1]) == {20, 30}
    wrapped = run_all(job)[job.rows[-1].id].outcome.value
    assert any(curve.inside.all() for curve in wrapped)


@pytest.mark.parametrize(("operation", "name"), [("compare", "form"), ("propose_reliefs", "form"), ("wrap", "blank")])
def test_what_follows_cannot_be_chosen(operation, name):
    job = cyclone_and_lid()
    row = job.row(40) if operation == "wrap" else job.added(operation).rows[-1]
    job = job if operation == "wrap" else job.added(operation)
    row = job.rows[-1] if operation != "wrap" else row
    with pytest.raises(Refused, match="follows from its"):
        job.set(row.id, name, "d60")


def test_what_an_older_file_says_of_it_is_not_asked():
    """A job file that names another form beside the blank: the blank's own is taken all the same."""
    job = two_forms().added("compare")
    row = job.rows[-1]
    written = job._with(type(row)(**{**row.__dict__, "parameters": {**row.parameters, "form": job.rows[2].id}}))
    assert tasks(written)[row.id].key == tasks(job)[row.id].key


def test_reliefs_of_another_form_are_refused():
    job = Job("two").added("domed_lid").added("domed_lid", length="300")
    job = job.added("draw_relief", form=job.rows[0].id, through="0, -90, 18; 0, -40, 30")
    wrong = job.added("develop", form=job.rows[1].id, reliefs=job.rows[2].id)
    reason = run_all(wrong)[wrong.rows[-1].id].reason
    assert "are on the form of row 10" in reason and "that of row 20" in reason
    right = job.added("develop", form=job.rows[0].id, reliefs=job.rows[2].id)
    assert isinstance(tasks(right)[right.rows[-1].id].key, str)


def test_no_operation_asks_for_a_form_beside_a_blank():
    """Whatever takes two things that may not belong together takes one, and the other follows."""
    for key, known in entries().items():
        kinds = [kind for p in known.parameters if p.kind == "source" and not p.on for kind in p.accepts]
        assert not {"form", "blank"} <= set(kinds), key
        assert not {"artwork", "blank"} <= set(kinds), key


def test_what_a_row_works_on_is_asked_as_in_the_whole_job():
    job = demo_job()
    every = tasks(job)
    for row in job.rows:
        behind = tasks_behind(job, row.id)
        assert row.id in behind and all(every[key] == task for key, task in behind.items())
        keys = {task.key for task in behind.values() if isinstance(task, Task)}
        assert all(set(task.results) <= keys for task in behind.values() if isinstance(task, Task))
    assert len(tasks_behind(job, job.rows[0].id)) == 1
