"""The figures of a drawing: lines of a row, each with a number and values of its own."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import TYPE_CHECKING, Any

from ..errors import Lacking, Refused
from ..parameters.parameter import Checks, Parameter, stands_in
from ..record import record

if TYPE_CHECKING:
    from ..job.route import Job, Row
    from .registry import Figure, FigureEntry

MOST = 2000
OWN = ("number", "figure")
"""What a line says beside the values of its figure."""


@record
class NumberedFigure:
    """A figure with its plain values, and its number in the drawing."""

    number: int
    key: str
    figure: Figure


@record
class Figures(Parameter):
    """A list of {"number", "figure", and the figure's values}."""

    kind = "figures"
    reckoned = True
    listed = True
    how = "add one, or click where it is to be"

    def resolved(self, value: Any, numbers: Mapping[str, float]) -> tuple[NumberedFigure, ...]:
        lines = _lines(value)
        if len(lines) > MOST:
            raise Refused(f"{len(lines):,} figures are too many for one row; at most {MOST:,}. Repeat figures in rows.")
        found, seen = [], set()
        for line in lines:
            number = _number(line)
            if number in seen:
                raise Refused(f"Two figures have the number {number}; give one of them another.")
            seen.add(number)
            found.append(NumberedFigure(number, str(line.get("figure")), _figure(number, line, numbers)))
        return tuple(found)

    def lacks(self, row: Row) -> bool:
        return not _lines(self.written(row))

    def in_task(self, job: Job, row: Row, title: str, keys: Mapping[str, str]) -> Any:
        if self.lacks(row):
            raise Lacking("The drawing waits for a figure; choose draw … in its row, then click where it is to be.")
        return super().in_task(job, row, title, keys)

    def reads(self, job: Job, row: Row) -> str:
        count = len(_lines(self.written(row)))
        return f"{count} figure{'s' if count != 1 else ''}" if count else self.words

    def require(self, check: Checks, value: Any, where: str) -> None:
        if value == "":
            return
        if not isinstance(value, list):
            check.refuse(where, "must be a list of figures")
        for k, line in enumerate(value):
            check.object(line, f"{where}[{k}]")
            if not str(line.get("number", "")).isdigit():
                check.refuse(f"{where}[{k}].number", "must be a whole number")
            if not isinstance(line.get("figure"), str):
                check.refuse(f"{where}[{k}].figure", "must name a kind of figure")
            for name, item in line.items():
                check.text(item, f"{where}[{k}].{name}", numbers=True)

    # --- one line, and one value of it ---------------------------------------------------------

    def part(self, value: Any, path: str, default: Any) -> Any:
        """The value of one figure; ``path`` is its number and the value's name, with a dot between."""
        number, name = path.split(".", 1)
        for line in _lines(value):
            if str(line.get("number")) == number:
                return line.get(name, default)
        return default

    def with_part(self, value: Any, path: str, new: Any) -> list[dict[str, Any]]:
        """The lines with one value of one figure changed."""
        number, name = path.split(".", 1)
        return [{**line, name: new} if str(line.get("number")) == number else dict(line) for line in _lines(value)]

    def parameter_of(self, value: Any, path: str) -> Parameter:
        """What that value is. Raises Refused."""
        number, name = path.split(".", 1)
        return self.entry_of(value, number).parameter(name)

    def entry_of(self, value: Any, number: int | str) -> FigureEntry:
        """The kind of the figure of that number. Raises Refused where there is none."""
        from .registry import figure_entry

        for line in _lines(value):
            if str(line.get("number")) == str(number):
                return figure_entry(str(line.get("figure")))
        raise Refused(f"There is no figure {number} in this drawing; choose one that is there.")


def _lines(value: Any) -> Sequence[Mapping[str, Any]]:
    return value if isinstance(value, list) else ()


def _number(line: Mapping[str, Any]) -> int:
    text = str(line.get("number", ""))
    if not text.isdigit() or not 0 < int(text) < 1_000_000:
        raise Refused(f"A figure has the number '{text}'; it must be a whole number from 1 on.")
    return int(text)


def _figure(number: int, line: Mapping[str, Any], numbers: Mapping[str, float]) -> Figure:
    from .registry import figure_entry

    entry = figure_entry(str(line.get("figure", "")))
    unknown = [name for name in line if name not in OWN and name not in {p.name for p in entry.parameters}]
    if unknown:
        entry.parameter(unknown[0])
    try:
        values = {p.name: p.resolved(line.get(p.name, p.default), numbers) for p in entry.parameters}
    except Refused as error:
        raise Refused(f"Figure {number}, {entry.title.lower()}: {error.sentence}") from error
    return entry.type(**values)  # type: ignore[no-any-return]


def next_number(value: Any) -> int:
    """A number that no figure has yet."""
    return 1 + max((int(line["number"]) for line in _lines(value) if str(line.get("number")).isdigit()), default=0)


def figures(hint: str) -> Any:
    return stands_in(Figures(words="nothing yet", hint=hint))
