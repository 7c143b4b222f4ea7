"""The entities of a DXF that are drawn: inserts with all their copies, without what is off, frozen or hidden."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator
from dataclasses import dataclass, field
from typing import Any

import numpy as np

from ..errors import Refused
from ..wording import Note, counted

DEEPEST = 32
"""How deep inserts may be nested."""
MOST = 200_000
"""How many entities all copies of all inserts may come to."""
PLACES = ("start", "end", "center", "radius", "major_axis", "ratio", "start_param", "end_param", "start_angle")
SCALES = ("end_angle", "insert", "xscale", "yscale", "zscale", "rotation", "row_spacing", "column_spacing")


@dataclass
class Drawn:
    """Goes through the entities of a ``document``; ``hidden`` and ``missing`` count what was not drawn, and why."""

    document: Any
    name: str
    hidden: int = 0
    missing: Counter[str] = field(default_factory=Counter)
    broken: int = 0
    seen: int = 0
    counts: dict[str, int] = field(default_factory=dict)

    def __iter__(self) -> Iterator[Any]:
        for entity in self.document.modelspace():
            yield from self._parts(entity, entity.dxf.get("layer", "0"), 0)

    def _parts(self, entity: Any, layer: str, depth: int) -> Iterator[Any]:
        """The entity, or what an insert stands for; ``layer`` is that on which it counts."""
        self.seen += 1
        if self.seen > MOST:
            self._refuse()
        if depth > DEEPEST:
            raise Refused(f"{self.name} nests its blocks more than {DEEPEST} deep; explode them and export it again.")
        if entity.dxf.get("invisible", 0) or self._is_off(layer):
            self.hidden += 1
            return
        if not _finite(entity):
            self.broken += 1
            return
        if entity.dxftype() != "INSERT":
            yield entity
            return
        block = entity.dxf.get("name", "")
        if block not in self.document.blocks:
            self.missing[block] += 1
            return
        copies = _copies(entity)
        if copies * max(1, self._stands_for(block, set())) + self.seen > MOST:
            self._refuse()
        for one in entity.multi_insert() if copies > 1 else (entity,):
            for part in one.virtual_entities():
                own = part.dxf.get("layer", "0")
                yield from self._parts(part, layer if own == "0" else own, depth + 1)

    def _stands_for(self, block: str, within: set[str]) -> int:
        """How many entities a block comes to with all its inserts, counted before any is made."""
        if block in self.counts:
            return self.counts[block]
        if block in within or len(within) > DEEPEST or block not in self.document.blocks:
            return 0
        total = 0
        for entity in self.document.blocks.get(block):
            total += 1
            if entity.dxftype() == "INSERT":
                total += _copies(entity) * self._stands_for(entity.dxf.get("name", ""), within | {block})
        self.counts[block] = total
        return total

    def _refuse(self) -> None:
        raise Refused(f"{self.name} comes to more than {MOST:,} entities with all its inserts; export fewer of them.")

    def _is_off(self, layer: str) -> bool:
        if layer not in self.document.layers:
            return False
        found = self.document.layers.get(layer)
        return bool(found.is_off() or found.is_frozen())

    @property
    def messages(self) -> tuple[str, ...]:
        """What was left out, in sentences."""
        said: list[str] = []
        if self.hidden:
            said.append(
                Note(f"{counted(self.hidden, 'entity')} of {self.name} left out: off, frozen or invisible there.")
            )
        if self.broken:
            said.append(f"{counted(self.broken, 'entity')} of {self.name} left out: numbers that are not finite.")
        if self.missing:
            blocks = ", ".join(f"{count} of {block}" for block, count in sorted(self.missing.items())[:5])
            count = sum(self.missing.values())
            said.append(f"{counted(count, 'insert')} of {self.name} left out, of blocks that are missing: {blocks}.")
        return tuple(said)


def _copies(insert: Any) -> int:
    """How many times an insert stands in its rows and columns."""
    return max(1, insert.dxf.get("row_count", 1)) * max(1, insert.dxf.get("column_count", 1))


def _finite(entity: Any) -> bool:
    """Whether all that places an entity are numbers."""
    for key in (*PLACES, *SCALES):
        if entity.dxf.hasattr(key):
            value = entity.dxf.get(key)
            numbers = [value] if isinstance(value, int | float) else list(value)
            if not np.isfinite(np.array(numbers, float)).all():
                return False
    return True
