"""How many triangles a development may have, about how many it would, and how many cells the net of a patch may."""

MOST_TRIANGLES = 2_000_000
MOST_CELLS = 60
"""So many cells lie along one side of a patch at the most."""
EQUILATERAL = 0.433
"""Area of an equilateral triangle whose edges are 1."""


def triangle_count(area: float, size: float) -> float:
    """About how many triangles with edges of ``size`` mm an ``area`` in mm² takes; infinite where that is too small."""
    return area / EQUILATERAL / size / size  # the square may be too small for a number
