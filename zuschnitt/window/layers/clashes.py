"""Where bodies lie in each other: the outlines of what they share, for the selected row."""

from __future__ import annotations

from typing import TYPE_CHECKING

from ..theme import theme
from .layer import FormLayer, FormScene

if TYPE_CHECKING:
    from ..stages.scene import LineSets


class ClashesLayer(FormLayer):
    order = 97

    def show(self, lines: LineSets, scene: FormScene) -> None:
        made = scene.session.drawn("clashes")
        outlines = [line for clash in (made.found if made is not None else ()) for line in clash.outlines]
        lines.of("clashes", 2.4).show(outlines, theme().broken)
