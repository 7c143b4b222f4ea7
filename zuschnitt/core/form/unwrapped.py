"""A face laid out in its chart, cut at a seam where it closes on itself."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from ..errors import CannotBeDone
from ..geometry.curves import Array, Curve, Ellipse, Line, Spline, parameters_within
from ..geometry.ruled_flat import FlatMap
from ..mesh.mesh_surface import MeshSurface
from ..plane.region import Region
from ..record import record
from .charts import Chart, FlatChart, PlaneChart, Window, chart_of, orientation
from .form import CUT, POLE, WAIST, Coedge, Face

OVERLAP = 5e-3
"""How finely an outline is looked at for overlaps, in mm."""
Loop = tuple[Coedge, ...]


@record
class Unwrapped:
    """``loops`` of ``face`` in its ``chart``: none of them closes round the surface any more."""

    face: Face
    chart: Chart
    loops: tuple[Loop, ...]

    def corners(self, coedge: Coedge) -> Array | None:
        """The parameters at the corners of a walk that is straight between them in the chart; None where it is not."""
        if not isinstance(self.chart, PlaneChart):
            return None
        ends = np.array([coedge.start, coedge.end])
        if isinstance(coedge.curve, Line):
            return ends
        if not isinstance(coedge.curve, Spline) or coedge.curve.degree != 1:
            return None
        low, high = ends.min(), ends.max()
        inner = coedge.curve.breaks[(coedge.curve.breaks > low) & (coedge.curve.breaks < high)]
        t = np.concatenate([[low], inner, [high]])
        return t[::-1] if coedge.backwards else t

    def chart_points(self, coedge: Coedge, t: Array) -> Array:
        return self.chart.flatten(coedge.uv(t))

    @property
    def poles(self) -> list[float]:
        """The v, lowest first, at which it is a single point."""
        return sorted({float(c.ends[0, 1]) for loop in self.loops for c in loop if c.edge == POLE})

    @property
    def pole_to_pole(self) -> bool:
        """Whether it closes on itself all round, from one pole to another."""
        return len(self.poles) == 2 and self.face.kind != "cone" and 0 in _seams(self.face).values()

    @property
    def cuts(self) -> list[Coedge]:
        """Where the face was cut open so that it can lie flat, each once."""
        seams = _seams(self.face)
        found = {c.edge: c for loop in self.loops for c in loop if c.edge in (CUT, WAIST) or c.edge in seams}
        return list(found.values())

    def region(self, tolerance: float) -> Region:
        """The face's region in its chart, its outline flattened to ``tolerance`` mm."""
        rings = []
        for loop in self.loops:
            ring = []
            for coedge in loop:
                t = self.corners(coedge)
                if t is None:
                    t = parameters_within(
                        lambda t, c=coedge: self.chart_points(c, t), coedge.start, coedge.end, tolerance
                    )
                ring.append(self.chart_points(coedge, t)[:-1])
            rings.append(np.vstack(ring))
        return Region(tuple(rings))


def without_overlap(face: Face) -> Face:
    """The face; without its flat where that lies over itself, as that of a strip does that turns too far.

    Such a face can neither be cut in one piece nor triangulated in its flat.
    """
    if face.flat is None or flat_unwrapped(face, face.flat).region(OVERLAP).touches_only:
        return face
    return replace(face, flat=None)


def unwrap(face: Face, seam_uv: Array | None = None) -> Unwrapped:
    """Lays ``face`` out in its chart.

    A face that closes on itself is cut at its own seam edge or, where ``seam_uv`` (2,) is given,
    through that point. One that runs from pole to pole is charted poorly as a whole (see ``pole_to_pole``).
    """
    if isinstance(face.surface, MeshSurface):  # cut open when it was read
        return unwrap_plain(face)
    if face.flat is not None:
        return flat_unwrapped(face, face.flat)
    loops = face.loops
    seams = _seams(face)
    poles = [c.ends[0, 1] for loop in loops for c in loop if c.edge == POLE]
    poles = [] if face.kind == "cone" else sorted({float(v) for v in poles})
    around = {edge for edge, axis in seams.items() if axis == 0}
    if around and len(poles) == 1:
        loops = tuple(loop for loop in _without_seams(face, around) if loop[0].edge != POLE)
    elif face.kind == "torus" and len(loops) == 1 and all(c.edge in seams for c in loops[0]):
        loops = (_cut_at_waist(face, seam_uv),)
    elif around and seam_uv is not None and face.surface.periods[0] is not None:
        loops = _with_seam_at(face, around, float(seam_uv[0]), face.surface.periods[0])
    samples = np.vstack([c.uv(np.linspace(c.start, c.end, 33)) for loop in loops for c in loop])
    box = np.array([samples.min(axis=0), samples.max(axis=0)])
    window: list[float | None] = [None, None]
    for axis, period in enumerate(face.surface.periods):
        if period is not None:
            width = box[1, axis] - box[0, axis]
            full = width > period * (1 - 1e-9)
            window[axis] = box[0, axis] if full else box[:, axis].mean() - period / 2
    chart = chart_of(face.surface, face.reversed, box, (window[0], window[1]), tuple(poles), bool(around))
    return Unwrapped(face, chart, loops)


def flat_unwrapped(face: Face, flat: FlatMap) -> Unwrapped:
    """A face laid out by its flat, cut at its own seam where it has one."""
    box = plain_box(face)
    chart = FlatChart(face.surface, plain_window(face), flat=flat)
    size = float((box[1] - box[0]).min())
    mirror = orientation(chart, box.mean(axis=0), size) * (-1 if face.reversed else 1)
    return Unwrapped(face, replace(chart, mirror=mirror), face.loops)


def unwrap_plain(face: Face) -> Unwrapped:
    """A face in plain scaled parameters, even one closed in every direction: fit for looking at."""
    chart = chart_of(face.surface, face.reversed, plain_box(face), plain_window(face))
    return Unwrapped(face, chart, face.loops)


def plain_box(face: Face) -> Array:
    """Low and high parameters (2, 2) that the face's loops reach."""
    samples = np.vstack([c.uv(np.linspace(c.start, c.end, 33)) for loop in face.loops for c in loop])
    return np.array([samples.min(axis=0), samples.max(axis=0)])


def plain_window(face: Face) -> Window:
    """Where parameters that come round again begin, as the face's loops have them."""
    low = plain_box(face)[0]
    around_u, around_v = face.surface.periods
    return (
        float(low[0]) if around_u is not None else None,
        float(low[1]) if around_v is not None else None,
    )


def _seams(face: Face) -> dict[int, int]:
    """The edges that the face walks along twice, each with the direction it closes in: 0 for u."""
    walks: dict[int, list[Coedge]] = {}
    for loop in face.loops:
        for c in loop:
            if c.edge >= 0:
                walks.setdefault(c.edge, []).append(c)
    found = {}
    for edge, pair in walks.items():
        if len(pair) == 2:
            gap = np.abs(pair[0].ends[0] - pair[1].ends[1])
            found[edge] = int(gap[1] > gap[0])
    return found


def _without_seams(face: Face, seams: set[int]) -> list[Loop]:
    """What is left of the loops without their seams, joined anew where parameters come round again.

    A chain that goes once round the surface stays open in its parameters. Holes that a seam ran
    through become whole.
    """
    period = face.surface.periods[0]
    chains: list[list[Coedge]] = []
    for loop in face.loops:
        first = next((i for i, c in enumerate(loop) if c.edge in seams), None)
        if first is None:
            chains.append(list(loop))
            continue
        turned = loop[first:] + loop[:first]
        for before, c in zip((turned[-1], *turned), turned, strict=False):
            if c.edge in seams:
                continue
            if before.edge in seams:
                chains.append([])
            chains[-1].append(c)
        chains = [chain for chain in chains if chain]
    done: list[Loop] = []
    while chains:
        chain = chains.pop(0)
        while True:
            end, begin = chain[-1].ends[1], chain[0].ends[0]
            if _meets(end, begin, period) is not None:
                break
            found = next((i for i, c in enumerate(chains) if _meets(end, c[0].ends[0], period) is not None), None)
            if found is None:
                break
            offset = _meets(end, chains[found][0].ends[0], period)
            assert offset is not None
            chain.extend(shifted(c, (offset, 0)) for c in chains.pop(found))
        done.append(tuple(chain))
    return done


def _meets(end: Array, begin: Array, period: float | None) -> float | None:
    """By how much u must be moved for ``begin`` to lie at ``end``; None where it cannot."""
    gap = end - begin
    turns = 0.0 if period is None else np.round(gap[0] / period) * period
    tiny = 1e-6 * max(1.0, float(np.abs(end).max()))
    return float(turns) if np.abs(gap - [turns, 0]).max() < tiny else None


def shifted(coedge: Coedge, offset) -> Coedge:
    """The same walk in parameters moved by ``offset`` (2,)."""
    curve = coedge.curve
    moved: Curve
    if isinstance(curve, Line):
        moved = replace(curve, origin=curve.origin + offset)
    elif isinstance(curve, Ellipse):
        moved = replace(curve, centre=curve.centre + offset)
    else:
        moved = replace(curve, control=curve.control + offset)
    return replace(coedge, curve=moved)


def _with_seam_at(face: Face, seams: set[int], u: float, period: float) -> tuple[Loop, ...]:
    seam_u = next(c.ends[0, 0] for loop in face.loops for c in loop if c.edge in seams)
    if min((u - seam_u) % period, (seam_u - u) % period) < 1e-9:
        return face.loops
    parts = _without_seams(face, seams)
    rounds = [part for part in parts if abs(part[-1].ends[1, 0] - part[0].ends[0, 0]) > period / 2]
    if len(rounds) == 1:  # it ends in a point, as a cone does in its apex
        rounds.append(_point_round(face, seams, rounds[0], period))
    turned = [_turned(face, part, u, period) for part in rounds]
    forward, backward = sorted(turned, key=lambda c: c[-1].ends[1, 0] < c[0].ends[0, 0])
    forward, backward = _starting_at(forward, u), _starting_at(backward, u + period)
    up = Coedge(CUT, Line.between(forward[-1].ends[1], backward[0].ends[0]), 0, 1)
    down = Coedge(CUT, Line.between(backward[-1].ends[1], forward[0].ends[0]), 0, 1)
    loops = [(*forward, up, *backward, down)]
    for part in parts:
        if not any(part is other for other in rounds):
            samples = np.vstack([c.uv(np.linspace(c.start, c.end, 33)) for c in part])[:, 0]
            turn = np.floor((samples.min() - u) / period)
            if samples.max() - turn * period > u + period:
                raise CannotBeDone(
                    f"The seam would run through a hole of face {face.number}; "
                    "move the hold point, or keep the face's own seam.",
                    faces=[face.number],
                )
            loops.append(tuple(shifted(c, (-turn * period, 0)) for c in part))
    return tuple(loops)


def _cut_at_waist(face: Face, seam_uv: Array | None) -> Loop:
    """The outline of a whole torus, cut round it on its inner side, where that is shortest and stretches least.

    The other way it is cut where the file has it or, where ``seam_uv`` (2,) is given, through that point.
    """
    own = [c.ends for c in face.loops[0]]
    low = np.array([min(ends[0, 0] for ends in own) if seam_uv is None else seam_uv[0], np.pi])
    corners = low + 2 * np.pi * np.array([[0, 0], [1, 0], [1, 1], [0, 1]])
    first, second = own[0][1] - own[0][0], own[1][1] - own[1][0]
    if first[0] * second[1] - first[1] * second[0] < 0:
        corners = corners[[0, 3, 2, 1]]
    return tuple(
        Coedge(WAIST if start[1] == end[1] else CUT, Line.between(start, end), 0, 1)
        for start, end in zip(corners, np.roll(corners, -1, axis=0), strict=True)
    )


def _point_round(face: Face, seams: set[int], other: Loop, period: float) -> Loop:
    """The walk, in parameters, round the point that the face ends in, against the ``other`` walk."""
    heights = [c.ends[k, 1] for loop in face.loops for c in loop if c.edge in seams for k in (0, 1)]
    v = max(heights, key=lambda height: abs(height - other[0].ends[0, 1]))
    begin, end = other[-1].ends[1, 0], other[0].ends[0, 0]
    return (Coedge(POLE, Line.between(np.array([begin, v]), np.array([end, v])), 0, 1),)


def _starting_at(chain: Loop, u: float) -> Loop:
    offset = (u - chain[0].ends[0, 0], 0)
    return tuple(shifted(c, offset) for c in chain)


def _turned(face: Face, chain: Loop, u: float, period: float) -> Loop:
    """The chain, once round the surface, begun at ``u`` instead of at the old seam."""
    from scipy.optimize import brentq

    for i, coedge in enumerate(chain):
        t = np.linspace(coedge.start, coedge.end, 257)
        along = coedge.uv(t)[:, 0]
        for target in u + period * np.arange(-3, 4):
            gap = along - target
            crossing = np.nonzero(np.sign(gap[:-1]) * np.sign(gap[1:]) < 0)[0]
            exact = np.nonzero(gap == 0)[0]
            if len(crossing) + len(exact) == 0:
                continue
            if len(exact):
                split = float(t[exact[0]])
            else:
                a, b = t[crossing[0]], t[crossing[0] + 1]
                split = brentq(
                    lambda s, c=coedge, target=target: c.uv(np.array([s]))[0, 0] - target,
                    a, b, xtol=1e-15, rtol=1e-15,
                )  # fmt: skip
            winding = chain[-1].ends[1, 0] - chain[0].ends[0, 0]
            offset = (np.sign(winding) * period, 0)
            before = replace(coedge, end=split)
            after = replace(coedge, start=split)
            parts = [after, *chain[i + 1 :], *(shifted(c, offset) for c in (*chain[:i], before))]
            return tuple(p for p in parts if p.start != p.end)
    raise CannotBeDone(
        f"No seam can be put there on face {face.number}; keep the face's own seam.",
        faces=[face.number],
    )
