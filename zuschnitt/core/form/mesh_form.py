"""A form from triangles: faces between creases, edges along them, bodies."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from dataclasses import replace

import numpy as np
from scipy.sparse import coo_matrix
from scipy.sparse.csgraph import connected_components

from ..errors import Refused
from ..geometry.curves import Array, Line, Spline
from ..geometry.surfaces import Frame, Plane
from ..lazy import Later, later
from ..mesh.given import Triangles
from ..mesh.mending import mended
from ..mesh.mesh_surface import MeshSurface
from ..mesh.opening import (
    edge_keys,
    grouped,
    half_edges,
    pairs_across,
)
from ..mesh.slicing import sliced_ball
from ..mesh.triangles import normals_at_points
from ..progress import SILENT, Progress
from ..record import record
from .form import Body, Coedge, Edge, Face, FaceMesh, Form, with_lines
from .mesh_sheet import Sheet, chart, cut_to_lie_flat, laid_flat

MOST_FACES = 20_000
MOST_BODIES = 2_000
FLAT = 2e-6
"""A face is plane where its points keep within this part of the form's size."""
EDGE_CORNER = np.radians(25)
"""An outline that turns by more than this has a corner there, and an edge ends."""


@record
class Chain:
    """An edge: numbers of its points in the form, in order; a closed one ends where it begins."""

    points: np.ndarray


def form_from_triangles(given: Triangles, name: str, crease: float = 30.0, progress: Progress = SILENT) -> Form:
    """Faces end where neighbouring triangles turn by more than ``crease`` degrees.

    Raises Refused for triangles that cannot be mended, or that fall into far too many faces.
    """
    progress.step(0.2, "mending")
    mesh = mended(given.points, given.triangles, name)
    points, triangles = mesh.points, mesh.triangles
    face_of, body_of = _faces(points, triangles, np.radians(crease))
    count, loose = int(face_of.max()) + 1, int(body_of.max()) + 1
    if loose > MOST_BODIES:
        raise Refused(
            f"{name} falls into {loose:,} bodies that hang together nowhere; the limit is {MOST_BODIES:,}, so write "
            "the mesh anew as one surface, with its triangles joined."
        )
    if count > MOST_FACES:
        raise Refused(
            f"{name} falls into {count:,} faces at creases of {crease:g}°; the limit is {MOST_FACES:,}, "
            "so take a larger crease angle."
        )
    size = float(np.linalg.norm(points.max(axis=0) - points.min(axis=0)))
    origin, seams = mesh.origin, {}
    for i in _alone(face_of, body_of):
        mine = face_of == i
        if (ball := sliced_ball(points, triangles[mine])) is not None:
            points, seams[i] = ball.points, ball.seam
            kept, parent = np.nonzero(~mine)[0], np.nonzero(mine)[0][ball.parent]
            triangles = np.vstack([triangles[kept], ball.triangles])
            face_of, body_of, origin = (of[np.r_[kept, parent]] for of in (face_of, body_of, origin))
    order = np.argsort(face_of, kind="stable")
    groups = np.split(order, np.nonzero(np.diff(face_of[order]))[0] + 1)
    cuts, sheets = [], []
    for i, group in enumerate(groups):
        progress.step(0.3 + 0.2 * i / count, "finding faces")
        cut, sheet = cut_to_lie_flat(points, triangles[group], seams.get(i))
        cuts.append(cut)
        sheets.append(sheet)
    keys, signature = _outlines(triangles, face_of, cuts, len(points))
    chains, edge_at = _chains(points, keys, signature)
    faces, meshes = [], []
    for i, sheet in enumerate(sheets):
        progress.step(0.5 + 0.5 * i / count, "finding outlines")
        face, shown = _face(i + 1, len(points), sheet, chains, edge_at, size)
        faces.append(face)
        meshes.append(shown)
    edges = [_edge(i + 1, points[chain.points]) for i, chain in enumerate(chains)]
    bodies = _bodies(given, origin, face_of, body_of)
    form = Form(name, tuple(faces), tuple(edges), tuple(meshes), given.unit, name,
                (*given.messages, *mesh.messages), bodies)  # fmt: skip
    return with_lines(_connected(form))


def _faces(points: Array, triangles: np.ndarray, crease: float) -> tuple[np.ndarray, np.ndarray]:
    """The face and the body (t,) of each triangle, numbered in the order of their first triangles."""
    t = len(triangles)
    normals = _normals(points, triangles)
    one, other = pairs_across(triangles, len(points))
    a, b = one % t, other % t
    turn = np.arctan2(np.linalg.norm(np.cross(normals[a], normals[b]), axis=1), (normals[a] * normals[b]).sum(axis=1))
    smooth = turn <= crease
    return _labels(a[smooth], b[smooth], t), _labels(a, b, t)


def _alone(face_of: np.ndarray, body_of: np.ndarray) -> list[int]:
    """Faces that are all of their body."""
    face, first = np.unique(face_of, return_index=True)
    bodies = body_of[first]
    return face[np.bincount(bodies)[bodies] == 1].tolist()


def _labels(a: np.ndarray, b: np.ndarray, count: int) -> np.ndarray:
    joined = coo_matrix((np.ones(len(a), np.int8), (a, b)), (count, count))
    _, label = connected_components(joined, directed=False)
    first = np.empty(int(label.max()) + 1, np.int64)
    first[label[::-1]] = np.arange(count)[::-1]  # of several that are set, the last one stays
    return np.argsort(np.argsort(first))[label]


def _normals(points: Array, triangles: np.ndarray) -> Array:
    a, b, c = (points[triangles[:, k]] for k in range(3))
    normal = np.cross(b - a, c - a)
    return normal / np.maximum(np.linalg.norm(normal, axis=1, keepdims=True), 1e-300)


def _outlines(triangles: np.ndarray, face_of: np.ndarray, cuts: Sequence[np.ndarray], n: int):
    """Keys of all edges at which faces end, and for each a number that is equal where the same faces meet."""
    keys = edge_keys(half_edges(triangles), n)
    order, start, times = grouped(keys)
    keys, faces = keys[order], np.tile(face_of, 3)[order]
    low, high = np.minimum.reduceat(faces, start), np.maximum.reduceat(faces, start)
    unique = keys[start]
    cut = np.isin(unique, np.concatenate(cuts)) if cuts else np.zeros(len(unique), bool)
    ends = (times != 2) | (low != high) | cut
    met = np.stack([low, high, np.minimum(times, 3)], axis=1)[ends]
    _, signature = np.unique(met, axis=0, return_inverse=True)
    return unique[ends], signature.ravel()


def _chains(points: Array, keys: np.ndarray, signature: np.ndarray):
    """Edges from the pieces of outline: each runs on while the same faces meet and there is no corner.

    With them, for each key: edge, place in the edge, and whether the lower point comes first.
    """
    n = len(points)
    ends = np.stack([keys // n, keys % n], axis=1)
    at: dict[int, list[int]] = {}
    for i, (a, b) in enumerate(ends.tolist()):
        at.setdefault(a, []).append(i)
        at.setdefault(b, []).append(i)

    def onward(i: int, here: int) -> int | None:
        """The piece that continues piece ``i`` beyond its end ``here``."""
        met = at[here]
        if len(met) != 2:
            return None
        j = met[0] if met[1] == i else met[1]
        if signature[i] != signature[j]:
            return None
        before, after = _direction(points, ends[i], here), _direction(points, ends[j], here)
        return j if -before @ after > np.cos(EDGE_CORNER) else None

    done = np.zeros(len(keys), bool)
    chains: list[Chain] = []
    edge_at: dict[int, tuple[int, int, bool]] = {}
    for first in range(len(keys)):
        if done[first]:
            continue
        run = [(first, int(ends[first, 0]))]  # pieces with the point where each begins
        done[first] = True
        for forwards in (True, False):
            while True:
                i, begin = run[-1] if forwards else run[0]
                here = _other(ends[i], begin) if forwards else begin
                j = onward(i, here)
                if j is None or done[j]:
                    break
                done[j] = True
                run.insert(len(run) if forwards else 0, (j, here if forwards else _other(ends[j], here)))
        for place, (i, begin) in enumerate(run):
            edge_at[int(keys[i])] = (len(chains), place, begin == ends[i, 0])
        chains.append(Chain(np.array([begin for _, begin in run] + [_other(ends[run[-1][0]], run[-1][1])])))
    return chains, edge_at


def _other(ends: np.ndarray, point: int) -> int:
    return int(ends[1] if ends[0] == point else ends[0])


def _direction(points: Array, ends: np.ndarray, away_from: int) -> Array:
    step = points[_other(ends, away_from)] - points[away_from]
    return step / max(float(np.linalg.norm(step)), 1e-300)


def _curve(points: Array) -> Line | Spline:
    """A line, or a polyline whose parameter counts its points."""
    if len(points) == 2:
        return Line.between(*points)
    return Spline(np.r_[0.0, np.arange(len(points)), len(points) - 1.0], points, 1)


def _edge(number: int, points: Array) -> Edge:
    return Edge(number, _curve(points), 0.0, float(len(points) - 1), ())


def _face(number: int, count: int, sheet: Sheet, chains: Sequence[Chain], edge_at, size: float):
    """The face and its triangles; ``count`` is how many points the form has."""
    own = sheet.points
    a, b, c = (own[sheet.triangles[:, k]] for k in range(3))
    spanned = np.cross(b - a, c - a)
    mean = spanned.sum(axis=0)
    mean /= max(float(np.linalg.norm(mean)), 1e-300)
    off = (own - own.mean(axis=0)) @ mean
    surface: Plane | MeshSurface
    if np.abs(off).max() <= FLAT * size and (spanned @ mean > 0).all():
        frame = Frame(own.mean(axis=0), _axes(mean))
        uv = frame.local(own)[:, :2]
        surface = Plane(frame)
    else:
        flat = laid_flat(sheet)
        uv = later(chart, own, sheet.triangles) if flat is None else flat
        surface = MeshSurface(own, uv, sheet.triangles, flat is not None)
    rings = sorted(sheet.rings, key=lambda ring: -np.ptp(own[ring], axis=0).sum())
    loops = tuple(_loop(ring, sheet, uv, chains, edge_at, count) for ring in rings)
    area = float(np.linalg.norm(spanned, axis=1).sum() / 2)
    return Face(number, surface, False, loops, area), FaceMesh(
        own, uv, sheet.triangles, normals_at_points(own, sheet.triangles)
    )


def _axes(normal: Array) -> Array:
    x = np.cross(normal, np.eye(3)[np.argmin(np.abs(normal))])
    x /= np.linalg.norm(x)
    return np.array([x, np.cross(normal, x), normal])


def _loop(ring: np.ndarray, sheet: Sheet, uv: Array, chains: Sequence[Chain], edge_at, n: int) -> tuple[Coedge, ...]:
    """The walk round one ring, edge by edge."""
    old = sheet.old[ring]
    following = np.roll(old, -1)
    spans = []
    for a, b in zip(old.tolist(), following.tolist(), strict=True):
        edge, place, rising = edge_at[min(a, b) * n + max(a, b)]
        spans.append((edge, place, rising == (a < b)))
    last = [len(chains[edge].points) - 2 for edge, _, _ in spans]
    starts = [i for i, (_, place, ahead) in enumerate(spans) if place == (0 if ahead else last[i])]
    walk = []
    for i in starts:
        edge, _, ahead = spans[i]
        k = last[i] + 1
        index = ring[(i + np.arange(k + 1)) % len(ring)]
        along = index if ahead else index[::-1]
        curve = later(_outlined, uv, along) if isinstance(uv, Later) else _outlined(uv, along)
        walk.append(Coedge(edge, curve, *((0.0, float(k)) if ahead else (float(k), 0.0))))
    return tuple(walk)


def _outlined(uv: Array, along: np.ndarray) -> Line | Spline:
    return _curve(uv[along])


def _bodies(given: Triangles, origin: np.ndarray, face_of: np.ndarray, body_of: np.ndarray) -> tuple[Body, ...]:
    """What hangs together, by the names that the file gives."""
    _, first = np.unique(face_of, return_index=True)
    pairs = [(given.body[origin[t]], body_of[t]) for t in first.tolist()]
    bodies: dict[tuple[int, int], list[int]] = {}
    for number, pair in enumerate(pairs, 1):
        bodies.setdefault(pair, []).append(number)
    made: list[Body] = []
    parts = Counter(part for part, _ in bodies)
    seen: dict[int, int] = {}
    for (part, _), numbers in bodies.items():
        seen[part] = seen.get(part, 0) + 1
        several = parts[part] > 1
        name = given.bodies[part]
        if len(given.bodies) == 1:
            name = f"body {len(made) + 1}"
        elif several:
            name = f"{name}.{seen[part]}"
        made.append(Body(name, tuple(numbers)))
    return tuple(made)


def _connected(form: Form) -> Form:
    """Fills in which faces meet at which edges."""
    around: list[set[int]] = [set() for _ in form.edges]
    for face in form.faces:
        for loop in face.loops:
            for coedge in loop:
                around[coedge.edge].add(face.number)
    neighbours: dict[int, set[int]] = {face.number: set() for face in form.faces}
    for numbers in around:
        for number in numbers:
            neighbours[number] |= numbers - {number}
    return replace(
        form,
        faces=tuple(replace(f, neighbours=tuple(sorted(neighbours[f.number]))) for f in form.faces),
        edges=tuple(replace(e, faces=tuple(sorted(s))) for e, s in zip(form.edges, around, strict=True)),
    )
