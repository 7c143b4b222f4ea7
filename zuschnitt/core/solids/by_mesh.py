"""Bodies joined and cut as meshes: of forms that are meshes, and where the kernel finds no exact body.

The booleans are those of manifold3d, which gives a closed mesh of two closed ones.
"""

from __future__ import annotations

import io
from collections.abc import Callable, Iterable, Sequence
from typing import Any

import manifold3d
import numpy as np
import shapely

from ..errors import CannotBeDone
from ..form.form import Form
from ..form.made_body import MadeBody
from ..form.mesh_form import form_from_triangles
from ..geometry.curves import Array
from ..mesh.given import Triangles
from ..mesh.opening import edge_keys, half_edges
from ..plane.region import rings_of

FAR = 1e6
"""A ray is looked along so far, in mm."""
SLANTED = np.array([0.5377, 0.3249, 0.7780])
"""Such a ray runs along no face of a usual part."""

SMOOTH = 30.0
"""Triangles that meet at no more than this many degrees look smooth."""

BY_MESH = "No exact body can be made here, so it was made of triangles: write it as a mesh (--mesh)."


class MeshBody:
    """A closed body of triangles."""

    def __init__(self, manifold: manifold3d.Manifold) -> None:
        self._manifold = manifold

    @classmethod
    def of(cls, points: Array, triangles: np.ndarray, name: str) -> MeshBody:
        """Of triangles (t, 3) anticlockwise seen from outside, over points (n, 3). Raises CannotBeDone where open."""
        mesh = manifold3d.Mesh64(
            np.ascontiguousarray(points, np.float64), np.ascontiguousarray(triangles, np.uint64)
        )  # fmt: skip
        made = manifold3d.Manifold(mesh)
        if made.status() != manifold3d.Error.NoError or made.is_empty():
            raise CannotBeDone(
                f"{name} is no closed mesh, so nothing can be joined to it or cut from it; mend it first."
            )
        return cls(made)

    @classmethod
    def drawn_out(
        cls,
        region: shapely.Polygon,
        low: float,
        high: float,
        through: Callable[[Array], Array],
        length: float = np.inf,
    ) -> MeshBody | None:
        """A region of the plane, from one height to another, each of its points (n, 3) moved; None for an empty one.

        Before they are moved, edges are divided to a ``length``.
        """
        section = manifold3d.CrossSection(rings_of(region))
        if section.is_empty():
            return None
        body = section.extrude(high - low).translate((0.0, 0.0, low))
        if np.isfinite(length):
            body = body.refine_to_length(length)
        body = body.warp_batch(through)
        return None if body.is_empty() else cls(body)

    @property
    def box(self) -> Array:
        """Its least and its largest x, y, z, (2, 3)."""
        return np.array(self._manifold.bounding_box()).reshape(2, 3)

    @property
    def volume(self) -> float:
        return float(self._manifold.volume())

    @property
    def parts(self) -> int:
        """Of how many pieces it is that hang together nowhere."""
        return len(self._manifold.decompose())

    def apart(self) -> list[MeshBody]:
        """Its pieces that hang together nowhere."""
        return [MeshBody(part) for part in self._manifold.decompose()]

    def holds(self, point: Array) -> bool:
        """Whether a point (3,) lies within it."""
        hits = self._manifold.ray_cast(tuple(point), tuple(point + FAR * SLANTED))
        return bool(hits) and float(np.dot(min(hits, key=lambda hit: hit.distance).normal, SLANTED)) > 0

    @property
    def triangles(self) -> tuple[Array, np.ndarray]:
        """Points (n, 3) and triangles (t, 3)."""
        mesh = self._manifold.to_mesh64()
        return np.asarray(mesh.vert_properties)[:, :3], np.asarray(mesh.tri_verts).astype(int)

    def divided(self, length: float) -> tuple[Array, np.ndarray]:
        """Its points and triangles, their edges divided to a length."""
        return MeshBody(self._manifold.refine_to_length(length)).triangles

    def shaded(self) -> tuple[Array, Array, np.ndarray]:
        """Points and normals (n, 3) and triangles (t, 3), with points of their own on both sides of sharp edges."""
        mesh = self._manifold.calculate_normals(0, SMOOTH).to_mesh64()
        vertices = np.asarray(mesh.vert_properties)
        return vertices[:, :3], vertices[:, 3:6], np.asarray(mesh.tri_verts).astype(int)

    def united(self, others: Sequence[MeshBody]) -> MeshBody:
        return self._with(others, manifold3d.OpType.Add)

    def cut(self, others: Sequence[MeshBody]) -> MeshBody:
        return self._with(others, manifold3d.OpType.Subtract)

    def common(self, other: MeshBody) -> MeshBody | None:
        """What lies in both; None where nothing does."""
        made = self._manifold ^ other._manifold
        return None if made.is_empty() else MeshBody(made)

    def gap(self, other: MeshBody, most: float) -> float:
        """How far apart they are, in mm, looked for up to ``most``."""
        return float(self._manifold.min_gap(other._manifold, most))

    def _with(self, others: Sequence[MeshBody], how: manifold3d.OpType) -> MeshBody:
        made = manifold3d.Manifold.batch_boolean([self._manifold, *(other._manifold for other in others)], how)
        if made.status() != manifold3d.Error.NoError or made.is_empty():
            raise CannotBeDone(
                "Nothing is left of the body, or it cannot be joined as a mesh; cut out less, or move it."
            )
        return MeshBody(made)

    def depth(self, start: Array, direction: Array) -> float | None:
        """How far it is from a point (3,) on the body to where a ray comes out of it, in mm; None where it does not."""
        hits = self._manifold.ray_cast(tuple(start - 1e-3 * direction), tuple(start + FAR * direction))
        out = [hit for hit in hits if np.dot(hit.normal, direction) > 0]
        if not out:
            return None
        return float(np.dot(np.array(out[0].position) - start, direction))


def mesh_made(name: str, body: MeshBody, deviation: float, **more: Any) -> MadeBody:
    """The body with its figures; its content are its triangles."""
    return triangles_made(name, *body.triangles, deviation, **more)


def triangles_made(name: str, points: Array, triangles: np.ndarray, deviation: float, **more: Any) -> MadeBody:
    """The figures of a closed body of triangles. Raises CannotBeDone where it is not closed."""
    _, uses = np.unique(edge_keys(half_edges(triangles), len(points)), return_counts=True)
    if (uses % 2).any():
        raise CannotBeDone(f"{name} is not closed, so it encloses nothing; mend the mesh and export it again.")
    at = points[triangles]
    volume = abs(float((at[:, 0] * np.cross(at[:, 1], at[:, 2])).sum() / 6))
    area = float(np.linalg.norm(np.cross(at[:, 1] - at[:, 0], at[:, 2] - at[:, 0]), axis=1).sum() / 2)
    (x0, y0, z0), (x1, y1, z1) = points.min(axis=0).tolist(), points.max(axis=0).tolist()
    content = io.BytesIO()
    np.savez(content, points=points, triangles=triangles)
    box = (x0, y0, z0, x1, y1, z1)
    return MadeBody(name, volume, area, box, len(triangles), deviation, content.getvalue(), "mesh", **more)


def form_of_meshes(bodies: Sequence[MadeBody], name: str) -> Form:
    """Bodies that were made by mesh as one form."""
    points: list[Array] = []
    triangles: list[np.ndarray] = []
    for body in bodies:
        with np.load(io.BytesIO(body.content)) as content:
            triangles.append(content["triangles"] + sum(map(len, points)))
            points.append(content["points"])
    body_of = np.repeat(np.arange(len(bodies)), [len(each) for each in triangles])
    names = tuple(body.name for body in bodies)
    given = Triangles(np.vstack(points), np.vstack(triangles), body_of, names, "mm")
    return form_from_triangles(given, name)


def said_of(made: Iterable[MadeBody]) -> tuple[str, ...]:
    """What is to be said of bodies of which some are made of triangles."""
    return (BY_MESH,) if any(body.by == "mesh" for body in made) else ()
