"""Meshes of several faces made one sheet, and that sheet cut open."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from itertools import pairwise

import numpy as np
from scipy.sparse import coo_matrix
from scipy.sparse.csgraph import connected_components

from ..form.meshing import ChartMesh
from ..geometry.curves import Array
from ..mesh.opening import characteristic, cuts_to_disc, edge_keys, opened, path_keys
from ..mesh.triangles import boundary_rings
from ..record import record


@record
class Welded:
    """Meshes of several faces with common points: ``numbers`` gives each mesh's points in the whole."""

    points_form: Array
    triangles: np.ndarray
    numbers: tuple[np.ndarray, ...]


def weld(meshes: Sequence[ChartMesh], cuts: Collection[int] = ()) -> Welded:
    """Joins the meshes along edges that two of the faces share; a seam within one face, and ``cuts``, stay open."""
    offsets = np.cumsum([0, *(len(m.points_form) for m in meshes)])
    every = np.vstack([m.points_form for m in meshes])
    spans: dict[tuple[int, int], list[tuple[int, int, int]]] = {}
    for i, mesh in enumerate(meshes):
        for low, high, edge, sample in mesh.outline.tolist():
            if edge >= 0 and edge not in cuts:
                spans.setdefault((edge, sample), []).append((i, offsets[i] + low, offsets[i] + high))
    same = [
        pair
        for met in spans.values()
        if len(met) == 2 and met[0][0] != met[1][0]
        for pair in zip(met[0][1:], met[1][1:], strict=True)
    ]
    one, other = np.array(same, int).reshape(-1, 2).T
    joined = coo_matrix((np.ones(len(one)), (one, other)), (len(every), len(every)))
    _, used, numbers = np.unique(
        connected_components(joined, directed=False)[1], return_index=True, return_inverse=True
    )
    triangles = np.vstack([numbers[m.triangles + o] for m, o in zip(meshes, offsets, strict=False)])
    parts = tuple(numbers[a:b] for a, b in pairwise(offsets))
    return Welded(every[used], triangles, parts)


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
    made, old = cut_open(whole, cut) if cut else (whole, np.arange(n))
    triangles = made.triangles
    pieces = connected(made.points_form, triangles)
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
    made, old = cut_open(whole, cut)
    return made, old, cut, length_of(whole, every)


def cut_open(whole: Welded, cut: Collection[int]) -> tuple[Welded, np.ndarray]:
    """The sheet opened along edges with the keys ``cut``, and the old number of each point."""
    triangles, old = opened(whole.triangles, len(whole.points_form), np.array(sorted(cut), np.int64))
    return Welded(whole.points_form[old], triangles, whole.numbers), old


def length_of(whole: Welded, keys: np.ndarray) -> float:
    """Of the edges with these keys, in mm."""
    n = len(whole.points_form)
    return float(np.linalg.norm(whole.points_form[keys // n] - whole.points_form[keys % n], axis=1).sum())


def connected(points: Array, triangles: np.ndarray) -> np.ndarray:
    """For each of ``points`` (n, 2 or 3) the number of the piece it is in."""
    i, j, k = triangles.T
    joined = coo_matrix((np.ones(2 * len(i)), (np.r_[i, j], np.r_[j, k])), (len(points), len(points)))
    return connected_components(joined, directed=False)[1]


def _disc_like(triangles: np.ndarray) -> bool:
    """Whether a connected sheet can lie flat: it has an outline, and no handle; holes do not matter."""
    rings = len(boundary_rings(triangles))
    return rings > 0 and characteristic(triangles) + rings == 2
