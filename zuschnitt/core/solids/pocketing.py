"""A pocket: the outline of faces moved inward along them, cut out square to the surface."""

from __future__ import annotations

from collections.abc import Callable

from OCP.gp import gp_Dir, gp_Lin, gp_Pnt
from OCP.IntCurvesFace import IntCurvesFace_ShapeIntersector
from OCP.TopoDS import TopoDS_Shape

from ..carry.lifted import Lifting
from ..develop.blank import Blank
from ..errors import CannotBeDone
from ..form.form import Form
from ..geometry.curves import Array
from ..plane.contour import Contour
from ..progress import SILENT, Progress
from .outlines import flat_figures
from .pieces import Raised, inward
from .raising import raised
from .under import body_under, has_triangles, mesh_under

FarSide = Callable[[Array, Array], float | None]
"""How far it is from a point (3,) along a direction (3,) to where one comes out of a body."""
OVER = 0.05
"""A pocket that goes through ends so many mm beyond the other side."""


def pocketed(
    form: Form, blank: Blank, outline: tuple[Contour, ...], deep: float | None, progress: Progress = SILENT
) -> Raised | None:
    """The body with the outline cut out ``deep`` mm, or through where that is None; None for open faces without depth.

    Raises CannotBeDone.
    """
    if deep is None:
        mesh = has_triangles(form, blank)
        body = mesh_under(form, blank) if mesh else body_under(form, blank)
        if body is None:
            return None
        deep = _through(form, blank, outline, _far_side(body) if isinstance(body, TopoDS_Shape) else body.depth)
    return raised(form, blank, outline, -deep, progress=progress)


def _through(form: Form, blank: Blank, outline: tuple[Contour, ...], far_side: FarSide) -> float:
    """How deep one must go, square to the faces, to come out everywhere within the outline, in mm."""
    lifting = Lifting(form, blank.correspondence)
    deepest = 0.0
    figures, _ = flat_figures(blank, outline)
    for figure in figures:
        for start, way in inward(lifting, figure):
            far = far_side(start, way)
            if far is None:
                raise CannotBeDone("Below the faces there is no other side to come out at; say how deep the pocket is.")
            deepest = max(deepest, far)
    return deepest + OVER


def _far_side(body: TopoDS_Shape) -> FarSide:
    rays = IntCurvesFace_ShapeIntersector()
    rays.Load(body, 1e-6)

    def far_side(start: Array, way: Array) -> float | None:
        rays.Perform(gp_Lin(gp_Pnt(*start.tolist()), gp_Dir(*way.tolist())), 1e-4, 1e6)
        return min((rays.WParameter(k) for k in range(1, rays.NbPnt() + 1)), default=None)

    return far_side
