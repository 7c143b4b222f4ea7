"""A piece of a blank: what is cut out by itself."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from functools import cached_property

import shapely

from ..correspondence import Rigid
from ..geometry.curves import Array
from ..lazy import Lazy
from ..plane.contour import Contour
from ..plane.region import Region
from ..record import record
from .word import Word

FLAT = 0.1
"""Outlines are flattened to this, in mm, to ask what lies in them."""


@record
class OutlineSide:
    """A part of the outline as a polyline ``points`` (n, 2); both sides of a join have the same ``label``."""

    face: int
    label: str
    points: Array


@record
class Piece(Lazy):
    """``outline`` are closed contours on layer CUT: round it, and round its holes.

    ``folds`` are lines where faces join. ``faces`` are the numbers of those that lie on it; one that was cut apart lies
    on several pieces. ``sides`` are those that are joined to others, ``words`` are written on it, ``ticks`` mark
    where it meets others. Where a blank has several pieces, they have a ``name``.
    """

    outline: tuple[Contour, ...]
    folds: tuple[Contour, ...] = ()
    faces: tuple[int, ...] = ()
    sides: tuple[OutlineSide, ...] = ()
    words: tuple[Word, ...] = ()
    ticks: tuple[Contour, ...] = ()
    name: str = ""

    @cached_property
    def shape(self) -> shapely.Geometry:
        """What lies within its outline."""
        return Region(tuple(contour.flattened(FLAT)[:-1] for contour in self.outline)).shape

    @property
    def marks(self) -> tuple[Contour, ...]:
        """Its words and ticks as contours, on layers TEXT and MARK."""
        return (*(contour for word in self.words for contour in word.contours), *self.ticks)

    def moved(self, motion: Rigid) -> Piece:
        """Laid elsewhere in its plane."""
        return replace(
            self,
            outline=moved_contours(self.outline, motion),
            folds=moved_contours(self.folds, motion),
            sides=tuple(replace(side, points=motion.apply(side.points)) for side in self.sides),
            words=tuple(word.moved(motion) for word in self.words),
            ticks=moved_contours(self.ticks, motion),
        )


def moved_contours(contours: tuple[Contour, ...], motion: Rigid) -> tuple[Contour, ...]:
    return tuple(c.moved(1.0, motion.angle, motion.shift) for c in contours)


def named(pieces: Sequence[Piece]) -> tuple[Piece, ...]:
    """Pieces with letters for names, after the numbers of their faces; one alone needs none."""
    if len(pieces) < 2:
        return tuple(pieces)
    order = sorted(range(len(pieces)), key=lambda k: (min(pieces[k].faces, default=0), pieces[k].shape.bounds[0]))
    names = {k: letter(number) for number, k in enumerate(order)}
    return tuple(
        replace(piece, name=names[k], outline=tuple(replace(c, name=names[k]) for c in piece.outline))
        for k, piece in enumerate(pieces)
    )


def letter(number: int) -> str:
    """A, B, …, Z, AA, AB, …"""
    text = ""
    number += 1
    while number:
        number, rest = divmod(number - 1, 26)
        text = chr(65 + rest) + text
    return text
