"""Bodies on a form as they are seen while something is moved on its blank: triangles, carried as they are."""

from __future__ import annotations

from collections.abc import Sequence
from functools import partial

import numpy as np
import shapely

from ..carry.figures import figures
from ..carry.lifted import Lifting
from ..carry.placement import Placement
from ..develop.blank import Blank
from ..files.mesh_file import read_triangles
from ..form.form import Form
from ..form.glimpse import Glimpse
from ..geometry.curves import Array
from ..mesh.opening import half_edges
from ..plane.arrangement import clusters
from ..plane.contour import Contour
from .bent_mesh import MIRRORED, carried
from .body_file import read_body
from .by_mesh import MeshBody
from .outlines import sheet_under
from .triangulated import triangles_of
from .under import mesh_under

STEP = (".step", ".stp")
ACROSS = 70
"""Triangles of what is carried are about so many times smaller than the form."""
REACH = 2e-3
"""Pieces reach through the surface by this part of the form's size."""
ROUGH = 5e-4
"""Outlines are made lighter by so much of the form's size."""
TURN = 0.3
"""Flat bodies are looked at as triangles that turn by so many radians at most."""
SHARP = np.cos(np.radians(30))
"""Triangles that meet at more than this are seen to meet in an edge."""


class _Kept:
    """What stays the same while something moves: the form's own triangles and edges, and the flat bodies of a file."""

    def __init__(self) -> None:
        self._forms: tuple[Form, Blank, MeshBody | None, tuple[Array, ...]] | None = None
        self._files: tuple[bytes, float, Array, np.ndarray, np.ndarray] | None = None

    def under(self, form: Form, blank: Blank) -> tuple[MeshBody | None, tuple[Array, ...]]:
        """The closed body under a blank, None where its faces are open, and the form's edges."""
        if self._forms is None or self._forms[0] is not form or self._forms[1] is not blank:
            edges = tuple(e.points(form.size * REACH) for k, e in enumerate(form.edges) if k not in form.seams)
            self._forms = form, blank, mesh_under(form, blank), edges
        return self._forms[2:]

    def flat(self, content: bytes, name: str, length: float) -> tuple[Array, np.ndarray, np.ndarray]:
        """Points (n, 3) and triangles (t, 3) of all that a file holds, and its edges (e, 2), divided to a length."""
        if self._files is None or self._files[0] is not content or self._files[1] != length:
            if name.lower().endswith(STEP):
                points, triangles = triangles_of(read_body(content, name), TURN)
            else:
                given = read_triangles(content, name)
                points, triangles = given.points, given.triangles
            node = clusters(points, 1e-6)
            points, triangles = points[np.unique(node, return_index=True)[1]], node[triangles]
            body = MeshBody.of(points, triangles, name)
            finer = body.divided(length)
            self._files = content, length, *finer, _sharp(*finer)
        return self._files[2:]


_kept = _Kept()


def raised_glimpse(form: Form, blank: Blank, drawing: Sequence[Contour], height: float) -> Glimpse:
    """The form with the closed outlines of a drawing raised by ``height`` mm, or sunk; of open faces the pieces."""
    lifting, size = Lifting(form, blank.correspondence), form.size
    body, edges = _kept.under(form, blank)
    reach = REACH * size if body is not None else 0.0
    low, high = (-reach, height) if height > 0 else (height, reach)
    pieces: list[MeshBody] = []
    flat = [np.zeros((0, 3))]
    closed = [c for c in drawing if c.layer != "REFERENCE" and c.closed]
    sheet = sheet_under(blank, closed)
    for figure in figures(closed):
        lying = figure.region.intersection(sheet).simplify(ROUGH * size)
        for part in shapely.get_parts(lying):
            if not isinstance(part, shapely.Polygon) or part.is_empty:
                continue
            piece = MeshBody.drawn_out(part, low, high, partial(carried, lifting), size / ACROSS)
            if piece is not None:
                pieces.append(piece)
            for ring in (part.exterior, *part.interiors):
                along = np.array(shapely.segmentize(ring, size / ACROSS).coords)
                flat.extend(np.column_stack([along, np.full(len(along), z)]) for z in (0.0, height))
    lines = np.split(carried(lifting, np.vstack(flat)), np.cumsum([len(line) for line in flat])[:-1])[1:]
    if body is None:
        return Glimpse.of_shaded([piece.shaded() for piece in pieces], lines)
    if height < 0 and pieces:
        return Glimpse(*body.cut(pieces).shaded(), (*edges, *lines))
    return Glimpse.of_shaded([body.shaded(), *(piece.shaded() for piece in pieces)], [*edges, *lines])


def bent_glimpse(form: Form, blank: Blank, content: bytes, name: str, how: Placement) -> Glimpse:
    """The bodies of a file that stand on a blank, bent onto the form."""
    points, triangles, edges = _kept.flat(content, name, form.size / ACROSS)
    flat = np.vstack([here.points(points, blank) for here in how.row])
    bodies, lines = [], []
    for bent in np.split(carried(Lifting(form, blank.correspondence), flat), how.count):
        bodies.append((bent, triangles))
        lines.append(bent[edges])
        if how.mirror != "none":
            twin = bent * MIRRORED[how.mirror]
            bodies.append((twin, triangles[:, ::-1]))
            lines.append(twin[edges])
    return Glimpse.of_bodies(bodies, list(np.concatenate(lines)))


def _sharp(points: Array, triangles: np.ndarray) -> np.ndarray:
    """The edges (e, 2) of a closed mesh at which its triangles meet sharply."""
    normals = np.cross(
        points[triangles[:, 1]] - points[triangles[:, 0]], points[triangles[:, 2]] - points[triangles[:, 0]]
    )
    normals /= np.maximum(np.linalg.norm(normals, axis=1, keepdims=True), 1e-300)
    half = half_edges(triangles)
    owner = np.arange(len(half)) % len(triangles)
    order = np.lexsort(np.sort(half, axis=1).T)
    one, other = order[:-1:2], order[1::2]
    cosine = np.einsum("ij,ij->i", normals[owner[one]], normals[owner[other]])
    return np.sort(half[one], axis=1)[cosine < SHARP]
