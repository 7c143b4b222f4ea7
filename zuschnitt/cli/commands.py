"""What the commands do: read, compute, and only then write."""

from __future__ import annotations

from argparse import Namespace
from collections.abc import Sequence
from pathlib import Path

import numpy as np

from ..core.artwork import Artwork
from ..core.carry.curves import CarriedCurve, outside_message
from ..core.carry.curves import trace as trace_curves
from ..core.carry.curves import wrap as wrap_curves
from ..core.contour import Contour
from ..core.develop.blank import Blank
from ..core.develop.developing import develop as develop_faces
from ..core.develop.placing import Hold
from ..core.errors import Refused, WrongCall
from ..core.files.artwork_file import read_artwork
from ..core.files.curve_file import read_curves
from ..core.files.drawing_file import write_drawing
from ..core.files.form_file import read_form
from ..core.files.report import blank_part, curves_part, faces_part, messages_part, report, write_report
from ..core.files.stl import write_stl
from ..core.form.form import Form
from ..core.materials import required_material
from ..core.operations.cut_file import drawing
from ..core.picking import pick
from ..core.progress import Progress


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
    content = report("faces", options.form, faces=faces_part(form), messages=messages_part(form.messages))
    for face in form.faces:
        radius = f"  radius {face.radius:g} mm" if face.radius is not None else ""
        near = ", ".join(map(str, face.neighbours)) or "none"
        print(f"{face.number:>4}  {face.kind:<9} {face.area:>14.3f} mm²{radius}  neighbours {near}")
    if options.report:
        write_report(options.report, content)
    if options.mesh:
        write_stl(options.mesh, form)


def _developed(options: Namespace, progress: Progress) -> tuple[Form, Blank]:
    material = None if options.material is None else required_material(options.material)
    form = _form(options, progress.part(0, 0.4))
    point = None if options.pick is None else np.array(options.pick)
    numbers = pick(form, options.faces, point, options.tangent)
    hold = Hold(*(None if v is None else np.array(v) for v in (options.hold, options.along)))
    blank = develop_faces(form, numbers, options.way, hold, options.seam, options.edge, progress.part(0.4, 0.9))
    return form, blank.judged(material)


def develop(options: Namespace, progress: Progress) -> None:
    form, blank = _developed(options, progress)
    _finish(options, "develop", form, blank, [], [], blank.messages)


def wrap(options: Namespace, progress: Progress) -> None:
    artwork = read_artwork(_content(options.artwork), options.artwork.name)
    if not np.isfinite([options.scale, options.turn, *options.at]).all() or options.scale == 0:
        raise WrongCall("--scale, --turn and --at need finite numbers, and a scale that is not 0; change them.")
    placed = artwork.placed(options.scale, options.turn, options.at)
    form, blank = _developed(options, progress)
    curves = wrap_curves(blank.correspondence, placed.contours)
    outside = outside_message(curves)
    messages = [*artwork.messages, *blank.messages, *([outside] if outside else [])]
    _finish(options, "wrap", form, blank, [placed], curves, messages)


def trace(options: Namespace, progress: Progress) -> None:
    found, names = read_curves(_content(options.curves), options.curves.name)
    form, blank = _developed(options, progress)
    curves, messages = trace_curves(blank.correspondence, found, names)
    _finish(options, "trace", form, blank, [curves], curves, [*blank.messages, *messages])


def _finish(
    options: Namespace,
    command: str,
    form: Form,
    blank: Blank,
    marks: Sequence[Artwork | Sequence[CarriedCurve]],
    curves: Sequence[CarriedCurve],
    messages: Sequence[str],
) -> None:
    content = report(
        command,
        options.form,
        faces=faces_part(form),
        blank=blank_part(blank),
        curves=curves_part(curves) or None,
        messages=messages_part(messages),
    )
    contours = drawing(blank, marks)
    write_drawings(options, contours, form.name)
    if options.step:
        from ..core.form.kernel import write_step

        if command == "wrap":
            write_step(options.step, [s for curve in curves for s in curve.splines])
        else:
            write_step(options.step, contours=contours)
    if options.mesh:
        write_stl(options.mesh, form)
    if options.report:
        write_report(options.report, content)
    _say(blank, curves, messages)


def _say(blank: Blank, curves: Sequence[CarriedCurve], messages: Sequence[str]) -> None:
    figures = blank.figures
    print(
        f"{blank.way}: form {figures.area_form:.3f} mm², blank {figures.area_blank:.3f} mm² "
        f"({figures.area_change:+.4f} %), stretch {figures.stretch_max:+.3f} / {figures.stretch_min:+.3f} %, "
        f"round trip {figures.round_trip_max:.6f} mm, pieces {figures.pieces}"
    )
    if blank.verdict is not None:
        print(f"{blank.verdict.material.name} can take it: {blank.verdict.words} ({blank.verdict.material.source})")
    for curve in curves:
        print(f"{curve.name}: {curve.length_form:.3f} mm on the form, {curve.length_blank:.3f} mm on the blank")
    for message in messages:
        print(message)


def write_drawings(options: Namespace, contours: Sequence[Contour], title: str) -> None:
    """Writes the cut files that are asked for."""
    for kind in ("dxf", "svg"):
        path = getattr(options, kind)
        if path:
            write_drawing(kind, path, contours, title)


def run(options: Namespace, progress: Progress) -> None:
    from .whole_job import run_job

    run_job(options, progress)
