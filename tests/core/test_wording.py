"""Figures as they are written."""

from __future__ import annotations

import pytest

from zuschnitt.core.wording import area, counted, distance, length, percent, size


@pytest.mark.parametrize("written, expected", [
    (area(361_619.0), "0.3616 m²"), (area(40_604.2), "406.04 cm²"), (area(12.345), "12.35 mm²"),
    (length(2519.07), "2.52 m"), (length(312.44), "312.4 mm"), (size(400, 180.26), "400 × 180.3 mm"),
    (percent(2.756), "+2.76 %"), (percent(-2.356), "−2.36 %"), (percent(0.004), "±0.00 %"), (distance(0.00049), "0.000 mm"),
    (counted(1, "cone"), "1 cone"), (counted(3, "plane"), "3 planes"), (counted(1, "freeform"), "1 free form"),
    (counted(2, "torus"), "2 tori"), (counted(12_000, "triangle"), "12,000 triangles")])  # fmt: skip
def test_figures(written, expected):
    assert written == expected
