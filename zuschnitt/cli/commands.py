"""What the commands do: each builds a job of operations, has it computed, and reports."""

from __future__ import annotations

from argparse import Namespace
from pathlib import Path

from ..core.develop.compared import PURPOSES
from ..core.errors import WrongCall
from ..core.expressions import value_of
from ..core.materials import own_table, table
from ..core.progress import Progress
from ..core.results.cut_form import CutFormResult
from ..core.results.form import bodies_part, faces_part
from ..core.wording import counted
from .job_of_call import JobOfCall
from .options import values_of
from .rows_of_call import blank_lines, brought_in, developed, drawn, picked, with_artwork
from .terminal import say

BODIES = (".step", ".stp", ".stl", ".obj", ".ply", ".3mf")
"""Endings of files that hold a body, not a drawing."""
COMPARED = ("first", "second", "third", "fourth")


def faces(options: Namespace, progress: Progress) -> None:
    call = JobOfCall(options, progress, options.form.name)
    form = call.value(brought_in(call))
    lines = []
    for face in form.faces:
        radius = f"  radius {face.radius:g} mm" if face.radius is not None else ""
        near = ", ".join(map(str, face.neighbours)) or "none"
        lines.append(f"{face.number:>4}  {face.kind:<9} {face.area:>14.3f} mm²{radius}  neighbours {near}")
    if len(form.bodies) > 1:
        lines.extend(f"{body.name}: faces {', '.join(map(str, body.faces))}" for body in form.bodies)
    call.finish("faces", options.form, lines, faces=faces_part(form), bodies=bodies_part(form))


def develop(options: Namespace, progress: Progress) -> None:
    call = JobOfCall(options, progress, options.form.name)
    form, blank = developed(call)
    drawn(call, blank)
    if options.share is not None:
        call.add("fold_stage", blank=blank, share=options.share)
    call.finish("develop", options.form, blank_lines(call.value(blank)), faces=faces_part(form))


def wrap(options: Namespace, progress: Progress) -> None:
    if options.artwork.suffix.lower() in BODIES:
        from .body_commands import stand

        stand(options, progress)
        return
    call = JobOfCall(options, progress, options.form.name)
    form, blank, art = with_artwork(call, options.artwork)
    wrapped = call.add("wrap", artwork=art)
    drawn(call, blank)
    call.finish("wrap", options.form, blank_lines(call.value(blank), call.value(wrapped)), faces=faces_part(form))


def holes(options: Namespace, progress: Progress) -> None:
    call = JobOfCall(options, progress, options.form.name)
    _, blank, art = with_artwork(call, options.drawing)
    cut = call.add("cut_into_form", artwork=art)
    made = call.outcome(cut).results[0]
    assert isinstance(made, CutFormResult)
    lines = blank_lines(call.value(blank))
    for hole in made.holes:
        beside = "" if hole.against_projection is None else f", {hole.against_projection:.3f} mm beside its projection"
        lines.append(f"{hole.name}: {hole.area:.3f} mm², edge {hole.length:.3f} mm{beside}")
    drawn(call, blank)
    call.finish("holes", options.form, lines, faces=faces_part(call.value(cut)))


def trace(options: Namespace, progress: Progress) -> None:
    call = JobOfCall(options, progress, options.form.name)
    curves = call.file(options.curves)
    form, blank = developed(call)
    traced = call.add("trace", file=curves, blank=blank)
    drawn(call, blank)
    call.finish("trace", options.form, blank_lines(call.value(blank), call.value(traced)), faces=faces_part(form))


def draw(options: Namespace, progress: Progress) -> None:
    call = JobOfCall(options, progress, options.form.name)
    form, blank = developed(call)
    (form_row, *_), faces = call.job.rows, picked(form, options)
    values = {"through": options.through, "between": options.between, "ends": "closed" if options.closed else "open"}
    curve = call.add("draw_curve", form=form_row.id, faces=faces, **values)
    traced = call.add("trace", curves=curve, blank=blank)
    drawn(call, blank)
    call.finish("draw", options.form, blank_lines(call.value(blank), call.value(traced)), faces=faces_part(form))


def thin(options: Namespace, progress: Progress) -> None:
    call = JobOfCall(options, progress, options.drawing.stem)
    values = values_of(options, "thin_drawing", ("file",))
    made = call.outcome(call.add("thin_drawing", file=call.file(options.drawing), **values))
    call.finish("thin", options.drawing, [made.brief])


def prepare(options: Namespace, progress: Progress) -> None:
    call = JobOfCall(options, progress, options.drawing.stem)
    values = values_of(options, "prepare_cut", ("drawing", "sheet"))
    if values["bridges"] is not None and not float(value_of(values["bridges"])).is_integer():
        raise WrongCall(f"--bridges {values['bridges']} cannot be made; give a whole number.")
    drawing = call.add("bring_in_drawing", file=call.file(options.drawing))
    made = call.outcome(call.add("prepare_cut", drawing=drawing, **values))
    call.finish("prepare", options.drawing, [made.brief])


def compare_curves(options: Namespace, progress: Progress) -> None:
    call = JobOfCall(options, progress, options.one.name)
    sides = [_curves_or_form(call, path) for path in (options.one, options.other)]
    held = call.value(call.add("hold_against", one=sides[0], other=sides[1]))
    at = ", ".join(f"{value:.3f}" for value in held.worst)
    call.finish(
        "compare-curves", options.one, [f"largest distance {held.largest:.6f} mm at {at}, mean {held.mean:.6f} mm"]
    )


def ribs(options: Namespace, progress: Progress) -> None:
    call = JobOfCall(options, progress, options.form.stem)
    values = values_of(options, "make_ribs", ("form", "curve"))
    if options.rods:
        values["y"] = values["y"] or "50"
    for axis in "xy":  # what is counted or listed needs no spacing
        if values[axis] is None:
            if values[f"count_{axis}"] is None and values[f"list_{axis}"] is None:
                raise WrongCall(f"--{axis} is missing: how far apart the {axis.upper()} ribs stand; or --count-{axis}.")
            values[axis] = ""
    form = brought_in(call)
    if options.curve is not None:
        values["curve"] = call.add("bring_in_curves", file=call.file(options.curve))
        values["stand"] = "curve"
    made = call.outcome(call.add("make_ribs", form=form, **values))
    lines = [f"{rib.name:<4} at {rib.frame.at:>10.3f}  {rib.area.area:>12.2f} mm²  {counted(len(rib.slots), 'slot')}"
             for rib in made.value.ribs]  # fmt: skip
    help_ = [f"It would help to {remedy.words}." for remedy in made.remedies]
    call.finish("ribs", options.form, [*lines, made.brief], help_)


def _curves_or_form(call: JobOfCall, path: Path) -> str:
    """The row of what a file holds: a drawing, curves, or a form."""
    from ..core.files.form_file import STEP
    from ..core.files.mesh_file import ENDINGS as MESHES

    name, ending = call.file(path), path.suffix.lower()
    if ending in (".svg", ".dxf"):
        return call.add("bring_in_drawing", file=name)
    if ending in MESHES:
        return call.add("bring_in", file=name)
    if ending in STEP and b"ADVANCED_FACE" in call.job.assets[name].content:
        return call.add("bring_in", file=name)
    return call.add("bring_in_curves", file=name)


def panels(options: Namespace, progress: Progress) -> None:
    call = JobOfCall(options, progress, options.source.stem)
    nearest = "nearest" if options.nearest else "through"
    if options.at:
        through = "; ".join(", ".join(map(str, point)) for point in options.at)
        options.form = options.source
        made = call.add("panels_along", form=brought_in(call), through=through, nearest=nearest)
    elif options.sections is None:
        made = call.add("panels_between_curves", file=call.file(options.source), nearest=nearest)
    else:
        options.form = options.source
        form = brought_in(call)
        across = ", ".join(map(str, options.across))
        made = call.add(
            "panels_through_sections", form=form, count=str(options.sections), across=across, nearest=nearest
        )
    # what a panel stretches is said; whether that is too much is not ours to say here
    blank = call.add("develop", form=made, way="exact", apart="apart", marks="numbers", limit="100")
    drawn(call, blank)
    call.finish("panels", options.source, blank_lines(call.value(blank)), faces=faces_part(call.value(made)))


def compare(options: Namespace, progress: Progress) -> None:
    ways = list(dict.fromkeys(way.strip() for way in options.ways.split(",") if way.strip()))
    if not ways or any(way not in PURPOSES for way in ways):
        raise WrongCall(f"--ways needs some of {', '.join(PURPOSES)}, with commas between; change it.")
    call = JobOfCall(options, progress, options.form.name)
    form_row = brought_in(call)
    form = call.value(form_row)
    blank = call.add("develop", form=form_row, faces=picked(form, options))
    chosen = dict(zip(COMPARED, [*ways, *["none"] * len(COMPARED)], strict=False))
    if chosen["second"] == "none":  # the operation sets two beside each other at least
        chosen["second"] = chosen["first"]
    compared = call.value(call.add("compare", blank=blank, **chosen))
    lines = []
    for each in compared:
        if each.blank is None:
            lines.append(each.refusal)
            continue
        figures = each.blank.figures
        lines.append(
            f"{each.way:<10}  blank {figures.area_blank:.1f} mm² ({figures.area_change:+.3f} %), "
            f"stretch {figures.stretch_max:+.3f} / {figures.stretch_min:+.3f} %  {each.purpose}"
        )
    call.finish("compare", options.form, lines, faces=faces_part(form))


def materials(options: Namespace, progress: Progress) -> None:
    lines = []
    for m in table().values():
        grain = ", with grain" if m.grain else ""
        lines.append(
            f"{m.name:<22} {m.thickness:>6.2f} mm  K {m.k_factor:.2f}  stretch {m.stretch:>5.1f} %  "
            f"compression {m.compression:>4.1f} %{grain}  ({m.source})"
        )
    say([*lines, f"More can be written in {own_table()}"])


def run(options: Namespace, progress: Progress) -> None:
    from .whole_job import run_job

    run_job(options, progress)
