"""A panel between two curves: one smooth developable face where there is one, else the nearest."""

from __future__ import annotations

from itertools import pairwise

import numpy as np

from ..errors import CannotBeDone
from ..geometry.curves import Array
from ..geometry.ruled_flat import DEVELOPABLE, ruled_flat
from ..geometry.surfaces import SplineSurface
from ..geometry.tracks import Track
from ..record import record
from .pairing import aligned, paired

FOLDED = 90.0
"""A twist of so many degrees means that rulings cross."""


@record
class Panel:
    """``surface`` has v = 0 on the first curve; ``twist`` is the largest angle, in degrees, between the tangent
    planes at both ends of a ruling, ``error`` the largest stretch of its flat, as a part.

    ``gap`` is how far, in mm, the panel departs from the second curve; ``turned`` tells that this curve ran
    the other way.
    """

    surface: SplineSurface
    twist: float
    error: float
    gap: float = 0.0
    turned: bool = False


def panel(first: Track, second: Track, nearest: bool = False) -> Panel:
    """The panel between two curves. With ``nearest``, where no developable one exists, one that departs from the
    second curve as little as it must.

    Raises CannotBeDone for curves that are one and the same, or of which only one is closed.
    """
    if first.closed != second.closed:
        raise CannotBeDone("One curve is closed and the other is open, so no panel spans them; open or close one.")
    size = max(first.length, second.length)
    _require_apart(first, second, size)
    first, second, turned = aligned(first, second)
    made, *_ = _through(first, second, True, turned)
    if not nearest or made.error <= DEVELOPABLE:
        return made
    found = []
    for fans in (True, False):
        _, t, a, b, breaks = _through(first, second, fans, turned)
        found.append(_made(t, a, _untwisted(t, a, b, breaks), breaks, turned, second))
    good = [p for p in found if p.error <= DEVELOPABLE and p.twist < FOLDED]
    return min(good, key=lambda p: p.gap) if good else min(found, key=lambda p: p.error)


def _through(first: Track, second: Track, fans: bool, turned: bool):
    """The panel through both curves, with the parameter and the ends of its rulings, and its breaks."""
    pairing = paired(first, second, fans)
    a = first.at(pairing.first, pairing.parts[:, 0])
    b = second.at(pairing.second, pairing.parts[:, 1])
    steps = np.linalg.norm(np.diff(a, axis=0), axis=1) + np.linalg.norm(np.diff(b, axis=0), axis=1)
    t = np.r_[0, np.cumsum(steps)] / steps.sum()
    return _made(t, a, b, pairing.breaks, turned, second), t, a, b, pairing.breaks


def _require_apart(first: Track, second: Track, size: float) -> None:
    s = np.linspace(0, 1, 201)
    p, q = first.at(s), second.at(s)
    gaps = np.linalg.norm(p[:, None] - q[None], axis=2)
    if gaps.min(axis=1).max() < 1e-6 * size:
        raise CannotBeDone("The two curves are one and the same, so there is no panel between them; pick another.")


def _made(t: Array, a: Array, b: Array, breaks, turned: bool, second: Track) -> Panel:
    from ..developable.ruled import ruled_surface  # slow to import

    pieces = [(t[i : j + 1], a[i : j + 1], b[i : j + 1]) for i, j in pairwise(breaks)]
    surface = ruled_surface(pieces)
    flat = ruled_flat(surface, 0, np.r_[0.0, surface.breaks_u, 1.0], (0.0, 1.0))
    along = np.linspace(0, 1, 401)[1:-1]
    normals = [surface.normals(np.column_stack([along, np.full(len(along), v)])) for v in (0.002, 0.998)]
    cosine = np.clip((normals[0] * normals[1]).sum(axis=1), -1, 1)
    met = (np.linalg.norm(normals[0], axis=1) > 0.5) & (np.linalg.norm(normals[1], axis=1) > 0.5)
    twist = float(np.degrees(np.arccos(cosine[met])).max(initial=0.0))
    fine = np.linspace(0, 1, 4001)
    edge = surface.evaluate(np.column_stack([np.linspace(0, 1, 401), np.ones(401)]))
    dense = second.at(fine)
    gap = 0.0
    if (
        np.abs(edge - dense[np.abs(dense[None] - edge[:, None]).sum(axis=2).argmin(axis=1)]).max()
        > 1e-3 * second.length
    ):
        from scipy.spatial import cKDTree

        gap = float(cKDTree(dense).query(edge)[0].max())
    return Panel(surface, twist, flat.error, gap, turned)


def _untwisted(t: Array, a: Array, b: Array, breaks) -> Array:
    """The second curve moved as little as need be for the twist to vanish (Levenberg-Marquardt)."""
    from scipy.sparse import coo_matrix, diags, hstack, identity, kron, vstack
    from scipy.sparse.linalg import splu

    n = len(t)
    size = float(np.linalg.norm(np.ptp(np.vstack([a, b]), axis=0)))
    difference = _slopes(t, breaks)
    slope_a = difference @ a
    here = np.arange(n)

    def twisted(moved: Array) -> tuple[Array, Array]:
        r, slope_b = moved - a, difference @ moved
        lengths = (np.linalg.norm(v, axis=1) for v in (slope_a, slope_b, r))
        scale = np.maximum(np.prod(list(lengths), axis=0), 1e-9 * size**3)
        return (np.cross(slope_a, slope_b) * r).sum(axis=1) / scale, scale

    held = np.ones(n)
    for i, j in pairwise(breaks):
        if np.ptp(b[i : j + 1], axis=0).max() < 1e-9 * size:  # the point of a fan stays where it is
            held[i : j + 1] = 1e5
    stay = diags(np.tile(held, 3)) / size
    smooth = kron(identity(3), _bending(n, breaks) * (n / 10 / size))

    def residual(moved: Array, weight: float) -> Array:
        away = (moved - b).T.ravel()
        return np.concatenate([weight * twisted(moved)[0], stay @ away, smooth @ away])

    moved = b.copy()
    for weight in (1.0, 10.0, 1e2, 1e3, 1e4):  # the twist is made dearer and dearer
        damp = 1e-4
        now = residual(moved, weight)
        for _ in range(40):
            r, slope_b = moved - a, difference @ moved
            _, scale = twisted(moved)
            by_slope, by_point = np.cross(r, slope_a) / scale[:, None], np.cross(slope_a, slope_b) / scale[:, None]
            blocks = [
                difference.multiply(by_slope[:, [k]]) + coo_matrix((by_point[:, k], (here, here)), (n, n))
                for k in range(3)
            ]
            matrix = vstack([hstack(blocks) * weight, stay, smooth]).tocsr()
            normal = (matrix.T @ matrix).tocsc()
            step = splu((normal + damp * identity(3 * n) / size**2).tocsc()).solve(-(matrix.T @ now))
            trial = moved + step.reshape(3, n).T
            after = residual(trial, weight)
            if after @ after < now @ now:
                done = np.abs(step).max() < 1e-9 * size
                moved, now, damp = trial, after, damp / 3
                if done:
                    break
            else:
                damp *= 10
                if damp > 1e8:
                    break
    return moved


def _slopes(t: Array, breaks):
    """Derivatives by differences, within each piece."""
    from scipy.sparse import coo_matrix

    rows, columns, values = [], [], []
    for i, j in pairwise(breaks):
        for k in range(i, j + 1):
            five = np.arange(max(i, min(k - 2, j - 4)), min(j, max(k + 2, i + 4)) + 1)
            offsets = t[five] - t[k]
            powers = np.vander(offsets, increasing=True).T
            right = np.zeros(len(five))
            right[1] = 1
            rows += [k] * len(five)
            columns += five.tolist()
            values += np.linalg.solve(powers / np.abs(offsets).max() ** np.arange(len(five))[:, None], right).tolist()
            values[-len(five) :] = [v / np.abs(offsets).max() for v in values[-len(five) :]]
    return coo_matrix((values, (rows, columns)), (len(t), len(t))).tocsr()


def _bending(n: int, breaks):
    """Second differences within each piece, so that the moved curve stays as smooth as it was."""
    from scipy.sparse import coo_matrix

    inner = [k for i, j in pairwise(breaks) for k in range(i + 1, j)]
    rows = np.repeat(np.arange(len(inner)), 3)
    columns = (np.array(inner, int)[:, None] + [-1, 0, 1]).ravel()
    values = np.tile([1.0, -2.0, 1.0], len(inner))
    return coo_matrix((values, (rows, columns)), (len(inner), n)).tocsr()
