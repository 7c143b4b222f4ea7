"""Figures as the trade writes them, and what is said."""

from __future__ import annotations

from collections.abc import Sequence

SINGULARS = {"freeform": "free form", "ruled": "ruled face"}
PLURALS = {
    "body": "bodies",
    "clash": "clashes",
    "entity": "entities",
    "plane": "planes",
    "freeform": "free forms",
    "torus": "tori",
    "ruled": "ruled faces",
}


class Note(str):
    """Something said that is no fault: what was assumed, or how something was placed."""


class Fault(str):
    """Something said that is wrong with what was given, also by a kind of result of which all else is a note."""


def counted(count: int, word: str) -> str:
    """ "1 cone", "3 planes"."""
    if count == 1:
        return f"1 {SINGULARS.get(word, word)}"
    return f"{count:,} {PLURALS.get(word, word + 's')}"


def listed(names: Sequence[str]) -> str:
    """ "a, b, c and 2 more"."""
    return ", ".join(names[:3]) + (f" and {len(names) - 3} more" if len(names) > 3 else "")


def area(square_mm: float) -> str:
    """Square metres from a tenth of one up, else square centimetres, or mm² when small."""
    if square_mm >= 1e5:
        return f"{square_mm / 1e6:.4f} m²"
    if square_mm >= 1e3:
        return f"{square_mm / 1e2:.2f} cm²"
    return f"{square_mm:.2f} mm²"


def volume(cubic_mm: float) -> str:
    return f"{cubic_mm / 1000:,.1f} cm³" if abs(cubic_mm) >= 1e5 else f"{cubic_mm:,.1f} mm³"


def length(mm: float) -> str:
    """Metres from one up, else mm."""
    return f"{mm / 1000:.2f} m" if mm >= 1000 else f"{mm:.1f} mm"


def size(*mm: float) -> str:
    return " × ".join(f"{value:.1f}".removesuffix(".0") for value in mm) + " mm"


def percent(value: float) -> str:
    """With a sign; ±0.00 where it rounds to nothing."""
    return "±0.00 %" if abs(value) < 0.005 else f"{value:+.2f} %".replace("-", "−")


def distance(mm: float) -> str:
    """Small distances such as a round trip: three decimals."""
    return f"{mm:.3f} mm"


def place(point) -> str:
    """Where to look, to a tenth of a mm: "10.0, 4.2"."""
    return ", ".join(f"{value:.1f}" for value in point)


def coordinates(*points) -> str:
    """Points (3,) as they are written in a field: "10, 0, 2.5; 10, 4, 2.5", to a thousandth of a mm."""
    return "; ".join(", ".join(f"{value + 0.0:.3f}".rstrip("0").rstrip(".") for value in point) for point in points)
