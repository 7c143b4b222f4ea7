"""The blank stage: the flat in true proportions, with its layers; artwork is moved on it."""

from __future__ import annotations

from dataclasses import replace
from typing import Any, cast

import numpy as np
from PyQt6.QtCore import QEvent, QPoint, QPointF, QRectF, Qt, QTimer
from PyQt6.QtGui import QColor, QKeyEvent, QMouseEvent, QPainter, QPixmap, QWheelEvent
from PyQt6.QtWidgets import QToolTip

from ...core.develop.blank import Blank
from ...core.develop.stretch_scale import scale_limit
from ..drawing import figures_of
from ..layers.drawing import Dimension, DrawingLayer
from ..layers.layer import BlankLayer, BlankScene, blank_layers
from ..layers.stretch import MapReader
from ..session import Session
from ..theme import font, theme
from ..tools.draw import Draw
from ..tools.grips import Grip
from ..tools.move_artwork import ARROWS, MoveOnBlank
from ..tools.move_parts import MoveParts
from ..tools.pick_corners import PickCorners
from ..tools.pick_curves import PickCurves
from ..tools.tool import Tool
from .harpoon import paint_cross
from .number_field import NumberField
from .paper_view import PaperView, scale_words
from .stage import FOOT, HEAD, Stage
from .stretch_colours import MAPS, paint_legend

DIMENSION = 46
"""Room for the dimension below the blank, in pixels."""
CLICK = 2
"""A press that moves no more than this, in pixels, is a click."""


class BlankStage(Stage):
    """Left button: the tool, or the view is moved. Right or middle: pan. Wheel: zoom."""

    def __init__(self, session: Session) -> None:
        super().__init__("BLANK", "blank", [("drawing", "drawing"), *MAPS])
        self.session = session
        self.view = PaperView()
        self.layers = blank_layers()
        self._move, self._draw = MoveOnBlank(self), Draw(self)
        self._curves, self._parts, self._corners = PickCurves(self), MoveParts(self), PickCorners(self)
        self._kept: tuple[tuple[Any, ...], QPixmap] | None = None
        self._fitted_to: tuple[float, ...] | None = None
        self._free = False
        self._map = MapReader()
        self._held = self._panning = False
        self._last = self._pressed = QPointF()
        self._here = False
        self._rest = QTimer(self, singleShot=True, interval=140)
        self._rest.timeout.connect(self.update)
        self.offers = ("fit",)
        self.offer_taken.connect(lambda _: self.fit())
        for signal in (session.selection_changed, session.job_changed):
            signal.connect(self.refresh)
        session.seen_changed.connect(self.refresh)
        session.motion_changed.connect(self.update)
        session.figures_changed.connect(self.update)
        session.cursor_changed.connect(self.update)

    # --- what is shown -------------------------------------------------------------------------

    def blank(self) -> Blank | None:
        return self.session.value(self.session.nearby("blank"), "blank")

    def scene(self) -> BlankScene | None:
        blank = self.blank()
        # what has the stage to itself needs no blank
        scene = BlankScene(self.session, cast(Blank, blank), self.view, self.mode, self.warning, self._rest.isActive())
        return scene if blank is not None or self._alone(scene) else None

    def _drawn(self, scene: BlankScene) -> list[BlankLayer]:
        """The layers that are drawn: those that have the stage to themselves, or all but those of a hidden blank."""
        hidden = self.session.hides_blank
        return self._alone(scene) or [layer for layer in self.layers if not (hidden and layer.of_blank)]

    def _alone(self, scene: BlankScene) -> list[BlankLayer]:
        """The layers that have the stage to themselves."""
        return [layer for layer in self.layers if layer.alone(scene)]

    @property
    def tool(self) -> Tool:
        """What the mouse does: it draws while a drawing is selected."""
        for tool in (self._curves, self._parts, self._corners):
            if tool.ready:
                return tool
        return self._draw if figures_of(self.session.selected_row) is not None else self._move

    def refresh(self) -> None:
        row = self.session.nearby("blank")
        self.warning = self.session.stale(row)
        scene = self.scene()
        self.about = ""
        if scene is not None:
            blank = self.blank()
        if scene is not None and blank is not None:
            pieces = "one piece" if blank.figures.pieces == 1 else f"{blank.figures.pieces} pieces"
            own = f"{row.name.lower()} · " if row is not None and row.title else ""
            self.about = self.session.hidden_words(row) or f"{own}{blank.way} · {pieces}"
        if scene is not None and (
            not self._free or self._fitted_to is None or _far(self._fitted_to, self._extent(scene))
        ):
            self.fit()
        self.update()

    def _extent(self, scene: BlankScene) -> tuple[float, float, float, float]:
        """What is to be in sight: what the topmost layer that reaches anywhere reaches over."""
        for layers in (self._alone(scene), self.layers):
            found = [box for layer in layers if (box := layer.extent(scene)) is not None]
            if found:
                return found[-1]
        return 0.0, 0.0, 1.0, 1.0

    def fit(self) -> None:
        """The whole blank in sight, with room for its dimension below."""
        scene = self.scene()
        if scene is None or self.width() < 50:
            return
        self._fitted_to = self._extent(scene)
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
        painter = QPainter(self)
        painter.fillRect(self.rect(), QColor(theme().blank_paper))
        scene = self.scene()
        if scene is None:
            self._invite(painter)
            self._offers = []
            self.paint_head(painter)
            return
        alone = next((words for layer in self.layers if (words := layer.alone(scene))), "")
        painter.drawPixmap(0, 0, self._at_view(scene))
        if not alone:
            self._twin(painter, scene)
        if not alone or self.tool.alone:
            self.tool.paint(painter)
        self.paint_head(painter)
        if scene.mapped and not alone and not self.session.hides_blank:
            limit = scale_limit(scene.blank.mesh.stretch) if scene.blank.mesh is not None else 1.0
            paint_legend(painter, QRectF(40, HEAD + 8, min(250, self.width() - 80), 26), limit)
        if alone:
            self.paint_foot(painter, alone, self.tool.words if self.tool.alone else "")
        else:
            self._foot(painter, scene)

    def _at_view(self, scene: BlankScene) -> QPixmap:
        """What stays as it is while only the cursor moves; drawn once for each view and each change."""
        key: tuple[Any, ...] = (self.view, self.mode, self.width(), self.height(), self.devicePixelRatio())
        key = (*key, theme().dark, scene.moving, tuple(self.session.motions.items()), self.session.shown())
        key = (*key, self.session.drawings.now(), frozenset(self.session.figures))
        key = (*key, *(layer.key(scene) for layer in self.layers))
        if self._kept is None or self._kept[0] != key:
            picture = QPixmap(self.size() * self.devicePixelRatio())
            picture.setDevicePixelRatio(self.devicePixelRatio())
            picture.fill(QColor(theme().blank_paper))
            painter = QPainter(picture)
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            for layer in self._drawn(scene):
                layer.paint(painter, scene)
            painter.end()
            self._kept = key, picture
        return self._kept[1]

    def _invite(self, painter: QPainter) -> None:
        row = self.session.nearby("blank")
        state = self.session.states.get(row.id) if row is not None else None
        if row is not None and state is not None and state.status in ("broken", "waiting", "off", "stopped"):
            self.paint_invitation(painter, "No blank", self.session.words(state.reason))
        elif row is not None:
            self.paint_invitation(painter, "The blank is on its way", "It is being computed.")
        elif self.session.outcome(self.session.nearby("form")) is not None:
            self.paint_invitation(
                painter, "Then develop it", "Press N and choose Develop: the picked faces become a blank."
            )
        else:
            self.paint_invitation(
                painter, "The flat comes here", "A form's faces, developed, are drawn here in true size."
            )

    def _twin(self, painter: QPainter, scene: BlankScene) -> None:
        at, blank = self.session.cursor_blank, scene.blank
        if at is None:
            return
        x, y = self.view.to_pixels(at.reshape(1, 2))[0]
        painter.setFont(font(11))
        if not self._here:
            paint_cross(painter, QPointF(x, y), theme().form)
            return
        if not blank.region.contains(at.reshape(1, 2))[0]:
            return
        text = self.session.words(f"{float(blank.region.distance(at.reshape(1, 2))[0]):.1f} mm to the edge")
        if scene.mapped and blank.mesh is not None:
            text = f"{self._map.at(blank, at, self.mode):+.2f} % · {text}"
        paint_cross(painter, QPointF(x, y), theme().blank, text, theme().blank_paper)

    def _foot(self, painter: QPainter, scene: BlankScene) -> None:
        at = self.session.cursor_blank
        left = scale_words(self.view.scale, self.logicalDpiX())
        if at is not None:
            left += f"   x {self.session.length(at[0])}  y {self.session.length(at[1])}"
        if self.tool is self._draw:
            self.paint_foot(painter, self._draw.foot)
            return
        legends = [words for layer in self._drawn(scene) if (words := layer.legend(scene))]
        self.paint_foot(painter, left, self.session.words("   ".join(legends)))

    # --- the mouse and the keys ----------------------------------------------------------------

    def grip_at(self, position: QPointF) -> Grip | None:
        """What of the topmost layer a press at a position takes hold of."""
        scene = self.scene()
        if scene is None or position.y() <= HEAD:
            return None
        grips = (layer.grip(scene, position) for layer in reversed(self._drawn(scene)))
        return next((grip for grip in grips if grip is not None), None)

    def dimension_at(self, position: QPointF) -> tuple[QRectF, Dimension] | None:
        """The dimension whose number stands at a position."""
        found = (layer.number_at(position) for layer in self.layers if isinstance(layer, DrawingLayer))
        return next((each for each in found if each is not None), None)

    def edit_dimension(self, area: QRectF, dimension: Dimension) -> None:
        """Opens a field where the number of a dimension stands."""
        row = self.session.selected_row
        drawing = self.session.drawings.now()
        if row is not None and drawing is not None:
            name = f"{drawing.parameter.name}.{dimension.number}.{dimension.name}"
            parameter = replace(self.session.job.parameter(row, name), name=name)
            self.field = NumberField(self, self.session, row.id, parameter, area)

    def event(self, event: QEvent) -> bool:
        """The keys of the tool are not those of the window while it can use them."""
        if isinstance(event, QKeyEvent) and event.type() == QEvent.Type.ShortcutOverride and self._keeps(event):
            event.accept()
            return True
        return super().event(event)

    def _keeps(self, event: QKeyEvent) -> bool:
        return self.tool.takes(event)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.setFocus()
        if self.head_pressed(event):
            return
        self._last = self._pressed = event.position()
        scene = self.scene()
        layers = self._drawn(scene) if scene is not None else []
        if scene is not None and any(layer.click(scene, event.position()) for layer in layers):
            return
        self._held = event.button() == Qt.MouseButton.LeftButton and self.tool.press(event)
        self._panning = not self._held

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        position = event.position()
        step, self._last = position - self._last, position
        if self._held and event.buttons():
            self.tool.drag(event)
        elif self._panning and event.buttons():
            self._look(self.view.moved(step.x(), step.y()))
        else:
            self.setCursor(self.tool.cursor(position) or Qt.CursorShape.ArrowCursor)
        self._here = True
        self.session.cursor_blank = self.view.to_blank(position) if position.y() > HEAD and self.blank() else None
        self.session.cursor_changed.emit()
        tip = self.head_tip(position)
        if tip:
            QToolTip.showText(self.mapToGlobal(QPoint(int(position.x()), int(position.y()))), tip, self)
        self.update()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        held, self._held = self._held, False
        moved = (event.position() - self._pressed).manhattanLength() > CLICK
        if held and moved:
            self.tool.drop(event)
        elif held:
            self.tool.click(event)
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
        self.zoom(1.0015 ** event.angleDelta().y(), event.position())

    def zoom(self, factor: float, position: QPointF) -> None:
        """Zoomed about a position."""
        self._look(self.view.zoomed(factor, position))

    def _look(self, view: PaperView) -> None:
        """Another view; what is dear to draw waits until it rests."""
        self.view = view
        self._free = True
        self._rest.start()
        self.update()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if self.tool.key(event):
            return
        if event.key() in (Qt.Key.Key_Plus, Qt.Key.Key_Minus):
            middle = QPointF(self.width() / 2, self.height() / 2)
            self.zoom(1.2 if event.key() == Qt.Key.Key_Plus else 1 / 1.2, middle)
        elif event.key() in ARROWS:
            x, y = ARROWS[Qt.Key(event.key())]
            self._look(self.view.moved(-40 * x, 40 * y))
        else:
            super().keyPressEvent(event)


def _far(fitted: tuple[float, ...], bounds: tuple[float, ...]) -> bool:
    """Whether a blank differs so much from the one looked at that it would be out of sight."""
    size = max(fitted[2] - fitted[0], fitted[3] - fitted[1], 1e-9)
    return bool(np.abs(np.subtract(fitted, bounds)).max() > 0.6 * size)
