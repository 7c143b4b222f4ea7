"""Lines of the blank as ways on the form along which a section can be run: place, direction, normal at each point."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import replace

import numpy as np

from ..correspondence import Correspondence, Leaf, RigidLeaf
from ..form.form import Face, Form
from ..geometry.curves import Array
from ..mesh.triangles import signed_double_areas
from ..plane.contour import Contour
from ..progress import SILENT, Progress
from ..record import record
from .on_parameters import in_parameters
from .path import Paths
from .runs import Run, runs_on_faces
from .smooth_runs import smooth_curve, smooth_groups

STEP = 1e-4
"""How far apart, in mm on the blank, points are looked at for a direction."""
BENT = 1e-3
"""Pieces that turn by more than this, in radians, meet at a corner."""
ONE_PLACE = 1e-3
"""Pieces whose ends are nearer to each other than this, in mm, run on from each other."""
FEWEST, MOST = 6, 400
"""Points through which a line on a relaxed face is laid."""


@record
class Along:
    """Points of a track: ``at`` on the form, unit ``way`` along it and outer ``normal``, each (n, 3)."""

    at: Array
    way: Array
    normal: Array


@record
class Stretch:
    """A smooth piece of a way on one face: parameters ``uv(s) -> (n, 2)`` for s from ``start`` to ``end``, in mm."""

    face: Face
    uv: Callable[[Array], Array]
    start: float
    end: float
    exact: bool


@record
class Track:
    """Stretches that run on smoothly from each other; ``closed`` where the last one runs into the first.

    ``meets`` is, for its start and its end, where the line goes on beyond a corner, how it does.
    """

    name: str
    stretches: tuple[Stretch, ...]
    closed: bool
    meets: tuple[Along | None, Along | None] = (None, None)


def along(stretch: Stretch, s: Array) -> Along:
    """Where a stretch is at its parameters ``s`` (n,)."""
    uv = stretch.uv(np.concatenate([s, s - STEP, s + STEP]))
    at, before, after = stretch.face.surface.evaluate(uv).reshape(3, len(s), 3)
    normal = stretch.face.outward(uv[: len(s)])
    way = after - before
    way -= np.einsum("ij,ij->i", way, normal)[:, None] * normal
    return Along(at, way / np.linalg.norm(way, axis=1, keepdims=True), normal)


def tracks(
    form: Form, correspondence: Correspondence, contours: Sequence[Contour], progress: Progress = SILENT
) -> list[Track]:
    """What of the contours lies on the form, divided at corners, creases and where they leave it."""
    paths, runs = runs_on_faces(correspondence, contours, progress)
    leaves = {leaf.face: leaf for leaf in correspondence.leaves}
    found: list[Track] = []
    for number, contour in enumerate(contours):
        pieces = [
            piece for run in runs if run.contour == number for piece in _stretches(form, leaves[run.face], paths, run)
        ]
        found.extend(divided(contour.name or f"line {number + 1}", pieces, contour.closed))
    return found


def divided(name: str, pieces: Sequence[Stretch], closed: bool, bent: float = BENT) -> list[Track]:
    """Stretches that follow each other as tracks, divided at corners and where one does not begin where another ends.

    ``closed`` says whether the last one may run into the first. Corners turn by more than ``bent`` radians.
    """
    chains: list[list[Stretch]] = []
    for piece in pieces:
        if chains and _runs_on(chains[-1][-1], piece, bent):
            chains[-1].append(_after(chains[-1][-1], piece))
        else:
            chains.append([piece])
    chains = [chain for chain in chains if sum(piece.end - piece.start for piece in chain) > 2 * ONE_PLACE]
    whole = closed and bool(chains) and _runs_on(chains[-1][-1], chains[0][0], bent)
    if whole and len(chains) > 1:  # it begins within a smooth piece
        first = chains.pop(0)
        for piece in first:
            chains[-1].append(_after(chains[-1][-1], piece))
        whole = False
    found = []
    for k, chain in enumerate(chains):
        before = chains[k - 1] if k or closed else None
        after = chains[(k + 1) % len(chains)] if k + 1 < len(chains) or closed else None
        meets = (None, None) if whole else (_corner(before, chain)[0], _corner(chain, after)[1])
        own = name if len(chains) == 1 else f"{name}, part {k + 1}"
        found.append(Track(own, tuple(chain), whole, meets))
    return found


def _corner(first: Sequence[Stretch] | None, second: Sequence[Stretch] | None) -> tuple[Along | None, Along | None]:
    """How one chain ends and the other begins, where they meet."""
    if first is None or second is None:
        return None, None
    a, b = along(first[-1], np.array([first[-1].end])), along(second[0], np.array([second[0].start]))
    return (a, b) if np.linalg.norm(a.at - b.at) < ONE_PLACE else (None, None)


def _stretches(form: Form, leaf: Leaf, paths: Paths, run: Run) -> list[Stretch]:
    whole = (run.parts[:, 0] == 0) & (run.parts[:, 1] == 1)
    face = form.face(run.face)
    made = []
    for group in smooth_groups(paths, run.spans, whole):
        k = int(np.searchsorted(run.spans, group[0]))
        if len(group) > 1:
            curve = smooth_curve(paths, group)
            assert curve is not None
            start, end = float(curve.knots[0]), float(curve.knots[-1])
            uv = _on_face(leaf, curve.evaluate, start, end)
        else:
            span, (a, b) = int(group[0]), run.parts[k].tolist()
            length = float(paths.lengths[span])
            start, end = a * length, b * length
            uv = _on_face(leaf, _on_span(paths, span, length), start, end)
        made.append(Stretch(face, uv, start, end, isinstance(leaf, RigidLeaf)))
    return made


def _on_span(paths: Paths, span: int, length: float) -> Callable[[Array], Array]:
    return lambda s: paths.at(np.full(len(s), span), np.asarray(s, float) / length)


def _on_face(leaf: Leaf, blank: Callable[[Array], Array], start: float, end: float) -> Callable[[Array], Array]:
    """A line of the blank in the parameters of its face. On a relaxed one, smoothly from triangle to triangle."""
    if isinstance(leaf, RigidLeaf):
        return lambda s: in_parameters(leaf, blank(s))
    from scipy.interpolate import make_interp_spline

    edge = float(np.sqrt(np.abs(signed_double_areas(leaf.points_blank, leaf.triangles)).mean()))
    s = np.linspace(start, end, int(np.clip((end - start) / edge, FEWEST, MOST)))
    return make_interp_spline(s, in_parameters(leaf, blank(s)), 5)


def _runs_on(first: Stretch, second: Stretch, bent: float) -> bool:
    a, b = along(first, np.array([first.end])), along(second, np.array([second.start]))
    return bool(
        np.linalg.norm(a.at - b.at) < ONE_PLACE
        and (a.way * b.way).sum() > np.cos(bent)
        and (a.normal * b.normal).sum() > np.cos(bent)
    )


def _after(before: Stretch, piece: Stretch) -> Stretch:
    """The piece with its parameter running on from that of the one before."""
    shift = before.end - piece.start
    return replace(piece, uv=lambda s: piece.uv(np.asarray(s) - shift), start=before.end, end=piece.end + shift)
