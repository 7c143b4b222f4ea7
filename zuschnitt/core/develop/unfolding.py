"""Which edges stay joined when faces are laid flat: a tree over them that overlaps nowhere and cuts little.

A tree is grown face by face, smooth joins before creases and long edges before short ones; where nothing overlaps
that leaves the shortest cuts (Prim). Where a face has to be refused because it would lie on others, more trees are
grown, from other faces and with other weights, and the tree of the fewest pieces, then of the shortest cuts, is
taken. The search is random, but the same each time; no way is known that finds the best tree for certain in
reasonable time (such searches are compared in Schlickenrieder, Nets of polyhedra, 1997).
"""

from __future__ import annotations

import heapq
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field

import numpy as np
import shapely
from scipy.sparse import coo_matrix
from scipy.sparse.csgraph import connected_components

from ..correspondence import STILL, Rigid
from ..geometry.curves import Array
from ..progress import Progress
from ..record import record
from ..tolerances import JOIN
from .sheet_size import ROUNDED, SheetSize, corners_of_hull

TRIES = 48
"""How many trees are grown where the first one falls apart."""
WORK = 3000
FEWEST_TRIES = 2
"""Where there are many faces, so many are laid in all, and this many trees grown at least."""
ENOUGH = 8
"""How many are grown when no tree could have fewer pieces, and only the cuts may become shorter."""
SMOOTH_FIRST = 4.0
"""How many times its length a smooth join counts in these trees."""
SHRUNK, STRAIGHT_SHRUNK = 0.01, 0.0002
"""Faces are made smaller all round by so many mm before it is asked whether they overlap: those joined touch.

Of those with straight edges only, nothing is lost where they are flattened.
"""


@record
class Joint:
    """Face ``there`` may be laid against face ``here`` (indices) by ``motion``, along ``length`` mm of an edge."""

    here: int
    there: int
    motion: Rigid
    length: float
    smooth: bool


@dataclass
class Tree:
    """Where each face lies (``placements``), its ``piece``, and the indices of the joints that hold.

    ``refused`` tells that a face would have lain on others somewhere.
    """

    placements: list[Rigid]
    piece: np.ndarray
    joined: set[int] = field(default_factory=set)
    refused: bool = False


def unfolded(
    shapes: Sequence[shapely.Geometry],
    straight: Sequence[bool],
    joints: Sequence[Joint],
    progress: Progress,
    within: SheetSize | None = None,
) -> Tree:
    """Lays faces of the given ``shapes`` flat, in pieces that fit ``within`` a size where that can be.

    ``straight`` tells which of them have straight edges only.

    The first face stays where it is, and is in piece 0.
    """
    room = np.where(straight, STRAIGHT_SHRUNK, SHRUNK)
    search = _Search(shapely.buffer(np.array(shapes, object), -room, join_style="mitre").tolist(), joints, within)
    long_first = np.lexsort((-search.lengths, ~search.smooth)).argsort().astype(float)
    best = search.grown(range(len(shapes)), long_first)
    if best.refused:
        best = _searched(search, best, progress)
    return search.closed(search.settled(best))


def _searched(search: _Search, best: Tree, progress: Progress) -> Tree:
    random = np.random.default_rng(7)
    tries = int(np.clip(WORK / len(search.shapes), FEWEST_TRIES, TRIES))
    for k in range(tries):
        if k >= ENOUGH and search.rank(best)[0] == search.fewest:
            break
        progress.step(k / tries, "trying other cuts")
        weights = search.lengths * np.where(search.smooth, SMOOTH_FIRST, 1.0)
        weights = weights * random.lognormal(0.0, 0.1 + 0.6 * k / tries, len(weights))
        other = search.grown(random.permutation(len(search.shapes)), -weights)
        best = min(best, other, key=search.rank)
    return best


class _Search:
    """Faces and joints on which trees are grown."""

    def __init__(
        self, shapes: Sequence[shapely.Geometry], joints: Sequence[Joint], within: SheetSize | None = None
    ) -> None:
        self.within = within
        self.shapes = list(shapes)
        self.points = [shapely.get_coordinates(shape) for shape in shapes]
        self.joints = list(joints)
        self.lengths = np.array([joint.length for joint in joints])
        self.smooth = np.array([joint.smooth for joint in joints], bool)
        self.at: list[list[int]] = [[] for _ in shapes]
        for i, joint in enumerate(joints):
            self.at[joint.here].append(i)
            self.at[joint.there].append(i)
        ends = np.array([(joint.here, joint.there) for joint in joints], int).reshape(-1, 2)
        met = coo_matrix((np.ones(len(ends)), (ends[:, 0], ends[:, 1])), (len(self.shapes), len(self.shapes)))
        self.fewest = int(connected_components(met, directed=False)[0])

    def rank(self, tree: Tree) -> tuple[int, float]:
        """Fewer pieces are better, then more length that holds."""
        return len(np.unique(tree.piece)), -float(self.lengths[sorted(tree.joined)].sum())

    def across(self, joint: int, here: int) -> tuple[int, Rigid]:
        """The face beyond a joint of face ``here``, and the motion that lays it there."""
        made = self.joints[joint]
        return (made.there, made.motion) if made.here == here else (made.here, made.motion.inverse)

    def grown(self, roots: Iterable[int], order: Array) -> Tree:
        """A tree grown piece by piece from ``roots``; of the joints (j,) those with the least ``order`` come first."""
        tree = Tree([STILL] * len(self.shapes), np.full(len(self.shapes), -1))
        piece = 0
        for root in roots:
            if tree.piece[root] < 0:
                self._grow(tree, int(root), piece, order)
                piece += 1
        return tree

    def _grow(self, tree: Tree, root: int, piece: int, order: Array) -> None:
        """Grows one piece as far as it goes: what was refused here could not be joined to the whole of it either."""
        tree.piece[root] = piece
        laid, hull = _Laid(), self.points[root]
        laid.add(self._placed(root, STILL))
        queue = [(order[joint], joint, root) for joint in self.at[root]]
        heapq.heapify(queue)
        while queue:
            _, joint, here = heapq.heappop(queue)
            there, motion = self.across(joint, here)
            if tree.piece[there] >= 0:
                continue
            motion = tree.placements[here].after(motion)
            placed = self._placed(there, motion)
            if laid.meets(placed):
                tree.refused = True
                continue
            if self.within is not None:
                larger = corners_of_hull(np.vstack([hull, motion.apply(self.points[there])]))
                if self.within.turn(larger, ROUNDED) is None:
                    tree.refused = True
                    continue
                hull = larger
            laid.add(placed)
            tree.placements[there], tree.piece[there] = motion, piece
            tree.joined.add(joint)
            for further in self.at[there]:
                heapq.heappush(queue, (order[further], further, there))

    def _placed(self, face: int, placement: Rigid) -> shapely.Geometry:
        return shapely.transform(self.shapes[face], placement.apply)

    def settled(self, tree: Tree) -> Tree:
        """Moves the pieces so that each one's first face stays, and numbers them in the order of these faces."""
        _, first, piece = np.unique(tree.piece, return_index=True, return_inverse=True)
        back = [tree.placements[i].inverse for i in first]
        placements = [back[p].after(placement) for p, placement in zip(piece, tree.placements, strict=True)]
        rank = first.argsort().argsort()
        return Tree(placements, rank[piece], tree.joined, tree.refused)

    def closed(self, tree: Tree) -> Tree:
        """Also joins what the tree left open but lies edge to edge all the same, as round a point of a plane."""
        for i, joint in enumerate(self.joints):
            if i not in tree.joined and tree.piece[joint.here] == tree.piece[joint.there]:
                points = self.points[joint.there]
                wanted = tree.placements[joint.here].after(joint.motion).apply(points)
                gap = np.linalg.norm(wanted - tree.placements[joint.there].apply(points), axis=1).max()
                if gap <= JOIN * joint.length:
                    tree.joined.add(i)
        return tree


class _Laid:
    """Shapes that lie already, asked whether another one would lie on them."""

    def __init__(self) -> None:
        self.shapes = np.empty(16, object)
        self.boxes = np.empty((16, 4))
        self.count = 0

    def add(self, shape: shapely.Geometry) -> None:
        if self.count == len(self.shapes):
            self.shapes = np.resize(self.shapes, 2 * self.count)
            self.boxes = np.resize(self.boxes, (2 * self.count, 4))
        self.shapes[self.count], self.boxes[self.count] = shape, shape.bounds
        self.count += 1

    def meets(self, shape: shapely.Geometry) -> bool:
        left, bottom, right, top = shape.bounds
        x0, y0, x1, y1 = self.boxes[: self.count].T
        near = np.nonzero((x0 < right) & (x1 > left) & (y0 < top) & (y1 > bottom))[0]
        return bool(len(near)) and bool(shapely.intersects(self.shapes[near], shape).any())
