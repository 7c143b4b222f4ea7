"""Symbols of an SVG with a view box of their own: each use shows it in a viewport (SVG 1.1, sections 5.6, 7.8)."""

from __future__ import annotations

import re

from .svg_tree import Element, tag, target

NUMBERS = re.compile(r"[-+]?(?:\d+\.?\d*|\.\d+)(?:[eE][-+]?\d+)?")
SHARES = {"Min": 0.0, "Mid": 0.5, "Max": 1.0}
"""Which part of what is left over lies before the content."""


def fit_symbols(root: Element) -> None:
    """Writes the viewport of each use of such a symbol into the use's own transform.

    Lengths are pixels already. What hangs over a viewport is not cut off.
    """
    symbols = {each.get("id"): each for each in root.iter() if tag(each) == "symbol" and _box(each)}
    width, height = (_length(root.get(key), 100.0, 100.0) for key in ("width", "height"))
    whole = _box(root) or (0.0, 0.0, width, height)
    for use in root.iter() if symbols else ():
        symbol = symbols.get(target(use)) if tag(use) == "use" else None
        if symbol is None:
            continue
        place = [_length(use.get(key), whole[2 + i], 0.0) for i, key in enumerate(("x", "y"))]
        size = [_length(use.get(key), whole[2 + i], whole[2 + i]) for i, key in enumerate(("width", "height"))]
        box = _box(symbol)
        assert box is not None
        fitted = _fit(place, size, box, symbol.get("preserveAspectRatio") or "")
        for key in ("x", "y", "width", "height"):
            use.attrib.pop(key, None)
        use.set("transform", f"{use.get('transform', '')} {fitted}".strip())


def _fit(place: list[float], size: list[float], box: tuple[float, ...], how: str) -> str:
    """The transform that lays a view box (x, y, width, height) into a viewport."""
    scales = [size[i] / box[2 + i] for i in (0, 1)]
    shares = [0.0, 0.0]
    if "none" not in how:
        scale = max(scales) if "slice" in how else min(scales)
        scales = [scale, scale]
        align = re.search(r"x(M\w\w)Y(M\w\w)", how)
        shares = [SHARES.get(align[i + 1], 0.5) if align else 0.5 for i in (0, 1)]
    at = [place[i] + shares[i] * (size[i] - scales[i] * box[2 + i]) - scales[i] * box[i] for i in (0, 1)]
    return f"matrix({scales[0]!r} 0 0 {scales[1]!r} {at[0]!r} {at[1]!r})"


def _box(element: Element) -> tuple[float, float, float, float] | None:
    numbers = [float(number) for number in NUMBERS.findall(element.get("viewBox") or "")]
    if len(numbers) != 4 or numbers[2] <= 0 or numbers[3] <= 0:
        return None
    return numbers[0], numbers[1], numbers[2], numbers[3]


def _length(text: str | None, whole: float, default: float) -> float:
    """A length in pixels; a percentage is of ``whole``."""
    match = NUMBERS.match((text or "").strip())
    if match is None:
        return default
    return float(match[0]) * (whole / 100 if (text or "").strip().endswith("%") else 1.0)
