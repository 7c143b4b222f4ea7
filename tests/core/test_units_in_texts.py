"""Lengths that stand among other things, in jobs of other units: flanges, sizes of sheets, parts laid by hand."""

from __future__ import annotations

from dataclasses import replace

import pytest

from zuschnitt.core.errors import Refused
from zuschnitt.core.job.route import Job, Row
from zuschnitt.core.operations.registry import entries


def parameter(operation: str, name: str):
    return entries()[operation].parameter(name)


def row(operation: str, name: str, value) -> Row:
    return Row("a", 10, operation, {name: value})


INCHES, CENTIMETRES, PLAIN = (replace(Job(), unit=unit) for unit in ("in", "cm", "mm"))

CASES = [
    ("make_sheet", "flanges", "top:12.7", "top:1/2in"),
    ("make_sheet", "flanges", "4, 7:25.4 inside:45:3.175:out:6.35 > 19.05:90", "4, 7:1in inside:45:1/8in:out:1/4in > 3/4in:90"),
    ("make_sheet", "flanges", "top:depth/2", "top:depth/2"),
    ("nest_parts", "sheets", "2540 x 1270, 101.6 x 50.8", "100 x 50, 4 x 2"),
    ("arrange_parts", "by", "lid*2:1:127:63.5:90", "lid*2:1:5in:2 1/2in:90"),
]  # fmt: skip


def laid_name() -> str:
    return next(p.name for p in entries()["arrange_parts"].parameters if p.kind == "laid parts")


@pytest.mark.parametrize(("operation", "name", "written", "inches"), CASES)
def test_a_field_has_them_in_the_unit_and_the_row_keeps_what_they_are(operation, name, written, inches):
    name = laid_name() if operation == "arrange_parts" else name
    known, numbers = parameter(operation, name), {"depth": 40.0}
    assert known.typed(INCHES, row(operation, name, written)) == inches
    again = known.kept(INCHES, inches)
    assert flat(known.resolved(again, numbers)) == pytest.approx(flat(known.resolved(written, numbers)), abs=1e-9)
    for job in (PLAIN, CENTIMETRES, INCHES):
        there = known.kept(job, known.typed(job, row(operation, name, written)))
        assert flat(known.resolved(there, numbers)) == pytest.approx(flat(known.resolved(written, numbers)), abs=1e-3)
    assert known.typed(PLAIN, row(operation, name, written)).replace(" ", "") == written.replace(" ", "")


def flat(value) -> list[float]:
    """All numbers in what was resolved."""
    if isinstance(value, bool | str) or value is None:
        return []
    if isinstance(value, int | float):
        return [float(value)]
    parts = value if isinstance(value, tuple | list) else vars(value).values()
    return [number for part in parts for number in flat(part)]


def test_bare_numbers_typed_in_inches_are_inches():
    flanges = parameter("make_sheet", "flanges")
    (made,) = flanges.resolved(flanges.kept(INCHES, "top:1/2:45:1/8"), {})
    assert (made.length, made.angle, made.radius) == pytest.approx((12.7, 45.0, 3.175))
    sheets = parameter("nest_parts", "sheets")
    assert sheets.resolved(sheets.kept(INCHES, "48 x 24"), {}) == (pytest.approx((1219.2, 609.6)),)
    assert sheets.reads(INCHES, row("nest_parts", "sheets", "1219.2 x 609.6")) == "48 x 24 in"
    assert sheets.reads(PLAIN, row("nest_parts", "sheets", ["1000 x 500", "300 x 200"])) == "1000 x 500, 300 x 200"


def test_what_is_no_flange_is_refused_as_it_was_typed():
    flanges = parameter("make_sheet", "flanges")
    for text in ("top", "top:", "1:2:3:4:5:6:7", ""):
        with pytest.raises(Refused) if text else pytest.MonkeyPatch.context():
            flanges.resolved(flanges.kept(INCHES, text), {})
