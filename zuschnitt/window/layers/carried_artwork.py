"""Artwork and drawings on the form at once, before a row wraps them."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING, Any

import numpy as np

from ...core.job.route import Row
from ...core.plane.contour import Contour, cut_out, flattened, total_length
from ...core.plane.hatching import hatched
from ..motion import every_so_many, thinned_out
from ..theme import theme
from .curves import Curves, split_by_inside
from .layer import FormLayer, FormScene

if TYPE_CHECKING:
    from ..stages.scene import LineSets

FINE = 4000.0
"""Lines are divided into parts of about this share of the form's size."""
APART = 120.0
"""Lines of a hatching are this part of the form's size apart."""
MOST = 20_000
"""So many points are carried at the most: of larger artwork each line is carried more coarsely."""


class CarriedArtwork(FormLayer):
    """That of the selected row; what a row wraps already is shown by that."""

    order = 45

    def __init__(self) -> None:
        self._kept: tuple[tuple[Any, ...], tuple[Curves, Curves, Curves]] | None = None

    def key(self, scene: FormScene) -> Any:
        return id(scene.session.drawings.now())

    def show(self, lines: LineSets, scene: FormScene) -> None:
        self.follow(lines, scene)

    def follow(self, lines: LineSets, scene: FormScene) -> None:
        inside, outside, hatching = self._curves(scene)
        lines.of("carried", 1.4).show(inside, theme().blank)
        lines.of("carried off", 1.2).show(outside, theme().outside)
        lines.of("hatched", 0.8).show(hatching, theme().blank)

    def _curves(self, scene: FormScene) -> tuple[Curves, Curves, Curves]:
        """Curves on the blank and off it, and the hatching of what is cut out."""
        session, row = scene.session, scene.session.selected_row
        if row is None or scene.blank is None or session.hides(row) or _wrapped(scene, row):
            return [], [], []
        if session.body_of(row) is not None:  # it is seen as a body
            return [], [], []
        drawing = session.drawings.now()
        contours: Sequence[Contour] = ()
        bounding = False  # an outline in place of the blank's is not cut out of it
        if drawing is not None:
            bounding = any(each.outline for each in drawing.drawn)
            contours = [c for each in drawing.drawn if not each.used for c in each.contours if c.layer != "REFERENCE"]
        elif (artwork := session.value(row, "artwork")) is not None:
            contours, bounding = artwork.contours, artwork.outline
        motion = session.motions.get(row.id)
        about = (drawing if drawing is not None else contours, scene.blank, motion)
        if self._kept is not None and all(a is b for a, b in zip(self._kept[0], about, strict=True)):
            return self._kept[1]
        found: tuple[Curves, Curves, Curves] = ([], [], [])
        if len(contours):
            found = (*carried(contours, scene, motion), [] if bounding else _hatching(contours, scene, motion))
        self._kept = about, found
        return found


def carried(contours: Sequence[Contour], scene: FormScene, motion: Any) -> tuple[Curves, Curves]:
    """Contours as polylines (n, 3) on the form: those on the blank, and those off it."""
    assert scene.blank is not None
    step = max(scene.form.size / 100, total_length(contours) / MOST)
    lines = divided(contours, step, scene.form.size / FINE)
    if motion is not None:
        every = every_so_many(sum(len(line) for line in lines))
        lines = [thinned_out(line, every) for line in lines]
    points = np.vstack(lines)
    moved = scene.blank.correspondence.to_form(points if motion is None else motion.apply(points))
    inside: Curves = []
    outside: Curves = []
    ends = np.cumsum([len(line) for line in lines])[:-1]
    for on_form, kept in zip(np.split(moved.points, ends), np.split(moved.inside, ends), strict=True):
        split_by_inside(on_form, kept, inside, outside)
    return inside, outside


def _hatching(contours: Sequence[Contour], scene: FormScene, motion: Any) -> Curves:
    """What is cut out, hatched on the form."""
    rings = [contour.flattened(scene.form.size / FINE) for contour in cut_out(contours)]
    lines = [Contour.polyline(ends) for ends in hatched(rings, scene.form.size / APART)]
    return carried(lines, scene, motion)[0] if lines else []


def divided(contours: Sequence[Contour], step: float, tolerance: float) -> list[np.ndarray]:
    """Points along each of the contours, no further apart than ``step`` mm."""
    lines = flattened(contours, tolerance)
    if not lines:
        return []
    sizes = np.array([len(line) for line in lines])
    points = np.vstack(lines)
    beyond = np.vstack([points[1:], points[-1:]])
    last = np.cumsum(sizes) - 1
    beyond[last] = points[last]
    count = np.maximum(np.ceil(np.linalg.norm(beyond - points, axis=1) / step).astype(int), 1)
    span = np.repeat(np.arange(len(count)), count)
    part = (np.arange(len(span)) - np.repeat(np.cumsum(count) - count, count)) / count[span]
    along = points[span] + part[:, None] * (beyond[span] - points[span])
    return np.split(along, np.cumsum(count)[last[:-1]])


def _wrapped(scene: FormScene, row: Row) -> bool:
    """Whether a row wraps what this one gives."""
    session = scene.session
    return any(row in session.job.sources(other) for other in session.on_blank("wrapped"))
