"""The papers that blanks are printed on."""

from __future__ import annotations

PAPERS = {
    "a4": ("A4", 210.0, 297.0),
    "a3": ("A3", 297.0, 420.0),
    "a2": ("A2", 420.0, 594.0),
    "a1": ("A1", 594.0, 841.0),
    "a0": ("A0", 841.0, 1189.0),
    "letter": ("Letter", 215.9, 279.4),
    "roll": ("a roll of 594 mm", 594.0, 3000.0),
}
"""The name of each, its width and its height in mm; a roll is cut off where the blank ends, or at its height."""
