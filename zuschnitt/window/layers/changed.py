"""What was added to a body, and what was cut out of it: hatched, as long as its row is selected."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

import numpy as np

from ...core.results.bodies import BodiesResult
from ..theme import theme
from .layer import FormLayer, FormScene

if TYPE_CHECKING:
    from ...core.form.form import Form
    from ..stages.scene import LineSets

APART = 0.015
"""Lines of the hatching are so far apart, as a part of the form's size, and closer on small faces."""
LINES = 3
"""A face has about so many of them at least."""
MOST = 20000
NONE = np.zeros((0, 2, 3))


class ChangedLayer(FormLayer):
    order = 9

    def __init__(self) -> None:
        self._drawn: tuple[BodiesResult, np.ndarray] | None = None

    def key(self, scene: FormScene) -> Any:
        return scene.session.selected, bool(scene.session.glimpses)

    def show(self, lines: LineSets, scene: FormScene) -> None:
        made = _changed(scene)
        found = NONE if made is None else self._hatched(made)
        added = made is not None and sum(body.volume_change or 0.0 for body in made.made) > 0
        lines.of("added", 1.0).segments(found if added else NONE, theme().form)
        lines.of("cut away", 1.0).segments(NONE if added else found, theme().blank)

    def _hatched(self, made: BodiesResult) -> np.ndarray:
        if self._drawn is None or self._drawn[0] is not made:
            self._drawn = made, hatching(made.value, made.new_faces)
        return self._drawn[1]


def _changed(scene: FormScene) -> BodiesResult | None:
    """The body that the selected row has changed, where it is what is drawn, and does not move."""
    made = scene.session.given("form")
    seen = isinstance(made, BodiesResult) and made.value is scene.form and not scene.session.glimpses
    return made if isinstance(made, BodiesResult) and seen and made.new_faces else None


def hatching(form: Form, numbers: tuple[int, ...]) -> np.ndarray:
    """Short lines (n, 2, 3) over the triangles of some faces, aslant across each of them."""
    found = [NONE]
    for number in numbers:
        mesh = form.meshes[number - 1]
        corners = mesh.points[mesh.triangles]
        normal = mesh.normals.mean(axis=0)
        across = np.cross(normal, np.eye(3)[int(np.abs(normal).argmin())])
        aslant = across / max(float(np.linalg.norm(across)), 1e-9)
        aslant = aslant + np.cross(normal, aslant)
        aslant /= np.linalg.norm(aslant)
        heights = corners @ aslant
        apart = min(APART * form.size, float(np.ptp(heights)) / LINES)
        if apart <= 0 or np.ptp(heights) / apart > MOST:
            continue
        found.append(_cuts(corners, heights / apart))
    return np.concatenate(found)[:MOST]


def _cuts(corners: np.ndarray, heights: np.ndarray) -> np.ndarray:
    """Lines (n, 2, 3) where triangles (t, 3, 3) are at whole ``heights`` (t, 3)."""
    low, high = np.ceil(heights.min(axis=1)).astype(int), np.floor(heights.max(axis=1)).astype(int)
    count = np.maximum(high - low + 1, 0)
    which = np.repeat(np.arange(len(corners)), count)
    level = low[which] + np.arange(len(which)) - np.repeat(np.cumsum(count) - count, count)
    a, ha = corners[which], heights[which]
    b, hb = np.roll(a, -1, axis=1), np.roll(ha, -1, axis=1)
    with np.errstate(divide="ignore", invalid="ignore"):
        part = (level[:, None] - ha) / (hb - ha)
    met = np.isfinite(part) & (part >= 0) & (part < 1)
    twice = met.sum(axis=1) == 2
    at = a + np.where(met, part, 0)[..., None] * (b - a)
    lines: np.ndarray = at[twice][met[twice]].reshape(-1, 2, 3)
    return lines
