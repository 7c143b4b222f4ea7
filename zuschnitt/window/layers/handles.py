"""The handles by which what lies on the blank is moved, turned and scaled: artwork, and bodies that stand on it."""

from __future__ import annotations

from collections.abc import Iterable
from typing import TYPE_CHECKING

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QPainter, QPen

from ...core.job.route import Job, Row
from ...core.operations.registry import known_entry
from ...core.results.bodies import BodiesResult
from ..drawing import figures_of
from ..session import glimpsed
from ..theme import theme
from ..tools.grips import HANDLE, Grip, body_places, handle_places, within
from .layer import BlankLayer, BlankScene, Box
from .paths import polygon

if TYPE_CHECKING:
    from ...core.form.made_body import MadeBody
    from ..session import Session


class HandlesLayer(BlankLayer):
    """Those of the row that is held; what else lies on the blank can be moved at once, too."""

    order = 85

    def paint(self, painter: QPainter, scene: BlankScene) -> None:
        row = held(scene.session)
        frame = frame_of(scene, row) if row is not None and figures_of(row) is None else None
        if row is None or frame is None:
            return
        now = theme()
        pixels, places = scene.view.to_pixels(frame), _places(scene, row, frame)
        painter.setPen(QPen(QColor(now.quiet), 1))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawPolygon(polygon(pixels))
        painter.drawLine(QPointF(*((pixels[2] + pixels[3]) / 2)), QPointF(*places["turn"]))
        painter.setBrush(QColor(now.paper))
        painter.setPen(QPen(QColor(now.ink), 1.1))
        for name, (x, y) in places.items():
            if name in ("turn", "more"):
                painter.drawEllipse(QPointF(x, y), 5, 5)
                if name == "more":
                    painter.drawLine(QPointF(x - 3, y), QPointF(x + 3, y))
                    painter.drawLine(QPointF(x, y - 3), QPointF(x, y + 3))
            elif name.startswith("stretch"):
                painter.drawRect(QRectF(x - HANDLE / 3, y - HANDLE / 3, HANDLE / 1.5, HANDLE / 1.5))
            else:
                painter.drawRect(QRectF(x - HANDLE / 2, y - HANDLE / 2, HANDLE, HANDLE))
        painter.setBrush(Qt.BrushStyle.NoBrush)

    def grip(self, scene: BlankScene, position: QPointF) -> Grip | None:
        row = held(scene.session)
        here = np.array([position.x(), position.y()])
        frame = frame_of(scene, row) if row is not None else None
        if row is not None and frame is not None:
            middle = scene.view.to_pixels(frame.mean(axis=0)[None])[0]
            places = _places(scene, row, frame)
            name = min(places, key=lambda each: float(np.linalg.norm(places[each] - here)))
            away = np.abs(places[name] - here)
            nearer = np.linalg.norm(away) < np.linalg.norm(middle - here)  # what is small is moved by its middle
            if nearer and away.max() <= HANDLE:
                return Grip(name.rstrip("0123"), row.id, scene.view.to_blank(position), _pivot(name, frame))
        point = scene.view.to_blank(position)
        rows = [each for kind in ("artwork", "form") for each in scene.session.on_blank(kind) if movable(each)]
        for each in sorted(rows, key=lambda other: row is None or other.id != row.id):
            frame = frame_of(scene, each)
            if frame is None:
                continue
            count, apart = in_row(scene.session.job, each)
            if any(within(frame + k * apart, point, 4 / scene.view.scale) for k in range(count)):
                return Grip("move", each.id, point, frame.mean(axis=0))
        return None


def _pivot(name: str, frame: np.ndarray) -> np.ndarray:
    """What of a frame (4, 2) stays where it is while a handle is dragged."""
    if name.startswith("scale"):
        return frame[(int(name[-1]) + 2) % 4]
    if name == "stretch_x":
        return (frame[0] + frame[3]) / 2
    return (frame[2] + frame[3]) / 2 if name == "stretch_y" else frame.mean(axis=0)


def movable(row: Row) -> bool:
    """Whether a row places what it gives by numbers that a drag can change."""
    known = known_entry(row.operation)
    return known is not None and known.placed


def held(session: Session) -> Row | None:
    """The row whose handles are seen: the selected one, or what it makes a body of."""
    row = session.selected_row
    if row is None or session.hides(row):
        return None
    if movable(row):
        return row
    if not glimpsed(row):
        return None
    return next((taken for taken in session.job.sources(row) if movable(taken) and "artwork" in taken.gives), None)


def frame_of(scene: BlankScene, row: Row) -> np.ndarray | None:
    """Corners (4, 2) of the frame on the blank of what a row has laid there, from its lower left, as it now lies."""
    corners = _corners_of(scene, row)
    if corners is None:
        return None
    motion = scene.session.motions.get(row.id)
    return corners if motion is None else motion.apply(corners)


def handles(scene: BlankScene, row: Row) -> dict[str, np.ndarray]:
    """Pixels (2,) of the corner handles and of the one that turns; of bodies, of those too that only these have."""
    frame = frame_of(scene, row)
    return {} if frame is None else _places(scene, row, frame)


def _places(scene: BlankScene, row: Row, frame: np.ndarray) -> dict[str, np.ndarray]:
    """As ``handles``, of a row with that frame (4, 2)."""
    pixels = scene.view.to_pixels(frame)
    places = handle_places(pixels)
    if "artwork" not in row.gives:
        places |= body_places(pixels)
        count, apart = in_row(scene.session.job, row)
        last = frame.mean(axis=0) + (count - 1) * apart
        places["more"] += scene.view.to_pixels(last[None])[0] - pixels.mean(axis=0)
    return places


def footprints(session: Session, row: Row) -> list[tuple[np.ndarray, np.ndarray]]:
    """The rings (n, 2) round what the bodies of a row cover of the blank, and how far (2,) each is from the first."""
    made = bodies_of(session, row)
    count, apart = in_row(session.job, row)
    each = max(1, len(made) // count)
    return [(ring, k // each * apart) for k, body in enumerate(made) for ring in body.footprint]


def bodies_of(session: Session, row: Row) -> list[MadeBody]:
    """The bodies that a row has made."""
    outcome = session.outcome(row)
    results = outcome.results if outcome is not None else ()
    return [body for result in results if isinstance(result, BodiesResult) for body in result.made]


def on_blank(session: Session, row: Row) -> bool:
    """Whether what a row gives lies, or stands, on the blank that is shown, and can be moved there."""
    kind = "artwork" if "artwork" in row.gives else "form"
    return movable(row) and any(other.id == row.id for other in session.on_blank(kind))


def in_row(job: Job, row: Row) -> tuple[int, np.ndarray]:
    """How many bodies stand in a row, and how far (2,) each from the one before."""
    known = known_entry(row.operation)
    if known is None or all(parameter.name != "count" for parameter in known.parameters) or not movable(row):
        return 1, np.zeros(2)
    values = numbers_of(job, row, ("count", "apart_x", "apart_y"))
    return max(1, round(values["count"] or 1)), np.array([values["apart_x"] or 0.0, values["apart_y"] or 0.0])


def numbers_of(job: Job, row: Row, names: Iterable[str]) -> dict[str, float | None]:
    """Some of the numbers of a row, as far as they are given."""
    known = [job.parameter(row, name) for name in names]
    return {parameter.name: parameter.resolved(parameter.written(row), job.numbers) for parameter in known}


def _corners_of(scene: BlankScene, row: Row) -> np.ndarray | None:
    """The corners (4, 2) of the frame round what a row has laid on the blank; of bodies, round the first of a row."""
    session = scene.session
    if not on_blank(session, row):
        return None
    if "artwork" in row.gives:
        artwork = session.value(row, "artwork")
        return corners_of(artwork.bounds) if artwork is not None else None
    turn = np.radians(numbers_of(session.job, row, ("turn",))["turn"] or 0.0)
    own = np.array([[np.cos(turn), -np.sin(turn)], [np.sin(turn), np.cos(turn)]])  # along the body's own x and y
    box = box_of([ring @ own for ring, away in footprints(session, row) if not away.any()])
    return None if box is None else corners_of(box) @ own.T


def corners_of(box: Box) -> np.ndarray:
    """The corners (4, 2) of a box, from its lower left."""
    x0, y0, x1, y1 = box
    return np.array([[x0, y0], [x1, y0], [x1, y1], [x0, y1]])


def box_of(rings: list[np.ndarray]) -> Box | None:
    """The box round rings (n, 2); None where there are none."""
    if not rings:
        return None
    points = np.vstack(rings)
    low, high = points.min(axis=0).tolist(), points.max(axis=0).tolist()
    return low[0], low[1], high[0], high[1]
