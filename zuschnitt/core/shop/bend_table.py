"""The bend table of a flat: bends that are alike in one row."""

from __future__ import annotations

from collections.abc import Iterable

from ..plane.contour import Contour

HEADS = ("bends", "angle", "radius", "takes", "length")


def bend_rows(folds: Iterable[Contour]) -> list[tuple[list[int], tuple[str, ...]]]:
    """The numbers of bends that are alike, and what is said of them under HEADS but the first.

    ``folds`` are contours, those with a bend named by its number, in pieces where the sheet is open on it.
    """
    bends: dict[str, list[Contour]] = {}
    for fold in folds:
        if fold.bend is not None:
            bends.setdefault(fold.name, []).append(fold)
    found: dict[tuple[str, ...], list[int]] = {}
    for name, lines in bends.items():
        bend = lines[0].bend
        assert bend is not None
        way = "up" if lines[0].layer == "BEND_UP" else "down"
        length = sum(line.length for line in lines)
        words = (f"{bend.angle:.4g}° {way}", f"{bend.radius:.4g}", f"{bend.allowance:.3f}", f"{length:.1f}")
        found.setdefault(words, []).append(number_of(name))
    return [(sorted(numbers), words) for words, numbers in found.items()]


def number_of(name: str) -> int:
    """The number of a bend by its contour's name."""
    last = name.rpartition(" ")[2]
    return int(last) if last.isdigit() else 0


def named(numbers: list[int]) -> str:
    """ "1, 3", "2-7"."""
    if len(numbers) > 2 and numbers[-1] - numbers[0] == len(numbers) - 1:
        return f"{numbers[0]}-{numbers[-1]}"
    return ", ".join(map(str, numbers))
