"""Artwork made lighter: lines and arcs in place of tiny segments, gaps closed, doubles and specks left out."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import replace

import numpy as np

from ..geometry.curves import Array
from ..record import record
from .contour import Contour
from .doubles import each_once

FEW = 3
"""An arc stands for so many segments at least."""
WIDEST = np.radians(270)
"""No arc turns by more than this: a bulge says wider ones poorly."""


@record
class Thinned:
    """What is left, and how much there was: segments and contours before and after; what was left out, by why."""

    contours: tuple[Contour, ...]
    segments: tuple[int, int]
    doubles: int
    specks: int
    joined: int
    opened: int


def thinned(
    contours: Sequence[Contour], tolerance: float, gaps: float = 0.0, smallest: float = 0.0, closed_only: bool = False
) -> Thinned:
    """Contours that stay within ``tolerance`` mm of those given.

    Ends nearer to each other than ``gaps`` mm are joined, what is smaller than ``smallest`` mm is left out, and so are
    doubles and, with ``closed_only``, what stays open.
    """
    before = segment_count(*contours)
    single = each_once(contours)
    joined = _joined(single, gaps)
    large = [c for c in joined if not smallest or float(np.linalg.norm(np.subtract(*c.bounds))) >= smallest]
    kept = [c for c in large if c.closed or not closed_only]
    light = tuple(lighter(contour, tolerance) for contour in kept)
    after = segment_count(*light)
    counts = len(contours) - len(single), len(joined) - len(large), len(single) - len(joined), len(large) - len(kept)
    return Thinned(light, (before, after), *counts)


def segment_count(*contours: Contour) -> int:
    """How many lines and arcs contours have in all."""
    return sum(len(contour.spans[0]) for contour in contours)


def _joined(contours: Sequence[Contour], gap: float) -> list[Contour]:
    """Open contours whose ends come within ``gap`` of each other made one, the nearest ends first."""
    from scipy.spatial import cKDTree

    closed = [contour for contour in contours if contour.closed]
    chains: dict[int, Contour] = dict(enumerate(contour for contour in contours if not contour.closed))
    if not chains or gap <= 0:
        return list(contours)
    ends = np.array([point for contour in chains.values() for point in (contour.points[0], contour.points[-1])])
    pairs = cKDTree(ends).query_pairs(gap, output_type="ndarray")
    apart = np.linalg.norm(ends[pairs[:, 0]] - ends[pairs[:, 1]], axis=1)
    used = np.zeros(len(ends), bool)
    chain_of = {end: end // 2 for end in range(len(ends))}
    tips = {k: [2 * k, 2 * k + 1] for k in chains}
    for a, b in pairs[np.argsort(apart, kind="stable")].tolist():
        if used[a] or used[b]:
            continue
        one, other = chain_of[a], chain_of[b]
        used[a] = used[b] = True
        if one == other:
            chains[one] = _closed(chains[one])
            continue
        first = chains[one] if tips[one][1] == a else chains[one].reversed()
        start = tips[one][0] if tips[one][1] == a else tips[one][1]
        second = chains[other] if tips[other][0] == b else chains[other].reversed()
        end = tips[other][1] if tips[other][0] == b else tips[other][0]
        middle = (first.points[-1] + second.points[0]) / 2
        points = np.vstack([first.points[:-1], middle, second.points[1:]])
        bulges = np.concatenate([first.bulges[:-1], second.bulges])
        chains[one] = replace(first, points=points, bulges=bulges)
        del chains[other], tips[other]
        tips[one] = [start, end]
        chain_of[start] = chain_of[end] = one
    return [*closed, *chains.values()]


def _closed(contour: Contour) -> Contour:
    """An open contour whose ends meet, made closed."""
    middle = (contour.points[0] + contour.points[-1]) / 2
    points = np.vstack([middle, contour.points[1:-1]])
    return replace(contour, points=points, bulges=contour.bulges[:-1], closed=True)


def lighter(contour: Contour, tolerance: float) -> Contour:
    """Runs of straight segments become lines and arcs; arcs stay as they are."""
    start, end, bulge = contour.spans
    if contour.closed and len(start) > 2:
        turn = _sharpest(contour)
        start, end, bulge = (np.roll(values, -turn, axis=0) for values in (start, end, bulge))
    points: list[Array] = []
    bulges: list[float] = []
    k = 0
    while k < len(start):
        if bulge[k]:
            points.append(start[k])
            bulges.append(float(bulge[k]))
            k += 1
            continue
        stop = k + int(np.argmax(np.r_[bulge[k:], 1.0] != 0))
        run = np.vstack([start[k:stop], end[stop - 1 : stop]])
        for point, by in _fitted(run, tolerance):
            points.append(point)
            bulges.append(by)
        k = stop
    if not contour.closed:
        points.append(end[-1])
        bulges.append(0.0)
    made = replace(contour, points=np.array(points), bulges=np.array(bulges))
    fewer = segment_count(made) < segment_count(contour)
    return made if fewer and len(made.points) > (1 if contour.closed else 0) else contour


def _sharpest(contour: Contour) -> int:
    """The index of the point at which a closed contour turns most."""
    start, end, _ = contour.spans
    ahead = end - start
    back = np.roll(ahead, 1, axis=0)
    cross = back[:, 0] * ahead[:, 1] - back[:, 1] * ahead[:, 0]
    return int(np.abs(np.arctan2(cross, (back * ahead).sum(axis=1))).argmax())


def _fitted(run: Array, tolerance: float) -> list[tuple[Array, float]]:
    """Starts and bulges of the lines and arcs that stand for a polyline (n, 2), each as long as can be."""
    line = run[:, 0] + 1j * run[:, 1]  # as complex numbers, what is asked of pieces is quick
    found: list[tuple[Array, float]] = []
    k = 0
    while k < len(run) - 1:
        stop, by = _furthest(line, k, lambda piece: _line_fits(piece, tolerance), 1), 0.0
        # an arc that is not longer than the line is of no use
        arc = _furthest(line, k, lambda piece: _arc_through(piece, tolerance) is not None, max(FEW, stop - k + 1))
        if arc > stop:
            by, stop = _arc_through(line[k : arc + 1], tolerance) or 0.0, arc
        found.append((run[k], by))
        k = max(stop, k + 1)
    return found


def _furthest(line: np.ndarray, k: int, fits: Callable[[np.ndarray], bool], least: int) -> int:
    """The last index up to which a piece of the line from ``k`` fits, ``least`` spans long; ``k`` where none does.

    Found by doubling, then by halving.
    """
    reach = least
    if k + reach >= len(line) or not fits(line[k : k + reach + 1]):
        return k
    while k + 2 * reach < len(line) and fits(line[k : k + 2 * reach + 1]):
        reach *= 2
    low, high = k + reach, min(k + 2 * reach, len(line))
    while high - low > 1:
        middle = (low + high) // 2
        low, high = (middle, high) if fits(line[k : middle + 1]) else (low, middle)
    return low


def _line_fits(piece: np.ndarray, tolerance: float) -> bool:
    off = piece - piece[0]
    chord = off[-1]
    size = abs(chord)
    if size < 1e-12:
        return float(np.abs(off).max()) <= tolerance
    turned = off * (chord.conjugate() / size)
    along = turned.real
    beyond = along - np.minimum(np.maximum(along, 0.0), size)
    gap = np.hypot(turned.imag, beyond)
    return bool(gap.max() <= tolerance and (along[1:] - along[:-1]).min() >= -tolerance)


def _arc_through(piece: np.ndarray, tolerance: float) -> float | None:
    """The bulge of the arc from the first to the last point that stays within the tolerance; None where none does."""
    chord = piece[-1] - piece[0]
    size = abs(chord)
    if size < 1e-9:
        return None
    turned = (piece - (piece[0] + piece[-1]) / 2) * (chord.conjugate() / size)
    # of all circles through both ends the one nearest to the rest: centre at (0, c), by least squares
    inner = turned[1:-1]
    weight = 2 * inner.imag
    square = float(weight @ weight)
    if square < 1e-18:
        return None
    c = float(weight @ (inner.real**2 + inner.imag**2 - size**2 / 4)) / square
    radius = float(np.hypot(size / 2, c))
    about = turned - 1j * c
    if float(np.abs(np.abs(about) - radius).max()) > tolerance:
        return None
    turns = about[1:] * about[:-1].conjugate()
    if not ((turns.imag > 0).all() or (turns.imag < 0).all()):
        return None
    sweep = float(np.arctan2(turns.imag, turns.real).sum())
    if abs(sweep) > WIDEST:
        return None
    ahead = about[1:] - about[:-1]
    share = -(about[:-1] * ahead.conjugate()).real / np.maximum(ahead.real**2 + ahead.imag**2, 1e-300)
    nearest = np.abs(about[:-1] + np.minimum(np.maximum(share, 0.0), 1.0) * ahead)
    if radius - float(nearest.min()) > tolerance:
        return None
    return float(np.tan(sweep / 4))
