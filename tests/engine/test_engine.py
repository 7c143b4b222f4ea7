"""The engine as a real process: results, progress, cancel, crash."""

from __future__ import annotations

import os
import signal
import subprocess
import sys
import threading
import time

import numpy as np
import pytest

from zuschnitt.core.job.route import Asset, Job
from zuschnitt.core.job.task import tasks
from zuschnitt.demo.job import cyclone_and_lid
from zuschnitt.engine import crew
from zuschnitt.engine.engine import Engine
from zuschnitt.engine.events import Finished, RowGlimpsed, RowRuns, RowShows, RowStands
from zuschnitt.engine.store import Store

PATIENCE = 120.0


class Listener:
    """Collects what the engine says, and waits for it."""

    def __init__(self, only_seen: bool = False) -> None:
        self.events: list = []
        self.engine = Engine(self.events.append, only_seen=only_seen)

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

    def done(self, row_id: str) -> bool:
        return any(isinstance(e, RowStands) and e.row_id == row_id and e.state.status == "done" for e in self.events)


@pytest.fixture
def listener(nursery, monkeypatch):
    """With an engine whose imports are done already."""
    monkeypatch.setattr(crew, "begin_template", nursery.begin_template)
    made = Listener()
    yield made
    made.engine.close()


@pytest.fixture
def fresh():
    """With an engine that begins as it does for a user."""
    made = Listener()
    yield made
    made.engine.close()


def slow_job(size: str = "0.8") -> Job:
    """The demo job with so many triangles on the lid that there is time to interfere."""
    return cyclone_and_lid().set("d70", "triangles", size)


def test_every_row_gets_its_result_and_progress_is_told(fresh):
    job = cyclone_and_lid()
    states = fresh.finish(job)
    assert {state.status for state in states.values()} == {"done"}
    assert states[20].outcome.value.figures.area_change == pytest.approx(0, abs=1e-9)
    fractions = [e.fraction for e in fresh.events if isinstance(e, RowRuns) and e.row_id == "d70"]
    assert len(fractions) > 2 and max(fractions) > 0.5


def test_results_that_did_not_change_are_the_same_objects(listener):
    job = cyclone_and_lid()
    before = listener.finish(job)
    after = listener.finish(job.set("d30", "turn", "20"))
    assert after[20].outcome is before[20].outcome
    assert after[30].outcome is not before[30].outcome


def test_a_killed_engine_breaks_the_row_and_the_next_run_works(fresh):
    job = slow_job()
    generation = fresh.engine.evaluate(job)
    fresh.until(lambda: fresh.running("d70"), "the lid to be developed")
    first = fresh.engine.process_of("d70")
    os.kill(first, signal.SIGKILL)
    states = fresh.states(job, generation)
    assert states[70].status == "broken" and "SIGKILL" in states[70].reason
    assert states[80].status == "waiting"
    assert states[20].status == "done" and states[20].outcome is not None
    fresh.events.clear()
    states = fresh.finish(job.set("d70", "triangles", "6"))
    assert {state.status for state in states.values()} == {"done"}


def test_a_crashed_row_is_tried_again_when_asked(listener):
    job = slow_job("0.9")
    generation = listener.engine.evaluate(job)
    listener.until(lambda: listener.running("d70"), "the lid to be developed")
    os.kill(listener.engine.process_of("d70"), signal.SIGKILL)
    assert listener.states(job, generation)[70].status == "broken"
    listener.events.clear()
    listener.engine.retry()
    listener.until(lambda: listener.engine.idle, "the second try")
    last = {e.row_id: e.state for e in listener.events if isinstance(e, RowStands)}
    assert last["d70"].status == "done"


def test_cancel_stops_soon_and_keeps_what_is_done(listener):
    job = slow_job()
    generation = listener.engine.evaluate(job)
    listener.until(lambda: listener.running("d70") and listener.done("d50"), "the lid to be developed")
    listener.engine.cancel()
    states = listener.states(job, generation)
    assert states[70].status == "stopped" and states[50].status == "done"
    listener.events.clear()
    assert listener.finish(cyclone_and_lid())[70].status == "done"


def test_cancel_is_enforced_on_a_process_that_does_not_listen(fresh):
    """A process that is held still cannot hear; it is ended, and a new one takes its place."""
    job = slow_job()
    generation = fresh.engine.evaluate(job)
    fresh.until(lambda: fresh.running("d70"), "the lid to be developed")
    held = fresh.engine.process_of("d70")
    os.kill(held, signal.SIGSTOP)
    fresh.engine.cancel()
    states = fresh.states(job, generation)
    assert states[70].status == "stopped" and "Stopped by you" in states[70].reason
    fresh.events.clear()
    assert fresh.finish(cyclone_and_lid())[70].status == "done"


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


def test_the_process_ends_with_its_owner(fresh):
    pid = fresh.engine.pid
    fresh.finish(Job().added("turned_body"))
    fresh.engine.close()
    with pytest.raises(ProcessLookupError):
        os.kill(pid, 0)


def test_sending_never_waits_for_a_process_that_does_not_listen(fresh):
    """A stopped process takes nothing out of its socket, however large what is sent; cancelling ends it all the same."""
    engine = fresh.engine
    fresh.finish(Job("empty"))
    pid = engine.pid
    os.kill(pid, signal.SIGSTOP)
    job = cyclone_and_lid().with_asset(Asset("large.bin", os.urandom(8 << 20)))
    rescue = threading.Timer(PATIENCE, os.kill, (pid, signal.SIGCONT))
    rescue.start()
    for k in range(20):
        engine.evaluate(job.set("d10", "cone", str(400 + k)))
    assert rescue.is_alive()  # or else it has waited until the process went on
    rescue.cancel()
    engine.cancel()
    fresh.until(lambda: engine.pid != pid and engine.idle, "another process")
    assert fresh.finish(job)[10].status == "done"


def test_what_an_edit_does_not_concern_goes_on(listener):
    """The lid is still computed by the process that began it, while the cone's new rows come in between."""
    job = slow_job("0.9")
    listener.engine.evaluate(job)
    listener.until(lambda: listener.running("d70"), "the lid to be developed")
    at_work = listener.engine.process_of("d70")
    for turn in ("10", "20", "30"):
        listener.events.clear()
        job = job.set("d10", "cone", f"4{turn}")
        listener.engine.evaluate(job)
        listener.engine.look("d10")
        listener.until(lambda: listener.done("d20"), "the cone's blank")
        assert not listener.done("d70") and listener.engine.process_of("d70") == at_work
    states = listener.states(job, listener.engine.generation)
    assert {state.status for state in states.values()} == {"done"}


def test_what_is_urgent_waits_neither_for_processors_nor_for_a_process_to_be_forked(fresh):
    """More long rows than processors, and a template that is as if busy with imports: the selected row is begun all
    the same, by a process that was in reserve, and those that stand aside go on later."""
    many = len(os.sched_getaffinity(0))
    job = Job("lids")
    for k in range(many + 2):
        size = (0.8 if k < many else 2.0) + k / 50  # the first ones take long
        job = job.added("domed_lid").added("develop", triangles=str(size), way="relaxed")
    lids = [row.id for row in job.rows if row.operation == "develop"]
    fresh.engine.evaluate(job)
    fresh.until(lambda: all(fresh.running(row_id) for row_id in lids[:many]), "all processors to be busy")
    crew = fresh.engine._crew
    for selected in lids[many:]:
        fresh.until(lambda: any(m.task is None and m.pid for m in list(crew.members)), "a process in reserve")
        os.kill(crew.template_pid, signal.SIGSTOP)
        fresh.engine.look(selected)
        fresh.until(lambda row_id=selected: fresh.running(row_id), "the selected row to be begun")
        os.kill(crew.template_pid, signal.SIGCONT)
        # as many as there are processors had begun before, and none of those has ended
        assert not any(fresh.done(row_id) for row_id in lids[:many])
    states = fresh.states(job, fresh.engine.generation)
    assert {state.status for state in states.values()} == {"done"}


def test_what_nobody_wants_any_more_is_ended(listener):
    listener.engine.evaluate(slow_job())
    listener.until(lambda: listener.running("d70"), "the lid to be developed")
    pid = listener.engine.process_of("d70")
    listener.finish(Job().added("turned_body"))
    listener.until(lambda: not _alive(pid), "the process to end")


def test_results_outlive_the_engine(listener):
    job = cyclone_and_lid()
    first = listener.finish(job)
    listener.engine.close()
    again = Listener()
    try:
        states = again.finish(job)
        assert {state.status for state in states.values()} == {"done"}
        assert not [e for e in again.events if isinstance(e, RowRuns)]
        assert states[70].outcome.value.figures == first[70].outcome.value.figures
    finally:
        again.engine.close()


def test_a_result_that_is_damaged_on_disk_is_computed_anew(listener):
    job = Job().added("turned_body").added("develop")
    key = listener.finish(job)[10].key
    listener.engine.close()
    file = Store().folder / key
    file.write_bytes(file.read_bytes()[:-1] + b"?")
    again = Listener()
    try:
        states = again.finish(job)
        assert {state.status for state in states.values()} == {"done"}
        assert {e.row_id for e in again.events if isinstance(e, RowRuns)} == {job.rows[0].id}
    finally:
        again.engine.close()


def test_what_goes_missing_on_disk_is_written_again(listener):
    """The form's result is removed while the window has it: the next row that works on it is computed all the same."""
    job = Job().added("turned_body")
    key = listener.finish(job)[10].key
    for file in Store().folder.iterdir():
        file.unlink()
    listener.engine._crew.restart()
    states = listener.finish(job.added("develop"))
    assert states[20].status == "done" and (Store().folder / key).exists()


def test_a_template_that_is_ended_is_begun_anew(fresh):
    job = slow_job("2")
    fresh.engine.evaluate(job)
    fresh.until(lambda: fresh.running("d70"), "the lid to be developed")
    os.kill(fresh.engine._crew.template_pid, signal.SIGKILL)
    states = fresh.states(job, fresh.engine.generation)
    assert {state.status for state in states.values()} == {"done"}


def test_a_mistake_in_the_engine_breaks_rows_and_nothing_else(listener, monkeypatch):
    def mistaken(task):
        raise ValueError("on purpose")

    job = Job().added("turned_body")
    monkeypatch.setattr(listener.engine, "_give", mistaken)
    assert "mistake in the program (ValueError: on purpose)" in listener.finish(job)[10].reason
    monkeypatch.undo()
    assert listener.finish(job.set(job.rows[0].id, "cone", "300"))[10].status == "done"


def _alive(pid: int) -> bool:
    try:
        os.kill(pid, 0)
    except ProcessLookupError:
        return False
    return True


def test_a_search_that_is_stopped_keeps_the_best_it_has_found(listener):
    job = Job(material="steel sheet", thickness="1").added("turned_body").added("develop").added("cut_file")
    job = job.added("nest_parts", counts="12", sheets="6000 x 1500", seconds="300")
    row = job.rows[-1].id
    generation = listener.engine.evaluate(job)
    listener.until(lambda: any(isinstance(e, RowShows) and e.row_id == row for e in listener.events), "a first nest")
    shown = [e for e in listener.events if isinstance(e, RowShows)][-1].outcome
    listener.engine.cancel()
    state = listener.states(job, generation)[job.rows[-1].number]
    assert state.status == "done" and "the best that it had found" in state.outcome.messages[-1]
    assert len(state.outcome.value.parts) + len(state.outcome.value.left) == 24
    assert "fit on no sheet" not in str(state.outcome.messages) and shown.value.parts
    assert listener.finish(job)[job.rows[-1].number].status == "done"  # it is not searched again


def glimpses(listener: Listener, row_id: str) -> list:
    return [e.glimpse for e in listener.events if isinstance(e, RowGlimpsed) and e.row_id == row_id]


def test_a_row_is_glimpsed_with_values_that_the_job_does_not_have(listener):
    job = Job(thickness="1.5").added("hollow_block", width="200", depth="120", height="40")
    job = job.added("make_sheet", radius="2", opened="auto", flanges="top:10")
    listener.finish(job)
    tray, block = job.rows[1].id, job.rows[0].id
    heard = len(listener.events)
    for length in (14, 16, 18):
        listener.engine.glimpse(tasks(job.set(tray, "flanges", f"top:{length}:90:2:out")), tray)
        seen = len(glimpses(listener, tray))
        listener.until(lambda seen=seen: len(glimpses(listener, tray)) > seen, "a glimpse")
    assert not any(isinstance(e, RowStands | RowRuns | Finished) for e in listener.events[heard:])
    wide = [float(np.ptp(glimpse.points[:, 0])) for glimpse in glimpses(listener, tray)]
    assert wide == pytest.approx([200 + 2 * (length - 1.5) for length in (14, 16, 18)], abs=0.1)

    # what it works on is another one, too, and not computed yet
    listener.engine.glimpse(tasks(job.set(block, "width", "260")), tray)
    listener.until(lambda: len(glimpses(listener, tray)) > 3, "a glimpse of another block")
    assert np.ptp(glimpses(listener, tray)[-1].points[:, 0]) == pytest.approx(260, abs=0.1)


def test_what_cannot_be_glimpsed_says_nothing_and_harms_nothing(listener):
    job = Job(thickness="1.5").added("hollow_block", width="200", depth="120", height="40")
    job = job.added("make_sheet", radius="2", opened="auto", flanges="top:10")
    listener.finish(job)
    tray, block = job.rows[1].id, job.rows[0].id
    listener.engine.glimpse(tasks(job.set(tray, "flanges", "top:2")), tray)  # shorter than its bend
    listener.engine.glimpse(tasks(job), block)  # an operation without glimpses
    listener.engine.glimpse(tasks(job), "d99")
    again = listener.finish(job.set(tray, "flanges", "top:11"))
    assert again[20].status == "done" and not glimpses(listener, tray) and not glimpses(listener, block)
    listener.engine.glimpse(tasks(job.set(tray, "flanges", "top:12")), tray)
    listener.until(lambda: glimpses(listener, tray), "a glimpse after others that failed")


def test_a_window_that_opens_hears_of_what_is_seen_first_and_of_the_rest_when_it_goes_on():
    listener = Listener(only_seen=True)
    try:
        job = Job().added("turned_body").added("develop").added("domed_lid")
        body, blank, lid = (row.id for row in job.rows)
        listener.engine.look(body)
        listener.engine.evaluate(job)
        listener.until(lambda: listener.done(body) and listener.done(blank), "what is seen")
        assert not listener.engine.idle
        listener.engine.go_on()
        listener.until(lambda: listener.done(lid) and listener.engine.idle, "the rest")
        told = [e.row_id for e in listener.events if isinstance(e, RowStands | RowRuns)]
        assert told.index(lid) > max(told.index(body), told.index(blank))
    finally:
        listener.engine.close()


def test_an_owner_that_just_ends_leaves_no_word_behind():
    """Processes that are being asked for or given up at that moment end without a traceback."""
    script = (
        "import os, time; from zuschnitt.engine.engine import Engine; from zuschnitt.demo.job import cyclone_and_lid;"
        "engine = Engine(); engine.evaluate(cyclone_and_lid()); time.sleep(0.5); os._exit(0)"
    )
    ended = subprocess.run([sys.executable, "-c", script], capture_output=True, text=True, timeout=60, check=False)
    assert (ended.returncode, ended.stdout, ended.stderr) == (0, "", "")
