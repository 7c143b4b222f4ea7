"""Curves from the form to the blank."""

from __future__ import annotations

import itertools
from collections.abc import Sequence

import numpy as np

from ..correspondence import Correspondence, Located
from ..errors import Refused
from ..geometry.curves import Array, Line, Spline
from ..record import record
from ..tolerances import OFF_FORM
from .carried import CarriedCurve, divided_message, length_through, part_name, splines_through

APART = 1.2
"""Where a curve is so many times as long on the blank as on the form, it is looked whether it jumps there."""
SHARE = 1 / 200
"""It is looked at places no further apart than this part of the curve's extent."""
HALVINGS = 45
JUMP = 1e-4
"""A jump on the blank is longer than this, in mm."""


@record
class SpaceCurve:
    """``points`` (n, 3) in mm on the form; ``smooth`` where they are of a smooth curve, not a polyline."""

    points: Array
    name: str = ""
    smooth: bool = False
    corners: tuple[int, ...] = ()
    """Indices of points at which a smooth curve turns all the same."""

    @property
    def splines(self) -> tuple[Spline | Line, ...]:
        """The curve as smooth curves from corner to corner."""
        return splines_through(self.points, self._ends)

    @property
    def length(self) -> float:
        """In mm."""
        return length_through(self.points, self._ends)

    @property
    def _ends(self) -> np.ndarray:
        inner = self.corners if self.smooth else range(1, len(self.points) - 1)
        return np.unique([0, *inner, len(self.points) - 1])


def trace(
    correspondence: Correspondence, curves: Sequence[SpaceCurve], layer: str = "MARK"
) -> tuple[tuple[CarriedCurve, ...], tuple[str, ...]]:
    """Curves of the form on the blank, and messages on what is off the form, outside or divided.

    A curve that crosses an edge at which the blank is cut open becomes several, in their order.
    Raises Refused for a curve without two points, or with numbers that are not finite.
    """
    carried: list[CarriedCurve] = []
    messages = []
    for i, curve in enumerate(curves):
        name = curve.name or f"curve {i + 1}"
        points = np.asarray(curve.points, float)
        if points.ndim != 2 or points.shape[1] != 3 or len(points) < 2:
            raise Refused(f"{name} needs at least two points of three numbers each; mend the file.")
        if not np.isfinite(points).all():
            raise Refused(f"{name} has numbers that are not finite; mend the file.")
        points = points[np.r_[True, (points[1:] != points[:-1]).any(axis=1)]]
        if len(points) < 2:
            raise Refused(f"{name} has all its points in one place, so it has no length; mend the file.")
        at = correspondence.to_blank(points)
        furthest = float(at.gap.max())
        if furthest > OFF_FORM:
            messages.append(f"{name} is up to {furthest:.3g} mm off the form; its nearest points were traced.")
        if not at.inside.all():
            messages.append(f"{name} leaves the developed faces.")
        carried.extend(_divided(correspondence, curve, points, name, layer))
    divided = divided_message(carried)
    return tuple(carried), (*messages, *([divided] if divided else []))


def _divided(
    correspondence: Correspondence, curve: SpaceCurve, points: Array, name: str, layer: str
) -> list[CarriedCurve]:
    """The curve in one, or in parts where it jumps on the blank."""
    fine, span, along = _finely(points)
    given = np.nonzero(along == 0)[0]
    everywhere = _on_one_side(correspondence, fine, correspondence.to_blank(fine))
    at = Located(*(v[given] for v in (everywhere.points, everywhere.face, everywhere.inside, everywhere.gap)))
    where, before, after = _jumps(correspondence, points, everywhere.points, span, along)
    # both ends of each jump become points of the curve
    place = np.repeat(where + 1, 2)

    def with_ends(own: Array, one: Array, other: Array) -> Array:
        return np.insert(own, place, np.stack([one, other], axis=1).reshape(2 * len(where), *own.shape[1:]), axis=0)

    here, there = before[1], after[1]
    form = with_ends(points, before[0], after[0])
    blank = with_ends(at.points, here.points, there.points)
    inside, face = with_ends(at.inside, here.inside, there.inside), with_ends(at.face, here.face, there.face)
    turns = np.full(len(points), not curve.smooth)
    if len(points) == len(curve.points):
        turns[list(curve.corners)] = True
    corner = with_ends(turns, np.ones(len(where), bool), np.ones(len(where), bool))
    cuts = place[::2] + 2 * np.arange(len(where)) + 1
    found = []
    ends = [0, *cuts.tolist(), len(form)]
    pieces = [(a, b) for a, b in itertools.pairwise(ends) if np.ptp(form[a:b], axis=0).max() > 1e-9]
    for number, (a, b) in enumerate(pieces, 1):
        part = number if len(pieces) > 1 else 0
        closed = not part and bool(np.linalg.norm(form[a] - form[b - 1]) < 1e-6)
        closed = closed and bool(np.linalg.norm(blank[a] - blank[b - 1]) < JUMP)
        sharp = corner[a:b].copy()
        sharp[[0, -1]] = True
        corners = np.nonzero(sharp)[0]
        found.append(CarriedCurve(
            part_name(name, part), layer, closed, form[a:b], blank[a:b], inside[a:b], face[a:b], corners,
            length_through(blank[a:b], corners), part,
        ))  # fmt: skip
    return found


def _on_one_side(correspondence: Correspondence, points: Array, at: Located) -> Located:
    """Points on an edge where the blank is cut open lie at two places of it; takes those that make the way shortest.

    The way is the shortest one through a net of these places, point by point (Viterbi).
    """
    images = correspondence.images(points, at)
    if len(images) == 1:
        return at
    step = np.stack([image.points for image in images])  # (k, n, 2)
    valid = np.stack([image.inside for image in images])
    valid[0] = True
    count, n = valid.shape
    cost = np.where(valid[:, 0], 0.0, np.inf)
    came = np.zeros((n, count), int)
    for i in range(1, n):
        way = cost[:, None] + np.linalg.norm(step[:, None, i - 1] - step[None, :, i], axis=2)
        came[i] = way.argmin(axis=0)
        cost = np.where(valid[:, i], way.min(axis=0), np.inf)
    choice = np.zeros(n, int)
    choice[-1] = cost.argmin()
    for i in range(n - 1, 0, -1):
        choice[i - 1] = came[i, choice[i]]
    rows = np.arange(n)
    face = np.stack([image.face for image in images])[choice, rows]
    return Located(step[choice, rows], face, np.where(choice == 0, at.inside, True), at.gap)


def _finely(points: Array) -> tuple[Array, np.ndarray, Array]:
    """Points (m, 3) close together along a polyline, the span (m,) each is on, and how far along it.

    Those with a part of 0 are the given ones.
    """
    length = np.linalg.norm(np.diff(points, axis=0), axis=1)
    extent = float(np.linalg.norm(np.ptp(points, axis=0)))
    count = np.r_[np.maximum(np.ceil(length / max(SHARE * extent, 1e-9)), 1).astype(int), 1]
    span = np.repeat(np.arange(len(count)), count)
    part = (np.arange(len(span)) - np.repeat(np.cumsum(count) - count, count)) / count[span]
    step = np.vstack([np.diff(points, axis=0), np.zeros((1, 3))])
    return points[span] + part[:, None] * step[span], span, part


def _jumps(correspondence: Correspondence, points: Array, blank: Array, span: np.ndarray, part: Array):
    """The spans (k,) that jump on the blank, and the places before and after: points (k, 3) and where they lie.

    ``blank`` (m, 2) are places close together, by their ``span`` (m,) and ``part`` of it.
    """
    start, end = points[:-1], points[1:]
    length = np.linalg.norm(end - start, axis=1)
    blank, beyond, span, part = blank[:-1], blank[1:], span[:-1], np.r_[part[:-1], 1.0]
    upper = np.where(part[1:] == 0, 1.0, part[1:])
    part = part[:-1]
    wide = np.linalg.norm(beyond - blank, axis=1) > APART * (upper - part) * length[span] + JUMP
    suspect = np.nonzero(wide)[0]
    mine, low, high = span[suspect], part[suspect], upper[suspect]
    low_blank, high_blank = blank[suspect], beyond[suspect]

    def place(t: Array) -> Array:
        return start[mine] + t[:, None] * (end - start)[mine]

    for _ in range(HALVINGS if len(suspect) else 0):
        middle = (low + high) / 2
        halfway = correspondence.to_blank(place(middle)).points
        to_low = np.linalg.norm(halfway - low_blank, axis=1)
        to_high = np.linalg.norm(halfway - high_blank, axis=1)
        up = to_low <= to_high  # nearer to the lower end: the jump is beyond
        low, high = np.where(up, middle, low), np.where(up, high, middle)
        low_blank = np.where(up[:, None], halfway, low_blank)
        high_blank = np.where(up[:, None], high_blank, halfway)
    jumps = np.linalg.norm(high_blank - low_blank, axis=1) > JUMP
    where = mine[jumps]
    before, after = place(low)[jumps], place(high)[jumps]
    here, there = correspondence.to_blank(before), correspondence.to_blank(after)
    here = Located(low_blank[jumps], here.face, here.inside, here.gap)
    there = Located(high_blank[jumps], there.face, there.inside, there.gap)
    return where, (before, here), (after, there)
