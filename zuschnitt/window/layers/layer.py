"""What a layer is: how one kind of thing paints itself, how far it reaches, and what of it can be taken hold of."""

from __future__ import annotations

import importlib
import pkgutil
from functools import cache
from typing import TYPE_CHECKING, Any, ClassVar, TypeVar

import numpy as np
from PyQt6.QtCore import QPointF
from PyQt6.QtGui import QPainter

from ...core.develop.blank import Blank
from ...core.form.form import Form
from ...core.record import record
from ..stages.camera import Camera
from ..stages.paper_view import PaperView
from ..stages.stretch_colours import MAPS

if TYPE_CHECKING:
    from ..session import Session
    from ..stages.scene import Bodies, LineSets
    from ..tools.grips import Grip

Box = tuple[float, float, float, float]


@record
class BlankScene:
    """What the blank stage shows: ``blank`` in ``mode``, seen by ``view``; ``warning`` is why it is out of date.

    What is dear to draw waits while the view is ``moving``.
    """

    session: Session
    blank: Blank
    view: PaperView
    mode: str
    warning: str = ""
    moving: bool = False

    @property
    def mapped(self) -> bool:
        """Whether a map of stretch is shown."""
        return self.mode in dict(MAPS)

    def given(self, kind: str) -> Any:
        """The result of that kind that the selected row gives; None where it gives none, or is hidden."""
        return self.session.given(kind)


class BlankLayer:
    """One for each stage, which keeps what it has made of what it shows. Those of low ``order`` lie below."""

    order: ClassVar[int] = 0
    of_blank: ClassVar[bool] = False
    """Whether it is part of the blank, and hidden with it."""

    def key(self, scene: BlankScene) -> Any:
        """What its picture depends on, apart from the results shown."""
        return None

    def paint(self, painter: QPainter, scene: BlankScene) -> None:
        """What stays as it is while only the cursor moves."""

    def extent(self, scene: BlankScene) -> Box | None:
        """The box in mm that is to be in sight: left, bottom, right, top."""
        return None

    def legend(self, scene: BlankScene) -> str:
        """How its lines are told apart, for the foot of the stage."""
        return ""

    def alone(self, scene: BlankScene) -> str:
        """Where it takes the whole stage for itself, what stands at the foot of it; else empty."""
        return ""

    def click(self, scene: BlankScene, position: QPointF) -> bool:
        """Whether it takes a click, and has done what that means."""
        return False

    def grip(self, scene: BlankScene, position: QPointF) -> Grip | None:
        """What of it a press takes hold of."""
        return None


@record
class FormScene:
    """What the form stage shows: ``form`` in ``mode``, and the ``blank`` that belongs to it."""

    session: Session
    form: Form
    blank: Blank | None
    mode: str
    camera: Camera
    size: tuple[float, float]
    edges: dict[int, np.ndarray]

    @property
    def mapped(self) -> bool:
        """Whether a map of stretch is shown."""
        return self.mode in dict(MAPS)

    def pixels(self, points: np.ndarray) -> np.ndarray:
        """Pixels (n, 2), below the head of the stage, of points (n, 3)."""
        return self.camera.project(points, self.size)


class FormLayer:
    """Lines in space are given to the picture, everything else is painted over it."""

    order: ClassVar[int] = 0
    of_blank: ClassVar[bool] = False
    """Whether it shows something of the blank on the form, and is hidden with it."""
    slides: ClassVar[bool] = False
    """Whether what it shows moves where its key changes, so that quick pictures matter more than fine ones."""
    of_all: ClassVar[bool] = False
    """Whether it is drawn, too, where all bodies of the job are shown."""

    def key(self, scene: FormScene) -> Any:
        """What its lines depend on, apart from the results shown."""
        return None

    def show(self, lines: LineSets, scene: FormScene) -> None:
        """Gives its lines to the picture."""

    def bodies(self, scene: FormScene) -> Bodies | None:
        """What is seen through the form; the same object as long as it stays as it is."""
        return None

    def follow(self, lines: LineSets, scene: FormScene) -> None:
        """Gives those of its lines that follow a drag."""

    def paint(self, painter: QPainter, scene: FormScene) -> None:
        """What stands over the picture."""


Made = TypeVar("Made", BlankLayer, FormLayer)


def blank_layers() -> list[BlankLayer]:
    return _layers(BlankLayer)


def form_layers() -> list[FormLayer]:
    return _layers(FormLayer)


def _layers(base: type[Made]) -> list[Made]:
    """One of each kind of layer, from the lowest to the topmost."""
    return sorted((kind() for kind in _kinds() if issubclass(kind, base)), key=lambda layer: layer.order)


@cache
def _kinds() -> tuple[type, ...]:
    package = importlib.import_module(__package__)
    found: list[type] = []
    for module in pkgutil.iter_modules(package.__path__):
        here = importlib.import_module(f"{__package__}.{module.name}")
        for each in vars(here).values():
            if isinstance(each, type) and issubclass(each, BlankLayer | FormLayer) and each.__module__ == here.__name__:
                found.append(each)
    return tuple(each for each in found if each not in (BlankLayer, FormLayer))
