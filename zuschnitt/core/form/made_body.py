"""A body that was made: its figures, and the kernel's own bytes of it."""

from __future__ import annotations

from dataclasses import field

from ..geometry.curves import Array
from ..record import record


@record
class MadeBody:
    """``volume`` in mm³, ``area`` in mm², ``box`` (xmin, ymin, zmin, xmax, ymax, zmax) in mm, the number of ``faces``.

    ``deviation`` is how far in mm its faces may be off what they stand for; ``content`` are the kernel's bytes of it.
    ``by`` says whether it was made exactly or of triangles. Of a body that was carried from a blank, ``depth_min`` and
    ``depth_max`` are its heights above the form, ``crosses`` whether it cuts through the form everywhere under its
    outline, ``floats_max`` by how much it does not, ``footprint`` the rings (n, 2) round what it covers of the blank;
    of one that was changed, ``volume_change`` by how much.
    """

    name: str
    volume: float
    area: float
    box: tuple[float, float, float, float, float, float]
    faces: int
    deviation: float
    content: bytes = field(repr=False)
    by: str = "exact"
    volume_change: float | None = None
    depth_min: float | None = None
    depth_max: float | None = None
    crosses: bool | None = None
    floats_max: float | None = None
    footprint: tuple[Array, ...] = field(default=(), repr=False, compare=False)
