"""What ``check`` does: the simulated laser reads a cut file, and what it cuts is held against the form."""

from __future__ import annotations

from argparse import Namespace
from collections.abc import Sequence
from itertools import pairwise
from typing import Any

import numpy as np

from ..core.contour import Contour
from ..core.errors import CannotBeDone, Refused
from ..core.files.reading import content_of
from ..core.files.report import messages_part, report, report_bytes
from ..core.files.whole import write_whole
from ..core.plane.containing import holes
from ..core.plane.offsetting import moved_outward
from ..core.progress import Progress
from ..core.results.laser import LaserResult
from ..core.wording import counted
from ..standins.files.path import Path, UnreadableError
from ..standins.laser.machine import Laser, Run, bridged_parts, run
from .job_of_call import JobOfCall
from .rows_of_call import developed
from .terminal import say

FINE = 0.002
"""Edges are looked at within this, in mm."""
SPACING = 1.0
"""Contours are held against the form at points so far apart, in mm."""


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
    from ..core.form.held_against import gaps_to, samples

    call = JobOfCall(options, progress.part(0.2, 1.0), options.form.stem)
    form, row = developed(call)
    blank = call.value(row)
    cut = _contours(made, options.kerf if options.compensated else 0.0)
    carried = [blank.correspondence.to_form(_dense(contour.flattened(FINE))).points for contour in cut]
    picked = set(blank.faces)
    edges = [edge for edge in form.edges if picked & set(edge.faces)]
    rims = [edge for edge in edges if len(picked & set(edge.faces)) == 1 and edge.number - 1 not in form.seams]
    seams = list(blank.seams_form)
    every, outer = ([edge.points(FINE) for edge in some] + seams for some in (edges, rims))
    # each cut lies on some edge, and each outer edge has been cut
    off = np.concatenate([gaps_to(every)(samples(carried)), gaps_to(carried)(samples(outer or every))])
    area = _area(cut) - blank.figures.area_blank
    return {"deviation_max": float(off.max()), "deviation_mean": float(off.mean()), "area_difference": area}


def _contours(made: Run, kerf: float) -> list[Contour]:
    """What comes out: the closed cuts, half a ``kerf`` nearer to the material than the beam's middle ran."""
    parts = bridged_parts(made.paths)  # their bridges are broken off
    held = {k for runs in parts for k in runs}
    contours = [_joined([made.paths[k] for k in runs], True) for runs in parts]
    contours += [_joined([made.paths[k]], made.paths[k].gap <= FINE) for k in made.cuts if k not in held]
    if kerf <= 0:
        return contours
    if not all(contour.closed for contour in contours):
        raise Refused("Cuts that are open cannot be moved back by half a kerf; close them, or leave --compensated out.")
    moved = [
        moved_outward([c], kerf / 2 if hole else -kerf / 2) for c, hole in zip(contours, holes(contours), strict=True)
    ]
    return [each for found in moved for each in found]


def _joined(runs: Sequence[Path], closed: bool) -> Contour:
    """Runs one after the other as one contour, straight between them."""
    points, bulges = [], []
    for run_ in runs:
        points += [span.start for span in run_.spans]
        bulges += [float(np.tan(span.sweep / 4)) for span in run_.spans]
        if len(runs) > 1 or not closed:
            points.append(run_.spans[-1].end)
            bulges.append(0.0)
    return Contour(np.array(points), np.array(bulges), closed)


def _dense(points: np.ndarray) -> np.ndarray:
    """With points no further apart than SPACING."""
    made = [points[:1]]
    for a, b in pairwise(points):
        count = max(1, int(np.ceil(np.linalg.norm(b - a) / SPACING)))
        made.append(a + (b - a) * (np.arange(1, count + 1) / count)[:, None])
    return np.vstack(made)


def _area(contours: list[Contour]) -> float:
    """What is cut out: closed runs within an odd number of others are holes."""
    closed = [contour for contour in contours if contour.closed]
    return float(sum(-abs(c.area) if hole else abs(c.area) for c, hole in zip(closed, holes(closed), strict=True)))
