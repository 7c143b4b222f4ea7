"""Bodies that stand on a blank, bent onto its form."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from OCP.BRep import BRep_Tool
from OCP.BRepMesh import BRepMesh_IncrementalMesh
from OCP.TopAbs import TopAbs_FACE, TopAbs_REVERSED, TopAbs_SOLID
from OCP.TopLoc import TopLoc_Location
from OCP.TopoDS import TopoDS, TopoDS_Shape

from ..carry.lifted import Lifting
from ..carry.placement import Placement
from ..develop.blank import Blank
from ..errors import CannotBeDone, Refused
from ..form.curves import Array
from ..form.form import Form
from ..form.made_body import MadeBody
from ..form.standing import Standing, standing
from ..progress import SILENT, Progress
from .bodies import made_body
from .body_file import read_body
from .carrying import carry_body
from .explore import box_of, each
from .placing import mirrored, placed

FINE, TURN = 5e-4, 0.05
"""Flat bodies are looked at as triangles within this part of their size, that turn by so many radians at most."""


def bent(
    form: Form, blank: Blank, content: bytes, name: str, how: Placement, progress: Progress = SILENT
) -> tuple[MadeBody, ...]:
    """The solids of a STEP file, laid on the blank and bent onto the form. Raises Refused and CannotBeDone."""
    shape = read_body(content, name, progress.part(0, 0.1))
    solids = list(each(shape, TopAbs_SOLID))
    if not solids:
        raise Refused(f"{name} holds no solid, so nothing can stand on the blank; export the body, not its faces.")
    lifting = Lifting(form, blank.correspondence)
    low, high = box_of(shape)
    factor, shift = how.factors(low, high, blank)
    made = []
    for k, solid in enumerate(solids):
        part = progress.part(k / len(solids), (k + 1) / len(solids))
        flat = placed(placed(solid, factor, 0.0, shift), (how.scale,) * 3, how.turn, (*how.at, how.lift))
        said = named = f"body {k + 1}" if len(solids) > 1 else name.rsplit(".", 1)[0]
        carried = carry_body(lifting, flat, said, part)
        about = measured(flat)
        made.append(_body(named, carried.shape, carried.deviation, about))
        if how.mirror != "none":
            twin = mirrored(carried.shape, how.mirror)
            made.append(_body(f"{named}, mirrored", twin, carried.deviation, about))
    return tuple(made)


def _body(name: str, shape: TopoDS_Shape, deviation: float, about: Standing) -> MadeBody:
    return made_body(
        name,
        shape,
        deviation,
        depth_min=about.low,
        depth_max=about.high,
        crosses=about.crosses,
        floats_max=about.floats,
    )


def measured(flat: TopoDS_Shape) -> Standing:
    """How a flat body stands to the plane z = 0."""
    low, high = box_of(flat)
    return replace(standing(*triangles_of(flat)), low=float(low[2]), high=float(high[2]))


def triangles_of(shape: TopoDS_Shape) -> tuple[Array, np.ndarray]:
    """Points (n, 3) and triangles (t, 3) of a shape, outwards."""
    low, high = box_of(shape)
    BRepMesh_IncrementalMesh(shape, FINE * float(np.linalg.norm(high - low)), False, TURN, False)
    points: list[Array] = []
    triangles: list[np.ndarray] = []
    count = 0
    for face in each(shape, TopAbs_FACE):
        place = TopLoc_Location()
        mesh = BRep_Tool.Triangulation_s(TopoDS.Face_s(face), place)
        if mesh is None:
            raise CannotBeDone("The body cannot be looked at as triangles; mend it and export it again.")
        move = place.Transformation()
        nodes = [mesh.Node(i).Transformed(move) for i in range(1, mesh.NbNodes() + 1)]
        points.append(np.array([[p.X(), p.Y(), p.Z()] for p in nodes]))
        corners = np.array([mesh.Triangle(i).Get() for i in range(1, mesh.NbTriangles() + 1)]) - 1
        triangles.append((corners[:, ::-1] if face.Orientation() == TopAbs_REVERSED else corners) + count)
        count += len(nodes)
    return np.vstack(points), np.vstack(triangles)
