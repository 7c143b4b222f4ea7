"""What ``nest`` does: parts of cut files laid on sheets, a cut file for each."""

from __future__ import annotations

from argparse import Namespace
from pathlib import Path

from ..core.errors import CannotBeDone, WrongCall
from ..core.files.artwork_file import read_artwork
from ..core.files.drawing_file import drawing_bytes
from ..core.files.outputs import Outputs
from ..core.files.reading import content_of
from ..core.files.report import messages_part, report, report_bytes
from ..core.nesting.packing import nested
from ..core.nesting.part import Part, copies, parts_of
from ..core.nesting.sheet import Nest, Nesting
from ..core.progress import Progress
from ..core.wording import counted
from .terminal import say

MOST_PARTS = 10_000


def nest(options: Namespace, progress: Progress) -> None:
    how = Nest(options.gap, options.margin, options.grain, options.seconds)
    parts, messages = _parts(options, progress.part(0.0, 0.1))
    sheets, left = nested(parts, options.sheet, how, progress.part(0.1, 1.0))
    made = Nesting(tuple(sheets), tuple(left), how)
    outputs = Outputs(inputs=tuple(path for path, _ in _asked(options)))
    files: list[str] = []
    for number, sheet in enumerate(sheets, 1):
        contours = sheet.contours()
        for ending in ("dxf", "svg"):
            path = getattr(options, ending)
            if path is not None:
                target = path.with_name(f"{path.stem}-{number}{path.suffix}")
                outputs.add(target, drawing_bytes(ending, contours, f"{path.stem} {number}"))
                if len(files) < number:
                    files.append(str(target))
    about = {
        "sheets": [
            {**({"file": files[k]} if k < len(files) else {}), **sheet.report(how.margin)}
            for k, sheet in enumerate(sheets)
        ],
        "yield": made.share,
        "left_over": [part.name for part in left],
    }
    if options.report:
        first = _asked(options)[0][0]
        outputs.add(
            options.report, report_bytes(report("nest", first, nesting=about, messages=messages_part(messages)))
        )
    outputs.write()
    lines = [f"sheet {k}: {counted(len(sheet.parts), 'part')}, {sheet.share:.1f} % of it"
             for k, sheet in enumerate(sheets, 1)]  # fmt: skip
    say([*lines, f"in all {made.share:.1f} %", *messages])
    if left:
        names = ", ".join(dict.fromkeys(part.name for part in left))
        raise CannotBeDone(
            f"{counted(len(left), 'part')} ({names}) fit on no sheet, turned as is allowed; name a larger sheet, or "
            "let them turn freely (--grain free)."
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
    return found


def _parts(options: Namespace, progress: Progress) -> tuple[list[Part], list[str]]:
    parts: list[Part] = []
    messages: list[str] = []
    for path, count in _asked(options):
        if not 1 <= count <= MOST_PARTS or len(parts) + count > MOST_PARTS:
            raise WrongCall(f"{path.name} is asked for {count} times; 1 to {MOST_PARTS:,} parts can be laid in all.")
        content = content_of(path)
        drawing = read_artwork(content, path.name, progress)
        messages.extend(drawing.messages)
        made = parts_of(drawing.contours, path.stem)
        parts.extend(part for _ in range(count) for part in made)
    return copies(parts), messages
