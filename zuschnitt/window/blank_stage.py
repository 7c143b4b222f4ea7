"""The blank stage: the flat in true proportions, with its marks, to drag, turn and scale artwork on."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from PyQt6.QtCore import QPoint, QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QKeyEvent, QMouseEvent, QPainter, QPen, QPixmap, QPolygonF, QWheelEvent
from PyQt6.QtWidgets import QToolTip

from ..core.artwork import Artwork
from ..core.develop.blank import Blank
from ..core.develop.compared import Compared
from ..core.develop.stretch_scale import scale_limit
from ..core.route import Row
from ..core.shop.printed import Pages
from .blank_drawing import BlankDrawing, mapped_at
from .carried import shown_reliefs
from .compare_drawing import CompareDrawing
from .grips import Grip, handle_places, motion_of, within
from .harpoon import paint_cross, paint_harpoon
from .page_frames import paint_pages
from .paper_view import PaperView, scale_words
from .session import Motion, Session
from .stage import FOOT, HEAD, Stage
from .stretch_colours import MAPS, paint_legend
from .theme import font, theme

HANDLE = 9
"""Side of a handle in pixels; twice that can be grabbed."""
DIMENSION = 46


class BlankStage(Stage):
    """Left button: drag artwork, or the view. Right or middle: pan. Wheel: zoom."""

    def __init__(self, session: Session) -> None:
        super().__init__("BLANK", "blank", [("drawing", "drawing"), *MAPS])
        self.session = session
        self.view = PaperView()
        self._drawing = BlankDrawing()
        self._kept: tuple[tuple, QPixmap] | None = None
        self._comparison = CompareDrawing()
        self._fitted_to: tuple[float, ...] | None = None
        self._free = False
        self._grip: Grip | None = None
        self._panning = False
        self._last = QPointF()
        self._pressed = QPointF()
        self._here = False
        self.offers = ("fit",)
        self.offer_taken.connect(lambda _: self.fit())
        for signal in (session.selection_changed, session.job_changed):
            signal.connect(self.refresh)
        session.seen_changed.connect(self.refresh)
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
            if not self._free or self._fitted_to is None or _far(self._fitted_to, self._extent(blank)):
                self.fit()
        else:
            self.about = ""
        self.warning = self.session.stale(self.session.nearby("blank"))
        self.update()

    def _extent(self, blank: Blank) -> tuple[float, float, float, float]:
        """What is to be in sight: the blank, and the pages it is printed on."""
        printed = self._printed()
        if printed is None:
            return blank.bounds
        low = np.min([page.low for page in printed.pages], axis=0)
        high = np.max([page.high for page in printed.pages], axis=0)
        return float(low[0]), float(low[1]), float(high[0]), float(high[1])

    def fit(self) -> None:
        """The whole blank in sight, with room for its dimension below."""
        blank = self.blank()
        if blank is None or self.width() < 50:
            return
        self._fitted_to = self._extent(blank)
        x0, y0, x1, y1 = self._fitted_to
        room = self.width() - 64, self.height() - HEAD - FOOT - DIMENSION - 34
        scale = max(1e-6, min(room[0] / max(x1 - x0, 1e-9), room[1] / max(y1 - y0, 1e-9)))
        shift = (HEAD - FOOT - DIMENSION + 8) / 2 / scale
        centre = ((x0 + x1) / 2, (y0 + y1) / 2 + shift)
        self.view = PaperView(centre, scale, (self.width(), self.height()))
        self._free = False
        self.update()

    def resizeEvent(self, event) -> None:
        self.view = replace(self.view, size=(self.width(), self.height()))
        if not self._free:
            self.fit()

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
        if self._compared():
            self._compare(painter)
            return
        painter.drawPixmap(0, 0, self._at_rest(blank))
        self._twin(painter, blank)
        self.paint_head(painter)
        if self.mode in dict(MAPS):
            limit = scale_limit(blank.mesh.stretch) if blank.mesh is not None else 1.0
            area = QRectF(40, HEAD + 8, min(250, self.width() - 80), 26)
            paint_legend(painter, area, limit)
        self._foot(painter, blank)

    def _at_rest(self, blank: Blank) -> QPixmap:
        """What stays as it is while only the cursor moves; drawn once for each view and each change."""
        motions = tuple(self.session.motions.items())
        key = (self.view, self.mode, self.width(), self.height(), self.devicePixelRatio(), theme().dark)
        key = (*key, motions, self.session.shown())
        if self._kept is None or self._kept[0] != key:
            picture = QPixmap(self.size() * self.devicePixelRatio())
            picture.setDevicePixelRatio(self.devicePixelRatio())
            picture.fill(QColor(theme().blank_paper))
            painter = QPainter(picture)
            self._draw(painter, blank)
            painter.end()
            self._kept = key, picture
        return self._kept[1]

    def _draw(self, painter: QPainter, blank: Blank) -> None:
        now = theme()
        self._drawing.grid(painter, self.view)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        self._drawing.outline(painter, self.view, blank, self.mode, bool(self.warning))
        form = self.session.value(self.session.nearby("form"), "form")
        if form is not None and self.mode not in dict(MAPS):
            self._drawing.rulings(painter, self.view, blank, form)
        self._drawing.folds(painter, self.view, blank)
        if self.mode in dict(MAPS):
            self._drawing.strokes(painter, self.view, blank)
        self._drawing.reliefs(painter, self.view, self._proposed(blank))
        self._drawing.marks(painter, self.view, blank)
        self._marks(painter, blank)
        printed = self._printed()
        if printed is not None:
            paint_pages(painter, self.view, printed)
        self._drawing.dimension(painter, self.view, blank)
        origin = self.view.to_pixels(np.zeros((1, 2)))[0]
        paint_harpoon(painter, origin, np.array([52.0, 0]), np.array([0, -52.0]), now.form, now.blank_paper, outer=True)

    def _printed(self) -> Pages | None:
        """The pages of the selected row, if it prints."""
        return self.session.value(self.session.selected_row, "pages")

    def _compared(self) -> tuple[Compared, ...]:
        """What the selected row compares."""
        return self.session.value(self.session.selected_row, "compared") or ()

    def _compare(self, painter: QPainter) -> None:
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        row = self.session.nearby("blank")
        current = row.parameters.get("way", "") if row is not None else ""
        blank = self.blank()
        if current == "auto" and blank is not None:
            current = blank.way
        room = QRectF(0, HEAD, self.width(), self.height() - HEAD - FOOT)
        self._comparison.paint(painter, room, self._compared(), current)
        self.paint_head(painter)
        self.paint_foot(painter, "all to one scale · circles of the form, as they lie on each flat")

    def _take_way(self, position: QPointF) -> None:
        """Gives the row that was compared the way under the mouse."""
        row = self.session.nearby("blank")
        for way, place in self._comparison.taken:
            if row is not None and place.contains(position):
                self.session.edit("Take a way", lambda job, w=way: job.set(row.id, "way", w))

    def _proposed(self, blank: Blank) -> list[tuple[int, np.ndarray]]:
        """Reliefs of the selected row on a blank that does not open at them."""
        row = self.session.selected_row
        if row is None or self.session.gives(row) != "reliefs":
            return []
        found = []
        for number, points in shown_reliefs(self.session):
            carried = blank.correspondence.to_blank(points)
            found.append((number, carried.points[carried.inside] if carried.inside.any() else carried.points))
        return found

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

    def _marks(self, painter: QPainter, blank: Blank) -> None:
        now = theme()
        for row in self.session.on_blank("traced"):
            for curve in self.session.value(row, "traced") or ():
                painter.setPen(QPen(QColor(now.form), 1.4))
                painter.drawPolyline(QPolygonF([QPointF(x, y) for x, y in self.view.to_pixels(curve.blank)]))
        for k, (row, artwork) in enumerate(self.artworks()):
            motion = self.session.motions.get(row.id)
            self._drawing.artwork(painter, self.view, blank, artwork, k, motion)
            if row.id == self.session.selected and row.operation == "place_artwork":
                self._handles(painter, row)

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
        return handle_places(self.view.to_pixels(frame))

    def _handles(self, painter: QPainter, row: Row) -> None:
        frame = self.frame(row)
        if frame is None:
            return
        now = theme()
        pixels = self.view.to_pixels(frame)
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

    def _twin(self, painter: QPainter, blank: Blank) -> None:
        at = self.session.cursor_blank
        if at is None:
            return
        x, y = self.view.to_pixels(at.reshape(1, 2))[0]
        painter.setFont(font(11))
        if not self._here:
            paint_cross(painter, QPointF(x, y), theme().form)
            return
        inside = bool(blank.region.contains(at.reshape(1, 2))[0])
        gap = float(blank.region.distance(at.reshape(1, 2))[0])
        text = f"{gap:.1f} mm to the edge" if inside else ""
        if self.mode in dict(MAPS) and blank.mesh is not None and inside:
            text = f"{mapped_at(blank, at, self.mode):+.2f} % · {text}"
        if inside:
            paint_cross(painter, QPointF(x, y), theme().blank, text, theme().blank_paper)

    def _foot(self, painter: QPainter, blank: Blank) -> None:
        at = self.session.cursor_blank
        left = scale_words(self.view.scale, self.logicalDpiX())
        if at is not None:
            left += f"   x {at[0]:.2f}  y {at[1]:.2f}"
        layers = ["CUT —"]
        folded = {fold.layer for fold in blank.folds}
        if "BEND_UP" in folded:
            layers.append("BEND UP – –")
        if "BEND_DOWN" in folded:
            layers.append("DOWN – · ·")
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
                    return Grip(name.rstrip("0123"), row.id, self.view.to_blank(position), pivot)
        point = self.view.to_blank(position)
        artwork = [r for r in self.session.on_blank("artwork") if r.operation == "place_artwork"]
        rows = sorted(artwork, key=lambda r: r.id != self.session.selected)
        for each in rows:
            frame = self.frame(each)
            if frame is not None and within(frame, point, 4 / self.view.scale):
                return Grip("move", each.id, point, frame.mean(axis=0))
        return None

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.setFocus()
        if self.head_pressed(event):
            return
        self._last = self._pressed = event.position()
        if self._compared():
            self._take_way(event.position())
            return
        self._grip = self._grip_at(event.position()) if event.button() == Qt.MouseButton.LeftButton else None
        if self._grip is not None:
            self.session.select(self._grip.row_id)
        self._panning = self._grip is None

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        position = event.position()
        step, self._last = position - self._last, position
        if self._grip is not None and event.buttons():
            motion = motion_of(self._grip, self.view.to_blank(position), event.modifiers())
            self.session.drag(self._grip.row_id, motion)
        elif self._panning and event.buttons():
            self.view = self.view.moved(step.x(), step.y())
            self._free = True
        else:
            grip = self._grip_at(position) if position.y() > HEAD else None
            shapes = {"move": Qt.CursorShape.SizeAllCursor, "turn": Qt.CursorShape.PointingHandCursor,
                      "scale": Qt.CursorShape.SizeFDiagCursor}  # fmt: skip
            self.setCursor(shapes[grip.what] if grip else Qt.CursorShape.ArrowCursor)
        self._here = True
        self.session.cursor_blank = self.view.to_blank(position) if position.y() > HEAD and self.blank() else None
        self.session.cursor_changed.emit()
        tip = self.head_tip(position)
        if tip:
            QToolTip.showText(self.mapToGlobal(QPoint(int(position.x()), int(position.y()))), tip, self)
        self.update()

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
        self.view = self.view.zoomed(factor, position)
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
            self.view = self.view.moved(-40 * x, 40 * y)
            self._free = True
            self.update()
        else:
            super().keyPressEvent(event)


def _far(fitted: tuple[float, ...], bounds: tuple[float, ...]) -> bool:
    """Whether a blank differs so much from the one looked at that it would be out of sight."""
    size = max(fitted[2] - fitted[0], fitted[3] - fitted[1], 1e-9)
    return bool(np.abs(np.subtract(fitted, bounds)).max() > 0.6 * size)
