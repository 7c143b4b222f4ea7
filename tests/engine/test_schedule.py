"""Which row comes next: by what it works on, what is selected, and what has failed."""

from __future__ import annotations

import pytest

from zuschnitt.core.job.evaluate import State
from zuschnitt.core.job.route import Job, Row
from zuschnitt.core.job.task import tasks
from zuschnitt.engine.schedule import REST, SEEN, Schedule

DONE = State("done")


def job() -> Job:
    """Two chains of a form, a blank and a grid on it."""
    rows = []
    for name in "ab":
        rows += [
            Row(f"{name}form", 10, "turned_body", {"cone": "200" if name == "a" else "210"}),
            Row(f"{name}blank", 20, "develop", {"form": f"{name}form"}),
            Row(f"{name}grid", 30, "circle_grid", {"blank": f"{name}blank"}),
        ]
    return Job("two", tuple(rows))


def schedule(of: Job, failed=()) -> Schedule:
    made = Schedule(1, of, tasks(of), dict(failed))
    made.advance()
    return made


def ready(of: Schedule) -> list[str]:
    return [row.id for row, _ in of.ready()]


def test_rows_come_when_what_they_work_on_is_known():
    plan = schedule(job())
    assert ready(plan) == ["aform", "bform"]
    plan.know(plan.job.row("bform"), DONE)
    assert plan.advance() == [] and ready(plan) == ["aform", "bblank"]


@pytest.mark.parametrize("selected", ["bform", "bblank", "bgrid"])
def test_what_is_selected_comes_first_with_what_it_works_on(selected):
    plan = schedule(job())
    plan.look(selected)
    assert ready(plan) == ["bform", "aform"]
    assert plan.urgency("bgrid") < plan.urgency("agrid")


def test_what_waits_off_or_fails_is_said_at_once():
    of = job().changed("aform", enabled=False)
    plan = schedule(of)
    assert plan.states["aform"].status == "off" and plan.states["agrid"].status == "waiting"
    key = tasks(of)["bform"].key
    plan = schedule(of, {key: State("broken", reason="before", key=key)})
    assert plan.states["bform"].reason == "before" and plan.done


def test_rows_that_ask_for_the_same_are_computed_once():
    of = Job("same", (Row("x", 10, "turned_body", {}), Row("y", 20, "turned_body", {})))
    plan = schedule(of)
    assert plan.key("x") == plan.key("y") and plan.row_of(plan.key("x")).id == "x"
    plan.know(plan.job.row("x"), DONE)
    assert plan.row_of(plan.key("x")).id == "y"


def test_stopped_rows_wait_for_another_run():
    plan = schedule(job())
    assert {state.status for _, state in plan.stop()} == {"stopped"} and plan.done


def test_what_works_on_it_in_another_chapter_is_not_seen_with_it():
    of = job()
    plan = schedule(of.changed("agrid", chapter="Grids"))
    plan.look("aform")
    assert plan.urgency("ablank") == SEEN and plan.urgency("agrid") == REST
    plan = schedule(of)
    plan.look("aform")
    assert plan.urgency("agrid") == SEEN
