"""What ``check`` does: the simulated laser reads a cut file, and what it cuts is held against the form."""

from __future__ import annotations

from argparse import Namespace

from ..core.errors import CannotBeDone
from ..core.operations.shop_outcome import not_cut
from ..core.progress import Progress
from ..core.results.held import HeldResult
from ..core.wording import counted
from .job_of_call import JobOfCall
from .rows_of_call import developed


def check(options: Namespace, progress: Progress) -> None:
    call = JobOfCall(options, progress, options.drawing.stem)
    back, blank = "no", None
    if options.form is not None:
        back = "compensated" if options.compensated else "drawn"
        _, blank = developed(call)
    row = call.add(
        "check_file",
        file=call.file(options.drawing),
        kerf=f"{options.kerf:.10g}",
        feed=f"{options.feed:.10g}",
        rapid=f"{options.rapid:.10g}",
        pierce=f"{options.pierce:.10g}",
        back=back,
        blank=blank,
    )
    call.leave_unsaid(*(each.id for each in call.job.rows))
    found = {result.kind: result for result in call.outcome(row).results}
    made = found["laser"].value
    lines = [
        f"{counted(len(made.cuts), 'contour')} cut, {made.length_cut:.1f} mm; marked {made.length_mark:.1f} mm; "
        f"rapid {made.length_rapid:.1f} mm; {made.seconds:.1f} s",
        *(fault.text for fault in made.faults),
    ]
    if isinstance(back_on := found.get("held"), HeldResult):
        held = back_on.value
        lines.append(
            f"formed back: off the form by {held.largest:.4f} mm at most, {held.mean:.4f} mm "
            f"in the mean; area {back_on.area:+.4f} mm²"
        )
    call.finish("check", options.drawing, lines, not_cut(made))
    if made.spoilt:
        spoiling = [fault for fault in made.faults if fault.kind != "outside"]
        raise CannotBeDone(
            f"{counted(len(spoiling), 'fault')} would spoil the part, the first: {spoiling[0].text.rstrip('.')}; mend "
            "the drawing, or export it again."
        )
