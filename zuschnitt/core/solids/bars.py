"""Bars along cuts of a form: round, square and the like, solid or hollow, with a tongue below and its groove."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import shapely

from ..carry.tracks import Stretch, Track
from ..errors import CannotBeDone, Refused
from ..form.form import Form
from ..form.made_body import MadeBody
from ..form_curves.stations import Station
from ..plane.contour import Contour
from ..progress import SILENT, Progress
from .bar_sides import one_side
from .bodies import made_body, solid_of
from .booleans import cut, united
from .carrying import Carried
from .explore import volume
from .joining import rooted
from .sweeping import swept

ABOVE = 1.0
"""Grooves reach so many mm out of the body."""
ROUND = 32


@dataclass(frozen=True)
class Bar:
    """``kind`` round, half-round, square or triangle, ``size`` its diameter or side, ``wall`` of hollow ones or 0.

    ``keep`` says which part stays: whole, or what lies on the outer or the inner side of the faces. A ``tongue`` is
    (thickness, depth, setback); ``groove`` by how much its groove in the body is wider, None for no groove. Edges are
    rounded by ``radius``. All in mm. One that is ``rooted`` reaches a little into the faces that it stands on.
    """

    kind: str
    size: float
    wall: float = 0.0
    keep: str = "whole"
    tongue: tuple[float, float, float] | None = None
    groove: float | None = None
    radius: float = 0.0
    rooted: bool = False


def section_of(bar: Bar) -> Contour:
    """The section of a bar: x across its line, y along the outer normal, centred on it; half-round ones stand on it.

    Raises Refused and CannotBeDone.
    """
    if bar.size <= 0 or bar.wall < 0 or bar.radius < 0:
        raise Refused("The size of the bar must be above 0 mm, its wall and radius not below; change them.")
    r = bar.size / 2
    if bar.kind == "round":
        return _circle(r)
    if bar.kind == "half-round":
        made = Contour(np.array([[r, 0], [-r, 0.0]]), np.array([1.0, 0.0]), True)
    elif bar.kind == "square":
        made = Contour.polyline([[-r, -r], [r, -r], [r, r], [-r, r]], closed=True)
    else:
        high = bar.size * np.sqrt(3) / 2
        made = Contour.polyline([[-r, -high / 3], [r, -high / 3], [0, 2 * high / 3]], closed=True)
    return _rounded(made, bar.radius) if bar.radius else made


def _circle(radius: float) -> Contour:
    """In two arcs that meet above and below, and not on the faces that the bar runs along."""
    return Contour(np.array([[0.0, -radius], [0.0, radius]]), np.array([1.0, 1.0]), True)


def _rounded(section: Contour, radius: float) -> Contour:
    whole = shapely.Polygon(section.flattened(1e-5))
    inner = whole.buffer(-radius, join_style="mitre", mitre_limit=50)
    if inner.is_empty:
        raise CannotBeDone(f"Edges of the bar cannot be rounded with {radius:g} mm; take a smaller radius.")
    ring = np.array(inner.buffer(radius, quad_segs=ROUND).exterior.coords)[:-1]
    return Contour.polyline(ring[np.linalg.norm(np.roll(ring, -1, axis=0) - ring, axis=1) > 1e-6], closed=True)


def _inner(bar: Bar, section: Contour) -> Contour:
    wall = bar.wall
    if bar.kind == "round" and wall < bar.size / 2:
        return _circle(bar.size / 2 - wall)
    hollow = shapely.Polygon(section.flattened(1e-4)).buffer(-wall, join_style="mitre", mitre_limit=50)
    if hollow.is_empty:
        raise CannotBeDone(f"A wall of {wall:g} mm leaves nothing hollow in the bar; take a thinner one.")
    return Contour.polyline(np.array(hollow.exterior.coords)[:-1], closed=True)


def track_of(station: Station, setback: float = 0.0) -> Track:
    """The cut of a station as a way for a section, without ``setback`` mm at both ends."""
    total = station.length
    low, high = (0.0, total) if station.closed else (setback, total - setback)
    if high - low <= 0:
        raise CannotBeDone(f"Station {station.number} is {total:.4g} mm long, too short for that setback; take less.")
    stretches, begin = [], 0.0
    for piece in station.pieces:
        a, b = max(low, begin), min(high, begin + piece.length)
        if b - a > 1e-6:
            stretches.append(Stretch(piece.face, _from(piece.uv, begin), a, b, True))
        begin += piece.length
    return Track(f"station {station.number}", tuple(stretches), station.closed)


def _from(uv, begin: float):
    return lambda s: uv(np.asarray(s) - begin)


def bars(
    form: Form, faces: Sequence[int], stations: Sequence[Station], bar: Bar, progress: Progress = SILENT
) -> tuple[tuple[MadeBody, ...], tuple[str, ...]]:
    """A bar along each station and, where grooves are asked for, the body with them; and what is to be said.

    Raises Refused and CannotBeDone.
    """
    section = section_of(bar)
    body = solid_of(form)
    if bar.groove is not None and (body is None or bar.tongue is None):
        raise Refused("Grooves need a closed body and a tongue; leave the groove out, or add them.")
    made, grooves, halved = [], [], 0
    for k, station in enumerate(stations):
        progress.step(k / len(stations), f"station {station.number}")
        track = track_of(station)
        carried = bar_along(track, bar, "surface")
        shape, off = carried.shape, carried.deviation
        if bar.keep != "whole":
            shape, divided = one_side(form, faces, body, shape, track, bar)
            halved += not divided
        if bar.tongue is not None:
            shape = united(shape, [_tongue(station, bar, 0.0, section).shape])
            if bar.groove is not None:
                grooves.append(_tongue(station, bar, bar.groove, section, ABOVE).shape)
        made.append(made_body(f"station {station.number}", shape, off))
    messages = []
    if halved:
        messages.append(f"{halved} bars do not lie on both sides of the faces, so they stayed whole.")
    if grooves and body is not None:
        whole = cut(body, grooves)
        made.append(made_body(form.name or "body", whole, volume_change=volume(whole) - volume(body)))
    return tuple(made), tuple(messages)


def bar_along(track: Track, bar: Bar, upright: str) -> Carried:
    """A bar along a track, hollow where it has a wall; what else belongs to it is not looked at.

    Raises Refused and CannotBeDone.
    """
    section, hole = sections_of(bar)
    return swept(track, section, upright, hole)


def sections_of(bar: Bar) -> tuple[Contour, Contour | None]:
    """The section of a bar, rooted where it is, and its hole, if it is hollow. Raises Refused and CannotBeDone."""
    section = section_of(bar)
    hole = _inner(bar, section) if bar.wall else None
    return rooted(section) if bar.rooted else section, hole


def _tongue(station: Station, bar: Bar, fit: float, section: Contour, above: float | None = None) -> Carried:
    assert bar.tongue is not None
    thickness, depth, setback = bar.tongue
    if thickness <= 0 or depth <= 0 or setback < 0:
        raise Refused("The tongue's thickness and depth must be above 0 mm, its setback not below; change them.")
    half = (thickness + fit) / 2
    top = above if above is not None else 0.5 * float(section.bounds[1][1])
    outline = Contour.polyline([[-half, -depth], [half, -depth], [half, top], [-half, top]], closed=True)
    return swept(track_of(station, setback), outline, "surface")
