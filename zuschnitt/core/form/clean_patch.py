"""One clean patch in place of several faces: a spline surface between four sides of their outline, evenly spaced.

The grid begins as a Coons patch of the sides (Coons, Surfaces for computer-aided design of space forms, 1967), is
smoothed on the faces, and interpolated; it is doubled until the surface keeps to the faces.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from ..errors import CannotBeDone, Refused
from ..geometry.curves import Array
from ..geometry.smooth import through_grid
from ..geometry.surfaces import SplineSurface
from ..progress import SILENT, Progress
from ..record import record
from ..wording import coordinates, counted
from .build import bounded, lines_round
from .form import Form
from .locator import Locator
from .outer_loop import OuterLoop, outer_loop

FIRST, LAST = 8, 128
"""Spans of the grid each way, from the first try to the last."""
SMOOTHINGS = 60
"""Often enough that a grid of the fewest spans is even."""


@record
class CleanPatch:
    """The ``form`` of one face; how far it lies from the faces at most and on the average, in mm."""

    form: Form
    deviation_max: float
    deviation_mean: float
    messages: tuple[str, ...]


def clean_patch(
    form: Form, faces: Sequence[int], tolerance: float, corners: Array | None = None, progress: Progress = SILENT
) -> CleanPatch:
    """A patch between the four ``corners`` (4, 3), or the sharpest, of the outline of ``faces``.

    Its first side runs from the first corner to the second. Raises Refused for an outline without four sides,
    CannotBeDone where the patch does not come within ``tolerance`` mm of the faces.
    """
    loop, islands = outer_loop(form, faces)
    chosen, said = loop.corners() if corners is None else (_named(loop, corners), [])
    sides = [(a, b if b > a else b + loop.length) for a, b in zip(chosen, np.roll(chosen, -1), strict=True)]
    locator = Locator.of(form, faces)
    spans = FIRST
    grid = _smoothed(_coons(loop, sides, spans), locator, progress.part(0.0, 0.4))
    while True:
        surface = _through(grid)
        off = _off(surface, loop, sides, locator)
        if off[0] <= tolerance or spans == LAST:
            break
        spans *= 2
        progress.step(0.4 + 0.6 * np.log2(spans / FIRST) / np.log2(LAST / FIRST), f"{spans} spans each way")
        grid = _refined(grid, _coons(loop, sides, spans), locator)
    if off[0] > tolerance:
        raise CannotBeDone(
            f"The patch stays up to {off[0]:.3g} mm away from the faces, more than {tolerance:g} mm; allow it more, "
            "name other corners, or leave out faces that meet at a crease."
        )
    if islands:
        said.append(f"The patch runs on over {counted(islands, 'hole')} of the faces.")
    said.append(f"It keeps within {off[0]:.2g} mm of the faces, {off[1]:.2g} mm on the average.")
    return CleanPatch(_form(surface), float(off[0]), float(off[1]), tuple(said))


def _named(loop: OuterLoop, corners: Array) -> Array:
    """Where on the outline the corners (4, 3) are; in their order, the other way round where they run so."""
    if len(corners) != 4:
        raise Refused(f"A patch has four corners; {len(corners)} were named.")
    at = np.array([loop.nearest(corner) for corner in corners])
    for one in range(4):
        for other in range(one):
            if abs(at[one] - at[other]) < 1e-6 * loop.length:
                raise Refused(
                    f"Corners {other + 1} and {one + 1} are one place of the outline, at {coordinates(corners[one])}; "
                    "name four places apart."
                )
    rising = (np.diff(np.r_[at, at[0]]) > 0).sum()
    if rising not in (1, 3):
        raise Refused("The corners do not follow each other round the outline; name them in their order.")
    return at if rising == 3 else at[::-1]


def _coons(loop: OuterLoop, sides: Sequence[tuple[float, float]], spans: int) -> Array:
    """The grid (n, n, 3) between four sides, of which the third and fourth run backwards."""
    share = np.linspace(0, 1, spans + 1)
    a, b, c, d = (loop.at(start + share * (end - start)) for start, end in sides)
    c, d = c[::-1], d[::-1]
    u, v = share[:, None, None], share[None, :, None]
    between = (1 - v) * a[:, None] + v * c[:, None] + (1 - u) * d[None] + u * b[None]
    return between - (1 - u) * (1 - v) * a[0] - u * (1 - v) * a[-1] - (1 - u) * v * c[0] - u * v * c[-1]


def _filled(grid: Array, inner: Array, locator: Locator) -> Array:
    """The grid with ``inner`` points, put on the faces, within its outline."""
    made = grid.copy()
    made[1:-1, 1:-1] = locator.feet(inner.reshape(-1, 3)).points.reshape(made[1:-1, 1:-1].shape)
    return made


def _smoothed(grid: Array, locator: Locator, progress: Progress) -> Array:
    grid = _filled(grid, grid[1:-1, 1:-1], locator)
    for turn in range(SMOOTHINGS):
        progress.step(turn / SMOOTHINGS, "spacing the patch evenly")
        mean = (grid[:-2, 1:-1] + grid[2:, 1:-1] + grid[1:-1, :-2] + grid[1:-1, 2:]) / 4
        grid = _filled(grid, mean, locator)
    return grid


def _refined(grid: Array, outline: Array, locator: Locator) -> Array:
    """The grid with twice as many spans, its outline that of another one."""
    surface = _through(grid)
    share = [np.linspace(0, end, len(outline)) for end in surface.bounds[1::2]]
    inner = np.stack(np.meshgrid(share[0][1:-1], share[1][1:-1], indexing="ij"), axis=-1)
    return _filled(outline, surface.evaluate(inner.reshape(-1, 2)), locator)


def _through(grid: Array) -> SplineSurface:
    """The bicubic spline surface through a grid (n, m, 3), its parameters in mm of the mean length each way."""
    lengths = [np.linalg.norm(np.diff(grid, axis=axis), axis=2).sum(axis=axis).mean() for axis in (0, 1)]
    u, v = (np.linspace(0, length, count) for length, count in zip(lengths, grid.shape[:2], strict=True))
    return through_grid(u, v, grid)


def _off(
    surface: SplineSurface, loop: OuterLoop, sides: Sequence[tuple[float, float]], locator: Locator
) -> tuple[float, float]:
    """How far the surface lies from the faces and their outline, at most and on the average, in mm."""
    count = 2 * len(surface.control) + 1
    share = (np.arange(count) + 0.37) / count
    end_u, end_v = surface.bounds[1::2]
    every = np.stack(np.meshgrid(share * end_u, share * end_v, indexing="ij"), axis=-1).reshape(-1, 2)
    gaps = locator.feet(surface.evaluate(every)).gap
    nothing, ones = np.zeros(count), np.ones(count)
    walks = [(share, nothing), (ones, share), (1 - share, ones), (nothing, 1 - share)]
    edges = []
    for (u, v), (start, stop) in zip(walks, sides, strict=True):
        on_it = surface.evaluate(np.column_stack([u * end_u, v * end_v]))
        edges.append(np.linalg.norm(on_it - loop.at(start + share * (stop - start)), axis=1))
    return float(max(gaps.max(), np.max(edges))), float(gaps.mean())


def _form(surface: SplineSurface) -> Form:
    """The whole surface as the one face of a form."""
    end_u, end_v = surface.bounds[1::2]
    corners = np.array([[0, 0], [end_u, 0], [end_u, end_v], [0, end_v]])
    return bounded("clean patch", surface, [lines_round(corners)])
