"""Sections run along lines on a mesh: bars of triangles."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
import shapely

from ..carry.tracks import Stretch, Track
from ..errors import CannotBeDone
from ..geometry.curves import Array
from ..mesh.mesh_surface import MeshSurface
from ..plane.contour import Contour
from .by_mesh import MeshBody
from .sweeping import Frames, require_room

PER_EDGE, PER_KNOT = 4, 8
"""A line is looked at in so many places for each edge of the triangles below it; so many of them are smoothed at once.
"""
FEWEST, MOST = 33, 4000
CHORDS = 0.02
"""Nor do they leave the line by more than about this, in mm."""
SECTION = 2e-3
"""A section keeps within this of its arcs, in mm."""
DIVIDED = 0.5
"""Triangles of a bar are no longer than this part of what its section measures across, and 2 % of the line."""
OVER = 0.02
"""The halves of one that runs into itself lie in each other by this part of their length."""


def swept_by_mesh(track: Track, section: Contour, upright: str, hole: Contour | None = None) -> tuple[MeshBody, float]:
    """A bar as ``swept`` makes one, square to the surface, of triangles, and how far these are off it, in mm.

    Its line and its normals are smoothed.

    Raises CannotBeDone where it would turn over itself, and where it is to stand upright to an axis.
    """
    if upright == "axis":
        raise CannotBeDone(
            "The form is a mesh, which has no axis to keep the section upright to; leave --upright out, or take the "
            "form as STEP."
        )
    frames = _smoothed(track)
    require_room(track, section, frames)
    start, end = track.stretches[0].start, track.stretches[-1].end
    region = shapely.Polygon(section.flattened(SECTION), () if hole is None else [hole.flattened(SECTION)])
    length = min(DIVIDED * float(np.ptp(section.bounds, axis=0).max()), max(OVER * (end - start), SECTION))

    def through(points: Array) -> Array:
        at, x, y = frames(0, points[:, 2])
        moved: Array = at + points[:, :1] * x + points[:, 1:2] * y
        return moved

    off = _sag(through, section, start, end, length)
    if off > CHORDS:
        length *= float(np.sqrt(CHORDS / off))
        off = _sag(through, section, start, end, length)
    spans = [(start, end)]
    if track.closed:
        middle, over = (start + end) / 2, OVER * (end - start)
        spans = [(start, middle + over), (middle, end + over)]
    made = [MeshBody.drawn_out(region, *span, through, length) for span in spans]
    bodies = [body for body in made if body is not None]
    if len(bodies) < len(spans):
        raise CannotBeDone(f"{track.name} does not become a valid body; make the section simpler, or move the line.")
    return (bodies[0].united(bodies[1:]) if len(bodies) > 1 else bodies[0]), SECTION + off


def _sag(through: Callable[[Array], Array], section: Contour, start: float, end: float, length: float) -> float:
    """How far chords of a ``length`` are off a line, at the corners of its section."""
    corners = section.flattened(SECTION)
    s = np.linspace(start, end, int(np.ceil((end - start) / length)) + 1)
    ways = np.sort(np.concatenate([s, (s[1:] + s[:-1]) / 2]))
    at = through(np.column_stack([np.repeat(corners, len(ways), axis=0), np.tile(ways, len(corners))]))
    at = at.reshape(len(corners), len(ways), 3)
    return float(np.linalg.norm(at[:, 1::2] - (at[:, :-1:2] + at[:, 2::2]) / 2, axis=2).max())


def _smoothed(track: Track) -> Frames:
    """Its places and normals by a smooth curve: triangles alone would tilt the section at each of their edges."""
    from scipy.interpolate import make_interp_spline, make_lsq_spline

    places = [_places(stretch) for stretch in track.stretches]
    s = np.concatenate([place[0] for place in places])
    values = np.concatenate([np.hstack(place[1:]) for place in places])
    keep = np.concatenate([[True], np.diff(s) > 1e-9])
    s, values = s[keep], values[keep]
    if track.closed:  # it goes on before its start and beyond its end as it comes round
        whole = s[-1] - s[0]
        s = np.concatenate([s[:-1] - whole, s, s[1:] + whole])
        values = np.concatenate([values[:-1], values, values[1:]])
    inner = s[PER_KNOT:-PER_KNOT:PER_KNOT]
    knots = np.concatenate([np.full(4, s[0]), inner, np.full(4, s[-1])])
    curve = make_lsq_spline(s, values, knots, 3) if len(inner) > 1 else make_interp_spline(s, values, 3)
    slope = curve.derivative()

    def frames(key: int, t: Array) -> tuple[Array, Array, Array]:
        found, way = curve(t), slope(t)[:, :3]
        normal = found[:, 3:] / np.linalg.norm(found[:, 3:], axis=1, keepdims=True)
        way = way - np.einsum("ij,ij->i", way, normal)[:, None] * normal
        way = way / np.linalg.norm(way, axis=1, keepdims=True)
        return found[:, :3], np.cross(normal, way), normal

    return frames


def _places(stretch: Stretch) -> tuple[Array, Array, Array]:
    """Parameters (n,), places and normals (n, 3) along a stretch."""
    surface = stretch.face.surface
    length = stretch.end - stretch.start
    count = FEWEST
    if isinstance(surface, MeshSurface):
        corners = surface.points[surface.triangles]
        edge = float(np.median(np.linalg.norm(corners[:, 1] - corners[:, 0], axis=1)))
        count = int(np.clip(PER_EDGE * length / edge, FEWEST, MOST))
    s = np.linspace(stretch.start, stretch.end, count)
    uv = stretch.uv(s)
    return s, surface.evaluate(uv), stretch.face.upright(uv)
