"""A part on the die with the punch in it, as its bends are made one after the other; seen along the bend."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from PyQt6.QtCore import QRectF
from PyQt6.QtGui import QColor, QPainter, QPen, QPolygonF

from ..core.record import record
from ..standins.press.brake import Plan, Step, die_for, on_the_die, punch_of
from ..standins.press.flat import Bend, Flat, outlines
from .layers.paths import polygon
from .theme import theme

ASIDE, UPWARDS = 0.32, 0.2
"""How far what lies along the bend is drawn to the right and upwards."""
PUNCH, BLOCK = 90.0, 45.0
"""How much of the punch and of the die is drawn, in mm, at the least."""


@record
class Moment:
    """The number of a step of a plan, from 0, and how far its bend is made, from 0 to 1."""

    number: int
    stage: float

    @staticmethod
    def of(plan: Plan, share: float) -> Moment:
        """When ``share`` of the steps that can be made is over."""
        count = max(1, len(plan.order))
        at = min(share * count, count - 1e-9)
        return Moment(int(at), at - int(at))


class AtThePress:
    """A plan as it is bent, all its moments at one scale, the bend always in the same place."""

    def __init__(self, plan: Plan, flat: Flat) -> None:
        self._flat = flat
        self._steps = [step for step in plan.steps if not step.collides]
        self._bends = {bend.number: bend for bend in flat.bends}
        self._outlines = [outlines(flat, k)[0] for k in range(len(flat.walls))]
        seen = [
            part for k in range(len(self._steps)) for stage in (0.0, 0.5, 1.0) for part in self._at(Moment(k, stage))
        ]
        self._box = _flattened(np.vstack(seen)) if seen else np.zeros((1, 2))

    def paint(self, painter: QPainter, area: QRectF, moment: Moment) -> None:
        """What stands at the press at that moment, as large as the area allows."""
        if not self._steps:
            return
        die, punch, *walls = self._at(moment)
        seen = _Seen.of(self._box, area)
        now = theme()
        _solid(painter, seen, die, QColor(now.rule), QColor(now.quiet))
        for points in sorted(walls, key=lambda each: -float(each[:, 1].mean())):
            painter.setPen(QPen(QColor(now.blank), 1.2))
            painter.setBrush(QColor(now.blank_tint))
            painter.drawPolygon(seen.polygon(points))
        _solid(painter, seen, punch, QColor(now.form_tint), QColor(now.form))

    def _at(self, moment: Moment) -> list[np.ndarray]:
        """Points (n, 3) of the die, the punch, and each wall."""
        step = self._steps[moment.number]
        bend = self._bends[step.bend]
        done = {each.bend for each in self._steps[: moment.number]}
        walls = on_the_die(self._flat, bend, done, moment.stage, self._outlines)
        return [*_tools(step, bend, moment.stage), *walls.values()]


def _tools(step: Step, bend: Bend, stage: float) -> list[np.ndarray]:
    """Corners (2 n, 3) of the die and of the punch: of the end that is near, then of the one that is far."""
    half = float(np.linalg.norm(bend.line[1] - bend.line[0])) / 2
    wide, top = die_for(bend) / 2, die_for(bend) / 2 * np.tan(bend.angle * stage / 2)
    block = wide + 8
    depth = top - BLOCK - wide
    groove = [
        (-block, depth),
        (-block, top),
        (-wide, top),
        (0.0, top - wide),
        (wide, top),
        (block, top),
        (block, depth),
    ]
    profile = [(z, left, right) for z, left, right in punch_of(step.tool).profile if z <= PUNCH]
    lift = (1 - stage) * 2.0  # it comes down on the sheet
    blade = [(right, z + lift) for z, _, right in profile] + [(left, z + lift) for z, left, _ in reversed(profile)]
    return [_drawn_out(groove, half), _drawn_out(blade, half)]


def _drawn_out(section: Sequence[tuple[float, float]], half: float) -> np.ndarray:
    return np.array([(x, y, z) for y in (-half, half) for x, z in section])


def _solid(painter: QPainter, seen: _Seen, corners: np.ndarray, fill: QColor, edge: QColor) -> None:
    """A section drawn out along the bend: its far end, its sides, its near end."""
    near, far = np.split(corners, 2)
    fill.setAlpha(150)
    painter.setBrush(fill)
    painter.setPen(QPen(edge, 0.8))
    for k in range(len(near)):
        j = (k + 1) % len(near)
        painter.drawPolygon(seen.polygon(np.array([near[k], near[j], far[j], far[k]])))
    fill.setAlpha(235)
    painter.setBrush(fill)
    painter.setPen(QPen(edge, 1.2))
    painter.drawPolygon(seen.polygon(near))


@record
class _Seen:
    """Points in space to pixels: what is far lies to the right and above."""

    scale: float
    shift: np.ndarray

    @staticmethod
    def of(flat: np.ndarray, area: QRectF) -> _Seen:
        """That shows points (n, 2) as large as the area allows."""
        low, high = flat.min(axis=0), flat.max(axis=0)
        size = np.maximum(high - low, 1e-9)
        scale = float(min(area.width() / size[0], area.height() / size[1]))
        middle = np.array([area.center().x(), area.center().y()])
        return _Seen(scale, middle - scale * np.array([1, -1]) * (low + high) / 2)

    def polygon(self, points: np.ndarray) -> QPolygonF:
        return polygon(_flattened(points) * np.array([1, -1]) * self.scale + self.shift)


def _flattened(points: np.ndarray) -> np.ndarray:
    x, y, z = points.T
    return np.column_stack([x + ASIDE * y, z + UPWARDS * y])
