"""What ``press`` does: the simulated press brake finds an order for the bends of a flat."""

from __future__ import annotations

from argparse import Namespace

from ..core.errors import CannotBeDone
from ..core.progress import Progress
from ..standins.press.brake import Step
from .job_of_call import JobOfCall


def press(options: Namespace, progress: Progress) -> None:
    call = JobOfCall(options, progress, options.drawing.stem)
    row = call.add("bend_file", file=call.file(options.drawing))
    call.leave_unsaid(row)  # what cannot be bent is said at the end
    plan = call.value(row)
    call.finish("press", options.drawing, [_line(k, step) for k, step in enumerate(plan.steps, 1)])
    if not plan.possible:
        first = next(s for s in plan.steps if s.collides)
        raise CannotBeDone(
            f"No order was found in which all bends can be made; bend {first.bend}: {first.reason.rstrip('.')}; make "
            "flanges shorter, or open another edge."
        )


def _line(number: int, step: Step) -> str:
    stops = "" if step.gauge is None else f", stops at {step.gauge:.2f} mm"
    return f"{number}. bend {step.bend}, {step.angle:g}°: {step.tool or step.reason}{stops}"
