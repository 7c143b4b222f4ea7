"""Stages between blank and form: the blank bent so far, as it would be by hand.

Each triangle has a rotation from the blank to the form. What neighbours are turned against each other by is the bending
between them; a stage has the part S of it, and S of the stretch, where there is some. A developable bent in this way
stays isometric: the metric is kept, and a part of the second fundamental form satisfies the equations of Gauss and
Codazzi as the whole does (do Carmo, Differential geometry, section 4-3). From the rotations the places of the points
follow by one sparse solution (Sumner and Popović, Deformation transfer for triangle meshes, 2004), and a few local and
global steps settle what the rotations do not agree on.
"""

from __future__ import annotations

from functools import cached_property

import numpy as np

from ..correspondence import RigidLeaf, TriangulatedLeaf
from ..errors import Refused
from ..form.form import Form
from ..form.meshing import chart_meshes
from ..form.unwrapped import Unwrapped
from ..geometry.curves import Array
from ..lazy import Lazy
from ..progress import SILENT, Progress
from ..record import record
from .blank import Blank

FINE = 30
"""The triangles of a bent face are so many to its radius."""
COARSE = 40
"""Those of another one are so many to the form's size."""
SAG = 2e-5
"""Chords of edges stay within this part of the size of the form."""
MOST = 120_000
LIGHT = 2_500
"""So many triangles, and no finer chords than ``LIGHT_SAG``, are enough to look at."""
LIGHT_SAG = 4e-4
SAME = 1e-6
"""Points that lie no further apart, on form and blank, are one; as part of the form's size."""
STEPS_AFTER = 4
"""Local and global steps after the first solution."""


@record
class FoldMesh(Lazy):
    """``points_blank`` (n, 2) and ``points_form`` (n, 3) correspond; ``triangles`` (t, 3)."""

    points_blank: Array
    points_form: Array
    triangles: np.ndarray

    def same_as(self, other: FoldMesh) -> bool:
        """Whether it has the same triangles of the same points."""
        return self is other or all(
            np.array_equal(mine, its)
            for mine, its in (
                (self.triangles, other.triangles),
                (self.points_blank, other.points_blank),
                (self.points_form, other.points_form),
            )
        )

    def stage(self, share: float) -> Array:
        """Points (n, 3) of the stage ``share`` between the blank (0), which lies in z = 0, and the form (1)."""
        turns = self._turns_at(share)
        strain = np.eye(2) + share * (self._strain - np.eye(2))
        wanted = turns[:, :, :2] @ strain @ self._spans_blank
        points = self._placed(wanted, share)
        stretched, back = strain @ self._spans_blank, self._inverse @ np.linalg.inv(strain)
        for _ in range(STEPS_AFTER if 0 < share < 1 else 0):
            turns = _rotations(self._edges(points) @ back)
            points = self._placed(turns[:, :, :2] @ stretched, share)
        return points

    def held_at(self, share: float, point: Array) -> Array:
        """The same stage (n, 3), moved so that it touches the form at a point (3,) of it."""
        nearest = int(np.linalg.norm(self.points_form[self.triangles].mean(axis=1) - point, axis=1).argmin())
        stage = self.stage(share)
        both = (stage, self.points_form)
        here, there = (_rotations(self._edges(p)[[nearest]] @ self._inverse[[nearest]])[0] for p in both)
        start, end = (p[self.triangles[nearest]].mean(axis=0) for p in both)
        return (stage - start) @ (there @ here.T).T + end

    @cached_property
    def _spans_blank(self) -> Array:
        """Two edges of each triangle as columns (t, 2, 2)."""
        return self._edges(self.points_blank)

    @cached_property
    def _inverse(self) -> Array:
        inverse: Array = np.linalg.inv(self._spans_blank).astype(float)
        return inverse

    def _edges(self, points: Array) -> Array:
        """Two edges of each triangle over points (n, d) as columns (t, d, 2)."""
        corner = points[self.triangles]
        spans: Array = np.stack([corner[:, 1] - corner[:, 0], corner[:, 2] - corner[:, 0]], axis=2)
        return spans

    @cached_property
    def _whole(self) -> Array:
        """The rotations (t, 3, 3) from blank to form."""
        return _rotations(self._edges(self.points_form) @ self._inverse)

    @cached_property
    def _strain(self) -> Array:
        """What is left of the maps from blank to form without the rotations: (t, 2, 2), symmetric."""
        maps = self._edges(self.points_form) @ self._inverse
        return np.transpose(self._whole[:, :, :2], (0, 2, 1)) @ maps

    @cached_property
    def _tree(self) -> list[tuple[np.ndarray, np.ndarray]]:
        """Triangles and those they hang on, level by level; the roots hang on themselves."""
        from scipy.sparse import coo_matrix
        from scipy.sparse.csgraph import breadth_first_order, connected_components

        count = len(self.triangles)
        edges = np.vstack([self.triangles[:, [0, 1]], self.triangles[:, [1, 2]], self.triangles[:, [2, 0]]])
        keys = np.sort(edges, axis=1) @ np.array([len(self.points_blank), 1])
        order = np.argsort(keys, kind="stable")
        same = np.nonzero(keys[order][1:] == keys[order][:-1])[0]
        one, other = order[same] % count, order[same + 1] % count
        graph = coo_matrix((np.ones(len(one)), (one, other)), (count, count)).tocsr()
        pieces, label = connected_components(graph, directed=False)
        depth, parent = np.zeros(count, int), np.arange(count)
        for piece in range(pieces):
            mine = np.nonzero(label == piece)[0]
            centre = self.points_blank[self.triangles[mine]].mean(axis=1)
            root = int(mine[np.linalg.norm(centre - centre.mean(axis=0), axis=1).argmin()])
            found, before = breadth_first_order(graph, root, directed=False)
            for k in found[1:].tolist():
                parent[k] = before[k]
                depth[k] = depth[before[k]] + 1
        levels = [np.nonzero((depth == level) & (parent != np.arange(count)))[0] for level in range(depth.max() + 1)]
        roots = np.nonzero(parent == np.arange(count))[0]
        return [(roots, roots), *((level, parent[level]) for level in levels if len(level))]

    @cached_property
    def _bending(self) -> Array:
        """How each triangle is turned against the one it hangs on, a root against the plane: vectors (t, 3)."""
        from scipy.spatial.transform import Rotation

        whole, bending = self._whole, self._whole.copy()
        for level, parent in self._tree[1:]:
            bending[level] = np.transpose(whole[parent], (0, 2, 1)) @ whole[level]
        return np.asarray(Rotation.from_matrix(bending).as_rotvec())

    def _turns_at(self, share: float) -> Array:
        """The rotations (t, 3, 3) of a stage."""
        from scipy.spatial.transform import Rotation

        turns = np.asarray(Rotation.from_rotvec(share * self._bending).as_matrix())
        for level, parent in self._tree[1:]:
            turns[level] = turns[parent] @ turns[level]
        return turns

    @cached_property
    def _solver(self):
        """The factors of the system for the points, one of which is held in each piece, and its right side."""
        from scipy.sparse import coo_matrix, diags
        from scipy.sparse.csgraph import connected_components

        from ..flatten.pinned import Factor

        count, n = len(self.triangles), len(self.points_blank)
        area = np.abs(np.linalg.det(self._spans_blank)) / 2
        gradient = np.zeros((count, 2, 3))
        gradient[:, :, 1:] = np.transpose(self._inverse, (0, 2, 1))
        gradient[:, :, 0] = -gradient[:, :, 1:].sum(axis=2)
        rows = np.repeat(np.arange(2 * count), 3)
        columns = np.repeat(self.triangles, 2, axis=0).ravel()
        operator = coo_matrix((gradient.reshape(-1), (rows, columns)), (2 * count, n)).tocsr()
        weighted = operator.T @ diags(np.repeat(area, 2))
        system = (weighted @ operator).tocsr()
        pieces, label = connected_components(system, directed=False)
        held = np.array([int(np.nonzero(label == piece)[0][0]) for piece in range(pieces)])
        stiff = np.zeros(n)
        stiff[held] = float(system.diagonal().mean())
        return Factor.of(system + diags(stiff)), weighted, stiff

    def _placed(self, wanted: Array, share: float) -> Array:
        """Points (n, 3) whose triangles have edges as near to ``wanted`` (t, 3, 2) as can be."""
        factors, weighted, stiff = self._solver
        maps = wanted @ self._inverse  # (t, 3, 2)
        right = weighted @ np.transpose(maps, (0, 2, 1)).reshape(-1, 3)
        flat = np.column_stack([self.points_blank, np.zeros(len(self.points_blank))])
        return factors.solve(right + stiff[:, None] * (flat + share * (self.points_form - flat)))


def _rotations(maps: Array) -> Array:
    """The rotations (t, 3, 3) nearest to maps (t, 3, 2) from the plane into space.

    By the polar factor, whose root of a symmetric 2 x 2 matrix M is (M + d I) / sqrt(trace M + 2 d), d² being det M.
    """
    x, y = np.ascontiguousarray(maps[:, :, 0].T), np.ascontiguousarray(maps[:, :, 1].T)
    a, b, d = (x * x).sum(axis=0), (x * y).sum(axis=0), (y * y).sum(axis=0)
    root = np.sqrt(np.maximum(a * d - b * b, 1e-300))
    scale = np.sqrt(a + d + 2 * root) / ((a + root) * (d + root) - b * b)
    plane = np.stack([((d + root) * x - b * y) * scale, ((a + root) * y - b * x) * scale], axis=2).transpose(1, 0, 2)
    normal = np.cross(plane[:, :, 0], plane[:, :, 1])
    return np.concatenate([plane, normal[:, :, None]], axis=2)


def fold_mesh(form: Form, blank: Blank, progress: Progress = SILENT, light: bool = False) -> FoldMesh:
    """Triangles of a blank that are the same on both sides, fine enough to bend; ``light`` ones only to look at.

    Raises Refused where there is nothing to fold.
    """
    rigid = [leaf for leaf in blank.correspondence.leaves if isinstance(leaf, RigidLeaf)]
    laid = [Unwrapped(form.face(leaf.face), leaf.chart, leaf.loops) for leaf in rigid]
    size = form.size
    fineness = []
    for face in laid:
        radius = face.face.radius
        fine = size / COARSE if face.face.kind == "plane" else size / (6 * COARSE)
        fineness.append(fine if radius is None else min(fine, radius / FINE))
    count = sum(face.face.area / (0.433 * h**2) for face, h in zip(laid, fineness, strict=True))
    most, sag = (LIGHT, LIGHT_SAG) if light else (MOST, SAG)
    if count > most:
        scale = float(np.sqrt(count / most))
        fineness = [h * scale for h in fineness]
    parts = []
    if laid:
        meshes = chart_meshes(form, laid, fineness, sag=size * sag, progress=progress)
        for leaf, mesh in zip(rigid, meshes, strict=True):
            parts.append((leaf.chart_to_blank(mesh.points_chart), mesh.points_form, mesh.triangles))
    for other in blank.correspondence.leaves:
        if isinstance(other, TriangulatedLeaf):
            parts.append((other.points_blank, other.chart.to_form(other.points_chart), other.triangles))
    if not parts:
        raise Refused("The blank has no faces to fold; develop some.")
    return _welded(parts, size)


def _welded(parts: list[tuple[Array, Array, np.ndarray]], size: float) -> FoldMesh:
    """One mesh of several that share points on both sides."""
    from scipy.sparse import coo_matrix
    from scipy.sparse.csgraph import connected_components
    from scipy.spatial import cKDTree

    flat, space = np.vstack([p[0] for p in parts]), np.vstack([p[1] for p in parts])
    offsets = np.cumsum([0, *(len(p[0]) for p in parts)])
    triangles = np.vstack([p[2] + offset for p, offset in zip(parts, offsets, strict=False)])
    pairs = cKDTree(np.column_stack([flat, space])).query_pairs(SAME * size * 10, output_type="ndarray")
    links = coo_matrix((np.ones(len(pairs)), (pairs[:, 0], pairs[:, 1])), (len(flat), len(flat)))
    _, label = connected_components(links, directed=False)
    _, first, number = np.unique(label, return_index=True, return_inverse=True)
    triangles = number[triangles]
    a, b, c = triangles.T
    whole = (a != b) & (b != c) & (c != a)
    return FoldMesh(flat[first], space[first], triangles[whole])
