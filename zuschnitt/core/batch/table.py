"""The table of a batch: CSV whose heads are named values of the job."""

from __future__ import annotations

import csv
import io
import re
from collections.abc import Collection, Mapping

from ..errors import Refused
from ..job.route import Job
from ..record import record

NAME = "name"
MOST_ROWS = 100_000
LONGEST = 100
UNSAFE = re.compile(r"[/\\\x00-\x1f\x7f]|^\.|^\s*$")


@record
class TableRow:
    """One row: its ``name``, which names its files, and the ``values`` that it sets; ``wrong`` says what is wrong."""

    name: str
    values: tuple[tuple[str, str], ...]
    wrong: str = ""


def read_table(content: bytes, file: str, job: Job) -> tuple[TableRow, ...]:
    """The rows of a table. Raises Refused for what is no table for this job; a row that is wrong says so itself."""
    try:
        lines = csv.reader(io.StringIO(content.decode("utf-8-sig")), strict=True)
        rows = [line for line in lines if any(cell.strip() for cell in line)]
    except UnicodeDecodeError:
        raise Refused(f"{file} is not UTF-8; save the table as CSV in UTF-8.") from None
    except csv.Error as error:
        raise Refused(f"{file} is no CSV ({error}); save the table as CSV with commas.") from None
    if not rows:
        raise Refused(f"{file} is empty; write a line of heads and rows below it.")
    heads = [cell.strip() for cell in rows[0]]
    _require_heads(heads, file, job)
    if len(rows) == 1:
        raise Refused(f"{file} has heads but no rows; write a row for each piece.")
    if len(rows) - 1 > MOST_ROWS:
        raise Refused(f"{file} has {len(rows) - 1:,} rows; split it into tables of at most {MOST_ROWS:,}.")
    seen: dict[str, int] = {}
    return tuple(_row(heads, cells, number, seen) for number, cells in enumerate(rows[1:], 1))


def _require_heads(heads: list[str], file: str, job: Job) -> None:
    known = values_of(job)
    doubled = next((head for head in heads if heads.count(head) > 1), None)
    if doubled is not None:
        raise Refused(f"{file} has the head {doubled!r} twice; name each column once.")
    unknown = [head for head in heads if head != NAME and head not in known]
    if unknown:
        there = ", ".join(sorted(known)) or "none"
        raise Refused(f"{file} has the head {unknown[0]!r}, but the job has no value of that name; it has {there}.")
    if heads == [NAME]:
        raise Refused(f"{file} sets no value; give it a column for a named value of the job.")


def values_of(job: Job) -> Collection[str]:
    """The names of the values that a table can set."""
    return {name for name, _ in job.values} | (set(job.numbers) - {"thickness"})


def _row(heads: list[str], cells: list[str], number: int, seen: dict[str, int]) -> TableRow:
    if len(cells) > len(heads):
        return TableRow(f"row-{number}", (), f"Row {number} has more cells than there are heads; mend it.")
    found: Mapping[str, str] = dict(zip(heads, (cell.strip() for cell in cells), strict=False))
    name = found.get(NAME) or f"row-{number}"
    values = tuple((head, found.get(head, "")) for head in heads if head != NAME)
    wrong = ""
    empty = [head for head, text in values if not text]
    if UNSAFE.search(name) or len(name) > LONGEST:
        wrong = f"The name {name[:40]!r} of row {number} cannot name a file; take letters, digits, - and _."
        name = f"row-{number}"
    elif empty:
        wrong = f"Row {number} has no value for {empty[0]}; fill it in."
    if name in seen:
        wrong = f"Rows {seen[name]} and {number} are both called {name}; give each a name of its own."
        name = f"{name} ({number})"
    seen.setdefault(name, number)
    return TableRow(name, values, wrong)
