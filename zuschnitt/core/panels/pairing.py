"""Which points of two curves a ruling joins: the pairing that bends least over the whole panel.

A strip of triangles between the curves is sought by dynamic programming: of all ways to walk along both
curves at once, the one whose triangles turn least against each other (as Fuchs, Kedem and Uselton,
Optimal surface reconstruction from planar contours, 1977, with bending for area). Then each ruling is
moved until the tangents at its ends and itself lie in one plane, which makes the panel developable.
"""

from __future__ import annotations

from collections.abc import Callable
from itertools import pairwise

import numpy as np

from ..geometry.curves import Array
from ..geometry.tracks import Track
from ..record import record

COARSE, FINE = 48, 144
"""Samples along a curve for finding the start, and for the pairing."""
STANDING = 8
"""A walk stands still at an end when it takes more steps than this along the other curve there."""
FACING = 0.5
"""Closed curves that face each other more than this (a cosine) are joined so that they run round alike."""
STARTS = 16
"""Places on a closed second curve that are tried as its start."""
STIFF = 0.15
"""Weight of the bending of a pairing that has no developable to follow."""
LENGTH = 2e-4
"""Weight of the rulings' length, against turning in radians squared: it decides where nothing else does."""


@record
class Pairing:
    """``first`` (n,) and ``second`` (n,): parameters joined by rulings, rising; ``parts`` (n, 2) of the tracks.

    ``breaks`` are indices at which the panel may have a crease, ends included; ``bending`` is what was minimised.
    """

    first: Array
    second: Array
    parts: np.ndarray
    breaks: tuple[int, ...]
    bending: float


def twist(a: Track, b: Track, u: Array, v: Array, part_a=None, part_b=None) -> Array:
    """How far rulings are from lying in one plane with the tangents at both ends: a determinant, signed (n,)."""
    r = b.at(v, part_b) - a.at(u, part_a)
    r = r / np.maximum(np.linalg.norm(r, axis=1, keepdims=True), 1e-300)
    return (np.cross(a.tangent(u, part_a), b.tangent(v, part_b)) * r).sum(axis=1)


def walk(a: Track, b: Track, samples: int) -> tuple[Array, Array, float]:
    """Parameters (k,), (k,) of the strip that bends least, one step along one curve at a time, and its bending."""
    u, v = _ticks(a, samples), _ticks(b, samples)
    p, q = a.at(u), b.at(v)
    n, m = len(u), len(v)
    scale = max(a.length, b.length)
    # normals of the triangles that a step along the first, or along the second curve makes
    step_p, step_q = np.diff(p, axis=0), np.diff(q, axis=0)
    along_p = _unit(np.cross(step_p[:, None], q[None] - p[:-1, None]))  # (n - 1, m)
    along_q = _unit(np.cross(step_q[None], p[:, None] - q[None, :-1]) * -1)  # (n, m - 1)
    length = LENGTH * np.linalg.norm(q[None] - p[:, None], axis=2) ** 2 / scale**2
    length *= samples / 48
    best = np.full((2, n, m), np.inf)  # by the last step: 0 along the first, 1 along the second curve
    came = np.zeros((2, n, m), np.int8)
    best[:, 0, 0] = 0
    for total in range(1, n + m - 1):
        i = np.arange(max(0, total - m + 1), min(n - 1, total) + 1)
        j = total - i
        for step in (0, 1):
            ok = (i > 0) if step == 0 else (j > 0)
            ii, jj = i[ok], j[ok]
            i0, j0 = (ii - 1, jj) if step == 0 else (ii, jj - 1)
            normal = along_p[i0, jj] if step == 0 else along_q[ii, j0]
            options = []
            for last in (0, 1):
                has = (i0 > 0) if last == 0 else (j0 > 0)
                before = np.zeros_like(normal)
                if last == 0:
                    before[has] = along_p[i0[has] - 1, j0[has]]
                else:
                    before[has] = along_q[i0[has], j0[has] - 1]
                turn = 2 - 2 * (before * normal).sum(axis=1)
                first = (i0 == 0) & (j0 == 0)
                cost = np.where(has, best[last, i0, j0] + turn, np.inf)
                options.append(np.where(first, 0.0, cost))
            choice = (options[1] < options[0]).astype(np.int8)
            best[step, ii, jj] = np.minimum(options[0], options[1]) + length[ii, jj]
            came[step, ii, jj] = choice
    bending = float(best[:, -1, -1].min())
    path = [(n - 1, m - 1)]
    way = int(best[1, -1, -1] < best[0, -1, -1])
    while path[-1] != (0, 0):
        at, up = path[-1]
        path.append((at - 1, up) if way == 0 else (at, up - 1))
        way = int(came[way, at, up])
    index = np.array(path[::-1])
    return u[index[:, 0]], v[index[:, 1]], bending


def _ticks(a: Track, samples: int) -> Array:
    """Even parameters with all corners among them."""
    parts = [np.linspace(lo, hi, max(2, round((hi - lo) * samples)) + 1)[:-1] for lo, hi in pairwise(a.breaks)]
    return np.r_[np.concatenate(parts), 1.0]


def _unit(vectors: Array) -> Array:
    return vectors / np.maximum(np.linalg.norm(vectors, axis=-1, keepdims=True), 1e-300)


def aligned(a: Track, b: Track) -> tuple[Track, Track, bool]:
    """The curves made to run the same way round, closed ones begun opposite each other; and whether one was turned."""
    if a.closed and len(a.breaks) > 2:
        a = a.starting_at(float(a.breaks[1]))
    options = []
    senses = [(False, b), (True, b.reversed())]
    facing = _facing(a, b) if a.closed and b.closed else 0.0
    if abs(facing) > FACING:  # run against each other, they would be joined through a point between them
        senses = senses[:1] if facing > 0 else senses[1:]
    for turned, other in senses:
        if not other.closed:
            options.append((walk(a, other, COARSE)[2], turned, other))
            continue
        for start in _starts(a, other):
            begun = other.starting_at(float(start))
            options.append((walk(a, begun, COARSE)[2], turned, begun))
    _, turned, b = min(options, key=lambda option: option[0])
    return a, b, turned


def _facing(a: Track, b: Track) -> float:
    """The cosine between the directions that two closed curves run round: those of their vector areas."""
    s = np.linspace(0, 1, 241)
    areas = [np.cross(p[:-1] - p.mean(axis=0), np.diff(p, axis=0)).sum(axis=0) for p in (a.at(s), b.at(s))]
    return float(_unit(areas[0]) @ _unit(areas[1]))


def _starts(a: Track, b: Track) -> Array:
    """Where a closed second curve may begin: where the ruling from the start of the first has no twist."""
    s = np.arange(240) / 240

    def value(v: Array) -> Array:
        return twist(a, b, np.zeros(len(v)), v % 1.0, None, b.part_of(v % 1.0))

    found = value(s)
    k = np.nonzero(found * np.roll(found, -1) < 0)[0]
    low, high = s[k], s[k] + 1 / 240
    for _ in range(50):
        middle = (low + high) / 2
        same = value(middle) * found[k] > 0
        low, high = np.where(same, middle, low), np.where(same, high, middle)
    starts = np.r_[(low + high) / 2, s[found == 0], b.breaks[:-1] if len(b.breaks) > 2 else []]
    return np.unique(starts % 1.0)[:24] if len(starts) else np.arange(STARTS) / STARTS


def paired(a: Track, b: Track, fans: bool = True, per_part: int = 25) -> Pairing:
    """The rulings between two curves that were ``aligned``; ``fans`` allows rulings to spread from an open end."""
    u, v, bending = walk(a, b, FINE)
    knots = _knots(a, b, u, v, fans)
    first: list[Array] = []
    second: list[Array] = []
    parts: list[np.ndarray] = []
    breaks = [0]
    for (u0, v0), (u1, v1) in pairwise(knots):
        count = max(6, int(per_part * min(4.0, 1 + 12 * max(u1 - u0, v1 - v0))))
        fu, fv = _stretch(a, b, u, v, (u0, v0), (u1, v1), count)
        part = np.array([a.part_of(np.array([(u0 + u1) / 2]))[0], b.part_of(np.array([(v0 + v1) / 2]))[0]])
        skip = 1 if first else 0
        first.append(fu[skip:])
        second.append(fv[skip:])
        parts.append(np.tile(part, (len(fu) - skip, 1)))
        breaks.append(breaks[-1] + len(fu) - 1)
    return Pairing(np.concatenate(first), np.concatenate(second), np.vstack(parts), tuple(breaks), bending)


def _knots(a: Track, b: Track, u: Array, v: Array, fans: bool = True) -> list[tuple[float, float]]:
    """Where the walk enters and leaves the corners of either curve, exactly where the twist vanishes there."""
    found = {(0.0, 0.0), (1.0, 1.0)}
    for one, other, x, y, swap in ((a, b, u, v, False), (b, a, v, u, True)):
        for k, corner in enumerate(one.breaks):
            if one.closed and k in (0, len(one.breaks) - 1) and not one.corner_at_start:
                continue
            at = _stands(one, x, y, k)
            low, high = float(at.min()), float(at.max())
            cell = 2.5 / FINE
            if k > 0:
                low = _vanishing(one, other, float(corner), k - 1, low, cell) if low > 0 else low
            if k < len(one.breaks) - 1:
                high = _vanishing(one, other, float(corner), k, high, cell) if high < 1 else high
            if k == 0:
                low = 0.0
            if k == len(one.breaks) - 1:
                high = 1.0
            # an end is no corner: a fan there must run smoothly on, or there is none
            if not one.closed and k == 0 and not (fans and high > 0 and _runs_on(one, other, corner, k, high)):
                high = 0.0
            last = k == len(one.breaks) - 1
            if not one.closed and last and not (fans and low < 1 and _runs_on(one, other, corner, k - 1, low)):
                low = 1.0
            if high - low < 1e-9:
                low = high = (low + high) / 2
            for value in {low, high}:
                found.add((value, float(corner)) if swap else (float(corner), value))
    # the walk rises along both curves: what does not fit into it is dropped
    ordered = sorted(found, key=lambda pair: (pair[0] + pair[1], pair[0]))
    kept = [ordered[0]]
    for pair in ordered[1:]:
        if pair[0] >= kept[-1][0] - 1e-9 and pair[1] >= kept[-1][1] - 1e-9 and sum(pair) > sum(kept[-1]) + 1e-7:
            kept.append((max(pair[0], kept[-1][0]), max(pair[1], kept[-1][1])))
    if kept[-1] != (1.0, 1.0):
        kept[-1] = (1.0, 1.0)
    return kept


def _stands(one: Track, x: Array, y: Array, k: int) -> Array:
    """The parameters on the other curve over which the walk stands at corner ``k`` of ``one``.

    At an open end a walk may take a step before it stands still, since its first triangle is free to lie as it likes.
    """
    corner = one.breaks[k]
    at = y[np.abs(x - corner) < 1e-9]
    if not one.closed and k in (0, len(one.breaks) - 1):
        near = y[np.abs(x - corner) < 1.5 / FINE]
        if np.ptp(near) - np.ptp(at) > STANDING / FINE:
            return near
    return at


def _runs_on(one: Track, other: Track, corner: float, part: int, at: float) -> bool:
    return bool(abs(twist(one, other, np.array([corner]), np.array([at]), np.array([part]))[0]) < 1e-6)


def _vanishing(one: Track, other: Track, corner: float, part: int, near: float, reach: float) -> float:
    """The parameter on ``other``, near ``near``, at which a ruling from a corner has no twist with its ``part``."""
    tries = np.unique(np.r_[np.clip(near + np.linspace(-reach, reach, 41), 0, 1), near])
    values = twist(one, other, np.full(len(tries), corner), tries, np.full(len(tries), part))
    nothing = np.abs(values) < 1e-9
    if nothing.any():
        return float(tries[nothing][np.abs(tries[nothing] - near).argmin()])
    change = np.nonzero(values[:-1] * values[1:] <= 0)[0]
    if not len(change):
        return near
    k = change[np.abs(tries[change] - near).argmin()]
    lo, hi = float(tries[k]), float(tries[k + 1])
    for _ in range(60):
        middle = (lo + hi) / 2
        value = twist(one, other, np.array([corner]), np.array([middle]), np.array([part]))[0]
        if value * values[k] > 0:
            lo = middle
        else:
            hi = middle
    return (lo + hi) / 2


def _stretch(a: Track, b: Track, u: Array, v: Array, start, end, count: int) -> tuple[Array, Array]:
    """Rulings from one break to the next: at a corner a fan, elsewhere where the twist vanishes."""
    (u0, v0), (u1, v1) = start, end
    share = (1 - np.cos(np.pi * np.arange(count) / (count - 1))) / 2
    if u1 - u0 < 1e-9 or v1 - v0 < 1e-9:
        return u0 + share * (u1 - u0), v0 + share * (v1 - v0)
    s = u0 + v0 + share * (u1 + v1 - u0 - v0)
    # the walk, smoothed over a few steps, as the first guess
    inside = (u >= u0 - 1e-9) & (u <= u1 + 1e-9) & (v >= v0 - 1e-9) & (v <= v1 + 1e-9)
    path_u, path_v = np.r_[u0, u[inside], u1], np.r_[v0, v[inside], v1]
    total, order = np.unique(path_u + path_v, return_index=True)
    difference = _smoothed((path_u - path_v)[order])
    guess = np.interp(s, total, difference)
    part_a = np.full(count, a.part_of(np.array([(u0 + u1) / 2]))[0])
    part_b = np.full(count, b.part_of(np.array([(v0 + v1) / 2]))[0])

    def ends(d: Array) -> tuple[Array, Array]:
        return np.clip((s + d) / 2, u0, u1), np.clip((s - d) / 2, v0, v1)

    def twisted(d: Array) -> Array:
        return twist(a, b, *ends(d), part_a, part_b)

    reach = 0.08 * min(u1 - u0, v1 - v0) + 2.0 / FINE
    # curves that are much alike leave the walk a wide choice: then both are also tried at an even pace
    for near in (guess, np.interp(s, s[[0, -1]], [u0 - v0, u1 - v1])):
        solved, good = _without_twist(near, reach, twisted)
        if good.mean() > 0.9:
            fu, fv = ends(np.where(good, solved, np.interp(s, s[good], solved[good])))
            break
    else:  # no developable strip here: the least twist, smoothly
        fu, fv = ends(_least_twist(s, guess, twisted))
    if (np.diff(fu) < -1e-9).any() or (np.diff(fv) < -1e-9).any():  # rulings would cross
        fu, fv = u0 + share * (u1 - u0), v0 + share * (v1 - v0)
    fu[[0, -1]], fv[[0, -1]] = (u0, u1), (v0, v1)
    fu, fv = np.maximum.accumulate(fu), np.maximum.accumulate(fv)
    moves = np.r_[True, np.diff(fu + fv) > 1e-9 * (u1 + v1 - u0 - v0)]
    moves[-1] = True
    if len(fu) > 2 and fu[-1] + fv[-1] - (fu + fv)[moves][-2] < 1e-9:
        moves[np.nonzero(moves)[0][-2]] = False
    return fu[moves], fv[moves]


def _without_twist(guess: Array, reach: float, twisted: Callable[[Array], Array]) -> tuple[Array, np.ndarray]:
    """The differences (n,) near ``guess`` at which the twist vanishes (Newton), and which of them were found."""
    solved = guess.copy()
    for _ in range(30):
        h = 1e-6
        slope = (twisted(solved + h) - twisted(solved - h)) / (2 * h)
        step = twisted(solved) / np.where(np.abs(slope) < 1e-3, np.inf, slope)
        solved = solved - np.clip(step, -reach / 4, reach / 4)
        if np.abs(step).max() < 1e-13:
            break
    return solved, (np.abs(solved - guess) < reach) & (np.abs(twisted(solved)) < 1e-9)


def _least_twist(s: Array, guess: Array, value: Callable[[Array], Array]) -> Array:
    """The differences (n,) at which the sum of squared twists is least, without bending sharply (Gauss-Newton)."""
    n = len(s)
    x = (s - s[0]) / (s[-1] - s[0])
    chord = guess[0] + x * (guess[-1] - guess[0])
    modes = np.sin(np.pi * np.outer(x, np.arange(1, 9)))  # both ends stay
    weight = np.arange(1, 9) ** 2 * STIFF
    rising = 0.9 * (s[-1] - s[0])  # rulings do not cross while the difference changes less than this per x
    c = np.linalg.lstsq(np.vstack([modes, np.diag(weight)]), np.r_[guess - chord, np.zeros(8)], rcond=None)[0]
    best, least = np.zeros(8), np.inf
    if np.abs(np.gradient(chord + modes @ c, x)).max() > rising:
        c = np.zeros(8)
    for _ in range(30):
        d = chord + modes @ c
        f = value(d)
        cost = float((f**2).sum() + n / 25 * ((weight * c) ** 2).sum())
        crossing = np.abs(np.gradient(d, x)).max() > rising
        if cost < least and not crossing:
            best, least = c, cost
        h = 1e-6
        slope = (value(d + h) - value(d - h)) / (2 * h)
        matrix = np.vstack([slope[:, None] * modes, np.sqrt(n / 25) * np.diag(weight), 0.3 * np.eye(8)])
        step = np.linalg.lstsq(matrix, np.r_[-f, -np.sqrt(n / 25) * weight * c, np.zeros(8)], rcond=None)[0]
        c = c + step
        if np.abs(step).max() < 1e-9:
            break
    return chord + modes @ best


def _smoothed(values: Array) -> Array:
    """A running mean that keeps both ends."""
    width = min(9, (len(values) - 1) // 2 * 2 - 1)
    if width < 3:
        return values
    half = width // 2
    padded = np.r_[2 * values[0] - values[half:0:-1], values, 2 * values[-1] - values[-2 : -half - 2 : -1]]
    return np.convolve(padded, np.ones(width) / width, "valid")
