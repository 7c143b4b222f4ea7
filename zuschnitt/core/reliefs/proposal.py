"""What is proposed to come under a stretch, and how a set of cuts is measured."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from ..develop.blank import Blank
from ..develop.layout import Joining
from ..develop.limits import EQUILATERAL
from ..develop.sheet import RelaxedSheet, relaxed_sheet
from ..develop.welding import connected
from ..errors import CannotBeDone
from ..flatten.metric import Metric, singular_values
from ..flatten.relaxed import relax
from ..form.form import Form
from ..form.unwrapped import Unwrapped, unwrap
from ..geometry.curves import Array
from ..mesh.opening import opened
from ..record import record
from .relief import Relief

COARSE = 1000
"""Triangles of the mesh that cuts are tried on, about: 1,400 take a fifth longer and find nothing shorter (54 lids)."""
ON_FACE = 1e-3
"""A seam of a blank lies on the face that it is nearer to than this, in mm."""


@record
class Proposal:
    """``reliefs`` in the order of their gain, or round the axis; ``uncut`` and ``reached`` are stretches in percent."""

    reliefs: tuple[Relief, ...]
    uncut: float
    reached: float

    @property
    def length(self) -> float:
        return sum(relief.length for relief in self.reliefs)

    def with_gains(self, gains: Sequence[float]) -> Proposal:
        """The same with what each relief gains."""
        reliefs = (replace(r, gain=float(max(gain, 0.0))) for r, gain in zip(self.reliefs, gains, strict=True))
        return replace(self, reliefs=tuple(reliefs))

    def ranked(self) -> Proposal:
        """The same, the reliefs that gain most first."""
        return replace(self, reliefs=tuple(sorted(self.reliefs, key=lambda relief: -relief.gain)))


def largest(stretch: Array) -> float:
    """The largest stretch or compression of triangles (t, 2), in percent."""
    return 100 * float(np.abs(stretch).max())


def stretch_left(
    points_form: Array, triangles: np.ndarray, cut: np.ndarray, start: Array | None = None
) -> tuple[Array, np.ndarray]:
    """The larger of stretch and compression (t,), in percent, of a mesh opened along edges with these keys and roughly
    relaxed; with it the triangles (t, 3) in the numbers of the mesh.

    ``start`` (n, 2) is a map of the mesh without flips, if one is known.
    """
    opened_triangles, old = opened(triangles, len(points_form), cut)
    points = points_form[old]
    piece = connected(points, opened_triangles)
    worst = np.zeros(len(triangles))
    for k in range(piece.max() + 1):
        mine = np.nonzero(piece == k)[0]
        here = piece[opened_triangles[:, 0]] == k
        local = np.searchsorted(mine, opened_triangles[here])
        known = None if start is None else start[old[mine]]
        flat = relax(points[mine], local, known, most_steps=60, converged=3e-4).points_blank
        stretch = 1 / singular_values(Metric.of(points[mine], local).jacobians(flat)) - 1
        worst[here] = 100 * np.abs(stretch).max(axis=1)
    return worst, old[opened_triangles]


@record
class Part:
    """The faces that are relieved, cut open as their blank is; ``uncut`` is its largest stretch in percent."""

    form: Form
    unwrapped: dict[int, Unwrapped]
    seams: tuple[Array, ...]
    uncut: float

    @classmethod
    def of(cls, form: Form, blank: Blank) -> Part:
        """That of a blank whose stretch was measured."""
        assert blank.mesh is not None
        unwrapped = {n: unwrap(form.face(n), _through(form, n, blank)) for n in blank.faces}
        return cls(form, unwrapped, blank.seams_form, largest(blank.mesh.stretch))

    @property
    def coarse(self) -> float:
        """The edge length, in mm, of the triangles that cuts are tried on."""
        return float(np.sqrt(self.form.area(self.unwrapped) / (EQUILATERAL * COARSE)))

    def sheet(self, reliefs: Sequence[Array], edge_length: float | None = None) -> RelaxedSheet:
        """Relaxed with these cuts.

        Raises CannotBeDone where they run too near to each other for its triangles, or the blank would lie over itself.
        """
        how = Joining(reliefs=tuple(reliefs))
        return relaxed_sheet(self.form, self.unwrapped, next(iter(self.unwrapped)), edge_length, how, mend=False)

    def proposal(self, reliefs: Sequence[Relief]) -> Proposal:
        """What they reach on the fine mesh: nothing where they cannot be had on it."""
        try:
            fine = self.sheet([relief.points for relief in reliefs]) if reliefs else None
        except CannotBeDone:
            fine = None
        return self.nothing if fine is None else Proposal(tuple(reliefs), self.uncut, largest(fine.mesh.stretch))

    @property
    def nothing(self) -> Proposal:
        return Proposal((), self.uncut, self.uncut)


def _through(form: Form, number: int, blank: Blank) -> Array | None:
    """Parameters (2,) at which a seam of a blank runs along v on a face; None where it has none on it."""
    surface = form.face(number).surface
    for seam in blank.seams_form:
        inside = seam[[len(seam) // 3, len(seam) // 2]]
        uv = surface.project(inside)
        step = np.abs(uv[1] - uv[0])
        if np.linalg.norm(surface.evaluate(uv) - inside, axis=1).max() < ON_FACE and step[0] < step[1]:
            return uv[1]
    return None
