"""Faces while they are being laid flat: where each lies, what is joined, and the outline that is left."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass, field, replace
from itertools import pairwise

import numpy as np
import shapely

from ..correspondence import STILL, Correspondence, Leaf, Rigid, RigidLeaf
from ..flatten.keeping import LENGTHS, Keep
from ..form.form import CUT, Coedge
from ..form.unwrapped import Unwrapped
from ..geometry.curves import Array, Spline
from ..plane.contour import Contour
from ..plane.region import signed_area
from ..record import record
from ..tolerances import OUTLINE
from .blank import Flat, StretchMesh
from .outline import RELIEF, Side, Straight, Walk, contour, enclosed_area, total_length
from .piece import OutlineSide, Piece
from .sheet_size import SheetSize
from .tabs import Tabbed, Tabs, tabbed

GAP = 10.0
"""Between the pieces of a blank, in mm."""

ToHold = Callable[[Sequence[Leaf]], Rigid]
"""The motion that lays a blank as its hold point asks, from the leaves of the blank."""


@record
class Joining:
    """Along edges whose indices are in ``cuts`` faces are not joined; with ``apart`` not along any.

    Edges to be joined get ``tabs``; ``reliefs`` are curves (n, 3) on the form that open relaxed blanks, which keep
    what ``keep`` says; in them the edges ``straight`` stay straight, and the edges ``long`` keep their length. Pieces
    are no larger than ``within``.
    """

    cuts: frozenset[int] = frozenset()
    apart: bool = False
    tabs: Tabs | None = None
    to_hold: ToHold | None = None
    reliefs: tuple[Array, ...] = ()
    keep: Keep = LENGTHS
    straight: frozenset[int] = frozenset()
    long: frozenset[int] = frozenset()
    within: SheetSize | None = None

    @property
    def gap(self) -> float:
        """Between pieces, in mm: there is room for the tabs of both."""
        return GAP + (2 * self.tabs.width if self.tabs is not None else 0.0)


AS_IT_IS = Joining()

Place = tuple[int, int, int]
"""A coedge by its face's index, its loop, and its place in the loop."""


@dataclass
class LaidFace:
    """A face while it is being laid: its coedges all walk anticlockwise on the blank."""

    unwrapped: Unwrapped
    loops: list[list[Coedge]]
    shape: shapely.Geometry
    region_rings: tuple[Array, ...]
    placement: Rigid = STILL
    piece: int = -1
    joined: dict[tuple[int, int], Place] = field(default_factory=dict)

    @property
    def straight_edged(self) -> bool:
        """Whether all its edges are straight on the blank, or straight from corner to corner."""
        return all(self.unwrapped.corners(coedge) is not None for loop in self.loops for coedge in loop)

    def points(self, coedge: Coedge, t: Array) -> Array:
        return self.placement.apply(self.unwrapped.chart_points(coedge, t))

    def straight(self, coedge: Coedge, start: float, end: float) -> Walk:
        ends = self.points(coedge, np.array([start, end]))
        return Straight(ends[0], ends[1], start, end), start, end

    def walk(self, coedge: Coedge) -> Walk:
        corners = self.unwrapped.corners(coedge)
        if corners is not None and len(corners) == 2:
            return self.straight(coedge, coedge.start, coedge.end)
        return (lambda t: self.points(coedge, t)), coedge.start, coedge.end

    def walks(self, coedge: Coedge) -> list[Walk]:
        """The walk, in pieces that have no corner: a polyline's are its spans."""
        corners = self.unwrapped.corners(coedge)
        if corners is not None:
            return [self.straight(coedge, a, b) for a, b in pairwise(corners.tolist())]
        if not isinstance(coedge.curve, Spline) or coedge.curve.degree > 1:
            return [self.walk(coedge)]
        low, high = sorted((coedge.start, coedge.end))
        breaks = coedge.curve.breaks
        at = np.r_[low, breaks[(breaks > low) & (breaks < high)], high]
        return [((lambda t: self.points(coedge, t)), a, b) for a, b in pairwise(at[::-1] if coedge.backwards else at)]


def laid_face(face: Unwrapped) -> LaidFace:
    region = face.region(0.01)
    loops = [list(loop) for loop in face.loops]
    if max((signed_area(r) for r in region.rings), key=abs) < 0:
        loops = [[_backwards(c) for c in reversed(loop)] for loop in loops]
    return LaidFace(face, loops, region.shape, region.rings)


def _backwards(coedge: Coedge) -> Coedge:
    return Coedge(coedge.edge, coedge.curve, coedge.end, coedge.start)


def spread(flats: list[LaidFace], pieces: int, how: Joining) -> None:
    """Turns and shifts the first piece as it is to be held, and arranges further pieces beside and below it."""
    if how.to_hold is not None:
        motion = how.to_hold(rigid_leaves(flats[:1]))
        for flat in flats:
            flat.placement = motion.after(flat.placement)
    mine: list[list[LaidFace]] = [[] for _ in range(pieces)]
    for flat in flats:
        mine[flat.piece].append(flat)
    points = [np.vstack([f.placement.apply(r) for f in each for r in f.region_rings]) for each in mine]
    for each, motion in zip(mine, arranged(points, how.gap, how.within), strict=True):
        for flat in each:
            flat.placement = motion.after(flat.placement)


def arranged(pieces: Sequence[Array], gap: float = GAP, within: SheetSize | None = None) -> list[Rigid]:
    """Motions that lay pieces, each given by points (n, 2), in rows: the first stays, others lie lengthwise.

    Those that are to fit ``within`` a sheet lie as they fit.
    """
    turns = [np.eye(2)] + [_turned(points, within) for points in pieces[1:]]
    boxes = [points @ turn.T for points, turn in zip(pieces, turns, strict=True)]
    sizes = np.array([np.ptp(points, axis=0) + gap for points in boxes])
    widest = max(float(sizes[0, 0]), 1.3 * float(np.sqrt(sizes.prod(axis=1).sum())), float(sizes[:, 0].max()))
    left, lowest = (float(v) for v in boxes[0].min(axis=0))
    x, top = left + float(sizes[0, 0]), None
    motions = [STILL]
    for points, turn, (width, height) in zip(boxes[1:], turns[1:], sizes[1:], strict=True):
        if x + width - left > widest + 1e-9:  # a new row, hung below all that is laid
            x, top = left, lowest - gap
        y = float(boxes[0].min(axis=0)[1]) if top is None else top - (height - gap)
        motions.append(Rigid(turn, np.array([x, y]) - points.min(axis=0)))
        lowest = min(lowest, y)
        x += width
    return motions


def _turned(points: Array, within: SheetSize | None) -> Array:
    turn = None if within is None else within.turn(points)
    return _lengthwise(points) if turn is None else turn


def _lengthwise(points: Array) -> Array:
    """The turn (2, 2) that lays the longer side of a piece's smallest rectangle along x."""
    box = np.array(shapely.MultiPoint(points).minimum_rotated_rectangle.exterior.coords)[:4]
    sides = np.diff(np.vstack([box, box[:1]]), axis=0)[:2]
    x, y = max(sides, key=lambda side: float(np.hypot(*side)))
    if x < 0 or (x == 0 and y < 0):
        x, y = -x, -y
    size = float(np.hypot(x, y)) or 1.0
    return np.array([[x, y], [-y, x]]) / size


def rigid_leaves(flats: list[LaidFace]) -> tuple[RigidLeaf, ...]:
    """The correspondence of faces whose chart is only laid in its place."""
    return tuple(
        RigidLeaf(
            f.unwrapped.face.number, f.unwrapped.chart, f.unwrapped.region(OUTLINE), f.placement, f.unwrapped.loops
        )
        for f in flats
    )


def _side(flat: LaidFace, coedge: Coedge) -> Side:
    face = flat.unwrapped.face.number
    edge = coedge.edge + 1 if coedge.edge >= 0 else -face if coedge.edge == CUT else 0
    return Side(face, edge, flat.walks(coedge))


@record
class Rim:
    """What bounds a piece: closed ``chains`` of sides round the ``faces`` (their numbers) on it, and its ``folds``."""

    chains: list[list[Side]]
    faces: tuple[int, ...]
    folds: tuple[Contour, ...] = ()


def rims(flats: list[LaidFace], folds: Iterable[tuple[int, Contour]] = ()) -> list[Rim]:
    """The rims of the pieces that were laid; each of the ``folds`` comes with the number of its piece."""
    count = 1 + max(flat.piece for flat in flats)
    found = [Rim([], tuple(sorted(f.unwrapped.face.number for f in flats if f.piece == k))) for k in range(count)]
    for chain in _outline_chains(flats):
        sides = [_side(flats[i], flats[i].loops[k][j]) for i, k, j in chain]
        found[flats[chain[0][0]].piece].chains.append(sides)
    for piece, fold in folds:
        found[piece] = replace(found[piece], folds=(*found[piece].folds, fold))
    return found


def flat_of(
    bounded: Sequence[Rim],
    leaves: Iterable[Leaf],
    mesh: StretchMesh | None = None,
    tabs: Tabs | None = None,
    messages: tuple[str, ...] = (),
) -> Flat:
    """The flat within rims: its pieces, its area and the length of its outline, without tabs."""
    chains = [chain for rim in bounded for chain in rim.chains]
    walks = [[walk for side in chain for walk in side.walks] for chain in chains]
    laid = [Tabbed(walk) for walk in walks] if tabs is None or tabs.width == 0 else tabbed(chains, tabs)
    pieces, begin = [], 0
    for rim in bounded:
        mine = laid[begin : begin + len(rim.chains)]
        begin += len(rim.chains)
        joined = [
            OutlineSide(side.face, side.label, side.points())
            for chain in rim.chains
            for side in chain
            if side.edge <= RELIEF or (tabs is not None and side.edge in tabs.owner)
        ]
        folds = (*rim.folds, *(fold for one in mine for fold in one.folds))
        pieces.append(Piece(tuple(contour(one.walks) for one in mine), folds, rim.faces, tuple(joined)))
    return Flat(
        tuple(pieces),
        Correspondence(tuple(leaves)),
        sum(enclosed_area(chain) for chain in walks),
        sum(total_length(chain) for chain in walks),
        mesh,
        sum(one.crowded for one in laid),
        messages,
    )


def beside(flats: Sequence[Flat], gap: float = GAP) -> Flat:
    """Several flats as one, the further ones laid beside and below the first."""
    if len(flats) == 1:
        return flats[0]
    points = [np.vstack([c.flattened(1.0) for c in flat.outline]) for flat in flats]
    laid = [flat.moved(motion) for flat, motion in zip(flats, arranged(points, gap), strict=True)]
    meshes = [flat.mesh for flat in laid if flat.mesh is not None]
    return Flat(
        tuple(piece for flat in laid for piece in flat.pieces),
        Correspondence(tuple(leaf for flat in laid for leaf in flat.correspondence.leaves)),
        sum(flat.area for flat in laid),
        sum(flat.outline_length for flat in laid),
        joined_meshes(meshes) if meshes else None,
        sum(flat.crowded for flat in laid),
        tuple(message for flat in laid for message in flat.messages),
    )


def joined_meshes(meshes: Sequence[StretchMesh]) -> StretchMesh:
    """Several as one."""
    offsets = np.cumsum([0, *(len(m.points_blank) for m in meshes)])
    return StretchMesh(
        np.vstack([m.points_blank for m in meshes]),
        np.vstack([m.points_form for m in meshes]),
        np.vstack([m.triangles + o for m, o in zip(meshes, offsets, strict=False)]),
        np.vstack([m.stretch for m in meshes]),
        np.concatenate([m.faces for m in meshes]),
    )


def _outline_chains(flats: list[LaidFace]) -> list[list[Place]]:
    """The coedges that were not joined, chained into closed loops."""
    waiting = {
        (i, k, j)
        for i, flat in enumerate(flats)
        for k, loop in enumerate(flat.loops)
        for j in range(len(loop))
        if (k, j) not in flat.joined
    }
    chains = []
    for start in sorted(waiting):
        if start not in waiting:
            continue
        chain, place = [], start
        while place in waiting:
            waiting.remove(place)
            chain.append(place)
            place = _following(flats, place)
            while place[1:] in flats[place[0]].joined:
                place = _following(flats, flats[place[0]].joined[place[1:]])
        chains.append(chain)
    return chains


def _following(flats: list[LaidFace], place: Place) -> Place:
    i, k, j = place
    return i, k, (j + 1) % len(flats[i].loops[k])
