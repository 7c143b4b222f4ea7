"""The blank stage: the flat in true proportions, with its marks, to drag, turn and scale artwork on."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
from PyQt6.QtCore import QPoint, QPointF, QRectF, Qt
from PyQt6.QtGui import (
    QColor,
    QImage,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPainterPath,
    QPen,
    QPolygonF,
    QTransform,
    QWheelEvent,
)
from PyQt6.QtWidgets import QToolTip

from ..core.artwork import Artwork
from ..core.contour import Contour, arc_centre
from ..core.develop.blank import Blank
from ..core.route import Row
from .harpoon import paint_cross, paint_harpoon
from .session import Motion, Session
from .stage import FOOT, HEAD, Stage
from .stretch_colours import MAPS, colours, mapped, paint_legend, scale_limit
from .theme import font, theme

HANDLE = 9
"""Side of a handle in pixels; twice that can be grabbed."""
DIMENSION = 46


@dataclass(frozen=True)
class View:
    """``centre`` (2,) in mm is in the middle of the stage; ``scale`` is pixels per mm; y is up."""

    centre: tuple[float, float] = (0.0, 0.0)
    scale: float = 1.0

    def transform(self, width: float, height: float) -> QTransform:
        made = QTransform()
        made.translate(width / 2, height / 2)
        made.scale(self.scale, -self.scale)
        made.translate(-self.centre[0], -self.centre[1])
        return made


@dataclass(frozen=True)
class Grip:
    """What a press took hold of: move, turn or scale, of which row, from where on the blank."""

    what: str
    row_id: str
    start: np.ndarray
    pivot: np.ndarray


class BlankStage(Stage):
    """Left button: drag artwork, or the view. Right or middle: pan. Wheel: zoom."""

    def __init__(self, session: Session) -> None:
        super().__init__("BLANK", "blank", [("drawing", "drawing"), *MAPS])
        self.session = session
        self.view = View()
        self._fitted_to: tuple[float, ...] | None = None
        self._free = False
        self._grip: Grip | None = None
        self._panning = False
        self._last = QPointF()
        self._pressed = QPointF()
        self._here = False
        self.offers = ("fit",)
        self.offer_taken.connect(lambda _: self.fit())
        self._paths: dict[int, tuple[object, QPainterPath]] = {}
        self._map: tuple[object, QImage] | None = None
        self._inside_of: tuple[object, bool] = (None, True)
        for signal in (session.selection_changed, session.job_changed):
            signal.connect(self.refresh)
        session.row_changed.connect(lambda _: self.refresh())
        session.motion_changed.connect(self.update)
        session.cursor_changed.connect(self.update)

    # --- what is shown -------------------------------------------------------------------------

    def blank(self) -> Blank | None:
        return self.session.value(self.session.nearby("blank"), "blank")

    def artworks(self) -> list[tuple[Row, Artwork]]:
        found = [(row, self.session.value(row, "artwork")) for row in self.session.on_blank("artwork")]
        return [(row, artwork) for row, artwork in found if artwork is not None]

    def refresh(self) -> None:
        blank = self.blank()
        if blank is not None:
            pieces = "one piece" if blank.figures.pieces == 1 else f"{blank.figures.pieces} pieces"
            row = self.session.nearby("blank")
            own = f"{row.name.lower()} · " if row is not None and row.title else ""
            self.about = f"{own}{blank.way} · {pieces}"
            if not self._free or self._fitted_to is None or _far(self._fitted_to, blank.bounds):
                self.fit()
        else:
            self.about = ""
        self.warning = self.session.stale(self.session.nearby("blank"))
        self.update()

    def fit(self) -> None:
        """The whole blank in sight, with room for its dimension below."""
        blank = self.blank()
        if blank is None or self.width() < 50:
            return
        x0, y0, x1, y1 = self._fitted_to = blank.bounds
        room = self.width() - 64, self.height() - HEAD - FOOT - DIMENSION - 34
        scale = max(1e-6, min(room[0] / max(x1 - x0, 1e-9), room[1] / max(y1 - y0, 1e-9)))
        shift = (HEAD - FOOT - DIMENSION + 8) / 2 / scale
        self.view = View(((x0 + x1) / 2, (y0 + y1) / 2 + shift), scale)
        self._free = False
        self.update()

    def resizeEvent(self, event) -> None:
        if not self._free:
            self.fit()

    @property
    def _transform(self) -> QTransform:
        return self.view.transform(self.width(), self.height())

    def to_pixels(self, points: np.ndarray) -> np.ndarray:
        """Widget pixels (n, 2) of blank points (n, 2)."""
        x = (points[:, 0] - self.view.centre[0]) * self.view.scale + self.width() / 2
        y = self.height() / 2 - (points[:, 1] - self.view.centre[1]) * self.view.scale
        return np.stack([x, y], axis=1)

    def to_blank(self, position: QPointF) -> np.ndarray:
        """The blank point (2,) under a position of the widget."""
        x = (position.x() - self.width() / 2) / self.view.scale + self.view.centre[0]
        y = (self.height() / 2 - position.y()) / self.view.scale + self.view.centre[1]
        return np.array([x, y])

    # --- painting ------------------------------------------------------------------------------

    def paintEvent(self, event) -> None:
        now = theme()
        painter = QPainter(self)
        painter.fillRect(self.rect(), QColor(now.blank_paper))
        blank = self.blank()
        if blank is None:
            self._invite(painter)
            self._offers = []
            self.paint_head(painter)
            return
        self._grid(painter)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        fill = QColor(now.blank_face)
        whole = self._path(0, blank, blank.outline)
        if self.mode in dict(MAPS) and blank.mesh is not None:
            self._stretch_map(painter, blank)
            painter.strokePath(self._transform.map(whole), QPen(QColor(now.blank), 1.6))
        else:
            mapped = self._transform.map(whole)
            painter.fillPath(mapped, fill)
            self._failing(painter, blank)
            pen = QPen(QColor(now.blank), 2.0)
            if self.warning:
                pen = QPen(QColor(now.quiet), 1.4, Qt.PenStyle.DashLine)
            painter.strokePath(mapped, pen)
        self._folds(painter, blank)
        self._marks(painter, blank)
        self._dimension(painter, blank)
        origin = self.to_pixels(np.zeros((1, 2)))[0]
        paint_harpoon(painter, origin, np.array([52.0, 0]), np.array([0, -52.0]), now.form, now.blank_paper, outer=True)
        self._twin(painter, blank)
        self.paint_head(painter)
        if self.mode in dict(MAPS):
            limit = scale_limit(blank.mesh.stretch) if blank.mesh is not None else 1.0
            area = QRectF(40, HEAD + 8, min(250, self.width() - 80), 26)
            paint_legend(painter, area, limit)
        self._foot(painter, blank)

    def _invite(self, painter: QPainter) -> None:
        row = self.session.nearby("blank")
        state = self.session.states.get(row.id) if row is not None else None
        if row is not None and state is not None and state.status in ("broken", "waiting", "off", "stopped"):
            self.paint_invitation(painter, "No blank", state.reason)
        elif row is not None:
            self.paint_invitation(painter, "The blank is on its way", "It is being computed.")
        elif self.session.nearby("form") is not None:
            self.paint_invitation(
                painter, "Then develop it", "Press N and choose Develop: the picked faces become a blank."
            )
        else:
            self.paint_invitation(
                painter, "The flat comes here", "A form's faces, developed, are drawn here in true size."
            )

    def _grid(self, painter: QPainter) -> None:
        """Lines every so many round mm, as on drawing paper."""
        step = next(
            s for s in (1, 2, 5, 10, 20, 50, 100, 200, 500, 1000, 1e4, 1e5) if s * self.view.scale >= 16 or s == 1e5
        )
        painter.setPen(QPen(QColor(theme().grid), 1))
        low, high = self.to_blank(QPointF(0, self.height())), self.to_blank(QPointF(self.width(), 0))
        for x in np.arange(np.ceil(low[0] / step) * step, high[0], step)[:400]:
            px = int((x - self.view.centre[0]) * self.view.scale + self.width() / 2)
            painter.drawLine(px, HEAD, px, self.height())
        for y in np.arange(np.ceil(low[1] / step) * step, high[1], step)[:400]:
            py = int(self.height() / 2 - (y - self.view.centre[1]) * self.view.scale)
            painter.drawLine(0, py, self.width(), py)

    def _path(self, slot: int, owner: object, contours) -> QPainterPath:
        """The path of contours in mm, kept as long as its owner stays the same."""
        kept = self._paths.get(slot)
        if kept is None or kept[0] is not owner:
            path = QPainterPath()
            for contour in contours:
                add_contour(path, contour)
            self._paths[slot] = kept = (owner, path)
        return kept[1]

    def _failing(self, painter: QPainter, blank: Blank) -> None:
        """Where the material cannot take it."""
        if blank.verdict is None or blank.verdict.can or blank.mesh is None:
            return
        kept = self._paths.get(-1)
        if kept is None or kept[0] is not blank:
            path = QPainterPath()
            path.setFillRule(Qt.FillRule.WindingFill)
            for corners in blank.mesh.points_blank[blank.mesh.triangles[blank.verdict.failing]].tolist():
                path.addPolygon(QPolygonF([QPointF(x, y) for x, y in (*corners, corners[0])]))
            self._paths[-1] = kept = (blank, path)
        colour = QColor(theme().failing)
        mapped = self._transform.map(kept[1])
        painter.fillPath(mapped, colour)
        painter.strokePath(mapped, QPen(colour, 0.6))

    def _folds(self, painter: QPainter, blank: Blank) -> None:
        now = theme()
        for fold in blank.folds:
            style = Qt.PenStyle.DashDotLine if fold.layer == "REFERENCE" else Qt.PenStyle.DashLine
            colour = now.quiet if fold.layer == "REFERENCE" else now.form
            painter.setPen(QPen(QColor(colour), 1.2, style))
            points = self.to_pixels(fold.flattened(0.05))
            painter.drawPolyline(QPolygonF([QPointF(x, y) for x, y in points]))

    def _marks(self, painter: QPainter, blank: Blank) -> None:
        now = theme()
        for row in self.session.on_blank("traced"):
            for curve in self.session.value(row, "traced") or ():
                painter.setPen(QPen(QColor(now.form), 1.4))
                painter.drawPolyline(QPolygonF([QPointF(x, y) for x, y in self.to_pixels(curve.blank)]))
        for k, (row, artwork) in enumerate(self.artworks()):
            motion = self.session.motions.get(row.id)
            path = self._path(k + 1, artwork, artwork.contours)
            transform = self._transform if motion is None else _moved(motion) * self._transform
            self._stroke_artwork(painter, blank, artwork, transform.map(path), motion)
            if row.id == self.session.selected:
                self._handles(painter, row)

    def _stroke_artwork(
        self, painter: QPainter, blank: Blank, artwork: Artwork, path: QPainterPath, motion: Motion | None
    ) -> None:
        """Artwork in ochre; where it leaves the blank, dotted in another colour. Finer while it moves."""
        now = theme()
        width = 1.5 if motion is None else 1.0  # lines of one pixel are drawn much quicker
        if self._inside(blank, artwork, motion):
            painter.strokePath(path, QPen(QColor(now.blank), width))
            return
        style = Qt.PenStyle.DotLine if motion is None else Qt.PenStyle.SolidLine
        painter.strokePath(path, QPen(QColor(now.outside), width, style))
        painter.save()
        painter.setClipPath(self._transform.map(self._path(0, blank, blank.outline)))
        if motion is None:
            painter.strokePath(path, QPen(QColor(now.blank_face), 2.4))
        painter.strokePath(path, QPen(QColor(now.blank), width))
        painter.restore()

    def _inside(self, blank: Blank, artwork: Artwork, motion: Motion | None) -> bool:
        """Whether all of the artwork lies on the blank."""
        key = (id(blank), id(artwork), motion)
        if self._inside_of[0] != key:
            points = np.vstack([contour.points for contour in artwork.contours])
            if motion is not None:
                points = motion.apply(points)
            self._inside_of = (key, bool(blank.region.contains(points).all()))
        return self._inside_of[1]

    def frame(self, row: Row) -> np.ndarray | None:
        """Corners (4, 2) of the artwork's frame on the blank, from its lower left, as it now lies."""
        artwork = next((a for r, a in self.artworks() if r.id == row.id), None)
        if artwork is None:
            return None
        x0, y0, x1, y1 = artwork.bounds
        corners = np.array([[x0, y0], [x1, y0], [x1, y1], [x0, y1]])
        motion = self.session.motions.get(row.id)
        return corners if motion is None else motion.apply(corners)

    def handles(self, row: Row) -> dict[str, np.ndarray]:
        """Pixels (2,) of the corner handles and of the one that turns."""
        frame = self.frame(row)
        if frame is None:
            return {}
        pixels = self.to_pixels(frame)
        top = (pixels[2] + pixels[3]) / 2
        outwards = top - (pixels[0] + pixels[1]) / 2
        outwards = outwards / max(float(np.linalg.norm(outwards)), 1e-9)
        places = {f"scale{i}": pixel for i, pixel in enumerate(pixels)}
        places["turn"] = top + 24 * outwards
        return places

    def _handles(self, painter: QPainter, row: Row) -> None:
        frame = self.frame(row)
        if frame is None:
            return
        now = theme()
        pixels = self.to_pixels(frame)
        painter.setPen(QPen(QColor(now.quiet), 1))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawPolygon(QPolygonF([QPointF(x, y) for x, y in pixels]))
        places = self.handles(row)
        painter.drawLine(QPointF(*((pixels[2] + pixels[3]) / 2)), QPointF(*places["turn"]))
        painter.setBrush(QColor(now.paper))
        painter.setPen(QPen(QColor(now.ink), 1.1))
        for name, (x, y) in places.items():
            if name == "turn":
                painter.drawEllipse(QPointF(x, y), 5, 5)
            else:
                painter.drawRect(QRectF(x - HANDLE / 2, y - HANDLE / 2, HANDLE, HANDLE))

    def _dimension(self, painter: QPainter, blank: Blank) -> None:
        """The overall width below the blank and the height beside it, with their figures."""
        now = theme()
        x0, y0, x1, y1 = blank.bounds
        (left, bottom), (right, top) = self.to_pixels(np.array([[x0, y0], [x1, y1]]))
        painter.setFont(font(11))
        line = min(bottom + 26, self.height() - FOOT - 12.0)
        painter.setPen(QPen(QColor(now.quiet), 1))
        painter.drawLine(QPointF(left, line), QPointF(right, line))
        for x in (left, right):
            painter.drawLine(QPointF(x - 4, line + 4), QPointF(x + 4, line - 4))
        self._figure(painter, f"{x1 - x0:.2f}", (left + right) / 2, line)
        beside = left - 18
        if beside > 8:
            painter.setPen(QPen(QColor(now.quiet), 1))
            painter.drawLine(QPointF(beside, bottom), QPointF(beside, top))
            for y in (bottom, top):
                painter.drawLine(QPointF(beside - 4, y + 4), QPointF(beside + 4, y - 4))
            painter.save()
            painter.translate(beside, (bottom + top) / 2)
            painter.rotate(-90)
            self._figure(painter, f"{y1 - y0:.2f}", 0, 0)
            painter.restore()

    def _figure(self, painter: QPainter, text: str, x: float, y: float) -> None:
        width = painter.fontMetrics().horizontalAdvance(text) + 12
        painter.fillRect(QRectF(x - width / 2, y - 8, width, 16), QColor(theme().blank_paper))
        painter.setPen(QColor(theme().ink))
        painter.drawText(QRectF(x - width / 2, y - 9, width, 18), Qt.AlignmentFlag.AlignCenter, text)

    def _stretch_map(self, painter: QPainter, blank: Blank) -> None:
        assert blank.mesh is not None
        key = (id(blank), self.mode, self.view, self.width(), self.height())
        if self._map is None or self._map[0] != key:
            image = QImage(self.size(), QImage.Format.Format_ARGB32_Premultiplied)
            image.fill(Qt.GlobalColor.transparent)
            inner = QPainter(image)
            mesh = blank.mesh
            shades = colours(mapped(mesh.stretch, self.mode), scale_limit(mesh.stretch))
            corners = self.to_pixels(mesh.points_blank)[mesh.triangles]
            for (r, g, b), triangle in zip(shades.tolist(), corners.tolist(), strict=True):
                colour = QColor(r, g, b)
                inner.setPen(QPen(colour, 1))
                inner.setBrush(colour)
                inner.drawPolygon(QPolygonF([QPointF(x, y) for x, y in triangle]))
            inner.end()
            self._map = (key, image)
        painter.save()
        painter.setClipPath(self._transform.map(self._path(0, blank, blank.outline)))
        painter.drawImage(0, 0, self._map[1])
        painter.restore()

    def _twin(self, painter: QPainter, blank: Blank) -> None:
        at = self.session.cursor_blank
        if at is None:
            return
        x, y = self.to_pixels(at.reshape(1, 2))[0]
        painter.setFont(font(11))
        if not self._here:
            paint_cross(painter, QPointF(x, y), theme().form)
            return
        inside = bool(blank.region.contains(at.reshape(1, 2))[0])
        gap = float(blank.region.distance(at.reshape(1, 2))[0])
        text = f"{gap:.1f} mm to the edge" if inside else ""
        if self.mode in dict(MAPS) and blank.mesh is not None and inside:
            text = f"{self._stretch_at(blank, at):+.2f} % · {text}"
        if inside:
            paint_cross(painter, QPointF(x, y), theme().blank, text, theme().blank_paper)

    def _stretch_at(self, blank: Blank, at: np.ndarray) -> float:
        assert blank.mesh is not None
        centres = blank.mesh.points_blank[blank.mesh.triangles].mean(axis=1)
        nearest = int(np.hypot(*(centres - at).T).argmin())
        return float(mapped(blank.mesh.stretch[nearest : nearest + 1], self.mode)[0])

    def _foot(self, painter: QPainter, blank: Blank) -> None:
        at = self.session.cursor_blank
        left = scale_words(self.view.scale, self.logicalDpiX())
        if at is not None:
            left += f"   x {at[0]:.2f}  y {at[1]:.2f}"
        layers = ["CUT —"]
        if any(fold.layer.startswith("BEND") for fold in blank.folds):
            layers.append("BEND - -")
        if self.session.on_blank("artwork") or self.session.on_blank("traced"):
            layers.append("MARK —")
        self.paint_foot(painter, left, "   ".join(layers))

    # --- the mouse -----------------------------------------------------------------------------

    def _grip_at(self, position: QPointF) -> Grip | None:
        row = self.session.selected_row
        here = np.array([position.x(), position.y()])
        if row is not None and row.operation == "place_artwork":
            for name, place in self.handles(row).items():
                if np.abs(place - here).max() <= HANDLE:
                    frame = self.frame(row)
                    assert frame is not None
                    pivot = frame.mean(axis=0) if name == "turn" else frame[(int(name[-1]) + 2) % 4]
                    return Grip(name.rstrip("0123"), row.id, self.to_blank(position), pivot)
        point = self.to_blank(position)
        rows = sorted(self.session.on_blank("artwork"), key=lambda r: r.id != self.session.selected)
        for each in rows:
            frame = self.frame(each)
            if frame is not None and _within(frame, point, 4 / self.view.scale):
                return Grip("move", each.id, point, frame.mean(axis=0))
        return None

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.setFocus()
        if self.head_pressed(event):
            return
        self._last = self._pressed = event.position()
        self._grip = self._grip_at(event.position()) if event.button() == Qt.MouseButton.LeftButton else None
        if self._grip is not None:
            self.session.select(self._grip.row_id)
        self._panning = self._grip is None

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        position = event.position()
        step, self._last = position - self._last, position
        if self._grip is not None and event.buttons():
            motion = self._motion(self._grip, self.to_blank(position), event.modifiers())
            self.session.drag(self._grip.row_id, motion)
        elif self._panning and event.buttons():
            x, y = self.view.centre
            self.view = replace(self.view, centre=(x - step.x() / self.view.scale, y + step.y() / self.view.scale))
            self._free = True
        else:
            grip = self._grip_at(position) if position.y() > HEAD else None
            shapes = {"move": Qt.CursorShape.SizeAllCursor, "turn": Qt.CursorShape.PointingHandCursor,
                      "scale": Qt.CursorShape.SizeFDiagCursor}  # fmt: skip
            self.setCursor(shapes[grip.what] if grip else Qt.CursorShape.ArrowCursor)
        self._here = True
        self.session.cursor_blank = self.to_blank(position) if position.y() > HEAD and self.blank() else None
        self.session.cursor_changed.emit()
        tip = self.head_tip(position)
        if tip:
            QToolTip.showText(self.mapToGlobal(QPoint(int(position.x()), int(position.y()))), tip, self)
        self.update()

    @staticmethod
    def _motion(grip: Grip, at: np.ndarray, modifiers) -> Motion:
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
        step = at - grip.start
        if shift:
            step = step * ([1, 0] if abs(step[0]) > abs(step[1]) else [0, 1])
        return Motion(shift=(float(step[0]), float(step[1])), pivot=pivot)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        grip, self._grip = self._grip, None
        moved = (event.position() - self._pressed).manhattanLength() > 2
        if grip is not None and moved:
            self.session.drop(grip.row_id)
        elif grip is not None:
            self.session.drag(grip.row_id, None)
        elif self._panning and not moved and self.blank() is not None and event.position().y() > HEAD:
            row = self.session.nearby("blank")
            if row is not None:
                self.session.select(row.id)
        self._panning = False

    def leaveEvent(self, event) -> None:
        self._here = False
        self.session.cursor_blank = None
        self.session.cursor_changed.emit()

    def wheelEvent(self, event: QWheelEvent) -> None:
        self._zoom(1.0015 ** event.angleDelta().y(), event.position())

    def _zoom(self, factor: float, position: QPointF) -> None:
        under = self.to_blank(position)
        scale = float(np.clip(self.view.scale * factor, 1e-3, 1e4))
        real = scale / self.view.scale
        centre = under + (np.array(self.view.centre) - under) / real
        self.view = View((float(centre[0]), float(centre[1])), scale)
        self._free = True
        self.update()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        row = self.session.selected_row
        steps = {Qt.Key.Key_Left: (-1, 0), Qt.Key.Key_Right: (1, 0), Qt.Key.Key_Up: (0, 1), Qt.Key.Key_Down: (0, -1)}
        if event.key() in steps and row is not None and row.operation == "place_artwork":
            step = np.array(steps[Qt.Key(event.key())], float)
            step *= 10 if event.modifiers() & Qt.KeyboardModifier.ShiftModifier else 1
            self.session.drag(row.id, Motion(shift=(float(step[0]), float(step[1]))))
            self.session.drop(row.id)
        elif event.key() in (Qt.Key.Key_Plus, Qt.Key.Key_Minus):
            middle = QPointF(self.width() / 2, self.height() / 2)
            self._zoom(1.2 if event.key() == Qt.Key.Key_Plus else 1 / 1.2, middle)
        elif event.key() in steps:
            x, y = steps[Qt.Key(event.key())]
            cx, cy = self.view.centre
            self.view = replace(self.view, centre=(cx + 40 * x / self.view.scale, cy + 40 * y / self.view.scale))
            self._free = True
            self.update()
        else:
            super().keyPressEvent(event)


def add_contour(path: QPainterPath, contour: Contour) -> None:
    """Adds lines and arcs to a path in mm, y up."""
    path.moveTo(*contour.points[0])
    for start, end, bulge in zip(*contour.spans, strict=True):
        if bulge == 0:
            path.lineTo(*end)
        else:
            centre, radius, angle, sweep = arc_centre(start, end, bulge)
            # Qt's angles run the other way in a plane whose y is up
            box = QRectF(centre[0] - radius, centre[1] - radius, 2 * radius, 2 * radius)
            path.arcTo(box, -np.degrees(angle), -np.degrees(sweep))
    if contour.closed:
        path.closeSubpath()


def scale_words(pixels_per_mm: float, dots_per_inch: float) -> str:
    """The scale as on a drawing, such as 1 : 2.5."""
    ratio = dots_per_inch / 25.4 / pixels_per_mm
    return f"1 : {ratio:.3g}" if ratio >= 1 else f"{1 / ratio:.3g} : 1"


def _moved(motion: Motion) -> QTransform:
    ends = motion.apply(np.array([[0.0, 0.0], [1.0, 0.0], [0.0, 1.0]]))
    x, y = ends[1] - ends[0], ends[2] - ends[0]
    return QTransform(x[0], x[1], y[0], y[1], ends[0][0], ends[0][1])


def _within(frame: np.ndarray, point: np.ndarray, margin: float) -> bool:
    """Whether a point is in a rectangle of any direction, or within the margin of it."""
    across, upwards = frame[1] - frame[0], frame[3] - frame[0]
    for axis in (across, upwards):
        size = float(np.linalg.norm(axis))
        along = float((point - frame[0]) @ axis) / max(size, 1e-12)
        if not -margin <= along <= size + margin:
            return False
    return True


def _far(fitted: tuple[float, ...], bounds: tuple[float, ...]) -> bool:
    """Whether a blank differs so much from the one looked at that it would be out of sight."""
    size = max(fitted[2] - fitted[0], fitted[3] - fitted[1], 1e-9)
    return bool(np.abs(np.subtract(fitted, bounds)).max() > 0.6 * size)
