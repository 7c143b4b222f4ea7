"""What ``press`` does: the simulated press brake finds an order for the bends of a flat."""

from __future__ import annotations

from argparse import Namespace

from ..core.errors import CannotBeDone, Refused
from ..core.files.atomic import write_whole
from ..core.files.reading import content_of
from ..core.files.report import report, report_bytes
from ..core.progress import Progress
from ..core.results.brake_plan import BrakePlanResult
from ..standins.files.path import UnreadableError
from ..standins.press.brake import Step, planned
from ..standins.press.flat import read
from .terminal import say


def press(options: Namespace, progress: Progress) -> None:
    content = content_of(options.drawing)
    try:
        flat = read(content, options.drawing.name)
    except UnreadableError as error:
        raise Refused(str(error)) from None
    progress.step(0.2, "looking for an order")
    plan = planned(flat)
    if options.report:
        about = report("press", options.drawing, **BrakePlanResult(plan, flat).report())
        write_whole(options.report, report_bytes(about))
    say([_line(k, step) for k, step in enumerate(plan.steps, 1)])
    if not plan.possible:
        first = next(s for s in plan.steps if s.collides)
        raise CannotBeDone(
            f"No order was found in which all bends can be made; bend {first.bend}: {first.reason.rstrip('.')}; make "
            "flanges shorter, or open another edge."
        )


def _line(number: int, step: Step) -> str:
    stops = "" if step.gauge is None else f", stops at {step.gauge:.2f} mm"
    return f"{number}. bend {step.bend}, {step.angle:g}°: {step.tool or step.reason}{stops}"
