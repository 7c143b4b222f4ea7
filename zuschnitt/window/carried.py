"""The curves carried between form and blank, where they lie now: also in the middle of a drag."""

from __future__ import annotations

import numpy as np

from ..core.develop.blank import Blank
from ..core.route import Row
from .form_picture import Curves
from .session import Motion, Session


def curves_on_form(session: Session, blank: Blank | None) -> tuple[Curves, Curves]:
    """Polylines (n, 3) of all curves of the blank shown: those on it, and what lies off it."""
    inside: Curves = []
    outside: Curves = []
    for row in session.on_blank("wrapped") if blank is not None else ():
        curves = session.value(row, "wrapped")
        if not curves:
            continue
        motion = _motion_of(session, row)
        if motion is None:
            for curve in curves:
                _split(curve.form, curve.inside, inside, outside)
            continue
        ends = np.cumsum([len(curve.blank) for curve in curves])[:-1]
        moved = blank.correspondence.to_form(motion.apply(np.vstack([c.blank for c in curves])))
        for points, kept in zip(np.split(moved.points, ends), np.split(moved.inside, ends), strict=True):
            _split(points, kept, inside, outside)
    for row in session.on_blank("traced"):
        for curve in session.value(row, "traced") or ():
            _split(curve.form, curve.inside, inside, outside)
    return inside, outside


def shown_reliefs(session: Session) -> list[tuple[int, np.ndarray]]:
    """The reliefs (n, 3) of the selected row, or those that the shown blank opens at, with their numbers."""
    row = session.selected_row
    if row is None or session.gives(row) != "reliefs":
        blank = session.nearby("blank")
        row = next((r for r in session.job.sources(blank) if session.gives(r) == "reliefs"), None) if blank else None
    reliefs = session.value(row, "reliefs") or ()
    return [(number, relief.points) for number, relief in enumerate(reliefs, 1)]


def _motion_of(session: Session, wrapped: Row) -> Motion | None:
    """How the artwork that a row wraps is being dragged."""
    moving = [taken.id for taken in session.job.sources(wrapped) if taken.id in session.motions]
    return session.motions[moving[0]] if moving else None


def _split(points: np.ndarray, kept: np.ndarray, inside: Curves, outside: Curves) -> None:
    """Runs of a curve on the blank, and runs off it."""
    if kept.all():
        inside.append(points)
        return
    changes = np.nonzero(np.diff(kept.astype(int)))[0] + 1
    for start, end in zip(np.r_[0, changes], np.r_[changes, len(points)], strict=True):
        run = points[start : min(end + 1, len(points))]
        if len(run) > 1:
            (inside if kept[start] else outside).append(run)
