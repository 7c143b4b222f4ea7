"""What ``check`` does: the simulated laser reads a cut file, and what it cuts is held against the form."""

from __future__ import annotations

from argparse import Namespace
from typing import Any

from ..core.errors import CannotBeDone, Refused
from ..core.files.atomic import write_whole
from ..core.files.reading import content_of
from ..core.files.report import messages_part, report, report_bytes
from ..core.progress import Progress
from ..core.results.laser import LaserResult
from ..core.shop.formed_back import held_formed_back
from ..core.wording import counted
from ..standins.files.path import UnreadableError
from ..standins.laser.machine import Laser, Run, run
from .job_of_call import JobOfCall
from .rows_of_call import developed
from .terminal import say


def check(options: Namespace, progress: Progress) -> None:
    laser = Laser(options.kerf, options.feed, options.rapid, options.pierce)
    content = content_of(options.drawing)
    progress.step(0.1, "running the laser")
    try:
        made = run(content, options.drawing.name, laser)
    except UnreadableError as error:
        raise Refused(str(error)) from None
    parts: dict[str, Any] = LaserResult(made).report()
    lines = [
        f"{counted(len(made.cuts), 'contour')} cut, {made.length_cut:.1f} mm; marked {made.length_mark:.1f} mm; "
        f"rapid {made.length_rapid:.1f} mm; {made.seconds:.1f} s",
        *(fault.text for fault in made.faults),
    ]
    if options.form is not None:
        parts["held"] = held = _held(options, progress, made)
        lines.append(
            f"formed back: off the form by {held['deviation_max']:.4f} mm at most, {held['deviation_mean']:.4f} mm "
            f"in the mean; area {held['area_difference']:+.4f} mm²"
        )
    messages = [f"The laser cannot cut {kind}; it was left out." for kind in sorted(set(made.left_out))]
    if options.report:
        about = report("check", options.drawing, **parts, messages=messages_part(messages))
        write_whole(options.report, report_bytes(about))
    say([*lines, *messages])
    if made.spoilt:
        spoiling = [fault for fault in made.faults if fault.kind != "outside"]
        raise CannotBeDone(
            f"{counted(len(spoiling), 'fault')} would spoil the part, the first: {spoiling[0].text.rstrip('.')}; mend "
            "the drawing, or export it again."
        )


def _held(options: Namespace, progress: Progress, made: Run) -> dict[str, float]:
    """The cut part formed back by the development that is asked for, against the edges of the form."""
    call = JobOfCall(options, progress.part(0.2, 1.0), options.form.stem)
    form, row = developed(call)
    held, area = held_formed_back(made, form, call.value(row), options.kerf if options.compensated else 0.0)
    return {"deviation_max": held.largest, "deviation_mean": held.mean, "area_difference": area}
