"""The net of a patch that was laid out as a rectangle, and its corners by number, on both stages."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QPainter, QPen, QPolygonF

from ...core.develop.blank import Blank
from ...core.develop.patch_net import PatchNet
from ...core.job.route import Job, Row
from ...core.operations.registry import known_entry
from ...core.wording import coordinates
from ..theme import font, theme
from .layer import BlankLayer, BlankScene, FormLayer, FormScene

if TYPE_CHECKING:
    from ..stages.scene import LineSets

READS = "reads"
"""The name of the value that says from which side artwork reads right."""
RADIUS = 9.0
"""Of the disc that bears a corner's number, in pixels."""


class _Nets:
    """The net of the blank that was asked for last."""

    def __init__(self) -> None:
        self._blank: Blank | None = None
        self._net: PatchNet | None = None

    def of(self, blank: Blank | None) -> PatchNet | None:
        if blank is None:
            return None
        if blank is not self._blank:
            self._blank, self._net = blank, PatchNet.of(blank)
        return self._net


def _within(corners: np.ndarray) -> np.ndarray:
    """Where the numbers of corners (4, 2) stand, in pixels: just within them."""
    inward = corners.mean(axis=0) - corners
    return corners + 2.2 * RADIUS * inward / np.maximum(np.linalg.norm(inward, axis=1, keepdims=True), 1e-9)


def _number(painter: QPainter, at: np.ndarray, number: int, paper: str, ink: str) -> None:
    disc = QRectF(at[0] - RADIUS, at[1] - RADIUS, 2 * RADIUS, 2 * RADIUS)
    painter.setPen(QPen(QColor(ink), 1.2))
    painter.setBrush(QColor(paper))
    painter.drawEllipse(disc)
    painter.setFont(font(12, bold=True))
    painter.drawText(disc, Qt.AlignmentFlag.AlignCenter, str(number))


class BlankNet(BlankLayer):
    order = 105
    of_blank = True

    def __init__(self) -> None:
        self._nets = _Nets()
        self._side = QRectF()

    def paint(self, painter: QPainter, scene: BlankScene) -> None:
        net = self._nets.of(scene.blank)
        self._side = QRectF()
        if net is None:
            return
        now = theme()
        painter.setPen(QPen(QColor(now.quiet), 0.8))
        for line in net.lines_blank:
            painter.drawPolyline(QPolygonF([QPointF(*p) for p in scene.view.to_pixels(line[[0, -1]])]))
        for k, at in enumerate(self._discs(net, scene), 1):
            _number(painter, at, k, now.blank_paper, now.ink)
        self._paint_side(painter, net, scene)

    def _paint_side(self, painter: QPainter, net: PatchNet, scene: BlankScene) -> None:
        """From which side of the form it is seen, or its artwork reads right: a click on that flips the artwork."""
        now, rows = theme(), _placed(scene)
        words = "seen from outside"
        if rows:
            inside = scene.session.job.parameter(rows[0], READS).written(rows[0]) == "inside"
            words = f"reads from {'inside' if inside else 'outside'} · flip"
        painter.setFont(font(11))
        corners = scene.view.to_pixels(net.corners_blank)
        x, y = corners[:, 0].mean(), corners[:, 1].max() - 2.6 * RADIUS
        width = painter.fontMetrics().horizontalAdvance(words) + 14
        box = QRectF(x - width / 2, y - 9, width, 18)
        painter.setPen(QPen(QColor(now.ink), 1.0 if rows else 0.0))
        painter.setBrush(QColor(now.blank_paper))
        painter.drawRoundedRect(box, 9, 9)
        painter.setPen(QColor(now.ink if rows else now.quiet))
        painter.drawText(box, Qt.AlignmentFlag.AlignCenter, words)
        self._side = box if rows else QRectF()

    def _discs(self, net: PatchNet, scene: BlankScene) -> np.ndarray:
        return _within(scene.view.to_pixels(net.corners_blank))

    def legend(self, scene: BlankScene) -> str:
        return "click 1–4 to hold it there" if self._nets.of(scene.blank) is not None else ""

    def click(self, scene: BlankScene, position: QPointF) -> bool:
        """Holds the patch at the corner under the mouse, or flips the artwork on it to the other side."""
        net, row = self._nets.of(scene.blank), scene.session.nearby("blank")
        if net is None or row is None:
            return False
        if self._side.contains(position):
            _flip(scene)
            return True
        gaps = np.linalg.norm(self._discs(net, scene) - [position.x(), position.y()], axis=1)
        if gaps.min() > RADIUS:
            return False
        hold, along = (coordinates(each) for each in net.hold_at(scene.blank, int(gaps.argmin())))
        scene.session.edit("Hold a corner", lambda job: job.set(row.id, "hold", hold).set(row.id, "along", along))
        return True


def _placed(scene: BlankScene) -> list[Row]:
    """The rows of artwork on the blank that can read right from either side."""
    found = []
    for row in scene.session.on_blank("artwork"):
        known = known_entry(row.operation)
        if known is not None and any(parameter.name == READS for parameter in known.parameters):
            found.append(row)
    return found


def _flip(scene: BlankScene) -> None:
    """All artwork on the blank reads right from the other side."""
    rows = _placed(scene)
    other = "outside" if scene.session.job.parameter(rows[0], READS).written(rows[0]) == "inside" else "inside"

    def flipped(job: Job) -> Job:
        for row in rows:
            job = job.set(row.id, READS, other)
        return job

    scene.session.edit("Flip to the other side", flipped)


class FormNet(FormLayer):
    order = 96
    of_blank = True

    def __init__(self) -> None:
        self._nets = _Nets()

    def show(self, lines: LineSets, scene: FormScene) -> None:
        net = self._nets.of(scene.blank)
        lines.of("patch net", 1.0).show(list(net.lines_form) if net is not None else [], theme().quiet)

    def paint(self, painter: QPainter, scene: FormScene) -> None:
        net = self._nets.of(scene.blank)
        if net is None:
            return
        now = theme()
        for k, at in enumerate(_within(scene.pixels(net.corners_form)), 1):
            _number(painter, at, k, now.form_paper, now.ink)
