"""Picked faces as one connected sheet of triangles, relaxed flat."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np
from scipy.interpolate import CubicSpline
from scipy.sparse import coo_matrix
from scipy.sparse.csgraph import connected_components

from ..correspondence import TriangulatedLeaf
from ..errors import CannotBeDone
from ..flatten.keeping import Held
from ..flatten.metric import Metric, singular_values
from ..flatten.relaxed import relax
from ..form.curves import Array
from ..form.form import CUT, Form
from ..form.lines_on_faces import lines_on_faces
from ..form.meshing import ChartMesh, chart_meshes
from ..form.opening import characteristic, cuts_to_disc, edge_keys, opened, path_keys
from ..form.unwrapped import Unwrapped
from ..progress import SILENT, Progress
from ..tolerances import OUTLINE
from ..triangles import boundary_rings, signed_double_areas
from .blank import Flat, StretchMesh
from .laying import AS_IT_IS, Joining, arranged, flat_of
from .limits import MOST_TRIANGLES
from .outline import RELIEF, Side, Walk

EQUILATERAL = 0.433
"""Area of an equilateral triangle whose edges are 1."""


@dataclass(frozen=True)
class Welded:
    """Meshes of several faces with common points: ``numbers`` gives each mesh's points in the whole."""

    points_form: Array
    triangles: np.ndarray
    numbers: tuple[np.ndarray, ...]


def triangle_size(area: float, asked: float | None) -> float:
    """The edge length asked for, or that which gives about 9,000 triangles, in mm.

    Raises CannotBeDone where it would give far too many.
    """
    h = asked or float(np.sqrt(area / (EQUILATERAL * 9000)))
    count = area / (EQUILATERAL * h * h)
    if count > MOST_TRIANGLES:
        raise CannotBeDone(
            f"Triangles of {h:g} mm would be about {count:,.0f}; the limit is {MOST_TRIANGLES:,}, so take larger ones."
        )
    return h


def stretch_mesh(points_form: Array, triangles: np.ndarray, points_blank: Array) -> StretchMesh:
    """The triangles with their principal stretches."""
    jacobians = Metric.of(points_form, triangles).jacobians(points_blank)
    return StretchMesh(points_blank, points_form, triangles, 1 / singular_values(jacobians)[:, ::-1] - 1)


def lay_relaxed(
    form: Form,
    unwrapped: dict[int, Unwrapped],
    first: int,
    edge_length: float | None = None,
    how: Joining = AS_IT_IS,
    progress: Progress = SILENT,
) -> Flat:
    """Relaxes the faces flat together; sheets that do not hang together become pieces."""
    area = form.area(unwrapped)
    h = triangle_size(area, edge_length)
    faces = list(unwrapped.values())
    lines = lines_on_faces(form, faces, how.reliefs, h)
    meshes = chart_meshes(form, faces, [h] * len(faces), sag=h * h / 40 / np.sqrt(area) + 1e-4, lines=lines)
    whole = weld(meshes, how.cuts)
    welded, old, cut, seams = opened_at(whole, meshes)
    pieces = _connected(welded)
    start = _known_start(meshes, welded, old)
    blank = np.zeros((len(welded.points_form), 2))
    ordered = sorted(set(pieces), key=lambda p: pieces[welded.numbers[_index(faces, first)][0]] != p)
    members = [np.nonzero(pieces == piece)[0] for piece in ordered]
    for k, (piece, mine) in enumerate(zip(ordered, members, strict=True)):
        renumber = np.full(len(pieces), -1)
        renumber[mine] = np.arange(len(mine))
        triangles = renumber[welded.triangles[pieces[welded.triangles[:, 0]] == piece]]
        part = progress.part(0.1 + 0.8 * k / len(ordered), 0.1 + 0.8 * (k + 1) / len(ordered))
        known = start[mine] if start is not None else None
        held = _held(meshes, whole, welded, old, how, renumber)
        made = relax(welded.points_form[mine], triangles, known, progress=part, keep=how.keep, held=held)
        blank[mine] = made.points_blank
    if how.settle is not None:
        at = _index(faces, first)
        blank = how.settle(_leaves(meshes, whole, welded, old, blank)[at]).apply(blank)
    for mine, motion in zip(members, arranged([blank[mine] for mine in members], how.gap), strict=True):
        blank[mine] = motion.apply(blank[mine])
    leaves = _leaves(meshes, whole, welded, old, blank)
    mesh = stretch_mesh(welded.points_form, welded.triangles, blank)
    return flat_of(
        _outline_sides(meshes, whole, welded, old, cut, blank),
        (),
        leaves,
        len(ordered),
        mesh,
        how.tabs,
        (*_seams_said(seams), *_beside(len(how.reliefs), {line.line for line in lines})),
    )


def _held(
    meshes: Sequence[ChartMesh],
    whole: Welded,
    welded: Welded,
    old: np.ndarray,
    how: Joining,
    renumber: np.ndarray,
) -> Held | None:
    """The spans of the edges that are held, in the numbers of one piece; None where there are none in it."""
    if not how.straight and not how.long:
        return None
    new = np.full(len(whole.points_form), -1)
    new[old] = np.arange(len(old))  # of a point that a relief has doubled, one copy is held
    pairs, edges = [], []
    for mesh, numbers in zip(meshes, whole.numbers, strict=True):
        for low, high, edge, _ in mesh.outline.tolist():
            if edge in how.straight or edge in how.long:
                pair = renumber[new[[numbers[low], numbers[high]]]]
                if (pair >= 0).all():
                    pairs.append(pair)
                    edges.append(edge)
    if not pairs:
        return None
    spans = np.array(pairs)
    mine = np.nonzero(renumber >= 0)[0]
    points = welded.points_form[mine]
    lengths = np.linalg.norm(points[spans[:, 1]] - points[spans[:, 0]], axis=1)
    _, chains = np.unique(edges, return_inverse=True)
    straight, long = (np.isin(edges, sorted(held)) for held in (how.straight, how.long))
    return Held(spans, lengths, chains, straight, long)


def opened_at(whole: Welded, meshes: Sequence[ChartMesh]) -> tuple[Welded, np.ndarray, dict[int, int], float]:
    """The sheet cut open along the lines that were laid into it and, where it still closes on itself, along seams.

    With it the old number of each point, for each cut span (by its key) the number of its line, seams being
    numbered on, and the length of the seams in mm.
    """
    n = len(whole.points_form)
    cut: dict[int, int] = {}
    for mesh, numbers in zip(meshes, whole.numbers, strict=True):
        for line, chain in mesh.lines:
            cut.update(dict.fromkeys(path_keys(numbers[chain], n).tolist(), line))
    triangles, old = (
        opened(whole.triangles, n, np.array(sorted(cut), np.int64)) if cut else (whole.triangles, np.arange(n))
    )
    made = Welded(whole.points_form[old], triangles, whole.numbers)
    pieces = _connected(made)
    seams: list[np.ndarray] = []
    for piece in np.unique(pieces[triangles[:, 0]]):
        mine = triangles[pieces[triangles[:, 0]] == piece]
        if not _disc_like(mine):
            used, local = np.unique(mine, return_inverse=True)
            local = local.reshape(-1, 3)
            keys = cuts_to_disc(made.points_form[used], local)
            ends = old[used[np.stack([keys // len(used), keys % len(used)], axis=1)]]
            seams.append(edge_keys(ends, n))
    if not seams:
        return made, old, cut, 0.0
    every = np.unique(np.concatenate(seams))
    number = max(cut.values(), default=-1) + 1
    cut.update(dict.fromkeys(every.tolist(), number))
    triangles, old = opened(whole.triangles, n, np.array(sorted(cut), np.int64))
    length = float(np.linalg.norm(whole.points_form[every // n] - whole.points_form[every % n], axis=1).sum())
    return Welded(whole.points_form[old], triangles, whole.numbers), old, cut, length


def _leaves(
    meshes: Sequence[ChartMesh], whole: Welded, welded: Welded, old: np.ndarray, blank: Array
) -> tuple[TriangulatedLeaf, ...]:
    """Each face between its chart and the blank; points on a cut stand once for each side of it."""
    leaves = []
    begin = 0
    for mesh, numbers in zip(meshes, whole.numbers, strict=True):
        mine = welded.triangles[begin : begin + len(mesh.triangles)]
        begin += len(mesh.triangles)
        used, triangles = np.unique(mine, return_inverse=True)
        in_chart = np.full(len(whole.points_form), -1)
        in_chart[numbers] = np.arange(len(numbers))
        face = mesh.unwrapped
        leaves.append(
            TriangulatedLeaf(
                face.face.number, face.chart, face.region(OUTLINE),
                mesh.points_chart[in_chart[old[used]]], blank[used], triangles.reshape(-1, 3),
            )
        )  # fmt: skip
    return tuple(leaves)


def _beside(count: int, opened: set[int]) -> tuple[str, ...]:
    """A sentence on reliefs that do not lie on the faces."""
    lost = [str(k + 1) for k in range(count) if k not in opened]
    if not lost:
        return ()
    return (f"Relief {', '.join(lost)} lies beside the developed faces, so nothing opens there; draw it on them.",)


def _seams_said(length: float) -> tuple[str, ...]:
    if length == 0:
        return ()
    return (
        f"The faces close on themselves and were cut open along {length:.0f} mm; cut them open along edges of your "
        "choice where another seam is better.",
    )


def _index(faces: Sequence[Unwrapped], number: int) -> int:
    return next(i for i, face in enumerate(faces) if face.face.number == number)


def weld(meshes: Sequence[ChartMesh], cuts: Collection[int] = ()) -> Welded:
    """Joins the meshes along edges that two of the faces share; a seam within one face, and ``cuts``, stay open."""
    offsets = np.cumsum([0, *(len(m.points_form) for m in meshes)])
    every = np.vstack([m.points_form for m in meshes])
    parent = np.arange(len(every))

    def root(i: int) -> int:
        while parent[i] != i:
            parent[i] = parent[parent[i]]
            i = parent[i]
        return i

    spans: dict[tuple[int, int], list[tuple[int, int, int]]] = {}
    for i, mesh in enumerate(meshes):
        for low, high, edge, sample in mesh.outline.tolist():
            if edge >= 0 and edge not in cuts:
                spans.setdefault((edge, sample), []).append((i, offsets[i] + low, offsets[i] + high))
    for met in spans.values():
        if len(met) == 2 and met[0][0] != met[1][0]:
            (_, a, b), (_, c, d) = met
            parent[root(a)] = root(c)
            parent[root(b)] = root(d)
    roots = np.array([root(i) for i in range(len(every))])
    used, numbers = np.unique(roots, return_inverse=True)
    triangles = np.vstack([numbers[m.triangles + o] for m, o in zip(meshes, offsets, strict=False)])
    parts = tuple(numbers[a:b] for a, b in pairwise(offsets))
    return Welded(every[used], triangles, parts)


def _connected(welded: Welded) -> np.ndarray:
    n = len(welded.points_form)
    i, j = welded.triangles[:, :2].T
    k = welded.triangles[:, 2]
    joined = coo_matrix((np.ones(2 * len(i)), (np.r_[i, j], np.r_[j, k])), (n, n))
    return connected_components(joined, directed=False)[1]


def _disc_like(triangles: np.ndarray) -> bool:
    """Whether a connected sheet can lie flat: it has an outline, and no handle; holes do not matter."""
    rings = len(boundary_rings(triangles))
    return rings > 0 and characteristic(triangles) + rings == 2


def _known_start(meshes: Sequence[ChartMesh], welded: Welded, old: np.ndarray) -> Array | None:
    """The chart of a single face, as the start of its development; None for several faces."""
    if len(meshes) != 1:
        return None
    start = np.zeros((int(old.max()) + 1, 2))
    start[welded.numbers[0]] = meshes[0].points_chart
    start = start[old]
    good = (signed_double_areas(start, welded.triangles) > 0).all()
    return start if good else None


def _outline_sides(
    meshes: Sequence[ChartMesh], whole: Welded, welded: Welded, old: np.ndarray, cut: dict[int, int], blank: Array
) -> list[list[Side]]:
    """The outline of the blank: smooth curves through the points along each edge of the form."""
    edge_of: dict[tuple[int, int], int] = {}
    for i, mesh in enumerate(meshes):
        for low, high, edge, _ in mesh.outline.tolist():
            a, b = sorted((int(whole.numbers[i][low]), int(whole.numbers[i][high])))
            edge_of[a, b] = edge * len(meshes) + i
    chains: list[list[Side]] = []
    for ring in boundary_rings(welded.triangles):
        was = old[ring]
        spans = zip(was.tolist(), np.roll(was, -1).tolist(), strict=True)
        edges = [_edge_of(min(span), max(span), edge_of, cut, len(whole.points_form), len(meshes)) for span in spans]
        # a side ends where another edge begins, and at the tip of a relief, where the outline turns back
        tips = np.roll(was, 1) == np.roll(was, -1)
        turns = [i for i in range(len(edges)) if edges[i] != edges[i - 1] or tips[i]]
        if not turns:
            points = blank[np.r_[ring, ring[:1]]]
            edge, face = divmod(edges[0], len(meshes))
            number = meshes[face].unwrapped.face.number
            side = Side(number, _named(edge, number), [_smooth(points, periodic=True)])
            chains.append([side])
            continue
        chain = []
        for start, end in zip(turns, [*turns[1:], turns[0] + len(ring)], strict=True):
            index = ring[np.arange(start, end + 1) % len(ring)]
            edge, face = divmod(edges[start], len(meshes))
            number = meshes[face].unwrapped.face.number
            chain.append(Side(number, _named(edge, number), [_smooth(blank[index])]))
        chains.append(chain)
    return chains


def _edge_of(a: int, b: int, edge_of: dict, cut: dict[int, int], points: int, faces: int) -> int:
    """Which edge a span of the outline lies on, or which relief, with the face's index in the last place."""
    relief = cut.get(a * points + b)
    if relief is not None:
        return (RELIEF - relief) * faces
    return edge_of.get((a, b), -faces)


def _named(edge: int, face: int) -> int:
    """The name of a side, as ``Side`` has it."""
    if edge >= 0:
        return edge + 1
    return edge if edge <= RELIEF else -face if edge == CUT else 0


def _smooth(points: Array, periodic: bool = False) -> Walk:
    t = np.r_[0, np.cumsum(np.linalg.norm(np.diff(points, axis=0), axis=1))]
    if len(points) < 4:
        return (lambda s: np.stack([np.interp(s, t, points[:, k]) for k in (0, 1)], axis=1)), 0.0, float(t[-1])
    spline = CubicSpline(t, points, bc_type="periodic" if periodic else "not-a-knot")
    return spline, 0.0, float(t[-1])
