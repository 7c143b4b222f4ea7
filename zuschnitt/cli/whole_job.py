"""The command ``run``: a whole job, with some of its values set."""

from __future__ import annotations

from argparse import Namespace
from collections.abc import Mapping
from pathlib import Path
from typing import Any

from ..core.errors import CannotBeDone, WrongCall
from ..core.files.outputs import Outputs
from ..core.files.report import messages_part, report, report_bytes
from ..core.job.evaluate import State, run_all
from ..core.job.job_file import load_job
from ..core.job.route import Job
from ..core.progress import Progress
from ..core.results.result import Printing, merged
from ..core.results.writing import written
from .job_of_call import ENDINGS, ending_of
from .terminal import say


def with_edits(job: Job, edits: list[str]) -> Job:
    """The job with ``ROW.name=value`` set, or ``name=value`` for a named value."""
    for edit in edits:
        target, equals, value = edit.partition("=")
        row, dot, name = target.partition(".")
        if not equals:
            raise WrongCall(f"'--set {edit}' must be ROW.name=value, such as 20.way=exact.")
        job = job.set(job.row(row).id, name, value) if dot else job.with_value(target, value)
    return job


def run_job(options: Namespace, progress: Progress) -> None:
    job = with_edits(load_job(options.job), options.edits)
    states = run_all(job, progress)
    broken = [(row, states[row.id]) for row in job.rows if states[row.id].status == "broken" or states[row.id].lacks]
    lines = []
    for row in job.rows:
        state = states[row.id]
        said = state.outcome.brief if state.outcome else state.reason
        lines.append(f"{row.number:>4}  {row.name:<14} {state.status:<8} {said}")
    if broken:
        say(lines)
        row, state = broken[0]
        raise CannotBeDone(
            f"Row {row.number} ({row.name}) {'waits' if state.lacks else 'is broken'}: {state.reason}",
            faces=state.faces,
        )
    outputs = Outputs()
    add_results(outputs, job, states, options)
    if options.report:
        outputs.add(options.report, report_bytes(job_report(job, states, options.job)))
    outputs.write()
    say(lines)


def job_report(job: Job, states: Mapping[str, State], path: Path | None) -> dict[str, Any]:
    """The report of a whole job: its rows, and the parts that their results have in it."""
    rows: list[dict[str, Any]] = []
    found: list[dict[str, Any]] = []
    messages: list[str] = []
    for row in job.rows:
        state = states[row.id]
        about: dict[str, Any] = {"row": row.number, "operation": row.operation, "status": state.status}
        if state.reason:
            about["reason"] = state.reason
        if state.outcome:
            about["figures"] = {figure.label: figure.text for figure in state.outcome.figures}
            messages.extend(state.outcome.messages)
            parts = [result.report() for result in state.outcome.results]
            about.update((key, part) for key, part in merged(parts).items() if not isinstance(part, list))
            found.extend(parts)
        rows.append(about)
    return report("run", path, rows=rows, **merged(found), messages=messages_part(messages))


MISSING = {
    "dxf": "There is no cut file row, so there is nothing to cut; add one.",
    "svg": "There is no cut file row, so there is nothing to cut; add one.",
    "pdf": "There is no blank, so there is nothing to print; develop one.",
    "step": "There is neither a blank nor wrapped artwork, so there are no curves to write; develop one.",
    "nc": "There is no row that prepares a cut file for a cutter, so there is no program to write; add one.",
    "stl": "There is no form, so there is no mesh to write; bring one in.",
}


def add_results(outputs: Outputs, job: Job, states: Mapping[str, State], options: Namespace) -> None:
    """Adds the files that are asked for, of the last rows that give them, or of the asked row."""
    if getattr(options, "papers", None):
        from ..core.job.papers import papers_bytes

        done = {row_id: state.outcome for row_id, state in states.items() if state.outcome is not None}
        outputs.add(options.papers, papers_bytes(job, done))
    rows = job.rows if options.row is None else (job.row(options.row),)
    outcomes = [outcome for row in rows if (outcome := states[row.id].outcome) is not None]
    printing = Printing(options.paper, options.shown) if options.pdf else Printing()
    for option, ending in ENDINGS.items():
        path = getattr(options, option)
        if path:
            content = written(outcomes, ending_of(path, ending), job.name, printing)
            if content is None:
                raise CannotBeDone(MISSING[ending])
            outputs.add(path, content)
