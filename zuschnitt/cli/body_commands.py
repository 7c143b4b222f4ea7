"""What the commands do that make bodies."""

from __future__ import annotations

from argparse import Namespace
from collections.abc import Sequence

from ..core.errors import WrongCall
from ..core.progress import Progress
from ..core.results.bodies import BodiesResult
from ..core.results.form import faces_part
from ..core.wording import counted
from .job_of_call import JobOfCall
from .options import values_of
from .rows_of_call import brought_in, developed, picked, placed_artwork, with_artwork


def raise_(options: Namespace, progress: Progress) -> None:
    call = JobOfCall(options, progress, options.form.stem)
    _, _, art = with_artwork(call, options.artwork)
    made = call.add("raise_artwork", artwork=art, **values_of(options, "raise_artwork", ("artwork",)))
    _finish("raise", call, made)


def thicken(options: Namespace, progress: Progress) -> None:
    if options.thickness is None:
        raise WrongCall("--thickness is missing: how thick the blank is made, in mm.")
    if options.recess is not None and options.deep is None:
        raise WrongCall("--recess needs --deep: how deep the outlines are sunk, in mm.")
    call = JobOfCall(options, progress, options.form.stem)
    _, blank = developed(call)
    recess = None
    if options.recess is not None:
        recess = placed_artwork(call, blank, options.recess)
    values = values_of(options, "thicken", ("blank", "recess"))
    _finish("thicken", call, call.add("thicken", blank=blank, recess=recess, **values))


def sweep(options: Namespace, progress: Progress) -> None:
    call = JobOfCall(options, progress, options.form.stem)
    _, _, art = with_artwork(call, options.artwork)
    values = values_of(options, "sweep", ("artwork", "section"))
    if options.section is None and options.bar in (None, "drawn"):
        raise WrongCall("There is no section; name its drawing with --section, or a bar with --bar and --size.")
    section = call.file(options.section) if options.section is not None else None
    _finish("sweep", call, call.add("sweep", artwork=art, section=section, **values))


def pocket(options: Namespace, progress: Progress) -> None:
    call = JobOfCall(options, progress, options.form.stem)
    form_row = brought_in(call)
    form = call.value(form_row)
    blank = call.add("develop", form=form_row, faces=picked(form, options), limit="1")
    made = call.add("pocket", blank=blank, **values_of(options, "pocket", ("blank",)))
    _finish("pocket", call, made)


def stations(options: Namespace, progress: Progress) -> None:
    call = JobOfCall(options, progress, options.form.stem)
    form_row = brought_in(call)
    values = values_of(options, "lay_stations", ("form", "faces", "remembered", "path", *OF_BAR))
    values |= _bar(options.bar_text) | _tongue(options.tongue_text)
    path = None
    if options.path is not None:
        path = call.add("bring_in_curves", file=call.file(options.path))
    picked_faces = picked(call.value(form_row), options)
    row = call.add("lay_stations", form=form_row, faces=picked_faces, path=path, **values)
    found = call.outcome(row).result("curves")
    lines = [f"station {each['number']}: at {each['at']:.3f} mm, {each['length']:.3f} mm long"
             for each in found.report()["stations"]] if found is not None else []  # fmt: skip
    _finish("stations", call, row, lines)


OF_BAR = ("bar", "size", "wall", "tongue", "depth", "setback")
"""Parameters of stations that a call gives in words of its own."""


def _bar(text: str | None) -> dict[str, str]:
    """``round:6`` or ``square:8:1`` as values of stations."""
    if text is None:
        return {}
    kind, *sizes = text.split(":")
    if kind not in ("round", "half-round", "square", "triangle") or not 1 <= len(sizes) <= 2:
        raise WrongCall(
            f"--bar {text} must be round, half-round, square or triangle, with a size: round:6, square:8:1."
        )
    return {"bar": kind, **dict(zip(("size", "wall"), sizes, strict=False))}


def _tongue(text: str | None) -> dict[str, str]:
    if text is None:
        return {}
    sizes = text.split(",")
    if not 2 <= len(sizes) <= 3:
        raise WrongCall(f"--tongue {text} must be a thickness and a depth, and may have a setback: 3,8 or 3,8,5.")
    return dict(zip(("tongue", "depth", "setback"), sizes, strict=False))


def stand(options: Namespace, progress: Progress) -> None:
    """A body that stands on the blank, bent onto the form: what ``wrap`` does with one."""
    call = JobOfCall(options, progress, options.form.stem)
    x, y = options.at
    if x == "":
        raise WrongCall("A body has no free place looked for; say where it stands with --at x,y.")
    _, blank = developed(call)
    values = values_of(options, "stand_body", ("file", "blank", "x", "y"))
    made = call.add("stand_body", file=call.file(options.artwork), blank=blank, x=str(x), y=str(y), **values)
    _finish("wrap", call, made)


def _finish(command: str, call: JobOfCall, row: str, before: Sequence[str] = ()) -> None:
    """Reports the bodies that a row gives."""
    result = call.outcome(row).results[0]
    lines = list(before)
    for body in result.made if isinstance(result, BodiesResult) else ():
        change = "" if body.volume_change is None else f", changed by {body.volume_change:+.3f} mm³"
        lines.append(f"{body.name}: {body.volume:.3f} mm³{change}, {counted(body.faces, 'face')}")
    call.finish(command, call.options.form, lines, faces=faces_part(call.value(row)))
