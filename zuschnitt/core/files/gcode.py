"""G-code for a plain laser: M3 and M5 switch the beam, G1 is a line, G2 and G3 are arcs; in mm, absolute."""

from __future__ import annotations

from collections.abc import Sequence

from ..plane.contour import Contour, arc_centre
from ..record import record

LEFT_OUT = ("REFERENCE", "BEND_UP", "BEND_DOWN")
MARKED = ("MARK", "TEXT")


@record
class Beam:
    """Feed in mm a minute and power (the machine's S) of cuts and of marks; ``pierce`` in seconds before each cut."""

    feed: float = 3000.0
    power: float = 1000.0
    mark_feed: float = 6000.0
    mark_power: float = 200.0
    pierce: float = 0.3


def gcode_bytes(contours: Sequence[Contour], title: str, beam: Beam | None = None) -> bytes:
    """A program that runs the contours in their order. A lead and what it leads into are one run of the beam."""
    beam = beam or Beam()
    lines = [f"({_plain(title)})", "G21 G90 G17", "M5"]
    at: tuple[float, float] | None = None
    layer = ""
    for contour in contours:
        if contour.layer in LEFT_OUT:
            continue
        marked = contour.layer in MARKED
        starts, ends, bulges = contour.spans
        begin = _rounded(starts[0])
        if contour.layer != layer:
            layer = contour.layer
            lines.append(f"(layer {layer})")
        if at != begin or marked:
            lines.append("M5")
            lines.append(f"G0 {_xy(begin)}")
            lines.append(f"M3 S{_number(beam.mark_power if marked else beam.power)}")
            if not marked and beam.pierce:
                lines.append(f"G4 P{_number(beam.pierce)}")
            lines.append(f"F{_number(beam.mark_feed if marked else beam.feed)}")
        for start, end, bulge in zip(starts, ends, bulges, strict=True):
            to = _rounded(end)
            if bulge == 0:
                lines.append(f"G1 {_xy(to)}")
            else:
                centre, *_ = arc_centre(start, end, bulge)
                i, j = _rounded(centre - start)
                lines.append(f"{'G3' if bulge > 0 else 'G2'} {_xy(to)} I{_number(i)} J{_number(j)}")
            at = to
    lines += ["M5", "G0 X0 Y0", "M2"]
    return ("\n".join(lines) + "\n").encode("ascii")


def _rounded(point) -> tuple[float, float]:
    return round(float(point[0]), 5) + 0.0, round(float(point[1]), 5) + 0.0


def _xy(point: tuple[float, float]) -> str:
    return f"X{_number(point[0])} Y{_number(point[1])}"


def _number(value: float) -> str:
    return f"{value:.5f}".rstrip("0").rstrip(".") or "0"


def _plain(text: str) -> str:
    """Words that may stand in a comment."""
    kept = "".join(
        letter if letter.isascii() and letter.isprintable() and letter not in "()" else " " for letter in text
    )
    return kept.strip() or "zuschnitt"
