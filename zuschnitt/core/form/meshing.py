"""Triangles with surface parameters: for looking at a form, and for developing it."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import replace
from itertools import pairwise

import numpy as np
import shapely

from ..errors import CannotBeDone
from ..geometry.curves import Array, Line, Spline, parameters_along, parameters_within
from ..lazy import LateSequence
from ..mesh.constrained import with_edges
from ..mesh.mesh_surface import MeshSurface
from ..mesh.opening import among, distinct, edge_keys, half_edges, path_keys
from ..mesh.triangles import normals_at_points, signed_double_areas
from ..plane.region import Region
from ..progress import SILENT, Progress
from ..record import record
from .charts import CylinderChart, SqueezedChart
from .creases import crossings, split_along_creases
from .form import SEEN, Coedge, Face, FaceMesh, Form, with_lines
from .lines_on_faces import LineOnFace
from .unwrapped import Unwrapped, unwrap, unwrap_plain, without_overlap

OWN = 0.6
"""A mesh whose edges are at least this part of the size asked keeps its own triangles."""
CROWDED = 0.02
"""Points of an edge are crowded when they are nearer to each other than this part of the triangles' size."""
CLEAR = 0.05
"""Points of a mesh that crowd the outline of a face are left out where they are nearer to it than this, in mm."""
SLENDER = 0.05
"""A region is slender when it has less than this part of the area of a circle of its outline's length."""
FINEST_MADE = 1500
"""Triangles of one face of a body that was made, about, at the most."""
ROUND = 5.0
"""A cylinder's triangles for display are so many times shorter across than its radius,"""
LEAST_ALONG = 0.01
"""and along it not longer than the reciprocal of this times as long."""
MOST_ALONG = 100
"""Spans along the straight edges of one face for display, about, at the most."""
TURNS = 6
"""So often a face is laid again with more points where its triangles lack parts of its outline."""
FINEST_DISPLAY = 6000
"""Triangles of one face for display, about, at the most."""


@record
class ChartMesh:
    """Triangles of one face in its chart.

    ``points_chart`` (n, 2) and their ``points_form`` (n, 3); ``triangles`` (t, 3) anticlockwise.
    ``outline`` (s, 4) lists the spans along edges: lower point, higher point, edge, number of the
    lower point's sample on that edge. Two faces name the spans of an edge they share alike. ``lines`` are
    the numbers of the points along each curve that was laid into the mesh, with the curve's own number.
    """

    unwrapped: Unwrapped
    points_chart: Array
    points_form: Array
    triangles: np.ndarray
    outline: np.ndarray
    lines: tuple[tuple[int, np.ndarray], ...] = ()


def faces_of(meshes: Sequence[ChartMesh]) -> np.ndarray:
    """The number of the face (t,) that each triangle of all the meshes is on."""
    return np.repeat([mesh.unwrapped.face.number for mesh in meshes], [len(mesh.triangles) for mesh in meshes])


def with_meshes(form: Form) -> Form:
    """The form with triangles and lines to look at, which are made when they are first asked for."""
    return replace(with_lines(form), meshes=LateSequence(len(form.faces), _looked_at, form))


def _looked_at(form: Form) -> tuple[FaceMesh, ...]:
    size = form.size
    unwrapped = [_unwrap_for_display(form, i) for i in range(len(form.faces))]
    fineness = []
    for k, face in enumerate(form.faces):
        h = max(size / 45, np.sqrt(face.area / (0.43 * FINEST_DISPLAY)))
        radius, most = (face.radius, FINEST_DISPLAY) if face.looked_at else (_least_radius(face), FINEST_MADE)
        if isinstance(unwrapped[k].chart, CylinderChart) and radius is not None and radius / ROUND < h:
            unwrapped[k] = _squeezed(unwrapped[k], along=max(radius / ROUND / h, LEAST_ALONG))
            h = radius / ROUND
        elif radius is not None:
            h = max(min(h, radius / 4), np.sqrt(face.area / (0.43 * most)), _straight(form, face) / MOST_ALONG)
        fineness.append(h)
    meshes = _meeting(chart_meshes(form, unwrapped, fineness, sag=size * SEEN))
    return tuple(_display(mesh) for mesh in meshes)


def _squeezed(unwrapped: Unwrapped, along: float) -> Unwrapped:
    """A part of a cylinder laid out shorter along its axis."""
    chart = unwrapped.chart
    assert isinstance(chart, CylinderChart)
    return replace(unwrapped, chart=SqueezedChart(chart.surface, chart.window, chart.mirror, along))


def _straight(form: Form, face: Face) -> float:
    """How long the straight edges of a face are together, in mm: along those of a narrow bend nothing bends."""
    edges = [form.edges[c.edge] for loop in face.loops for c in loop if c.edge >= 0]
    return sum(edge.length for edge in edges if isinstance(edge.curve, Line))


def _least_radius(face: Face) -> float | None:
    """How sharply a face bends at most, about, as a radius in mm; None where it is flat."""
    if face.developable:
        return face.radius
    walks = np.vstack([c.uv(np.linspace(c.start, c.end, 9)) for loop in face.loops for c in loop])
    low, high = walks.min(axis=0), walks.max(axis=0)
    grid = np.stack(np.meshgrid(*(np.linspace(a, b, 17) for a, b in zip(low, high, strict=True)), indexing="ij"), -1)
    points = face.surface.evaluate(grid.reshape(-1, 2)).reshape(17, 17, 3)
    normals = face.surface.normals(grid.reshape(-1, 2)).reshape(17, 17, 3)
    bends = []
    for axis in (0, 1):
        apart = np.linalg.norm(np.diff(points, axis=axis), axis=2)
        bends.append(np.linalg.norm(np.diff(normals, axis=axis), axis=2) / np.maximum(apart, 1e-9))
    most = max(float(bend.max()) for bend in bends)
    return 1 / most if most > 1e-9 else None


def _meeting(meshes: Sequence[ChartMesh]) -> list[ChartMesh]:
    """Points that faces share along an edge put to one place: on each surface they lie a little elsewhere."""
    from scipy.sparse import coo_matrix
    from scipy.sparse.csgraph import connected_components

    offsets = np.cumsum([0, *(len(mesh.points_form) for mesh in meshes)])
    outlines = [(mesh.outline[mesh.outline[:, 2] >= 0], offset) for mesh, offset in zip(meshes, offsets, strict=False)]
    point = np.concatenate([np.r_[rows[:, 0], rows[:, 1]] + offset for rows, offset in outlines])
    place = np.vstack([np.vstack([rows[:, 2:], rows[:, 2:] + [0, 1]]) for rows, _ in outlines])
    count = int(offsets[-1])
    if not len(place):
        return list(meshes)
    key = count + np.unique(place, axis=0, return_inverse=True)[1].ravel()
    size = int(key.max()) + 1
    node = connected_components(coo_matrix((np.ones(len(point)), (point, key)), (size, size)), directed=False)[1][
        :count
    ]
    points = np.vstack([mesh.points_form for mesh in meshes])
    shared = np.unique(point)
    many = np.bincount(node[shared], minlength=node.max() + 1)
    total = np.stack([np.bincount(node[shared], points[shared, k], len(many)) for k in range(3)], axis=1)
    points[shared] = (total / np.maximum(many, 1)[:, None])[node[shared]]
    return [
        replace(mesh, points_form=points[a:b]) for mesh, a, b in zip(meshes, offsets[:-1], offsets[1:], strict=True)
    ]


def _unwrap_for_display(form: Form, index: int) -> Unwrapped:
    try:
        return unwrap(without_overlap(form.faces[index]))
    except CannotBeDone:  # closed in every direction: looked at in plain parameters
        return unwrap_plain(form.faces[index])


def _display(mesh: ChartMesh) -> FaceMesh:
    face, chart = mesh.unwrapped.face, mesh.unwrapped.chart
    count = len(mesh.points_chart)
    uv, triangles = split_along_creases(chart.unflatten(mesh.points_chart), mesh.triangles, chart)
    points = np.vstack([mesh.points_form, face.surface.evaluate(uv[count:])])
    normals = face.outward(uv)
    at_pole = np.linalg.norm(normals, axis=1) < 0.5
    if at_pole.any():
        normals[at_pole] = normals_at_points(points, triangles)[at_pole]
    return FaceMesh(points, uv, triangles, normals)


def chart_meshes(
    form: Form,
    unwrapped: Sequence[Unwrapped],
    fineness: Sequence[float],
    sag: float,
    progress: Progress = SILENT,
    lines: Sequence[LineOnFace] = (),
) -> list[ChartMesh]:
    """Triangles of several faces that meet in the same points along the edges they share.

    ``fineness`` is the edge length of each face's triangles in mm; along edges, chords also stay
    within ``sag`` mm of the edge. ``lines`` on the faces become edges of the triangles.
    """
    longest: dict[int, float] = {}
    splits: dict[int, list[float]] = {}
    ends: dict[int, list[float]] = {}
    for face, h in zip(unwrapped, fineness, strict=True):
        for loop in face.loops:
            for c in loop:
                if c.edge >= 0:
                    longest[c.edge] = min(longest.get(c.edge, np.inf), h / face.chart.squeezed(c))
                    corners = (*_corners(c), *crossings(c, face.face.surface))
                    splits.setdefault(c.edge, []).extend((c.start, c.end, *corners))
                    ends.setdefault(c.edge, []).extend((c.start, c.end))
    for line in lines:
        for on in (line.start, line.end):
            if on is not None:
                splits[on[0]].append(on[1])
                ends[on[0]].append(on[1])
    samples = {}
    for edge, h in longest.items():
        curve = form.edges[edge].curve
        breaks = np.unique(np.round(splits[edge], 13))
        if isinstance(curve, Line):
            parts = [parameters_along(curve, a, b, h) for a, b in pairwise(breaks)]
        else:
            parts = [parameters_within(curve.evaluate, a, b, sag, h) for a, b in pairwise(breaks)]
        samples[edge] = _uncrowded(curve.evaluate, np.unique(np.concatenate(parts)), ends[edge], sag, h)
    level = None if lines or form.before is not None else _own_level(unwrapped, fineness)
    if level is not None:
        samples = {edge: np.arange(form.edges[edge].end * 2**level + 1) / 2**level for edge in samples}
    laid: dict[int, tuple[ChartMesh, list[tuple[int, int]], list[LineOnFace]]] = {}
    for turn in range(TURNS):
        for i, (face, h) in enumerate(zip(unwrapped, fineness, strict=True)):
            progress.step(i / len(unwrapped), "laying triangles")
            if i in laid:
                continue
            if level is not None and isinstance(face.face.surface, MeshSurface):
                laid[i] = _own(face, level), [], []
            else:
                mine = [line for line in lines if line.face == i]
                laid[i] = _triangulate(face, h, samples, mine, form.before is not None)
        lost = [line for _, _, thin in laid.values() for line in thin]
        broken = [span for _, missing, _ in laid.values() for span in missing if span[0] >= 0]
        if lost and turn == TURNS - 1:
            _refuse_crowded(lost[0], unwrapped, fineness)
        if turn == TURNS - 1 or (not lost and (not broken or level is not None)):
            break
        if lost:  # the curve must be sampled more finely to come out as edges
            lines = [_halved(line) if any(line is other for other in lost) else line for line in lines]
            finer = {line.face for line in lost}
        else:
            changed = {edge for edge, _ in broken}
            for edge in changed:
                t = samples[edge]
                spans = np.unique([k for e, k in broken if e == edge])
                samples[edge] = np.sort(np.concatenate([t, (t[spans + 1] + t[spans]) / 2]))
            finer = {
                i for i, face in enumerate(unwrapped) if any(c.edge in changed for loop in face.loops for c in loop)
            }
        for i in finer:
            del laid[i]
    return [laid[i][0] for i in range(len(unwrapped))]


def _halved(line: LineOnFace) -> LineOnFace:
    points = np.empty((2 * len(line.points) - 1, 2))
    points[::2], points[1::2] = line.points, (line.points[1:] + line.points[:-1]) / 2
    return replace(line, points=points)


def _refuse_crowded(line: LineOnFace, unwrapped: Sequence[Unwrapped], fineness: Sequence[float]) -> None:
    number = unwrapped[line.face].face.number
    raise CannotBeDone(
        f"A relief on face {number} runs too near to an edge or to another relief for triangles of "
        f"{fineness[line.face]:.2g} mm; take smaller triangles, or move it.",
        faces=[number],
    )


def _own_level(unwrapped: Sequence[Unwrapped], fineness: Sequence[float]) -> int | None:
    """How often the own triangles of meshes must be quartered for the fineness asked; None where they are
    so much finer that new ones are laid instead, or where no face is a mesh."""
    own = [(f.face.area, len(f.face.surface.triangles), h) for f, h in zip(unwrapped, fineness, strict=True)
           if isinstance(f.face.surface, MeshSurface)]  # fmt: skip
    if not own:
        return None
    area, count, h = sum(a for a, _, _ in own), sum(n for _, n, _ in own), min(h for *_, h in own)
    edge = np.sqrt(area / (0.433 * count))
    return None if edge < OWN * h else max(0, round(float(np.log2(edge / h))))


def _own(face: Unwrapped, level: int) -> ChartMesh:
    """The triangles that a mesh has of its own, each quartered ``level`` times."""
    from scipy.spatial import cKDTree

    surface = face.face.surface
    assert isinstance(surface, MeshSurface)
    points, uv, triangles = surface.points, surface.uv, surface.triangles
    nearest = cKDTree(uv)
    walks = []
    for loop in face.loops:
        for c in loop:
            low, high = sorted((c.start, c.end))
            index = nearest.query(c.uv(np.arange(low, high + 1)))[1]
            walks.append((c.edge, index))
    for _ in range(level):
        keys = edge_keys(half_edges(triangles), len(points))
        unique, middle = np.unique(keys, return_inverse=True)
        a, b = unique // len(points), unique % len(points)
        first, second, third = (len(points) + middle).reshape(3, -1)
        finer = []
        for edge, index in walks:
            between = np.searchsorted(unique, edge_keys(np.stack([index[:-1], index[1:]], axis=1), len(points)))
            longer = np.empty(2 * len(index) - 1, int)
            longer[::2], longer[1::2] = index, len(points) + between
            finer.append((edge, longer))
        walks = finer
        i, j, k = triangles.T
        quarters = [(i, first, third), (first, j, second), (third, second, k), (first, second, third)]
        triangles = np.concatenate([np.stack(q, axis=1) for q in quarters])
        points = np.vstack([points, (points[a] + points[b]) / 2])
        uv = np.vstack([uv, (uv[a] + uv[b]) / 2])
    outline = [
        np.column_stack([index[:-1], index[1:], np.full(len(index) - 1, edge), np.arange(len(index) - 1)])
        for edge, index in walks
    ]
    return ChartMesh(face, face.chart.flatten(uv), points, triangles, np.vstack(outline))


def _samples_of(coedge: Coedge, samples: dict[int, Array], h: float, face: Unwrapped) -> tuple[Array, np.ndarray]:
    """Parameters along the walk, and their numbers in the edge's samples."""
    if coedge.edge < 0:
        t = parameters_within(lambda t: face.chart_points(coedge, t), coedge.start, coedge.end, np.inf, h)
        return t, np.full(len(t), -1)
    t = samples[coedge.edge]
    low, high = sorted((coedge.start, coedge.end))
    tiny = 1e-12 * max(1.0, abs(low), abs(high))
    index = np.nonzero((t >= low - tiny) & (t <= high + tiny))[0]
    if coedge.backwards:
        index = index[::-1]
    return t[index], index


def _triangulate(
    face: Unwrapped, h: float, samples: dict[int, Array], lines: Sequence[LineOnFace] = (), was_cut: bool = False
):
    """The mesh of one face, which spans of its outline (edge, sample) it lacks, and which lines."""
    points: list[Array] = []
    spans: list[tuple[int, int, int, int]] = []
    rings = []
    count = 0
    for loop in face.loops:
        first = count
        for coedge in loop:
            t, sample = _samples_of(coedge, samples, h, face)
            xy = face.chart_points(coedge, t)
            if np.abs(xy - xy[0]).max() < 1e-9:  # a pole: one point
                continue
            for k in range(len(t) - 1):
                here, there = count + k, count + k + 1
                low, high = (here, there) if sample[k] <= sample[k + 1] else (there, here)
                spans.append((low, high, coedge.edge, min(sample[k], sample[k + 1])))
            points.append(xy[:-1])
            count += len(t) - 1
        if count > first:  # the last span ends where the loop began
            low, high, edge, number = spans[-1]
            spans[-1] = (first if low == count else low, first if high == count else high, edge, number)
            rings.append((first, count))
    around = np.array(spans, int).reshape(-1, 4)
    outline = np.vstack(points)
    region = Region(tuple(outline[a:b] for a, b in rings))
    every, chains = _with_lines(outline, lines)
    inner = _filling(every, region, h)
    surface = face.face.surface
    if was_cut and isinstance(surface, MeshSurface) and not len(lines):  # it keeps the points that are left
        inner = np.vstack([inner, _own_points(face, surface, region, np.vstack([every, inner]), h)])
    every = np.vstack([every, inner])
    triangles = _delaunay(every, slender=4 * np.pi * region.shape.area < SLENDER * region.shape.length**2)
    triangles = _anticlockwise(every, triangles)
    wanted = np.vstack([around[:, :2], *(np.stack([chain[:-1], chain[1:]], axis=1) for chain in chains)])
    known = among(edge_keys(wanted, len(every)), distinct(edge_keys(half_edges(triangles), len(every))))
    triangles = with_edges(every, triangles, wanted[~known & (wanted[:, 0] != wanted[:, 1])])
    double = signed_double_areas(every, triangles)
    triangles = triangles[region.contains(every[triangles].mean(axis=1)) & (double > 1e-10 * h * h)]
    have = distinct(edge_keys(half_edges(triangles), len(every)))
    lost = [
        line for line, chain in zip(lines, chains, strict=True) if not among(path_keys(chain, len(every)), have).all()
    ]
    lacks = ~among(edge_keys(around[:, :2], len(every)), have)
    missing = [(int(e), int(k)) for e, k in around[lacks, 2:]]
    is_used = np.zeros(len(every), bool)
    is_used[triangles] = True
    used = np.flatnonzero(is_used)
    renumber = np.full(len(every), -1)
    renumber[used] = np.arange(len(used))
    around = np.column_stack([renumber[around[:, :2]], around[:, 2:]])
    around = around[(around[:, :2] >= 0).all(axis=1)]
    mesh = ChartMesh(face, every[used], face.chart.to_layer(every[used]), renumber[triangles], around,
        tuple((line.line, renumber[chain]) for line, chain in zip(lines, chains, strict=True)))  # fmt: skip
    return mesh, missing, lost


def _anticlockwise(points: Array, triangles: np.ndarray) -> np.ndarray:
    return np.where((signed_double_areas(points, triangles) < 0)[:, None], triangles[:, [0, 2, 1]], triangles)


def _corners(coedge: Coedge) -> list[float]:
    """Where a walk turns at corners of its own in the surface's parameters."""
    low, high = sorted((coedge.start, coedge.end))
    sharp = coedge.curve.sharp if isinstance(coedge.curve, Spline) else np.zeros(0)
    return sharp[(sharp > low) & (sharp < high)].tolist()


def _uncrowded(curve: Callable[[Array], Array], t: Array, ends: Sequence[float], sag: float, h: float) -> Array:
    """Of places ``t`` (n,) on a curve those that are not needlessly close, as they are about corners of polylines.

    The places ``ends`` stay, and so do those without which a chord would be further than ``sag`` mm from the curve.
    """
    points = curve(t)
    close = CROWDED * h
    if np.linalg.norm(np.diff(points, axis=0), axis=1).min(initial=np.inf) >= close:
        return t
    stays = np.isin(t, np.round(ends, 13))
    stays[[0, -1]] = True
    kept = [0]
    for k in range(1, len(t)):
        at, before = points[k], points[kept[-1]]
        near = np.linalg.norm(at - before) < close
        if near and not stays[k] and _off_the_chord(before, at, points[k + 1]) <= sag:
            continue
        if near and not stays[kept[-1]] and _off_the_chord(points[kept[-2]], before, at) <= sag:
            kept[-1] = k
        else:
            kept.append(k)
    return t[kept]


def _off_the_chord(start: Array, point: Array, end: Array) -> float:
    """How far in mm a point (3,) lies from the line between two others."""
    chord = (end - start) / max(float(np.linalg.norm(end - start)), 1e-300)
    off = point - start
    return float(np.linalg.norm(off - chord * (off @ chord)))


def _delaunay(points: Array, slender: bool) -> np.ndarray:
    """Delaunay triangles (t, 3) of points (n, 2).

    Those of ``slender`` regions by GEOS: on long rows of points, Qhull is more than ten times as slow.
    """
    from scipy.spatial import Delaunay, cKDTree  # slow to import, and not needed by the window

    if not slender:
        return Delaunay(points).simplices
    try:
        found = shapely.get_coordinates(shapely.delaunay_triangles(shapely.multipoints(points)))
    except shapely.errors.GEOSException:  # it loses its way in some rows of points
        return Delaunay(points).simplices
    return cKDTree(points).query(found)[1].reshape(-1, 4)[:, :3]


def _with_lines(outline: Array, lines: Sequence[LineOnFace]) -> tuple[Array, list[np.ndarray]]:
    """The outline's points and those of the lines, points that coincide only once; and each line's numbers."""
    from scipy.spatial import cKDTree

    if not lines:
        return outline, []
    every = np.vstack([outline, *(line.points for line in lines)])
    first = np.arange(len(every))
    pairs = cKDTree(every).query_pairs(1e-7 * (1 + np.abs(every).max()), output_type="ndarray")
    for low, high in pairs[np.lexsort(pairs.T)].tolist():
        if high >= len(outline):
            first[high] = min(first[high], first[low])
    kept, chain = np.unique(np.r_[np.arange(len(outline)), first[len(outline) :]], return_inverse=True)
    ends = np.cumsum([len(line.points) for line in lines])
    return every[kept], np.split(chain[len(outline) :], ends[:-1])


def _own_points(face: Unwrapped, mesh: MeshSurface, region: Region, others: Array, h: float) -> Array:
    """The points of a mesh in its chart that lie inside the region, clear of other points."""
    from scipy.spatial import cKDTree

    own = face.chart.flatten(mesh.uv)
    own = own[region.contains(own)]
    if not len(own):
        return own
    return own[cKDTree(others).query(own)[0] > min(CLEAR, CROWDED * h)]


def _filling(outline: Array, region, h: float) -> Array:
    """A net of equilateral triangles inside the region, clear of the outline."""
    from scipy.spatial import cKDTree

    low, high = outline.min(axis=0), outline.max(axis=0)
    row = h * np.sqrt(3) / 2
    y = np.arange(low[1] + row / 2, high[1], row)
    x = np.arange(low[0] + h / 2, high[0] + h, h)
    grid = np.stack(np.meshgrid(x, y), axis=-1)
    grid[1::2, :, 0] -= h / 2
    net = grid.reshape(-1, 2)
    net = net[region.contains(net)]
    if not len(net):
        return net
    return net[cKDTree(outline).query(net)[0] > 0.55 * h]
