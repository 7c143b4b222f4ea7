"""The flat pattern of a sheet part as the blank of its folded body: what lies on one is carried to the other."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from ..correspondence import Rigid, RigidLeaf
from ..develop.assembly import Assembly
from ..develop.blank import Blank
from ..develop.developing import develop
from ..develop.piece import Piece
from ..develop.placing import Hold
from ..errors import CannotBeDone
from ..form.form import Form
from ..geometry.curves import Array
from ..plane.contour import BendNote, Contour
from ..progress import SILENT, Progress
from .body import as_it_stands, is_sharp, loops_of_faces
from .cone_roll import ConeRoll
from .flat import BendLine, bend_lines, contour, outline
from .part import SheetPart

AGREE = 1e-5
"""The flat and the development of the folded body agree in area within this part."""


def sheet_blank(part: SheetPart, folded: Form, stage: float = 1.0, progress: Progress = SILENT) -> Blank:
    """The blank of the followed side of the body folded to a stage, laid as the flat is, with its bend lines.

    It is developed anew from the body, so it also checks the flat: raises CannotBeDone where they do not agree. A
    bend that is an edge on the followed side cannot be developed; nothing can be carried from it.
    """
    part = as_it_stands(part)
    of_zones = faces_of_zones(part, stage)
    count = sum(len(numbers) for numbers in of_zones)
    depths = tuple((number, _depth(part, zone)) for zone, numbers in enumerate(of_zones) for number in numbers)
    turn, shift = part.root.turn, part.root.shift
    at, x, y, _ = part.surface(part.stays, (-turn.T @ shift)[None], stage)
    hold = Hold(part.frame.world(at)[0], part.frame.directions(turn[0, 0] * x[0] + turn[0, 1] * y[0]))
    blank = develop(folded, range(1, count + 1), "exact", hold, progress=progress, assembly=Assembly(depths=depths))
    if all(of_zones) and (  # with bends that are edges it has another area
        abs(blank.figures.area_blank - part.flat_area) > AGREE * part.flat_area or blank.figures.pieces > 1
    ):
        raise CannotBeDone(
            f"The flat, {part.flat_area:.3f} mm², and the folded body developed anew, "
            f"{blank.figures.area_blank:.3f} mm², do not agree; please report this part."
        )
    blank = _laid_out(part, blank, of_zones, stage)
    loops = tuple(contour(loop) for loop in outline(part))
    folds = tuple(fold for line in bend_lines(part) for fold in bend_contours(line))
    return replace(blank, pieces=(Piece(loops, folds, blank.faces),))


def _laid_out(part: SheetPart, blank: Blank, of_zones: Sequence[Sequence[int]], stage: float) -> Blank:
    """With each face where its zone lies on the flat.

    The development has no room for bends that are edges, and cannot tell the two sides of a ring's slit apart.
    """
    zone_of = {number: k for k, numbers in enumerate(of_zones) for number in numbers}
    frames = part.frames(stage)
    leaves = []
    for leaf in blank.correspondence.leaves:
        assert isinstance(leaf, RigidLeaf)
        k = zone_of[leaf.face]
        rings = np.vstack(leaf.region.rings)
        flat = part.places[k].apply(part.laid(k, frames[k].local(leaf.chart.to_form(rings)), stage))
        leaves.append(replace(leaf, placement=fitted(rings, flat)))
    figures = replace(blank.figures, area_blank=part.flat_area, pieces=1)
    return replace(blank, correspondence=replace(blank.correspondence, leaves=tuple(leaves)), figures=figures)


def fitted(source: Array, target: Array) -> Rigid:
    """The motion of the plane that lays points (n, 2) on others."""
    a, b = source - source.mean(axis=0), target - target.mean(axis=0)
    angle = np.arctan2((a[:, 0] * b[:, 1] - a[:, 1] * b[:, 0]).sum(), (a * b).sum())
    turn = np.array([[np.cos(angle), -np.sin(angle)], [np.sin(angle), np.cos(angle)]])
    return Rigid(turn, target.mean(axis=0) - turn @ source.mean(axis=0))


def faces_of_zones(part: SheetPart, stage: float = 1.0) -> list[list[int]]:
    """For each zone the numbers of the faces on its followed side, of the body folded to a stage."""
    found: list[list[int]] = []
    number = 0
    for k, zone in enumerate(part.zones):
        mine = 0 if is_sharp(part.rolled(k, stage), part.thickness) else len(loops_of_faces(zone.loops))
        found.append(list(range(number + 1, number + 1 + mine)))
        number += mine
    return found


def _depth(part: SheetPart, zone: int) -> float:
    """How far along the outer normal of the followed side the layer lies that keeps its length."""
    roll = part.zones[zone].roll
    if roll is None:
        return 0.0
    if isinstance(roll, ConeRoll):
        return roll.way * roll.depth
    if roll.up:
        return roll.radius - roll.neutral
    return roll.neutral - roll.radius - part.thickness


def bend_contours(line: BendLine) -> tuple[Contour, ...]:
    """A bend line on its layer, in pieces where the sheet is open on it."""
    note = BendNote(float(np.degrees(line.angle)), line.radius, line.allowance)
    name = f"bend {line.number}"
    return tuple(replace(Contour.polyline([a, b], layer=line.layer, name=name), bend=note) for a, b in line.lines)
