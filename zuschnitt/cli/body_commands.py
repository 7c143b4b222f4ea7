"""What the commands do that make bodies."""

from __future__ import annotations

from argparse import Namespace

from ..core.progress import Progress
from ..core.results.bodies import BodiesResult
from ..core.results.form import faces_part
from .job_of_call import JobOfCall
from .options import values_of
from .rows_of_call import with_artwork


def raise_(options: Namespace, progress: Progress) -> None:
    call = JobOfCall(options, progress, options.form.stem)
    _, _, art = with_artwork(call, options.artwork)
    made = call.add("raise_artwork", artwork=art, **values_of(options, "raise_artwork", ("artwork",)))
    _finish("raise", call, made)


def _finish(command: str, call: JobOfCall, row: str) -> None:
    """Reports the bodies that a row gives."""
    result = call.outcome(row).results[0]
    assert isinstance(result, BodiesResult)
    lines = []
    for body in result.made:
        change = "" if body.volume_change is None else f", changed by {body.volume_change:+.3f} mm³"
        lines.append(f"{body.name}: {body.volume:.3f} mm³{change}, {body.faces} faces")
    call.finish(command, call.options.form, lines, faces=faces_part(call.value(row)))
