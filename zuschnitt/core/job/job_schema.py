"""What job.json must be like, checked field by field before anything is made of it."""

from __future__ import annotations

import json
import math
from collections.abc import Mapping
from typing import Any

from ..errors import Refused
from ..materials import material_from
from ..operations.registry import known_entry
from ..units import UNITS

MOST_ROWS = 10_000
LARGEST_NUMBER = 10_000_000


def parsed(content: bytes, name: str) -> dict[str, Any]:
    """The object in job.json. Raises Refused where it is none, or holds what is not a finite number."""

    def unusable(text: str) -> float:
        raise ValueError(f"{text} is not a finite number")

    def finite(text: str) -> float:
        value = float(text)
        return value if math.isfinite(value) else unusable(text)

    try:
        found = json.loads(content, parse_constant=unusable, parse_float=finite)
    except (ValueError, RecursionError) as error:
        reason = " ".join(str(error).split())[:120]
        raise Refused(f"The job.json in {name} cannot be read ({reason}); take a copy or an autosave.") from error
    if not isinstance(found, dict):
        raise Refused(f"The job.json in {name} is not an object; take a copy or an autosave.")
    return found


def require_schema(content: Mapping[str, Any], name: str) -> None:
    """Raises Refused, naming the field, where a job is not as it should be."""
    check = _Checks(name)
    check.whole(content.get("schema"), "schema")
    for key in ("name", "material", "unit"):
        check.text(content.get(key, ""), key)
    if content.get("unit", "mm") not in ("", *UNITS):
        check.refuse("unit", f"is none of {', '.join(UNITS)}")
    check.text(content.get("thickness", ""), "thickness", numbers=True)
    values = check.list(content.get("values", []), "values")
    for i, value in enumerate(values):
        where = f"values[{i}]"
        check.object(value, where)
        check.text(value.get("name"), f"{where}.name")
        check.text(value.get("text"), f"{where}.text", numbers=True)
    assets = check.object(content.get("assets", {}), "assets")
    for asset, digest in assets.items():
        if not asset or "/" in asset or "\\" in asset or "\0" in asset or asset in (".", ".."):
            check.refuse("assets", f"has the file name '{asset[:60]}', which no file can have")
        check.text(digest, f"assets.{asset}")
    for i, material in enumerate(check.list(content.get("materials", []), "materials")):
        try:
            material_from(check.object(material, f"materials[{i}]"))
        except (ValueError, TypeError, KeyError) as error:
            check.refuse(f"materials[{i}]", f"is no material ({str(error)[:80]})")
    rows = check.list(content.get("rows", []), "rows")
    if len(rows) > MOST_ROWS:
        check.refuse("rows", f"has more than {MOST_ROWS:,} of them")
    ids: set[str] = set()
    for i, row in enumerate(rows):
        _require_row(check, row, f"rows[{i}]")
        if row["id"] in ids:
            check.refuse(f"rows[{i}].id", f"is '{row['id'][:60]}', as that of another row")
        ids.add(row["id"])


def _require_row(check: _Checks, row: Any, where: str) -> None:
    check.object(row, where)
    for key in ("id", "operation"):
        if not check.text(row.get(key), f"{where}.{key}"):
            check.refuse(f"{where}.{key}", "is empty")
    number = check.whole(row.get("number"), f"{where}.number")
    if not 0 <= number <= LARGEST_NUMBER:
        check.refuse(f"{where}.number", f"is {number}, which is no number of a row")
    for key in ("note", "title", "chapter"):
        check.text(row.get(key, ""), f"{where}.{key}")
    if not isinstance(row.get("enabled", True), bool):
        check.refuse(f"{where}.enabled", "is neither true nor false")
    check.object(row.get("view", {}), f"{where}.view")
    parameters = check.object(row.get("parameters", {}), f"{where}.parameters")
    known = known_entry(row["operation"])
    for parameter in known.parameters if known else ():
        if parameter.name in parameters:
            parameter.require(check, parameters[parameter.name], f"{where}.parameters.{parameter.name}")


class _Checks:
    """Refuses with the name of the file and of the field."""

    def __init__(self, name: str) -> None:
        self.name = name

    def refuse(self, where: str, why: str) -> None:
        raise Refused(f"The job.json in {self.name} is not as it should be: {where} {why}; mend it or take a copy.")

    def text(self, value: Any, where: str, numbers: bool = False) -> str:
        plain = isinstance(value, str) or (numbers and isinstance(value, int | float) and not isinstance(value, bool))
        if not plain:
            self.refuse(where, "is missing" if value is None else "is no text")
        if isinstance(value, str) and any("\ud800" <= letter <= "\udfff" for letter in value):
            self.refuse(where, "has half a letter in it")
        return str(value)

    def whole(self, value: Any, where: str) -> int:
        if isinstance(value, bool) or not isinstance(value, int):
            self.refuse(where, "is missing" if value is None else "is no whole number")
        return int(value)

    def object(self, value: Any, where: str) -> dict[str, Any]:
        if not isinstance(value, dict):
            self.refuse(where, "is no object")
        return dict(value)

    def list(self, value: Any, where: str) -> list[Any]:
        if not isinstance(value, list):
            self.refuse(where, "is no list")
        return list(value)
