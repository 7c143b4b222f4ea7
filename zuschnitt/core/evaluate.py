"""Evaluates a route: runs what has changed, and says of every row how it stands."""

from __future__ import annotations

import hashlib
import json
from collections import OrderedDict
from collections.abc import Callable, Iterator, Mapping
from dataclasses import asdict, dataclass
from typing import Any

from .errors import Cancelled, Refused, ZuschnittError
from .operations.registry import Outcome, entries, entry
from .progress import SILENT, Progress
from .route import Job, Row, resolved

KEPT = 200
"""How many results are kept for jobs that come back, as with undo."""


@dataclass(frozen=True)
class State:
    """How a row stands: done, broken, waiting (for a row that is broken or off), off or stopped.

    ``reason`` is the sentence for it; ``faces`` and ``points`` are what it speaks of.
    """

    status: str
    outcome: Outcome | None = None
    reason: str = ""
    key: str = ""
    faces: tuple[int, ...] = ()
    points: tuple = ()


def keys(job: Job) -> dict[str, str]:
    """For each row that can run, a hash of its operation, its resolved values and its inputs."""
    found: dict[str, str] = {}
    for row in job.rows:
        try:
            found[row.id] = _key(job, row, found)
        except Exception:  # whatever is wrong with the row breaks it when its turn comes, and stops nothing here
            continue
    return found


def _key(job: Job, row: Row, known: Mapping[str, str]) -> str:
    about = entry(row.operation)
    parts: list[Any] = [row.operation]
    for parameter in about.parameters:
        value = row.parameters.get(parameter.name, parameter.default)
        if parameter.kind == "source":
            taken = job.source(row, parameter)
            parts.append(known.get(taken.id, "none") if taken else "none")
        elif parameter.kind == "sources":
            parts.append([known.get(taken.id, "none") for taken in job.gathered(row, parameter)])
        elif parameter.kind == "file":
            asset = job.assets.get(value)
            parts.append([value, asset.sha256 if asset else "missing"])
        elif parameter.kind == "material":
            parts.append(asdict(found) if (found := job.material_of(row, parameter)) else None)
        else:
            parts.append(resolved(parameter, value, job.numbers))
    return hashlib.sha256(json.dumps(parts).encode()).hexdigest()


class Evaluator:
    """Runs routes one after the other and keeps their results by content."""

    def __init__(self) -> None:
        self._results: OrderedDict[str, Outcome] = OrderedDict()

    def evaluate(
        self,
        job: Job,
        progress_of: Callable[[Row, str], Progress] = lambda row, key: SILENT,
        crashed: Mapping[str, str] = {},
    ) -> Iterator[tuple[Row, State]]:
        """The state of each row, as soon as it is known.

        ``crashed`` gives the reason for keys that are not to be tried again. ``Cancelled`` from the
        progress of a row stops that row and all that follow.
        """
        states: dict[str, State] = {}
        known: dict[str, str] = {}
        stopped = False
        for row in job.rows:
            if not row.enabled:
                state = State("off", reason="switched off")
            elif stopped:
                state = State("stopped", reason="stopped before its turn; run it again")
            else:
                state = self._one(job, row, states, known, progress_of, crashed)
                stopped = state.status == "stopped"
            states[row.id] = state
            yield row, state

    def _one(self, job, row, states, known, progress_of, crashed) -> State:
        try:
            return self._stands(job, row, states, known, progress_of, crashed)
        except ZuschnittError as error:
            return _broken(error)
        except Exception as error:
            return _mistaken(error, "")

    def _stands(self, job, row, states, known, progress_of, crashed) -> State:
        for taken in job.sources(row):
            if states[taken.id].status != "done":
                why = {"off": "is switched off", "stopped": "was stopped"}.get(states[taken.id].status, "is broken")
                if states[taken.id].status == "waiting":
                    why = "waits itself"
                return State("waiting", reason=f"waits for row {taken.number}, which {why}")
        key = _key(job, row, known)
        known[row.id] = key
        if key in crashed:
            return State("broken", reason=crashed[key], key=key)
        outcome = self._results.get(key)
        if outcome is not None:
            self._results.move_to_end(key)
            return State("done", outcome, key=key)
        try:
            operation = _instance(job, row, states)
            outcome = operation.run(progress_of(row, key))
        except Cancelled as error:
            return State("stopped", reason=error.sentence, key=key)
        except ZuschnittError as error:
            return _broken(error, key)
        except MemoryError:
            return State("broken", reason="There is not enough memory for this; take larger triangles.", key=key)
        except Exception as error:  # a mistake of ours must break one row, not the route
            return _mistaken(error, key)
        self._results[key] = outcome
        while len(self._results) > KEPT:
            self._results.popitem(last=False)
        return State("done", outcome, key=key)


def _broken(error: ZuschnittError, key: str = "") -> State:
    return State("broken", reason=error.sentence, key=key, faces=error.faces, points=error.points)


def _mistaken(error: Exception, key: str) -> State:
    why = f"{type(error).__name__}: {error}"[:200]
    return State("broken", reason=f"This row met a mistake in the program ({why}); please report it.", key=key)


def _instance(job: Job, row: Row, states: Mapping[str, State]):
    """The operation with plain values in its fields."""
    about = entry(row.operation)
    values: dict[str, Any] = {}
    for parameter in about.parameters:
        value = row.parameters.get(parameter.name, parameter.default)
        if parameter.kind == "source":
            taken = job.source(row, parameter)
            if taken is None and parameter.optional and not value:
                values[parameter.name] = None
                continue
            if taken is None:
                wanted = " or ".join(parameter.accepts)
                gone = "the row it worked on is gone" if value else "there is none above"
                raise Refused(f"{about.title} needs a {wanted}, and {gone}; choose one in its sentence.")
            values[parameter.name] = _outcome(states, taken).value
        elif parameter.kind == "sources":
            values[parameter.name] = tuple(_outcome(states, taken).value for taken in job.gathered(row, parameter))
        elif parameter.kind == "file":
            if not value:
                raise Refused(f"{about.title} has no file yet; choose one in its sentence.")
            if value not in job.assets:
                raise Refused(f"The file {value} is not in the job any more; bring it in again.")
            values[parameter.name] = job.assets[value]
        elif parameter.kind == "material":
            values[parameter.name] = job.material_of(row, parameter)
        else:
            values[parameter.name] = resolved(parameter, value, job.numbers)
    return about.type(**values)


def _outcome(states: Mapping[str, State], row: Row) -> Outcome:
    outcome = states[row.id].outcome
    assert outcome is not None
    return outcome


def run_all(job: Job, progress: Progress = SILENT) -> dict[str, State]:
    """Evaluates the whole job here and now: the state of each row by its id."""
    rows = max(1, len(job.rows))
    place = {row.id: i for i, row in enumerate(job.rows)}
    entries()

    def part(row: Row, key: str) -> Progress:
        return progress.part(place[row.id] / rows, (place[row.id] + 1) / rows)

    return {row.id: state for row, state in Evaluator().evaluate(job, part)}
