"""The blank of faces that were cut: that of the faces as they were, with the cuts carried to it.

A relaxed sheet from which something was taken out would settle otherwise than the whole one did. What was drawn on a
blank and cut into its form is to come back where it was drawn.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import replace

import numpy as np
import shapely

from ..correspondence import Correspondence, Leaf, RigidLeaf
from ..form.form import POLE, Before, Coedge, Form
from ..form.unwrapped import unwrap
from ..geometry.curves import Array, parameters_within
from ..plane.containing import depths, parents
from ..plane.contour import Contour
from ..plane.region import Region
from ..record import record
from ..tolerances import OUTLINE
from .blank import Blank, StretchMesh
from .outline import Walk, contour
from .piece import Piece, named

FINE = 1e-4
"""What was taken out is flattened to this, in mm."""
SEAM = 2e-3
"""Parts of one cut on two faces are taken together where they are no further apart than this, in mm."""


def recut(form: Form, before: Before, blank: Blank, numbers: Sequence[int]) -> Blank:
    """``blank`` is that of the faces before they were cut; that of ``numbers``, which are all that is left of them."""
    leaves = {leaf.face: leaf for leaf in blank.correspondence.leaves}
    rings, whole = [], []
    for parent, loops in before.removed:
        if parent in leaves:
            for walks in _everywhere(leaves[parent], loops):
                whole.append(walks)
                rings.append(shapely.Polygon(_ring(walks[0]), [_ring(walk) for walk in walks[1:]]).buffer(0))
    outline, area = _outline(blank, whole, rings)
    gone = shapely.union_all(rings) if rings else shapely.Polygon()
    made = tuple(_leaf_of(form, leaves[before.parents[n - 1]], n) for n in numbers)
    pieces = _pieces(blank.pieces, outline, made)
    figures = replace(
        blank.figures,
        area_form=form.area(numbers),
        area_blank=blank.figures.area_blank - area,
        outline_length=sum(c.length for c in outline),
        pieces=len(pieces),
    )
    mesh = None if blank.mesh is None else _left(blank.mesh, gone, before, numbers)
    if mesh is not None:
        figures = replace(
            figures,
            triangles=len(mesh.triangles),
            stretch_max=100 * float(mesh.stretch[:, 0].max()),
            stretch_min=100 * float(mesh.stretch[:, 1].min()),
        )
    return replace(
        blank, faces=tuple(numbers), pieces=pieces, correspondence=Correspondence(made), figures=figures, mesh=mesh
    )


def _pieces(before: Sequence[Piece], outline: Sequence[Contour], leaves: Sequence[Leaf]) -> tuple[Piece, ...]:
    """The pieces within an outline; what stood on those ``before`` stands on the one that it lies nearest to."""
    above = parents(outline)
    even = depths(above) % 2 == 0
    bare = [
        Piece(tuple(c for k, c in enumerate(outline) if k == outer or (above[k] == outer and not even[k])))
        for outer in np.flatnonzero(even).tolist()
    ]

    def on(k: int, at: Array) -> bool:
        if len(bare) == 1:
            return True
        return k == int(np.argmin([shapely.distance(piece.shape, shapely.Point(at)) for piece in bare]))

    middles = [leaf.chart_to_blank(np.array(leaf.region.shape.representative_point().coords))[0] for leaf in leaves]
    return named(
        [
            replace(
                piece,
                faces=tuple(sorted(leaf.face for leaf, at in zip(leaves, middles, strict=True) if on(k, at))),
                folds=tuple(fold for each in before for fold in each.folds if on(k, fold.points.mean(axis=0))),
                sides=tuple(side for each in before for side in each.sides if on(k, side.points.mean(axis=0))),
                words=tuple(word for each in before for word in each.words if on(k, word.middle(word.size))),
                ticks=tuple(tick for each in before for tick in each.ticks if on(k, tick.points.mean(axis=0))),
            )
            for k, piece in enumerate(bare)
        ]
    )


def _everywhere(leaf: Leaf, loops: Sequence[Sequence[Coedge]]) -> Iterator[list[list[Walk]]]:
    """Loops in the parameters of a face as walks on the blank, wherever the face's own parameters have them."""
    period = leaf.chart.surface.periods[0] if leaf.chart.window[0] is not None else None
    middle = np.vstack([c.uv(np.linspace(c.start, c.end, 17)) for c in loops[0]])
    found: list[Array] = []
    for turn in (0.0, 1.0, -1.0) if period is not None else (0.0,):
        shift = np.array([turn * (period or 0.0), 0.0])
        there = leaf.chart.flatten(middle + shift)
        if leaf.region.contains(there).any() and not any(np.allclose(there, other) for other in found):
            found.append(there)  # round a pole, every turn is the same

            carried = _Carried(leaf, shift)
            yield [[carried.walk(c) for c in _round(loop, carried)] for loop in loops]


@record
class _Carried:
    """Walks in the parameters of a face, moved by ``shift`` (2,), on the blank."""

    leaf: Leaf
    shift: Array

    def __call__(self, coedge: Coedge, t: Array) -> Array:
        return self.leaf.chart_to_blank(self.leaf.chart.flatten(coedge.uv(t) + self.shift))

    def walk(self, coedge: Coedge) -> Walk:
        return (lambda t: self(coedge, t)), coedge.start, coedge.end


def _round(loop: Sequence[Coedge], blank: _Carried) -> list[Coedge]:
    """The loop without poles, and without seams that the blank is not cut at: walked there and back again."""
    middles: dict[int, list[Array]] = {}
    for c in loop:
        middles.setdefault(c.edge, []).append(blank(c, np.array([(c.start + c.end) / 2]))[0])
    closed = {e for e, at in middles.items() if e >= 0 and len(at) == 2 and np.linalg.norm(at[0] - at[1]) < SEAM}
    return [c for c in loop if c.edge != POLE and c.edge not in closed]


def _ring(walks: Sequence[Walk]) -> Array:
    return np.vstack([curve(parameters_within(curve, a, b, FINE))[:-1] for curve, a, b in walks])


def _outline(
    blank: Blank, whole: Sequence[list[list[Walk]]], rings: Sequence[shapely.Geometry]
) -> tuple[tuple[Contour, ...], float]:
    """The outline without what was taken out, and the area in mm² that this is."""
    sheet = blank.region.shape
    kept, through = list(blank.outline), []
    tree = shapely.STRtree(rings)
    inner = shapely.contains_properly(sheet, rings) if rings else np.zeros(0, bool)
    one, other = tree.query(rings, predicate="dwithin", distance=SEAM) if rings else (np.zeros(0, int),) * 2
    alone = np.bincount(one[one != other], minlength=len(rings)) == 0
    area = 0.0
    for k, walks in enumerate(whole):
        if inner[k] and alone[k]:
            made = [contour(walk) for walk in walks]
            kept.extend(c.reversed() if c.area > 0 else c for c in made[:1])
            kept.extend(c if c.area > 0 else c.reversed() for c in made[1:])  # what stays loose within it
            area += float(rings[k].area)
        else:
            through.append(rings[k])
    if not through:
        return tuple(kept), area
    cut = shapely.union_all([ring.buffer(SEAM / 2, join_style="mitre") for ring in through])
    cut = cut.buffer(-SEAM / 2, join_style="mitre").intersection(sheet)
    area += float(cut.area)
    lines = [shapely.LinearRing(c.flattened(OUTLINE)) for c in kept]
    parts = [part for part in getattr(cut, "geoms", [cut]) if part.area > 0]
    notches = shapely.union_all([part for part in parts if any(line.intersects(part) for line in lines)])
    touched = [k for k, line in enumerate(lines) if line.intersects(notches)]
    left = Region(tuple(kept[k].flattened(OUTLINE)[:-1] for k in touched)).shape.difference(notches)
    rest = [c for k, c in enumerate(kept) if k not in touched]
    for part in getattr(left, "geoms", [left]):
        rest.extend(_rings(part, outer=True))
    for part in parts:
        if not any(line.intersects(part) for line in lines):
            rest.extend(_rings(part, outer=False))
    return tuple(rest), area


def _rings(part: shapely.Polygon, outer: bool) -> Iterator[Contour]:
    """The rings of a part of the blank, or of a hole in it, with the material on their left."""
    for ring, way in ((part.exterior, outer), *((inside, not outer) for inside in part.interiors)):
        points = np.array(ring.coords)[:-1]
        if len(points):
            yield Contour.polyline(points if ring.is_ccw == way else points[::-1], True)


def _leaf_of(form: Form, leaf: Leaf, number: int) -> Leaf:
    """The leaf of a face as it was, for the part of it that is face ``number`` now."""
    laid = replace(unwrap(form.face(number)), chart=leaf.chart)
    region = _fitting(laid.region(OUTLINE), leaf)
    if isinstance(leaf, RigidLeaf):
        return replace(leaf, face=number, region=region, loops=laid.loops)
    return replace(leaf, face=number, region=region, trimmed=True)


def _fitting(region: Region, leaf: Leaf) -> Region:
    """The region as the leaf's seam cuts it: moved by a turn where it has to be."""
    period = leaf.chart.surface.periods[0] if leaf.chart.window[0] is not None else None
    if period is None:
        return region
    parts = []
    for turn in (0.0, 1.0, -1.0):
        rings = tuple(
            leaf.chart.flatten(leaf.chart.unflatten(r) + np.array([turn * period, 0.0])) for r in region.rings
        )
        parts.append(Region(rings).shape.intersection(leaf.region.shape))
    joined = shapely.union_all(parts)
    found = [np.array(ring.coords)[:-1] for part in getattr(joined, "geoms", [joined]) if part.area > 0
             for ring in (part.exterior, *part.interiors)]  # fmt: skip
    return Region(tuple(found))


def _left(mesh: StretchMesh, gone: shapely.Geometry, before: Before, numbers: Sequence[int]) -> StretchMesh:
    """The triangles of what is left, each on the part of the face that it is on now."""
    middles = mesh.points_blank[mesh.triangles].mean(axis=1)
    kept = ~shapely.contains_xy(gone, middles)
    now = {before.parents[n - 1]: n for n in reversed(list(numbers))}
    faces = np.array([now.get(int(face), int(face)) for face in mesh.faces[kept]], int)
    return replace(mesh, triangles=mesh.triangles[kept], stretch=mesh.stretch[kept], faces=faces)
