"""Cuts from the outline inwards that bring a blank under a chosen stretch.

Whole sets of cuts are tried on a coarse mesh: one from many places, or several from its corners, from the middles of
its sides, and evenly round it. Of each set the depth is found that just suffices; then the shortest sets are bettered
cut by cut: those that turn out to be needless go, others are shortened, or begin elsewhere.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence

import numpy as np
from scipy.sparse import csr_matrix

from ..correspondence import Correspondence
from ..geometry.curves import Array
from ..mesh.opening import graph, path_keys, shortest_path
from ..mesh.triangles import boundary_rings
from ..progress import Progress
from ..record import record
from .proposal import Part, Proposal, stretch_left
from .relief import Relief

COUNTS = (2, 3, 4, 5, 6, 8, 10, 12, 16)
"""How many cuts are tried evenly round the outline."""
SINGLE = 12
"""From how many places a single cut is tried."""
DEEPEST, RIGHT_ACROSS = (0.92, 0.8), (1.7, 1.4)
"""How far towards the middle cuts lead to begin with, and a single one that may go beyond it.

Stretch falls with the depth at first, but may rise again where their ends come near to each other.
"""
HOPELESS = 2.5
"""A set that leaves so many times the target at its first depth does not reach it at the second one, nor a single cut
from elsewhere where those from a few places leave as much. (Between depths it fell to 0.46 at the least, in 135 sets.)
"""
FEW_PLACES = 4
"""So many they are."""
SHALLOWEST = 0.25
"""Cuts that lead less far only move the stretch to where they end."""
BISECTIONS = 2
"""How often a depth is halved in."""
FINALISTS, MOST_FINALISTS = 3, 8
"""How many of the shortest sets are tried on the fine mesh, and how many where none of the first suffices on it."""
SHORTENED = (0.8, 0.9, 0.95)
"""By what parts a cut is shortened while the others stay as they are."""
AT_TIPS = 1.6
"""A finer mesh shows so much more stretch at the end of a cut, where it gathers."""
FINE_TRIES = 2
"""How many lengths of a set are tried on the fine mesh."""
APART = 0.9
"""Where cuts cannot be had on the fine mesh, mostly since their ends come near to each other, they become so long."""
SCALES = (0.6, 1.4)
"""A set is made so many times as long at the least and at the most."""
SCALINGS = 3
"""How often that is halved in."""
ALIKE = 0.02
"""Lengths that differ by no more than this part of them are not tried both."""


@record
class _Cut:
    """A cut on the coarse mesh: a straight line on its blank, and the path of points along it."""

    start: Array
    tip: Array
    path: np.ndarray

    @property
    def length(self) -> float:
        return float(np.linalg.norm(self.tip - self.start))


Cuts = Sequence[_Cut]


def _total(cuts: Cuts) -> float:
    return sum(cut.length for cut in cuts)


def inward_cuts(part: Part, target: float, most: int, progress: Progress) -> Proposal:
    """The shortest cuts found under ``target`` percent, at most ``most``; else those that reach furthest.

    Their gains come from the coarse mesh.
    """
    sheet = part.sheet((), part.coarse)
    trial = _Trial(sheet.welded.points_form, sheet.blank, sheet.welded.triangles)
    to_form = Correspondence(sheet.leaves)
    best = part.nothing
    kept: Cuts = ()

    def try_finely(cuts: Cuts) -> None:
        nonlocal best, kept
        for scaled, found in _scaled(part, trial, to_form, cuts, target, best):
            if (max(found.reached, target), found.length) < (max(best.reached, target), best.length):
                best, kept = found, scaled

    finalists = _finalists(trial, most, target, progress.part(0.0, 0.4))
    for k, cuts in enumerate(finalists):
        if k >= FINALISTS and best.reached <= target:
            break
        progress.step(0.4 + 0.4 * k / len(finalists), "trying reliefs on the fine mesh")
        try_finely(cuts)
    if best.reliefs and best.reached <= target:
        progress.step(0.8, "shortening reliefs")
        try_finely(_bettered(trial, kept, max(target, trial.worst(kept))))
    progress.step(0.95, "what each gains")
    if len(kept) == 1:
        return best.with_gains([best.uncut - best.reached])
    worst = trial.worst(kept)
    return best.with_gains([trial.worst([*kept[:k], *kept[k + 1 :]]) - worst for k in range(len(kept))]).ranked()


def _scaled(
    part: Part, trial: _Trial, to_form: Correspondence, cuts: Cuts, target: float, best: Proposal
) -> Iterator[tuple[Cuts, Proposal]]:
    """The cuts made longer or shorter together, towards the least length that suffices on the fine mesh.

    What the fine mesh shows more of than the coarse one tells how long they are to be next.
    """
    made, aim, before = trial.scaled(cuts, 1.0), None, 0.0
    for _ in range(FINE_TRIES):
        if aim is not None:
            made, aim = _least(trial, cuts, aim), None
        if made is None or abs(_total(made) - before) < ALIKE * before:
            return
        if best.reached <= target and _total(made) >= best.length:
            return
        found = part.proposal(_reliefs(made, to_form))
        if not found.reliefs:
            made = trial.scaled(made, APART)
            continue
        yield made, found
        aim, before = target * trial.worst(made) / found.reached, _total(made)


def _least(trial: _Trial, cuts: Cuts, target: float) -> Cuts | None:
    """The cuts made longer or shorter together so that they just come under ``target`` percent; None if they cannot."""
    found = None
    low, high = SCALES
    for _ in range(SCALINGS):
        share = (low + high) / 2
        scaled = trial.scaled(cuts, share)
        enough = scaled is not None and trial.worst(scaled) <= target
        found = scaled if enough else found
        low, high = (low, share) if enough or scaled is None else (share, high)
    return found


def _reliefs(cuts: Cuts, to_form: Correspondence) -> list[Relief]:
    """The cuts as curves on the form."""
    made = []
    for cut in cuts:
        along = np.linspace(-0.03, 1, 60)[:, None]  # from a little outside, so that it surely opens the edge
        located = to_form.to_form(cut.start + along * (cut.tip - cut.start))
        length = float(np.linalg.norm(np.diff(located.points[located.inside], axis=0), axis=1).sum())
        made.append(Relief(located.points, length))
    return made


class _Trial:
    """The coarse mesh, points on form (n, 3) and blank (n, 2), on which sets of cuts are tried."""

    def __init__(self, points_form: Array, points_blank: Array, triangles: np.ndarray) -> None:
        self.form, self.blank, self.triangles = points_form, points_blank, triangles
        self.rings = sorted(boundary_rings(triangles), key=len, reverse=True)
        self.rim = np.concatenate(self.rings)
        self.weights = graph(points_blank, triangles)
        self.ends = self.weights.tocoo().coords
        self.along_rim = np.isin(self.ends, self.rim).all(axis=0)
        self.inner = np.setdiff1d(np.arange(len(points_blank)), self.rim)
        self.known: dict[tuple[int, ...], float] = {}

    def worst(self, cuts: Cuts) -> float:
        """The largest stretch or compression that is left, in percent, as a finer mesh would show it."""
        n = len(self.form)
        keys = np.unique(np.concatenate([path_keys(c.path, n) for c in cuts])) if cuts else np.zeros(0, np.int64)
        name = tuple(keys.tolist())
        if name not in self.known:
            stretch, at = stretch_left(self.form, self.triangles, keys, self.blank)
            tips = np.isin(at, [cut.path[-1] for cut in cuts]).any(axis=1)
            self.known[name] = float((np.where(tips, AT_TIPS, 1.0) * stretch).max())
        return self.known[name]

    def cut(self, start: int, tip: Array) -> _Cut | None:
        """The cut from a point of the rim straight to ``tip`` (2,) on the blank; None where it is no way inside."""
        points = self.blank
        along = tip - points[start]
        size = float(np.linalg.norm(along))
        if size < 1e-9:
            return None
        off = np.abs((points - points[start]) @ np.array([-along[1], along[0]])) / size
        one, other = self.ends
        lengths = self.weights.data * np.where(self.along_rim, 50.0, 1 + 6 * (off[one] + off[other]) / size)
        end = int(self.inner[np.linalg.norm(points[self.inner] - tip, axis=1).argmin()])
        dear = csr_matrix((lengths, self.weights.indices, self.weights.indptr), self.weights.shape)
        path = shortest_path(dear, np.array([start]), np.array([end]))
        return _Cut(points[start], points[end], path) if len(path) > 2 else None

    def scaled(self, cuts: Cuts, share: float) -> Cuts | None:
        """Cuts ``share`` times as long; None where they are no cuts any more, or meet."""
        made = [self.cut(int(c.path[0]), c.start + share * (c.tip - c.start)) for c in cuts]
        found = [cut for cut in made if cut is not None]
        return found if len(found) == len(cuts) and _clear(found) else None

    def cuts(self, starts: np.ndarray, goals: Array, depth: float) -> list[_Cut]:
        """Cuts from points of the rim towards ``goals`` (k, 2), ``depth`` of the way; none where they meet."""
        ends = self.blank[starts] + depth * (goals - self.blank[starts])
        made = [cut for cut in map(self.cut, starts.tolist(), ends) if cut is not None]
        return made if len(made) == len(starts) and _clear(made) else []


def _finalists(trial: _Trial, most: int, target: float, progress: Progress) -> list[list[_Cut]]:
    """The shortest sets of cuts under ``target`` percent; where there is none, those that lead furthest."""
    furthest: list[list[_Cut]] = []
    enough: list[list[_Cut]] = []
    single: list[float] = []
    for done, starts in _families(trial, most):
        progress.step(done, "trying reliefs")
        if len(starts) == 1 and len(single) >= FEW_PLACES and min(single) > HOPELESS * target:
            continue
        goals = _goals(trial, starts)
        depths: Sequence[float] = RIGHT_ACROSS if len(starts) == 1 and len(trial.rings) == 1 else DEEPEST
        if len(enough) >= FINALISTS:  # it is of use only where it is shorter than the last of the best so far
            reach = float(np.linalg.norm(goals - trial.blank[starts], axis=1).sum())
            longest = _total(enough[FINALISTS - 1]) / reach
            depths = tuple(min(depth, longest) for depth in depths if longest > SHALLOWEST)
        tried: list[tuple[float, list[_Cut]]] = []
        for depth in depths:
            if cuts := trial.cuts(starts, goals, depth):
                tried.append((depth, cuts))
                if not target < trial.worst(cuts) <= HOPELESS * target:  # they suffice, or never will
                    break
        if not tried:
            continue
        if len(starts) == 1:
            single.append(trial.worst(tried[0][1]))
        furthest = sorted([*furthest, *(cuts for _, cuts in tried)], key=trial.worst)[:FINALISTS]
        high, cuts = tried[-1]
        if trial.worst(cuts) > target:
            continue
        low = SHALLOWEST
        for _ in range(BISECTIONS):
            depth = (low + high) / 2
            shorter = trial.cuts(starts, goals, depth)
            if shorter and trial.worst(shorter) <= target:
                cuts, high = shorter, depth
            else:
                low = depth
        enough = sorted([*enough, cuts], key=_total)
    return enough[:MOST_FINALISTS] or furthest


def _bettered(trial: _Trial, cuts: Cuts, target: float) -> Cuts:
    """Without cuts that are not needed, and with others that are shorter or begin elsewhere, one after the other."""
    for k in reversed(range(len(cuts))):
        fewer = [*cuts[:k], *cuts[k + 1 :]]
        if fewer and trial.worst(fewer) <= target:
            cuts = fewer
    for share in SHORTENED:
        for k in range(len(cuts)):
            for other in _others(trial, cuts[k], share):
                changed = [*cuts[:k], other, *cuts[k + 1 :]]
                if other.length < cuts[k].length and _clear(changed) and trial.worst(changed) <= target:
                    cuts = changed
                    break
    return cuts


def _others(trial: _Trial, cut: _Cut, share: float) -> Iterator[_Cut]:
    """Cuts in place of one, shortened: from where it begins or, where it becomes much shorter, from beside that."""
    starts = [int(cut.path[0])]
    ring = trial.rings[0]
    at = np.nonzero(ring == starts[0])[0]
    if len(at) and share == SHORTENED[0]:
        starts += [int(ring[(at[0] + step) % len(ring)]) for step in (-len(ring) // 24, len(ring) // 24)]
    for start in starts:
        origin = trial.blank[start]
        made = trial.cut(start, origin + share * (cut.tip - origin))
        if made is not None:
            yield made


def _families(trial: _Trial, most: int) -> Iterator[tuple[float, np.ndarray]]:
    """Sets of places (k,) on the outline where cuts may begin, with the part of all sets that went before."""
    points, outer = trial.blank, trial.rings[0]
    ring = points[outer]
    middle = ring.mean(axis=0)
    far = np.linalg.norm(ring - middle, axis=1)
    width = max(2, len(outer) // 24)
    around = np.stack([np.roll(far, k) for k in range(-width, width + 1)])
    corners = np.nonzero(far >= around.max(axis=0) - 1e-12)[0]
    sides = np.nonzero(far <= around.min(axis=0) + 1e-12)[0]
    lengths = np.r_[0, np.cumsum(np.linalg.norm(np.diff(np.vstack([ring, ring[:1]]), axis=0), axis=1))]
    first = lengths[corners[0]] if len(corners) else 0.0

    def even(count: int, phase: float) -> np.ndarray:
        at = (np.arange(count) + phase) / count * lengths[-1] + first
        return np.searchsorted(lengths, at % lengths[-1]) % len(outer)

    families = [corners, sides, np.union1d(corners, sides), *(np.array([k]) for k in _spread(even(SINGLE, 0.0)))]
    families += [even(count, phase) for count in COUNTS for phase in (0.0, 0.5)]
    families = [np.unique(family) for family in families if 0 < len(family) <= most]
    for k, family in enumerate(families):
        yield k / len(families), outer[family]


def _spread(places: np.ndarray) -> np.ndarray:
    """Places all round in another order: first a few that are far from each other."""
    return places.reshape(FEW_PLACES, -1).T.ravel()


def _goals(trial: _Trial, starts: np.ndarray) -> Array:
    """For each start where its cut leads to: the blank point furthest from the rim or, round a hole, the hole."""
    from scipy.sparse.csgraph import dijkstra

    points = trial.blank
    if len(trial.rings) == 1:
        distance = dijkstra(trial.weights, directed=False, indices=trial.rings[0], min_only=True)
        return np.tile(points[int(distance.argmax())], (len(starts), 1))
    holes = np.concatenate(trial.rings[1:])
    gaps = np.linalg.norm(points[starts][:, None] - points[holes][None], axis=2)
    return points[holes[gaps.argmin(axis=1)]]


def _clear(cuts: Cuts) -> bool:
    """Whether no two cuts meet."""
    every = np.concatenate([cut.path for cut in cuts])
    return len(np.unique(every)) == len(every)
