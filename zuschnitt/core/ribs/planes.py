"""Where ribs stand: families of parallel planes."""

from __future__ import annotations

import numpy as np

from ..errors import Refused
from ..form.form import Form
from ..form.locator import Locator
from ..geometry.curves import Array
from ..mesh.mesh_surface import MeshSurface
from ..record import record
from .outlines import PlateFrame

PARALLEL = np.sin(np.radians(5))
"""Families whose planes turn by less than this make no ribs that hold each other."""
MOST = 400
CLIMB = 100


@record
class Family:
    """Planes ``normal · p = at``: the unit normal (3,), and the distances (n,) from the origin, in order."""

    letter: str
    normal: Array
    at: Array

    def frames(self, along: Array, up: Array) -> tuple[PlateFrame, ...]:
        """The plane of each plate, with ``along`` and ``up`` (3,) as its directions."""
        along = along / np.linalg.norm(along)
        return tuple(PlateFrame(self.normal, along, up, float(at)) for at in self.at)


@record
class Spread:
    """How the planes of a family are spread: by a list, or ``spacing`` apart, from ``start``, ``count`` of them."""

    spacing: float | None = None
    start: float | None = None
    count: int | None = None
    listed: tuple[float, ...] = ()


def family(form: Form, letter: str, direction: Array, spread: Spread, thickness: float) -> Family:
    """The planes of a family over the form; without a start they are centred on it.

    Raises Refused for a direction without length, and for spreads that give no plane or far too many.
    """
    size = float(np.linalg.norm(direction))
    if not size > 0:
        raise Refused(f"The direction of the {letter} ribs has no length; give another.")
    normal = np.asarray(direction, float) / size
    low, high = -_reach(form, -normal), _reach(form, normal)
    at = np.array(spread.listed, float) if spread.listed else _spread(spread, low, high, thickness, letter)
    at = np.sort(at[(at > low) & (at < high)])
    if not len(at):
        raise Refused(f"No {letter} rib meets the form, which reaches from {low:.4g} to {high:.4g} mm; move the first.")
    nearest = float(np.diff(at).min(initial=np.inf))
    if spread.listed and not nearest > thickness:
        raise Refused(f"Two {letter} ribs are {nearest:.4g} mm apart and {thickness:g} mm thick; space them wider.")
    return Family(letter, normal, at)


def _reach(form: Form, normal: Array) -> float:
    """How far the form reaches along a direction: the furthest corner of its triangles, led on along true surfaces."""
    points = np.vstack([mesh.points for mesh in form.meshes])
    point = points[[int((points @ normal).argmax())]]
    furthest = float(point[0] @ normal)
    if all(isinstance(face.surface, MeshSurface) for face in form.faces):
        return furthest
    locator = Locator.of(form)
    for _ in range(CLIMB):
        point = locator.feet(point + 0.1 * form.size * normal).points
        if not locator.inside(point)[0] or float(point[0] @ normal) < furthest + 1e-12 * form.size:
            break
        furthest = float(point[0] @ normal)
    return furthest


def _spread(spread: Spread, low: float, high: float, thickness: float, letter: str) -> Array:
    room = high - low - thickness
    spacing, count = spread.spacing, spread.count
    if spacing is None and count is None:
        raise Refused(f"The {letter} ribs have neither a spacing nor a number; give one of them.")
    if spacing is None:
        spacing = room / max(count or 1, 1)
    if not spacing > thickness:
        raise Refused(f"The {letter} ribs are {spacing:.4g} mm apart and {thickness:g} mm thick; space them wider.")
    if spread.start is not None:
        count = count or int(np.floor((high - spread.start) / spacing)) + 1
        _require_few(count, letter)
        return np.asarray(spread.start + spacing * np.arange(count), float)
    count = count or int(np.floor(max(room, 0.0) / spacing + 1e-9)) + 1
    _require_few(count, letter)
    return np.asarray((low + high) / 2 + spacing * (np.arange(count) - (count - 1) / 2), float)


def _require_few(count: int, letter: str) -> None:
    if count > MOST:
        raise Refused(f"That would be {count:,} {letter} ribs, more than {MOST}; space them wider.")


def upright(first: Array, second: Array) -> Array:
    """The direction (3,) in which ribs are slid together whose families stand square to these: along their crossings.

    Raises Refused where both stand nearly the same way.
    """
    up = np.cross(first, second)
    size = float(np.linalg.norm(up))
    if size < PARALLEL:
        raise Refused("Both families of ribs stand nearly the same way, so they hold nothing; turn one of them.")
    up /= size
    return up if up[np.abs(up).argmax()] > 0 else -up
