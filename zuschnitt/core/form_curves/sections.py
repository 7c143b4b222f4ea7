"""Sections of a form by planes: curves on its true surfaces."""

from __future__ import annotations

import warnings
from collections.abc import Iterator
from itertools import pairwise

import numpy as np

from ..errors import CannotBeDone, Refused
from ..form.form import Face, Form
from ..geometry.curves import Array
from ..mesh.mesh_surface import MeshSurface

TIP = 0.5
"""A form closes at an end when that is less than this part as wide as the section beside it."""
OFF = 0.5
"""A section of a mesh moves by so much, as a part of what its points are off the chords between their neighbours."""
SHARP = 30.0
"""A section of a mesh has a corner where it turns by so many degrees over two spans before and two after."""
INSET = 2e-3
"""By this part of the form's size, at the most, a section at either end may be moved inwards."""


def section(form: Form, normal: Array, height: float, faces=None) -> list[Array]:
    """The curves (n, 3) in which the plane ``normal · p = height`` cuts the form, the longest first.

    ``normal`` (3,) is a unit vector, ``height`` in mm. A closed curve ends with its first point.
    """
    joined = _joined([points for _, points in face_sections(form, normal, height, faces)], 1e-3 * form.size)
    return sorted(joined, key=lambda c: -np.linalg.norm(np.diff(c, axis=0), axis=1).sum())


def face_sections(form: Form, normal: Array, height: float, faces=None) -> list[tuple[Face, Array]]:
    """What of the section lies on each face: points (n, 3) on its true surface."""
    found = []
    for face, mesh in zip(form.faces, form.meshes, strict=True):
        if faces is not None and face.number not in faces:
            continue
        for chain in _chains(mesh.points @ normal - height, mesh.points, mesh.triangles):
            flat = isinstance(face.surface, MeshSurface)  # there a chain lies on the surface as it is
            found.append((face, chain if flat else on_surface(face.surface, chain, normal, height)))
    return found


def level_sections(form: Form, normal: Array, count: int) -> list[Array]:
    """The longest curve of each of ``count`` + 1 sections, evenly spaced from one end of the form to the other.

    The first and the last lie a little inside, so that they are curves. Raises CannotBeDone where a plane
    misses the form.
    """
    normal = np.asarray(normal, float) / np.linalg.norm(normal)
    along = np.concatenate([mesh.points @ normal for mesh in form.meshes])
    low, high = float(along.min()), float(along.max())
    inset = 1e-3 * (high - low)
    curves: list[Array] = []
    for height in np.linspace(low + inset, high - inset, count + 1):
        found = section(form, normal, float(height))
        if not found:
            raise CannotBeDone(f"The plane at {height:.1f} mm does not cut the form; choose another direction.")
        curves.append(_alike(_steady(form, found[0]), curves[-1] if curves else None, normal))
    return curves


def left_open(form: Form, normal: Array, curves: list[Array]) -> tuple[str, ...]:
    """Sentences on the ends of a form that level sections stop short of, where it closes in a point or a flat."""
    normal = np.asarray(normal, float) / np.linalg.norm(normal)
    points = np.concatenate([mesh.points for mesh in form.meshes])
    along = points @ normal
    said = []
    for which, curve, end in (("first", curves[0], along.min()), ("last", curves[-1], along.max())):
        across = float(np.linalg.norm(np.ptp(curve, axis=0)))
        tip = points[np.abs(along - end) < 1e-6 * form.size]
        closed = np.linalg.norm(curve[0] - curve[-1]) < 1e-6 * form.size
        if closed and float(np.linalg.norm(np.ptp(tip, axis=0))) < TIP * across:
            gap = abs(float(curve[0] @ normal) - float(end))
            said.append(
                f"The {which} section lies {gap:.2g} mm short of the form's end, where it closes: a hole of "
                f"{across / np.sqrt(2):.3g} mm stays open there; close it with a small lid."
            )
    return tuple(said)


def sections_along(form: Form, points: Array) -> list[Array]:
    """The curves (n, 3) in which planes through ``points`` (k, 3), square to the way along them, cut the form.

    Of each plane's curves that nearest to its point is taken. A plane at either end that just misses the form is
    moved a little inwards. Raises Refused for fewer than two points or two alike, CannotBeDone where a plane misses.
    """
    points = np.asarray(points, float)
    if len(points) < 2 or not (np.linalg.norm(np.diff(points, axis=0), axis=1) > 1e-6 * form.size).all():
        raise Refused("Free sections need two points at least, each at a place of its own; click them on the form.")
    ahead = np.diff(points, axis=0)
    ahead /= np.linalg.norm(ahead, axis=1, keepdims=True)
    along = np.vstack([ahead[:1], ahead[1:] + ahead[:-1], ahead[-1:]])
    sizes = np.linalg.norm(along, axis=1)
    if (sizes < 0.1).any():
        raise Refused(f"The way turns back at point {int(sizes.argmin()) + 1}, so no plane is square to it; move it.")
    along /= sizes[:, None]
    curves: list[Array] = []
    for k, (point, normal) in enumerate(zip(points, along, strict=True)):
        inwards = INSET * form.size * (normal if k == 0 else -normal if k == len(points) - 1 else 0 * normal)
        found = section(form, normal, float(normal @ point)) or section(form, normal, float(normal @ (point + inwards)))
        if not found:
            raise CannotBeDone(f"The plane at point {k + 1} does not cut the form; move the point onto it.")
        nearest = min(found, key=lambda curve: float(np.linalg.norm(curve - point, axis=1).min()))
        curves.append(_alike(_steady(form, nearest), curves[-1] if curves else None, normal))
    return curves


def _steady(form: Form, curve: Array) -> Array:
    """A section of a mesh made as smooth as the surface that the mesh stands for, between its corners.

    A plane cuts triangles at random places, so the section's direction changes by chance from one to the next. The
    curve moves by about as much as its chords are off a round one (smoothing splines: Dierckx, Curve and surface
    fitting with splines, 1993).
    """
    if not any(isinstance(face.surface, MeshSurface) for face in form.faces):
        return curve
    spans = np.linalg.norm(np.diff(curve, axis=0), axis=1)
    curve = curve[np.r_[True, spans > 1e-6 * spans.sum()]]
    if len(curve) < 8:
        return curve
    closed = bool(np.linalg.norm(curve[0] - curve[-1]) < 1e-9)
    corners = _corners(curve, closed)
    if closed and len(corners):
        curve = np.vstack([curve[corners[0] : -1], curve[: corners[0] + 1]])
        corners = (corners - corners[0])[1:]
        closed = False
    ends = [0, *corners.tolist(), len(curve) - 1]
    runs = [_smooth(curve[i : j + 1], closed) for i, j in pairwise(ends)]
    return np.vstack([*(run[:-1] for run in runs), runs[-1][-1:]])


def _corners(curve: Array, closed: bool) -> np.ndarray:
    """The indices at which a polyline turns sharply, looked at over a few spans so that chance has no say."""
    lengths = np.r_[0, np.cumsum(np.linalg.norm(np.diff(curve, axis=0), axis=1))]
    reach = 2.0 * lengths[-1] / (len(curve) - 1)
    inner = np.arange(0 if closed else 1, len(curve) - 1)

    def at(s: Array) -> Array:
        s = s % lengths[-1] if closed else np.clip(s, 0, lengths[-1])
        return np.stack([np.interp(s, lengths, curve[:, k]) for k in range(3)], axis=1)

    before, after = curve[inner] - at(lengths[inner] - reach), at(lengths[inner] + reach) - curve[inner]
    sizes = np.linalg.norm(before, axis=1) * np.linalg.norm(after, axis=1)
    turning = np.degrees(np.arccos(np.clip((before * after).sum(axis=1) / np.maximum(sizes, 1e-300), -1, 1)))
    found: list[int] = []
    for i in np.argsort(-turning).tolist():
        away = np.abs(lengths[inner[i]] - lengths[found]) if found else np.array([np.inf])
        if turning[i] > SHARP and min(away.min(), (lengths[-1] - away).min() if closed else np.inf) > 1.5 * reach:
            found.append(int(inner[i]))
    return np.sort(np.array(found, int))


def _smooth(run: Array, closed: bool) -> Array:
    if len(run) < 8:
        return run
    from scipy.interpolate import splev, splprep

    lengths = np.r_[0, np.cumsum(np.linalg.norm(np.diff(run, axis=0), axis=1))]
    chord = run[2:] - run[:-2]
    share = np.clip(((run[1:-1] - run[:-2]) * chord).sum(axis=1) / (chord**2).sum(axis=1), 0, 1)
    # not the median: half the points may lie in the middle of long edges
    off = OFF * float(np.percentile(np.linalg.norm(run[:-2] + share[:, None] * chord - run[1:-1], axis=1), 80))
    weights = np.ones(len(run))
    if not closed:
        weights[[0, -1]] = 1e3
    with warnings.catch_warnings():
        warnings.simplefilter("ignore")  # of a smoothing that cannot be met exactly
        spline, _ = splprep(run.T, weights, lengths / lengths[-1], s=len(run) * off**2, per=int(closed))
    count = max(24, int(lengths[-1] / np.median(np.diff(lengths))))
    smooth = np.array(splev(np.linspace(0, 1, count + 1), spline)).T
    smooth[0], smooth[-1] = (smooth[0], smooth[0]) if closed else (run[0], run[-1])
    return smooth


def _alike(curve: Array, before: Array | None, normal: Array) -> Array:
    """The curve, run the same way as the one before it."""
    if np.linalg.norm(curve[0] - curve[-1]) < 1e-9:
        turning = np.cross(curve[:-1] - curve.mean(axis=0), np.diff(curve, axis=0)).sum(axis=0) @ normal
        return curve if turning > 0 else curve[::-1]
    if before is None:
        return curve
    ahead = np.linalg.norm(curve[0] - before[0]) + np.linalg.norm(curve[-1] - before[-1])
    back = np.linalg.norm(curve[-1] - before[0]) + np.linalg.norm(curve[0] - before[-1])
    return curve if ahead <= back else curve[::-1]


def _chains(signed: Array, points: Array, triangles: np.ndarray) -> list[Array]:
    """Polylines at which a function of the points vanishes within triangles."""
    signed = np.where(np.abs(signed) < 1e-12, 1e-12, signed)
    above = signed > 0
    count = above[triangles[:, 0]].astype(np.int8) + above[triangles[:, 1]] + above[triangles[:, 2]]
    cut = triangles[(count == 1) | (count == 2)]
    start, end = cut, np.roll(cut, -1, axis=1)
    met = above[start] != above[end]  # two sides of each triangle
    i, j = np.minimum(start, end)[met], np.maximum(start, end)[met]
    # crossings by their edges, in the order in which they are met
    _, first, number = np.unique(i * len(points) + j, return_index=True, return_inverse=True)
    place = np.empty(len(first), int)
    place[np.argsort(first)] = np.arange(len(first))
    i, j = i[np.sort(first)], j[np.sort(first)]
    share = signed[i] / (signed[i] - signed[j])
    crossings = points[i] + share[:, None] * (points[j] - points[i])
    links: list[list[int]] = [[] for _ in range(len(crossings))]
    for one, other in place[number].reshape(-1, 2).tolist():
        links[one].append(other)
        links[other].append(one)
    return [crossings[chain] for chain in _walks(links)]


def _walks(links: list[list[int]]) -> Iterator[list[int]]:
    """Ways along all links, each walked once: from loose ends, then round."""
    loose = [k for k, there in enumerate(links) if len(there) == 1]
    for begin in (*loose, *range(len(links))):
        if not links[begin]:
            continue
        chain, here = [begin], begin
        while links[here]:
            there = links[here].pop()
            links[there].remove(here)
            chain.append(there)
            here = there
        yield chain


def on_surface(surface, chain: Array, normal: Array, height: float) -> Array:
    """The points moved onto the surface and the plane at once (Newton within the tangent planes)."""
    points = chain
    for _ in range(4):
        uv = surface.project(points)
        points, across = surface.evaluate(uv), surface.normals(uv)
        climb = normal - (across @ normal)[:, None] * across
        slope = climb @ normal
        off = points @ normal - height
        points = points - (off / np.where(slope < 1e-6, np.inf, slope))[:, None] * climb
    return points


def _joined(pieces: list[Array], reach: float) -> list[Array]:
    """Curves whose ends meet made one."""
    left = [p for p in pieces if len(p) > 1]
    done = []
    while left:
        curve = left.pop(0)
        while True:
            found = None
            for i, other in enumerate(left):
                for flip in (False, True):
                    piece = other[::-1] if flip else other
                    if np.linalg.norm(curve[-1] - piece[0]) < reach:
                        found = i, np.vstack([curve, piece[1:]])
                    elif np.linalg.norm(curve[0] - piece[-1]) < reach:
                        found = i, np.vstack([piece[:-1], curve])
                    if found:
                        break
                if found:
                    break
            if not found:
                break
            left.pop(found[0])
            curve = found[1]
        if len(curve) > 3 and np.linalg.norm(curve[0] - curve[-1]) < reach:
            curve = np.vstack([curve[:-1], curve[:1]])
        done.append(curve)
    return done
