"""The outline of a plate: the section of a form by its middle plane, or by all of its thickness."""

from __future__ import annotations

import numpy as np
import shapely

from ..form.form import Form
from ..form.locator import Locator
from ..form_curves.sections import section
from ..geometry.curves import Array
from ..geometry.surfaces import Plane
from ..mesh.mesh_surface import MeshSurface
from ..record import record

SAG = 1e-3
"""Chords of a section stay within this of the surface, in mm."""
ROUNDS = 7
GAP = 0.01
"""A section whose ends are nearer to each other than this part of the form's size is closed."""
SPECK = 1e-4
"""What has less than this part of the area of the whole section is left out."""


@record
class PlateFrame:
    """A plate's own plane: a point p of it lies at (``along`` · p, ``up`` · p), ``at`` along ``normal``.

    It is slid into others along ``sliding``, along ``up`` where that is None; of half a plane, there is what lies
    beyond ``begins`` along ``along``.
    """

    normal: Array
    along: Array
    up: Array
    at: float
    sliding: Array | None = None
    begins: float | None = None

    @property
    def slides(self) -> Array:
        return self.up if self.sliding is None else self.sliding

    def flat(self, points: Array) -> Array:
        return np.column_stack([points @ self.along, points @ self.up])

    def space(self, points: Array, off: float = 0.0) -> Array:
        """Points (n, 3) for points (n, 2) of the plate, ``off`` from its middle."""
        return points[:, :1] * self.along + points[:, 1:] * self.up + (self.at + off) * self.normal


@record
class Outline:
    """``area`` is a region of the plate's plane; ``mended`` says what was done to it."""

    area: shapely.Geometry
    mended: str = ""


class Cutter:
    """Cuts one form by many planes.

    Open sections are closed down to ``floor``, a height along the plates' upward direction (the form's lowest level
    where it is None), or are a band ``band`` mm high below the form. What lies below ``base`` is left out.
    Sections are ``rough`` where they are left as the form's triangles have them.
    """

    def __init__(
        self, form: Form, floor: float | None = None, band: float = 0.0, base: float | None = None, rough: bool = False
    ) -> None:
        self.form, self.floor, self.band, self.base = form, floor, band, base
        self.locator = Locator.of(form)
        self.faceted = rough or all(isinstance(face.surface, MeshSurface | Plane) for face in form.faces)
        """Whether the chords of its sections are the sections themselves."""

    def outline(self, frame: PlateFrame, thickness: float, kind: str) -> Outline:
        """The outline ``kind`` (middle, inner, outer) of a plate; empty where the plane misses the form."""
        middle = self._section(frame, 0.0)
        if kind == "middle" or middle.area.is_empty:
            return middle
        sides = [self._section(frame, off).area for off in (-thickness / 2, thickness / 2)]
        join = shapely.intersection_all if kind == "inner" else shapely.union_all
        return Outline(join(np.array([middle.area, *sides])), middle.mended)

    def _section(self, frame: PlateFrame, off: float) -> Outline:
        height = frame.at + off
        curves = [curve for curve in section(self.form, frame.normal, height) if len(curve) > 2]
        ends = [float(np.linalg.norm(curve[0] - curve[-1])) for curve in curves]
        fine = [frame.flat(self._refined(curve, frame.normal, height)) for curve in curves]
        closed = [points for points, apart in zip(fine, ends, strict=True) if apart <= GAP * self.form.size]
        opened = [points for points, apart in zip(fine, ends, strict=True) if apart > GAP * self.form.size]
        gaps = [apart for apart in ends if 1e-6 < apart <= GAP * self.form.size]
        mended = f"a gap of {max(gaps):.2g} mm was closed" if gaps else ""
        if len(opened) == 1 or (opened and self.band):
            for curve in opened:
                made, mended = self._closed_down(curve, frame)
                closed.extend(made)
        elif opened and (ring := _in_a_ring(opened)) is not None:
            closed.append(ring)
            mended = "openings of the section were closed by straight lines"
            if self.floor is not None:
                under = _under(ring, opened, self.floor)
                closed.extend(under)
                mended += f", and it goes on down to the floor at {self.floor:g} mm" if under else ""
        area = shapely.Polygon()
        for points in closed:
            area = area.symmetric_difference(shapely.make_valid(shapely.Polygon(points)))
        whole = area.area
        parts = [part for part in shapely.get_parts(area) if part.geom_type == "Polygon" and part.area > SPECK * whole]
        whole_area = shapely.unary_union(parts) if parts else shapely.Polygon()
        return Outline(_above(_beyond(whole_area, frame), self.base), mended)

    def _closed_down(self, points: Array, frame: PlateFrame) -> tuple[list[Array], str]:
        """Rings (n, 2) of what lies below an open section, and what was done."""
        lowest = min(float((mesh.points @ frame.up).min()) for mesh in self.form.meshes)
        if self.band:
            ring = np.vstack([points, points[::-1] - [0.0, self.band]])
            mended = f"an open section became a band {self.band:g} mm high"
        else:
            down = lowest if self.floor is None else min(self.floor, lowest)
            ring = np.vstack([points, [points[-1, 0], down], [points[0, 0], down]])
            level = "the form's lowest level" if self.floor is None else f"the floor at {self.floor:g} mm"
            mended = f"an open section was closed down to {level}"
        if self.floor is None or float(ring[:, 1].min()) >= self.floor:
            return [ring], mended
        low, high = ring.min(axis=0), ring.max(axis=0)
        above = shapely.box(low[0] - 1, self.floor, high[0] + 1, max(high[1], self.floor) + 1)
        kept = shapely.make_valid(shapely.Polygon(ring)).intersection(above)
        return [
            shapely.get_coordinates(p.exterior) for p in shapely.get_parts(kept) if p.geom_type == "Polygon"
        ], mended

    def _refined(self, curve: Array, normal: Array, height: float) -> Array:
        """With points between, on the surface and in the plane, until chords stay within ``SAG``."""
        for _ in range(0 if self.faceted else ROUNDS):
            middle = (curve[1:] + curve[:-1]) / 2
            found = self._on_both(middle, normal, height)
            off = np.linalg.norm(found - middle, axis=1)
            # what is far from its chord has gone to another face: a corner lies between
            near = off < 0.3 * np.linalg.norm(curve[1:] - curve[:-1], axis=1)
            where = np.nonzero((off > SAG) & near)[0]
            if not len(where):
                break
            curve = np.insert(curve, where + 1, found[where], axis=0)
        return curve

    def _on_both(self, points: Array, normal: Array, height: float) -> Array:
        for _ in range(4):
            feet = self.locator.feet(points)
            across = self.locator.normals(feet.points, feet.faces)
            climb = normal - (across @ normal)[:, None] * across
            slope = climb @ normal
            off = feet.points @ normal - height
            points = feet.points - (off / np.where(slope < 1e-6, np.inf, slope))[:, None] * climb
        return points


def _beyond(area: shapely.Geometry, frame: PlateFrame) -> shapely.Geometry:
    """What of it is there, where it is half a plane."""
    if frame.begins is None or area.is_empty:
        return area
    _, low, right, high = area.bounds
    return area.intersection(shapely.box(frame.begins, low - 1, max(right, frame.begins) + 1, high + 1))


def _above(area: shapely.Geometry, base: float | None) -> shapely.Geometry:
    if base is None or area.is_empty:
        return area
    left, low, right, high = area.bounds
    return area.intersection(shapely.box(left - 1, base, right + 1, max(high, base) + 1)) if low < base else area


def _in_a_ring(curves: list[Array]) -> Array | None:
    """Open curves (n, 2) one after the other, joined by straight lines that are short; None where they cross.

    Each begins at the end that is nearest to where the one before ends.
    """
    rings = []
    for first in (curves[0], curves[0][::-1]):
        left, ring = list(curves[1:]), first
        while left:
            gaps = [[float(np.linalg.norm(ring[-1] - curve[end])) for end in (0, -1)] for curve in left]
            k, end = divmod(int(np.argmin(gaps)), 2)
            curve = left.pop(k)
            ring = np.vstack([ring, curve if end == 0 else curve[::-1]])
        rings.append(ring)
    simple = [shapely.LinearRing(ring) for ring in rings if shapely.is_simple(shapely.LinearRing(ring))]
    return shapely.get_coordinates(min(simple, key=lambda ring: ring.length))[:-1] if simple else None


def _under(ring: Array, curves: list[Array], floor: float) -> list[Array]:
    """What lies between the floor and the lines that close a ring at its lower side, as rings (4, 2)."""
    ends = {tuple(curve[end]) for curve in curves for end in (0, -1)}
    inside = shapely.Polygon(ring)
    found = []
    for a, b in zip(ring, np.roll(ring, -1, axis=0), strict=True):
        if tuple(a) in ends and tuple(b) in ends and min(a[1], b[1]) > floor:
            middle = (a + b) / 2
            if not shapely.contains_xy(inside, *(middle - [0.0, 1e-6 * np.linalg.norm(b - a)])):
                found.append(np.array([a, b, [b[0], floor], [a[0], floor]]))
    return found
