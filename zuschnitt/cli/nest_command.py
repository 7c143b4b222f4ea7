"""What ``nest`` does: parts of cut files laid on sheets, a cut file for each sheet."""

from __future__ import annotations

from argparse import Namespace
from pathlib import Path

from ..core.errors import CannotBeDone, WrongCall
from ..core.files.drawing_file import drawing_bytes
from ..core.files.outputs import require_apart
from ..core.operations.nest_parts import MOST
from ..core.progress import Progress
from ..core.wording import counted
from .job_of_call import JobOfCall


def nest(options: Namespace, progress: Progress) -> None:
    asked = _asked(options)
    first = asked[0][0]
    # each sheet has a file of its own, so the job's nest is not written as a whole
    call = JobOfCall(Namespace(**{**vars(options), "dxf": None, "svg": None}), progress, first.stem)
    for path, _ in asked:
        row = call.add("bring_in_drawing", file=call.file(path))
        call.job = call.job.changed(row, title=path.stem)
    nested = call.add(
        "nest_parts",
        counts=", ".join(str(count) for _, count in asked),
        sheets=", ".join(f"{width:.10g} x {height:.10g}" for width, height in options.sheet),
        gap=f"{options.gap:.10g}",
        margin=f"{options.margin:.10g}",
        grain=options.grain,
        seconds=str(options.seconds),
    )
    call.leave_unsaid(nested)  # what is left over is said at the end
    result = call.outcome(nested).results[0]
    made = result.value
    contents: list[tuple[Path, bytes]] = []
    about = result.report()["nesting"]
    for k, sheet in enumerate(made.sheets):
        for ending, path in (("dxf", options.dxf), ("svg", options.svg)):
            if path is not None:
                target = path.with_name(f"{path.stem}-{k + 1}{path.suffix}")
                contents.append((target, drawing_bytes(ending, sheet.contours(), f"{path.stem} {k + 1}")))
                about["sheets"][k].setdefault("file", str(target))
    require_apart([path for path, _ in contents], [path for path, _ in asked])
    lines = [
        *(f"sheet {k}: {counted(len(s.parts), 'part')}, {s.share:.1f} % of it" for k, s in enumerate(made.sheets, 1)),
        f"in all {made.share:.1f} %",
    ]
    call.finish("nest", first, lines, files=contents, nesting=about)
    if made.left:
        names = ", ".join(dict.fromkeys(part.name for part in made.left))
        raise CannotBeDone(
            f"{counted(len(made.left), 'part')} ({names}) fit on no sheet, turned as is allowed; name a larger sheet, "
            "or let them turn freely (--grain free)."
        )


def _asked(options: Namespace) -> list[tuple[Path, int]]:
    """The drawings with their counts, as DRAWING or DRAWING:COUNT."""
    found = []
    for text in options.drawings:
        path, colon, number = text.rpartition(":")
        if colon and number.isdigit() and not Path(text).exists():
            found.append((Path(path), int(number)))
        else:
            found.append((Path(text), options.count))
    for path, count in found:
        if not 1 <= count <= MOST or sum(each for _, each in found) > MOST:
            raise WrongCall(f"{path.name} is asked for {count} times; 1 to {MOST:,} parts can be laid in all.")
    return found
