"""Flanges, each in a few words: where, how long, how far bent."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from ..errors import Refused
from ..expressions import length_of, value_of
from .parameter import Parameter, stands_in
from .picks import picked_edges

FREE = "top"
WAYS = ("in", "out")


@dataclass(frozen=True)
class WrittenFlange:
    """``edges`` by their numbers, none for all free ones; ``length`` and ``radius`` in mm, ``angle`` in degrees."""

    edges: tuple[int, ...]
    length: float
    angle: float = 90.0
    radius: float | None = None
    inwards: bool = True


@dataclass(frozen=True)
class Flanges(Parameter):
    """EDGES:LENGTH[:ANGLE[:RADIUS[:in|out]]], with semicolons between several; or none."""

    kind = "flanges"
    reckoned = True
    how = "type edges:length:angle:radius:in or out, such as top:15 or 4, 7:20:90"
    as_list = True

    def resolved(self, value: Any, numbers: Mapping[str, float]) -> tuple[WrittenFlange, ...]:
        parts = value if isinstance(value, list) else str(value).split(";")
        return tuple(_flange(str(part), numbers) for part in parts if str(part).strip())


def _flange(text: str, numbers: Mapping[str, float]) -> WrittenFlange:
    where, *rest = (part.strip() for part in text.split(":"))
    if not 1 <= len(rest) <= 4:
        raise Refused(f"The flange '{text.strip()}' must be edges and a length, as 4:20 or top:15:90:2:in.")
    edges = () if where.lower() == FREE else picked_edges(where)
    if where.lower() != FREE and not edges:
        raise Refused(f"The flange '{text.strip()}' names no edges; write their numbers, or {FREE} for all free ones.")
    length, angle, radius, way = (*rest, *[""] * (4 - len(rest)))
    if way and way.lower() not in WAYS:
        raise Refused(f"The flange '{text.strip()}' is bent {way}; it must be in or out.")
    return WrittenFlange(
        edges,
        length_of(length, numbers),
        value_of(angle, numbers) if angle else 90.0,
        length_of(radius, numbers) if radius else None,
        way.lower() != "out",
    )


def flanges(words: str, hint: str) -> Any:
    """Flanges; none of them reads as ``words``."""
    return stands_in(Flanges(words=words, hint=hint))
