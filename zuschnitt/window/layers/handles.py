"""The handles by which what lies on the blank is moved, turned and scaled: artwork, and bodies that stand on it."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QPainter, QPen

from ...core.job.route import Row
from ...core.operations.registry import known_entry
from ..drawing import figures_of
from ..session import glimpsed
from ..theme import theme
from ..tools.grips import HANDLE, Grip, handle_places, within
from .layer import BlankLayer, BlankScene, Box
from .paths import polygon

if TYPE_CHECKING:
    from ..session import Session


class HandlesLayer(BlankLayer):
    """Those of the row that is held; what else lies on the blank can be moved at once, too."""

    order = 85

    def paint(self, painter: QPainter, scene: BlankScene) -> None:
        row = held(scene.session)
        frame = frame_of(scene, row) if row is not None and figures_of(row) is None else None
        if frame is None:
            return
        now = theme()
        pixels = scene.view.to_pixels(frame)
        places = handle_places(pixels)
        painter.setPen(QPen(QColor(now.quiet), 1))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawPolygon(polygon(pixels))
        painter.drawLine(QPointF(*((pixels[2] + pixels[3]) / 2)), QPointF(*places["turn"]))
        painter.setBrush(QColor(now.paper))
        painter.setPen(QPen(QColor(now.ink), 1.1))
        for name, (x, y) in places.items():
            if name == "turn":
                painter.drawEllipse(QPointF(x, y), 5, 5)
            else:
                painter.drawRect(QRectF(x - HANDLE / 2, y - HANDLE / 2, HANDLE, HANDLE))
        painter.setBrush(Qt.BrushStyle.NoBrush)

    def grip(self, scene: BlankScene, position: QPointF) -> Grip | None:
        row = held(scene.session)
        here = np.array([position.x(), position.y()])
        frame = frame_of(scene, row) if row is not None else None
        if row is not None and frame is not None:
            middle = scene.view.to_pixels(frame.mean(axis=0)[None])[0]
            for name, place in handles(scene, row).items():
                nearer = np.linalg.norm(place - here) < np.linalg.norm(middle - here)  # what is small is moved by it
                if nearer and np.abs(place - here).max() <= HANDLE:
                    pivot = frame.mean(axis=0) if name == "turn" else frame[(int(name[-1]) + 2) % 4]
                    return Grip(name.rstrip("0123"), row.id, scene.view.to_blank(position), pivot)
        point = scene.view.to_blank(position)
        rows = [each for kind in ("artwork", "form") for each in scene.session.on_blank(kind) if movable(each)]
        for each in sorted(rows, key=lambda other: row is None or other.id != row.id):
            frame = frame_of(scene, each)
            if frame is not None and within(frame, point, 4 / scene.view.scale):
                return Grip("move", each.id, point, frame.mean(axis=0))
        return None


def movable(row: Row) -> bool:
    """Whether a row places what it gives by numbers that a drag can change."""
    known = known_entry(row.operation)
    return known is not None and known.placed


def held(session: Session) -> Row | None:
    """The row whose handles are seen: the selected one, or what it makes a body of."""
    row = session.selected_row
    if row is None or movable(row):
        return row
    if not glimpsed(row):
        return None
    return next((taken for taken in session.job.sources(row) if movable(taken) and "artwork" in taken.gives), None)


def frame_of(scene: BlankScene, row: Row) -> np.ndarray | None:
    """Corners (4, 2) of the frame on the blank of what a row has laid there, from its lower left, as it now lies."""
    box = _box_of(scene, row)
    if box is None:
        return None
    x0, y0, x1, y1 = box
    corners = np.array([[x0, y0], [x1, y0], [x1, y1], [x0, y1]])
    motion = scene.session.motions.get(row.id)
    return corners if motion is None else motion.apply(corners)


def handles(scene: BlankScene, row: Row) -> dict[str, np.ndarray]:
    """Pixels (2,) of the corner handles and of the one that turns."""
    frame = frame_of(scene, row)
    return {} if frame is None else handle_places(scene.view.to_pixels(frame))


def footprints(session: Session, row: Row) -> list[np.ndarray]:
    """The rings (n, 2) round what the bodies of a row cover of the blank on which they stand."""
    outcome = session.outcome(row)
    made = [body for result in outcome.results for body in getattr(result, "made", ())] if outcome is not None else []
    return [ring for body in made for ring in getattr(body, "footprint", ())]


def _box_of(scene: BlankScene, row: Row) -> Box | None:
    session = scene.session
    kind = "artwork" if "artwork" in row.gives else "form"
    if all(other.id != row.id for other in session.on_blank(kind)):
        return None
    if kind == "form":
        return box_of(footprints(session, row))
    artwork = session.value(row, kind)
    return artwork.bounds if artwork is not None else None


def box_of(rings: list[np.ndarray]) -> Box | None:
    """The box round rings (n, 2); None where there are none."""
    if not rings:
        return None
    points = np.vstack(rings)
    low, high = points.min(axis=0).tolist(), points.max(axis=0).tolist()
    return low[0], low[1], high[0], high[1]
