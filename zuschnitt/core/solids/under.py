"""What lies under a blank: the bodies that its faces belong to."""

from __future__ import annotations

from collections.abc import Sequence

from OCP.TopoDS import TopoDS_Shape

from ..develop.blank import Blank
from ..errors import CannotBeDone
from ..form.form import Body, Form
from ..form.joined_triangles import joined_triangles, welded
from ..mesh.mesh_surface import MeshSurface
from ..tolerances import CURVE
from .by_mesh import MeshBody
from .shape import shape_of
from .triangulated import triangles_of

CHORDS = 1e-3
"""The triangles that a form of faces is shown by keep within this part of its size of it."""
TURN = 0.1
"""True ones turn by so many radians at most."""


def bodies_under(form: Form, blank: Blank) -> list[Body]:
    """The bodies that the faces of a blank belong to."""
    return [body for body in form.bodies if set(body.faces) & set(blank.faces)]


def has_triangles(form: Form, blank: Blank) -> bool:
    """Whether any face of the bodies that a blank belongs to is one of a mesh."""
    return any(is_mesh(form, body) for body in bodies_under(form, blank))


def is_mesh(form: Form, body: Body) -> bool:
    """Whether any face of a body is one of a mesh."""
    return any(isinstance(form.face(number).surface, MeshSurface) for number in body.faces)


def body_under(form: Form, blank: Blank) -> TopoDS_Shape | None:
    """The closed body that the faces of a blank belong to; None where they are open faces.

    Raises CannotBeDone where they belong to several.
    """
    return None if _faces_under(form, blank) is None else shape_of(form, bodies_under(form, blank))


def mesh_under(form: Form, blank: Blank) -> MeshBody | None:
    """The closed body under a blank, of triangles; None where its faces are open. Raises CannotBeDone for several."""
    faces = _faces_under(form, blank)
    return None if faces is None else MeshBody.of(*joined_triangles(form, set(faces)), form.name or "The form")


def true_mesh_under(form: Form, blank: Blank) -> tuple[MeshBody, float] | None:
    """As ``mesh_under``, as true as a body of faces can be had of triangles, and how far it may be off, in mm."""
    body = None if has_triangles(form, blank) else body_under(form, blank)
    if body is not None:
        try:
            return MeshBody.of(*welded(*triangles_of(body, TURN, CURVE)), form.name or "The form"), CURVE
        except CannotBeDone:  # those of the kernel do not always close
            pass
    mesh = mesh_under(form, blank)
    return None if mesh is None else (mesh, 0.0 if body is None else CHORDS * form.size)


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
