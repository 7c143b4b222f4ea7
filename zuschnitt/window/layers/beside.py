"""Further forms that the selected row works with, as lines beside the one that is shown."""

from __future__ import annotations

from typing import TYPE_CHECKING

from ..theme import theme
from .layer import FormLayer, FormScene

if TYPE_CHECKING:
    from ..stages.scene import LineSets


class BesideLayer(FormLayer):
    order = 8

    def show(self, lines: LineSets, scene: FormScene) -> None:
        session = scene.session
        row = session.selected_row
        worked_on = session.job.origin(row, ("form",)) if row is not None else None
        rows = [] if row is None else [each for each in session.job.sources(row) if each != worked_on]
        taken = [session.value(each, "form") for each in rows if "form" in each.gives]
        others = [form for form in taken if form is not None and form is not scene.form]
        outlines = [line for form in others for line in form.lines]
        lines.of("beside", 1.0).show(outlines, theme().quiet)
