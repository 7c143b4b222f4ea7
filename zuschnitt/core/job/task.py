"""What one row asks to be computed, free of its job: an operation, plain values, and the results and files it takes."""

from __future__ import annotations

import hashlib
import json
from collections.abc import Callable, Iterable, Iterator, Mapping
from dataclasses import asdict, is_dataclass
from typing import Any

from ..errors import Refused
from ..operations.registry import entry
from ..parameters.material import MaterialName
from ..parameters.parameter import FileOf, ResultOf
from ..record import record
from .route import Asset, Job, Row


@record
class Task:
    """One computation. ``key`` is a hash of all that its result depends on."""

    key: str
    operation: str
    values: Mapping[str, Any]

    @property
    def results(self) -> tuple[str, ...]:
        """The keys of the results it takes."""
        return tuple(value.key for value in self._all() if isinstance(value, ResultOf))

    @property
    def files(self) -> tuple[FileOf, ...]:
        return tuple(value for value in self._all() if isinstance(value, FileOf))

    def _all(self) -> Iterator[Any]:
        for value in self.values.values():
            yield from value if isinstance(value, tuple) else (value,)

    def ready(self, result: Callable[[ResultOf], Any], file: Callable[[FileOf], Asset]) -> Any:
        """The operation with results and files in its fields, as ``result`` and ``file`` give them."""

        def filled(value: Any) -> Any:
            if isinstance(value, ResultOf):
                return result(value)
            if isinstance(value, FileOf):
                return file(value)
            return tuple(filled(v) for v in value) if isinstance(value, tuple) else value

        return entry(self.operation).type(**{name: filled(value) for name, value in self.values.items()})


@record
class Look:
    """A glimpse of what the last of ``tasks`` would give, for which those before it are computed.

    It is that of a row, asked for in a ``generation`` of the job.
    """

    tasks: tuple[Task, ...]
    row_id: str
    generation: int

    @property
    def key(self) -> str:
        """What its glimpse is kept under until it is shown."""
        return f"{self.tasks[-1].key}-glimpse"


Tasks = Mapping[str, Task | Exception]
"""The task of each row by its id, or why it has none."""


def tasks(job: Job) -> Tasks:
    """The task of each row by its id, or why it has none. Rows that work on such a row are left out."""
    return _tasks(job, job.rows)


def tasks_behind(job: Job, row_id: str) -> Tasks:
    """As ``tasks``, but of one row and of all that it works on alone."""
    behind, waiting = set(), [job.row(row_id)]
    while waiting:
        row = waiting.pop()
        if row.id not in behind:
            behind.add(row.id)
            waiting.extend(job.sources(row))
    return _tasks(job, [row for row in job.rows if row.id in behind])


def _tasks(job: Job, rows: Iterable[Row]) -> Tasks:
    found: dict[str, Task | Exception] = {}
    keys: dict[str, str] = {}
    _lately.start(job)
    for row in rows:
        try:
            sources = job.sources(row)
            if any(taken.id not in keys for taken in sources):
                continue
            task = _lately.task(job, row, tuple((taken.id, keys[taken.id]) for taken in sources), keys)
        except Exception as error:  # whatever is wrong with a row breaks it when its turn comes, and no other
            found[row.id] = error
        else:
            found[row.id], keys[row.id] = task, task.key
    return found


class _Lately:
    """The tasks of the rows of the last job, for those that an edit does not concern."""

    def __init__(self) -> None:
        self._about: tuple[Any, ...] = ()
        self._tasks: dict[str, tuple[Row, tuple[Any, ...], Task]] = {}

    def start(self, job: Job) -> None:
        """Forgets all tasks where a value or a file of the job is another one."""
        try:
            about: tuple[Any, ...] = (job.numbers, tuple((name, a.sha256) for name, a in job.assets.items()))
        except Refused:  # each row that uses a value says so
            about = ()
        if about != self._about or not about:
            self._about, self._tasks = about, {}

    def task(self, job: Job, row: Row, sources: tuple[tuple[str, str], ...], known: Mapping[str, str]) -> Task:
        materials = tuple(
            job.material_of(row, p) for p in entry(row.operation).parameters if isinstance(p, MaterialName)
        )
        kept = self._tasks.get(row.id)
        if kept is not None and kept[0] is row and kept[1] == (sources, materials):
            return kept[2]
        task = _task(job, row, known)
        self._tasks[row.id] = row, (sources, materials), task
        return task


_lately = _Lately()


def keys(job: Job) -> dict[str, str]:
    """The key of each row that can be computed."""
    return keys_of(tasks(job))


def keys_of(known: Tasks) -> dict[str, str]:
    """The keys of tasks, by the ids of their rows."""
    return {row_id: task.key for row_id, task in known.items() if isinstance(task, Task)}


def _task(job: Job, row: Row, known: Mapping[str, str]) -> Task:
    about = entry(row.operation)
    values = {p.name: p.in_task(job, row, about.title, known) for p in about.parameters}
    said = json.dumps([row.operation, values], default=_in_json)
    return Task(hashlib.sha256(said.encode()).hexdigest(), row.operation, values)


def _in_json(value: Any) -> Any:
    if is_dataclass(value) and not isinstance(value, type):
        return [type(value).__name__, asdict(value)]
    raise TypeError(f"{type(value).__name__} cannot be part of a task")
