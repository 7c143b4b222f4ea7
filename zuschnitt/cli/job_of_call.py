"""A call as a job: each command puts rows one below the other, has them computed, and reports their results."""

from __future__ import annotations

from argparse import Namespace
from collections.abc import Sequence
from pathlib import Path
from typing import Any

from ..core.errors import Refused, failed
from ..core.files.outputs import Outputs
from ..core.files.reading import content_of
from ..core.files.report import messages_part, report, report_bytes
from ..core.job.evaluate import Evaluator
from ..core.job.job_file import job_bytes
from ..core.job.route import Asset, Job
from ..core.progress import Progress
from ..core.results.result import Outcome, Printing, merged
from ..core.results.writing import written
from .terminal import say

ENDINGS = {"dxf": "dxf", "svg": "svg", "pdf": "pdf", "step": "step", "mesh": "stl", "gcode": "nc"}
"""The option that asks for each kind of file, and the file's ending."""


def ending_of(path: Path, ending: str) -> str:
    """What is written to a path: a mesh is written as 3MF where the path says so."""
    return "3mf" if ending == "stl" and path.suffix.lower() == ".3mf" else ending


class JobOfCall:
    """``options`` are those of the call; what is written bears ``title``."""

    def __init__(self, options: Namespace, progress: Progress, title: str = "") -> None:
        self.options, self.progress, self.title = options, progress, title
        self.job = Job(name=title, material="", thickness="1.0")
        self._evaluator = Evaluator()
        self._outcomes: dict[str, Outcome] = {}
        self._on_the_way: set[str] = set()

    def file(self, path: Path) -> str:
        """Takes a file into the job; its name there. Raises Refused where it cannot be read."""
        content = content_of(path)
        name = path.name
        while name in self.job.assets and self.job.assets[name].content != content:
            name = f"other {name}"
        self.job = self.job.with_asset(Asset(name, content, path))
        return name

    def made(self, name: str, content: bytes) -> str:
        """Takes a file into the job that this call has made itself; its name there."""
        self.job = self.job.with_asset(Asset(name, content))
        return name

    def instead(self, row_id: str, **values: Any) -> str:
        """A row in place of the last one, some of its values changed, None for what is as by default; its id."""
        row = self.job.row(row_id)
        self.job = self.job.removed(row_id)
        self._outcomes.pop(row_id, None)
        return self.add(row.operation, **{**row.parameters, **values})

    def add(self, operation: str, **values: Any) -> str:
        """Adds a row below the others; its id. Values that are None are left as they are by default."""
        given = {name: value for name, value in values.items() if value is not None}
        self.job = self.job.added(operation, **given)
        return self.job.rows[-1].id

    def leave_unsaid(self, *row_ids: str) -> None:
        """What these rows say is left out: they are only on the way to what is asked for."""
        self._on_the_way.update(row_ids)

    def outcome(self, row_id: str) -> Outcome:
        """What a row gives. Raises what broke it, or a row above."""
        if row_id not in self._outcomes:
            self._compute()
        return self._outcomes[row_id]

    def value(self, row_id: str) -> Any:
        """The main result of a row."""
        return self.outcome(row_id).value

    def outcomes(self) -> list[Outcome]:
        """What all rows give, in order."""
        return [self.outcome(row.id) for row in self.job.rows]

    def _compute(self) -> None:
        count = len(self.job.rows)
        place = {row.id: k for k, row in enumerate(self.job.rows)}
        states = self._evaluator.evaluate(
            self.job, lambda row, key: self.progress.part(place[row.id] / count, (place[row.id] + 1) / count)
        )
        for row, state in states:
            if state.outcome is None:
                raise failed(state.exit_code, state.reason, state.faces, state.points)
            self._outcomes[row.id] = state.outcome

    def finish(
        self,
        command: str,
        source: Path | None,
        lines: Sequence[str],
        more: Sequence[str] = (),
        files: Sequence[tuple[Path, bytes]] = (),
        **parts: Any,
    ) -> None:
        """Writes what is asked for, and further ``files``; then says ``lines``, what the rows say, and ``more``."""
        outcomes = self.outcomes()
        said = [self.outcome(row.id) for row in self.job.rows if row.id not in self._on_the_way]
        messages = [*(message for outcome in said for message in outcome.messages), *more]
        found = merged([result.report() for outcome in outcomes for result in outcome.results])
        outputs = Outputs()
        for option, ending in ENDINGS.items():
            path = getattr(self.options, option, None)
            if path:
                content = written(outcomes, ending_of(path, ending), self.title, _printing(self.options))
                if content is None:
                    raise Refused(f"This call gives nothing that can be written to {path}; leave --{option} out.")
                outputs.add(path, content)
        for path, content in files:
            outputs.add(path, content)
        if getattr(self.options, "as_job", None):
            outputs.add(self.options.as_job, job_bytes(self.job))
        if self.options.report:
            about = report(command, source, **{**found, **parts}, messages=messages_part(messages))
            outputs.add(self.options.report, report_bytes(about))
        outputs.write()
        say([*lines, *messages])


def _printing(options: Namespace) -> Printing:
    return Printing(getattr(options, "paper", "a4"), getattr(options, "shown", "lines"))
