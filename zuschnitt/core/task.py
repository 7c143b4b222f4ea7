"""What one row asks to be computed, free of its job: an operation, plain values, and the results and files it takes."""

from __future__ import annotations

import hashlib
import json
from collections.abc import Callable, Iterator, Mapping
from dataclasses import asdict, dataclass, is_dataclass
from typing import Any

from .errors import Refused
from .operations.registry import Entry, Parameter, entry
from .route import Asset, Job, Row, resolved


@dataclass(frozen=True)
class ResultOf:
    """Stands in a task for the result that is kept under ``key``."""

    key: str


@dataclass(frozen=True)
class FileOf:
    """Stands in a task for a file of the job."""

    name: str
    sha256: str


@dataclass(frozen=True)
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

    def ready(self, result: Callable[[str], Any], file: Callable[[FileOf], Asset]) -> Any:
        """The operation with results and files in its fields, as ``result`` and ``file`` give them."""

        def filled(value: Any) -> Any:
            if isinstance(value, ResultOf):
                return result(value.key)
            if isinstance(value, FileOf):
                return file(value)
            return tuple(filled(v) for v in value) if isinstance(value, tuple) else value

        return entry(self.operation).type(**{name: filled(value) for name, value in self.values.items()})


Tasks = Mapping[str, Task | Exception]
"""The task of each row by its id, or why it has none."""


def tasks(job: Job) -> Tasks:
    """The task of each row by its id, or why it has none. Rows that work on such a row are left out."""
    found: dict[str, Task | Exception] = {}
    keys: dict[str, str] = {}
    for row in job.rows:
        try:
            if any(taken.id not in keys for taken in job.sources(row)):
                continue
            task = _task(job, row, keys)
        except Exception as error:  # whatever is wrong with a row breaks it when its turn comes, and no other
            found[row.id] = error
        else:
            found[row.id], keys[row.id] = task, task.key
    return found


def keys(job: Job) -> dict[str, str]:
    """The key of each row that can be computed."""
    return keys_of(tasks(job))


def keys_of(known: Tasks) -> dict[str, str]:
    """The keys of tasks, by the ids of their rows."""
    return {row_id: task.key for row_id, task in known.items() if isinstance(task, Task)}


def _task(job: Job, row: Row, known: Mapping[str, str]) -> Task:
    about = entry(row.operation)
    values = {parameter.name: _value(job, row, about, parameter, known) for parameter in about.parameters}
    said = json.dumps([row.operation, values], default=_in_json)
    return Task(hashlib.sha256(said.encode()).hexdigest(), row.operation, values)


def _in_json(value: Any) -> Any:
    if is_dataclass(value) and not isinstance(value, type):
        return [type(value).__name__, asdict(value)]
    raise TypeError(f"{type(value).__name__} cannot be part of a task")


def _value(job: Job, row: Row, about: Entry, parameter: Parameter, known: Mapping[str, str]) -> Any:
    """What stands in the task for one value of the row. Raises Refused where it is missing or no good."""
    value = row.parameters.get(parameter.name, parameter.default)
    if parameter.kind == "source":
        taken = job.source(row, parameter)
        if taken is None and parameter.optional and not value:
            return None
        if taken is None:
            wanted = " or ".join(parameter.accepts)
            gone = "the row it worked on is gone" if value else "there is none above"
            raise Refused(f"{about.title} needs a {wanted}, and {gone}; choose one in its sentence.")
        _require_together(job, row, about, parameter, taken)
        return ResultOf(known[taken.id])
    if parameter.kind == "origin":
        found = job.origin_of(row, parameter)
        return ResultOf(known[found.id]) if found is not None else None
    if parameter.kind == "sources":
        return tuple(ResultOf(known[taken.id]) for taken in job.gathered(row, parameter))
    if parameter.kind == "file":
        if not value:
            raise Refused(f"{about.title} has no file yet; choose one in its sentence.")
        if value not in job.assets:
            raise Refused(f"The file {value} is not in the job any more; bring it in again.")
        return FileOf(value, job.assets[value].sha256)
    if parameter.kind == "material":
        return job.material_of(row, parameter)
    return resolved(parameter, value, job.numbers)


def _require_together(job: Job, row: Row, about: Entry, parameter: Parameter, taken: Row) -> None:
    """Raises Refused where what a source takes has come from another row than the source it must be on."""
    if not parameter.on:
        return
    other = about.parameter(parameter.on)
    here, there = job.source(row, other), job.origin(taken, other.accepts)
    if here is not None and there is not None and here.id != there.id:
        raise Refused(
            f"The {parameter.name} of row {taken.number} are on the {parameter.on} of row {there.number}, and this row "
            f"works on that of row {here.number}; choose some of the same {parameter.on}."
        )
