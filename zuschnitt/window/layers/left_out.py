"""What does not belong to a sheet part: the edges of those faces, and the solids that are left beside it."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

import numpy as np

from ...core.results.beside import BesideResult
from ...core.results.sheet import SheetResult
from ..stages.form_picture import shade
from ..stages.scene import Bodies
from ..theme import theme
from .layer import FormLayer, FormScene

if TYPE_CHECKING:
    from ..stages.scene import LineSets


class LeftOut(FormLayer):
    order = 84

    def __init__(self) -> None:
        self._drawn: tuple[BesideResult, str, Bodies] | None = None

    def key(self, scene: FormScene) -> Any:
        return scene.session.selected

    def show(self, lines: LineSets, scene: FormScene) -> None:
        lines.of("left out", 2.6).show(left_out(scene), theme().outside)

    def bodies(self, scene: FormScene) -> Bodies | None:
        """Solids that are left beside the part, where it is folded: they stay where they are."""
        beside, made = scene.session.given("beside"), scene.session.given("form")
        if not isinstance(beside, BesideResult) or not isinstance(made, SheetResult) or made.stage < 1:
            return None
        if scene.session.folding is not None:
            return None
        tint = theme().outside
        if self._drawn is None or self._drawn[0] is not beside or self._drawn[1] != tint:
            corners = np.concatenate([mesh.points[mesh.triangles] for mesh in beside.form.meshes])
            self._drawn = beside, tint, Bodies(corners, np.tile(shade(tint), (len(corners), 1)))
        return self._drawn[2]


def left_out(scene: FormScene) -> list[np.ndarray]:
    """Points (n, 3) of each edge of a face that the selected row has left out of its sheet part."""
    row, made = scene.session.selected_row, scene.session.given("form")
    if row is None or not isinstance(made, SheetResult) or not made.made.left_out:
        return []
    given = scene.session.given_form(row)
    if given is None:
        return []
    away = set(made.made.left_out)
    return [line for edge, line in zip(given.edges, given.lines, strict=True) if away & set(edge.faces)]
