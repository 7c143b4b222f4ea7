"""A stage between blank and form: its outline in space, where it touches the form at the hold point, and what rides
along on it."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING, Any

import numpy as np

from ...core.mesh.triangles import TriangleFinder
from ...core.plane.contour import Contour
from ...core.record import record
from ..sliding import share_of
from ..theme import theme
from .carried_artwork import FINE, divided
from .curves import Curves
from .layer import FormLayer, FormScene

if TYPE_CHECKING:
    from ...core.develop.folding import FoldMesh
    from ..stages.scene import LineSets


class FoldedLayer(FormLayer):
    """That of the selected row."""

    order = 90
    slides = True

    def __init__(self) -> None:
        self._mesh: FoldMesh | None = None
        self._rim = np.zeros((0, 2), int)
        self._kept: tuple[object, np.ndarray] | None = None
        self._riding: tuple[list[object], list[Ridden]] | None = None

    def key(self, scene: FormScene) -> Any:
        """The stage that is asked for, which is seen before its row is computed again."""
        row = scene.session.selected_row
        return None if row is None or scene.session.drawn("folded") is None else share_of(scene.session, row)

    def show(self, lines: LineSets, scene: FormScene) -> None:
        row = scene.session.selected_row
        mesh = self._lasting(scene.session.drawn("folded"))
        ends = np.zeros((0, 2, 3))
        drawn: Curves = []
        if mesh is not None and row is not None:
            share = share_of(scene.session, row)
            key = (id(mesh), share)
            if self._kept is None or self._kept[0] != key:
                held = scene.blank.hold_form if scene.blank is not None else mesh.points_form[0]
                self._kept = key, mesh.held_at(share, held)
            stage = self._kept[1]
            ends = stage[self._rim]
            drawn = [each.on(stage) for each in self._ridden(mesh, scene)]
        lines.of("folded", 2.0).segments(ends, theme().blank)
        lines.of("riding", 1.4).show(drawn, theme().blank)

    def _lasting(self, mesh: FoldMesh | None) -> FoldMesh | None:
        """The mesh of the last time, with all that it has worked out, where it is the same for another stage."""
        last = self._mesh
        if last is None or mesh is None or not last.same_as(mesh):
            self._mesh = mesh
            self._rim = rim(mesh) if mesh is not None else self._rim[:0]
        return self._mesh

    def _ridden(self, mesh: FoldMesh, scene: FormScene) -> list[Ridden]:
        """The artwork on the blank, as it lies on the triangles that are folded."""
        session = scene.session
        placed = [session.value(row, "artwork") for row in session.on_blank("artwork")]
        about: list[object] = [mesh, *placed]
        if (
            self._riding is None
            or len(self._riding[0]) != len(about)
            or not all(a is b for a, b in zip(self._riding[0], about, strict=True))
        ):
            every = [contour for artwork in placed if artwork is not None for contour in artwork.contours]
            contours = [contour for contour in every if contour.layer != "REFERENCE"]
            self._riding = about, ridden(mesh, contours, scene.form.size)
        return self._riding[1]


@record
class Ridden:
    """Points of a line by the ``corners`` (n, 3) of their triangles, and their barycentric ``weights`` (n, 3)."""

    corners: np.ndarray
    weights: np.ndarray

    def on(self, stage: np.ndarray) -> np.ndarray:
        """The line (n, 3) on points of a stage."""
        return np.asarray(np.einsum("nk,nkd->nd", self.weights, stage[self.corners]))


def ridden(mesh: FoldMesh, contours: Sequence[Contour], size: float) -> list[Ridden]:
    """What of contours lies on the blank, for a form of that size in mm."""
    lines = divided([contour for contour in contours if len(contour.points)], size / 100, size / FINE)
    if not lines:
        return []
    points = np.vstack(lines)
    triangle, weights, inside = TriangleFinder(mesh.points_blank, mesh.triangles).find(points)
    found: list[Ridden] = []
    for mine in np.split(np.arange(len(points)), np.cumsum([len(line) for line in lines])[:-1]):
        for run in np.split(mine, np.nonzero(np.diff(inside[mine].astype(int)))[0] + 1):
            if len(run) > 1 and inside[run[0]]:
                found.append(Ridden(mesh.triangles[triangle[run]], weights[run]))
    return found


def rim(mesh: FoldMesh) -> np.ndarray:
    """The spans (s, 2) at the rim of a mesh, and at its folds."""
    triangles = mesh.triangles
    edges = np.sort(np.vstack([triangles[:, [0, 1]], triangles[:, [1, 2]], triangles[:, [2, 0]]]), axis=1)
    unique, count = np.unique(edges, axis=0, return_counts=True)
    return unique[count == 1]
