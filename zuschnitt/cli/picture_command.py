"""What ``picture`` does: a form, or the last form of a job, in its material."""

from __future__ import annotations

from argparse import Namespace
from collections.abc import Mapping, Sequence
from typing import TYPE_CHECKING

from ..core.errors import CannotBeDone, Refused, WrongCall
from ..core.files.outputs import Outputs
from ..core.files.report import report, report_bytes
from ..core.form.appearance import Looks
from ..core.form.form import Form
from ..core.job.evaluate import run_all
from ..core.job.job_file import load_job
from ..core.progress import Progress
from .job_of_call import JobOfCall
from .rows_of_call import brought_in
from .terminal import say

if TYPE_CHECKING:
    from ..window.finishes import Finish

MOST_SAMPLES = 400
EARLIER = {"askew": "corner"}
"""Names of views that scripts may still use."""


def picture(options: Namespace, progress: Progress) -> None:
    from ..window.finishes import finish
    from ..window.rendering import LIGHTS, SAMPLES, Wanted, rendered
    from ..window.stages.camera import VIEWS

    view = EARLIER.get(options.view, options.view)
    if view not in VIEWS:
        raise WrongCall(f"There is no view {options.view!r}; the views are {', '.join(VIEWS)}.")
    if options.light not in LIGHTS:
        raise WrongCall(f"There is no light from {options.light!r}; it comes from {', '.join(LIGHTS)}.")
    width, height = (round(each) for each in options.size)
    if not (16 <= width <= 4000 and 16 <= height <= 4000):
        raise WrongCall("A picture is 16 to 4000 pixels wide and high; change --size.")
    samples = SAMPLES if options.samples is None else options.samples
    if not 1 <= samples <= MOST_SAMPLES:
        raise WrongCall(f"A picture takes 1 to {MOST_SAMPLES} samples; change --samples.")
    job = options.form.suffix.lower() == ".zuschnitt"
    form, material, kept = _of_job(options, progress) if job else (_of_file(options, progress), "plain", {})
    look = finish(options.material or material, options.colour or "")
    progress.step(0.9, "drawing")
    faces = _painted(options.paint, form, kept, look)
    edges, shadow = not options.no_edges, not options.no_shadow
    wanted = Wanted((width, height), VIEWS[view], options.light, edges, shadow, samples)
    content = rendered(form, look, wanted, faces)
    outputs = Outputs(inputs=(options.form,))
    outputs.add(options.png, content)
    if options.report:
        about = {"file": str(options.png), "size": [width, height], "faces": len(form.faces), "colour": look.colour}
        outputs.add(options.report, report_bytes(report("picture", options.form, picture=about)))
    outputs.write()
    say([f"{options.png}: {width} x {height} pixels, {form.name or options.form.stem}"])


def _painted(texts: Sequence[str], form: Form, kept: Mapping[int, str], whole: Finish) -> dict[int, Finish]:
    """Faces in a finish of their own: as the job has ``kept`` them, then each text as FACES=MATERIAL[:COLOUR]."""
    from ..window.finishes import finish_of

    known = {face.number for face in form.faces}
    found = {number: finish_of(text, whole) for number, text in kept.items() if number in known}
    for text in texts:
        where, equals, look = text.partition("=")
        numbers = [part.strip() for part in where.split(",")]
        if not equals or not look.strip() or not all(number.isdigit() for number in numbers):
            raise WrongCall(f"--paint {text!r} must be faces and a material, such as 2,5=brass or 3=wood:#884422.")
        missing = [number for number in numbers if int(number) not in known]
        if missing:
            raise Refused(f"There is no face {missing[0]} to paint; the form has faces 1 to {len(known)}.")
        found.update(dict.fromkeys(map(int, numbers), finish_of(look, whole)))
    return found


def _of_file(options: Namespace, progress: Progress) -> Form:
    call = JobOfCall(options, progress, options.form.stem)
    return call.value(brought_in(call))


def _of_job(options: Namespace, progress: Progress) -> tuple[Form, str, Mapping[int, str]]:
    """The form that the last row of a job gives, the job's material, and what single faces are made of."""
    job = load_job(options.form)
    states = run_all(job, progress)
    for row in reversed(job.rows):
        outcome = states[row.id].outcome
        found = outcome.result("form") if outcome is not None else None
        if found is not None:
            return found.value, job.material or "plain", Looks.of(row.view).paints
    broken = next((states[row.id].reason for row in job.rows if states[row.id].status == "broken"), "")
    if broken:
        raise CannotBeDone(f"No row of the job gives a form: {broken}")
    raise Refused("The job has no row that gives a form, so there is nothing to see; bring one in.")
