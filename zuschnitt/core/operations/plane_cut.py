"""Cut with a plane: where a plane cuts the faces of a form, as curves."""

from __future__ import annotations

from typing import Any

import numpy as np

from ..errors import Refused
from ..parameters import direction, faces, identities, point, source
from ..progress import Progress
from ..results.result import Outcome, outcome
from ..results.space_curves import CurvesResult
from .registry import operation


@operation(
    "plane_cut",
    title="Cut with a plane",
    stage="form",
    group="Mark",
    gives="curves",
    takes="a plane, and faces or a whole form",
    makes="the curves in which they cut",
)
class CutWithPlane:
    form: Any = source("form", hint="the form that is cut")
    at: Any = point("the middle of the form", "a point of the plane")
    square_to: Any = direction("z", "the direction that the plane is square to")
    faces: Any = faces("the faces it cuts: pick them on the form, or write all or 1, 4")
    remembered: Any = identities()

    sentence = "Cut {faces} of {form} with the plane through {at}, square to {square_to}."

    def run(self, progress: Progress) -> Outcome:
        from ..carry.tracing import SpaceCurve
        from ..form.persistent_names import faces_again
        from ..form_curves.plane_curves import plane_curves
        from ..mesh.mesh_surface import MeshSurface

        picked, said = faces_again(self.form, self.faces, self.remembered)
        at = np.mean(self.form.bounds, axis=0) if self.at is None else np.array(self.at)
        normal = np.array([0.0, 0.0, 1.0] if self.square_to is None else self.square_to)
        if not np.linalg.norm(normal):
            raise Refused("The plane must be square to some direction, and 0, 0, 0 is none; give another.")
        chains = plane_curves(self.form, at, normal, picked)
        if not chains:
            raise Refused("The plane misses these faces; move the point it goes through, or turn it.")
        smooth = not any(isinstance(face.surface, MeshSurface) for face in self.form.faces)
        curves = tuple(SpaceCurve(chain.points, "section", smooth, chain.corners) for chain in chains)
        return outcome(CurvesResult(curves), messages=said)
