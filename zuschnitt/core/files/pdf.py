"""PDF: pages of a blank in true size, with marks to join them by and a rule to check the printer with."""

from __future__ import annotations

from collections.abc import Iterable
from io import BytesIO

import numpy as np

from ..geometry.curves import Array
from ..plane.contour import LAYERS, Contour
from ..plane.lettering import lettering
from ..shop.bend_table import HEADS, bend_rows, named
from ..shop.pages import MARGIN
from ..shop.printed import Page, Pages
from ..tolerances import ARTWORK

MM = 72 / 25.4
"""Points of a page to the mm."""
RULE = 100.0
"""Length of the rule that the printer is checked with, in mm."""
ROW = 5.5
MOST_NAMED = 6
"""No more pieces than this are named at the foot of a page."""
COLUMNS = (0.0, 40.0, 72.0, 96.0, 120.0)
"""Height of a row, and where the columns of a bend table begin, in mm."""
DASHES = {"BEND_UP": (4, 2), "BEND_DOWN": (5, 1.5, 1, 1.5), "REFERENCE": (1, 1.5), "RELIEF": (2, 1)}
"""Dashes and gaps in mm of lines that are not cut."""


def pdf_bytes(pages: Pages, title: str) -> bytes:
    """The pages as PDF, one after the other, from the upper left."""
    from reportlab.pdfgen.canvas import Canvas

    out = BytesIO()
    canvas = Canvas(out, pagesize=tuple(MM * side for side in pages.paper), invariant=1)
    canvas.setTitle(title)
    canvas.setCreator("Zuschnitt")
    boxes = [contour.bounds for contour in pages.contours]
    for number, page in enumerate(pages.pages):
        canvas.scale(MM, MM)
        _field(canvas, pages, page, boxes)
        _joins(canvas, pages, page)
        _foot(canvas, pages, page, number, title)
        canvas.showPage()
    _bend_table(canvas, pages, title)
    canvas.save()
    return out.getvalue()


def _field(canvas, pages: Pages, page: Page, boxes: list[tuple[Array, Array]]) -> None:
    """What of the blank lies on the page, cut off at its field."""
    width, height = pages.paper
    canvas.saveState()
    clip = canvas.beginPath()
    clip.rect(MARGIN, MARGIN, width - 2 * MARGIN, height - 2 * MARGIN)
    canvas.clipPath(clip, stroke=0, fill=0)

    def placed(points: Array) -> Array:
        return (points - page.low) * pages.scale + MARGIN

    if pages.corners is not None and pages.shades is not None:
        _map(canvas, placed(pages.corners), pages.shades, pages.paper)
    canvas.setLineCap(1)
    canvas.setLineJoin(1)
    letters = []
    for contour, (low, high) in zip(pages.contours, boxes, strict=True):
        if (low > page.high).any() or (high < page.low).any():
            continue
        points = placed(contour.flattened(ARTWORK / pages.scale))
        if contour.layer == "TEXT" and contour.closed:
            letters.append(points)
            continue
        canvas.setStrokeColorRGB(*colour_of(contour))
        canvas.setLineWidth(0.35 if contour.layer == "CUT" else 0.2)
        canvas.setDash(list(DASHES.get(contour.layer, ())))
        canvas.drawPath(path_of(canvas, [points], contour.closed), stroke=1, fill=0)
    if letters:  # together, so that what lies within a letter stays open
        canvas.setFillColorRGB(*_rgb(LAYERS["TEXT"]))
        canvas.drawPath(path_of(canvas, letters, True), stroke=0, fill=1, fillMode=0)
    canvas.setDash([])
    if pages.strokes is not None:
        canvas.setStrokeColorRGB(*_rgb(LAYERS["CUT"]))
        canvas.setLineWidth(0.25)
        canvas.drawPath(path_of(canvas, placed(pages.strokes), False), stroke=1, fill=0)
    canvas.restoreState()


def _map(canvas, corners: Array, shades: np.ndarray, paper: tuple[float, float]) -> None:
    """Triangles (t, 3, 2) on the page, those of one shade as one path."""
    seen = (corners.max(axis=1) > MARGIN).all(axis=1) & (corners.min(axis=1) < np.array(paper) - MARGIN).all(axis=1)
    kept, index = np.unique(shades[seen], axis=0, return_inverse=True)
    corners = corners[seen]
    canvas.setLineWidth(0.1)
    for k, shade in enumerate(kept):
        canvas.setFillColorRGB(*(shade / 255))
        canvas.setStrokeColorRGB(*(shade / 255))
        canvas.drawPath(path_of(canvas, corners[index.ravel() == k], True), stroke=1, fill=1)


def _joins(canvas, pages: Pages, page: Page) -> None:
    """The edge of the field, crosses where neighbours overlap, and which page comes there."""
    width, height = pages.paper
    there = {(p.row, p.column): p.name for p in pages.pages}
    canvas.setStrokeColorRGB(*_rgb(LAYERS["REFERENCE"]))
    canvas.setLineWidth(0.15)
    left, bottom, right, top = MARGIN, MARGIN, width - MARGIN, height - MARGIN
    lap = pages.overlap
    sides = {
        (0, -1): ((left, bottom, left, top), left + lap, None, (left - 3.2, height / 2, 90)),
        (0, 1): ((right, bottom, right, top), right - lap, None, (right + 5.2, height / 2, 90)),
        (1, 0): ((left, bottom, right, bottom), None, bottom + lap, (left + 2, bottom - 4.4, 0)),
        (-1, 0): ((left, top, right, top), None, top - lap, (width / 2 - 4, top + 2.2, 0)),
    }
    for (down, across), (edge, x, y, at) in sides.items():
        name = there.get((page.row + down, page.column + across))
        if name is None:
            continue
        canvas.setDash([1, 1])
        canvas.line(*edge)
        canvas.setDash([])
        # crosses in the middle of the strip that both pages have
        for part in (0.15, 0.5, 0.85):
            cx = (x - lap / 2 if across < 0 else x + lap / 2) if x is not None else left + part * (right - left)
            cy = (y - lap / 2 if down > 0 else y + lap / 2) if y is not None else bottom + part * (top - bottom)
            canvas.line(cx - 2.5, cy, cx + 2.5, cy)
            canvas.line(cx, cy - 2.5, cx, cy + 2.5)
        write_text(canvas, f"to {name}", 2.6, *at)


def _foot(canvas, pages: Pages, page: Page, number: int, title: str) -> None:
    """The name of the page, the scale and the rule, in the lower margin."""
    scale = "1 : 1" if pages.scale == 1 else f"{pages.scale:g} : 1" if pages.scale > 1 else f"1 : {1 / pages.scale:g}"
    about = f"{page.name}   page {number + 1} of {len(pages.pages)}   {scale}{_pieces_on(page)}   {title}"
    if pages.limit:
        about += f"   map to ±{pages.limit:g} %"
    write_text(canvas, about, 2.8, MARGIN, 3.4, 0)
    right = pages.paper[0] - MARGIN
    canvas.setStrokeColorRGB(*_rgb(LAYERS["CUT"]))
    canvas.setLineWidth(0.2)
    if right - MARGIN < 2 * RULE - 15:  # no room beside the words: above them
        right = MARGIN + RULE
        base = 7.4
    else:
        base = 3.8
    canvas.line(right - RULE, base, right, base)
    for k in range(11):
        x = right - RULE + 10 * k
        canvas.line(x, base, x, base + (2.2 if k in (0, 5, 10) else 1.2))
    words = "100 mm: measure it before you cut"
    if base > 5:
        write_text(canvas, words, 2.4, right + 2.5, base, 0)
    else:
        write_text(canvas, words, 2.4, right - RULE, base + 3.2, 0)


def _pieces_on(page: Page) -> str:
    """Which pieces lie on a page, where they have names."""
    if not page.pieces:
        return ""
    named = ", ".join(page.pieces[:MOST_NAMED]) + (" ..." if len(page.pieces) > MOST_NAMED else "")
    return f"   {'piece' if len(page.pieces) == 1 else 'pieces'} {named}"


def _bend_table(canvas, pages: Pages, title: str) -> None:
    """The bends on pages of their own, where there are any."""
    rows = [HEADS, *((named(numbers), *words) for numbers, words in bend_rows(pages.contours))]
    if len(rows) == 1:
        return
    top = pages.paper[1] - MARGIN - 12
    each = max(1, int((top - MARGIN) // ROW) - 1)
    for begin in range(1, len(rows), each):
        canvas.scale(MM, MM)
        write_text(canvas, f"bend table   {title}", 3.6, MARGIN, top + 6, 0)
        for k, row in enumerate([rows[0], *rows[begin : begin + each]]):
            for n, words in enumerate(row):
                write_text(canvas, words, 2.8, MARGIN + COLUMNS[n], top - k * ROW, 0)
        canvas.setStrokeColorRGB(*_rgb(LAYERS["REFERENCE"]))
        canvas.setLineWidth(0.15)
        canvas.line(MARGIN, top - 1.6, MARGIN + COLUMNS[-1] + 20, top - 1.6)
        canvas.showPage()


def write_text(canvas, words: str, size: float, x: float, y: float, turned: float) -> None:
    """One line as outlines of the shipped typeface, so that no reader needs a font."""
    letters, _ = lettering(words, size, tolerance=0.005)
    canvas.saveState()
    canvas.translate(x, y)
    canvas.rotate(turned)
    canvas.setFillColorRGB(*_rgb(LAYERS["CUT"]))
    canvas.drawPath(path_of(canvas, [c.flattened(ARTWORK) for c in letters], True), stroke=0, fill=1, fillMode=0)
    canvas.restoreState()


def path_of(canvas, lines: Iterable[Array], closed: bool):
    """Lines (n, 2) as a path of a page."""
    path = canvas.beginPath()
    for points in lines:
        path.moveTo(*points[0])
        for x, y in points[1:].tolist():
            path.lineTo(x, y)
        if closed:
            path.close()
    return path


def colour_of(contour: Contour) -> tuple[float, float, float]:
    """That of its layer."""
    return _rgb(LAYERS.get(contour.layer, LAYERS["MARK"]))


def _rgb(colour: int) -> tuple[float, float, float]:
    return (colour >> 16) / 255, (colour >> 8 & 255) / 255, (colour & 255) / 255
