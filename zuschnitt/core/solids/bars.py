"""Bars along cuts of a form: round, square and the like, solid or hollow, with a tongue below and its groove."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import shapely
from OCP.TopoDS import TopoDS_Shape

from ..carry.tracks import Stretch, Track, divided
from ..errors import CannotBeDone, Refused
from ..form.form import Form
from ..form.made_body import MadeBody
from ..form_curves.stations import Station
from ..plane.contour import Contour
from ..progress import SILENT, Progress
from ..record import record
from ..wording import counted
from .bar_ends import fitted
from .bar_sides import beside_body, one_side
from .bodies import made_body, solid_of
from .booleans import cut, united
from .carrying import Carried
from .explore import volume
from .joining import rooted

ABOVE = 1.0
"""Grooves reach so many mm out of the body."""
ROUND = 32
MITRED = 0.02
"""Where a cut turns by more than this, in radians, bars along it are mitred."""


@record
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


def tracks_of(station: Station, setback: float = 0.0) -> list[Track]:
    """The cut of a station as ways for a section, divided at corners, without ``setback`` mm at both ends."""
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
    return divided(f"station {station.number}", stretches, station.closed, MITRED)


def _from(uv, begin: float):
    return lambda s: uv(np.asarray(s) - begin)


def bars(
    form: Form, faces: Sequence[int], stations: Sequence[Station], bar: Bar, progress: Progress = SILENT
) -> tuple[tuple[MadeBody, ...], tuple[str, ...]]:
    """A bar along each station and, where grooves are asked for, the body with them; and what is to be said.

    Raises Refused and CannotBeDone.
    """
    body = solid_of(form)
    section, hole = sections_of(bar)
    if bar.groove is not None and (body is None or bar.tongue is None):
        raise Refused("Grooves need a closed body and a tongue; leave the groove out, or add them.")
    made, grooves = [], []
    halved = square = apart = 0
    for k, station in enumerate(stations):
        progress.step(k / len(stations), f"station {station.number}")
        tracks = tracks_of(station)
        run = [_mitred(form, track, section, hole) for track in tracks]
        shapes, off = [carried.shape for carried, _ in run], max(carried.deviation for carried, _ in run)
        square += sum(left for _, left in run)
        if bar.keep != "whole" and body is None:
            sides = [one_side(form, faces, s, t, bar) for s, t in zip(shapes, tracks, strict=True)]
            shapes = [side for side, _ in sides]
            halved += not all(both for _, both in sides)
        shapes = _in_one(shapes)
        if bar.keep != "whole" and body is not None:
            sides = [beside_body(shape, body, bar.keep) for shape in shapes]
            shapes = [side for side, _ in sides]
            halved += not all(both for _, both in sides)
        if bar.tongue is not None:
            shapes = [united(shapes[0], [*shapes[1:], *_tongue(form, station, bar, 0.0, section)])]
            if bar.groove is not None:
                grooves.extend(_tongue(form, station, bar, bar.groove, section, ABOVE))
        apart += len(shapes) > 1
        for part, shape in enumerate(shapes, 1):
            which = f", part {part}" if len(shapes) > 1 else ""
            made.append(made_body(f"station {station.number}{which}", shape, off))
    messages = []
    if halved:
        lie = "does not lie" if halved == 1 else "do not lie"
        stayed = "it" if halved == 1 else "they"
        messages.append(f"{counted(halved, 'bar')} {lie} on both sides of the faces, so {stayed} stayed whole.")
    if square:
        messages.append(f"{counted(square, 'end')} stayed square: a mitre there would run too far along the bar.")
    if apart:
        messages.append(
            f"{counted(apart, 'bar')} stayed in parts, as the geometry kernel does not make one body of them."
        )
    if grooves and body is not None:
        whole = cut(body, grooves)
        made.append(made_body(form.name or "body", whole, volume_change=volume(whole) - volume(body)))
    return tuple(made), tuple(messages)


def _mitred(form: Form, track: Track, section: Contour, hole: Contour | None = None) -> tuple[Carried, int]:
    """The section along a track, mitred where the cut goes on round a corner, and how many ends stay square there."""
    return fitted(form, track, section, "surface", hole, at_edges=False)


def _in_one(shapes: list[TopoDS_Shape]) -> list[TopoDS_Shape]:
    """Parts of a bar as one body; as they are where the kernel does not unite them."""
    if len(shapes) < 2:
        return shapes
    try:
        return [united(shapes[0], shapes[1:])]
    except CannotBeDone:
        return shapes


def sections_of(bar: Bar) -> tuple[Contour, Contour | None]:
    """The section of a bar, rooted where it is, and its hole, if it is hollow. Raises Refused and CannotBeDone."""
    section = section_of(bar)
    hole = _inner(bar, section) if bar.wall else None
    return rooted(section) if bar.rooted else section, hole


def _tongue(
    form: Form, station: Station, bar: Bar, fit: float, section: Contour, above: float | None = None
) -> list[TopoDS_Shape]:
    assert bar.tongue is not None
    thickness, depth, setback = bar.tongue
    if thickness <= 0 or depth <= 0 or setback < 0:
        raise Refused("The tongue's thickness and depth must be above 0 mm, its setback not below; change them.")
    half = (thickness + fit) / 2
    top = above if above is not None else 0.5 * float(section.bounds[1][1])
    outline = Contour.polyline([[-half, -depth], [half, -depth], [half, top], [-half, top]], closed=True)
    run = [_mitred(form, track, outline) for track in tracks_of(station, setback)]
    return _in_one([carried.shape for carried, _ in run])
