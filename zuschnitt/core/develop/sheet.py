"""Picked faces as one connected sheet of triangles, relaxed flat."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import replace

import numpy as np
from scipy.interpolate import CubicSpline

from ..correspondence import TriangulatedLeaf
from ..errors import CannotBeDone
from ..flatten.keeping import Held
from ..flatten.metric import Metric, singular_values
from ..flatten.relaxed import relax
from ..form.form import WAIST, Form
from ..form.lines_on_faces import lines_on_faces
from ..form.meshing import ChartMesh, chart_meshes, faces_of
from ..form.pole_to_pole import halved
from ..form.seam_edges import with_seam_edges
from ..form.unwrapped import Unwrapped
from ..geometry.curves import Array
from ..mesh.opening import edge_keys
from ..mesh.triangles import boundary_rings, signed_double_areas
from ..progress import SILENT, Progress
from ..record import record
from ..tolerances import OUTLINE
from .blank import Flat, StretchMesh
from .layout import AS_IT_IS, Joining, Rim, arranged, flat_of
from .limits import EQUILATERAL, MOST_TRIANGLES, triangle_count
from .outline import RELIEF, Side, Walk, seam_name
from .overlapping import lies_over_itself, separating
from .welding import Welded, connected, cut_open, length_of, opened_at, weld

MOST_AROUND = 4000
"""A sliver has no more triangles along its outline than this, about, unless their size is asked for."""
MOST_MENDS = 6
"""How often a blank is cut again where it lies over itself."""
AMISS = 1.5
"""Triangles are that many times larger or smaller than the faces only where something is wrong with these."""
HOPELESS = 20.0
"""Where a sheet that has not settled stretches to so many times its length, it is not worth being cut again."""


def triangle_size(area: float, asked: float | None) -> float:
    """The edge length asked for, or that which gives about 9,000 triangles, in mm.

    Raises CannotBeDone where it would give far too many.
    """
    h = asked or float(np.sqrt(area / (EQUILATERAL * 9000)))
    count = triangle_count(area, h)
    if count > MOST_TRIANGLES:
        number = f"{count:,.0f}" if count < 1e12 else "far too many"
        raise CannotBeDone(
            f"Triangles of {h:g} mm would be {number}; the limit is {MOST_TRIANGLES:,}, so take larger ones."
        )
    return h


def stretch_mesh(points_form: Array, triangles: np.ndarray, points_blank: Array, faces: np.ndarray) -> StretchMesh:
    """The triangles, on ``faces`` (t,), with their principal stretches."""
    jacobians = Metric.of(points_form, triangles).jacobians(points_blank)
    return StretchMesh(points_blank, points_form, triangles, 1 / singular_values(jacobians)[:, ::-1] - 1, faces)


@record
class RelaxedSheet:
    """Faces relaxed as one sheet, before they are held: ``blank`` (n, 2) are the points of ``welded`` on the blank.

    ``old`` (n,) are their numbers in the ``whole`` that was cut open along the spans ``cut``, by their keys;
    ``members`` are the points of each piece. ``seams`` and ``mended`` are how many mm were cut so that it lies flat at
    all, and that it does not lie over itself; ``reliefs`` are the reliefs that lie on it, ``slits`` those of them that
    reach no outline, ``left_out`` those whose sides would have lain on each other. ``put_in`` says of which kind the
    seams are that developing has put in, by the index of their edge. ``arrived`` tells whether the energy is the least.
    """

    meshes: Sequence[ChartMesh]
    whole: Welded
    welded: Welded
    old: np.ndarray
    cut: dict[int, int]
    blank: Array
    members: Sequence[np.ndarray]
    seams: float
    mended: float
    reliefs: frozenset[int]
    put_in: Mapping[int, int]
    slits: frozenset[int] = frozenset()
    left_out: frozenset[int] = frozenset()
    arrived: bool = True

    @property
    def mesh(self) -> StretchMesh:
        """Its triangles with their stretch."""
        return stretch_mesh(self.welded.points_form, self.welded.triangles, self.blank, faces_of(self.meshes))

    @property
    def leaves(self) -> tuple[TriangulatedLeaf, ...]:
        """The correspondence of each face."""
        return _leaves(self.meshes, self.whole, self.welded, self.old, self.blank)


def relaxed_sheet(
    form: Form,
    unwrapped: dict[int, Unwrapped],
    first: int,
    edge_length: float | None = None,
    how: Joining = AS_IT_IS,
    progress: Progress = SILENT,
    mend: bool = True,
    left_out: frozenset[int] = frozenset(),
) -> RelaxedSheet:
    """Relaxes the faces flat together; sheets that do not hang together become pieces, that of face ``first`` first.

    Reliefs ``left_out`` (their numbers from 0) do not open it.
    Raises CannotBeDone where the blank would lie over itself and that is not to be mended.
    """
    asked = form, unwrapped
    area = form.area(unwrapped)
    h = triangle_size(area, edge_length)
    if edge_length is None:
        h = max(h, _around(form, unwrapped) / MOST_AROUND)
    form, faces, meridians = halved(form, unwrapped.values())
    form, faces, put_in = with_seam_edges(form, faces)
    lines = lines_on_faces(form, faces, (*how.reliefs, *meridians), h)
    lines = [line for line in lines if line.line not in left_out]
    meshes = chart_meshes(form, faces, [h] * len(faces), sag=h * h / 40 / np.sqrt(area) + 1e-4, lines=lines)
    whole = weld(meshes, how.cuts)
    _require_covered(area, whole)
    welded, old, cut, seams = opened_at(whole, meshes)
    seams += sum(float(np.linalg.norm(np.diff(line, axis=0), axis=1).sum()) for line in meridians)
    if WAIST in put_in.values():
        seams += sum(form.edges[index].length for index in put_in)
    mended = 0.0
    slits = _slits(whole, welded, old, cut, len(how.reliefs))
    start = _known_start(meshes, welded, old)
    for turn in range(MOST_MENDS + 1):
        blank, members, arrived = _relaxed_pieces(
            meshes, whole, welded, old, how, _index(faces, first), start, progress
        )
        worth = turn < MOST_MENDS and (arrived or not _hopeless(welded, blank))
        over = _overlaps(welded, old, blank, members, len(whole.points_form)) if worth else ()
        if not len(over):
            break
        if slits:
            return relaxed_sheet(*asked, first, edge_length, how, progress, mend, left_out | slits)
        if not mend:
            raise CannotBeDone("The blank would lie over itself; cut it open further.")
        cut.update(dict.fromkeys(over, max(cut.values(), default=len(how.reliefs) - 1) + 1))
        mended += length_of(whole, np.array(over))
        corners = blank[
            welded.triangles
        ]  # what lies flat already stays so; cutting leaves the triangles in their order
        welded, old = cut_open(whole, cut)
        start = np.zeros((len(welded.points_form), 2))
        start[welded.triangles] = corners
    reliefs = frozenset(line.line for line in lines)
    return RelaxedSheet(
        meshes, whole, welded, old, cut, blank, members, seams, mended, reliefs, put_in, slits, left_out, arrived
    )


def _require_covered(area: float, whole: Welded) -> None:
    """Raises CannotBeDone where triangles cover far more or less than the outline bounds, which crosses itself then."""
    a, b, c = np.moveaxis(whole.points_form[whole.triangles], 1, 0)
    covered = float(np.linalg.norm(np.cross(b - a, c - a), axis=1).sum() / 2)
    if not 1 / AMISS < covered / max(area, 1e-300) < AMISS:
        raise CannotBeDone(
            f"The outline of these faces bounds {area:.4g} mm², but {covered:.4g} mm² lie within it, so it crosses "
            "itself; export the part again, or pick other faces."
        )


def _hopeless(welded: Welded, blank: Array) -> bool:
    """Whether a triangle gives so much that no cut between those that overlap makes it cuttable."""
    jacobians = Metric.of(welded.points_form, welded.triangles).jacobians(blank)
    return bool(singular_values(jacobians).min() * HOPELESS < 1)


def _around(form: Form, faces: Iterable[int]) -> float:
    """How long the edges round the faces are together, in mm."""
    edges = {c.edge for n in faces for loop in form.face(n).loops for c in loop if c.edge >= 0}
    return sum(form.edges[edge].length for edge in edges)


def _slits(whole: Welded, welded: Welded, old: np.ndarray, cut: Mapping[int, int], reliefs: int) -> frozenset[int]:
    """The reliefs that reach no outline: all along some opening of the sheet there are reliefs alone."""
    found: set[int] = set()
    rings = boundary_rings(welded.triangles) if cut else []
    piece = connected(welded.points_form, welded.triangles)
    longest = {int(piece[ring[0]]): ring for ring in sorted(rings, key=len)}
    for ring in rings:
        if ring is longest[int(piece[ring[0]])]:
            continue
        was = old[ring]
        keys = edge_keys(np.stack([was, np.roll(was, -1)], axis=1), len(whole.points_form))
        here = {cut.get(key, -1) for key in keys.tolist()}
        if all(0 <= relief < reliefs for relief in here):
            found |= here
    return frozenset(found)


def lay_relaxed(
    form: Form,
    unwrapped: dict[int, Unwrapped],
    first: int,
    edge_length: float | None = None,
    how: Joining = AS_IT_IS,
    progress: Progress = SILENT,
) -> Flat:
    """The faces relaxed flat together, and laid as they are held."""
    sheet = relaxed_sheet(form, unwrapped, first, edge_length, how, progress)
    blank = sheet.blank if how.to_hold is None else how.to_hold(sheet.leaves).apply(sheet.blank)
    motions = arranged([blank[mine] for mine in sheet.members], how.gap)
    blank = blank.copy()
    for mine, motion in zip(sheet.members, motions, strict=True):
        blank[mine] = motion.apply(blank[mine])
    sheet = replace(sheet, blank=blank)
    messages = (*_seams_said(sheet.seams), *_mends_said(sheet.mended), *_beside(how, sheet), *_slits_said(sheet))
    return flat_of(_rims(sheet), sheet.leaves, sheet.mesh, how.tabs, messages)


def _relaxed_pieces(
    meshes: Sequence[ChartMesh],
    whole: Welded,
    welded: Welded,
    old: np.ndarray,
    how: Joining,
    first: int,
    start: Array | None,
    progress: Progress,
) -> tuple[Array, list[np.ndarray], bool]:
    """Every connected piece relaxed by itself: blank points (n, 2), the points of each piece, whether all arrived.

    The piece of the face of index ``first`` comes first; ``start`` (n, 2) is a map that is known.
    """
    pieces = connected(welded.points_form, welded.triangles)
    blank, arrived = np.zeros((len(welded.points_form), 2)), True
    ordered = sorted(set(pieces), key=lambda p: pieces[welded.numbers[first][0]] != p)
    members = [np.nonzero(pieces == piece)[0] for piece in ordered]
    for k, mine in enumerate(members):
        renumber, triangles = _piece(welded, mine)
        part = progress.part(0.1 + 0.8 * k / len(ordered), 0.1 + 0.8 * (k + 1) / len(ordered))
        known = start[mine] if start is not None else None
        held = _held(meshes, whole, welded, old, how, renumber)
        made = relax(welded.points_form[mine], triangles, known, progress=part, keep=how.keep, held=held)
        blank[mine] = made.points_blank
        arrived &= made.arrived
    return blank, members, arrived


def _piece(welded: Welded, mine: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """New numbers of the points ``mine`` (-1 for others), and their triangles in these numbers."""
    renumber = np.full(len(welded.points_form), -1)
    renumber[mine] = np.arange(len(mine))
    local = renumber[welded.triangles]
    return renumber, local[local[:, 0] >= 0]


def _overlaps(
    welded: Welded, old: np.ndarray, blank: Array, members: Sequence[np.ndarray], count: int
) -> tuple[int, ...]:
    """Keys, in the numbers of the whole, of edges along which pieces that lie over themselves are to be cut."""
    found: list[int] = []
    for mine in members:
        _, triangles = _piece(welded, mine)
        if lies_over_itself(blank[mine], triangles):
            keys = separating(welded.points_form[mine], blank[mine], triangles)
            ends = old[mine[np.stack([keys // len(mine), keys % len(mine)], axis=1)]]
            found.extend(edge_keys(ends, count).tolist())
    return tuple(found)


def _held(
    meshes: Sequence[ChartMesh],
    whole: Welded,
    welded: Welded,
    old: np.ndarray,
    how: Joining,
    renumber: np.ndarray,
) -> Held | None:
    """The spans of the edges that are held, in the numbers of one piece; None where there are none in it."""
    if not how.straight and not how.long:
        return None
    new = np.full(len(whole.points_form), -1)
    new[old] = np.arange(len(old))  # of a point that a relief has doubled, one copy is held
    pairs, edges = [], []
    for mesh, numbers in zip(meshes, whole.numbers, strict=True):
        for low, high, edge, _ in mesh.outline.tolist():
            if edge in how.straight or edge in how.long:
                pair = renumber[new[[numbers[low], numbers[high]]]]
                if (pair >= 0).all():
                    pairs.append(pair)
                    edges.append(edge)
    if not pairs:
        return None
    spans = np.array(pairs)
    mine = np.nonzero(renumber >= 0)[0]
    points = welded.points_form[mine]
    lengths = np.linalg.norm(points[spans[:, 1]] - points[spans[:, 0]], axis=1)
    _, chains = np.unique(edges, return_inverse=True)
    straight, long = (np.isin(edges, sorted(held)) for held in (how.straight, how.long))
    return Held(spans, lengths, chains, straight, long)


def _leaves(
    meshes: Sequence[ChartMesh], whole: Welded, welded: Welded, old: np.ndarray, blank: Array
) -> tuple[TriangulatedLeaf, ...]:
    """Each face between its chart and the blank; points on a cut stand once for each side of it."""
    leaves = []
    begin = 0
    for mesh, numbers in zip(meshes, whole.numbers, strict=True):
        mine = welded.triangles[begin : begin + len(mesh.triangles)]
        begin += len(mesh.triangles)
        used, triangles = np.unique(mine, return_inverse=True)
        in_chart = np.full(len(whole.points_form), -1)
        in_chart[numbers] = np.arange(len(numbers))
        face = mesh.unwrapped
        leaves.append(
            TriangulatedLeaf(
                face.face.number, face.chart, face.region(OUTLINE),
                mesh.points_chart[in_chart[old[used]]], blank[used], triangles.reshape(-1, 3),
            )
        )  # fmt: skip
    return tuple(leaves)


def _slits_said(sheet: RelaxedSheet) -> tuple[str, ...]:
    """Sentences on reliefs that reach no outline, and on a blank that may not be the best."""
    said: tuple[str, ...] = ()
    if sheet.left_out:
        numbers = ", ".join(str(k + 1) for k in sorted(sheet.left_out))
        said += (
            f"Relief {numbers} reaches no edge, and as a slit its sides would lie on each other, so nothing opens "
            "there; draw it on to an edge.",
        )
    if sheet.slits:
        numbers = ", ".join(str(k + 1) for k in sorted(sheet.slits))
        said += (
            f"Relief {numbers} reaches no edge and opens as a slit, which seldom lowers the stretch; "
            "draw it on to an edge.",
        )
    if not sheet.arrived:
        said += (
            "The blank has not settled at the least stretch it can have; take larger triangles, or fewer faces "
            "together.",
        )
    return said


def _beside(how: Joining, sheet: RelaxedSheet) -> tuple[str, ...]:
    """A sentence on reliefs that do not lie on the faces."""
    lost = [str(k + 1) for k in range(len(how.reliefs)) if k not in sheet.reliefs | sheet.left_out]
    if not lost:
        return ()
    return (f"Relief {', '.join(lost)} lies beside the developed faces, so nothing opens there; draw it on them.",)


def _seams_said(length: float) -> tuple[str, ...]:
    if length == 0:
        return ()
    return (
        f"The faces close on themselves and were cut open along {length:.0f} mm; cut them open along edges of your "
        "choice where another seam is better.",
    )


def _mends_said(length: float) -> tuple[str, ...]:
    if length == 0:
        return ()
    return (
        f"In one piece the blank would lie over itself, so it was taken apart along {length:.0f} mm; "
        "draw a relief where another cut is better.",
    )


def _index(faces: Sequence[Unwrapped], number: int) -> int:
    return next(i for i, face in enumerate(faces) if face.face.number == number)


def _known_start(meshes: Sequence[ChartMesh], welded: Welded, old: np.ndarray) -> Array | None:
    """The chart of a single face, as the start of its development; None for several faces."""
    if len(meshes) != 1:
        return None
    start = np.zeros((int(old.max()) + 1, 2))
    start[welded.numbers[0]] = meshes[0].points_chart
    start = start[old]
    good = (signed_double_areas(start, welded.triangles) > 0).all()
    return start if good else None


def _rims(sheet: RelaxedSheet) -> list[Rim]:
    """The rims of the pieces: smooth curves through the points along each edge of the form."""
    faces, corner = faces_of(sheet.meshes), sheet.welded.triangles[:, 0]
    piece = np.zeros(len(sheet.welded.points_form), int)
    for k, mine in enumerate(sheet.members):
        piece[mine] = k
    found = [Rim([], tuple(np.unique(faces[piece[corner] == k]).tolist())) for k in range(len(sheet.members))]
    edge_of: dict[tuple[int, int], int] = {}
    for i, mesh in enumerate(sheet.meshes):
        for low, high, edge, _ in mesh.outline.tolist():
            a, b = sorted((int(sheet.whole.numbers[i][low]), int(sheet.whole.numbers[i][high])))
            edge_of[a, b] = edge * len(sheet.meshes) + i
    for ring in boundary_rings(sheet.welded.triangles):
        found[piece[ring[0]]].chains.append(_sides(sheet, ring, edge_of))
    return found


def _sides(sheet: RelaxedSheet, ring: np.ndarray, edge_of: dict[tuple[int, int], int]) -> list[Side]:
    """The sides along one ring of points (n,): each ends where another edge begins, and at the tip of a relief.

    ``edge_of`` has for two points of the whole their edge, with the face's index in the last place.
    """
    meshes, blank, was = sheet.meshes, sheet.blank, sheet.old[ring]

    def side(edge: int, walk: Walk) -> Side:
        edge, face = divmod(edge, len(meshes))
        number = meshes[face].unwrapped.face.number
        return Side(number, _named(edge, number, sheet.put_in), [walk])

    spans = zip(was.tolist(), np.roll(was, -1).tolist(), strict=True)
    count = len(sheet.whole.points_form)
    edges = [_edge_of(min(span), max(span), edge_of, sheet.cut, count, len(meshes)) for span in spans]
    tips = np.roll(was, 1) == np.roll(was, -1)  # there the outline turns back
    turns = [i for i in range(len(edges)) if edges[i] != edges[i - 1] or tips[i]]
    if not turns:
        return [side(edges[0], _smooth(blank[np.r_[ring, ring[:1]]], periodic=True))]
    found = []
    for start, end in zip(turns, [*turns[1:], turns[0] + len(ring)], strict=True):
        index = ring[np.arange(start, end + 1) % len(ring)]
        found.append(side(edges[start], _smooth(blank[index])))
    return found


def _edge_of(a: int, b: int, edge_of: dict, cut: dict[int, int], points: int, faces: int) -> int:
    """Which edge a span of the outline lies on, or which relief, with the face's index in the last place."""
    relief = cut.get(a * points + b)
    if relief is not None:
        return (RELIEF - relief) * faces
    return edge_of.get((a, b), -faces)


def _named(edge: int, face: int, put_in: Mapping[int, int]) -> int:
    """The name of a side, as ``Side`` has it."""
    if edge in put_in:
        return seam_name(face, put_in[edge])
    return edge + 1 if edge >= 0 else edge if edge <= RELIEF else 0


def _smooth(points: Array, periodic: bool = False) -> Walk:
    t = np.r_[0, np.cumsum(np.linalg.norm(np.diff(points, axis=0), axis=1))]
    if len(points) < 4:
        return (lambda s: np.stack([np.interp(s, t, points[:, k]) for k in (0, 1)], axis=1)), 0.0, float(t[-1])
    spline = CubicSpline(t, points, bc_type="periodic" if periodic else "not-a-knot")
    return spline, 0.0, float(t[-1])
