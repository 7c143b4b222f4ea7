"""A stage between blank and form: its outline in space, where it touches the form at the hold point."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

from ..theme import theme
from .layer import FormLayer, FormScene

if TYPE_CHECKING:
    from ...core.develop.folding import FoldMesh
    from ..stages.scene import LineSets


class FoldedLayer(FormLayer):
    """That of the selected row."""

    order = 90

    def __init__(self) -> None:
        self._kept: tuple[object, np.ndarray] | None = None

    def show(self, lines: LineSets, scene: FormScene) -> None:
        row = scene.session.selected_row
        mesh = scene.session.value(row, "folded")
        ends = np.zeros((0, 2, 3))
        if mesh is not None and row is not None:
            share = float(scene.session.job.parameter(row, "share").plain(scene.session.job, row) or 0.0)
            key = (id(mesh), share)
            if self._kept is None or self._kept[0] != key:
                held = scene.blank.hold_form if scene.blank is not None else mesh.points_form[0]
                self._kept = key, mesh.held_at(share, held)[rim(mesh)]
            ends = self._kept[1]
        lines.of("folded", 2.0).segments(ends, theme().blank)


def rim(mesh: FoldMesh) -> np.ndarray:
    """The spans (s, 2) at the rim of a mesh, and at its folds."""
    triangles = mesh.triangles
    edges = np.sort(np.vstack([triangles[:, [0, 1]], triangles[:, [1, 2]], triangles[:, [2, 0]]]), axis=1)
    unique, count = np.unique(edges, axis=0, return_counts=True)
    return unique[count == 1]
