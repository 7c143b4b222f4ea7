"""Lengths as a job shows them and as they are typed there: in mm, cm, m or inches. All that is kept is in mm."""

from __future__ import annotations

import re
from fractions import Fraction

from .errors import Refused
from .expressions import MM, length_of

UNITS = {"mm": "millimetres", "cm": "centimetres", "m": "metres", "in": "inches, with fractions"}
"""In which a job can show its lengths."""
FINEST = 64
"""The finest fraction of an inch is one of these."""
STEPS = {"mm": 1.0, "cm": 1.0, "m": 10.0, "in": 25.4 / 16}
"""How far one step of the mouse or of an arrow key goes, in mm."""
MORE = {"mm": 0, "cm": 1, "m": 3, "in": 2}
"""How many more decimals a length needs in each unit to say as much as in mm."""
WRITTEN = re.compile(
    r"(?<![\w.])(?P<numbers>[−±+-]?\d[\d,]*(?:\.\d+)?(?: × [−-]?\d[\d,]*(?:\.\d+)?)*) "
    r"(?P<unit>mm|cm|m)(?P<power>[²³]?)(?![\w/²³])"
)
"""Lengths, areas and volumes in a sentence, and sizes such as 40 × 30 mm."""
NUMBER = re.compile(r"\d[\d,]*(?:\.\d+)?")


def shown(mm: float, unit: str) -> str:
    """A length in ``unit``, without it: at most a micrometre off, in inches as a fraction where it is one."""
    value = mm / MM[unit]
    if unit == "in":
        parts = round(value * FINEST)
        if abs(value * FINEST - parts) < 1e-9 * max(1.0, abs(parts)) and parts % FINEST:
            whole, rest = divmod(abs(Fraction(parts, FINEST)), 1)
            return ("-" if parts < 0 else "") + (f"{whole} {rest}" if whole else str(rest))
    return f"{value:.{3 + MORE[unit]}f}".rstrip("0").rstrip(".") if abs(value) < 1e9 else f"{value:g}"


def typed(text: str, unit: str) -> str:
    """A length as it is written in a job, as it stands in a field that is in ``unit``."""
    plain = _mm(text)
    return text if unit == "mm" or plain is None else shown(plain, unit)


def with_its_unit(text: str, unit: str) -> str:
    """A length as ``typed``, with the unit behind it: for fields where not all numbers are lengths."""
    plain = _mm(text)
    return text if unit == "mm" or plain is None else f"{shown(plain, unit)}{unit}"


def kept(text: str, unit: str) -> str:
    """What was typed in a field that is in ``unit``, as a job writes it: a bare number gets the unit.

    Where named values stand in it, or another unit, it is left as it is: bare numbers beside them are mm.
    """
    text = text.strip()
    if unit == "mm" or not text or re.search(r"[^\W\d]", text.replace("e", "").replace("E", "")):
        return text
    simple = re.fullmatch(r"-?(\d+ )?\d+(/\d+)?|-?\d*\.?\d+", text)
    return f"{text}{unit}" if simple else f"({text}){unit}"


def _mm(text: str) -> float | None:
    """The length that is written, where nothing but a number with or without its unit is."""
    if not re.fullmatch(r"[\d\s./eE+-]+(mm|cm|m|in|ft)?", text.strip()):
        return None
    try:
        return length_of(text)
    except Refused:
        return None


def in_unit(text: str, unit: str) -> str:
    """A sentence with the lengths, areas and volumes in it given in ``unit``."""
    if unit == "mm":
        return text

    def said(found: re.Match) -> str:
        power = {"": 1, "²": 2, "³": 3}[found["power"]]
        factor = (MM[found["unit"]] / MM[unit]) ** power

        def one(number: re.Match) -> str:
            digits = len(number[0].partition(".")[2]) - power * (MORE[found["unit"]] - MORE[unit])
            return f"{float(number[0].replace(',', '')) * factor:,.{max(digits, 0)}f}"

        return f"{NUMBER.sub(one, found['numbers'])} {unit}{found['power']}"

    return WRITTEN.sub(said, text)
