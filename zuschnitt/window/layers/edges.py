"""The edges of a form, and those of them that are picked."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

import numpy as np

from ...core.errors import Refused
from ...core.operations.registry import known_entry
from ...core.parameters.flanges import Flanges
from ...core.parameters.picks import Edges
from ..identities import picks_now
from ..theme import theme
from .layer import FormLayer, FormScene

if TYPE_CHECKING:
    from ..stages.scene import LineSets


class EdgesLayer(FormLayer):
    order = 10
    of_all = True

    def show(self, lines: LineSets, scene: FormScene) -> None:
        lines.of("edges", 1.5).show(list(scene.edges.values()), theme().form)


class PickedEdges(FormLayer):
    """Those that the selected row names: where it cuts, or what it spans."""

    order = 80

    def key(self, scene: FormScene) -> Any:
        return tuple(picked_edges(scene))

    def show(self, lines: LineSets, scene: FormScene) -> None:
        found: list[np.ndarray] = [scene.edges[number] for number in picked_edges(scene)]
        lines.of("picked", 3.4).show(found, theme().blank)


def picked_edges(scene: FormScene) -> list[int]:
    """The numbers of the edges in sight that the selected row names; they are those of the form that it works on."""
    session, row = scene.session, scene.session.selected_row
    known = known_entry(row.operation) if row is not None else None
    if row is None or known is None:
        return []
    if known.source_of("form") is not None and session.given_form(row) is not scene.form:
        return []
    numbers: list[int] = []
    for parameter in known.parameters:
        try:
            if isinstance(parameter, Edges):
                numbers.extend(picks_now(scene.form, row, parameter))
            elif isinstance(parameter, Flanges):
                written = parameter.resolved(parameter.written(row), session.job.numbers)
                numbers.extend(edge for flange in written for edge in flange.edges)
        except Refused:  # its row says so
            continue
    return [number for number in numbers if number in scene.edges]
