"""Materials, and whether one of them can follow a form."""

from __future__ import annotations

import json
import os
from collections.abc import Iterable, Mapping
from pathlib import Path
from typing import Any

import numpy as np

from .errors import Refused
from .geometry.curves import Array
from .record import record

BEND_RADIUS = 0.5
"""The least inside radius of a bend, as a part of the thickness, for want of a known material. A typical value."""


@record
class Material:
    """``stretch`` and ``compression`` are what it is permitted, in percent, both positive.

    ``thickness`` in mm; ``k_factor`` places the neutral layer in a bend (0 inside, 1 outside);
    ``grain`` tells that its direction matters; ``source`` says where the values come from. ``bend_radius`` is the least
    inside radius of a bend, as a part of the thickness.
    """

    name: str
    thickness: float
    k_factor: float
    stretch: float
    compression: float
    grain: bool
    source: str
    bend_radius: float = BEND_RADIUS


K_FACTOR = 0.44
"""Where the neutral layer lies, as a part of the thickness from the inside, for want of a known material."""

TYPICAL = "typical for forming by hand; test before you cut"

MATERIALS = {
    material.name: material
    for material in (
        Material("steel sheet", 1.0, 0.44, 1.5, 0.8, False, TYPICAL),
        Material("stainless sheet", 1.0, 0.45, 1.0, 0.6, False, TYPICAL, 1.0),
        Material("aluminium sheet", 1.5, 0.43, 2.0, 1.0, True, TYPICAL, 1.0),
        Material("brass sheet", 1.0, 0.43, 2.0, 1.2, False, TYPICAL),
        Material("card", 0.5, 0.33, 0.5, 0.2, True, TYPICAL),
        Material("paper", 0.12, 0.33, 0.4, 0.1, True, TYPICAL),
        Material("cast vinyl film", 0.05, 0.5, 15.0, 3.0, False, TYPICAL),
        Material("calendered vinyl film", 0.08, 0.5, 4.0, 1.0, False, TYPICAL),
        Material("leather", 2.0, 0.4, 8.0, 4.0, True, TYPICAL),
        Material("woven fabric", 0.5, 0.5, 3.0, 3.0, True, TYPICAL),
        Material("acrylic, cold", 3.0, 0.5, 0.3, 0.3, False, TYPICAL),
        Material("birch ply", 4.0, 0.5, 0.2, 0.2, True, TYPICAL),
    )
}
"""What ships with the program. All values are typical ones, to be tested."""


def own_table() -> Path:
    """Where further materials are kept: a JSON list of objects with the fields of ``Material``."""
    base = os.environ.get("XDG_CONFIG_HOME") or os.path.join(os.path.expanduser("~"), ".config")
    return Path(base) / "zuschnitt" / "materials.json"


def table() -> dict[str, Material]:
    """The materials that ship with the program, and those of one's own table, which may replace them.

    Raises Refused for a table that cannot be read.
    """
    path = own_table()
    if not path.exists():
        return dict(MATERIALS)
    try:
        own = [material_from(entry) for entry in json.loads(path.read_text("utf-8"))]
    except (OSError, ValueError, TypeError, KeyError, AttributeError) as error:
        raise Refused(
            f"{path} is no table of materials ({error}); each needs a name, stretch and compression in percent, and "
            "may have thickness, k_factor, grain, source and bend_radius."
        ) from error
    return {**MATERIALS, **{material.name: material for material in own}}


def material_from(entry: Mapping[str, Any]) -> Material:
    """The material that an object with its fields is. Raises ValueError, TypeError or KeyError where it is none."""
    made = Material(
        str(entry["name"]).strip().lower(),
        float(entry.get("thickness", 1.0)),
        float(entry.get("k_factor", K_FACTOR)),
        float(entry["stretch"]),
        float(entry["compression"]),
        bool(entry.get("grain", False)),
        str(entry.get("source", "your own table")),
        float(entry.get("bend_radius", BEND_RADIUS)),
    )
    numbers = np.array([made.thickness, made.k_factor, made.stretch, made.compression, made.bend_radius])
    if not np.isfinite(numbers).all() or (numbers < 0).any() or made.thickness == 0 or made.k_factor > 1:
        raise ValueError(f"{made.name} has a number that cannot be")
    return made


def known_names() -> list[str]:
    """The names to choose from; of the shipped ones alone where one's own table cannot be read."""
    try:
        return list(table())
    except Refused:
        return list(MATERIALS)


def material_named(name: str) -> Material | None:
    """The material of that name, whatever its capitals; None where the table has none."""
    return table().get(name.strip().lower())


def k_factor_of(material: Material | None) -> float:
    """Where the neutral layer lies in a bend of it; typical where none is known."""
    return material.k_factor if material else K_FACTOR


def is_own(material: Material) -> bool:
    """Whether it is not one that ships with the program, or not with these values."""
    return MATERIALS.get(material.name) != material


def required_material(name: str) -> Material:
    """Like ``material_named``; raises Refused, naming those there are."""
    found = material_named(name)
    if found is None:
        raise Refused(f"'{name}' is not in the table of materials; it has {_listed(table())}.")
    return found


def _listed(names: Iterable[str]) -> str:
    return "; ".join(names)


@record
class Verdict:
    """Whether ``material`` can take a blank: ``failing`` (t,) are the triangles where it cannot."""

    material: Material
    failing: np.ndarray
    share: float

    @property
    def can(self) -> bool:
        return not self.failing.any()

    @property
    def words(self) -> str:
        return "yes" if self.can else f"no, not on {max(100 * self.share, 0.1):.1f} % of it"


def verdict(material: Material, stretch: Array, areas: Array) -> Verdict:
    """Judges triangles by their principal stretches (t, 2) (0.02 is 2 %) and areas (t,)."""
    slack = 1e-9
    failing = (100 * stretch[:, 0] > material.stretch + slack) | (-100 * stretch[:, 1] > material.compression + slack)
    total = float(areas.sum())
    return Verdict(material, failing, float(areas[failing].sum()) / total if total > 0 else 0.0)
