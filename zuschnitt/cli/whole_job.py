"""The command ``run``: a whole job, with some of its values set."""

from __future__ import annotations

from argparse import Namespace
from collections.abc import Mapping, Sequence
from dataclasses import replace
from pathlib import Path
from typing import Any

from ..core.errors import CannotBeDone, WrongCall
from ..core.evaluate import State, run_all
from ..core.files.job_file import load_job
from ..core.files.outputs import Outputs
from ..core.files.pdf import pdf_bytes
from ..core.files.report import blank_part, curves_part, messages_part, report, report_bytes
from ..core.files.stl import stl_bytes
from ..core.operations.cut_file import drawing
from ..core.operations.registry import Outcome
from ..core.progress import Progress
from ..core.route import Job
from ..core.shop.pages import paged
from .commands import add_drawings
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
    broken = [(row, states[row.id]) for row in job.rows if states[row.id].status == "broken"]
    lines = []
    for row in job.rows:
        state = states[row.id]
        said = state.outcome.brief if state.outcome else state.reason
        lines.append(f"{row.number:>4}  {row.name:<14} {state.status:<8} {said}")
    if broken:
        say(lines)
        row, state = broken[0]
        raise CannotBeDone(f"Row {row.number} ({row.name}) is broken: {state.reason}", faces=state.faces)
    outputs = Outputs()
    add_results(outputs, job, states, options)
    if options.report:
        outputs.add(options.report, report_bytes(job_report(job, states, options.job)))
    outputs.write()
    say(lines)


def job_report(job: Job, states: Mapping[str, State], path: Path | None) -> dict[str, Any]:
    """The report of a whole job: its rows, the last blank, and all curves that were carried."""
    rows: list[dict[str, Any]] = []
    curves: list[dict[str, Any]] = []
    messages: list[str] = []
    blank = None
    for row in job.rows:
        state = states[row.id]
        about: dict[str, Any] = {"row": row.number, "operation": row.operation, "status": state.status}
        if state.reason:
            about["reason"] = state.reason
        if state.outcome:
            about["figures"] = {figure.label: figure.text for figure in state.outcome.figures}
            messages.extend(state.outcome.messages)
            if state.outcome.kind == "blank":
                blank = about["blank"] = blank_part(state.outcome.value)
            elif state.outcome.kind in ("wrapped", "traced"):
                curves.extend(curves_part(state.outcome.value))
        rows.append(about)
    return report("run", path, rows=rows, blank=blank, curves=curves or None, messages=messages_part(messages))


def last(job: Job, states: Mapping[str, State], kinds: tuple[str, ...]) -> Outcome | None:
    """The outcome of one of those kinds that stands last on the route card."""
    for row in reversed(job.rows):
        outcome = states[row.id].outcome
        if outcome is not None and outcome.kind in kinds:
            return outcome
    return None


def add_results(outputs: Outputs, job: Job, states: Mapping[str, State], options: Namespace) -> None:
    """Adds the last cut file, the printed pages, the wrapped curves and the last form, or the asked row's."""
    if options.row is not None:
        job = replace(job, rows=(job.row(options.row),))
    if options.dxf or options.svg:
        drawn = last(job, states, ("drawing", "blank"))
        if drawn is None:
            raise CannotBeDone("There is no cut file row, so there is nothing to cut; add one.")
        contours = drawn.value if drawn.kind == "drawing" else drawing(drawn.value, ())
        add_drawings(outputs, options, contours, job.name)
    if options.pdf:
        printed = last(job, states, ("pages",)) or last(job, states, ("blank",))
        if printed is None:
            raise CannotBeDone("There is no blank, so there is nothing to print; develop one.")
        made = printed.value
        if printed.kind == "blank":
            made = paged(made, drawing(made, ()), options.paper, shown=options.shown)
        outputs.add(options.pdf, pdf_bytes(made, job.name))
    if options.step:
        outputs.add(options.step, _step([states[row.id].outcome for row in job.rows]))
    if options.mesh:
        form = last(job, states, ("form",))
        if form is None:
            raise CannotBeDone("There is no form, so there is no mesh to write; bring one in.")
        outputs.add(options.mesh, stl_bytes(form.value))


def _step(outcomes: Sequence[Outcome | None]) -> bytes:
    """All wrapped curves; where there are none, the flat of the last blank."""
    from ..core.form.kernel import step_bytes

    done = [outcome for outcome in outcomes if outcome is not None]
    splines = [s for o in done if o.kind == "wrapped" for curve in o.value for s in curve.splines]
    blanks = [outcome.value for outcome in done if outcome.kind == "blank"]
    return step_bytes(splines, drawing(blanks[-1], ()) if blanks and not splines else ())
