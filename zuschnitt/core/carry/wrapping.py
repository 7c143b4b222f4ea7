"""Curves from the blank onto the form.

A contour is carried at places along it, and between them until chords and smooth curves through them stay near what
they stand for. Where the face changes, the place is found by bisection; where the form goes on elsewhere, the curve is
divided.
"""

from __future__ import annotations

import itertools
from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from ..correspondence import Correspondence, Located
from ..geometry.curves import Array, Spline
from ..geometry.smooth import length_through, smooth_through
from ..plane.contour import Contour
from ..progress import SILENT, Progress
from ..record import record
from ..tolerances import CURVE
from .carried import CarriedCurve, part_name
from .path import Paths

LOOKED_AT = np.array([0.19, 0.31, 0.5, 0.69, 0.83])
"""Where along an interval it is compared with its chord: a wave may pass through the chord at its middle."""
LOOKED_AT_SHORT = np.array([0.31, 0.69])
SHARE = 1 / 64
"""Intervals are no longer than this part of the blank's diagonal."""
ROOM = 1e-4
"""Intervals shorter than this are not divided any further, in mm."""
ROUNDS = 24
HALVINGS = 40
OUTSIDE = 20.0
"""What lies off the blank may stray so many times as far: it is only drawn."""
TORN = 10.0
"""An interval without room belongs to two places when it is so many times as long on the form as on the blank."""
TORN_APART = 1e-3
"""And by more than this, in mm."""
ALONG = np.linspace(0.1, 0.9, 9)
"""Where a smooth curve is looked at between two of its points."""


@record
class Places:
    """Places along contours, in order: ``span`` (n,) and ``part`` (n,) of it, and where they are on both sides.

    ``sharp`` (n,): the curve is not smooth here; ``torn`` (n,): the form goes on elsewhere after this place;
    ``twin`` (n,): it and the next one stand for one place at which the face changes; ``done`` (n,): the interval after
    it needs no more places.
    """

    span: np.ndarray
    part: Array
    blank: Array
    form: Array
    inside: np.ndarray
    face: np.ndarray
    sharp: np.ndarray
    torn: np.ndarray
    twin: np.ndarray
    done: np.ndarray

    def with_more(self, where: np.ndarray, more: Places) -> Places:
        """With ``more`` put in before the indices ``where``."""
        names = self.__dataclass_fields__
        return Places(**{n: np.insert(getattr(self, n), where, getattr(more, n), axis=0) for n in names})

    def part_at(self, interval: np.ndarray, along: Array) -> tuple[np.ndarray, Array]:
        """Span and part of it, ``along`` (n,) of the way through intervals (n,)."""
        a, b = self.part[interval], self.part[interval + 1]
        b = np.where(self.span[interval] == self.span[interval + 1], b, 1.0)
        return self.span[interval], a + along * (b - a)


def wrap(
    correspondence: Correspondence,
    contours: Sequence[Contour],
    tolerance: float = CURVE,
    progress: Progress = SILENT,
) -> tuple[CarriedCurve, ...]:
    """The contours on the form: points so dense that chords, and smooth curves through them, stay within ``tolerance``.

    ``tolerance`` is in mm. What lies outside the blank is carried on the continued surface and marked as not inside. A
    contour that the form tears apart becomes several curves, in their order.
    """
    contours = [c for c in contours if len(c.points) and np.ptp(c.points, axis=0).max() > 0]
    if not contours:
        return ()
    wrapping = _Wrapping(correspondence, contours, tolerance, progress)
    places = wrapping.refined(wrapping.begun())
    places = wrapping.smooth(places)
    return wrapping.curves(places)


def places_along(
    correspondence: Correspondence, contours: Sequence[Contour], tolerance: float = CURVE, progress: Progress = SILENT
) -> Places:
    """Places along contours that have length, so dense that chords stay within ``tolerance`` mm of the form."""
    wrapping = _Wrapping(correspondence, contours, tolerance, progress)
    return wrapping.refined(wrapping.begun())


class _Wrapping:
    """One call: the contours as paths, and what they are carried by."""

    def __init__(
        self, correspondence: Correspondence, contours: Sequence[Contour], tolerance: float, progress: Progress
    ) -> None:
        self.correspondence, self.contours, self.tolerance = correspondence, contours, tolerance
        self.paths = Paths.of(contours)
        self.lengths = self.paths.lengths
        self.longest = SHARE * correspondence.size
        self.progress = progress

    def _carried(self, span: np.ndarray, part: Array) -> tuple[Array, Located]:
        blank = self.paths.at(span, part)
        return blank, self.correspondence.to_form(blank)

    def _made(self, span: np.ndarray, part: Array, sharp: np.ndarray, done: np.ndarray) -> Places:
        blank, at = self._carried(span, part)
        no = np.zeros(len(span), bool)
        return Places(span, part, blank, at.points, at.inside, at.face, sharp, no, no, done)

    def begun(self) -> Places:
        """Evenly spread over each span where it passes the blank, with one place more at the end of each contour."""
        sweep = 4 * np.arctan(np.abs(self.paths.bulge))
        low, high = self._passing()
        even = np.maximum(np.ceil((high - low) * self.lengths / self.longest), np.ceil(sweep / (np.pi / 8))).astype(int)
        even = np.where(high > low, np.maximum(even, 1), 0)
        # before it comes to the blank, while it passes, and after
        counts = np.stack([(low > 0) | (even == 0), even, (high < 1) & (even > 0)], axis=1).astype(int)
        starts, ends = np.stack([0 * low, low, high], axis=1), np.stack([low, high, high + 0 * low], axis=1)
        count = counts.sum(axis=1)
        each = counts.ravel()
        span = np.repeat(np.arange(len(count)), count)
        step = np.arange(len(span)) - np.repeat(np.cumsum(each) - each, each)
        share = step / np.repeat(np.maximum(each, 1), each)
        part = np.repeat(starts.ravel(), each) + share * np.repeat((ends - starts).ravel(), each)
        last = self.paths.first[1:] - 1  # the last span of each contour
        where = np.cumsum(count)[last]
        span, part = np.insert(span, where, last), np.insert(part, where, 1.0)
        sharp = (part == 1) | ((part == 0) & self.paths.corner[span])
        return self._made(span, part, sharp, part == 1)

    def _passing(self) -> tuple[Array, Array]:
        """From which part of its way to which each span (s,) passes the box round the blank; both 0 where it does not.

        Arcs, and all spans where the form closes on itself, count as passing all the time.
        """
        start, way = self.paths.start, self.paths.end - self.paths.start
        low, high = np.zeros(len(start)), np.ones(len(start))
        if self.correspondence.goes_round:
            return low, high
        least, most = (
            corner + side * self.longest for corner, side in zip(self.correspondence.box, (-1, 1), strict=True)
        )
        with np.errstate(divide="ignore", invalid="ignore"):
            met = np.stack([(least - start) / way, (most - start) / way])
        for axis in (0, 1):
            still = np.abs(way[:, axis]) < 1e-12
            beside = still & ((start[:, axis] < least[axis]) | (start[:, axis] > most[axis]))
            first, second = np.sort(met[:, :, axis], axis=0)
            low = np.maximum(low, np.where(still, 0.0, first))
            high = np.minimum(high, np.where(still, np.where(beside, -1.0, 1.0), second))
        straight = self.paths.bulge == 0
        missed = straight & (high <= low)
        low, high = np.where(straight, low, 0.0), np.where(straight, high, 1.0)
        return np.where(missed, 0.0, low), np.where(missed, 0.0, high)

    def refined(self, places: Places) -> Places:
        """With places where faces change, and so many that chords stay within the tolerance."""
        for _ in range(ROUNDS):
            self.progress.step(0.3, "carrying curves")
            places = self._with_changes(places)
            todo = np.nonzero(~places.done)[0]
            if not len(todo):
                break
            room = self._room(places, todo)
            bad = np.zeros(len(todo), bool)
            long = room > self.longest / 4
            for mine, looked in ((long, LOOKED_AT), (~long, LOOKED_AT_SHORT)):
                chosen = np.nonzero(mine & (room > ROOM))[0]
                bad[chosen] = self._strays(places, todo[chosen], looked)
            done, torn = places.done.copy(), places.torn.copy()
            done[todo[~bad]] = True
            crowded = todo[room <= ROOM]
            gap = np.linalg.norm(places.form[crowded + 1] - places.form[crowded], axis=1)
            torn[crowded] = gap > TORN * self._room(places, crowded) + TORN_APART
            places = self._halved(replace(places, done=done, torn=torn), todo[bad])
        return _without_twins(places)

    def _room(self, places: Places, interval: np.ndarray) -> Array:
        """How long intervals are on the blank, in mm."""
        span, after = places.part_at(interval, np.ones(len(interval)))
        return self.lengths[span] * (after - places.part[interval])

    def _strays(self, places: Places, interval: np.ndarray, looked: Array) -> np.ndarray:
        """Whether intervals leave their chords on the form, or cross another face."""
        if not len(interval):
            return np.zeros(0, bool)
        span, part = places.part_at(np.repeat(interval, len(looked)), np.tile(looked, len(interval)))
        _, at = self._carried(span, part)
        start, end = places.form[interval], places.form[interval + 1]
        points = at.points.reshape(len(interval), len(looked), 3)
        off = _distance_to_spans(points, start[:, None], end[:, None])
        other = (at.face.reshape(points.shape[:2]) != places.face[interval][:, None]) | (
            at.inside.reshape(points.shape[:2]) != places.inside[interval][:, None]
        )
        outside = ~places.inside[interval] & ~places.inside[interval + 1]
        allowed = 0.85 * self.tolerance * np.where(outside, OUTSIDE, 1.0)
        return (off > allowed[:, None]).any(axis=1) | other.any(axis=1)

    def _halved(self, places: Places, interval: np.ndarray) -> Places:
        """With a place in the middle of each interval; both halves are looked at again."""
        if not len(interval):
            return places
        span, part = places.part_at(interval, np.full(len(interval), 0.5))
        none = np.zeros(len(interval), bool)
        done = places.done.copy()
        done[interval] = False
        return replace(places, done=done).with_more(interval + 1, self._made(span, part, none, none))

    def _with_changes(self, places: Places) -> Places:
        """With the places where the face changes, or the blank ends, in intervals whose ends differ in that."""
        differs = (places.face[:-1] != places.face[1:]) | (places.inside[:-1] != places.inside[1:])
        interval = np.nonzero(differs & ~places.done[:-1])[0]
        if not len(interval):
            return places
        low, high = np.zeros(len(interval)), np.ones(len(interval))
        for _ in range(HALVINGS):
            middle = (low + high) / 2
            _, at = self._carried(*places.part_at(interval, middle))
            here = (at.face == places.face[interval]) & (at.inside == places.inside[interval])
            low, high = np.where(here, middle, low), np.where(here, high, middle)
        sharp, done = np.ones(len(interval), bool), np.ones(len(interval), bool)
        before = self._made(*places.part_at(interval, low), sharp, done)
        after = self._made(*places.part_at(interval, high), sharp, ~done)
        gap = np.linalg.norm(after.form - before.form, axis=1)
        torn = gap > np.where(before.inside & after.inside, self.correspondence.slack, TORN_APART)
        before = replace(before, torn=torn, twin=~torn)
        both = Places(**{n: np.stack([getattr(before, n), getattr(after, n)], 1).reshape(
            2 * len(interval), *getattr(before, n).shape[1:]) for n in before.__dataclass_fields__})  # fmt: skip
        return places.with_more(np.repeat(interval + 1, 2), both)

    def smooth(self, places: Places) -> Places:
        """With so many places that smooth curves from corner to corner stay within the tolerance, too.

        Where the contour itself is not smooth there, its points become corners instead.
        """
        waiting = np.unique(self.paths.owner[places.span[places.inside]])
        for _ in range(ROUNDS):
            self.progress.step(0.6, "carrying curves")
            bad = self._loose(places, waiting)
            if not len(bad):
                break
            waiting = np.unique(self.paths.owner[places.span[bad]])
            kinked = self._kinked(places)
            bent = kinked[bad] | kinked[bad + 1]
            stubborn = bent | (self._room(places, bad) <= 10 * ROOM)
            sharp = places.sharp.copy()
            sharp[bad[stubborn]] |= kinked[bad[stubborn]] | ~bent[stubborn]
            sharp[bad[stubborn] + 1] |= kinked[bad[stubborn] + 1] | ~bent[stubborn]
            places = self._halved(replace(places, sharp=sharp), bad[~stubborn])
        return places

    def _kinked(self, places: Places) -> np.ndarray:
        """Which places (n,) are points at which the contour turns, however little, and is not yet taken for sharp."""
        return (places.part == 0) & self.paths.kinked[places.span] & ~places.sharp

    def _loose(self, places: Places, contours: np.ndarray) -> np.ndarray:
        """The intervals of ``contours`` at which the smooth curve leaves what it stands for."""
        first, last = _runs(places)
        mine = np.isin(self.paths.owner[places.span[first]], contours) & (last - first > 1)
        if not mine.any():
            return np.zeros(0, int)
        intervals, drawn = [], []
        for a, b in zip(first[mine].tolist(), last[mine].tolist(), strict=True):
            points = places.form[a : b + 1]
            curve = smooth_through(points)
            if not isinstance(curve, Spline):
                continue
            t = np.r_[0, np.cumsum(np.linalg.norm(np.diff(points, axis=0), axis=1))]
            inner = (t[:-1, None] + np.diff(t)[:, None] * ALONG).ravel()
            between = curve.evaluate(inner).reshape(len(points) - 1, len(ALONG), 3)
            drawn.append(np.concatenate([points[:-1, None], between, points[1:, None]], axis=1))
            intervals.append(np.arange(a, b))
        if not intervals:
            return np.zeros(0, int)
        interval, lines = np.concatenate(intervals), np.concatenate(drawn)
        span, part = places.part_at(np.repeat(interval, 2), np.tile([0.29, 0.62], len(interval)))
        _, at = self._carried(span, part)
        true = at.points.reshape(len(interval), 2, 1, 3)
        off = _distance_to_spans(true, lines[:, None, :-1], lines[:, None, 1:]).min(axis=2).max(axis=1)
        kinked = self._kinked(places)
        allowed = np.where(kinked[interval] | kinked[interval + 1], 1.0, 0.5) * self.tolerance
        return interval[off > allowed]

    def curves(self, places: Places) -> tuple[CarriedCurve, ...]:
        """One curve for each contour, or one for each part of it."""
        found = []
        owner = self.paths.owner[places.span]
        reached = np.cumsum(self.lengths) - self.lengths
        so_far = reached[places.span] + self.lengths[places.span] * places.part
        first = np.searchsorted(owner, np.arange(len(self.contours) + 1))
        for i, (contour, a, b) in enumerate(zip(self.contours, first[:-1], first[1:], strict=True)):
            ends = [a, *(np.nonzero(places.torn[a : b - 1])[0] + a + 1), b]
            name = contour.name or f"curve {i + 1}"
            pieces = [(c, d) for c, d in itertools.pairwise(ends) if d - c > 1]
            for k, (c, d) in enumerate(pieces, 1):
                part = k if len(pieces) > 1 else 0
                sharp = places.sharp[c:d].copy()
                sharp[[0, -1]] = True
                whole = contour.closed and not part
                found.append(CarriedCurve(
                    part_name(name, part), contour.layer, whole, places.form[c:d], places.blank[c:d],
                    places.inside[c:d], places.face[c:d], np.nonzero(sharp)[0],
                    self._length(places, slice(c, d), sharp, np.diff(so_far[c:d])), part,
                ))  # fmt: skip
        return tuple(found)

    def _length(self, places: Places, which: slice, sharp: np.ndarray, steps: Array) -> float:
        """How long a run of places is on the blank, in mm: ``steps`` (n - 1,) along its spans, but smooth rows of
        straight ones, which stand for a curve, along the smooth curve through their points."""
        arc = self.paths.bulge[places.span[which][:-1]] != 0
        corners = np.nonzero(sharp | np.r_[True, arc[1:] != arc[:-1], True])[0]
        blank = places.blank[which]
        rows = np.nonzero((np.diff(corners) > 1) & ~arc[corners[:-1]])[0]
        length = float(steps.sum())
        for a, b in zip(corners[rows].tolist(), corners[rows + 1].tolist(), strict=True):
            length += length_through(blank[a : b + 1], np.array([0, b - a])) - float(steps[a:b].sum())
        return length


def _runs(places: Places) -> tuple[np.ndarray, np.ndarray]:
    """First and last place of each smooth run."""
    ends = places.part == 1
    ends |= places.torn
    begins = np.r_[True, ends[:-1]]
    return np.nonzero(begins | (places.sharp & ~ends))[0], np.nonzero(ends | (places.sharp & ~begins))[0]


def _distance_to_spans(points: Array, start: Array, end: Array) -> Array:
    """Distances of points (…, 3) to straight spans, by broadcasting."""
    along = end - start
    size = np.maximum((along**2).sum(axis=-1), 1e-300)
    part = np.clip(((points - start) * along).sum(axis=-1) / size, 0, 1)
    return np.linalg.norm(points - start - part[..., None] * along, axis=-1)


def _without_twins(places: Places) -> Places:
    """Without the second of two places that stand for one at which the face changes."""
    second = np.r_[False, places.twin[:-1]]
    inside = places.inside | np.r_[places.twin[:-1] & places.inside[1:], False]
    kept = replace(places, inside=inside, done=places.done & ~places.twin, twin=np.zeros(len(second), bool))
    return Places(**{n: getattr(kept, n)[~second] for n in places.__dataclass_fields__})
