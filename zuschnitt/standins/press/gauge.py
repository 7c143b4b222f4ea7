"""Where the stops behind a press stand for a bend: against which edge of the part, and how far from the bend line."""

from __future__ import annotations

from collections.abc import Collection

import numpy as np

from ..files.path import Array
from .flat import Bend, Flat, folded, outlines

HIGH, LOW = 10.0, -0.5
"""What lies between these heights over the die, in mm, meets the stops."""
LEVEL = 0.2
"""Stops touch what reaches back as far as this, in mm,"""
APART = 15.0
"""and need so much between the two places where they do."""
NEAREST, FARTHEST = 6.0, 1000.0
"""How near and how far the stops can stand, in mm."""


def gauge(flat: Flat, bend: Bend, done: Collection[int]) -> float | None:
    """From the bend line back to the stops, in mm, on the layer that keeps its length; None where nothing meets them.

    The side that hangs less reaches to the back; the other one only where that has no edge the stops can meet.
    """
    left, _ = bend.walls
    places = folded(flat, done, left)
    way = 1.0 if bend.up else -1.0
    right, along = np.append(bend.right, 0), np.append(bend.along, 0)
    middle = np.append(bend.line.mean(axis=0), 0)
    sides = sorted(zip((-1.0, 1.0), flat.sides(bend), strict=True), key=lambda s: sum(flat.walls[k].area for k in s[1]))
    half = np.linalg.norm(bend.line[1] - bend.line[0]) / 2
    for out, walls in sides:
        meeting: list[Array] = []
        for k in walls:
            turn, shift = places[k]
            for ring in outlines(flat, k):
                space = np.column_stack([ring, np.zeros(len(ring))]) @ turn.T + shift - middle
                frame = np.column_stack([out * (space @ right), space @ along, way * space[:, 2]])
                meeting.append(frame[(frame[:, 2] < HIGH) & (frame[:, 2] > LOW)])
        points = np.vstack(meeting)
        if not len(points):
            continue
        far = float(points[:, 0].max())
        touching = points[points[:, 0] > far - LEVEL, 1]
        if NEAREST <= far <= FARTHEST and np.ptp(touching) >= min(APART, half):
            return far
    return None
