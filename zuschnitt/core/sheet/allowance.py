"""How much of the flat a bend takes: by a K-factor, by DIN 6935, or by a table of the shop's own."""

from __future__ import annotations

import csv
import io
from collections.abc import Mapping, Sequence
from typing import Protocol

import numpy as np

from ..errors import CannotBeDone, Refused
from ..materials import K_FACTOR
from ..record import record

COLUMNS = ("material", "thickness", "radius", "angle", "allowance")
SAME = 1e-6
"""Sizes of a table that differ by no more than this are one, in mm and degrees."""


class Rule(Protocol):
    """The length on the flat of a bend with an inside radius, in mm, through an angle, in radians."""

    def allowance(self, angle: float, radius: float, thickness: float) -> float: ...


@record
class ByK:
    """The layer at ``k`` of the thickness from the inner side keeps its length: a (r + K t)."""

    k: float = K_FACTOR

    def __post_init__(self) -> None:
        if not (np.isfinite(self.k) and 0 <= self.k <= 1):
            raise Refused("A K-factor says where in the sheet the length is kept, from 0 to 1; change it.")

    def allowance(self, angle: float, radius: float, thickness: float) -> float:
        return angle * (radius + self.k * thickness)


@record
class ByDin:
    """DIN 6935: the factor k = 0.65 + 0.5 lg (r / t), at most 1, of half the thickness; at least 0."""

    def allowance(self, angle: float, radius: float, thickness: float) -> float:
        if radius <= 0:
            raise CannotBeDone(
                "DIN 6935 knows no bend with an inside radius of 0; give a radius, or a K-factor instead."
            )
        factor = min(1.0, max(0.0, 0.65 + 0.5 * np.log10(radius / thickness)))
        return angle * (radius + factor * thickness / 2)


@record
class ByTable:
    """A table of the shop's own: ``rows`` (n, 4) of thickness, radius, angle in degrees and allowance.

    What lies between two radii or angles is interpolated; what lies outside is refused.
    """

    rows: np.ndarray

    def allowance(self, angle: float, radius: float, thickness: float) -> float:
        mine = self.rows[np.abs(self.rows[:, 0] - thickness) <= SAME * max(thickness, 1)]
        degrees = float(np.degrees(angle))
        if len(mine):
            at_radius = []
            for r in np.unique(mine[:, 1]):
                line = mine[mine[:, 1] == r]
                line = line[np.argsort(line[:, 2])]
                if line[0, 2] - SAME <= degrees <= line[-1, 2] + SAME:
                    at_radius.append((r, float(np.interp(degrees, line[:, 2], line[:, 3]))))
            if at_radius and at_radius[0][0] - SAME <= radius <= at_radius[-1][0] + SAME:
                radii, lengths = zip(*at_radius, strict=True)
                return float(np.interp(radius, radii, lengths))
        raise CannotBeDone(
            f"The bend table has nothing for {thickness:g} mm thick, radius {radius:g} mm, {degrees:.6g}°; "
            "add a row to it, or take a K-factor."
        )


def bend_table(content: bytes, name: str, material: str = "") -> ByTable:
    """A bend table from CSV with the columns of ``COLUMNS``; rows of other materials are left out.

    Raises Refused.
    """
    try:
        lines = list(csv.DictReader(io.StringIO(content.decode("utf-8-sig"))))
    except (UnicodeDecodeError, csv.Error):
        raise Refused(f"{name} is no CSV in UTF-8; save the bend table as such.") from None
    if not lines or not set(COLUMNS) <= {(key or "").strip() for key in lines[0]}:
        raise Refused(f"{name} is no bend table: it needs a line of heads ({', '.join(COLUMNS)}) and rows below it.")
    found = [_row(line, number, name) for number, line in enumerate(lines, 2)]
    names = {kind.lower() for kind, _ in found}
    wanted = material.strip().lower()
    if wanted and wanted not in names and len(names) > 1:
        raise Refused(f"{name} has no rows for {material}, but for {', '.join(sorted(names))}; name one of those.")
    if not wanted and len(names) > 1:
        raise Refused(f"{name} has rows for {', '.join(sorted(names))}; name the material.")
    chosen = [numbers for kind, numbers in found if not wanted or len(names) == 1 or kind.lower() == wanted]
    return ByTable(np.array(chosen))


def _row(line: Mapping[str | None, str | None], number: int, name: str) -> tuple[str, Sequence[float]]:
    cells = {(key or "").strip(): (value or "") for key, value in line.items() if key is not None}
    try:
        numbers = [float(cells[key]) for key in COLUMNS[1:]]
    except ValueError:
        raise Refused(f"Line {number} of {name} has a value that is no number; mend it.") from None
    if not np.isfinite(numbers).all() or numbers[0] <= 0 or min(numbers[1:]) < 0:
        raise Refused(f"Line {number} of {name} has a value that no bend can have; mend it.")
    return cells["material"].strip(), numbers
