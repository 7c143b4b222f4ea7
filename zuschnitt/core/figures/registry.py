"""What a figure of a drawing is: its values, its sentence, and what it draws.

A figure is a frozen dataclass in a file of its own, which has its key as its name, registered by ``@figure``, as
operations are. When it draws, its fields hold plain values.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import fields, replace
from functools import cache
from typing import TYPE_CHECKING, Any, ClassVar, TypeVar, dataclass_transform

from ..by_file import import_all, import_file
from ..errors import Refused
from ..parameters.choice import choice
from ..parameters.number import number
from ..parameters.parameter import Parameter
from ..parameters.place import place
from ..record import record

if TYPE_CHECKING:
    from ..plane.contour import Contour
    from .ground import Frame, Ground

T = TypeVar("T", bound=type)

GROUPS = ("Draw", "Make of others", "Repeat")
LAYERS = {"cut": "Cut", "mark": "Mark", "reference": "For reference,"}


@record
class Figure:
    """``kind`` says what becomes of it: it is cut, marked, or stands for reference alone."""

    kind: Any = choice("cut", LAYERS, "what becomes of it")

    sentence: ClassVar[str] = ""
    uses_up: ClassVar[bool] = False
    """Whether the figures it is made of are no longer there themselves."""

    bounds_blank: ClassVar[bool] = False
    """Whether it is cut in place of the blank's own outline."""

    repeats: ClassVar[bool] = False
    """Whether it holds copies that make one thing of the figures it is made of."""

    @property
    def made_of(self) -> tuple[int, ...]:
        """The numbers of the figures that it is made of."""
        return tuple(getattr(self, "of", ()))

    @property
    def layer(self) -> str:
        return str(self.kind).upper()

    def draw(self, ground: Ground) -> list[Contour]:
        """Its contours on the blank. Raises Refused."""
        raise NotImplementedError


@record
class Placed(Figure):
    """A figure that is drawn about its own origin, and put somewhere."""

    x: Any = number(0, "mm", "how far from there, along x")
    y: Any = number(0, "mm", "how far from there, along y")
    place: Any = place("middle", "from where that is measured")
    turn: Any = number(0, "°", "turned anticlockwise")

    measured: ClassVar[tuple[tuple[str, str], ...]] = ()
    """Which of its values are dimensions of it, and whether ``along`` its x or ``across`` it."""

    def shape(self) -> list[Contour]:
        """Its contours about its origin."""
        raise NotImplementedError

    def draw(self, ground: Ground) -> list[Contour]:
        import numpy as np

        frame: Frame = ground.frame(self.place)
        at = frame.at(self.x, self.y)
        return [c.moved(1.0, float(np.radians(self.turn)) + frame.turn, at) for c in self.shape()]


@record
class FigureEntry:
    """A kind of figure as it stands in the list."""

    key: str
    title: str
    group: str
    says: str
    type: type
    parameters: tuple[Parameter, ...]
    clauses: tuple = ()

    @property
    def sentence(self) -> str:
        return str(getattr(self.type, "sentence"))  # noqa: B009  # a figure is a plain class

    @property
    def placed(self) -> bool:
        return issubclass(self.type, Placed)

    def parameter(self, name: str) -> Parameter:
        for parameter in self.parameters:
            if parameter.name == name:
                return parameter
        raise Refused(f"{self.title} has no value '{name}'; it has {', '.join(p.name for p in self.parameters)}.")

    def within(self, path: str) -> FigureEntry:
        """The same with its values named as parts of a row's value ``path``."""
        return replace(self, parameters=tuple(replace(p, name=f"{path}.{p.name}") for p in self.parameters))


_entries: dict[str, FigureEntry] = {}


@dataclass_transform(frozen_default=True)
def figure(key: str, *, title: str, group: str, says: str) -> Callable[[T], T]:
    """Registers a kind of figure; ``says`` is a line about it."""

    def register(cls: T) -> T:
        if key in _entries or group not in GROUPS:
            raise ValueError(f"two figures are called {key}, or its group is unknown")
        record(cls)
        parameters = tuple(replace(f.metadata["parameter"], name=f.name) for f in fields(cls))
        _entries[key] = FigureEntry(key, title, group, says, cls, parameters)
        return cls

    return register


@cache
def figure_entries() -> Mapping[str, FigureEntry]:
    """All kinds of figures by key, in the order of the groups; each file of this package registers its own."""
    import_all(__package__)
    return dict(sorted(_entries.items(), key=lambda item: (GROUPS.index(item[1].group), item[1].title)))


def figure_entry(key: str) -> FigureEntry:
    """Raises Refused where there is no such figure."""
    if key not in _entries:
        import_file(__package__, key)
    found = _entries.get(key)
    if found is None:
        raise Refused(f"There is no figure '{key}'; draw one of {', '.join(figure_entries())}.")
    return found
