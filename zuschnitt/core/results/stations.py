"""Curves at stations."""

from __future__ import annotations

from types import MappingProxyType
from typing import TYPE_CHECKING, Any, ClassVar

from ..record import record
from ..wording import counted
from .result import NOTHING
from .space_curves import CurvesResult

if TYPE_CHECKING:
    from ..form_curves.stations import Station


@record
class StationsResult(CurvesResult):
    """``value`` are the cuts as curves; ``told`` is what the report says of each station."""

    told: tuple[dict[str, Any], ...] = ()
    writes = NOTHING
    first: ClassVar[tuple[str, ...]] = ()
    whole: ClassVar[tuple[str, ...]] = ()

    def brief(self) -> str:
        return counted(len(self.value), "station")

    def report(self) -> dict[str, Any]:
        return {"stations": list(self.told)}


@record
class CutsResult(StationsResult):
    """Stations without bars: the cuts themselves are written."""

    writes = MappingProxyType({"step": "writes the cuts"})
    first = ("step",)


def told(station: Station) -> dict[str, Any]:
    """A station, as a report has it."""
    return {
        "number": station.number,
        "at": station.at,
        "spacing": station.spacing,
        "length": station.length,
        "curve": station.curve.tolist(),
    }
