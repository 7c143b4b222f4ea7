"""A pocket: the outline of faces moved inward along them, cut out square to the surface."""

from __future__ import annotations

import numpy as np
from OCP.gp import gp_Dir, gp_Lin, gp_Pnt
from OCP.IntCurvesFace import IntCurvesFace_ShapeIntersector

from ..carry.lifted import Lifting
from ..contour import Contour
from ..develop.blank import Blank
from ..errors import CannotBeDone
from ..form.form import Form
from ..progress import SILENT, Progress
from .outlines import flat_figures
from .raising import Raised, body_under, raised, strewn

OVER = 0.05
"""A pocket that goes through ends so many mm beyond the other side."""


def pocketed(
    form: Form, blank: Blank, outline: tuple[Contour, ...], deep: float | None, progress: Progress = SILENT
) -> Raised | None:
    """The body with the outline cut out ``deep`` mm, or through where that is None; None for open faces without depth.

    Raises CannotBeDone.
    """
    if deep is None:
        if body_under(form, blank) is None:
            return None
        deep = _through(form, blank, outline)
    return raised(form, blank, outline, -deep, progress=progress)


def _through(form: Form, blank: Blank, outline: tuple[Contour, ...]) -> float:
    """How deep one must go, square to the faces, to come out everywhere within the outline, in mm."""
    body = body_under(form, blank)
    lifting = Lifting(form, blank.correspondence)
    rays = IntCurvesFace_ShapeIntersector()
    rays.Load(body, 1e-6)
    deepest = 0.0
    figures, _ = flat_figures(blank, outline)
    for figure in figures:
        points = strewn(figure)
        faces = lifting.face_at(points)
        for point, face in zip(points, faces.tolist(), strict=True):
            here, above = lifting.on(face, np.array([[*point, 0.0], [*point, 1.0]]))
            rays.Perform(gp_Lin(gp_Pnt(*here.tolist()), gp_Dir(*(here - above).tolist())), 1e-4, 1e6)
            far = [rays.WParameter(k) for k in range(1, rays.NbPnt() + 1)]
            if not far:
                raise CannotBeDone("Below the faces there is no other side to come out at; say how deep the pocket is.")
            deepest = max(deepest, min(far))
    return deepest + OVER
