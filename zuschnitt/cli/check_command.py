"""What ``check`` does: the simulated laser reads a cut file, and what it cuts is held against the form."""

from __future__ import annotations

from argparse import Namespace
from itertools import pairwise
from typing import Any

import numpy as np

from ..core.errors import CannotBeDone, Refused
from ..core.files.reading import content_of
from ..core.files.report import messages_part, report, report_bytes
from ..core.files.whole import write_whole
from ..core.progress import Progress
from ..core.wording import counted
from ..standins.files.path import Path, UnreadableError
from ..standins.laser.machine import Laser, Run, run
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
    parts: dict[str, Any] = {"laser": _part(made)}
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


def _part(made: Run) -> dict[str, Any]:
    return {
        "contours": len(made.cuts),
        "pierces": len(made.cuts),
        "length_cut": made.length_cut,
        "length_mark": made.length_mark,
        "length_rapid": made.length_rapid,
        "seconds": made.seconds,
        "order": [
            {"contour": k + 1, "layer": path.layer, "start": path.spans[0].start.tolist(), "length": path.length}
            for k, path in enumerate(made.paths)
        ],
        "faults": [
            {"kind": fault.kind, "layer": fault.layer, "at": list(fault.at), "text": fault.text}
            for fault in made.faults
        ],
    }


def _held(options: Namespace, progress: Progress, made: Run) -> dict[str, float]:
    """The cut part formed back by the development that is asked for, against the edges of the form."""
    from ..core.form.held_against import gaps_to, samples

    call = JobOfCall(options, progress.part(0.2, 1.0), options.form.stem)
    form, row = developed(call)
    blank = call.value(row)
    carried = [blank.correspondence.to_form(_dense(made.paths[k].points)).points for k in made.cuts]
    picked = set(blank.faces)
    edges = [edge for edge in form.edges if picked & set(edge.faces)]
    rims = [edge for edge in edges if len(picked & set(edge.faces)) == 1 and edge.number - 1 not in form.seams]
    seams = list(blank.seams_form)
    every, outer = ([edge.points(FINE) for edge in some] + seams for some in (edges, rims))
    # each cut lies on some edge, and each outer edge has been cut
    off = np.concatenate([gaps_to(every)(samples(carried)), gaps_to(carried)(samples(outer or every))])
    area = _area([made.paths[k] for k in made.cuts]) - blank.figures.area_blank
    return {"deviation_max": float(off.max()), "deviation_mean": float(off.mean()), "area_difference": area}


def _dense(points: np.ndarray) -> np.ndarray:
    """With points no further apart than SPACING."""
    made = [points[:1]]
    for a, b in pairwise(points):
        count = max(1, int(np.ceil(np.linalg.norm(b - a) / SPACING)))
        made.append(a + (b - a) * (np.arange(1, count + 1) / count)[:, None])
    return np.vstack(made)


def _area(paths: list[Path]) -> float:
    """What is cut out: runs within an odd number of others are holes."""
    import shapely

    closed = [path for path in paths if len(path.points) > 3]
    shapes = [shapely.make_valid(shapely.Polygon(path.points)) for path in closed]
    total = 0.0
    for k, shape in enumerate(shapes):
        at = shape.representative_point()
        within = sum(other.contains(at) and other.area > shape.area for n, other in enumerate(shapes) if n != k)
        total += abs(closed[k].area) * (1 if within % 2 == 0 else -1)
    return total
