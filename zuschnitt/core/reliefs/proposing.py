"""Where to cut so that a relaxed blank comes under a chosen stretch, with as little cutting as may be."""

from __future__ import annotations

from ..develop.blank import Blank
from ..errors import CannotBeDone
from ..form.form import Form
from ..progress import SILENT, Progress
from .gores import gores
from .inward_cuts import inward_cuts
from .proposal import Part, Proposal


def propose(form: Form, blank: Blank, target: float, most: int = 8, progress: Progress = SILENT) -> Proposal:
    """Proposes reliefs for a relaxed blank, so that no stretch exceeds ``target`` percent.

    A part that closes on itself is divided into gores; others are cut from the outline inwards. At most ``most``
    cuts are proposed; where they do not suffice, ``reached`` says how far they lead. Raises CannotBeDone for a blank
    that has nothing to relieve.
    """
    if blank.mesh is None:
        raise CannotBeDone("This blank was developed without stretch, so there is nothing to relieve.")
    if blank.figures.pieces > 1 and not blank.seams_form:
        raise CannotBeDone("Reliefs are proposed for a blank of one piece; develop its faces one by one.")
    part = Part.of(form, blank)
    if part.uncut <= target:
        return part.nothing
    has_rim = _has_rim(form, blank)
    if has_rim and not blank.seams_form:
        return inward_cuts(part, target, most, progress)
    round_axis = gores(part, target, most, progress.part(0.0, 0.6))
    if round_axis.reached <= target or not has_rim:
        return round_axis
    try:
        inwards = inward_cuts(part, target, most, progress.part(0.6, 1.0))
    except CannotBeDone:  # it lies over itself as long as it is cut too little
        return round_axis
    return min(round_axis, inwards, key=lambda proposal: (max(proposal.reached, target), proposal.length))


def _has_rim(form: Form, blank: Blank) -> bool:
    """Whether the faces end anywhere, and do not only close on each other."""
    faces = set(blank.faces)
    return any(
        len(faces.intersection(edge.faces)) == 1 and index not in form.seams for index, edge in enumerate(form.edges)
    )
