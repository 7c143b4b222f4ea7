"""Points of the plane: pairs of numbers or expressions."""

from __future__ import annotations

from collections.abc import Mapping
from typing import TYPE_CHECKING, Any

from ..errors import Refused
from ..expressions import length_of
from ..record import record
from ..wording import counted
from .number import LARGEST
from .parameter import Parameter, stands_in
from .vector import Points, split

if TYPE_CHECKING:
    from ..job.route import Job, Row

MOST = 2000
MOST_PICKED = 20_000


@record
class PlanePoints(Parameter):
    """x, y; x, y; …: ``most`` of them at the most."""

    most: int = MOST
    kind = "points of the plane"
    how = "type x, y; x, y"

    def resolved(self, value: Any, numbers: Mapping[str, float]) -> tuple[tuple[float, float], ...]:
        parts = self.parts(value)
        if len(parts) > self.most:
            raise Refused(f"{len(parts):,} points are too many; at most {self.most:,}.")
        return tuple(_two(part, numbers) for part in parts)

    parts = staticmethod(Points.parts)

    def reads(self, job: Job, row: Row) -> str:
        text = str(self.written(row)).strip()
        return (text if len(text) < 40 else counted(len(text.split(";")), "point")) or self.words


def _two(text: str, numbers: Mapping[str, float]) -> tuple[float, float]:
    parts = split(text)
    if len(parts) != 2:
        raise Refused(f"'{text.strip()}' must be two numbers with a comma between, such as 10, 20.")
    x, y = (length_of(part, numbers) for part in parts)
    if max(abs(x), abs(y)) > LARGEST:
        raise Refused(f"'{text.strip()}' has a number that is far too large; at most {LARGEST:g}.")
    return x, y


@record
class PickedCurves(PlanePoints):
    """A point of each of the curves of a drawing that are meant."""

    picked = "curves"
    how = "click curves of the drawing, or pull a box round them; or type a point of each: x, y; x, y"

    def reads(self, job: Job, row: Row) -> str:
        count = len(self.parts(self.written(row)))
        return counted(count, "curve") if count else self.words


def picked_curves(words: str, hint: str) -> Any:
    """Curves of a drawing, by a point of each."""
    return stands_in(PickedCurves(words=words, hint=hint, most=MOST_PICKED))


def plane_points(default: str, hint: str) -> Any:
    return stands_in(PlanePoints(default=default, words="no points", hint=hint))


@record
class PickedCorners(PlanePoints):
    """Corners of the flat, by a point of each."""

    picked = "corners"
    how = "click corners of the flat; or type a point of each: x, y; x, y"

    def reads(self, job: Job, row: Row) -> str:
        count = len(self.parts(self.written(row)))
        return counted(count, "corner") if count else self.words


def picked_corners(words: str, hint: str) -> Any:
    """Corners of the flat, by a point of each."""
    return stands_in(PickedCorners(words=words, hint=hint))
