"""Printed pages, measured: the real PDF rendered, and the real route row that makes it."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from PyQt6.QtCore import QSize
from PyQt6.QtGui import QImage, QPainter
from PyQt6.QtPdf import QPdfDocument

from zuschnitt.core.develop.developing import develop
from zuschnitt.core.files.pdf import pdf_bytes
from zuschnitt.core.files.pdf_back import require_same_pages
from zuschnitt.core.form.build import turned_body
from zuschnitt.core.plane.contour import Contour
from zuschnitt.core.plane.lettering import lettering
from zuschnitt.core.shop.cut_drawing import drawing
from zuschnitt.core.shop.pages import MARGIN, paged

PER_MM = 10
EDGE = int(MARGIN * PER_MM)


def rendered(path, page: int = 0) -> np.ndarray:
    """How dark a page is (h, w), 0 to 255, at ten pixels to the mm, its lowest row first."""
    document = QPdfDocument(None)
    document.load(str(path))
    points = document.pagePointSize(page)
    size = QSize(*(round(side / 72 * 25.4 * PER_MM) for side in (points.width(), points.height())))
    image = QImage(size, QImage.Format.Format_Grayscale8)
    image.fill(255)
    painter = QPainter(image)
    painter.drawImage(0, 0, document.render(page, size))
    painter.end()
    bits = image.constBits()
    bits.setsize(image.sizeInBytes())
    rows = np.frombuffer(bits, np.uint8).reshape(size.height(), image.bytesPerLine())[:, : size.width()]
    return 255 - rows[::-1].astype(int)


def test_a_printed_blank_is_as_large_as_it_is(qapp, tmp_path):
    blank = develop(turned_body([(20, 0), (45, 70)]), [1])
    path = tmp_path / "cone.pdf"
    made = paged(blank, drawing(blank, ()))
    assert len(made.pages) == 1
    path.write_bytes(pdf_bytes(made, "cone"))
    dark = rendered(path) > 60
    field = dark[EDGE:-EDGE]
    x0, y0, x1, y1 = blank.bounds
    across, up = np.nonzero(field.any(axis=0))[0], np.nonzero(field.any(axis=1))[0]
    assert (np.ptp(across) - 3.5) / PER_MM == pytest.approx(x1 - x0, abs=0.25)
    assert (np.ptp(up) - 3.5) / PER_MM == pytest.approx(y1 - y0, abs=0.25)
    # and the rule in the foot is 100 mm: the longest run of ink in the lower margin
    longest = 0
    for row in dark[:EDGE]:
        edges = np.flatnonzero(np.diff(np.r_[0, row.astype(int), 0]))
        longest = max(longest, int((edges[1::2] - edges[::2]).max(initial=0)))
    assert longest / PER_MM == pytest.approx(100, abs=0.4)


def test_what_lies_within_a_printed_letter_stays_open(qapp, tmp_path):
    """Edge numbers such as 6 and 8 were blots."""
    plate = Contour.polyline([[0, 0], [120, 0], [120, 80], [0, 80]], True)
    letters = [replace(c.moved(at=(20, 20)), layer="TEXT") for c in lettering("80", 60.0)[0]]
    blank = develop(turned_body([(20, 0), (45, 70)]), [1])
    path = tmp_path / "letters.pdf"
    made = paged(blank, [plate, *letters])
    content = pdf_bytes(made, "letters")
    require_same_pages(content, made)
    path.write_bytes(content)
    ink = (rendered(path)[EDGE:-EDGE, EDGE:-EDGE] > 60).sum() / PER_MM**2
    area = sum(c.area for c in letters)  # those within run the other way round
    assert ink == pytest.approx(abs(area), rel=0.15) and ink < 0.8 * sum(abs(c.area) for c in letters)
