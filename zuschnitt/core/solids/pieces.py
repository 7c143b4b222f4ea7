"""The flat pieces that are raised or sunk, and points of the form below them."""

from __future__ import annotations

import numpy as np
import shapely
from OCP.TopoDS import TopoDS_Shape

from ..carry.lifted import Lifting
from ..form.made_body import MadeBody
from ..geometry.curves import Array
from ..record import record
from ..wording import counted
from .flat import drafted, rounded
from .outlines import FlatFigure

THROUGH = 0.05
"""Bodies reach through the surface they are joined to, or cut from, by so many mm."""
LOOKED_AT = 64
"""Points of a floor at which it is asked whether it lies within the body."""


@record
class Raised:
    """The bodies that were ``made``, and what is to be said of them."""

    made: tuple[MadeBody, ...]
    messages: tuple[str, ...]


def fallen_apart(parts: int) -> tuple[str, ...]:
    """What is said of a body that is in so many pieces."""
    return (f"The body falls into {counted(parts, 'piece')}.",) if parts > 1 else ()


def flat_piece(flat: FlatFigure, height: float, draft: float, radius: float, reach: float) -> TopoDS_Shape | None:
    """The flat body of a figure, which reaches through the surface by ``reach`` mm; None where the kernel has none."""
    low, high = (-reach, height) if height > 0 else (height, reach)
    body: TopoDS_Shape | None = flat.body(low, high, bool(draft or radius))
    if draft and body is not None:
        body = drafted(body, draft, 0.0, height > 0)
    return rounded(body, radius, height) if radius and body is not None else body


def strewn(flat: FlatFigure) -> Array:
    """Points (n, 2) over a figure."""
    x0, y0, x1, y1 = flat.figure.region.bounds
    side = int(np.sqrt(LOOKED_AT)) * 3
    grid = np.stack(np.meshgrid(np.linspace(x0, x1, side), np.linspace(y0, y1, side)), -1).reshape(-1, 2)
    found = grid[shapely.contains_xy(flat.figure.region, grid)]
    if not len(found):
        at = flat.figure.region.representative_point()
        found = np.array([[at.x, at.y]])
    return found[:: max(1, len(found) // LOOKED_AT)]


def inward(lifting: Lifting, flat: FlatFigure) -> list[tuple[Array, Array]]:
    """Points (3,) of the form strewn over a figure, and the directions square to it that lead in."""
    points = strewn(flat)
    faces = lifting.face_at(points)
    found = []
    for point, face in zip(points, faces.tolist(), strict=True):
        here, above = lifting.on(face, np.array([[*point, 0.0], [*point, 1.0]]))
        found.append((here, here - above))
    return found
