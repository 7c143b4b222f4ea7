"""Edges between walls that are opened, and how the walls end there."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from ..errors import Refused
from ..form.form import Form
from ..record import record
from .bending import LEAST, strip
from .opening import Link
from .part import Zone
from .unfolded import Corner, Unfolded
from .zones import Loop, Step, carved

COVERS = {"closed": 0.0, "half-open": 0.5, "overlapping": 1.0}
"""How much of the one wall's edge the other one covers at an open corner."""


@record
class Seam:
    """An edge that was opened, by its number, with its length in mm."""

    edge: int
    length: float


def links_of(form: Form, laid: Unfolded) -> list[Link]:
    links = []
    for number, joint in laid.joints.items():
        edges = laid.edges_of[number]
        links.append(Link(joint.zones, edges, sum(form.edge(e).length for e in edges), joint=number))
    for k, corner in enumerate(laid.corners):
        links.append(Link(corner.zones, corner.edges, sum(form.edge(e).length for e in corner.edges), corner=k))
    return links


def asked_for(form: Form, laid: Unfolded, links: Sequence[Link], opened: tuple[int, ...] | str) -> set[int] | None:
    """The edges that are opened, by their numbers; None where they are chosen."""
    if isinstance(opened, str):
        return None
    known = {edge for link in links for edge in link.edges} | set(laid.torn) | set(laid.come_round)
    found = set()
    for number in opened:
        edge = form.edge(number)
        twin = number if number in known else _on_this_side(form, number, known)
        if twin is None:
            raise Refused(
                f"Edge {number} (between faces {', '.join(map(str, edge.faces))}) lies between no two walls of the "
                f"sheet, so there is nothing to open; those that do: {', '.join(map(str, sorted(known))) or 'none'}."
            )
        found.add(twin)
    return found


def _on_this_side(form: Form, number: int, known: set[int]) -> int | None:
    """The edge of the followed side that lies nearest to one of the other side, where it runs along it."""
    edge = form.edge(number)
    mine = edge.curve.evaluate(np.array([edge.start, edge.end]))
    along = (mine[1] - mine[0]) / max(float(np.linalg.norm(mine[1] - mine[0])), 1e-300)
    best: tuple[float, int] | None = None
    for other in known:
        twin = form.edge(other)
        ends = twin.curve.evaluate(np.array([twin.start, twin.end]))
        way = ends[1] - ends[0]
        if np.linalg.norm(np.cross(way / max(float(np.linalg.norm(way)), 1e-300), along)) > 1e-6:
            continue
        middle = mine.mean(axis=0) - ends[0]
        aside = float(np.linalg.norm(middle - (middle @ along) * along))
        best = min(best, (aside, other)) if best else (aside, other)
    return best[1] if best and best[0] <= 0.2 * form.size else None


def steps_at(zone: Zone, edges: Sequence[int]) -> list[Step]:
    """The steps of a zone along edges, in the order of the edges."""
    return [step for edge in edges for step in zone.steps if step.edge == edge]


def open_setbacks(corner: Corner, thickness: float, corners: str, gap: float) -> tuple[float, float]:
    """How far each of two walls ends from the open corner between them, on the followed side, in mm.

    Closed: both end where their inner sides meet, ``gap`` from each other. Otherwise the first one covers a part of
    the other's edge, and the other ends the gap before it.
    """
    base = 0.0 if corner.up else thickness * float(np.tan(corner.angle / 2))
    covers = COVERS[corners] * thickness / max(float(np.sin(corner.angle)), 1e-9)
    if covers == 0.0:
        each = base + gap / 2 / max(float(np.cos(corner.angle / 2)), 1e-9)
        return each, each
    return base - covers, base + gap / max(float(np.sin(corner.angle)), 1e-9)


def open_wall(zones: list[Zone], strips: dict[int, list[Loop]], zone: int, corner: Corner, deep: float) -> None:
    """Ends a wall ``deep`` mm before an open corner, or lets it run on where that is below 0."""
    for step in steps_at(zones[zone], corner.edges):
        if deep > LEAST:
            strips.setdefault(zone, []).append(strip(zones[zone], step, deep, None))
    if deep < -LEAST:
        zones[zone] = _grown(zones[zone], corner.edges, -deep)


def _grown(zone: Zone, edges: Sequence[int], more: float) -> Zone:
    """With strips put to its steps along edges; their outer sides take the place of the edges."""
    added = []
    for step in steps_at(zone, edges):
        along = (step.last - step.first) / step.length
        out = more * np.array([along[1], -along[0]])
        a, b = step.first, step.last
        added.append((
            Step.between(b, a), Step.between(a, a + out), Step.between(a + out, b + out, None, step.edge),
            Step.between(b + out, b),
        ))  # fmt: skip
    parts = carved(zone.loops, [], added)
    return replace(zone, loops=tuple(loop for each in parts for loop in each))
