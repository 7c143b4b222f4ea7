"""What ``picture`` does: a form, or the last form of a job, in its material."""

from __future__ import annotations

from argparse import Namespace

from ..core.errors import CannotBeDone, Refused, WrongCall
from ..core.evaluate import run_all
from ..core.files.job_file import load_job
from ..core.files.outputs import Outputs
from ..core.files.report import report, report_bytes
from ..core.form.form import Form
from ..core.progress import Progress
from .job_of_call import JobOfCall
from .rows_of_call import brought_in
from .terminal import say

EARLIER = {"askew": "corner"}
"""Names of views that scripts may still use."""


def picture(options: Namespace, progress: Progress) -> None:
    from ..window.finishes import finish
    from ..window.rendering import LIGHTS, Wanted, rendered
    from ..window.stages.camera import VIEWS

    view = EARLIER.get(options.view, options.view)
    if view not in VIEWS:
        raise WrongCall(f"There is no view {options.view!r}; the views are {', '.join(VIEWS)}.")
    if options.light not in LIGHTS:
        raise WrongCall(f"There is no light from {options.light!r}; it comes from {', '.join(LIGHTS)}.")
    width, height = (round(each) for each in options.size)
    if not (16 <= width <= 4000 and 16 <= height <= 4000):
        raise WrongCall("A picture is 16 to 4000 pixels wide and high; change --size.")
    job = options.form.suffix.lower() == ".zuschnitt"
    form, material = _of_job(options, progress) if job else (_of_file(options, progress), "plain")
    look = finish(options.material or material, options.colour or "")
    progress.step(0.9, "drawing")
    wanted = Wanted((width, height), VIEWS[view], options.light, not options.no_edges, not options.no_shadow)
    content = rendered(form, look, wanted)
    outputs = Outputs(inputs=(options.form,))
    outputs.add(options.png, content)
    if options.report:
        about = {"file": str(options.png), "size": [width, height], "faces": len(form.faces), "colour": look.colour}
        outputs.add(options.report, report_bytes(report("picture", options.form, picture=about)))
    outputs.write()
    say([f"{options.png}: {width} x {height} pixels, {form.name or options.form.stem}"])


def _of_file(options: Namespace, progress: Progress) -> Form:
    call = JobOfCall(options, progress, options.form.stem)
    return call.value(brought_in(call))


def _of_job(options: Namespace, progress: Progress) -> tuple[Form, str]:
    """The form that the last row of a job gives, and the job's material."""
    job = load_job(options.form)
    states = run_all(job, progress)
    for row in reversed(job.rows):
        outcome = states[row.id].outcome
        found = outcome.result("form") if outcome is not None else None
        if found is not None:
            return found.value, job.material or "plain"
    broken = next((states[row.id].reason for row in job.rows if states[row.id].status == "broken"), "")
    if broken:
        raise CannotBeDone(f"No row of the job gives a form: {broken}")
    raise Refused("The job has no row that gives a form, so there is nothing to see; bring one in.")
