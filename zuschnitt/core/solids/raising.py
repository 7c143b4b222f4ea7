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
from ..form.form import Body, Form
from ..form.joined_triangles import joined_triangles
from ..form.made_body import MadeBody
from ..form.mesh_surface import MeshSurface
from ..progress import SILENT, Progress
from ..wording import counted
from .bent_mesh import bent_triangles
from .bodies import made_body
from .booleans import cut, united
from .by_mesh import MeshBody, mesh_made
from .carrying import carry_body
from .explore import each, volume
from .flat import drafted, rounded
from .outlines import FlatFigure, flat_figures
from .shape import shape_of
from .triangulated import even_triangles

THROUGH = 0.05
"""Bodies reach through the surface they are joined to, or cut from, by so many mm."""
CHORDS = 1e-3
"""Triangles of a form that is none of triangles keep within this part of its size of it."""
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
    lifting = Lifting(form, blank.correspondence)
    if has_triangles(form, blank):
        return _by_mesh(form, blank, flats, (height, draft, radius), messages, progress)
    body = body_under(form, blank)
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
    try:
        whole = united(body, solids) if height > 0 else cut(body, solids)
    except CannotBeDone:
        said = "The kernel finds no exact body, so it was made of triangles: write it with --mesh."
        return _by_mesh(form, blank, flats, (height, draft, radius), (*messages, said), progress.part(0.7, 1.0))
    through = height < 0 and any(goes_through(lifting, body, flat, height) for flat in flats)
    if through:
        messages = (*messages, f"At a depth of {-height:g} mm it goes through the wall.")
    parts = len(list(each(whole, TopAbs_SOLID)))
    if parts > 1:
        messages = (*messages, f"The body falls into {counted(parts, 'piece')}.")
    return Raised((made_body(form.name or "body", whole, worst, volume_change=volume(whole) - volume(body)),), messages)


def _by_mesh(
    form: Form,
    blank: Blank,
    flats: Sequence[FlatFigure],
    how: tuple[float, float, float],
    messages: tuple[str, ...],
    progress: Progress,
) -> Raised:
    """The same of triangles: ``how`` are height, draft and radius."""
    height = how[0]
    body = mesh_under(form, blank)
    lifting = Lifting(form, blank.correspondence)
    off = 0.0 if has_triangles(form, blank) else CHORDS * form.size
    reach = 0.0 if body is None else THROUGH + off
    pieces, worst = [], off
    for k, flat in enumerate(flats):
        progress.step(0.7 * k / len(flats), "carrying outlines")
        name = flat.figure.name
        triangles = even_triangles(_flat(flat, *how, reach))
        points, corners, deviation = bent_triangles(lifting, *triangles, name)
        worst = max(worst, deviation + off)
        pieces.append(MeshBody.of(points, corners, name))
    if body is None:
        about = {"depth_min": min(height, 0.0), "depth_max": max(height, 0.0)}
        made = tuple(
            mesh_made(flat.figure.name, piece, worst, **about) for flat, piece in zip(flats, pieces, strict=True)
        )
        return Raised(made, messages)
    progress.step(0.7, "joining" if height > 0 else "cutting")
    whole = body.united(pieces) if height > 0 else body.cut(pieces)
    if height < 0 and any(_comes_out(lifting, body, flat, -height) for flat in flats):
        messages = (*messages, f"At a depth of {-height:g} mm it goes through the wall.")
    if whole.parts > body.parts:
        messages = (*messages, f"The body falls into {counted(whole.parts, 'piece')}.")
    change = whole.volume - body.volume
    return Raised((mesh_made(form.name or "body", whole, worst, volume_change=change),), messages)


def _comes_out(lifting: Lifting, body: MeshBody, flat: FlatFigure, depth: float) -> bool:
    below = [body.depth(start, way) for start, way in inward(lifting, flat)]
    return any(far is not None and far < depth for far in below)


def inward(lifting: Lifting, flat: FlatFigure) -> list[tuple[Array, Array]]:
    """Points (3,) of the form strewn over a figure, and the directions square to it that lead in."""
    points = strewn(flat)
    faces = lifting.face_at(points)
    found = []
    for point, face in zip(points, faces.tolist(), strict=True):
        here, above = lifting.on(face, np.array([[*point, 0.0], [*point, 1.0]]))
        found.append((here, here - above))
    return found


def has_triangles(form: Form, blank: Blank) -> bool:
    """Whether any face of the bodies that a blank belongs to is one of a mesh."""
    return any(isinstance(form.face(n).surface, MeshSurface) for body in bodies_under(form, blank) for n in body.faces)


def bodies_under(form: Form, blank: Blank) -> list[Body]:
    """The bodies that the faces of a blank belong to."""
    return [body for body in form.bodies if set(body.faces) & set(blank.faces)]


def mesh_under(form: Form, blank: Blank) -> MeshBody | None:
    """The closed body under a blank, of triangles; None where its faces are open. Raises CannotBeDone for several."""
    faces = _faces_under(form, blank)
    return None if faces is None else MeshBody.of(*joined_triangles(form, set(faces)), form.name or "The form")


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
    return None if _faces_under(form, blank) is None else shape_of(form, bodies_under(form, blank))


def _faces_under(form: Form, blank: Blank) -> tuple[int, ...] | None:
    """The faces of the closed body that a blank belongs to; None where they are open."""
    mine = bodies_under(form, blank)
    if len(mine) > 1:
        raise CannotBeDone("The faces belong to several bodies; work on one of them at a time.")
    return mine[0].faces if closed(form, mine[0].faces) else None


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
