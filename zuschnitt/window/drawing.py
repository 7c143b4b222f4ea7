"""The drawing of the selected row, drawn here at once: what is shown while figures are moved and typed."""

from __future__ import annotations

import json
from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import TYPE_CHECKING, Any

import numpy as np

from ..core.errors import ZuschnittError
from ..core.figures.figures_value import Figures, NumberedFigure, next_number
from ..core.job.route import Row
from ..core.operations.registry import known_entry

if TYPE_CHECKING:
    from ..core.figures.catching import Catcher
    from ..core.figures.drawn import Drawn
    from ..core.figures.ground import Frame, Ground
    from .session import Session

CLIPPED = "zuschnitt figures"
"""What figures on the clipboard are called."""
BESIDE = 10.0
"""Figures that are put in from the clipboard lie so far beside those that were taken, in mm."""


def figures_of(row: Row | None) -> Figures | None:
    """The value of a row that is a drawing's figures."""
    known = known_entry(row.operation) if row is not None else None
    return next((p for p in known.parameters if isinstance(p, Figures)), None) if known else None


@dataclass(frozen=True, eq=False)
class LiveDrawing:
    """A drawing row's figures as they are drawn now; where one is no good, those above it."""

    row: Row
    parameter: Figures
    ground: Ground
    figures: tuple[NumberedFigure, ...]
    drawn: tuple[Drawn, ...]

    @cached_property
    def catcher(self) -> Catcher:
        """What of it is caught, worked out once the mouse asks for it."""
        from ..core.figures.catching import Catcher

        return Catcher.of(self.ground, self.drawn)

    def figure(self, number: int) -> NumberedFigure | None:
        return next((each for each in self.figures if each.number == number), None)

    def frame(self, number: int) -> Frame | None:
        """Where the place of a figure is measured from; None where it is not placed."""
        from ..core.figures.registry import Placed

        found = self.figure(number)
        if found is None or not isinstance(found.figure, Placed):
            return None
        above = self.ground
        for each in self.drawn:
            if each.number == number:
                break
            above = above.with_drawn(each.number, each.contours)
        try:
            return above.frame(found.figure.place)
        except ZuschnittError:
            return None

    def under(self, point: np.ndarray, reach: float) -> int | None:
        """The number of the figure whose line is nearest to a point (2,), within ``reach`` mm."""
        from ..core.plane.spans import Spans

        best, found = reach, None
        for each in self.drawn:
            if not each.used:
                spans = Spans.of(each.contours)
                gap = float(spans.distance(np.repeat(point[None], len(spans), axis=0)).min())
                if gap <= best:
                    best, found = gap, each.number
        return found

    def boxed(self, first: np.ndarray, second: np.ndarray, touched: bool) -> set[int]:
        """The figures wholly inside of a box between two points, or ``touched`` by it."""
        import shapely

        (x0, y0), (x1, y1) = np.minimum(first, second), np.maximum(first, second)
        box = shapely.box(x0, y0, x1, y1)
        found = set()
        for each in self.drawn:
            lines = shapely.MultiLineString([contour.flattened(0.01) for contour in each.contours])
            if not each.used and (box.intersects(lines) if touched else box.covers(lines)):
                found.add(each.number)
        return found


class LiveDrawings:
    """The drawing of the selected row, kept until what it depends on changes."""

    def __init__(self, session: Session) -> None:
        self.session = session
        self._kept: tuple[tuple[Any, ...], LiveDrawing | None] | None = None
        self._ground: tuple[object, Ground] | None = None
        self._tried: Row | None = None

    @property
    def tried(self) -> Row | None:
        """The selected row as it is tried out."""
        return self._tried if self._tried is not None and self._tried.id == self.session.selected else None

    def try_out(self, row: Row | None) -> None:
        """Shows a drawing with other figures than the job has; None ends that."""
        self._tried = row
        self.session.motion_changed.emit()

    def now(self) -> LiveDrawing | None:
        """None where the selected row is no drawing, or its blank is not there yet."""
        session, row = self.session, self.tried or self.session.selected_row
        parameter = figures_of(row)
        blank = session.value(session.nearby("blank"), "blank") if parameter is not None else None
        if row is None or parameter is None or blank is None:
            return None
        about = (row, blank, tuple(session.job.numbers.items()))
        if (
            self._kept is None
            or any(a is not b for a, b in zip(self._kept[0][:2], about[:2], strict=True))
            or (self._kept[0][2] != about[2])
        ):
            self._kept = about, self._made(row, parameter, blank)
        return self._kept[1]

    def _made(self, row: Row, parameter: Figures, blank: Any) -> LiveDrawing:
        from ..core.figures.drawn import drawn
        from ..core.figures.ground import Ground

        if self._ground is None or self._ground[0] is not blank:
            self._ground = blank, Ground.of_blank(blank)
        ground = self._ground[1]
        try:
            figures = parameter.resolved(parameter.written(row), self.session.job.numbers)
        except ZuschnittError:
            figures = ()
        made: tuple[Drawn, ...] = ()
        for count in range(len(figures), 0, -1):
            try:
                made = drawn(figures[:count], ground)
                break
            except ZuschnittError:
                continue
        return LiveDrawing(row, parameter, ground, figures, made)


# --- edits -----------------------------------------------------------------------------------------


def with_figure(session: Session, row_id: str, key: str, values: Mapping[str, Any]) -> int | None:
    """Adds a figure to a drawing row and picks it; its number, or None where it was refused."""
    row = session.row(row_id)
    parameter = figures_of(row)
    if row is None or parameter is None:
        return None
    lines = list(parameter.written(row) or ())
    number = next_number(lines)
    new = [*lines, {"number": number, "figure": key, **values}]
    if not session.edit("Draw a figure", lambda job: job.set(row_id, parameter.name, new)):
        return None
    session.pick_figures({number})
    return number


def without_figures(session: Session, row: Row, numbers: Collection[int]) -> None:
    """Removes figures."""
    parameter = figures_of(row)
    assert parameter is not None
    left = [line for line in parameter.written(row) or () if int(line["number"]) not in numbers]
    if session.edit("Remove figures", lambda job: job.set(row.id, parameter.name, left)):
        session.pick_figures(set())


def shifted(drawing: LiveDrawing, numbers: Collection[int], step: np.ndarray, grain: float = 0.0) -> list[dict]:
    """The lines of the drawing with the placed ones of ``numbers`` moved by ``step`` (2,) on the blank.

    Where one is placed from another that moves along, only that one changes. ``grain`` rounds places, in mm.
    """
    from ..core.parameters.place import Anchor

    lines = [dict(line) for line in drawing.parameter.written(drawing.row) or ()]
    for line in lines:
        number = int(line["number"])
        found, frame = drawing.figure(number), drawing.frame(number)
        if number not in numbers or found is None or frame is None:
            continue
        anchor = getattr(found.figure, "place", None)
        if isinstance(anchor, Anchor) and anchor.what == "figure" and anchor.number in numbers:
            continue
        x, y = frame.seen(frame.at(found.figure.x, found.figure.y) + step)  # type: ignore[attr-defined]
        line["x"], line["y"] = written(x, grain), written(y, grain)
    return lines


def written(value: float, grain: float = 0.0) -> str:
    """A number as it is written in a row, rounded to ``grain`` mm."""
    if grain:
        value = round(value / grain) * grain
    text = f"{value:.4f}".rstrip("0").rstrip(".")
    return "0" if text == "-0" else text


def grain_of(scale: float) -> float:
    """What the zoom can tell: the power of ten below a pixel, in mm, for ``scale`` pixels per mm."""
    return float(10.0 ** np.floor(np.log10(1.0 / scale)))


def clipped(lines: Sequence[Mapping[str, Any]], numbers: Collection[int]) -> str:
    """Figures as text for the clipboard."""
    return json.dumps({CLIPPED: [dict(line) for line in lines if int(line["number"]) in numbers]})


def from_clipboard(text: str, lines: Sequence[Mapping[str, Any]]) -> list[dict[str, Any]]:
    """The figures that such a text holds, with new numbers, those made of each other still so; none for other texts."""
    try:
        taken = json.loads(text)[CLIPPED]
        first = next_number(list(lines))
        new = {int(line["number"]): first + k for k, line in enumerate(taken)}
        return [_renumbered(line, new) for line in taken]
    except (ValueError, TypeError, KeyError):
        return []


def _renumbered(line: Mapping[str, Any], new: Mapping[int, int]) -> dict[str, Any]:
    made = {**line, "number": new[int(line["number"])]}
    for name in ("of", "other", "by"):
        if name in made:
            numbers = [int(part) for part in str(made[name]).split(",") if part.strip().isdigit()]
            made[name] = ", ".join(str(new.get(number, number)) for number in numbers)
    what, _, number = str(made.get("place", "")).partition(" ")
    if what == "figure" and number.isdigit() and int(number) in new:
        made["place"] = f"figure {new[int(number)]}"
    elif "x" in made and "place" in made:
        try:
            made["x"] = written(float(made["x"]) + BESIDE)
        except ValueError:
            made["x"] = f"({made['x']}) + {BESIDE:g}"
    return made
