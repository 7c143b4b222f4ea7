"""The blank: the flat of picked faces, its figures, and its correspondence with the form."""

from __future__ import annotations

from dataclasses import replace
from functools import cached_property

import numpy as np

from ..correspondence import Correspondence, Rigid
from ..geometry.curves import Array
from ..lazy import Lazy
from ..materials import Material, Verdict, verdict
from ..mesh.triangles import signed_double_areas
from ..plane.contour import Contour, bounds
from ..plane.region import Region
from ..record import record
from ..tolerances import OUTLINE
from .piece import OutlineSide, Piece
from .word import Word


@record
class Figures:
    """What is known of a blank. Areas in mm², stretch and change in percent, lengths in mm."""

    area_form: float
    area_blank: float
    stretch_max: float
    stretch_min: float
    outline_length: float
    pieces: int
    triangles: int
    flipped: int
    round_trip_max: float
    seconds: float

    @property
    def area_change(self) -> float:
        return 100 * (self.area_blank / self.area_form - 1)


@record
class StretchMesh:
    """Triangles of a blank that was not developed exactly.

    ``points_blank`` (n, 2) and ``points_form`` (n, 3) correspond; ``triangles`` (t, 3).
    ``stretch`` (t, 2): singular values of the map from blank to form, minus one, the larger first. ``faces`` (t,)
    are the numbers of the faces they lie on; faces that were laid exactly have none.
    """

    points_blank: Array
    points_form: Array
    triangles: np.ndarray
    stretch: Array
    faces: np.ndarray


@record
class Flat:
    """Faces laid flat, before they are held: pieces, correspondence, area in mm², outline in mm.

    ``crowded`` counts the tabs that had no room.
    """

    pieces: tuple[Piece, ...]
    correspondence: Correspondence
    area: float
    outline_length: float
    mesh: StretchMesh | None = None
    crowded: int = 0
    messages: tuple[str, ...] = ()

    @property
    def outline(self) -> tuple[Contour, ...]:
        """That of all pieces."""
        return tuple(contour for piece in self.pieces for contour in piece.outline)

    def moved(self, motion: Rigid) -> Flat:
        """Laid elsewhere in its plane."""
        return replace(
            self,
            pieces=tuple(piece.moved(motion) for piece in self.pieces),
            correspondence=self.correspondence.moved(motion),
            mesh=self.mesh and replace(self.mesh, points_blank=motion.apply(self.mesh.points_blank)),
        )


@record
class Blank(Lazy):
    """The flat of ``faces``, in ``pieces``.

    ``way`` is the way taken, never "auto". ``hold_form`` is the hold point on the form, ``along_form`` the
    direction there that is the blank's +x, ``normal_form`` the outer normal, each (3,). One looks at the outer side.
    ``seams_form`` are polylines (n, 3) where closed faces were cut open. ``cells`` are those that a patch's net has
    along x and y, None for as many as make them nearly square.
    """

    way: str
    faces: tuple[int, ...]
    pieces: tuple[Piece, ...]
    correspondence: Correspondence
    figures: Figures
    hold_form: Array
    along_form: Array
    normal_form: Array
    mesh: StretchMesh | None = None
    messages: tuple[str, ...] = ()
    seams_form: tuple[Array, ...] = ()
    verdict: Verdict | None = None
    cells: tuple[int | None, ...] = (None, None)

    @cached_property
    def outline(self) -> tuple[Contour, ...]:
        """Closed contours on layer CUT: those of all pieces."""
        return tuple(contour for piece in self.pieces for contour in piece.outline)

    @cached_property
    def folds(self) -> tuple[Contour, ...]:
        """The lines where faces join."""
        return tuple(fold for piece in self.pieces for fold in piece.folds)

    @cached_property
    def sides(self) -> tuple[OutlineSide, ...]:
        """The parts of the outline that are joined to others."""
        return tuple(side for piece in self.pieces for side in piece.sides)

    @cached_property
    def words(self) -> tuple[Word, ...]:
        """What is written on the pieces."""
        return tuple(word for piece in self.pieces for word in piece.words)

    @cached_property
    def ticks(self) -> tuple[Contour, ...]:
        """The ticks where pieces meet others."""
        return tuple(tick for piece in self.pieces for tick in piece.ticks)

    @cached_property
    def marks(self) -> tuple[Contour, ...]:
        """Words and ticks as contours."""
        return tuple(mark for piece in self.pieces for mark in piece.marks)

    @property
    def bounds(self) -> tuple[float, float, float, float]:
        return bounds(self.outline)

    @cached_property
    def region(self) -> Region:
        """What lies inside the outline, all pieces together."""
        return Region(tuple(contour.flattened(OUTLINE)[:-1] for contour in self.outline))

    def judged(self, material: Material | None) -> Blank:
        """With the verdict whether ``material`` can take it; without one where no material is known."""
        if material is None:
            return replace(self, verdict=None)
        if self.mesh is None:  # developed exactly: nothing has to stretch
            return replace(self, verdict=verdict(material, np.zeros((1, 2)), np.ones(1)))
        areas = np.abs(signed_double_areas(self.mesh.points_blank, self.mesh.triangles))
        return replace(self, verdict=verdict(material, self.mesh.stretch, areas))
