"""Text as outlines of the typeface that ships with the program."""

from __future__ import annotations

from functools import lru_cache
from pathlib import Path
from threading import Lock

import numpy as np

from ..errors import Refused
from ..geometry.curves import Array
from ..tolerances import ARTWORK
from .contour import Contour

MOST_SPANS = 20_000
"""No curve is flattened to more spans than this."""
FONTS = Path(__file__).parents[2] / "fonts"
_reading = Lock()
"""A font reads its tables when they are first asked for, which only one thread may do at a time."""


@lru_cache(maxsize=2)
def _font(bold: bool):
    from fontTools.ttLib import TTFont

    return TTFont(FONTS / f"B612-{'Bold' if bold else 'Regular'}.otf")


def bezier(points: Array, tolerance: float) -> Array:
    """Points (n, 2) of a quadratic or cubic Bézier curve without its first, within ``tolerance``.

    The count follows from the bound of the second derivative: sag <= h² max|B''| / 8.
    """
    degree = len(points) - 1
    bend = degree * (degree - 1) * np.abs(np.linalg.norm(np.diff(points, 2, axis=0), axis=1)).max()
    count = few(np.sqrt(bend / 8 / tolerance))
    t = np.linspace(0, 1, count + 1)[1:, None]
    s = 1 - t
    if degree == 2:
        return s * s * points[0] + 2 * s * t * points[1] + t * t * points[2]
    return s**3 * points[0] + 3 * s * s * t * points[1] + 3 * s * t * t * points[2] + t**3 * points[3]


def few(count: float) -> int:
    """The next whole number from 1 on, of the spans a curve is flattened to.

    Raises Refused for far too many, or none that is finite.
    """
    if not count <= MOST_SPANS:
        raise Refused(
            f"A curve of the artwork is so large that it would need more than {MOST_SPANS:,} points; "
            "check its unit and scale, or mend it."
        )
    return max(1, int(np.ceil(count)))


def without_glyphs(text: str) -> list[str]:
    """The letters that the typeface has not."""
    with _reading:
        known = _font(False).getBestCmap()
    return [letter for letter in text if ord(letter) not in known]


def lettering(text: str, size: float, bold: bool = False, tolerance: float = ARTWORK) -> tuple[list[Contour], float]:
    """Closed contours of one line of ``text`` on the base line from the origin, and its width.

    ``size`` is the height of the em square in mm; y is up. Missing glyphs become the font's box.
    """
    with _reading:
        font = _font(bold)
        characters, scale = font.getBestCmap(), size / font["head"].unitsPerEm
        within = float(f"{tolerance / scale:.2g}")
        glyphs = [_glyph(characters.get(ord(letter), ".notdef"), bold, within) for letter in text]
    contours: list[Contour] = []
    x = 0.0
    for letter, (rings, width) in zip(text, glyphs, strict=True):
        for ring in rings:
            contours.append(Contour.polyline(ring * scale + [x, 0], closed=True, layer="MARK", name=letter))
        x += width * scale
    return contours, x


@lru_cache(maxsize=1024)
def _glyph(name: str, bold: bool, tolerance: float) -> tuple[tuple[Array, ...], float]:
    """The outlines of a glyph within ``tolerance``, and its width, in the font's own units."""
    from fontTools.pens.recordingPen import DecomposingRecordingPen

    glyphs = _font(bold).getGlyphSet()
    pen = DecomposingRecordingPen(glyphs)
    glyphs[name].draw(pen)
    return tuple(_rings(pen.value, tolerance)), glyphs[name].width


def _rings(strokes, tolerance: float) -> list[Array]:
    rings, ring = [], []
    for verb, arguments in strokes:
        points = [np.array(p, float) for p in arguments if p is not None]
        if verb == "moveTo":
            ring = [points[0]]
        elif verb == "lineTo":
            ring.append(points[0])
        elif verb in ("curveTo", "qCurveTo"):
            ring.extend(bezier(np.array([ring[-1], *points]), tolerance))
        elif verb in ("closePath", "endPath") and len(ring) > 2:
            if np.linalg.norm(ring[0] - ring[-1]) < 1e-9:
                ring.pop()
            rings.append(np.array(ring))
    return rings
