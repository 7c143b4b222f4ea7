"""What the commands do: read, compute, and only then write."""

from __future__ import annotations

from argparse import Namespace
from collections.abc import Sequence
from dataclasses import replace
from pathlib import Path
from typing import Any

import numpy as np

from ..core.artwork import Artwork
from ..core.carry.carried import CarriedCurve, wrapped_messages
from ..core.carry.tracing import trace as trace_curves
from ..core.carry.wrapping import wrap as wrap_curves
from ..core.contour import Contour
from ..core.develop.assembly import Assembly
from ..core.develop.blank import Blank
from ..core.develop.compared import PURPOSES
from ..core.develop.comparing import compare as compare_ways
from ..core.develop.developing import develop as develop_faces
from ..core.develop.placing import Hold
from ..core.develop.proposal import Proposal
from ..core.develop.proposing import propose
from ..core.errors import Refused, WrongCall
from ..core.files.artwork_file import read_artwork
from ..core.files.curve_file import read_curves
from ..core.files.drawing_file import KINDS, drawing_bytes
from ..core.files.form_file import read_form
from ..core.files.outputs import Outputs
from ..core.files.pdf import pdf_bytes
from ..core.files.report import (
    blank_part,
    bodies_part,
    compared_part,
    curves_part,
    faces_part,
    messages_part,
    report,
    report_bytes,
)
from ..core.files.stl import stl_bytes
from ..core.form.flats import DEVELOPABLE
from ..core.form.form import Form
from ..core.form.panels import panels as span_panels
from ..core.form.sections import left_open, level_sections, sections_along
from ..core.materials import K_FACTOR, own_table, required_material, table
from ..core.operations.cut_file import drawing
from ..core.picking import pick
from ..core.progress import Progress
from ..core.route import picked_edges
from ..core.shop.pages import paged
from .terminal import say


def _form(options: Namespace, progress: Progress) -> Form:
    """The form in the file of the call."""
    return read_form(_content(options.form), options.form.name, options.unit, options.crease, progress, options.form)


def _content(path: Path) -> bytes:
    try:
        return path.read_bytes()
    except OSError as error:
        raise Refused(f"{path} cannot be read: {error.strerror or error}; check the path.") from error


def faces(options: Namespace, progress: Progress) -> None:
    form = _form(options, progress)
    content = report(
        "faces",
        options.form,
        faces=faces_part(form),
        bodies=bodies_part(form),
        messages=messages_part(form.messages),
    )
    lines = []
    for face in form.faces:
        radius = f"  radius {face.radius:g} mm" if face.radius is not None else ""
        near = ", ".join(map(str, face.neighbours)) or "none"
        lines.append(f"{face.number:>4}  {face.kind:<9} {face.area:>14.3f} mm²{radius}  neighbours {near}")
    if len(form.bodies) > 1:
        lines.extend(f"{body.name}: faces {', '.join(map(str, body.faces))}" for body in form.bodies)
    lines.extend(form.messages)
    outputs = Outputs()
    if options.report:
        outputs.add(options.report, report_bytes(content))
    if options.mesh:
        outputs.add(options.mesh, stl_bytes(form))
    outputs.write()
    say(lines)


def _developed(options: Namespace, progress: Progress) -> tuple[Form, Blank]:
    material = None if options.material is None else required_material(options.material)
    form = _form(options, progress.part(0, 0.4))
    point = None if options.pick is None else np.array(options.pick)
    numbers = pick(form, options.faces, point, options.tangent)
    hold = Hold(*(None if v is None else np.array(v) for v in (options.hold, options.along)))
    assembly = Assembly(
        cuts=picked_edges(options.cuts),
        apart=options.apart,
        tab=options.tabs,
        tab_angle=options.tab_angle,
        labelled=options.numbers,
        reliefs=_reliefs(options),
        keeps=options.keep,
        ratio=options.ratio,
        straight=picked_edges(options.straight),
        long=picked_edges(options.long),
        layer=options.layer,
        thickness=_thickness(options),
        k_factor=material.k_factor if material else K_FACTOR,
        within=options.within,
    )

    def laid(assembly: Assembly, part: Progress) -> Blank:
        return develop_faces(
            form, numbers, options.way, hold, options.seam, options.edge, part, assembly, options.limit
        )

    if options.under is None:
        blank = laid(assembly, progress.part(0.4, 0.9))
    else:
        blank = laid(assembly, progress.part(0.4, 0.5))
        found = propose(form, blank, options.under, progress=progress.part(0.5, 0.85))
        taken = (*assembly.reliefs, *(relief.points for relief in found.reliefs))
        blank = laid(replace(assembly, reliefs=taken), progress.part(0.85, 0.9))
        blank = replace(blank, messages=(*blank.messages, *_proposed(found, options.under)))
    return form, blank.judged(material)


def _thickness(options: Namespace) -> float:
    if not (np.isfinite(options.thickness) and options.thickness > 0):
        raise WrongCall("--thickness needs a number above 0; change it.")
    return float(options.thickness)


def _reliefs(options: Namespace) -> tuple[np.ndarray, ...]:
    if options.reliefs is None:
        return ()
    return tuple(curve.points for curve in read_curves(_content(options.reliefs), options.reliefs.name))


def _proposed(found: Proposal, target: float) -> tuple[str, ...]:
    """What was proposed, and how far it leads."""
    gains = ", ".join(f"{relief.gain:.2f} %" for relief in found.reliefs)
    said = [
        f"{len(found.reliefs)} reliefs, {found.length:.0f} mm to cut: {found.uncut:.2f} % without them, "
        f"{found.reached:.2f} % with them; each gains {gains}."
    ]
    if found.reached > target:
        said.append(f"That is not yet under {target:g} %; develop fewer faces together.")
    if found.reliefs:
        return tuple(said)
    if found.uncut <= target:
        return (f"It needs no relief to stay under {target:g} %; it stretches by {found.uncut:.2f} % at most.",)
    return (
        f"It stretches by {found.uncut:.2f} %, and no relief was found that brings it nearer to {target:g} %; "
        "draw some of your own, or develop fewer faces together.",
    )


def develop(options: Namespace, progress: Progress) -> None:
    form, blank = _developed(options, progress)
    _finish(options, "develop", form, blank, [], [], [*form.messages, *blank.messages])


def wrap(options: Namespace, progress: Progress) -> None:
    artwork = read_artwork(_content(options.artwork), options.artwork.name)
    if not np.isfinite([options.scale, options.turn, *options.at]).all() or options.scale == 0:
        raise WrongCall("--scale, --turn and --at need finite numbers, and a scale that is not 0; change them.")
    placed = artwork.placed(options.scale, options.turn, options.at)
    form, blank = _developed(options, progress)
    curves = wrap_curves(blank.correspondence, placed.contours)
    messages = [*form.messages, *artwork.messages, *blank.messages, *wrapped_messages(curves)]
    _finish(options, "wrap", form, blank, [placed], curves, messages)


def panels(options: Namespace, progress: Progress) -> None:
    said: tuple[str, ...] = ()
    if options.at:
        options.form = options.source
        curves = sections_along(_form(options, progress.part(0, 0.3)), np.array(options.at))
    elif options.sections is None:
        curves = [curve.points for curve in read_curves(_content(options.source), options.source.name)]
    else:
        if not 1 <= options.sections <= 200:
            raise WrongCall("--sections needs a number of panels from 1 to 200; change it.")
        options.form = options.source
        form, across = _form(options, progress.part(0, 0.3)), np.array(options.across)
        curves = level_sections(form, across, options.sections)
        said = left_open(form, across, curves)
    made = span_panels(curves, options.nearest, options.source.stem, progress.part(0.3, 0.8))
    everything = [face.number for face in made.form.faces]
    limit = 100.0  # what a panel stretches is said; whether that is too much is not ours to say here
    assembly = Assembly(apart=True, labelled=True)
    blank = develop_faces(
        made.form, everything, "exact", progress=progress.part(0.8, 1), assembly=assembly, limit=limit
    )
    options.form = options.source
    found = [
        {"twist_max": p.twist, "stretch_max": 100 * p.error, "gap_max": p.gap, "turned": p.turned,
         "developable": p.error <= DEVELOPABLE} for p in made.panels
    ]  # fmt: skip
    _finish(options, "panels", made.form, blank, [], [], [*made.form.messages, *blank.messages, *said], panels=found)


def compare(options: Namespace, progress: Progress) -> None:
    ways = [way.strip() for way in options.ways.split(",") if way.strip()]
    if not ways or any(way not in PURPOSES for way in ways):
        raise WrongCall(f"--ways needs some of {', '.join(PURPOSES)}, with commas between; change it.")
    form = _form(options, progress.part(0, 0.3))
    numbers = pick(form, options.faces, None if options.pick is None else np.array(options.pick), options.tangent)
    blank = develop_faces(form, numbers, progress=progress.part(0.3, 0.5))
    compared = compare_ways(form, blank, ways, progress.part(0.5, 1))
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
    if options.report:
        parts = [compared_part(each) for each in compared]
        messages = messages_part([each.refusal for each in compared if each.refusal])
        outputs = Outputs()
        content = report("compare", options.form, faces=faces_part(form), compared=parts, messages=messages)
        outputs.add(options.report, report_bytes(content))
        outputs.write()
    say(lines)


def materials(options: Namespace, progress: Progress) -> None:
    lines = []
    for m in table().values():
        grain = ", with grain" if m.grain else ""
        lines.append(
            f"{m.name:<22} {m.thickness:>6.2f} mm  K {m.k_factor:.2f}  stretch {m.stretch:>5.1f} %  "
            f"compression {m.compression:>4.1f} %{grain}  ({m.source})"
        )
    say([*lines, f"More can be written in {own_table()}"])


def trace(options: Namespace, progress: Progress) -> None:
    found = read_curves(_content(options.curves), options.curves.name)
    form, blank = _developed(options, progress)
    curves, messages = trace_curves(blank.correspondence, found)
    said = [*form.messages, *blank.messages, *messages]
    _finish(options, "trace", form, blank, [curves], curves, said)


def _finish(
    options: Namespace,
    command: str,
    form: Form,
    blank: Blank,
    marks: Sequence[Artwork | Sequence[CarriedCurve]],
    curves: Sequence[CarriedCurve],
    messages: Sequence[str],
    **parts: Any,
) -> None:
    content = report(
        command,
        options.form,
        faces=faces_part(form),
        blank=blank_part(blank),
        curves=curves_part(curves) or None,
        messages=messages_part(messages),
        **parts,
    )
    contours = drawing(blank, marks)
    outputs = Outputs()
    add_drawings(outputs, options, contours, form.name)
    if options.pdf:
        outputs.add(options.pdf, pdf_bytes(paged(blank, contours, options.paper, shown=options.shown), form.name))
    if options.step:
        from ..core.form.kernel import step_bytes

        if command == "wrap":
            outputs.add(options.step, step_bytes([s for curve in curves for s in curve.splines]))
        else:
            outputs.add(options.step, step_bytes(contours=contours))
    if options.mesh:
        outputs.add(options.mesh, stl_bytes(form))
    if options.report:
        outputs.add(options.report, report_bytes(content))
    outputs.write()
    say(_lines(blank, curves, messages))


def _lines(blank: Blank, curves: Sequence[CarriedCurve], messages: Sequence[str]) -> list[str]:
    figures = blank.figures
    lines = [
        f"{blank.way}: form {figures.area_form:.3f} mm², blank {figures.area_blank:.3f} mm² "
        f"({figures.area_change:+.4f} %), stretch {figures.stretch_max:+.3f} / {figures.stretch_min:+.3f} %, "
        f"round trip {figures.round_trip_max:.6f} mm, pieces {figures.pieces}"
    ]
    if blank.verdict is not None:
        material = blank.verdict.material
        lines.append(f"{material.name} can take it: {blank.verdict.words} ({material.source})")
    lines.extend(
        f"{curve.name}: {curve.length_form:.3f} mm on the form, {curve.length_blank:.3f} mm on the blank"
        for curve in curves
    )
    return [*lines, *messages]


def add_drawings(outputs: Outputs, options: Namespace, contours: Sequence[Contour], title: str) -> None:
    """Adds the cut files that are asked for."""
    for kind in KINDS:
        path = getattr(options, kind)
        if path:
            outputs.add(path, drawing_bytes(kind, contours, title))


def run(options: Namespace, progress: Progress) -> None:
    from .whole_job import run_job

    run_job(options, progress)
