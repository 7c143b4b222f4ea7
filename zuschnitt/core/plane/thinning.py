"""Artwork made lighter: lines and arcs in place of tiny segments, gaps closed, doubles and specks left out."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from ..contour import Contour
from ..form.curves import Array

SAME = 1e-6
"""Contours whose points lie no further apart than this, in mm, are doubles."""
FEW = 3
"""An arc stands for so many segments at least."""
WIDEST = np.radians(270)
"""No arc turns by more than this: a bulge says wider ones poorly."""


@dataclass(frozen=True)
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
    single = _without_doubles(contours)
    joined = _joined(single, gaps)
    large = [c for c in joined if not smallest or float(np.linalg.norm(np.subtract(*c.bounds))) >= smallest]
    kept = [c for c in large if c.closed or not closed_only]
    light = tuple(_lighter(contour, tolerance) for contour in kept)
    after = segment_count(*light)
    counts = len(contours) - len(single), len(joined) - len(large), len(single) - len(joined), len(large) - len(kept)
    return Thinned(light, (before, after), *counts)


def segment_count(*contours: Contour) -> int:
    """How many lines and arcs contours have in all."""
    return sum(len(contour.spans[0]) for contour in contours)


def _without_doubles(contours: Sequence[Contour]) -> list[Contour]:
    """Each contour once, whichever way it runs and wherever it begins."""
    seen: set[tuple[bytes, ...]] = set()
    kept = []
    for contour in contours:
        start, end, bulge = contour.spans
        forward = np.column_stack([start, end, bulge])
        back = np.column_stack([end, start, -bulge])
        flip = (start > end).any(axis=1) & ((start[:, 0] > end[:, 0]) | (start[:, 0] == end[:, 0]))
        rows = np.round(np.where(flip[:, None], back, forward) / SAME).astype(np.int64)
        key = (rows[np.lexsort(rows.T)].tobytes(), contour.layer.encode())
        if key not in seen:
            seen.add(key)
            kept.append(contour)
    return kept


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


def _lighter(contour: Contour, tolerance: float) -> Contour:
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
    found: list[tuple[Array, float]] = []
    k = 0
    while k < len(run) - 1:
        line = _furthest(run, k, lambda piece: _line_fits(piece, tolerance))
        arc = _furthest(run, k, lambda piece: _arc_through(piece, tolerance) is not None, FEW)
        by = 0.0
        stop = line
        if arc > line:
            by, stop = _arc_through(run[k : arc + 1], tolerance) or 0.0, arc
        found.append((run[k], by))
        k = stop
    return found


def _furthest(run: Array, k: int, fits, least: int = 1) -> int:
    """The last index up to which a piece of the run from ``k`` fits; found by doubling, then by halving."""
    reach = least
    if k + reach >= len(run) or not fits(run[k : k + reach + 1]):
        return k + 1 if least == 1 else k
    while k + 2 * reach < len(run) and fits(run[k : k + 2 * reach + 1]):
        reach *= 2
    low, high = k + reach, min(k + 2 * reach, len(run))
    while high - low > 1:
        middle = (low + high) // 2
        low, high = (middle, high) if fits(run[k : middle + 1]) else (low, middle)
    return low


def _line_fits(piece: Array, tolerance: float) -> bool:
    chord = piece[-1] - piece[0]
    size = float(np.hypot(*chord))
    off = piece - piece[0]
    if size < 1e-12:
        return float(np.hypot(*off.T).max()) <= tolerance
    along = off @ chord / size
    across = (off[:, 0] * chord[1] - off[:, 1] * chord[0]) / size
    gap = np.hypot(across, along - np.clip(along, 0.0, size))
    return bool(gap.max() <= tolerance and (np.diff(along) >= -tolerance).all())


def _arc_through(piece: Array, tolerance: float) -> float | None:
    """The bulge of the arc from the first to the last point that stays within the tolerance; None where none does."""
    chord = piece[-1] - piece[0]
    size = float(np.hypot(*chord))
    if size < 1e-9:
        return None
    across = np.array([-chord[1], chord[0]]) / size
    off = piece - (piece[0] + piece[-1]) / 2
    x, y = off @ chord / size, off @ across
    inner = slice(1, -1)
    # of all circles through both ends the one nearest to the rest: centre at (0, c), by least squares
    weight = 2 * y[inner]
    if float(weight @ weight) < 1e-18:
        return None
    c = float(weight @ (x[inner] ** 2 + y[inner] ** 2 - size**2 / 4)) / float(weight @ weight)
    radius = float(np.hypot(size / 2, c))
    if (np.abs(np.hypot(x, y - c) - radius) > tolerance).any():
        return None
    angle = np.unwrap(np.arctan2(y - c, x))
    steps = np.diff(angle)
    sweep = float(angle[-1] - angle[0])
    if abs(sweep) > WIDEST or not ((steps > 0).all() or (steps < 0).all()):
        return None
    from_centre = np.column_stack([x, y - c])
    along = np.diff(from_centre, axis=0)
    share = np.clip(-(from_centre[:-1] * along).sum(axis=1) / np.maximum((along**2).sum(axis=1), 1e-300), 0, 1)
    nearest = np.hypot(*(from_centre[:-1] + share[:, None] * along).T)
    if float((radius - nearest).max()) > tolerance:
        return None
    return float(np.tan(sweep / 4))
