"""Contours of the blank by the faces they cross: which part of which span lies on which face."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from ..correspondence import MARGIN, Correspondence
from ..geometry.curves import Array
from ..plane.contour import Contour
from ..progress import SILENT, Progress
from ..record import record
from ..tolerances import CURVE
from .path import Paths
from .wrapping import places_along


@record
class Run:
    """What of a contour (its index) lies on one face: ``spans`` (n,), and from which part of each to which (n, 2)."""

    contour: int
    face: int
    spans: np.ndarray
    parts: Array

    def leaves(self, paths: Paths) -> tuple[bool, bool]:
        """Whether it begins, and whether it ends, elsewhere than where the contour does: at the outline of the face."""
        first, last = paths.first[self.contour], paths.first[self.contour + 1] - 1
        return (
            self.spans[0] != first or bool(self.parts[0, 0] > 0),
            self.spans[-1] != last or bool(self.parts[-1, 1] < 1),
        )


def runs_on_faces(
    correspondence: Correspondence, contours: Sequence[Contour], progress: Progress = SILENT
) -> tuple[Paths, list[Run]]:
    """The contours' spans, and what of them lies on the blank, face by face, in their order."""
    places = places_along(correspondence, contours, CURVE, progress)
    paths = Paths.of(contours)
    owner = paths.owner[places.span]
    first = np.nonzero((owner[:-1] == owner[1:]) & ~places.torn[:-1])[0]
    span, middle = places.part_at(first, np.full(len(first), 0.5))
    at = correspondence.to_form(paths.at(span, middle))
    _, end = places.part_at(first, np.ones(len(first)))
    keys = np.column_stack([owner[first], at.face, at.inside, np.r_[0, np.cumsum(np.diff(first) != 1)]])
    lengths = np.linalg.norm(paths.at(span, end) - paths.at(span, places.part[first]), axis=1)
    change = np.nonzero((np.diff(keys, axis=0) != 0).any(axis=1))[0] + 1
    found = []
    for mine in np.split(np.arange(len(first)), change):
        if not len(mine) or not at.inside[mine[0]] or lengths[mine].sum() <= MARGIN:
            continue
        begins = places.part[first[mine]]
        spans, where = np.unique(span[mine], return_index=True)
        last = np.r_[where[1:], len(mine)] - 1
        parts = np.column_stack([begins[where], end[mine[last]]])
        found.append(Run(int(owner[first[mine[0]]]), int(at.face[mine[0]]), spans, parts))
    return paths, found
