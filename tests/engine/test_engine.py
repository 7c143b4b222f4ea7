"""The engine as a real process: results, progress, cancel, crash."""

from __future__ import annotations

import os
import signal
import time

import pytest

from zuschnitt.core.route import Asset, Job
from zuschnitt.demo.job import cyclone_and_lid
from zuschnitt.engine.engine import Engine, Finished, RowRuns, RowStands

PATIENCE = 120.0


class Listener:
    """Collects what the engine says, and waits for it."""

    def __init__(self) -> None:
        self.events: list = []
        self.engine = Engine(self.events.append)

    def until(self, done, what: str) -> None:
        end = time.monotonic() + PATIENCE
        while not done():
            assert time.monotonic() < end, f"waited in vain for {what}"
            time.sleep(0.01)

    def finish(self, job: Job) -> dict:
        """Evaluates a job to its end: the last state of each row by its number."""
        generation = self.engine.evaluate(job)
        return self.states(job, generation)

    def states(self, job: Job, generation: int) -> dict:
        self.until(lambda: any(isinstance(e, Finished) and e.generation >= generation for e in self.events), "the end")
        last = {e.row_id: e.state for e in self.events if isinstance(e, RowStands)}
        return {row.number: last.get(row.id) for row in job.rows}

    def running(self, row_id: str) -> bool:
        return any(isinstance(e, RowRuns) and e.row_id == row_id and e.fraction > 0 for e in self.events)


@pytest.fixture
def listener():
    made = Listener()
    yield made
    made.engine.close()


def slow_job(size: str = "0.8") -> Job:
    """The demo job with so many triangles on the lid that there is time to interfere."""
    return cyclone_and_lid().set("d70", "triangles", size)


def test_every_row_gets_its_result_and_progress_is_told(listener):
    job = cyclone_and_lid()
    states = listener.finish(job)
    assert {state.status for state in states.values()} == {"done"}
    assert states[20].outcome.value.figures.area_change == pytest.approx(0, abs=1e-9)
    fractions = [e.fraction for e in listener.events if isinstance(e, RowRuns) and e.row_id == "d70"]
    assert len(fractions) > 2 and max(fractions) > 0.5


def test_results_that_did_not_change_are_the_same_objects(listener):
    job = cyclone_and_lid()
    before = listener.finish(job)
    after = listener.finish(job.set("d30", "turn", "20"))
    assert after[20].outcome is before[20].outcome
    assert after[30].outcome is not before[30].outcome


def test_a_killed_engine_breaks_the_row_and_the_next_run_works(listener):
    job = slow_job()
    generation = listener.engine.evaluate(job)
    listener.until(lambda: listener.running("d70"), "the lid to be developed")
    first = listener.engine.pid
    os.kill(first, signal.SIGKILL)
    states = listener.states(job, generation + 1)
    assert states[70].status == "broken" and "SIGKILL" in states[70].reason
    assert states[80].status == "waiting"
    assert states[20].status == "done" and states[20].outcome is not None
    assert listener.engine.pid != first
    listener.events.clear()
    states = listener.finish(job.set("d70", "triangles", "6"))
    assert {state.status for state in states.values()} == {"done"}


def test_a_crashed_row_is_tried_again_when_asked(listener):
    job = slow_job("0.9")
    generation = listener.engine.evaluate(job)
    listener.until(lambda: listener.running("d70"), "the lid to be developed")
    os.kill(listener.engine.pid, signal.SIGKILL)
    assert listener.states(job, generation + 1)[70].status == "broken"
    listener.events.clear()
    listener.engine.retry()
    listener.until(lambda: listener.engine.idle, "the second try")
    last = {e.row_id: e.state for e in listener.events if isinstance(e, RowStands)}
    assert last["d70"].status == "done"


def test_cancel_stops_soon_and_keeps_what_is_done(listener):
    job = slow_job()
    generation = listener.engine.evaluate(job)
    listener.until(lambda: listener.running("d70"), "the lid to be developed")
    begin = time.monotonic()
    listener.engine.cancel()
    states = listener.states(job, generation)
    assert time.monotonic() - begin < 40  # it may just be in a long step on a busy machine
    assert states[70].status == "stopped" and states[50].status == "done"
    listener.events.clear()
    assert listener.finish(cyclone_and_lid())[70].status == "done"


def test_cancel_is_enforced_on_a_process_that_does_not_listen(listener):
    """A process that is held still cannot hear; it is ended, and a new one takes its place."""
    job = slow_job()
    generation = listener.engine.evaluate(job)
    listener.until(lambda: listener.running("d70"), "the lid to be developed")
    held = listener.engine.pid
    os.kill(held, signal.SIGSTOP)
    listener.engine.cancel()
    states = listener.states(job, generation)
    assert states[70].status == "stopped" and "Stopped by you" in states[70].reason
    assert listener.engine.pid != held
    listener.events.clear()
    assert listener.finish(cyclone_and_lid())[70].status == "done"


def test_a_newer_job_takes_the_place_of_a_running_one(listener):
    listener.engine.evaluate(slow_job())
    listener.until(lambda: listener.running("d70"), "the lid to be developed")
    states = listener.finish(cyclone_and_lid())
    assert {state.status for state in states.values()} == {"done"}
    assert states[70].outcome.value.figures.triangles < 20_000


def test_step_is_read_in_the_engine(listener, step):
    job = Job().with_asset(Asset("bend.step", step("bend").read_bytes()))
    job = job.added("bring_in", file="bend.step").added("develop")
    states = listener.finish(job)
    assert states[20].outcome.value.figures.pieces == 1
    broken = job.with_asset(Asset("bend.step", b"nonsense"))
    assert "not a STEP file" in listener.finish(broken)[10].reason


def test_the_process_ends_with_its_owner(listener):
    pid = listener.engine.pid
    listener.finish(Job().added("turned_body"))
    listener.engine.close()
    with pytest.raises(ProcessLookupError):
        os.kill(pid, 0)


def test_sending_never_waits_for_a_process_that_does_not_listen(listener):
    """A stopped process takes nothing out of its socket, however large what is sent; cancelling ends it all the same."""
    engine = listener.engine
    listener.finish(Job("empty"))
    pid = engine.pid
    os.kill(pid, signal.SIGSTOP)
    job = cyclone_and_lid().with_asset(Asset("large.bin", os.urandom(8 << 20)))
    begin = time.monotonic()
    for k in range(20):
        engine.evaluate(job.set("d10", "cone", str(400 + k)))
    assert time.monotonic() - begin < 0.5
    engine.cancel()
    listener.until(lambda: engine.pid != pid and engine.idle, "another process")
    assert listener.finish(job)[10].status == "done"


def test_files_go_to_a_process_once():
    from zuschnitt.engine.engine import _with_new_files

    job = Job("files").with_asset(Asset("a.bin", b"abc"))
    sent: set[tuple[str, str]] = set()
    first = _with_new_files(("evaluate", 1, job, {}), sent)
    again = _with_new_files(("evaluate", 2, job, {}), sent)
    assert list(first[4].values()) == [b"abc"] and again[4] == {} and again[3] == first[3]
    assert not again[2].assets
