"""Closed outlines raised from a form, or sunk into it: flat bodies carried to the form, then united or cut."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from OCP.BRepClass3d import BRepClass3d_SolidClassifier
from OCP.gp import gp_Pnt
from OCP.TopAbs import TopAbs_OUT, TopAbs_SOLID
from OCP.TopoDS import TopoDS_Shape

from ..carry.lifted import Lifting
from ..contour import Contour
from ..develop.blank import Blank
from ..errors import CannotBeDone, Refused
from ..form.curves import Array
from ..form.form import Form
from ..form.made_body import MadeBody
from ..progress import SILENT, Progress
from ..wording import counted
from .bodies import made_body
from .booleans import cut, united
from .carrying import carry_body
from .explore import each, volume
from .flat import drafted, rounded
from .outlines import FlatFigure, flat_figures
from .shape import shape_of

THROUGH = 0.05
"""Bodies reach through the surface they are joined to, or cut from, by so many mm."""
LARGEST = 1e4
"""Nothing is raised or sunk by more than this, in mm."""
LOOKED_AT = 64
"""Points of a floor at which it is asked whether it lies within the body."""


@dataclass(frozen=True)
class Raised:
    """The bodies that were ``made``, and what is to be said of them."""

    made: tuple[MadeBody, ...]
    messages: tuple[str, ...]


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
    body = body_under(form, blank)
    lifting = Lifting(form, blank.correspondence)
    pieces, worst = [], 0.0
    for k, flat in enumerate(flats):
        progress.step(0.7 * k / len(flats), "carrying outlines")
        reach = 0.0 if body is None else THROUGH
        carried = carry_body(lifting, _flat(flat, height, draft, radius, reach), flat.figure.name)
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
    whole = united(body, solids) if height > 0 else cut(body, solids)
    through = height < 0 and any(goes_through(lifting, body, flat, height) for flat in flats)
    if through:
        messages = (*messages, f"At a depth of {-height:g} mm it goes through the wall.")
    parts = len(list(each(whole, TopAbs_SOLID)))
    if parts > 1:
        messages = (*messages, f"The body falls into {counted(parts, 'piece')}.")
    return Raised((made_body(form.name or "body", whole, worst, volume_change=volume(whole) - volume(body)),), messages)


def _flat(flat: FlatFigure, height: float, draft: float, radius: float, reach: float) -> TopoDS_Shape:
    """The flat body of a figure, which reaches through the surface by ``reach`` mm."""
    low, high = (-reach, height) if height > 0 else (height, reach)
    body = flat.body(low, high)
    if draft:
        body = drafted(body, draft, 0.0, height > 0)
    return rounded(body, radius, height) if radius else body


def body_under(form: Form, blank: Blank) -> TopoDS_Shape | None:
    """The closed body that the faces of a blank belong to; None where they are open faces.

    Raises CannotBeDone where they belong to several.
    """
    mine = [body for body in form.bodies if set(body.faces) & set(blank.faces)]
    if len(mine) > 1:
        raise CannotBeDone("The faces belong to several bodies; work on one of them at a time.")
    if not closed(form, mine[0].faces):
        return None
    return shape_of(form, mine)


def closed(form: Form, faces: Sequence[int]) -> bool:
    """Whether these faces bound a body: each of their edges is walked along twice."""
    uses: dict[int, int] = {}
    for number in faces:
        for loop in form.face(number).loops:
            for c in loop:
                if c.edge >= 0:
                    uses[c.edge] = uses.get(c.edge, 0) + 1
    return all(count == 2 for count in uses.values())


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


def strewn(flat: FlatFigure) -> Array:
    """Points (n, 2) over a figure."""
    import shapely

    x0, y0, x1, y1 = flat.figure.region.bounds
    side = int(np.sqrt(LOOKED_AT)) * 3
    grid = np.stack(np.meshgrid(np.linspace(x0, x1, side), np.linspace(y0, y1, side)), -1).reshape(-1, 2)
    found = grid[shapely.contains_xy(flat.figure.region, grid)]
    if not len(found):
        at = flat.figure.region.representative_point()
        found = np.array([[at.x, at.y]])
    return found[:: max(1, len(found) // LOOKED_AT)]
