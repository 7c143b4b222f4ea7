"""The one map between the points of a form and the points of its blank, good in both directions.

There is one per development. Curves, artwork, holes and test circles all travel through it.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from dataclasses import replace
from functools import cached_property
from typing import TYPE_CHECKING

import numpy as np

from .form.charts import Chart
from .geometry.curves import Array
from .geometry.surfaces import Plane
from .lazy import Lazy
from .mesh.triangles import TriangleFinder, TriangleMap, boundary_rings
from .plane.region import Region
from .record import record

if TYPE_CHECKING:
    import shapely

    from .form.form import Coedge

MARGIN = 1e-6
"""Points no further than this outside an outline still count as inside, in mm."""
MANY = 32
"""With more faces than this, it is first asked in whose box a point lies."""
AROUND = 24
"""About so many places round a curved face tell its box."""
CHORD_SAG = 2e-3
"""The sag of an edge's chords in a triangulated blank, as part of the blank's size, at most."""
ASIDE = 1e-8 * np.array([np.cos(1.0), np.sin(1.0)])
"""Which face a point of the blank is on is asked so much beside it, in mm: of a line that runs along the joint of two
faces all is then on one of them, whatever the rounding."""


@record
class Rigid:
    """A motion of the plane: ``turn`` (2, 2) applied first, then ``shift`` (2,)."""

    turn: Array
    shift: Array

    def apply(self, points: Array) -> Array:
        return points @ self.turn.T + self.shift

    def undo(self, points: Array) -> Array:
        return (points - self.shift) @ self.turn

    @property
    def angle(self) -> float:
        """By how much it turns, in radians."""
        return float(np.arctan2(self.turn[1, 0], self.turn[0, 0]))

    def after(self, first: Rigid) -> Rigid:
        return Rigid(self.turn @ first.turn, self.turn @ first.shift + self.shift)

    @property
    def inverse(self) -> Rigid:
        return Rigid(self.turn.T, -self.turn.T @ self.shift)


STILL = Rigid(np.eye(2), np.zeros(2))


@record
class Located:
    """Carried points: ``points`` (n, 2) or (n, 3), the ``face`` (n,) each is on, and ``inside`` (n,).

    ``gap`` (n,) is how far the given points were off the form (form to blank) in mm.
    """

    points: Array
    face: np.ndarray
    inside: np.ndarray
    gap: Array


@record
class RigidLeaf:
    """A face whose chart is its exact development; it only has to be laid in its place."""

    face: int
    chart: Chart
    region: Region
    placement: Rigid
    loops: tuple[tuple[Coedge, ...], ...] = ()
    """The face's loops as it was cut open."""

    def moved(self, motion: Rigid) -> RigidLeaf:
        return replace(self, placement=motion.after(self.placement))

    @property
    def rings_blank(self) -> Array:
        """Points (n, 2) round the face, on the blank."""
        return self.placement.apply(np.vstack(self.region.rings))

    def chart_to_blank(self, xy: Array) -> Array:
        return self.placement.apply(xy)

    def blank_to_chart(self, points: Array) -> tuple[Array, np.ndarray]:
        return self.placement.undo(points), self.region.contains(self.placement.undo(points + ASIDE))

    def distance(self, points_blank: Array) -> Array:
        """How far outside the face each blank point is."""
        return self.region.distance(self.placement.undo(points_blank))


@record
class TriangulatedLeaf(Lazy):
    """A face carried triangle by triangle between its chart and the blank; ``trimmed`` where these reach beyond it."""

    face: int
    chart: Chart
    region: Region
    points_chart: Array
    points_blank: Array
    triangles: np.ndarray
    trimmed: bool = False

    def moved(self, motion: Rigid) -> TriangulatedLeaf:
        return replace(self, points_blank=motion.apply(self.points_blank))

    @cached_property
    def _in_chart(self) -> TriangleMap:
        return TriangleMap(TriangleFinder(self.points_chart, self.triangles), self.points_blank)

    @cached_property
    def _in_blank(self) -> TriangleMap:
        return TriangleMap(TriangleFinder(self.points_blank, self.triangles), self.points_chart)

    @property
    def rings_blank(self) -> Array:
        """Points (n, 2) of the face, on the blank."""
        return self.points_blank

    def chart_to_blank(self, xy: Array) -> Array:
        return self._in_chart.carry(xy)[0]

    def blank_to_chart(self, points: Array) -> tuple[Array, np.ndarray]:
        xy, inside, near = self._in_blank.carry(points)
        if self.trimmed:
            return xy, (inside | near) & self.region.contains(xy, MARGIN)
        beside = np.nonzero(near & ~inside)[0]
        if len(beside):  # between the last chord and a rounded outline
            inside[beside] = self.region.contains(xy[beside], MARGIN)
        return xy, inside

    def distance(self, points_blank: Array) -> Array:
        """How far outside the face each blank point is."""
        if self.trimmed:
            return self.region.distance(self.blank_to_chart(points_blank)[0])
        return self.outline.distance(points_blank)

    @cached_property
    def outline(self) -> Region:
        """The outline of the triangles on the blank."""
        return Region(tuple(self.points_blank[ring] for ring in boundary_rings(self.triangles)))


def _off_a_box(points: Array, low: Array, high: Array) -> Array:
    """How far points (n, 2) lie outside a bounding box with corners ``low`` and ``high`` (2,)."""
    return np.linalg.norm(np.maximum(np.maximum(low - points, points - high), 0.0), axis=1)


def _turn(here: Array, there: Array) -> Array:
    """The rotation (2, 2) that turns a span between two points (2, 2) into another one of the same length."""
    (a, b), (c, d) = here[1] - here[0], there[1] - there[0]
    return np.array([[a * c + b * d, b * c - a * d], [a * d - b * c, a * c + b * d]]) / (a * a + b * b)


def _lies_on(leaf: RigidLeaf, other: RigidLeaf) -> bool:
    """Whether a face continues another one's surface."""
    points = leaf.chart.to_form(leaf.region.rings[0][:: max(len(leaf.region.rings[0]) // 12, 1)])
    surface = other.chart.surface
    return bool(np.abs(surface.evaluate(surface.project(points)) - points).max() < MARGIN)


Leaf = RigidLeaf | TriangulatedLeaf


class Nearest:
    """The leaf that holds each of some points of the form, or is nearest to it, of those tried so far.

    ``uv`` (n, 2) are the parameters of their feet on its surface.
    """

    def __init__(self, points_form: Array) -> None:
        n = len(points_form)
        self._points_form = points_form
        self.best, self.gap = np.full(n, np.inf), np.full(n, np.inf)
        self.points_blank, self.face, self.inside = np.zeros((n, 2)), np.zeros(n, int), np.zeros(n, bool)
        self.uv = np.zeros((n, 2))

    def try_leaf(self, leaf: Leaf, rows: np.ndarray, several: bool) -> None:
        """Takes the leaf for those of the points ``rows`` to which it is nearer; ``several`` where it is not alone."""
        if not len(rows):
            return
        points, best = self._points_form[rows], self.best[rows]
        uv = leaf.chart.within(leaf.chart.surface.project(points))
        off = np.linalg.norm(leaf.chart.surface.evaluate(uv) - points, axis=1)
        may = np.nonzero(off < best - 1e-9)[0]  # no face can come nearer than its whole surface
        if not len(may):
            return
        xy = leaf.chart.flatten(uv[may])
        if several:  # nor than the box round it
            near = off[may] + _off_a_box(xy, *leaf.region.box) < best[may] - 1e-9
            may, xy = may[near], xy[near]
            if not len(may):
                return
        here = leaf.region.contains(xy, MARGIN)
        cost, uv = off[may], uv[may]
        if several:
            cost[~here] += leaf.region.distance(xy[~here])
        better = cost < best[may] - 1e-9
        mine = rows[may[better]]
        self.best[mine], self.gap[mine] = cost[better], off[may[better]]
        self.face[mine], self.inside[mine] = leaf.face, here[better]
        self.points_blank[mine], self.uv[mine] = leaf.chart_to_blank(xy[better]), uv[better]


def _about(leaf: Leaf) -> tuple[Array, Array]:
    """Low and high corner (3,) of a box round a face; of a curved one it is larger by as much as that may bulge."""
    around = np.vstack(leaf.region.rings)
    plane = isinstance(leaf.chart.surface, Plane)
    corners = leaf.chart.to_form(around if plane else around[:: max(len(around) // AROUND, 1)])
    low, high = corners.min(axis=0), corners.max(axis=0)
    spare = MARGIN if plane else MARGIN + float(np.linalg.norm(high - low)) / 2
    return low - spare, high + spare


@record
class Correspondence(Lazy):
    """``leaves``: one for each developed face.

    Where it is ``open``, what lies beside the blank is outside, though it came round onto the form again.
    """

    leaves: tuple[Leaf, ...]
    open: bool = False

    @cached_property
    def box(self) -> tuple[Array, Array]:
        """The lowest and the highest corner (2,) of the blank's bounding box."""
        points = np.vstack([leaf.rings_blank for leaf in self.leaves])
        return points.min(axis=0), points.max(axis=0)

    @cached_property
    def _spaces(self) -> tuple[Array, Array]:
        """Low and high corners (k, 3) of boxes round the faces."""
        low, high = zip(*map(_about, self.leaves), strict=True)
        return np.array(low), np.array(high)

    @property
    def size(self) -> float:
        """The diagonal of the blank's bounding box, in mm."""
        low, high = self.box
        return float(np.linalg.norm(high - low))

    @property
    def goes_round(self) -> bool:
        """Whether points beside the blank may be on the form all the same, a turn further round a closed face."""
        return bool(self._closed)

    @property
    def slack(self) -> float:
        """How far in mm two faces may lie apart on the form, where they meet on the blank.

        Where a blank is made of triangles, these are chords of the edge that the faces share.
        """
        exact = all(isinstance(leaf, RigidLeaf) for leaf in self.leaves)
        return MARGIN if exact else CHORD_SAG * self.size

    @cached_property
    def _closed(self) -> tuple[RigidLeaf, ...]:
        """Leaves of faces that, alone or together, go all round their surface: on these, every turn is on the form."""
        if self.open:
            return ()
        found: list[RigidLeaf] = []
        rolled = [leaf for leaf in self.leaves if isinstance(leaf, RigidLeaf) and leaf.chart.surface.periods[0]]
        for leaf in rolled:
            same = [other for other in rolled if _lies_on(other, leaf)]
            widths = [np.ptp(np.unwrap(other.chart.unflatten(np.vstack(other.region.rings))[:, 0])) for other in same]
            if sum(widths) > (leaf.chart.surface.periods[0] or 0) * (1 - 1e-6):
                found.append(leaf)
        return tuple(found)

    @cached_property
    def turns(self) -> tuple[tuple[Rigid, float, frozenset[int]], ...]:
        """For each closed surface the motion by which a blank of it comes round on itself, its angle, and its faces.

        The angle is in radians: 0 round a cylinder, up to a whole turn round a cone.
        """
        found: list[tuple[Rigid, float, frozenset[int]]] = []
        for leaf in self._closed:
            if any(leaf.face in faces for *_, faces in found):
                continue
            same = frozenset(other.face for other in self._closed if _lies_on(other, leaf))
            ring = leaf.region.rings[0]
            uv = leaf.chart.unflatten(ring[[0, len(ring) // 2]])
            period = np.array([leaf.chart.surface.periods[0] or 0.0, 0.0])
            here, part, there = (leaf.placement.apply(leaf.chart.flatten(uv + k * period)) for k in (0, 1 / 8, 1))
            angle = 8 * float(np.arctan2(*(_turn(here, part)[1::-1, 0])))
            turn = _turn(here, there)
            found.append((Rigid(turn, there[0] - turn @ here[0]), angle, same))
        return tuple(found)

    def _on_a_turn(self, points_form: Array, faces: np.ndarray) -> np.ndarray:
        """Which points (n, 3), carried by ``faces`` (n,) beyond their outlines, come round onto the form again."""
        found = np.zeros(len(faces), bool)
        numbers = [leaf.face for leaf in self._closed]
        mine = np.nonzero(np.isin(faces, numbers))[0]
        if len(mine):
            at = Correspondence(self._closed).to_blank(points_form[mine])
            found[mine] = at.inside & (at.gap < MARGIN)
        return found

    def moved(self, motion: Rigid) -> Correspondence:
        """The same map with the blank moved."""
        return replace(self, leaves=tuple(leaf.moved(motion) for leaf in self.leaves))

    def to_form(self, points_blank: Array) -> Located:
        """Points (n, 3) on the true surface for points (n, 2) of the blank.

        A point outside the blank is carried by the nearest face, continued, and is not ``inside``.
        """
        points_blank = np.asarray(points_blank, float).reshape(-1, 2)
        n = len(points_blank)
        first = self.leaves[0]
        xy, inside = first.blank_to_chart(points_blank)
        if inside.all():  # the most common case, and the one that must be quick
            return Located(first.chart.to_form(xy), np.full(n, first.face), inside, np.zeros(n))
        result, face = np.zeros((n, 3)), np.zeros(n, int)
        result[inside], face[inside] = first.chart.to_form(xy[inside]), first.face
        for k, candidates in self._by_box(points_blank):
            leaf, todo = self.leaves[k], candidates[~inside[candidates]]
            xy, here = leaf.blank_to_chart(points_blank[todo])
            result[todo[here]] = leaf.chart.to_form(xy[here])
            face[todo[here]] = leaf.face
            inside[todo[here]] = True
        outside = np.nonzero(~inside)[0]
        if len(outside):
            nearest = self._nearest(points_blank, outside, inside)
            for k in np.unique(nearest).tolist():
                leaf, mine = self.leaves[k], outside[nearest == k]
                result[mine] = leaf.chart.to_form(leaf.blank_to_chart(points_blank[mine])[0])
                face[mine] = leaf.face
            if self._closed:
                off = np.nonzero(~inside)[0]
                inside[off] = self._on_a_turn(result[off], face[off])
        return Located(result, face, inside, np.zeros(n))

    def _by_box(self, points_blank: Array) -> Iterator[tuple[int, np.ndarray]]:
        """The further leaves in whose box on the blank some of the points (n, 2) lie, and which these are."""
        if len(self.leaves) < 2:
            return
        import shapely

        points, leaves = self._boxes.query(shapely.points(points_blank), predicate="intersects")
        order = np.argsort(leaves, kind="stable")
        points, leaves = points[order], leaves[order]
        for k in np.unique(leaves).tolist():
            yield k + 1, points[np.searchsorted(leaves, k) : np.searchsorted(leaves, k, "right")]

    @cached_property
    def _boxes(self) -> shapely.STRtree:
        """The boxes of all leaves but the first, a little larger than they are."""
        import shapely

        corners = np.array([(*r.min(axis=0), *r.max(axis=0)) for r in (leaf.rings_blank for leaf in self.leaves[1:])])
        room = MARGIN + 5e-3 * np.maximum(corners[:, 2:] - corners[:, :2], 0).max(axis=1)
        return shapely.STRtree(shapely.box(*(corners + np.outer(room, [-1, -1, 1, 1])).T))

    def _nearest(self, points_blank: Array, outside: np.ndarray, inside: np.ndarray) -> np.ndarray:
        """The index of the leaf nearest to each of the points ``outside``; those just at an outline become inside."""
        leaf = self.leaves[0]
        if len(self.leaves) == 1 and isinstance(leaf, RigidLeaf):
            inside[outside] = leaf.region.contains(leaf.placement.undo(points_blank[outside]), MARGIN)
            return np.zeros(len(outside), int)
        points = points_blank[outside]
        boxes = [(rings.min(axis=0), rings.max(axis=0)) for rings in (leaf.rings_blank for leaf in self.leaves)]
        room = np.stack([_off_a_box(points, *box) for box in boxes])
        nearest = room.argmin(axis=0)
        gap = np.full(len(points), np.inf)
        for k, leaf in enumerate(self.leaves):
            gap[nearest == k] = leaf.distance(points[nearest == k])
        first = nearest.copy()
        for k, leaf in enumerate(self.leaves):  # no face is nearer than the box round it
            mine = np.nonzero((room[k] < gap) & (first != k))[0]
            there = leaf.distance(points[mine])
            closer = there < gap[mine]
            gap[mine[closer]], nearest[mine[closer]] = there[closer], k
        inside[outside] = gap <= MARGIN
        return nearest

    def to_blank(self, points_form: Array, faces: Iterable[int] | None = None) -> Located:
        """Blank points (n, 2) for points (n, 3) on or near the form.

        Each goes to the face that holds it; ``gap`` is its distance from that face's surface.
        """
        found = self.nearest(np.asarray(points_form, float).reshape(-1, 3), faces)
        return Located(found.points_blank, found.face, found.inside, found.gap)

    def nearest(self, points_form: Array, faces: Iterable[int] | None = None) -> Nearest:
        """The leaves, of these ``faces``, that hold points (n, 3), or are nearest to them."""
        found = Nearest(points_form)
        asked = [k for k, leaf in enumerate(self.leaves) if faces is None or leaf.face in faces]
        todo = np.arange(len(points_form))
        if len(asked) > MANY:  # most points lie on a face, and within its box
            low, high = self._spaces
            for k in asked:
                there = ((points_form >= low[k]) & (points_form <= high[k])).all(axis=1)
                found.try_leaf(self.leaves[k], np.nonzero(there)[0], True)
            todo = np.nonzero(~(found.inside & (found.best <= MARGIN)))[0]
        for k in asked if len(todo) else ():
            found.try_leaf(self.leaves[k], todo, len(self.leaves) > 1)
        return found

    def images(self, points_form: Array, at: Located) -> list[Located]:
        """All places of the blank at which points (n, 3) lie that ``to_blank`` has put ``at`` one of them.

        Points of an edge at which the blank is cut open lie at two. The first is ``at``; in each other one, ``inside``
        tells for which points there is such a place.
        """
        found = [at]
        edge = np.zeros(len(points_form), bool)
        shifts = (0.0, 1.0, -1.0)
        for leaf in self.leaves:
            mine = np.nonzero((at.face == leaf.face) & at.inside)[0]
            if len(mine):
                uv = leaf.chart.within(leaf.chart.surface.project(points_form[mine]))
                edge[mine] |= leaf.region.distance(leaf.chart.flatten(uv)) < 2 * MARGIN
        near = np.nonzero(edge)[0]
        for leaf in self.leaves if len(near) else ():
            uv = leaf.chart.within(leaf.chart.surface.project(points_form[near]))
            off = np.linalg.norm(leaf.chart.surface.evaluate(uv) - points_form[near], axis=1)
            period = leaf.chart.surface.periods[0] if leaf.chart.window[0] is not None else None
            for shift in shifts if period is not None else shifts[:1]:
                xy = leaf.chart.flatten(uv + np.array([shift * (period or 0.0), 0.0]))
                here = (off < 2 * MARGIN) & leaf.region.contains(xy, 2 * MARGIN)
                image = leaf.chart_to_blank(xy)
                here &= np.linalg.norm(image - at.points[near], axis=1) > MARGIN
                if here.any():
                    inside = np.zeros(len(points_form), bool)
                    points, face = at.points.copy(), at.face.copy()
                    inside[near], points[near], face[near] = here, image, leaf.face
                    found.append(Located(points, face, inside, at.gap))
        return found

    def round_trip(self, points_form: Array) -> float:
        """The largest distance on the form, in mm, between points (n, 3) and their image after
        form -> blank -> form."""
        back = self.to_form(self.to_blank(points_form).points)
        return float(np.linalg.norm(back.points - points_form, axis=1).max(initial=0.0))
