"""Fold: a stage between a blank and its form."""

from __future__ import annotations

from typing import Any, ClassVar

import numpy as np

from ..parameters import number, origin, source
from ..progress import Progress
from ..results.folded import FoldedResult
from ..results.result import Outcome, outcome
from .registry import operation


@operation(
    "fold_stage",
    title="Fold",
    stage="blank>form",
    group="Carry back",
    gives="folded",
    takes="a blank, how far it is folded",
    makes="the stage between blank and form, as triangles",
)
class FoldStage:
    blank: Any = source("blank", hint="the blank that is folded")
    form: Any = origin("blank", "form")
    share: Any = number(0.5, "", "how far: 0 is the blank, 1 the form", low=0, high=1)

    slides: ClassVar[str] = "share"
    """The value that runs from the blank, 0, to the form, 1."""
    sentence = "Fold {blank} by {share} of the way to its form."

    def run(self, progress: Progress) -> Outcome:
        from ..develop.folding import LIGHT, fold_mesh
        from ..develop.lighter import lighter

        mesh = fold_mesh(self.form, self.blank, progress.part(0, 0.6))
        light = mesh
        if len(mesh.triangles) > LIGHT:
            light = fold_mesh(self.form, self.blank, progress.part(0.6, 0.7), True)
        if len(light.triangles) > 2 * LIGHT:  # faces that are carried triangle by triangle
            light = lighter(light, LIGHT)
        progress.step(0.7, "folding")
        corners = mesh.stage(self.share)[mesh.triangles]
        doubled = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
        return outcome(FoldedResult(light, self.share, float(np.linalg.norm(doubled, axis=1).sum() / 2), mesh))
