"""Develops picked faces: chooses the way, lays them flat, holds them, and measures."""

from __future__ import annotations

import time
from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from ..correspondence import Correspondence, Leaf, Rigid
from ..developable.developable import with_flats
from ..developable.layers import layered
from ..errors import CannotBeDone, Refused, WrongCall
from ..form.form import Face, Form
from ..form.sheet_side import depths
from ..form.unwrapped import Unwrapped, flat_unwrapped, unwrap, unwrap_plain, without_overlap
from ..geometry.curves import Array
from ..geometry.ruled_flat import FlatMap
from ..mesh.triangles import signed_double_areas
from ..plane.region import only_touch
from ..progress import SILENT, Progress
from ..tolerances import OUTLINE
from ..wording import counted
from .assembly import PLAIN, Assembly, joining
from .blank import Blank, Figures, Flat, StretchMesh
from .exact import lay_exact
from .labels import labelled
from .measuring import measured
from .piece import named
from .placing import Hold, locate_hold, motion_to_hold
from .recut import recut
from .twisted import twisted_flats

WAYS = ("auto", "exact", "relaxed", "parametric", "even")
SEAMS = ("auto", "own", "hold", "opposite")
NAMES = {
    "neutral": "neutral layer",
    "neutral_of_inner": "neutral layer",
    "other": "other side of the sheet",
}
PROBES = 1500
"""How many points, about, the round trip is measured at."""
IMPOSSIBLE = 100.0
"""No relaxed blank is given that stretches or is compressed by more percent than this."""
HOPELESS = 30.0
"""A stretch or compression of so many percent is said, whatever the material."""


class TooMuchStretch(CannotBeDone):
    """Relaxed as one sheet no material could follow; ``tried`` is the form and the blank that was found."""

    tried: tuple[Form, Blank] | None = None

    @classmethod
    def of(cls, form: Form, blank: Blank) -> TooMuchStretch:
        worst = max(blank.figures.stretch_max, -blank.figures.stretch_min)
        error = cls(
            f"Relaxed as one sheet the material would have to give by {worst:,.0f} %, which none can; cut it open "
            "along edges or reliefs (--cuts, --under), unfold it at its creases (--way exact, a mesh with --crease 1), "
            "or pick fewer faces."
        )
        error.tried = form, blank
        return error


def develop(
    form: Form,
    faces: Sequence[int],
    way: str = "auto",
    hold: Hold = Hold(),  # noqa: B008 - a frozen value
    seam: str = "auto",
    edge_length: float | None = None,
    progress: Progress = SILENT,
    assembly: Assembly = PLAIN,
    limit: float = 0.0,
) -> Blank:
    """The blank of ``faces`` (numbers) of ``form``.

    ``way`` is "auto" (exact where every face allows it, else relaxed), "exact", "relaxed", "parametric"
    (each patch a rectangle by its two directions) or "even" (the same, evenly by arc length); ``seam`` says where a
    face that closes on itself is cut: at its "own" seam edge, through the "hold" point, or
    "opposite" to it ("auto": through the hold point where one is given). ``edge_length`` is the size
    of the triangles in mm for the relaxed way. ``assembly`` is how the faces hang together. Developed exactly, a
    twisted face may stretch by ``limit`` percent, which is said.
    Raises CannotBeDone (TooMuchStretch where no material could follow), Refused or WrongCall.
    """
    begin = time.perf_counter()
    if way not in WAYS:
        raise WrongCall(f"There is no way '{way}' of developing; use {', '.join(WAYS)}.")
    if seam not in SEAMS:
        raise WrongCall(f"There is no seam '{seam}'; use {', '.join(SEAMS)}.")
    if not faces:
        raise Refused("No face is picked, so there is nothing to develop; pick at least one face.")
    if edge_length is not None and not (np.isfinite(edge_length) and edge_length > 0):
        raise Refused("The triangle size must be a number above 0 mm; change it.")
    for vector, name in ((hold.point, "hold point"), (hold.along, "direction for x")):
        if vector is not None and not np.isfinite(vector).all():
            raise Refused(f"The {name} has a number that is not finite; give three plain numbers.")
    numbers = sorted(set(faces))
    form = with_flats(form, numbers)
    asked = way
    if way in ("auto", "relaxed"):
        form = replace(form, faces=tuple(without_overlap(f) if f.number in numbers else f for f in form.faces))
    if way == "auto":
        way = "exact" if all(form.face(n).developable for n in numbers) else "relaxed"
    if way == "relaxed" and (before := form.before) is not None:
        whole = before.whole(numbers)
        if whole is not None and assembly.before_cutting(before):
            made = develop(before.form, whole, asked, hold, seam, edge_length, progress, assembly, limit)
            return recut(form, before, made, numbers)
    twisted = twisted_flats(form, numbers, limit, progress.part(0.0, 0.2)) if way == "exact" else {}
    by_parameters = way in ("parametric", "even")
    if by_parameters:
        unwrapped = {n: unwrap_plain(form.face(n)) for n in numbers}
    else:
        layer = dict(assembly.depths) or depths(form, numbers, assembly.layer, assembly.thickness, assembly.k_factor)
        unwrapped = _unwrapped(form, numbers, hold, seam, layer)
        unwrapped |= {n: flat_unwrapped(form.face(n), flat) for n, flat in twisted.items()}
    placed, messages = locate_hold(form, unwrapped, hold)

    def to_hold(leaves: Sequence[Leaf]) -> Rigid:
        return motion_to_hold(leaves, unwrapped.values(), placed, form.size)

    how = joining(form, numbers, assembly, to_hold)
    if way == "exact":
        flat = lay_exact(form, unwrapped, placed.face, how, progress.part(0.2, 0.8))
        if twisted:
            flat = replace(flat, mesh=measured(form, unwrapped, flat.correspondence, twisted, edge_length))
    elif by_parameters:
        from .parametric import lay_parametric

        ordered = [placed.face, *(n for n in numbers if n != placed.face)]
        flat = lay_parametric(form, ordered, way == "even", edge_length, how, progress.part(0.0, 0.9))
    else:
        from .mixed import lay_mixed  # sparse solvers are slow to import

        flat = lay_mixed(form, unwrapped, placed.face, edge_length, how, asked == "auto", progress.part(0.0, 0.9))
    if how.within is not None:
        how.within.require(flat.pieces)
    mesh = flat.mesh
    progress.step(0.92, "measuring")
    round_trip = flat.correspondence.round_trip(flat.correspondence.to_form(_probes(flat.correspondence)).points)
    stretch = mesh.stretch if mesh is not None else np.zeros((1, 2))
    figures = Figures(
        area_form=form.area(numbers),
        area_blank=flat.area,
        stretch_max=100 * float(stretch[:, 0].max()),
        stretch_min=100 * float(stretch[:, 1].min()),
        outline_length=flat.outline_length,
        pieces=len(flat.pieces),
        triangles=0 if mesh is None else len(mesh.triangles),
        flipped=_flipped(mesh),
        round_trip_max=round_trip,
        seconds=time.perf_counter() - begin,
    )
    messages += (*flat.messages, *_overlaps(flat))
    if assembly.reliefs and way != "relaxed":
        messages += ("Reliefs open a relaxed blank only, and this one is not; cut it open along edges instead.",)
    if flat.crowded:
        advice = "lay each face out as a piece of its own (--apart), or take narrower tabs"
        messages += (f"{counted(flat.crowded, 'tab')} had no room; {advice}.",)
    if not by_parameters:
        messages += _layer_said(form, numbers, assembly.layer, layer)
    if twisted:
        messages += _twists(twisted)
    else:
        messages += _lengths_not_kept(stretch) if by_parameters else _doubts(stretch)
    blank = Blank(
        way, tuple(numbers), named(flat.pieces), flat.correspondence, figures,
        placed.point, placed.along, placed.normal, mesh, messages, _seam_lines(unwrapped),
    )  # fmt: skip
    if way == "relaxed" and max(figures.stretch_max, -figures.stretch_min) > IMPOSSIBLE:
        raise TooMuchStretch.of(form, blank)
    return labelled(form, blank) if assembly.labelled else blank


def _overlaps(flat: Flat) -> tuple[str, ...]:
    """A sentence where the outline of a piece crosses itself, so that it cannot be cut from one sheet."""
    rings = [c.flattened(OUTLINE)[:-1] for c in flat.outline if len(c.points) > 1]
    if only_touch(rings):
        return ()
    return (
        "The blank overlaps itself and cannot be cut in one piece; open it at a relief (Propose reliefs shows where), "
        "or develop fewer faces together.",
    )


def _twists(twisted: dict[int, FlatMap]) -> tuple[str, ...]:
    """What was allowed to faces that are not quite developable."""
    return tuple(
        f"Face {n} is slightly twisted; laid flat it stretches by up to {100 * flat.error:.2g} %."
        for n, flat in sorted(twisted.items())
    )


def _lengths_not_kept(stretch: Array) -> tuple[str, ...]:
    """What one must know of a blank by parameters."""
    largest, least = 100 * float(stretch[:, 0].max()), 100 * float(stretch[:, 1].min())
    return (
        f"Lengths are not kept: on the form they are up to {largest:.2f} % longer and {-least:.2f} % shorter; "
        "the dotted rectangle is the whole patch.",
    )


def _doubts(stretch: Array) -> tuple[str, ...]:
    """A sentence where no material could follow the blank."""
    worst = 100 * float(np.abs(stretch).max())
    if worst < HOPELESS:
        return ()
    return (
        f"The material would have to give by {worst:.0f} % somewhere; develop fewer faces together, "
        "or leave out those that close the form.",
    )


def _seam_lines(unwrapped: dict[int, Unwrapped]) -> tuple[Array, ...]:
    """Where faces were cut open, on the form."""
    return tuple(
        face.chart.surface.evaluate(c.uv(np.linspace(c.start, c.end, 33)))
        for face in unwrapped.values()
        for c in face.cuts
    )


def _flipped(mesh: StretchMesh | None) -> int:
    """Triangles that lie on their backs: there must be none, so raises CannotBeDone otherwise."""
    if mesh is None:
        return 0
    flipped = int((signed_double_areas(mesh.points_blank, mesh.triangles) <= 0).sum())
    if flipped:
        raise CannotBeDone(
            f"{counted(flipped, 'triangle')} would lie upside down in the blank; take smaller triangles, or pick "
            "fewer faces."
        )
    return flipped


def _unwrapped(
    form: Form, numbers: Sequence[int], hold: Hold, seam: str, layer: dict[int, float]
) -> dict[int, Unwrapped]:
    if seam == "auto":
        seam = "own" if hold.point is None else "hold"
    if seam == "own":
        return {n: _layer(form.face(n), layer[n], None) for n in numbers}
    if hold.point is None:
        raise Refused(f"The seam is to lie by the hold point ({seam}), but none is given; give one.")
    result = {}
    for n in numbers:
        surface = form.face(n).surface
        uv = surface.project(np.asarray(hold.point, float)[None])[0]
        if seam == "opposite" and surface.periods[0] is not None:
            uv = uv + np.array([surface.periods[0] / 2, 0])
        result[n] = _layer(form.face(n), layer[n], uv)
    return result


def _layer(face: Face, depth: float, seam_uv: Array | None) -> Unwrapped:
    return unwrap(face, seam_uv) if depth == 0 else layered(face, depth, seam_uv)


def _layer_said(form: Form, numbers: Sequence[int], name: str, layer: dict[int, float]) -> tuple[str, ...]:
    """Which layer it is, and where that is not the whole truth."""
    if name == "given":
        return ()
    bent = {n: layer[n] for n in numbers if form.face(n).kind != "plane"} or layer
    places = sorted({f"{abs(d):.3g} mm {'inside' if d < 0 else 'outside'}" for d in bent.values()})
    said = f"This is the {NAMES[name]}, {' and '.join(places)} the faces."
    creases = [e for e in form.edges if not e.smooth and sum(n in numbers for n in e.faces) > 1]
    if creases:
        said += " Where faces meet at a crease, layers do not join; its bends have no radius yet."
    return (said,)


def _probes(correspondence: Correspondence) -> Array:
    """Blank points (n, 2) strewn over all faces, at least a thousand; the same each time."""
    random = np.random.default_rng(20)
    points = []
    each = int(np.ceil(PROBES / len(correspondence.leaves)))
    for leaf in correspondence.leaves:
        rings = np.vstack(leaf.region.rings)
        low, high = rings.min(axis=0), rings.max(axis=0)
        share = leaf.region.shape.area / float(np.prod(high - low))
        count = int(1.3 * each / max(share, 0.02)) + max(2, 16 - each // 4 if each > 1 else 3)
        xy = low + random.random((count, 2)) * (high - low)
        points.append(leaf.chart_to_blank(xy[leaf.region.contains(xy)]))
    return np.vstack(points)
