"""The engine as others see it: hand it a job, hear how its rows stand."""

from __future__ import annotations

import os
import select
import threading
import time
from collections import Counter, deque
from collections.abc import Callable, Collection
from contextlib import suppress
from dataclasses import replace

from ..core.errors import Cancelled
from ..core.job.evaluate import State, broken_by
from ..core.job.route import Job, Row
from ..core.job.task import Look, Task, Tasks, tasks
from ..core.results.result import Outcome
from .crew import Crew, Heard, LostError, Member
from .events import Event, Finished, RowGlimpsed, RowRuns, RowShows, RowStands, crash_reason, no_room
from .schedule import REST, Schedule
from .store import Store

CHAIN = 4
"""For a glimpse no more rows than this are computed: what takes longer is no glimpse."""
GRACE = 2.0
"""Seconds after a cancel until all processes are begun anew where none can be forked any more."""
STANDING_ASIDE = 3
"""So many processes may be held with their work half done; what is least urgent is given up beyond."""
LEISURE = 0.1
"""Seconds for which reading what nobody sees yet pauses at the most: meanwhile no other thread could go on."""
CALM = 0.4
"""Seconds since something was selected before what nobody sees yet is read on."""
TIDIED = 50
"""What is kept on the disk is looked through once in so many jobs."""
TRIES = 3
"""So often it is tried to begin anew what ends for no reason that is known."""


class Engine:
    """Computes jobs in processes of their own; ``tell`` is called from the engine's thread, and may be given later.

    As many rows are computed at a time as there are processors, what is selected and seen first. A newer job leaves
    alone what is still wanted and ends what is not. What is urgent never waits: others are held meanwhile. A crash
    breaks the row that ran, with its reason; the row is tried again when it has changed, or after ``retry``.
    """

    def __init__(
        self, tell: Callable[[Event], None] | None = None, store: Store | None = None, only_seen: bool = False
    ) -> None:
        """While it has ``only_seen`` to do, until ``go_on``, all else waits: even what is read from the disk takes time
        from a window that opens."""
        self._early: list[Event] = []
        self._tell = tell or self._early.append
        self._lock = threading.RLock()
        self._store = store or Store()
        self._slots = max(1, len(os.sched_getaffinity(0)))
        self._orders: deque[tuple] = deque()
        self._woken, self._wake = os.pipe()
        os.set_blocking(self._woken, False)
        self._generation = self._finished = 0
        self._job: Job | None = None
        self._looked: str | None = None
        self._schedule: Schedule | None = None
        self._failed: dict[str, State] = {}
        self._outcomes: dict[str, Outcome] = {}
        self._absent: set[str] = set()
        self._enough: dict[str, Outcome] = {}
        self._glimpse: tuple[int, Tasks, str] | None = None
        self._tries: Counter[str] = Counter()
        self._deadline: float | None = None
        self._closed = False
        self._only_seen = only_seen
        self._calm = 0.0
        self._crew = Crew(self._store)
        self._thread = threading.Thread(target=self._serve, daemon=True)
        self._thread.start()

    # --- what others ask for -------------------------------------------------------------------

    @property
    def pid(self) -> int:
        """A process that computes, or the one that such are forked from."""
        return self._crew.pid

    def process_of(self, row_id: str) -> int | None:
        """The process that computes this row just now."""
        key = self._schedule.key(row_id) if self._schedule is not None else ""
        members = [m for m in self._crew.members if m.task is not None and m.task.key == key]
        return members[0].pid if members else None

    @property
    def generation(self) -> int:
        """That of the job handed over last."""
        return self._generation

    @property
    def idle(self) -> bool:
        return self._finished == self._generation

    def evaluate(self, job: Job, known: Tasks | None = None) -> int:
        """Computes what has changed; what nobody wants any more is given up. Gives its generation.

        ``known`` are the job's tasks, where they have been worked out already.
        """
        with self._lock:
            self._generation += 1
            self._job = job
            self._order("job", self._generation, job, known)
            return self._generation

    def look(self, row_id: str | None) -> None:
        """That row is selected: it comes first, with what it works on and what is seen of it."""
        self._order("look", row_id)

    def glimpse(self, known: Tasks, row_id: str) -> None:
        """Has a row looked at as it would be with these tasks, of a job that is not handed over yet: soon and roughly.

        Of several that are asked for one after the other, those that nobody has begun are left out.
        """
        self._order("glimpse", self._generation, known, row_id)

    def go_on(self) -> None:
        """With what is not seen, too."""
        self._order("go on")

    def retry(self) -> None:
        """Tries rows again that ended with a crash."""
        self._order("retry")
        if self._job is not None:
            self.evaluate(self._job)

    def cancel(self) -> None:
        """Ends what is being computed, and gives up the rest."""
        self._order("cancel", self._generation)

    def tell_to(self, tell: Callable[[Event], None]) -> None:
        """From now on ``tell`` hears the events; first those that nobody has heard yet."""
        with self._lock:
            for event in self._early:
                tell(event)
            self._early.clear()
            self._tell = tell

    def close(self) -> None:
        """Ends all processes; nothing more is told after this."""
        if not self._closed:
            self._closed = True
            os.write(self._wake, b".")
        self._thread.join(5.0)

    def _order(self, *order: object) -> None:
        if self._closed:
            return
        self._orders.append(order)
        os.write(self._wake, b".")

    # --- the engine's thread -------------------------------------------------------------------

    def _serve(self) -> None:
        while not self._closed:
            try:
                self._take_orders()
                self._plan()
                self._look_ahead()
                for heard in self._crew.heard([self._woken], self._pause()):
                    self._hear(heard)
                if self._deadline is not None and time.monotonic() >= self._deadline:
                    self._deadline = None
                    if self._crew.silent:
                        self._crew.restart()
            except LostError:
                self._crew_is_lost()
            except Exception as error:  # a mistake of ours must not leave the window waiting for ever
                self._give_up(error)
        self._crew.close()
        os.close(self._woken)
        os.close(self._wake)

    def _pause(self) -> float | None:
        """For how many seconds, at the most, there is nothing to do until something is heard; None without a limit."""
        if self._orders:
            return 0
        now = time.monotonic()
        reads_on = self._calm if not self.idle and now < self._calm else None
        left = [each - now for each in (self._deadline, reads_on) if each is not None]
        return max(0.0, min(left)) if left else None

    def _take_orders(self) -> None:
        with suppress(BlockingIOError):
            os.read(self._woken, 4096)
        orders = [self._orders.popleft() for _ in range(len(self._orders))]
        newest = max((i for i, order in enumerate(orders) if order[0] == "job"), default=-1)
        for i, (kind, *about) in enumerate(orders):
            if kind == "job" and i == newest:
                self._begin(*about)
            elif kind == "look":
                self._looked = about[0]
                self._calm = time.monotonic() + CALM
                if self._schedule is not None:
                    self._schedule.look(self._looked)
            elif kind == "glimpse":
                self._glimpse = about[0], about[1], about[2]
            elif kind == "go on":
                self._only_seen = False
            elif kind == "retry":
                self._failed.clear()
                self._tries.clear()
            elif kind == "cancel" and self._schedule is not None and about[0] == self._schedule.generation:
                self._stop()

    def _begin(self, generation: int, job: Job, known: Tasks | None) -> None:
        """A new job: what it has in common with the last one goes on."""
        schedule = Schedule(generation, job, known if known is not None else tasks(job), self._failed)
        schedule.look(self._looked)
        self._schedule = schedule
        wanted = schedule.keys
        self._outcomes = {key: outcome for key, outcome in self._outcomes.items() if key in wanted}
        self._enough = {key: outcome for key, outcome in self._enough.items() if key in wanted}
        for member in list(self._crew.members):
            if member.task is not None and member.task.key not in wanted:
                self._crew.end(member)
            elif member.task is not None:
                self._say_runs(member)

    def _plan(self) -> None:
        """Says what is known, then has the most urgent rows computed."""
        schedule = self._schedule
        if schedule is None or schedule.generation == self._finished:
            return
        more = True
        while more:
            more = False
            for row, state in schedule.advance():
                self._stands(row, state)
            for row, task in self._due(schedule):
                if self._orders or self._closed:
                    return
                if (outcome := self._read(task.key, schedule.urgency(row.id) == REST)) is not None:
                    state = State("done", outcome, key=task.key)
                    schedule.know(row, state)
                    self._stands(row, state)
                    more = True
        if schedule.done:
            self._finished = schedule.generation
            self._say(Finished(schedule.generation))
            self._crew.spare(self._slots)
            if schedule.generation % TIDIED == 1:
                self._store.trim()
        self._share_out(schedule)

    def _due(self, schedule: Schedule) -> list[tuple[Row, Task]]:
        """What may be read or computed now, the most urgent first."""
        return [
            each for each in schedule.ready() if schedule.urgency(each[0].id) != REST or self._may_go_on(each[1].key)
        ]

    def _may_go_on(self, key: str) -> bool:
        """Whether what nobody sees yet may be read or computed: reading takes time from a window that is used."""
        if self._only_seen:
            return False
        return time.monotonic() >= self._calm or key in self._outcomes or not self._store.has(key)

    def _share_out(self, schedule: Schedule) -> None:
        """Has each processor compute what is most urgent. What has begun goes on unless something seen waits for it."""
        busy = {member.task.key: member for member in self._crew.members if member.task is not None}
        begun = [(schedule.urgency_of(key), 0, i, key) for i, key in enumerate(busy)]
        waiting = {task.key: task for _, task in self._due(schedule) if task.key not in busy}
        fresh = [(schedule.urgency_of(key), 1, i, key) for i, key in enumerate(waiting)]
        first = [key for _, _, _, key in sorted([*begun, *fresh])[: self._slots]]
        if all(schedule.urgency_of(key) == REST for key in waiting):
            running = [key for key, member in busy.items() if not member.held]
            first = [*running, *(key for key in first if key not in running)][: max(self._slots, len(running))]
        for key, member in busy.items():
            self._crew.hold(member, key not in first)
        for key in first:
            if key in waiting:
                self._give(waiting[key])
        held = [member for member in self._crew.members if member.held]
        for member in held[: len(held) - STANDING_ASIDE] if len(held) > STANDING_ASIDE else ():
            self._crew.end(member)
        self._crew.reserve()

    def _look_ahead(self) -> None:
        """Has the process that is there for glimpses begin the one that was asked for last, when it has time."""
        if self._glimpse is None or self._schedule is None:
            return
        member = next((m for m in self._crew.members if m.glimpses), None) or self._crew.hire()
        member.glimpses = True
        if member.look is None:
            (generation, known, row_id), self._glimpse = self._glimpse, None
            chain = self._chain(known, row_id)
            if self._expects(generation, row_id) and chain:
                with suppress(OSError, KeyError):
                    for task in chain:
                        self._bring(task, {other.key for other in chain})
                    self._crew.show(member, Look(chain, row_id, generation))

    def _chain(self, known: Tasks, row_id: str) -> tuple[Task, ...]:
        """The tasks without results that a row needs, and its own; none where they are too many to be quick."""
        by_key = {task.key: task for task in known.values() if isinstance(task, Task)}
        last = known.get(row_id)
        found: dict[str, Task] = {}
        waiting = [last] if isinstance(last, Task) else []
        while waiting:
            task = waiting.pop()
            found = {task.key: task, **{key: other for key, other in found.items() if key != task.key}}
            needed = [key for key in task.results if self._outcome(key) is None]
            if len(found) > CHAIN or any(key not in by_key for key in needed):
                return ()
            waiting.extend(by_key[key] for key in needed)
        return tuple(found.values())

    def _bring(self, task: Task, made: Collection[str] = ()) -> None:
        """Puts what a task takes into the store, but for what is ``made`` on the way. Raises OSError."""
        for key in task.results:
            if key not in made:
                self._store.put(key, self._outcomes[key])
        for file in task.files:
            assert self._schedule is not None
            self._store.put(file.sha256, self._schedule.job.assets[file.name].content)

    def _expects(self, generation: int, row_id: str) -> bool:
        """Whether a glimpse that was asked for in a generation may be shown: the row has not been computed since."""
        schedule = self._schedule
        unknown = schedule is not None and any(row.id == row_id for row in schedule.unknown)
        return unknown or (schedule is not None and generation == schedule.generation)

    def _show_glimpse(self, member: Member, there: bool) -> None:
        look, member.look = member.look, None
        if look is None or not there:
            return
        with suppress(KeyError):
            glimpse = self._store.get(look.key)
            if self._schedule is not None and self._expects(look.generation, look.row_id):
                self._say(RowGlimpsed(self._schedule.generation, look.row_id, glimpse))
        self._store.drop(look.key)

    def _give(self, task: Task) -> None:
        """Has a process compute the task, one that knows much of what it takes if there is a choice."""
        try:
            self._bring(task)
        except OSError as error:
            self._fail(task, no_room(self._store, error))
            return
        idle = self._crew.idle
        member = max(idle, key=lambda each: len(each.knows.intersection(task.results))) if idle else self._crew.hire()
        self._crew.give(member, task)
        self._say_runs(member)

    def _hear(self, heard: Heard) -> None:
        member, (kind, *about) = heard.member, heard.message
        task = member.task
        if kind == "glimpsed":
            self._show_glimpse(member, *about)
        if task is None:
            return
        row = self._schedule.row_of(task.key) if self._schedule is not None else None
        if kind == "progress":
            member.progress = about[0], about[1]
            self._say_runs(member)
        elif kind == "coarse" and row is not None:
            self._show_coarse(row, task.key, *about)
        elif kind == "stands":
            member.task = None
            self._crew.hold(member, False)  # it may have been held just after it had said so
            self._tries.pop(task.key, None)
            self._enough.pop(task.key, None)
            self._absent.discard(task.key)
            if about[0].status != "done":
                self._fail(task, about[0])
            elif self._outcome(task.key) is None:
                self._again(task, "its result cannot be read from the disk")
        elif kind == "missing":
            member.task = None
            self._crew.hold(member, False)
            self._again(task, "what it works on cannot be kept on the disk")
        elif kind == "ended":
            self._fail(task, State("broken", reason=crash_reason(about[0]), key=task.key))

    def _fail(self, task: Task, state: State) -> None:
        """The task has failed: all rows that ask for it stand so."""
        schedule = self._schedule
        if state.status == "broken" and state.key:
            self._failed[state.key] = state
        while schedule is not None and (row := schedule.row_of(task.key)) is not None:
            schedule.know(row, state)
            self._stands(row, state)

    def _again(self, task: Task, why: str) -> None:
        """The task is given out once more, but not for ever."""
        self._tries[task.key] += 1
        if self._tries[task.key] >= TRIES:
            self._fail(task, State("broken", reason=f"This row was begun {TRIES} times in vain: {why}; try again."))

    def _stop(self) -> None:
        """The user has cancelled."""
        schedule = self._schedule
        assert schedule is not None
        for member in list(self._crew.members):
            if member.task is not None:
                self._crew.end(member)
                if not self._kept(member.task):
                    self._fail(member.task, State("stopped", reason=Cancelled().sentence, key=member.task.key))
        for row, state in schedule.stop():
            self._stands(row, state)
        self._crew.call()
        self._deadline = time.monotonic() + GRACE

    def _kept(self, task: Task) -> bool:
        """Whether what was found before the stop is enough, and stays as the result."""
        found = self._enough.pop(task.key, None)
        if found is None:
            return False
        said = (*found.messages, "The search was stopped; this is the best that it had found.")
        try:
            self._store.put(task.key, replace(found, messages=said))
        except OSError:
            return False
        self._absent.discard(task.key)
        state = State("done", self._outcome(task.key), key=task.key)
        while self._schedule is not None and (row := self._schedule.row_of(task.key)) is not None:
            self._schedule.know(row, state)
            self._stands(row, state)
        return True

    def _crew_is_lost(self) -> None:
        """The processes were ended from outside: what ran is begun anew."""
        tasks = [member.task for member in self._crew.members if member.task is not None]
        self._crew.restart()
        for task in tasks:
            self._again(task, "the computation was ended from outside")

    def _give_up(self, error: Exception) -> None:
        """What is not known yet is broken by a mistake in the engine itself."""
        self._crew.restart()
        schedule = self._schedule
        if schedule is None:
            return
        for row in schedule.unknown:
            schedule.know(row, broken_by(error))
            self._stands(row, broken_by(error))
        if schedule.generation != self._finished:
            self._finished = schedule.generation
            self._say(Finished(schedule.generation))

    def _read(self, key: str, at_leisure: bool) -> Outcome | None:
        """As ``_outcome``; what is read from the disk ``at_leisure`` leaves others as much time as it took."""
        if not at_leisure or key in self._outcomes or key in self._absent:
            return self._outcome(key)
        begin = time.monotonic()
        outcome = self._outcome(key)
        if outcome is not None:
            select.select([self._woken], [], [], min(time.monotonic() - begin, LEISURE))
        return outcome

    def _outcome(self, key: str) -> Outcome | None:
        if key not in self._outcomes and key not in self._absent:
            try:
                self._outcomes[key] = self._store.get(key)
            except KeyError:
                self._absent.add(key)
        return self._outcomes.get(key)

    # --- telling -------------------------------------------------------------------------------

    def _stands(self, row: Row, state: State) -> None:
        assert self._schedule is not None
        self._say(RowStands(self._schedule.generation, row.id, state))

    def _show_coarse(self, row: Row, task_key: str, key: str, enough: bool) -> None:
        assert self._schedule is not None
        with suppress(KeyError):
            coarse = self._store.get(key)
            self._say(RowShows(self._schedule.generation, row.id, coarse))
            if enough:
                self._enough[task_key] = coarse
        self._store.drop(key)

    def _say_runs(self, member: Member) -> None:
        schedule = self._schedule
        row = schedule.row_of(member.task.key) if schedule is not None and member.task is not None else None
        if schedule is not None and row is not None:
            self._say(RowRuns(schedule.generation, row.id, *member.progress))

    def _say(self, event: Event) -> None:
        with self._lock:
            if event.generation == self._generation and not self._closed:
                self._tell(event)
