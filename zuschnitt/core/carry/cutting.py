"""A drawing on a blank, cut into its form: closed figures to be cut become holes, the others divide the faces."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import replace

import numpy as np
import shapely

from ..correspondence import Correspondence, Leaf, Rigid, RigidLeaf
from ..develop.blank import Blank
from ..develop.piece import moved_contours
from ..errors import CannotBeDone, Refused
from ..form.dividing import Divided, OnFace, divided, scale_of
from ..form.form import CUT, Coedge, Face, Form
from ..form.unwrapped import shifted
from ..geometry.curves import Array, Ellipse, Line
from ..plane.arrangement import Piece
from ..plane.contour import Contour
from ..progress import SILENT, Progress
from ..record import record
from ..wording import counted
from .borders import Borders
from .figures import Figure, figures
from .on_parameters import pieces_of
from .projection import against_projection
from .runs import runs_on_faces
from .turns import Turn, turns

OVER = 0.01
"""Lines and arcs that leave a face are drawn so many mm beyond its outline."""
FINE = 1e-3
"""Figures are flattened to this, in mm, to ask what lies in them."""
LOST, LOST_RELAXED = 1e-4, 0.02
"""What may be missing of a figure, as a part of it, beside what the material stretches."""
MOST_FIGURES = 20_000
"""No form is cut by more figures than this at once."""


@record
class Hole:
    """``area`` in mm² taken out of the form, ``length`` in mm of its edge there.

    ``against_projection`` is how far in mm it lies from its projection along the normal at the hold point, None where
    that misses the form.
    """

    name: str
    area: float
    length: float
    against_projection: float | None


@record
class CutForm:
    """The ``form`` with its new edges, and the ``holes`` in it."""

    form: Form
    holes: tuple[Hole, ...]
    messages: tuple[str, ...]


def cut_into(form: Form, blank: Blank, drawing: Sequence[Contour], progress: Progress = SILENT) -> CutForm:
    """Closed contours on layer CUT become holes, what is on REFERENCE stays behind, all else divides the faces.

    Raises Refused for contours that cross themselves, CannotBeDone where nothing of the drawing is on the blank or
    nothing of a face would be left.
    """
    contours = [c for c in drawing if c.layer != "REFERENCE" and len(c.points) and np.ptp(c.points, axis=0).max() > 0]
    if len(contours) > MOST_FIGURES:
        raise Refused(
            f"The drawing has {len(contours):,} figures; no more than {MOST_FIGURES:,} can be cut into a form at once, "
            "so cut it in parts."
        )
    if not contours:
        raise Refused("The drawing has no figures to be cut or marked, only reference ones; put some on layer CUT.")
    cut = [i for i, c in enumerate(contours) if c.layer == "CUT" and c.closed]
    found_figures = [
        replace(each, outer=tuple(cut[k] for k in each.outer), islands=tuple(cut[k] for k in each.islands))
        for each in figures([contours[i] for i in cut])
    ]
    loose = sum(len(each.islands) for each in found_figures)
    correspondence = replace(blank.correspondence, open=True)
    curves: dict[int, list[OnFace]] = defaultdict(list)
    found = turns(blank.correspondence, contours)
    for k, turn in enumerate(found):
        part = progress.part(0.1 + 0.5 * k / len(found), 0.1 + 0.5 * (k + 1) / len(found))
        mine = {i: contours[i] for i in sorted(turn.contours)}
        for number, on_it in _on_faces(form, correspondence, mine, turn.motion, part).items():
            if number in turn.faces:
                curves[number].extend(on_it)
    inside = _Inside(blank.correspondence, found_figures, found)
    for leaf in blank.correspondence.leaves:  # faces that lie within a figure as a whole
        if leaf.face not in curves and inside(leaf.face, _within(leaf)) >= 0:
            curves[leaf.face] = []
    if not curves:
        raise CannotBeDone("Nothing of the drawing lies on the blank; move or scale it.")
    progress.step(0.6, "dividing faces")
    made = divided(form, curves, inside)
    progress.step(0.9, "measuring")
    holes = tuple(_measured(form, blank, figure, i, made, contours) for i, figure in enumerate(found_figures))
    _require_all(blank, found_figures, holes, found)
    return CutForm(made.form, holes, tuple(_said(holes, loose, contours, made.new)))


def _within(leaf: Leaf) -> Array:
    """A point (3,) in a face."""
    at = leaf.region.shape.representative_point()
    return leaf.chart.to_form(np.array([[at.x, at.y]]))[0]


def _on_faces(
    form: Form, correspondence: Correspondence, contours: Mapping[int, Contour], motion: Rigid, progress: Progress
) -> Mapping[int, list[OnFace]]:
    """The contours, moved, as curves in the parameters of each face; tagged with their keys."""
    tags = list(contours)
    paths, runs = runs_on_faces(correspondence, moved_contours(tuple(contours.values()), motion), progress)
    leaves = {leaf.face: leaf for leaf in correspondence.leaves}
    found: dict[int, list[OnFace]] = defaultdict(list)
    exact = all(isinstance(leaf, RigidLeaf) for leaf in leaves.values())
    borders = Borders(form, correspondence.slack)
    for run in sorted(runs, key=lambda run: not isinstance(leaves[run.face], RigidLeaf)):
        face, leaf = form.face(run.face), leaves[run.face]
        pieces = pieces_of(leaf, paths, run)
        if isinstance(leaf, RigidLeaf):
            pieces = _over_the_edge(pieces, run.leaves(paths), scale_of(face))
            pieces = borders.reached(face, pieces, run.leaves(paths))
        if not exact:
            pieces = borders.met(face, pieces, run.leaves(paths), isinstance(leaf, RigidLeaf))
        for piece in pieces:
            found[run.face].extend(OnFace(each, tags[run.contour]) for each in _everywhere(face, piece))
    return found


def _over_the_edge(pieces: list[Piece], leaves: tuple[bool, bool], scale: Array) -> list[Piece]:
    """The pieces of a run, lines and arcs a little longer where it leaves the face.

    Where a run ends is known by the flattened outline only, which a round one runs beside. What is too long ends in
    nothing, and is left out.
    """
    made = list(pieces)
    for index, end in ((0, 0), (-1, 1)) if made else ():
        piece = made[index]
        if not leaves[end] or not isinstance(piece.curve, Line | Ellipse):
            continue
        at = np.array([(piece.start, piece.end)[end]])
        speed = float(np.linalg.norm(piece.curve.derivative(at)[0] * scale))
        way = (1 if piece.end > piece.start else -1) * (1 if end else -1)
        if speed > 0:
            moved = float(at[0]) + way * OVER / speed
            made[index] = replace(piece, end=moved) if end else replace(piece, start=moved)
    return made


def _everywhere(face: Face, piece: Piece) -> Iterator[Piece]:
    """A piece wherever it lies within the face's own parameters, where these come round again, in either direction."""
    own = np.vstack([c.uv(np.linspace(c.start, c.end, 17)) for loop in face.loops for c in loop])
    here = piece.curve.evaluate(np.linspace(piece.start, piece.end, 17))
    turns: list[list[float]] = [[0.0], [0.0]]
    for axis, period in enumerate(face.surface.periods):
        if period is not None:
            slack = 1e-9 * period
            low = int(np.ceil((own[:, axis].min() - here[:, axis].max() - slack) / period))
            high = int(np.floor((own[:, axis].max() - here[:, axis].min() + slack) / period))
            turns[axis] = [k * period for k in range(low, high + 1)]
    for u in turns[0]:
        for v in turns[1]:
            moved = shifted(Coedge(CUT, piece.curve, piece.start, piece.end), (u, v)).curve
            yield Piece(moved, piece.start, piece.end)


class _Inside:
    """Says for which figure a part of a face is taken out."""

    def __init__(self, correspondence: Correspondence, figures: Sequence[Figure], found: Sequence[Turn]) -> None:
        self.correspondence, self.figures, self.turns = correspondence, figures, found
        self.tree = shapely.STRtree([figure.region for figure in figures])

    def __call__(self, face: int, point: Array) -> int:
        if not self.figures:
            return -1
        at = self.correspondence.to_blank(point[None], faces=[face]).points
        for turn in self.turns:
            if face in turn.faces:
                found = self.tree.query(shapely.points(turn.motion.undo(at))[0], predicate="within")
                mine = [k for k in found.tolist() if self.figures[k].contours[0] in turn.contours]
                if mine:
                    return mine[0]
        return -1


def _measured(
    form: Form, blank: Blank, figure: Figure, number: int, made: Divided, contours: Sequence[Contour]
) -> Hole:
    area = sum(each.area for each in made.removed if each.figure == number)
    edges = [edge for tag in figure.contours for edge in made.new.get(tag, ())]
    length = sum(made.form.edge(edge).length for edge in edges)
    points = np.vstack([contours[i].flattened(0.05) for i in figure.contours])
    return Hole(figure.name, area, length, against_projection(form, blank, points))


def _require_all(blank: Blank, figures: Sequence[Figure], holes: Sequence[Hole], found: Sequence[Turn]) -> None:
    """Raises CannotBeDone where not all of a figure was cut out of the form."""
    stretch = max(abs(blank.figures.stretch_max), abs(blank.figures.stretch_min)) / 100
    slack = 2 * stretch + (LOST if blank.way == "exact" else LOST_RELAXED)
    for figure, hole in zip(figures, holes, strict=True):
        mine = [turn.motion for turn in found if figure.contours[0] in turn.contours]
        there = shapely.union_all([shapely.transform(figure.region, motion.apply) for motion in mine])
        wanted = there.intersection(blank.region.shape).area
        if abs(hole.area - wanted) > slack * wanted + FINE * there.length:
            raise CannotBeDone(
                f"{hole.name} cannot be cut into the form whole: {hole.area:.2f} mm² of {wanted:.2f} mm² would be "
                "taken out; move it off seams and poles."
            )


def _said(holes: Sequence[Hole], loose: int, contours: Sequence[Contour], new: Mapping[int, Sequence[int]]):
    beside = [hole for hole in holes if hole.area == 0]
    if beside:
        yield f"Of {counted(len(holes), 'figure')}, {len(beside)} cut nothing out of the form, being beside the blank."
    if loose:
        are = "is" if loose == 1 else "are"
        yield f"{counted(loose, 'part')} within a hole {are} left loose; bridge what is to stay in the drawing."
    idle = [c for i, c in enumerate(contours) if (c.layer != "CUT" or not c.closed) and not new.get(i)]
    if idle:
        lines, them = ("line divides", "it") if len(idle) == 1 else ("lines divide", "them")
        yield f"{len(idle)} {lines} no face from edge to edge, so no edge was made of {them}; wrap {them} as curves."
