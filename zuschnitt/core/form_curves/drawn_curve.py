"""A smooth curve drawn on a form, through points of its faces.

Of all curves on the faces through the points, about the one that bends least: a polyline is relaxed under its bending
energy, with its points held to the tangent planes and laid back onto the surfaces in turn (a spline in a manifold;
Hofer and Pottmann, Energy-minimizing splines in manifolds, 2004).
"""

from __future__ import annotations

from collections.abc import Callable, Sequence

import numpy as np

from ..errors import Refused
from ..form.form import Form
from ..form.locator import Locator
from ..geometry.curves import Array
from ..record import record

HALVINGS = 5
"""Each way from point to point is halved so often, along the surface."""
ROUNDS = 30
HELD = 1e3
"""How dear it is to leave the tangent plane, beside bending."""
CONVERGED = 1e-7
"""The curve has settled when no point moves by more than this part of its length."""
OFF = 0.02
"""A point further from the faces than this part of the form's size is not one of theirs."""
SAID = 1e-3
"""A point that lay off the faces by more than this, in mm, is said."""
FINER = 4
CREASE = np.radians(0.1)
"""Where faces turn by more than this, the curve has a corner."""
SEARCHED = 60
ONTO = 8
PARALLEL = 1e-4
"""Normals that differ by less than about this are taken for parallel."""


@record
class DrawnCurve:
    """``points`` (n, 3) on the faces, a closed one ending where it begins; ``corners`` are indices where it turns."""

    points: Array
    corners: tuple[int, ...]
    messages: tuple[str, ...] = ()


def drawn_through(form: Form, through: Array, closed: bool, faces: Sequence[int] | None = None) -> DrawnCurve:
    """The smooth curve on the ``faces`` (all, by default) through points (k, 3).

    Raises Refused as ``on_the_faces`` does.
    """
    locator = Locator.of(form, faces)
    walk, messages = on_the_faces(locator, through, closed)
    for _ in range(HALVINGS):
        walk = halved(locator, walk)
    held = np.arange(0, len(walk), 2**HALVINGS)
    return dense(locator, relaxed(locator, walk, held, closed, _bending), messages)


def on_the_faces(locator: Locator, through: Array, closed: bool) -> tuple[Array, tuple[str, ...]]:
    """The points (k, 3) of the faces that a curve goes through, the first one again where it is ``closed``.

    With messages. Raises Refused for fewer than two points (three where it is closed), for points off the faces, and
    for two in a row in one place.
    """
    form = locator.form
    least = 3 if closed else 2
    through = np.asarray(through, float).reshape(-1, 3)
    if len(through) < least:
        raise Refused(f"A {'closed ' if closed else ''}curve needs {least} points at least; give more of them.")
    feet = locator.feet(through)
    off = np.nonzero((feet.gap > OFF * form.size) | ~locator.inside(feet.points))[0]
    if len(off):
        k = int(off[feet.gap[off].argmax()])
        raise Refused(f"Point {k + 1} does not lie on the faces, {feet.gap[k]:.3g} mm from them; move it onto them.")
    following = np.roll(feet.points, -1, axis=0) if closed else feet.points[1:]
    steps = np.linalg.norm(following - feet.points[: len(following)], axis=1)
    if (steps < 1e-6 * form.size).any():
        k = int(steps.argmin())
        raise Refused(
            f"Points {k + 1} and {(k + 1) % len(through) + 1} are one and the same; move one, or leave it out."
        )
    far = int(feet.gap.argmax())
    said: tuple[str, ...] = ()
    if feet.gap[far] > SAID:
        off_by = f"{feet.gap[far]:.3g} mm off the faces (point {far + 1})"
        said = (f"Points lay up to {off_by}; their nearest ones were taken.",)
    return np.vstack([feet.points, feet.points[:1]]) if closed else feet.points, said


def halved(locator: Locator, walk: Array) -> Array:
    """With the foot of the middle of each span between its ends."""
    finer = np.empty((2 * len(walk) - 1, 3))
    finer[::2] = walk
    finer[1::2] = locator.feet((walk[1:] + walk[:-1]) / 2).points
    return finer


def relaxed(locator: Locator, walk: Array, held: np.ndarray, closed: bool, energy_of: Callable) -> Array:
    from scipy.sparse import coo_matrix, identity, kron
    from scipy.sparse.linalg import splu

    n = len(walk) - 1 if closed else len(walk)
    walk = walk[:n]
    held = held[held < n]
    free = np.setdiff1d(np.arange(n), held)
    length = float(np.linalg.norm(np.diff(walk, axis=0), axis=1).sum())
    for _ in range(ROUNDS):
        own = energy_of(walk, held, closed)
        feet = locator.feet(walk)
        normals = locator.normals(feet.points, feet.faces)
        spread = float(own.diagonal().mean())
        rows = np.arange(n)
        # interleaved coordinates: point by point x, y, z
        across = coo_matrix((normals.ravel(), (np.repeat(rows, 3), np.arange(3 * n))), (n, 3 * n)).tocsr()
        energy = kron(own, identity(3)).tocsr() + HELD * spread * (across.T @ across)
        right = HELD * spread * (across.T @ (across @ walk.ravel()))
        move = np.concatenate([3 * free + k for k in range(3)])
        stay = np.concatenate([3 * held + k for k in range(3)])
        values = walk.ravel().copy()
        system = energy[move][:, move].tocsc()
        values[move] = splu(system).solve(right[move] - energy[move][:, stay] @ values[stay])
        after = locator.feet(values.reshape(n, 3)).points
        after[held] = walk[held]
        moved = float(np.abs(after - walk).max())
        walk = after
        if moved < CONVERGED * length:
            break
    return np.vstack([walk, walk[:1]]) if closed else walk


def _bending(walk: Array, held: np.ndarray, closed: bool):
    """The quadratic form (n, n) of the bending energy of a polyline.

    Its spans are as long as they are on average between two points that are ``held``, so that none slide together.
    """
    from scipy.sparse import coo_matrix

    n = len(walk)
    middle = np.arange(n) if closed else np.arange(1, n - 1)
    before, after = (middle - 1) % n, (middle + 1) % n
    ends = np.r_[held, n] if closed else held
    spans = np.linalg.norm(np.diff(np.vstack([walk, walk[:1]]), axis=0), axis=1)[: ends[-1]]
    count = np.diff(ends)
    even = np.repeat(np.add.reduceat(spans, ends[:-1]) / count, count)
    h0, h1 = even[(middle - 1) % len(even)], even[middle % len(even)]
    weight = 1 / np.sqrt((h0 + h1) / 2)
    rows = np.tile(np.arange(len(middle)), 3)
    columns = np.concatenate([before, middle, after])
    values = np.concatenate([weight / h0, -weight * (1 / h0 + 1 / h1), weight / h1])
    second = coo_matrix((values, (rows, columns)), (len(middle), n)).tocsr()
    return second.T @ second


def dense(locator: Locator, walk: Array, messages: tuple[str, ...]) -> DrawnCurve:
    """With more points between, along a smooth curve laid onto the faces, and at the edges that it passes."""
    from ..geometry.smooth import smooth_through

    steps = np.r_[0.0, np.cumsum(np.linalg.norm(np.diff(walk, axis=0), axis=1))]
    t = np.interp(np.arange(FINER * (len(walk) - 1) + 1) / FINER, np.arange(len(walk)), steps)
    points = locator.feet(smooth_through(walk).evaluate(t)).points
    points[::FINER] = walk
    feet = locator.feet(points)
    made: list[Array] = [points[:1]]
    corners: list[int] = []
    count = 1
    for k in range(len(points) - 1):
        if feet.faces[k] != feet.faces[k + 1]:
            edge, normals = passed(locator, points[k], points[k + 1], int(feet.faces[k]), int(feet.faces[k + 1]))
            turn = float(np.arccos(np.clip(normals[0] @ normals[1], -1, 1)))
            apart = min(np.linalg.norm(edge - points[k]), np.linalg.norm(edge - points[k + 1]))
            if apart > 1e-9 * steps[-1]:
                made.append(edge[None])
                count += 1
                if turn > CREASE:
                    corners.append(count - 1)
        made.append(points[k + 1 : k + 2])
        count += 1
    return DrawnCurve(np.vstack(made), tuple(corners), messages)


def passed(locator: Locator, start: Array, end: Array, first: int, second: int) -> tuple[Array, Array]:
    """Where a span goes from one face to another, and the normals (2, 3) of both there."""
    low, high = 0.0, 1.0
    for _ in range(SEARCHED):
        middle = (low + high) / 2
        here = locator.feet((start + middle * (end - start))[None])
        low, high = (middle, high) if here.faces[0] == first else (low, middle)
    return onto_both(locator, start + high * (end - start), first, second)


def onto_both(locator: Locator, at: Array, first: int, second: int) -> tuple[Array, Array]:
    """The point of both faces' surfaces near ``at`` (3,), by Newton's method, and their normals (2, 3) there."""
    surfaces = [locator.form.face(number).surface for number in (first, second)]
    for _ in range(ONTO):
        feet = np.vstack([surface.evaluate(surface.project(at[None])) for surface in surfaces])
        normals = locator.normals(feet, np.array([first, second]))
        off = ((feet - at) * normals).sum(axis=1)
        at = at + np.linalg.lstsq(normals, off, rcond=PARALLEL)[0]
    return at, normals


def own_crossing(curve: DrawnCurve) -> Array | None:
    """The first place (3,) at which a curve crosses itself; None where it does not."""
    from scipy.spatial import cKDTree

    start, end = curve.points[:-1], curve.points[1:]
    lengths = np.linalg.norm(end - start, axis=1)
    pairs = cKDTree((start + end) / 2).query_pairs(float(lengths.max()) * 1.01, output_type="ndarray")
    count = len(start)
    closed = bool(np.array_equal(curve.points[0], curve.points[-1]))
    apart = np.abs(pairs[:, 0] - pairs[:, 1])
    pairs = pairs[(apart > 1) & ~(closed & (apart == count - 1))]
    if not len(pairs):
        return None
    one, other = (end - start)[pairs[:, 0]], (end - start)[pairs[:, 1]]
    between = start[pairs[:, 1]] - start[pairs[:, 0]]
    # where lines through both spans come nearest to each other
    a, b, c = (np.einsum("nk,nk->n", *each) for each in ((one, one), (one, other), (other, other)))
    d, e = np.einsum("nk,nk->n", one, between), np.einsum("nk,nk->n", other, between)
    divisor = a * c - b * b
    steep = divisor > PARALLEL * a * c
    divisor = np.where(steep, divisor, 1.0)
    s, t = (c * d - b * e) / divisor, (b * d - a * e) / divisor
    places = start[pairs[:, 0]] + s[:, None] * one
    gap = np.linalg.norm(places - start[pairs[:, 1]] - t[:, None] * other, axis=1)
    sags = lengths[pairs].max(axis=1) ** 2 / max(float(lengths.sum()), 1e-12)  # chords lie a little under the faces
    crosses = steep & (s >= 0) & (s < 1) & (t >= 0) & (t < 1) & (gap <= sags)
    return places[np.nonzero(crosses)[0][0]] if crosses.any() else None
