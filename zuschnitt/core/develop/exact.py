"""Exact development: faces whose chart is their flat, laid down and joined along their edges."""

from __future__ import annotations

from collections.abc import Collection, Iterator
from itertools import combinations

import numpy as np

from ..correspondence import Rigid
from ..form.form import Coedge, Edge, Form
from ..form.unwrapped import Unwrapped
from ..plane.contour import Contour
from ..progress import SILENT, Progress
from ..tolerances import JOIN
from .blank import Flat
from .layout import AS_IT_IS, Joining, LaidFace, Place, flat_of, laid_face, rigid_leaves, rims, spread
from .outline import contour
from .unfolding import Joint, unfolded


def lay_exact(
    form: Form,
    unwrapped: dict[int, Unwrapped],
    first: int,
    how: Joining = AS_IT_IS,
    progress: Progress = SILENT,
) -> Flat:
    """Lays the faces flat, beginning with face number ``first``, joined wherever their edges agree."""
    numbers = [first, *(n for n in unwrapped if n != first)]
    flats = [laid_face(unwrapped[n]) for n in numbers]
    found = [] if how.apart else list(_joints(form, flats, how.cuts))
    shapes, straight = [flat.shape for flat in flats], [flat.straight_edged for flat in flats]
    tree = unfolded(shapes, straight, [joint for joint, _, _ in found], progress, how.within)
    for flat, placement, piece in zip(flats, tree.placements, tree.piece.tolist(), strict=True):
        flat.placement, flat.piece = placement, piece
    for i in tree.joined:
        _, place, partner = found[i]
        flats[place[0]].joined[place[1:]] = partner
        flats[partner[0]].joined[partner[1:]] = place
    pieces = int(tree.piece.max()) + 1
    spread(flats, pieces, how)
    return flat_of(rims(flats, _folds(form, flats)), rigid_leaves(flats), tabs=how.tabs)


def _joints(form: Form, flats: list[LaidFace], cuts: Collection[int]) -> Iterator[tuple[Joint, Place, Place]]:
    """Where two faces walk along the same part of the same edge, and their developed edges agree."""
    by_edge: dict[int, list[Place]] = {}
    for i, flat in enumerate(flats):
        for k, loop in enumerate(flat.loops):
            for j, coedge in enumerate(loop):
                if coedge.edge >= 0 and coedge.edge not in cuts:
                    by_edge.setdefault(coedge.edge, []).append((i, k, j))
    for index, places in sorted(by_edge.items()):
        for a, b in combinations(places, 2):
            if a[0] != b[0] and _opposite(_at(flats, a), _at(flats, b)):
                motion = _joint(flats[a[0]], _at(flats, a), flats[b[0]], _at(flats, b))
                if motion is not None:
                    edge = form.edges[index]
                    yield Joint(a[0], b[0], motion, edge.length, edge.smooth), a, b


def _at(flats: list[LaidFace], place: Place) -> Coedge:
    i, k, j = place
    return flats[i].loops[k][j]


def _opposite(a: Coedge, b: Coedge) -> bool:
    tiny = 1e-9 * max(1.0, abs(a.start), abs(a.end))
    return abs(a.start - b.end) < tiny and abs(a.end - b.start) < tiny


def _joint(here: LaidFace, coedge: Coedge, there: LaidFace, partner: Coedge) -> Rigid | None:
    """The motion that lays ``there`` against ``here``, where their developed edges agree."""
    corners = here.unwrapped.corners(coedge), there.unwrapped.corners(partner)
    straight = all(at is not None and len(at) == 2 for at in corners)
    t = np.linspace(coedge.start, coedge.end, 2 if straight else 65)
    target = here.points(coedge, t)
    source = there.unwrapped.chart_points(partner, t)
    a, b = source - source.mean(axis=0), target - target.mean(axis=0)
    angle = np.arctan2((a[:, 0] * b[:, 1] - a[:, 1] * b[:, 0]).sum(), (a * b).sum())
    cosine, sine = np.cos(angle), np.sin(angle)
    turn = np.array([[cosine, -sine], [sine, cosine]])
    motion = Rigid(turn, target.mean(axis=0) - turn @ source.mean(axis=0))
    gap = np.linalg.norm(motion.apply(source) - target, axis=1).max()
    return motion if gap <= JOIN * np.abs(b).max() else None


def _folds(form: Form, flats: list[LaidFace]) -> Iterator[tuple[int, Contour]]:
    """Where joined faces meet: bend lines at creases, reference lines where they run on smoothly; with their piece."""
    for i, flat in enumerate(flats):
        for (k, j), (i2, k2, j2) in flat.joined.items():
            if i > i2:
                continue
            coedge = flat.loops[k][j]
            edge = form.edges[coedge.edge]
            layer, name = "REFERENCE", "smooth join"
            if not edge.smooth:
                angle = _fold_angle(flat, coedge, flats[i2], flats[i2].loops[k2][j2], edge)
                layer = "BEND_UP" if angle > 0 else "BEND_DOWN"
                name = f"{abs(np.degrees(angle)):.4g}°"
            yield flat.piece, contour([flat.walk(coedge)], layer, name, closed=False)


def _fold_angle(here: LaidFace, a: Coedge, there: LaidFace, b: Coedge, edge: Edge) -> float:
    """The angle in radians by which ``there`` is bent; positive towards the outer side."""
    t = np.linspace(a.start, a.end, 5)[1:4]
    first = here.unwrapped.face.outward(a.uv(t))[1]
    second = there.unwrapped.face.outward(b.uv(t))[1]
    along = np.diff(edge.curve.evaluate(t), axis=0).sum(axis=0)
    turning = np.cross(first, second) @ (along / np.linalg.norm(along))
    angle = float(np.arctan2(np.linalg.norm(np.cross(first, second)), first @ second))
    return -angle if turning > 0 else angle
