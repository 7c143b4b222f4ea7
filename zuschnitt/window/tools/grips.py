"""What a press on artwork takes hold of, and the motion that a drag makes of it. Knows no widget."""

from __future__ import annotations

import numpy as np
from PyQt6.QtCore import Qt

from ...core.record import record
from ..motion import Motion

HANDLE = 9
"""Side of a handle in pixels; twice that can be grabbed."""
ARM = 24
"""From the frame of artwork to the handle that turns it, in pixels."""


@record
class Grip:
    """What a press took hold of: move, turn, scale, stretch along x or y, or more of it; of which row, from where."""

    what: str
    row_id: str
    start: np.ndarray
    pivot: np.ndarray


def handle_places(pixels: np.ndarray) -> dict[str, np.ndarray]:
    """Pixels (2,) of the corner handles and of the one that turns, for a frame (4, 2) from its lower left."""
    top = (pixels[2] + pixels[3]) / 2
    outwards = top - (pixels[0] + pixels[1]) / 2
    outwards = outwards / max(float(np.linalg.norm(outwards)), 1e-9)
    places = {f"scale{i}": pixel for i, pixel in enumerate(pixels)}
    places["turn"] = top + ARM * outwards
    return places


def body_places(pixels: np.ndarray) -> dict[str, np.ndarray]:
    """Pixels (2,) of the handles that stretch a body along x and y, and of the one that makes more of it."""
    right, low = (pixels[1] + pixels[2]) / 2, (pixels[0] + pixels[1]) / 2
    outwards = right - (pixels[0] + pixels[3]) / 2
    outwards = outwards / max(float(np.linalg.norm(outwards)), 1e-9)
    return {"stretch_x": right, "stretch_y": low, "more": right + ARM * outwards}


def motion_of(grip: Grip, at: np.ndarray, modifiers) -> Motion:
    """The motion of a drag. Shift keeps to one axis, or to steps of 15 degrees."""
    shift = bool(modifiers & Qt.KeyboardModifier.ShiftModifier)
    pivot = (float(grip.pivot[0]), float(grip.pivot[1]))
    before, after = grip.start - grip.pivot, at - grip.pivot
    if grip.what == "turn":
        angle = float(np.arctan2(after[1], after[0]) - np.arctan2(before[1], before[0]))
        if shift:
            angle = float(np.round(angle / np.radians(15)) * np.radians(15))
        return Motion(turn=angle, pivot=pivot)
    if grip.what == "scale":
        along = float(after @ before) / max(float(before @ before), 1e-12)
        return Motion(scale=max(along, 0.01), pivot=pivot)
    if grip.what in ("stretch_x", "stretch_y"):
        long = max(float(after @ before) / max(float(before @ before), 1e-12), 0.01)
        return Motion(pivot=pivot, stretch=long, along=float(np.arctan2(before[1], before[0])))
    step = at - grip.start
    if shift:
        step = step * ([1, 0] if abs(step[0]) > abs(step[1]) else [0, 1])
    return Motion(shift=(float(step[0]), float(step[1])), pivot=pivot)


def row_of(grip: Grip, at: np.ndarray, apart: np.ndarray | None, modifiers) -> tuple[int, np.ndarray]:
    """How many stand in a row, and how far each from the one before, where the last is dragged to ``at``.

    With a distance ``apart`` (2,) it stays; Shift keeps to one axis where there is none yet.
    """
    step = at - grip.start
    if apart is not None and apart.any():
        return max(1, 1 + round(float(step @ apart) / float(apart @ apart))), apart
    if modifiers & Qt.KeyboardModifier.ShiftModifier:
        step = step * ([1, 0] if abs(step[0]) > abs(step[1]) else [0, 1])
    return (2, step) if step.any() else (1, step)


def within(frame: np.ndarray, point: np.ndarray, margin: float) -> bool:
    """Whether a point is in a rectangle of any direction, or within the margin of it."""
    across, upwards = frame[1] - frame[0], frame[3] - frame[0]
    for axis in (across, upwards):
        size = float(np.linalg.norm(axis))
        along = float((point - frame[0]) @ axis) / max(size, 1e-12)
        if not -margin <= along <= size + margin:
            return False
    return True
