"""The job: rows of the route card, values, assets. A job is a value; every edit makes a new one."""

from __future__ import annotations

import hashlib
import json
import re
import uuid
from bisect import bisect_left
from collections.abc import Mapping
from contextlib import suppress
from dataclasses import field, replace
from functools import cached_property
from pathlib import Path
from typing import Any

from ..errors import Refused
from ..expressions import named_values, values_in_note
from ..lazy import Lazy
from ..materials import Material, is_own, material_named
from ..operations.registry import entry, known_entry
from ..parameters.gathered import Gathered
from ..parameters.material import MaterialName
from ..parameters.origin import Origin
from ..parameters.parameter import Parameter
from ..parameters.source import Source
from ..record import record
from ..units import UNITS


@record
class Row:
    """One operation. ``parameters`` are as they are written: expressions, row ids, words.

    ``extra`` holds what a newer version may have put there; it survives a load and save. ``view`` is how its result
    is looked at (``appearance.py``); it changes nothing of it. ``chapter`` is the name of the one that begins with it.
    """

    id: str
    number: int
    operation: str
    parameters: Mapping[str, Any]
    note: str = ""
    enabled: bool = True
    title: str = ""
    extra: Mapping[str, Any] = field(default_factory=dict)
    view: Mapping[str, Any] = field(default_factory=dict)
    chapter: str = ""

    @property
    def name(self) -> str:
        """Its own title, or its operation's."""
        known = known_entry(self.operation)
        return self.title or (known.title if known else self.operation)

    def written(self, name: str, default: Any) -> Any:
        """A parameter as it is written, or the part of one: the name of a part has dots in it."""
        whole, _, path = name.partition(".")
        value = self.parameters.get(whole, default if not path else "")
        return entry(self.operation).parameter(whole).part(value, path, default) if path else value

    @property
    def gives(self) -> tuple[str, ...]:
        """The kinds of its results."""
        known = known_entry(self.operation)
        return known.gives if known else ()


@record
class Asset(Lazy):
    """A file that was brought in, untouched; ``path`` is where it lies, where that is known."""

    name: str
    content: bytes
    path: Path | None = field(default=None, compare=False)

    @cached_property
    def sha256(self) -> str:
        return hashlib.sha256(self.content).hexdigest()


@record
class Job(Lazy):
    """The whole job. ``values`` are (name, expression) pairs; ``assets`` go by their name.

    ``materials`` are those of somebody's own table that came with it, by their names.
    """

    name: str = "New job"
    rows: tuple[Row, ...] = ()
    values: tuple[tuple[str, str], ...] = ()
    material: str = "steel sheet"
    thickness: str = "1.0"
    unit: str = "mm"
    assets: Mapping[str, Asset] = field(default_factory=dict)
    materials: Mapping[str, Material] = field(default_factory=dict)
    extra: Mapping[str, Any] = field(default_factory=dict)

    def row(self, key: str | int) -> Row:
        """The row of that id or number. Raises Refused where there is none."""
        for row in self.rows:
            if key in (row.id, row.number) or str(row.number) == str(key):
                return row
        raise Refused(f"There is no row {key} on the route card; its rows are {self._numbers()}.")

    def row_of(self, row_id: str | None) -> Row | None:
        """The row of that id; None where there is none."""
        place = self._places.get(row_id or "")
        return None if place is None else self.rows[place]

    def _numbers(self) -> str:
        return ", ".join(str(row.number) for row in self.rows) or "none yet"

    @cached_property
    def _places(self) -> dict[str, int]:
        return {row.id: i for i, row in enumerate(self.rows)}

    @cached_property
    def _giving(self) -> dict[str, list[int]]:
        """The places of the rows that give each kind of result."""
        found: dict[str, list[int]] = {}
        for i, row in enumerate(self.rows):
            for kind in row.gives:
                found.setdefault(kind, []).append(i)
        return found

    @cached_property
    def _sources(self) -> dict[str, tuple[Row, ...]]:
        """What ``sources`` has found so far."""
        return {}

    @cached_property
    def _materials(self) -> dict[str, Material | None]:
        """What ``material_of`` has found so far."""
        return {}

    @cached_property
    def _takers(self) -> dict[tuple[str, str], list[int]]:
        """The places of the rows that take the result of a row, by its id and the name of their parameter."""
        found: dict[tuple[str, str], list[int]] = {}
        for i, row in enumerate(self.rows):
            known = known_entry(row.operation)
            for parameter in known.parameters if known else ():
                if isinstance(parameter, Source) and (taken := self.source(row, parameter)):
                    found.setdefault((taken.id, parameter.name), []).append(i)
        return found

    def _above(self, place: int, kinds: tuple[str, ...]) -> list[int]:
        """The places of the rows above ``place`` that give one of these kinds, in order."""
        if len(kinds) == 1:
            there = self._giving.get(kinds[0], [])
            return there[: bisect_left(there, place)]
        return sorted({i for kind in kinds for i in self._above(place, (kind,))})

    def place(self, row_id: str) -> int:
        return self._places[row_id]

    @cached_property
    def numbers(self) -> dict[str, float]:
        """All named values: those of the job, its thickness, and those written in notes."""
        noted = [pair for row in self.rows for pair in values_in_note(row.note)]
        own = {name for name, _ in self.values}
        thickness = [] if "thickness" in own else [("thickness", self.thickness)]
        return named_values([*thickness, *(p for p in noted if p[0] not in own), *self.values])

    def users(self, name: str) -> tuple[list[Row], list[str]]:
        """The rows and the other named values in which a named value stands."""
        word = re.compile(rf"\b{re.escape(name)}\b")
        rows = []
        for row in self.rows:
            known = known_entry(row.operation)
            written = [p.written(row) for p in known.parameters if p.reckoned] if known else []
            if any(word.search(json.dumps(value, ensure_ascii=False)) for value in written):
                rows.append(row)
        return rows, [other for other, text in self.values if other != name and word.search(text)]

    # --- what a row works on -------------------------------------------------------------------

    def parameter(self, row: Row, name: str) -> Parameter:
        """The parameter of that name of a row's operation, or the part of one."""
        whole, _, path = name.partition(".")
        found = entry(row.operation).parameter(whole)
        return found.parameter_of(found.written(row), path) if path else found

    def source(self, row: Row, parameter: Source) -> Row | None:
        """The row whose result ``parameter`` of ``row`` takes; None where nothing above fits."""
        asked = parameter.written(row)
        place = self.place(row.id)
        if not asked and parameter.optional:
            return None
        if asked:
            there = self._places.get(asked, place)
            return self.rows[there] if there < place else None
        found = self._above(place, parameter.accepts)
        return self.rows[found[-1]] if found else None

    def origin(self, row: Row, kinds: tuple[str, ...]) -> Row | None:
        """The row of one of these ``kinds`` that the result of ``row`` came from: the nearest of what it works on."""
        waiting, seen = list(self.sources(row)), {row.id}
        while waiting:
            here = waiting.pop(0)
            if set(here.gives) & set(kinds):
                return here
            if here.id not in seen:
                seen.add(here.id)
                waiting.extend(self.sources(here))
        return None

    def origin_of(self, row: Row, parameter: Origin) -> Row | None:
        """The row that an ``origin`` parameter of ``row`` stands for; None where its source is missing."""
        taken = self.source(row, self.source_named(row, parameter.of))
        if taken is None or set(taken.gives) & set(parameter.accepts):
            return taken  # a row that gives both has made them together
        return self.origin(taken, parameter.accepts)

    def source_named(self, row: Row, name: str) -> Source:
        """The source of that name of a row's operation."""
        found = self.parameter(row, name)
        assert isinstance(found, Source)
        return found

    def gathered(self, row: Row, parameter: Gathered) -> tuple[Row, ...]:
        """The rows that a ``sources`` parameter gathers."""
        if not parameter.wanted(self, row):
            return ()
        base = self.source(row, self.source_named(row, parameter.of))
        if base is None:
            return ()
        place = self.place(row.id)
        there = (self.rows[i] for i in self._takers.get((base.id, parameter.of), ()) if i < place)
        return tuple(above for above in there if above.enabled and set(parameter.accepts) & set(above.gives))

    def sources(self, row: Row) -> tuple[Row, ...]:
        """All rows that ``row`` takes results from."""
        if row.id in self._sources:
            return self._sources[row.id]
        known = known_entry(row.operation)
        found: list[Row] = []
        for parameter in known.parameters if known else ():
            found.extend(parameter.taken(self, row))
        return self._sources.setdefault(row.id, tuple(found))

    @cached_property
    def _taken_by(self) -> dict[str, list[Row]]:
        found: dict[str, list[Row]] = {}
        for row in self.rows:
            for row_id in dict.fromkeys(taken.id for taken in self.sources(row)):
                found.setdefault(row_id, []).append(row)
        return found

    def takers(self, row: Row) -> list[Row]:
        """The rows that take a result of ``row``, in order."""
        return self._taken_by.get(row.id, [])

    def below(self, row: Row) -> set[str]:
        """The rows that work on ``row``, directly or through others, by their ids."""
        waiting, found = list(self.takers(row)), set()
        while waiting:
            here = waiting.pop()
            if here.id not in found:
                found.add(here.id)
                waiting.extend(self.takers(here))
        return found

    def material_of(self, row: Row, parameter: MaterialName) -> Material | None:
        """The material that a row names, else the job's; what came with the job goes before the table."""
        return self._material(row.parameters.get(parameter.name) or self.material)

    def _material(self, name: str) -> Material | None:
        if name not in self._materials:
            self._materials[name] = self.materials.get(name.strip().lower()) or material_named(name)
        return self._materials[name]

    @property
    def own_materials(self) -> dict[str, Material]:
        """The materials it uses that do not ship with the program, by their names; without those of a broken table."""
        names = {self.material}
        for row in self.rows:
            known = known_entry(row.operation)
            names.update(p.written(row) for p in known.parameters if isinstance(p, MaterialName)) if known else None
        found = {}
        for name in sorted(filter(None, names)):
            with suppress(Refused):
                material = self._material(name)
                if material is not None and is_own(material):
                    found[material.name] = material
        return found

    # --- edits ---------------------------------------------------------------------------------

    def with_unit(self, unit: str) -> Job:
        """With its lengths shown and typed in another unit. Raises Refused."""
        if unit not in UNITS:
            raise Refused(f"Lengths cannot be shown in '{unit}'; choose one of {', '.join(UNITS)}.")
        return replace(self, unit=unit)

    def with_material(self, name: str) -> Job:
        """Out of another material; one that was chosen anew has the values that the table has now."""
        key = name.strip().lower()
        kept = {n: m for n, m in self.materials.items() if n != key or material_named(name) is None}
        return replace(self, material=name, materials=kept)

    def added(self, operation: str, after: str | None = None, **parameters: Any) -> Job:
        """With a new row after the row ``after``, or at the end. Later rows keep their numbers, and what they take."""
        known = entry(operation)
        place = len(self.rows) if after is None else self.place(after) + 1
        row = Row(uuid.uuid4().hex[:8], 0, operation, {**known.defaults(), **parameters})
        for name, value in parameters.items():
            known.parameter(name).check(self, None, known.title, value)
        later = tuple(self._taking_the_same(other, row, place) for other in self.rows[place:])
        return replace(self, rows=_numbered((*self.rows[:place], row, *later), place))

    def _taking_the_same(self, row: Row, new: Row, place: int) -> Row:
        """The row with what it takes from the nearest row above named, where ``new`` at ``place`` comes between."""
        known = known_entry(row.operation)
        names = {}
        for parameter in known.parameters if known else ():
            if not isinstance(parameter, Source) or parameter.written(row) or not parameter.fits(new):
                continue
            taken = self.source(row, parameter)
            if taken is not None and self.place(taken.id) < place:
                names[parameter.name] = taken.id
        return replace(row, parameters={**row.parameters, **names}) if names else row

    def removed(self, row_id: str) -> Job:
        """Without that row; the chapter that begins with it begins with the next one."""
        place = self.place(row_id)
        rows = _passed_on(self.rows, place)
        return replace(self, rows=rows[:place] + rows[place + 1 :])

    def moved(self, row_id: str, by: int) -> Job:
        """With the row moved up (``by`` < 0) or down, chapters staying where they are. A step over the beginning of a
        chapter takes the row into it or out of it. Raises Refused where its inputs do not allow it."""
        rows = list(self.rows)
        place = self.place(row_id)
        if by == -1 and place and rows[place].chapter:
            return replace(self, rows=_passed_on(self.rows, place))
        if by == 1 and place + 1 < len(rows) and (name := rows[place + 1].chapter):
            rows[place : place + 2] = replace(rows[place], chapter=name), replace(rows[place + 1], chapter="")
            return replace(self, rows=tuple(rows))
        target = max(0, min(len(rows) - 1, place + by))
        if target == place:
            return self
        row = rows[place]
        passed = rows[target:place] if target < place else rows[place + 1 : target + 1]
        for other in passed:
            upper, lower = (other, row) if target < place else (row, other)
            if any(taken.id == upper.id for taken in self.sources(lower)):
                raise Refused(
                    f"Row {lower.number} works on row {upper.number} and must stay below it; "
                    "change what it works on first."
                )
        rows.insert(target, rows.pop(place))
        stay = ((r.number, r.chapter) for r in self.rows)
        return replace(self, rows=tuple(replace(r, number=n, chapter=c) for r, (n, c) in zip(rows, stay, strict=True)))

    def changed(self, row_id: str, **changes: Any) -> Job:
        """With ``note``, ``enabled``, ``title``, ``view`` or ``chapter`` of a row changed."""
        return self._with(replace(self.row(row_id), **changes))

    def set(self, row_id: str, name: str, value: Any) -> Job:
        """With one parameter changed. Raises Refused, changing nothing, where the value is not good."""
        row = self.row(row_id)
        known = entry(row.operation)
        whole, _, path = name.partition(".")
        parameter = known.parameter(whole)
        if path:
            name, value = whole, parameter.with_part(parameter.written(row), path, value)
        parameter.check(self, row, known.title, value)
        return self._with(replace(row, parameters={**row.parameters, name: value}))

    def set_many(self, row_id: str, values: Mapping[str, Any]) -> Job:
        job = self
        for name, value in values.items():
            job = job.set(row_id, name, value)
        return job

    def with_value(self, name: str, text: str | None) -> Job:
        """With a named value set, or removed where ``text`` is None; checks all that use it."""
        kept = [(n, text if n == name else t) for n, t in self.values if n != name or text is not None]
        if text is not None and name not in {n for n, _ in kept}:
            kept.append((name, text))
        job = replace(self, values=tuple((n, t) for n, t in kept if t is not None))
        job.check_numbers()
        return job

    def with_asset(self, asset: Asset) -> Job:
        return replace(self, assets={**self.assets, asset.name: asset})

    def check_numbers(self) -> None:
        """Raises Refused where a named value, or a number that uses one, cannot be worked out."""
        _ = self.numbers
        for row in self.rows:
            known = known_entry(row.operation)
            for parameter in known.parameters if known else ():
                if parameter.reckoned:
                    try:
                        parameter.resolved(parameter.written(row), self.numbers)
                    except Refused as error:
                        raise Refused(f"Row {row.number}: {error.sentence}") from error

    def _with(self, changed: Row) -> Job:
        return replace(self, rows=tuple(changed if r.id == changed.id else r for r in self.rows))


def _passed_on(rows: tuple[Row, ...], place: int) -> tuple[Row, ...]:
    """The chapter that begins with the row at ``place`` begins with the next one, unless that begins another."""
    name, following = rows[place].chapter, place + 1
    changed = list(rows)
    changed[place] = replace(rows[place], chapter="")
    if name and following < len(rows) and not rows[following].chapter:
        changed[following] = replace(rows[following], chapter=name)
    return tuple(changed)


def _numbered(rows: tuple[Row, ...], place: int) -> tuple[Row, ...]:
    """Gives the new row at ``place`` a number; only where there is no room are all numbered anew."""
    before = rows[place - 1].number if place else 0
    after = rows[place + 1].number if place + 1 < len(rows) else None
    wanted = before + 10 if after is None else (before + after) // 2
    if after is not None and not before < wanted < after:
        return tuple(replace(row, number=10 * (i + 1)) for i, row in enumerate(rows))
    return (*rows[:place], replace(rows[place], number=wanted), *rows[place + 1 :])
