"""A face laid out in its chart, cut at a seam where it closes on itself."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from ..errors import CannotBeDone
from ..region import Region
from .charts import Chart, PolarChart, chart_of
from .curves import Array, Curve, Ellipse, Line, parameters_within
from .form import CUT, POLE, Coedge, Face

Loop = tuple[Coedge, ...]


@dataclass(frozen=True)
class Unwrapped:
    """``loops`` of ``face`` in its ``chart``: none of them closes round the surface any more."""

    face: Face
    chart: Chart
    loops: tuple[Loop, ...]

    def chart_points(self, coedge: Coedge, t: Array) -> Array:
        return self.chart.flatten(coedge.uv(t))

    def region(self, tolerance: float) -> Region:
        """The face's region in its chart, its outline flattened to ``tolerance`` mm."""
        rings = []
        for loop in self.loops:
            ring = []
            for coedge in loop:
                t = parameters_within(lambda t, c=coedge: self.chart_points(c, t), coedge.start, coedge.end, tolerance)
                ring.append(self.chart_points(coedge, t)[:-1])
            rings.append(np.vstack(ring))
        return Region(tuple(rings))


def unwrap(face: Face, seam_uv: Array | None = None) -> Unwrapped:
    """Lays ``face`` out in its chart.

    A face that closes on itself is cut at its own seam edge or, where ``seam_uv`` (2,) is given,
    through that point. Raises CannotBeDone for a face that is closed in both directions.
    """
    loops = face.loops
    seams = _seam_pairs(face)
    poles = [c.ends[0, 1] for loop in loops for c in loop if c.edge == POLE]
    polar_kind = face.kind != "cone"
    if len(seams) > 1 or (polar_kind and len(poles) > 1):
        raise CannotBeDone(
            f"Face {face.number} closes on itself in every direction and has no edge to start from; "
            "cut it open along a seam first.",
            faces=[face.number],
        )
    pole_v = poles[0] if poles and polar_kind else None
    if seams and pole_v is None and seam_uv is not None:
        loops = _with_seam_at(face, seams[0], float(seam_uv[0]))
    if pole_v is not None:
        loops = tuple(_without_seams(loop, seams) for loop in loops)
    samples = np.vstack([c.uv(np.linspace(c.start, c.end, 33)) for loop in loops for c in loop])
    box = np.array([samples.min(axis=0), samples.max(axis=0)])
    window: list[float | None] = [None, None]
    for axis, period in enumerate(face.surface.periods):
        if period is not None:
            width = box[1, axis] - box[0, axis]
            full = width > period * (1 - 1e-9)
            window[axis] = box[0, axis] if full else box[:, axis].mean() - period / 2
    chart = chart_of(face.surface, face.reversed, box, (window[0], window[1]), pole_v)
    assert pole_v is None or isinstance(chart, PolarChart)
    return Unwrapped(face, chart, loops)


def _seam_pairs(face: Face) -> list[int]:
    """Indices of the edges that the face walks along twice."""
    edges = [c.edge for loop in face.loops for c in loop if c.edge >= 0]
    return sorted({edge for edge in edges if edges.count(edge) == 2})


def _without_seams(loop: Loop, seams: list[int]) -> Loop:
    return tuple(c for c in loop if c.edge not in seams and c.edge != POLE)


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


def _with_seam_at(face: Face, seam: int, u: float) -> tuple[Loop, ...]:
    period = face.surface.periods[0]
    outer = next(loop for loop in face.loops if any(c.edge == seam for c in loop))
    first, second = (i for i, c in enumerate(outer) if c.edge == seam)
    seam_u = outer[first].ends[0, 0]
    if period is None or min((u - seam_u) % period, (seam_u - u) % period) < 1e-9:
        return face.loops
    chains = [outer[first + 1 : second], outer[second + 1 :] + outer[:first]]
    there, back = outer[first].ends, outer[second].ends
    # where a chain is empty, the face ends in a point, as a cone does in its apex
    turned = [
        _turned(face, chain or (Coedge(POLE, Line.between(a, b), 0, 1),), u, period)
        for chain, a, b in ((chains[0], there[1], back[0]), (chains[1], back[1], there[0]))
    ]
    forward, backward = sorted(turned, key=lambda c: c[-1].ends[1, 0] < c[0].ends[0, 0])
    forward, backward = _starting_at(forward, u), _starting_at(backward, u + period)
    up = Coedge(CUT, Line.between(forward[-1].ends[1], backward[0].ends[0]), 0, 1)
    down = Coedge(CUT, Line.between(backward[-1].ends[1], forward[0].ends[0]), 0, 1)
    loops = [(*forward, up, *backward, down)]
    for loop in face.loops:
        if loop is not outer:
            samples = np.vstack([c.uv(np.linspace(c.start, c.end, 33)) for c in loop])[:, 0]
            turn = np.floor((samples.min() - u) / period)
            if samples.max() - turn * period > u + period:
                raise CannotBeDone(
                    f"The seam would run through a hole of face {face.number}; "
                    "move the hold point, or keep the face's own seam.",
                    faces=[face.number],
                )
            loops.append(tuple(shifted(c, (-turn * period, 0)) for c in loop))
    return tuple(loops)


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
