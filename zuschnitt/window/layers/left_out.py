"""The faces of a solid that do not belong to the sheet part made of it: their edges, where they are."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

import numpy as np

from ...core.results.sheet import SheetResult
from ..theme import theme
from .layer import FormLayer, FormScene

if TYPE_CHECKING:
    from ..stages.scene import LineSets

FINE = 4e-4
"""Edges are drawn within this part of the form's size."""


class LeftOut(FormLayer):
    order = 84

    def key(self, scene: FormScene) -> Any:
        return scene.session.selected

    def show(self, lines: LineSets, scene: FormScene) -> None:
        lines.of("left out", 2.6).show(left_out(scene), theme().outside)


def left_out(scene: FormScene) -> list[np.ndarray]:
    """Points (n, 3) of each edge of a face that the selected row has left out of its sheet part."""
    session, row = scene.session, scene.session.selected_row
    outcome = session.outcome(row)
    made = outcome.result("form") if outcome is not None else None
    if row is None or not isinstance(made, SheetResult) or not made.made.left_out:
        return []
    given = session.given_form(row)
    if given is None:
        return []
    away = set(made.made.left_out)
    return [edge.points(FINE * given.size) for edge in given.edges if away & set(edge.faces)]
