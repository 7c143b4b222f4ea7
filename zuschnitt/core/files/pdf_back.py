"""Pages read back before they leave: what a reader of PDF finds drawn in true size, against what should be."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterator, Sequence
from io import BytesIO

import numpy as np

from ..errors import CannotBeDone
from ..geometry.curves import Array
from ..plane.contour import LAYERS
from ..record import record
from ..shop.pages import MARGIN
from ..shop.printed import Page, Pages
from .pdf import MM

PLACES = 1e-3
"""Numbers of a page are rounded: points may lie so many mm beside their places."""
MOST = 100_000
"""Pages of more points than this are not read back: that would take longer than writing them."""
Colour = tuple[int, int, int]


@record
class Sheet:
    """A page as it was read: its ``paper`` in mm, and for each colour the points (n, 2) of its lines, in mm."""

    paper: Array
    lines: dict[Colour, list[Array]]


def sheets(content: bytes) -> list[Sheet]:
    """The pages of a PDF."""
    from pypdf import PdfReader

    return [_sheet(page) for page in PdfReader(BytesIO(content)).pages]


def _sheet(page) -> Sheet:
    scale = float(page.user_unit) / MM
    lines: dict[Colour, list[Array]] = defaultdict(list)
    matrix, colour = np.eye(3), {"stroke": (0, 0, 0), "fill": (0, 0, 0)}
    kept: list[tuple[Array, dict]] = []
    runs: list[list[tuple[float, float]]] = []
    for numbers, operator in _operations(page.get_contents().get_data()):
        if operator == b"q":
            kept.append((matrix, dict(colour)))
        elif operator == b"Q":
            matrix, colour = kept.pop()
        elif operator == b"cm":
            a, b, c, d, e, f = numbers
            matrix = np.array([[a, b, 0], [c, d, 0], [e, f, 1]]) @ matrix
        elif operator in (b"RG", b"rg"):
            colour["stroke" if operator == b"RG" else "fill"] = _colour(numbers)
        elif operator == b"m":
            runs.append([(numbers[0], numbers[1])])
        elif operator == b"l":
            runs[-1].append((numbers[0], numbers[1]))
        elif operator == b"h":
            runs[-1].append(runs[-1][0])
        elif operator in (b"S", b"f", b"f*", b"B", b"B*", b"n"):
            if operator != b"n":
                painted = colour["stroke" if operator == b"S" else "fill"]
                lines[painted].extend((np.array(run) @ matrix[:2, :2] + matrix[2, :2]) * scale for run in runs)
            runs = []
    box = page.mediabox
    return Sheet(np.array([float(box.width), float(box.height)]) * scale, dict(lines))


def _operations(content: bytes) -> Iterator[tuple[list[float], bytes]]:
    """The operators of a page with the numbers before each; these pages have no text in fonts."""
    numbers: list[float] = []
    for token in content.split():
        try:
            numbers.append(float(token))
        except ValueError:
            yield numbers, token
            numbers = []


def _colour(numbers: Sequence[float]) -> Colour:
    r, g, b = (round(255 * x) for x in numbers)
    return r, g, b


def require_same_pages(content: bytes, pages: Pages) -> None:
    """Raises CannotBeDone where a page has another size, or a line of the blank is not where it should be on it."""
    if sum(len(contour.points) for contour in pages.contours) * len(pages.pages) > MOST:
        return
    found = sheets(content)
    if len(found) < len(pages.pages):
        raise _broken(f"it has {len(found)} pages, not {len(pages.pages)}")
    for page, sheet in zip(pages.pages, found, strict=False):
        if np.abs(sheet.paper - np.array(pages.paper)).max() > 0.01:
            raise _broken(f"page {page.name} is {sheet.paper[0]:.2f} x {sheet.paper[1]:.2f} mm large")
        for colour, points in _wanted(pages, page).items():
            away = _apart(sheet.lines.get(colour, []), points)
            if away > PLACES:
                raise _broken(f"on page {page.name} a line lies {away:.3f} mm beside its place")


def require_drawn(content: bytes, paper: tuple[float, float], drawn: Sequence[Sequence[Array]]) -> None:
    """Raises CannotBeDone where there are not as many pages of ``paper`` as were ``drawn``, or a line is not there.

    ``drawn`` are the points (n, 2) of the lines of each page, in mm.
    """
    if sum(len(points) for page in drawn for points in page) > MOST:
        return
    found = sheets(content)
    if len(found) != len(drawn):
        raise _broken(f"it has {len(found)} pages, not {len(drawn)}")
    for number, (page, sheet) in enumerate(zip(drawn, found, strict=True), 1):
        if np.abs(sheet.paper - np.array(paper)).max() > 0.01:
            raise _broken(f"page {number} is {sheet.paper[0]:.2f} x {sheet.paper[1]:.2f} mm large")
        away = _apart([each for lines in sheet.lines.values() for each in lines], np.vstack(page)) if page else 0.0
        if away > PLACES:
            raise _broken(f"on page {number} a line lies {away:.3f} mm beside its place")


def _wanted(pages: Pages, page: Page) -> dict[Colour, Array]:
    """Where the ends of the blank's lines and arcs have to be on a page, in mm, by colour."""
    wanted: dict[Colour, list[Array]] = defaultdict(list)
    for contour in pages.contours:
        low, high = contour.bounds
        if len(contour.points) and not ((low > page.high).any() or (high < page.low).any()):
            code = LAYERS.get(contour.layer, LAYERS["MARK"])
            colour = (code >> 16, code >> 8 & 255, code & 255)
            wanted[colour].append((contour.points - page.low) * pages.scale + MARGIN)
    return {colour: np.vstack(points) for colour, points in wanted.items()}


def _apart(lines: Sequence[Array], points: Array) -> float:
    """The largest distance in mm from one of the points (n, 2) to the nearest one of the lines; of none it is inf."""
    from scipy.spatial import cKDTree

    return float(cKDTree(np.vstack(lines)).query(points)[0].max()) if lines else np.inf


def _broken(why: str) -> CannotBeDone:
    return CannotBeDone(
        f"The pages that were made do not show what was drawn, so they are not written: {why}. Write a cut file "
        "instead, and please report it."
    )
