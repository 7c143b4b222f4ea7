"""Flanges, each in a few words: where, how long, how far bent."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import replace
from typing import TYPE_CHECKING, Any

from ..errors import Refused
from ..expressions import length_of, value_of
from ..record import record
from ..sheet.measures import MEASURES
from ..units import kept, with_its_unit
from .parameter import Parameter, stands_in, texts
from .picks import picked_edges

if TYPE_CHECKING:
    from ..job.route import Job, Row

FREE = "top"
WAYS = ("in", "out")
RADIUS, SETBACK = 2, 4
"""Places of further lengths behind that of a wall."""
LENGTH = 15.0
"""A flange that is picked begins with this length, in mm."""


@record
class WrittenFlange:
    """``edges`` by their numbers, none for all free ones; ``length``, ``radius`` and ``setback`` in mm, ``angle`` in
    degrees. ``then`` are further walls, each bent from the free end of the one before; ``measure`` one of MEASURES."""

    edges: tuple[int, ...]
    length: float
    angle: float = 90.0
    radius: float | None = None
    inwards: bool = True
    setback: float = 0.0
    then: tuple[WrittenFlange, ...] = ()
    measure: str = "over"


@record
class Flanges(Parameter):
    """EDGES:LENGTH[:ANGLE[:RADIUS[:in|out[:SETBACK]]]], with semicolons between several; or none.

    LENGTH is over the outer faces; with ``inside`` or ``tangent`` behind it, over the inner ones, or of the flat part
    alone. After ``>`` follows LENGTH[:…] of a further wall, bent from the free end: an offset bend, or a hem.
    """

    kind = "flanges"
    reckoned = True
    picked = "flanges"
    how = (
        "click edges on the form, or type edges:length:angle:radius:in or out:setback, as top:15 or 4, 7:20:90; "
        "> 10:90:2:out bends on from there; a length of 20 inside, or 20 tangent, is measured so"
    )
    as_list = True

    def resolved(self, value: Any, numbers: Mapping[str, float]) -> tuple[WrittenFlange, ...]:
        return tuple(_flange(text, numbers) for text in texts(value, ";"))

    def reads(self, job: Job, row: Row) -> str:
        return self.typed(job, row) or self.words

    def typed(self, job: Job, row: Row) -> str:
        return "; ".join(
            _with_lengths(text, lambda it: with_its_unit(it, job.unit)) for text in texts(self.written(row), ";")
        )

    def kept(self, job: Job, text: str) -> str:
        if job.unit == "mm":
            return text
        return "; ".join(_with_lengths(part, lambda it: kept(it, job.unit)) for part in texts(text, ";"))


def toggled(value: Any, edge: int) -> str:
    """``value`` with one edge more in its last flange, or without it where it has one; the first is of LENGTH mm."""
    found = []
    taken = False
    for text in texts(value, ";"):
        where, colon, rest = text.partition(":")
        edges = () if where.strip().lower() == FREE else picked_edges(where)
        if edge in edges:
            taken = True
            edges = tuple(other for other in edges if other != edge)
            if not edges:
                continue
            where = ", ".join(map(str, edges))
        found.append(f"{where}{colon}{rest}")
    if not taken:
        where, colon, rest = found[-1].partition(":") if found else (FREE, "", "")
        if where.strip().lower() == FREE:
            found.append(f"{edge}:{LENGTH:g}")
        else:
            found[-1] = f"{', '.join(map(str, sorted((*picked_edges(where), edge))))}{colon}{rest}"
    return "; ".join(found)


def with_length(value: Any, flange: int, wall: int, length: float) -> str:
    """``value`` with another length, in mm, of one wall of one of its flanges, by their places."""
    every = [text.strip() for text in texts(value, ";")]
    walls = [text.strip() for text in every[flange].split(">")]
    fields = walls[wall].split(":")
    place = 0 if wall else 1
    measure = _measured(fields[place].strip())[1]
    fields[place] = f"{length:g}" if measure == MEASURES[0] else f"{length:g} {measure}"
    walls[wall] = ":".join(fields)
    every[flange] = " > ".join(walls)
    return "; ".join(every)


def _with_lengths(text: str, change: Callable[[str], str]) -> str:
    """A flange as it is written, each of its lengths changed; what is none is left for ``resolved`` to refuse."""
    where, colon, rest = text.partition(":")
    if not colon:
        return text
    walls = []
    for wall in rest.split(">"):
        fields = [field.strip() for field in wall.split(":")]
        number, measure = _measured(fields[0])
        fields[0] = change(number) if measure == MEASURES[0] else f"{change(number)} {measure}"
        for place in (RADIUS, SETBACK):
            if len(fields) > place and fields[place]:
                fields[place] = change(fields[place])
        walls.append(":".join(fields))
    return f"{where.strip()}:{' > '.join(walls)}"


def _flange(text: str, numbers: Mapping[str, float]) -> WrittenFlange:
    first, *more = text.split(">")
    where, colon, rest = first.strip().partition(":")
    if not colon:
        raise Refused(f"The flange '{text.strip()}' must be edges and a length, as 4:20 or top:15:90:2:in.")
    edges = () if where.strip().lower() == FREE else picked_edges(where)
    if where.strip().lower() != FREE and not edges:
        raise Refused(f"The flange '{text.strip()}' names no edges; write their numbers, or {FREE} for all free ones.")
    then = tuple(_wall(each, text, (), numbers) for each in more)
    return replace(_wall(rest, text, edges, numbers), then=then)


def _wall(text: str, whole: str, edges: tuple[int, ...], numbers: Mapping[str, float]) -> WrittenFlange:
    """LENGTH[:ANGLE[:RADIUS[:in|out[:SETBACK]]]]."""
    fields = [part.strip() for part in text.split(":")]
    if not 1 <= len(fields) <= 5 or not fields[0]:
        raise Refused(f"The flange '{whole.strip()}' must be edges and a length, as 4:20 or top:15:90:2:in.")
    written, angle, radius, way, setback = (*fields, *[""] * (5 - len(fields)))
    length, measure = _measured(written)
    if way and way.lower() not in WAYS:
        raise Refused(f"The flange '{whole.strip()}' is bent {way}; it must be in or out.")
    return WrittenFlange(
        edges,
        length_of(length, numbers),
        value_of(angle, numbers) if angle else 90.0,
        length_of(radius, numbers) if radius else None,
        way.lower() != "out",
        length_of(setback, numbers) if setback else 0.0,
        measure=measure,
    )


def _measured(length: str) -> tuple[str, str]:
    """A length, and how it is measured: by the word behind it, or over the outer faces."""
    number, _, word = length.rpartition(" ")
    return (number, word.lower()) if word.lower() in MEASURES and number.strip() else (length, MEASURES[0])


def flanges(words: str, hint: str) -> Any:
    """Flanges; none of them reads as ``words``."""
    return stands_in(Flanges(words=words, hint=hint))
