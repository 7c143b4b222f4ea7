"""A picture of the form as it will be written: turned, lit, painted, and finer the longer one waits."""

from __future__ import annotations

import re
from dataclasses import replace
from pathlib import Path

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt, QTimer, pyqtSignal
from PyQt6.QtGui import QColor, QImage, QMouseEvent, QPainter
from PyQt6.QtWidgets import (
    QCheckBox,
    QDialog,
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from ..core.errors import WrongCall, ZuschnittError
from ..core.files.atomic import write_whole
from ..core.form.appearance import Looks
from ..core.form.form import Form
from ..core.job.job_file import ENDING
from .card.link import Link
from .file_dialogs import asked_to_write
from .finishes import FINISHES, Finish, finish, finish_of
from .rendering import LIGHTS, SAMPLES, Picture, Wanted
from .session import Session, file_name_of
from .stages.camera import Camera
from .theme import font, inked, theme
from .writing import FILTERS

LARGEST = 4000
"""A side of a picture has no more pixels than this."""
QUIET = 250
"""What is typed is shown after so many milliseconds without a key."""


class Preview(QWidget):
    """The picture at the size of the sheet; dragging turns the form, a click names a face."""

    turned = pyqtSignal(float, float)
    clicked = pyqtSignal(QPointF)

    def __init__(self) -> None:
        super().__init__()
        self.image = QImage()
        self.setMinimumSize(320, 220)
        self.setCursor(Qt.CursorShape.OpenHandCursor)
        self.setAccessibleName("the picture")
        self._pressed: QPointF | None = None
        self._last = QPointF()

    def sizeHint(self) -> QSize:
        return QSize(680, 430)

    def area(self) -> QRectF:
        """Where the picture lies."""
        size = self.image.size().scaled(self.size(), Qt.AspectRatioMode.KeepAspectRatio)
        return QRectF(
            (self.width() - size.width()) / 2, (self.height() - size.height()) / 2, size.width(), size.height()
        )

    def paintEvent(self, event) -> None:
        painter = QPainter(self)
        painter.fillRect(self.rect(), QColor(theme().rule))
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        painter.drawImage(self.area(), self.image)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self._pressed = self._last = event.position()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        step, self._last = event.position() - self._last, event.position()
        if self._pressed is not None and event.buttons():
            self.turned.emit(-step.x() * 0.5, step.y() * 0.5)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        pressed, self._pressed = self._pressed, None
        if pressed is not None and (event.position() - pressed).manhattanLength() < 3:
            self.clicked.emit(event.position())


class PictureSheet(QDialog):
    """What the picture of ``form`` is like; the faces' paint is kept with the row that gives the form."""

    def __init__(
        self, session: Session, row_id: str, form: Form, camera: Camera, parent: QWidget | None = None
    ) -> None:
        super().__init__(parent)
        self.setWindowTitle("Picture of the form")
        self.resize(980, 560)
        self.session, self._row_id, self._form, self._camera = session, row_id, form, camera
        self._light, self._face = next(iter(LIGHTS)), 0
        self._picture: Picture | None = None
        self._target: Path | None = None
        self.preview = Preview()
        self.preview.turned.connect(self._turn)
        self.preview.clicked.connect(self._name_face)
        self.material, self.colour = QLineEdit(session.job.material or "plain"), QLineEdit()
        self.colour.setPlaceholderText("as the material")
        self.paint = QLineEdit()
        self.paint.setPlaceholderText("such as brass, or wood:#884422")
        self.size_field = QLineEdit("1600 × 1000")
        self.edges, self.shadow = QCheckBox("edges"), QCheckBox("shadow")
        self.lights = {
            light: Link(light, f"the lamp stands {light}", lambda now=light: self._lit(now)) for light in LIGHTS
        }
        self.face, self.said, self.state = QLabel(), QLabel(), QLabel()
        self.write = QPushButton("Write PNG …")
        self.write.clicked.connect(self._ask)
        self._rest = QTimer(self, singleShot=True, interval=QUIET)
        self._rest.timeout.connect(self.begin)
        self._more = QTimer(self, interval=0)
        self._more.timeout.connect(self._sample)
        self._lay_out()
        self._lit(self._light)

    # --- what is asked for ---------------------------------------------------------------------

    @property
    def looks(self) -> Looks:
        row = self.session.row(self._row_id)
        return Looks.of(row.view) if row is not None else Looks()

    def wanted(self) -> Wanted:
        """Raises WrongCall for a size that cannot be."""
        sides = re.findall(r"\d+", self.size_field.text())
        if len(sides) != 2 or not all(16 <= int(side) <= LARGEST for side in sides):
            raise WrongCall(f"A picture is 16 to {LARGEST} pixels wide and high; write the size as 1600 × 1000.")
        view = self._camera.azimuth, self._camera.elevation
        width, height = int(sides[0]), int(sides[1])
        return Wanted((width, height), view, self._light, self.edges.isChecked(), self.shadow.isChecked())

    def _finishes(self) -> tuple[Finish, dict[int, Finish]]:
        """Raises WrongCall for a material or a colour that is not known."""
        whole = finish(self.material.text() or "plain", self.colour.text())
        known = {face.number for face in self._form.faces}
        return whole, {n: finish_of(text, whole) for n, text in self.looks.paints.items() if n in known}

    # --- the picture ---------------------------------------------------------------------------

    def begin(self) -> None:
        """The picture anew, at the size of the sheet."""
        self._rest.stop()
        try:
            wanted, (whole, faces) = self.wanted(), self._finishes()
            room = QSize(*wanted.size).scaled(self.preview.size(), Qt.AspectRatioMode.KeepAspectRatio)
            self._picture = Picture(self._form, whole, replace(wanted, size=(room.width(), room.height())), faces)
        except ZuschnittError as error:
            self._say(error.sentence)
            return
        self._say("")
        self._target = None
        self._sample()
        self._more.start()

    def _sample(self) -> None:
        picture = self._picture
        if picture is None or picture.samples >= SAMPLES:
            self._more.stop()
            return
        picture.add_sample()
        if self._target is None:
            self.preview.image = picture.image
            self.preview.update()
        elif picture.samples == SAMPLES:
            self._written(picture, self._target)
            return
        done = picture.samples == SAMPLES
        doing = "being written" if self._target is not None else "being finished"
        self.state.setText("finished" if done else f"{doing}: {picture.samples} of {SAMPLES}")

    def _ask(self) -> None:
        stem = file_name_of(self.session.job).removesuffix(ENDING)
        path = asked_to_write(self, "Write a picture", f"{stem}.png", FILTERS["png"])
        if path is not None:
            self.write_to(path)

    def write_to(self, path: Path) -> None:
        """Has the picture finished in its own size, then written."""
        try:
            whole, faces = self._finishes()
            self._picture = Picture(self._form, whole, self.wanted(), faces)
        except ZuschnittError as error:
            self._say(error.sentence)
            return
        self._target = path if path.suffix else path.with_suffix(".png")
        self.write.setEnabled(False)
        self._more.start()

    def _written(self, picture: Picture, path: Path) -> None:
        self._more.stop()
        self._target = None
        self.write.setEnabled(True)
        try:
            write_whole(path, picture.png())
        except ZuschnittError as error:
            self._say(error.sentence)
            return
        self.state.setText(f"{path.name} is written.")

    def _say(self, sentence: str) -> None:
        self.said.setText(sentence)

    # --- what is changed -----------------------------------------------------------------------

    def _turn(self, across: float, upwards: float) -> None:
        self._camera = self._camera.turned(across, upwards)
        self.begin()

    def _lit(self, light: str) -> None:
        self._light = light
        for name, link in self.lights.items():
            link.setFont(font(12, bold=name == light))
        self.begin()

    def _name_face(self, at: QPointF) -> None:
        """The face under a click is the one that is painted next."""
        picture, area = self._picture, self.preview.area()
        if picture is None or area.width() < 1:
            return
        width, height = picture.wanted.size
        x, y = (at.x() - area.x()) / area.width() * width, (at.y() - area.y()) / area.height() * height
        self._face = picture.face_under(x, y) or 0
        self.face.setText(f"face {self._face}" if self._face else "click a face")
        self.paint.setEnabled(bool(self._face))
        self.paint.setText(self.looks.paints.get(self._face, ""))
        if self._face:
            self.paint.setFocus()

    def _paint_face(self) -> None:
        """The face has the finish that is written; the row keeps it."""
        text = self.paint.text().strip()
        if not self._face or text == self.looks.paints.get(self._face, ""):
            return
        try:
            finish_of(text, finish("plain"))
        except WrongCall as error:
            self._say(error.sentence)
            return
        row_id, face = self._row_id, self._face
        self.session.edit(
            "Paint a face",
            lambda job: job.changed(row_id, view=Looks.of(job.row(row_id).view).painted(face, text).view),
        )
        self.begin()

    def _lay_out(self) -> None:
        for label in (self.said, self.state, self.face):
            label.setFont(font(12))
        inked(self.said, "broken")
        inked(self.state, "quiet")
        self.said.setWordWrap(True)
        self.face.setText("click a face")
        self.paint.setEnabled(False)
        grid = QGridLayout()
        grid.setColumnMinimumWidth(0, 74)
        grid.setVerticalSpacing(8)
        for row, (words, field, name) in enumerate((
            ("made of", self.material, "material"), ("in colour", self.colour, "colour"),
            ("pixels", self.size_field, "size in pixels"),
        )):  # fmt: skip
            label = QLabel(words)
            label.setFont(font(12))
            field.setFont(font(12))
            field.setAccessibleName(name)
            field.textEdited.connect(lambda _: self._rest.start())
            grid.addWidget(label, row, 0)
            grid.addWidget(field, row, 1)
        self.material.setToolTip(f"typed in part, it is found: {', '.join(FINISHES)}")
        self.colour.setToolTip("a name such as teal, or #rrggbb")
        lights = QHBoxLayout()
        for link in self.lights.values():
            lights.addWidget(link)
        lights.addStretch(1)
        boxes = QHBoxLayout()
        for box in (self.edges, self.shadow):
            box.setFont(font(12))
            box.setChecked(True)
            box.toggled.connect(lambda _: self.begin())
            boxes.addWidget(box)
        boxes.addStretch(1)
        for row, (words, layout) in enumerate((("lit from", lights), ("with", boxes)), 3):
            label = QLabel(words)
            label.setFont(font(12))
            grid.addWidget(label, row, 0)
            grid.addLayout(layout, row, 1)
        self.paint.setFont(font(12))
        self.paint.setAccessibleName("material of the face")
        self.paint.editingFinished.connect(self._paint_face)
        grid.addWidget(self.face, 5, 0)
        grid.addWidget(self.paint, 5, 1)
        side = QVBoxLayout()
        side.addLayout(grid)
        side.addWidget(self.said)
        side.addStretch(1)
        side.addWidget(self.state)
        self.write.setFont(font(13, bold=True))
        self.write.setAutoDefault(False)
        side.addWidget(self.write)
        whole = QHBoxLayout(self)
        whole.setSpacing(16)
        left = QVBoxLayout()
        left.addWidget(self.preview, 1)
        hint = QLabel("drag turns it · click a face to paint it")
        hint.setFont(font(11))
        inked(hint, "quiet")
        left.addWidget(hint)
        whole.addLayout(left, 1)
        whole.addLayout(side)

    def resizeEvent(self, event) -> None:
        super().resizeEvent(event)
        self._rest.start()
