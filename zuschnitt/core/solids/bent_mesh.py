"""A body of triangles that stands on a blank, bent onto its form: its triangles divided until they follow it."""

from __future__ import annotations

import numpy as np

from ..carry.lifted import Lifting, room
from ..carry.placement import Placement
from ..develop.blank import Blank
from ..errors import CannotBeDone
from ..files.apart import patience, read_apart
from ..files.mesh_file import read_triangles
from ..form.form import Form
from ..form.made_body import MadeBody
from ..form.standing import Standing, standing
from ..geometry.curves import Array
from ..mesh.opening import edge_keys, half_edges
from ..plane.arrangement import clusters
from ..progress import SILENT
from ..tolerances import CURVE
from ..wording import coordinates
from .by_mesh import triangles_made

MOST_TRIANGLES = 2_000_000
ROUNDS = 12
MARGIN = 0.999
"""What part of the room to where normals cross may be used."""
MIRRORED = {"yz": (-1, 1, 1), "zx": (1, -1, 1), "xy": (1, 1, -1)}


def bent_triangles(
    lifting: Lifting, points: Array, triangles: np.ndarray, name: str
) -> tuple[Array, np.ndarray, float]:
    """Points (n, 3) and triangles (t, 3) on the form, and how far in mm their edges may be off the bent body's.

    Raises CannotBeDone where it would turn over itself, or would need far too many triangles.
    """
    node = clusters(points, 1e-6)
    points = points[np.unique(node, return_index=True)[1]]
    triangles = node[triangles]
    triangles = triangles[(triangles != np.roll(triangles, 1, axis=1)).all(axis=1)]
    _require_room(lifting, points, name)
    worst = 0.0
    for _ in range(ROUNDS):
        edges = np.sort(half_edges(triangles), axis=1)
        _, first, which = np.unique(edge_keys(edges, len(points)), return_index=True, return_inverse=True)
        keys = edges[first]
        image = carried(lifting, points)
        middle = points[keys].mean(axis=1)
        off = np.linalg.norm(carried(lifting, middle) - image[keys].mean(axis=1), axis=1)
        long = off > CURVE
        worst = float(off.max(initial=0.0))
        if not long.any():
            break
        points, triangles = _divided(points, triangles, middle, long, which.ravel().reshape(3, -1).T)
        if len(triangles) > MOST_TRIANGLES:
            raise CannotBeDone(f"{name} would need more than {MOST_TRIANGLES:,} triangles to follow the form.")
    return carried(lifting, points), triangles, worst


def carried(lifting: Lifting, points: Array) -> Array:
    """Points (n, 3) above the blank on the form."""
    faces = lifting.face_at(points[:, :2])
    found = np.zeros_like(points)
    for face in np.unique(faces).tolist():
        found[faces == face] = lifting.on(face, points[faces == face])
    return found


def _require_room(lifting: Lifting, points: Array, name: str) -> None:
    at = lifting.correspondence.to_form(points[:, :2])
    if not at.inside.any():
        raise CannotBeDone(f"{name} does not stand on the blank; move it.")
    low, high = room(lifting, points[at.inside, :2], at.face[at.inside])
    z = points[at.inside, 2]
    bad = np.nonzero((z > MARGIN * high) | (z < MARGIN * low))[0]
    if len(bad):
        k = int(bad[np.argmax(np.abs(z[bad]))])
        limit = high[k] if z[k] > 0 else -low[k]
        raise CannotBeDone(
            f"{name} would turn over itself at {coordinates(at.points[at.inside][k])}, where the form allows no more "
            f"than {MARGIN * limit:.4g} mm; it is {abs(z[k]):.4g} mm {'high' if z[k] > 0 else 'deep'}."
        )


def _divided(
    points: Array, triangles: np.ndarray, middle: Array, long: np.ndarray, edge_of: np.ndarray
) -> tuple[Array, np.ndarray]:
    """With a point in the middle of each edge that is ``long``; both triangles beside it are divided alike."""
    number = np.full(len(long), -1)
    number[long] = len(points) + np.arange(int(long.sum()))
    points = np.vstack([points, middle[long]])
    new = number[edge_of]
    made = []
    for corners, mids in zip(triangles.tolist(), new.tolist(), strict=True):
        made.extend(_pieces(corners, mids))
    return points, np.array(made)


def _pieces(corners: list[int], mids: list[int]) -> list[tuple[int, int, int]]:
    """A triangle divided at the points ``mids`` on its edges from each corner to the next; -1 where there is none."""
    a, b, c = corners
    ab, bc, ca = mids
    count = sum(m >= 0 for m in mids)
    if count == 0:
        return [(a, b, c)]
    if count == 3:
        return [(a, ab, ca), (ab, b, bc), (ca, bc, c), (ab, bc, ca)]
    while ab < 0 or (count == 2 and ca >= 0 and bc < 0):  # turned so that the first edge, then the second, is divided
        a, b, c, ab, bc, ca = b, c, a, bc, ca, ab
    if count == 1:
        return [(a, ab, c), (ab, b, c)]
    return [(ab, b, bc), (a, ab, c), (ab, bc, c)]


def bent_file(form: Form, blank: Blank, content: bytes, name: str, how: Placement) -> tuple[MadeBody, ...]:
    """The bodies of a mesh file bent onto the form. Raises Refused and CannotBeDone."""
    given = read_apart(name, "export it again", lambda part: read_triangles(content, name), SILENT, patience(content))
    lifting = Lifting(form, blank.correspondence)
    made: list[MadeBody] = []
    for copy, here in enumerate(how.row):
        flat = here.points(given.points, blank)
        for number, title in enumerate(given.bodies):
            mine = given.triangles[given.body == number]
            used, corners = np.unique(mine, return_inverse=True)
            corners = corners.reshape(-1, 3)
            about, named = standing(flat[used], corners), how.named(title, copy)
            made.extend(by_triangles(lifting, flat[used], corners, named, how.mirror, about))
    return tuple(made)


def by_triangles(
    lifting: Lifting, points: Array, triangles: np.ndarray, name: str, mirror: str, about: Standing
) -> list[MadeBody]:
    """A body that stands on the blank, bent onto the form, and its twin where it is mirrored."""
    told = {"depth_min": about.low, "depth_max": about.high, "crosses": about.crosses, "floats_max": about.floats,
            "footprint": about.footprint}  # fmt: skip
    bent, corners, off = bent_triangles(lifting, points, triangles, name)
    made = [triangles_made(name, bent, corners, off, **told)]
    if mirror != "none":
        made.append(triangles_made(f"{name}, mirrored", bent * MIRRORED[mirror], corners[:, ::-1], off, **told))
    return made
