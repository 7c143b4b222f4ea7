"""Sections run along lines on a form: a straight bar carried through the map of the line's own frames."""

from __future__ import annotations

from collections.abc import Callable, Sequence

import numpy as np
from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeFace
from OCP.gp import gp_Dir, gp_Pln, gp_Pnt
from OCP.TopAbs import TopAbs_EDGE, TopAbs_FACE, TopAbs_SOLID, TopAbs_VERTEX
from OCP.TopoDS import TopoDS, TopoDS_Shape
from OCP.TopTools import TopTools_IndexedMapOfShape

from ..carry.tracks import Track, along
from ..errors import CannotBeDone
from ..geometry.curves import Array
from ..geometry.surfaces import Cone, Cylinder
from ..mesh.mesh_surface import MeshSurface
from ..plane.contour import Contour
from ..wording import coordinates
from .booleans import divided
from .boxes import box_of
from .carrying import Carried
from .copying import Copy
from .explore import each, shared_faces
from .flat import prism

EXACT, RELAXED = 1e-5, 5e-3
"""How near in mm the faces of a bar lie to what they stand for, on exact and on relaxed faces."""
SAMPLES = 65
APART = 1e-3
Frames = Callable[[int, Array], tuple[Array, Array, Array]]
"""Places (n, 3), and the directions (n, 3) of the section's x and y there, of a stretch's number and its parameters."""


def swept(track: Track, section: Contour, upright: str, hole: Contour | None = None) -> Carried:
    """The section, with a ``hole`` or without, along a track: its x across the line, to the left, its y along the outer
    normal.

    With ``upright`` "axis", its x runs along the axis of the cylinder or cone, towards +z, and its y away from it.

    Raises CannotBeDone where it would turn over itself, where there is no axis, and on meshes (``swept_by_mesh``).
    """
    if on_mesh(track):
        raise CannotBeDone("The form is a mesh, and such a bar runs along true surfaces only: take the form as STEP.")
    frames = frames_of(track, upright)
    require_room(track, section, frames)
    start, end = track.stretches[0].start, track.stretches[-1].end
    straight = prism(section, start, end, hole)
    ends = [s.end for s in track.stretches if start + APART < s.end < end - APART]
    tolerance = EXACT if all(stretch.exact for stretch in track.stretches) else RELAXED
    copy = Copy(lambda key, points: _carried(frames, key, points), tolerance)
    parts = _split(straight, section, [*ends, (start + end) / 2] if track.closed else ends)
    shared = shared_faces(parts)
    if track.closed:
        _close(copy, parts, start, end)
    for part in parts:
        low, high = box_of(part)
        middle = float(low[2] + high[2]) / 2
        key = next(k for k, s in enumerate(track.stretches) if middle <= s.end + APART)
        for face in each(part, TopAbs_FACE):
            if not shared.Contains(face) and not (track.closed and _level_at(face, start, end) is not None):
                copy.add(TopoDS.Face_s(face), key)
    solid = copy.solid(track.name)
    if solid is None:
        raise CannotBeDone(f"{track.name} does not become a valid body; make the section simpler, or move the line.")
    return Carried(solid, copy.deviation)


def _level_at(shape: TopoDS_Shape, *heights: float) -> float | None:
    """The one of the heights at which a shape lies level; None where it does at none."""
    low, high = box_of(shape)
    found = [h for h in heights if abs(low[2] - h) < APART and abs(high[2] - h) < APART]
    return found[0] if found else None


def _close(copy: Copy, parts: Sequence[TopoDS_Shape], start: float, end: float) -> None:
    """Takes the edges and vertices at the end of a straight bar for those at its start."""
    for kind in (TopAbs_EDGE, TopAbs_VERTEX):
        found: dict[float, list[tuple[Array, TopoDS_Shape]]] = {start: [], end: []}
        seen = TopTools_IndexedMapOfShape()
        for part in parts:
            for each_one in each(part, kind):
                height = _level_at(each_one, start, end)
                if height is not None and not seen.Contains(each_one):
                    seen.Add(each_one)
                    found[height].append((np.concatenate(box_of(each_one))[[0, 1, 3, 4]], each_one))
        for box, one in found[start]:
            twin = min(found[end], key=lambda other: float(np.abs(other[0] - box).max()))
            copy.take_as_one(one, twin[1])


def _split(straight: TopoDS_Shape, section: Contour, ends: Sequence[float]) -> list[TopoDS_Shape]:
    if not ends:
        return list(each(straight, TopAbs_SOLID))
    low, high = section.bounds
    reach = float(np.abs([low, high]).max()) + 1
    planes = [gp_Pln(gp_Pnt(0, 0, end), gp_Dir(0, 0, 1)) for end in ends]
    return divided(straight, [BRepBuilderAPI_MakeFace(p, -reach, reach, -reach, reach).Face() for p in planes])


def _carried(frames: Frames, key: int, points: Array) -> Array:
    at, x, y = frames(key, points[:, 2])
    return at + points[:, :1] * x + points[:, 1:2] * y


def on_mesh(track: Track) -> bool:
    """Whether any of a track runs on triangles."""
    return any(isinstance(stretch.face.surface, MeshSurface) for stretch in track.stretches)


def frames_of(track: Track, upright: str) -> Frames:
    """The frames in which a section stands along a track."""
    return _by_axis(track) if upright == "axis" else _by_surface(track)


def _by_surface(track: Track) -> Frames:
    def frames(key: int, s: Array) -> tuple[Array, Array, Array]:
        here = along(track.stretches[key], s)
        return here.at, np.cross(here.normal, here.way), here.normal

    return frames


def _by_axis(track: Track) -> Frames:
    def frames(key: int, s: Array) -> tuple[Array, Array, Array]:
        stretch = track.stretches[key]
        surface, number = stretch.face.surface, stretch.face.number
        if not isinstance(surface, Cylinder | Cone):
            raise CannotBeDone(
                f"Face {number} is no cylinder or cone, so it has no axis to keep the section upright to; "
                "leave --upright out.",
                faces=[number],
            )
        axis = surface.frame.axes[2] * (-1 if surface.frame.axes[2][2] < 0 else 1)
        at = along(stretch, s).at
        off = at - surface.frame.origin
        out = off - np.outer(off @ axis, axis)
        return at, np.broadcast_to(axis, at.shape), out / np.linalg.norm(out, axis=1, keepdims=True)

    return frames


def require_room(track: Track, section: Contour, frames: Frames) -> None:
    """Raises CannotBeDone where the section would pass through itself: where a point of it would move backwards."""
    corners = section.flattened(0.05)
    for key, stretch in enumerate(track.stretches):
        s = np.linspace(stretch.start, stretch.end, SAMPLES)
        step = 1e-3 * (stretch.end - stretch.start)
        s = np.clip(s, stretch.start + step, stretch.end - step)
        before, here, after = (frames(key, s + d) for d in (-step, 0.0, step))
        square = np.cross(here[1], here[2])
        way = after[0] - before[0]
        forward = np.sign(np.einsum("ij,ij->i", way, square))
        for x, y in corners.tolist():
            moved = way + x * (after[1] - before[1]) + y * (after[2] - before[2])
            back = np.nonzero(np.einsum("ij,ij->i", moved, square) * forward <= 0)[0]
            if len(back):
                raise CannotBeDone(
                    f"The section is too large for the bend of {track.name} at {coordinates(here[0][back[0]])}, where "
                    "it would pass through itself; take a smaller one."
                )
