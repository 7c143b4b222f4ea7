"""Closed outlines raised from a form, or sunk into it: flat bodies carried to the form, then united or cut."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from OCP.BRepClass3d import BRepClass3d_SolidClassifier
from OCP.gp import gp_Pnt
from OCP.TopAbs import TopAbs_OUT, TopAbs_SOLID
from OCP.TopoDS import TopoDS_Shape

from ..carry.lifted import Lifting
from ..develop.blank import Blank
from ..errors import CannotBeDone, Refused
from ..form.form import Form
from ..plane.contour import Contour
from ..progress import SILENT, Progress
from .bodies import made_body
from .booleans import cut, united
from .by_mesh import BY_MESH
from .carrying import carry_body
from .explore import each, volume
from .outlines import FlatFigure, flat_figures
from .pieces import THROUGH, Raised, fallen_apart, flat_piece, strewn
from .raising_by_mesh import raised_by_mesh
from .under import body_under, has_triangles

LARGEST = 1e4
"""Nothing is raised or sunk by more than this, in mm."""


def raised(
    form: Form,
    blank: Blank,
    drawing: Sequence[Contour],
    height: float,
    draft: float = 0.0,
    radius: float = 0.0,
    progress: Progress = SILENT,
) -> Raised:
    """The form's body with the closed outlines of a drawing raised by ``height`` mm, or sunk where it is negative.

    ``draft`` in degrees draws the walls in towards their free end, whose edges are rounded by ``radius`` mm. Of an open
    form the pieces themselves are made. Raises Refused and CannotBeDone.
    """
    if not np.isfinite([height, draft, radius]).all() or height == 0 or abs(height) > LARGEST:
        raise Refused(f"The height must be a number other than 0, and no more than {LARGEST:g} mm; change it.")
    flats, messages = flat_figures(blank, drawing)
    lifting = Lifting(form, blank.correspondence)
    if has_triangles(form, blank):
        return raised_by_mesh(form, blank, flats, (height, draft, radius), messages, progress)
    body = body_under(form, blank)
    pieces, worst = [], 0.0
    for k, flat in enumerate(flats):
        progress.step(0.7 * k / len(flats), "carrying outlines")
        reach = 0.0 if body is None else THROUGH
        piece = flat_piece(flat, height, draft, radius, reach)
        carried = None if piece is None else carry_body(lifting, piece, flat.figure.name)
        if carried is None:
            return raised_by_mesh(form, blank, flats, (height, draft, radius), (*messages, BY_MESH), progress)
        worst = max(worst, carried.deviation)
        pieces.append(carried.shape)
    if body is None:
        made = tuple(
            made_body(flat.figure.name, piece, worst, depth_min=min(height, 0.0), depth_max=max(height, 0.0))
            for flat, piece in zip(flats, pieces, strict=True)
        )
        return Raised(made, messages)
    progress.step(0.7, "joining" if height > 0 else "cutting")
    solids = [solid for piece in pieces for solid in each(piece, TopAbs_SOLID)]
    try:
        # of what is raised there is a thin layer in the body; of what is sunk there is one outside of it
        thin = THROUGH * sum(flat.figure.region.area for flat in flats)
        whole = united(body, solids, thin) if height > 0 else cut(body, solids, sum(map(volume, solids)) - thin)
    except CannotBeDone:
        last = progress.part(0.7, 1.0)
        return raised_by_mesh(form, blank, flats, (height, draft, radius), (*messages, BY_MESH), last)
    through = height < 0 and any(goes_through(lifting, body, flat, height) for flat in flats)
    if through:
        messages = (*messages, f"At a depth of {-height:g} mm it goes through the wall.")
    messages = (*messages, *fallen_apart(len(list(each(whole, TopAbs_SOLID)))))
    return Raised((made_body(form.name or "body", whole, worst, volume_change=volume(whole) - volume(body)),), messages)


def goes_through(lifting: Lifting, body: TopoDS_Shape, flat: FlatFigure, depth: float) -> bool:
    """Whether the floor of a figure at a (negative) depth comes out of the body anywhere."""
    points = strewn(flat)
    faces = lifting.face_at(points)
    inside = BRepClass3d_SolidClassifier(body)
    for face in np.unique(faces).tolist():
        mine = points[faces == face]
        for at in lifting.on(face, np.column_stack([mine, np.full(len(mine), depth)])).tolist():
            inside.Perform(gp_Pnt(*at), 1e-6)
            if inside.State() == TopAbs_OUT:
                return True
    return False
