"""Curves carried between form and blank, where they lie now: also in the middle of a drag."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np
from PyQt6.QtGui import QColor, QPainter, QPen

from ...core.job.route import Row
from ..motion import Motion, every_so_many, thinned_out
from ..theme import theme
from .layer import BlankLayer, BlankScene, FormLayer, FormScene
from .paths import polygon

if TYPE_CHECKING:
    from ..session import Session
    from ..stages.scene import LineSets

Curves = list[np.ndarray]


class TracedCurves(BlankLayer):
    order = 70

    def paint(self, painter: QPainter, scene: BlankScene) -> None:
        painter.setPen(QPen(QColor(theme().form), 1.4))
        for row in scene.session.on_blank("traced"):
            for curve in scene.session.value(row, "traced") or ():
                painter.drawPolyline(polygon(scene.view.to_pixels(curve.blank)))


class DrawnCurves(FormLayer):
    """Curves that were drawn on the form shown, or brought to it; those of the selected row stand out."""

    order = 50

    def show(self, lines: LineSets, scene: FormScene) -> None:
        own: Curves = []
        others: Curves = []
        for row in drawn_on(scene.session):
            found = own if row.id == scene.session.selected else others
            found.extend(curve.points for curve in scene.session.value(row, "curves") or ())
        lines.of("drawn", 1.7).show(others, theme().curve)
        lines.of("selected", 2.6).show(own, theme().curve)


class FormCurves(FormLayer):
    """Wrapped and traced curves, in another colour where they leave the blank."""

    order = 40

    def show(self, lines: LineSets, scene: FormScene) -> None:
        self.follow(lines, scene)

    def follow(self, lines: LineSets, scene: FormScene) -> None:
        inside, outside = curves_on_form(scene)
        lines.of("curves", 1.7).show(inside, theme().blank)
        lines.of("outside", 1.3).show(outside, theme().outside)


def drawn_on(session: Session) -> list[Row]:
    """The rows that give curves on the form shown, and the selected one if it gives any."""
    form, selected = session.nearby("form"), session.selected_row
    rows = [row for row in session.job.rows if "curves" in row.gives and row.enabled and not session.hides(row)]
    there = [row for row in rows if form is not None and form in session.job.sources(row)]
    return there if selected is None or selected in there or selected not in rows else [*there, selected]


def curves_on_form(scene: FormScene) -> tuple[Curves, Curves]:
    """Polylines (n, 3) of all curves of the blank shown: those on it, and what lies off it."""
    session = scene.session
    inside: Curves = []
    outside: Curves = []
    for row in session.on_blank("wrapped") if scene.blank is not None else ():
        curves = session.value(row, "wrapped")
        if not curves or scene.blank is None:
            continue
        motion = _motion_of(session, row)
        if motion is None:
            for curve in curves:
                split_by_inside(curve.form, curve.inside, inside, outside)
            continue
        every = every_so_many(sum(len(curve.blank) for curve in curves))
        lines = [thinned_out(curve.blank, every) for curve in curves]
        ends = np.cumsum([len(line) for line in lines])[:-1]
        moved = scene.blank.correspondence.to_form(motion.apply(np.vstack(lines)))
        for points, kept in zip(np.split(moved.points, ends), np.split(moved.inside, ends), strict=True):
            split_by_inside(points, kept, inside, outside)
    for row in session.on_blank("traced"):
        for curve in session.value(row, "traced") or ():
            split_by_inside(curve.form, curve.inside, inside, outside)
    return inside, outside


def _motion_of(session: Session, wrapped: Row) -> Motion | None:
    """How the artwork that a row wraps is being dragged."""
    moving = [taken.id for taken in session.job.sources(wrapped) if taken.id in session.motions]
    return session.motions[moving[0]] if moving else None


def split_by_inside(points: np.ndarray, kept: np.ndarray, inside: Curves, outside: Curves) -> None:
    """Runs of a curve on the blank, and runs off it."""
    if kept.all():
        inside.append(points)
        return
    changes = np.nonzero(np.diff(kept.astype(int)))[0] + 1
    for start, end in zip(np.r_[0, changes], np.r_[changes, len(points)], strict=True):
        run = points[start : min(end + 1, len(points))]
        if len(run) > 1:
            (inside if kept[start] else outside).append(run)
