"""Where to cut so that a relaxed blank comes under a chosen stretch, with as little cutting as may be.

Whole sets of cuts from the outline inwards are tried on a coarse mesh: from its corners, from the middles
of its sides, and evenly round it, of several depths. Of those that come under the stretch the shortest is
taken; then cuts that turn out to be needless go, and the others are shortened as far as the stretch allows.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from ..errors import CannotBeDone
from ..flatten.metric import Metric, singular_values
from ..flatten.relaxed import relax
from ..form.curves import Array
from ..form.form import Form
from ..form.opening import graph, opened, path_keys
from ..form.unwrapped import unwrap
from ..progress import SILENT, Progress
from ..triangles import boundary_rings
from .blank import Blank, StretchMesh
from .developing import develop
from .laying import Joining
from .placing import Hold
from .sheet import relaxed_sheet

COARSE = 2200
"""Triangles of the mesh that cuts are tried on, about."""
COUNTS = (2, 3, 4, 5, 6, 8, 10, 12, 16)
"""How many cuts are tried evenly round the outline."""
DEPTHS = (0.35, 0.5, 0.65, 0.8, 0.92)
"""How far towards the middle cuts are tried."""
SHORTEST = 0.6
"""The part of their length to which cuts that do more than they must are shortened, at the most."""
BISECTIONS = 3
"""How often that is halved in."""
ROUNDS = 4
"""How often it is tried again with a stricter target, where the fine mesh shows more than the coarse one."""
SLACK = 0.85
"""The coarse mesh must come under this part of the target, as a finer one shows a little more."""


@dataclass(frozen=True)
class Relief:
    """A cut: ``points`` (n, 3) on the form, beginning at the edge, ``length`` in mm.

    ``gain`` is by how many percent the largest stretch or compression would be more without it, 0 where that
    was not asked.
    """

    points: Array
    length: float
    gain: float = 0.0


@dataclass(frozen=True)
class Proposal:
    """``reliefs`` in the order of their gain; ``uncut`` and ``reached`` are largest stretches in percent."""

    reliefs: tuple[Relief, ...]
    uncut: float
    reached: float

    @property
    def length(self) -> float:
        return sum(relief.length for relief in self.reliefs)


@dataclass(frozen=True)
class _Cut:
    """A cut on the coarse mesh: a straight line on its blank, and the path of points along it."""

    start: Array
    tip: Array
    path: np.ndarray


def propose(form: Form, blank: Blank, target: float, most: int = 8, progress: Progress = SILENT) -> Proposal:
    """Proposes reliefs for a relaxed blank of one piece, so that no stretch exceeds ``target`` percent.

    At most ``most`` cuts are proposed; where they do not suffice, ``reached`` says how far they lead.
    Raises CannotBeDone for a blank that has nothing to relieve.
    """
    if blank.mesh is None:
        raise CannotBeDone("This blank was developed without stretch, so there is nothing to relieve.")
    if blank.figures.pieces > 1:
        raise CannotBeDone("Reliefs are proposed for a blank of one piece; develop its faces one by one.")
    uncut = largest(blank.mesh.stretch)
    if uncut <= target:
        return Proposal((), uncut, uncut)
    hold = Hold(blank.hold_form, blank.along_form)
    h = float(np.sqrt(form.area(blank.faces) / (0.433 * COARSE)))
    coarse = develop(form, blank.faces, "relaxed", hold, edge_length=h)
    assert coarse.mesh is not None
    trial = _Trial(coarse.mesh)
    part_of = _Part(form, blank.faces, coarse, trial, uncut)
    best = Proposal((), uncut, uncut)
    kept: Sequence[_Cut] = ()
    strict = SLACK
    for turn in range(ROUNDS):
        part = progress.part(0.9 * turn / ROUNDS, 0.9 * (turn + 1) / ROUNDS)
        cuts = _pruned(trial, _chosen(trial, most, target * strict, part), target * strict)
        found = part_of.measured(cuts)
        if found.reached >= best.reached:  # it leads no further, or cannot be had on the fine mesh
            break
        best, kept = found, cuts
        if best.reached <= target:
            progress.step(0.9, "shortening reliefs")
            best, kept = part_of.shortened(best, kept, target)
            break
        strict *= 0.92 * target / found.reached
    return part_of.with_gains(best, kept)


def largest(stretch: Array) -> float:
    """The largest stretch or compression of triangles (t, 2), in percent."""
    return 100 * float(np.abs(stretch).max())


class _Trial:
    """The coarse mesh, on which sets of cuts are tried."""

    def __init__(self, mesh: StretchMesh) -> None:
        self.mesh = mesh
        self.rings = sorted(boundary_rings(mesh.triangles), key=len, reverse=True)
        self.rim = np.concatenate(self.rings)
        self.weights = graph(mesh.points_blank, mesh.triangles)
        self.known: dict[tuple[int, ...], float] = {}

    def worst(self, cuts: Sequence[_Cut]) -> float:
        """The largest stretch or compression that is left, in percent."""
        n = len(self.mesh.points_form)
        keys = np.unique(np.concatenate([path_keys(c.path, n) for c in cuts])) if cuts else np.zeros(0, np.int64)
        name = tuple(keys.tolist())
        if name not in self.known:
            triangles, old = opened(self.mesh.triangles, n, keys)
            points = self.mesh.points_form[old]
            flat = relax(points, triangles, self.mesh.points_blank[old], most_steps=60, settled=3e-4).points_blank
            metric = Metric.of(points, triangles)
            stretch = 1 / singular_values(metric.jacobians(flat))[:, ::-1] - 1
            self.known[name] = largest(stretch)
        return self.known[name]

    def cut(self, start: int, tip: Array) -> _Cut | None:
        """The cut from a point of the rim straight to ``tip`` (2,) on the blank; None where it is no way inside."""
        from scipy.sparse.csgraph import dijkstra

        points = self.mesh.points_blank
        along = tip - points[start]
        size = float(np.linalg.norm(along))
        if size < 1e-9:
            return None
        off = np.abs((points - points[start]) @ np.array([-along[1], along[0]])) / size
        weights = self.weights.tocoo()
        dear = 1 + 6 * (off[weights.row] + off[weights.col]) / size
        rim = np.isin(weights.row, self.rim) & np.isin(weights.col, self.rim)
        weights.data = weights.data * np.where(rim, 50.0, dear)
        inner = np.setdiff1d(np.arange(len(points)), self.rim)
        end = int(inner[np.linalg.norm(points[inner] - tip, axis=1).argmin()])
        _, before = dijkstra(weights.tocsr(), directed=False, indices=start, return_predecessors=True)
        path = [end]
        while before[path[-1]] >= 0:
            path.append(int(before[path[-1]]))
        return _Cut(points[start], points[end], np.array(path[::-1])) if len(path) > 2 else None


def _chosen(trial: _Trial, most: int, target: float, progress: Progress) -> list[_Cut]:
    """The shortest set of cuts under ``target`` percent or, where there is none, the one that leads furthest."""
    families = [family for family in _families(trial) if len(family) <= most]
    points = trial.mesh.points_blank
    best: list[_Cut] = []
    best_rank = (trial.worst([]), 0.0)
    for i, family in enumerate(families):
        goals = _goals(trial, family)
        for depth in DEPTHS:
            progress.step(i / len(families), "trying reliefs")
            made = [trial.cut(int(s), points[s] + depth * (g - points[s])) for s, g in zip(family, goals, strict=True)]
            cuts = [cut for cut in made if cut is not None]
            length = sum(float(np.linalg.norm(cut.tip - cut.start)) for cut in cuts)
            if len(cuts) < len(family) or not _clear(cuts) or (best_rank[0] <= target and length >= best_rank[1]):
                continue
            rank = (max(trial.worst(cuts), target), length)
            if rank < best_rank:
                best, best_rank = cuts, rank
            if rank[0] <= target:
                break  # deeper ones would only be longer
    return best


def _families(trial: _Trial) -> list[np.ndarray]:
    """Sets of places along the outline where cuts may begin."""
    points, outer = trial.mesh.points_blank, trial.rings[0]
    ring = points[outer]
    middle = ring.mean(axis=0)
    far = np.linalg.norm(ring - middle, axis=1)
    width = max(2, len(outer) // 24)
    around = np.stack([np.roll(far, k) for k in range(-width, width + 1)])
    corners = np.nonzero(far >= around.max(axis=0) - 1e-12)[0]
    sides = np.nonzero(far <= around.min(axis=0) + 1e-12)[0]
    lengths = np.r_[0, np.cumsum(np.linalg.norm(np.diff(np.vstack([ring, ring[:1]]), axis=0), axis=1))]
    families = [corners, sides, np.union1d(corners, sides)]
    for count in COUNTS:
        for phase in (0.0, 0.5):
            at = (np.arange(count) + phase) / count * lengths[-1] + lengths[corners[0] if len(corners) else 0]
            families.append(np.searchsorted(lengths, at % lengths[-1]) % len(outer))
    return [outer[np.unique(family)] for family in families if len(family)]


def _goals(trial: _Trial, starts: np.ndarray) -> Array:
    """For each start where its cuts lead to: the blank point furthest from the rim or, round a hole, the hole."""
    from scipy.sparse.csgraph import dijkstra

    points = trial.mesh.points_blank
    if len(trial.rings) == 1:
        distance = dijkstra(trial.weights, directed=False, indices=trial.rings[0], min_only=True)
        return np.tile(points[int(distance.argmax())], (len(starts), 1))
    holes = np.concatenate(trial.rings[1:])
    gaps = np.linalg.norm(points[starts][:, None] - points[holes][None], axis=2)
    return points[holes[gaps.argmin(axis=1)]]


def _clear(cuts: Sequence[_Cut]) -> bool:
    """Whether no two cuts meet."""
    every = np.concatenate([cut.path for cut in cuts])
    return len(np.unique(every)) == len(every)


def _pruned(trial: _Trial, cuts: list[_Cut], target: float) -> list[_Cut]:
    """Without cuts that are not needed, and with the others as short as ``target`` percent allows."""
    if trial.worst(cuts) > target:
        return cuts
    for k in reversed(range(len(cuts))):
        fewer = cuts[:k] + cuts[k + 1 :]
        if trial.worst(fewer) <= target:
            cuts = fewer
    for k, made in enumerate(cuts):
        for share in (0.85, 0.7):
            shorter = trial.cut(int(made.path[0]), made.start + share * (made.tip - made.start))
            if shorter is None or trial.worst([*cuts[:k], shorter, *cuts[k + 1 :]]) > target:
                break
            cuts = [*cuts[:k], shorter, *cuts[k + 1 :]]
    return cuts


@dataclass(frozen=True)
class _Part:
    """The faces that are relieved, with their blank on the coarse mesh."""

    form: Form
    faces: tuple[int, ...]
    coarse: Blank
    trial: _Trial
    uncut: float

    def measured(self, cuts: Sequence[_Cut]) -> Proposal:
        """The cuts as curves on the form, and what is reached with them on the fine mesh."""
        reliefs = []
        for made in cuts:
            part = np.linspace(-0.03, 1, 60)[:, None]  # from a little outside, so that it surely opens the edge
            located = self.coarse.correspondence.to_form(made.start + part * (made.tip - made.start))
            length = float(np.linalg.norm(np.diff(located.points[located.inside], axis=0), axis=1).sum())
            reliefs.append(Relief(located.points, length))
        if not reliefs:
            return Proposal((), self.uncut, self.uncut)
        unwrapped = {n: unwrap(self.form.face(n)) for n in self.faces}
        how = Joining(reliefs=tuple(relief.points for relief in reliefs))
        try:
            fine = relaxed_sheet(self.form, unwrapped, self.faces[0], how=how)
        except CannotBeDone:  # too near to each other for the triangles of the blank
            return Proposal((), self.uncut, self.uncut)
        return Proposal(tuple(reliefs), self.uncut, largest(fine.mesh.stretch))

    def shortened(self, best: Proposal, cuts: Sequence[_Cut], target: float) -> tuple[Proposal, Sequence[_Cut]]:
        """All cuts shortened alike by as much as the fine mesh still allows, by bisection."""
        low, high, kept = SHORTEST, 1.0, cuts
        for _ in range(BISECTIONS):
            share = (low + high) / 2
            made = [self.trial.cut(int(c.path[0]), c.start + share * (c.tip - c.start)) for c in cuts]
            shorter = [cut for cut in made if cut is not None]
            found = self.measured(shorter) if len(shorter) == len(cuts) else best
            if found is not best and found.reached <= target and found.length < best.length:
                best, kept, high = found, shorter, share
            else:
                low = share
        return best, kept

    def with_gains(self, found: Proposal, cuts: Sequence[_Cut]) -> Proposal:
        """What each cut gains, on the coarse mesh; those that gain most come first."""
        worst = self.trial.worst(cuts)
        gains = [self.trial.worst([*cuts[:k], *cuts[k + 1 :]]) - worst for k in range(len(cuts))]
        reliefs = [replace(r, gain=max(gain, 0.0)) for r, gain in zip(found.reliefs, gains, strict=True)]
        return replace(found, reliefs=tuple(sorted(reliefs, key=lambda relief: -relief.gain)))
