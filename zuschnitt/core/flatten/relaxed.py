"""Relaxed development: the flat of a doubly curved mesh with the least distortion of lengths.

From a start without flips (``starts.py``), local/global steps on the isometric energy (Liu et al.,
A local/global approach to mesh parameterization, 2008), with a step length that never lets a triangle
flip (Smith and Schaefer, Bijective parameterization with free boundaries, 2015, section 3.3) and
Anderson acceleration (Peng et al., Anderson acceleration for geometry optimization, 2018).
"""

from __future__ import annotations

import numpy as np
from scipy import sparse

from ..geometry.curves import Array
from ..mesh.triangles import signed_double_areas
from ..progress import SILENT, Progress
from ..record import record
from .keeping import HELD, LENGTHS, Held, Keep, local
from .metric import Metric
from .newton import polished
from .pinned import Pinned
from .rolled_out import rolled_out
from .starts import conformal, embedded

LEAST = 0.02
"""No triangle is pressed to less than this part of its area."""
MOST_HALVINGS = 8
"""How often the step is halved round triangles that would flip, before the whole step is made shorter."""
SLOW = 60
"""After so many local and global steps without settling, Newton's method takes over."""
MOST_CHECKED = 40_000
MOST_POLISHED = 200_000
"""Up to so many triangles Newton's method checks a map that has settled, and settles one that has not."""
FAR = 1e-3
"""Where a Newton step promises to gain more than this part of the energy, another start may lead further."""
NEARLY = 1e-3
"""What promises to gain no more than this part of its energy has arrived, for all that can be cut."""
NEWTON_STEPS = 120
WINDOW = 5
"""How many earlier steps Anderson acceleration looks back on."""


@record
class Relaxed:
    """``points_blank`` (n, 2), the ``energy`` reached, the steps it took, and whether it ``arrived`` at its least."""

    points_blank: Array
    energy: float
    steps: int
    arrived: bool = True


def relax(
    points_form: Array,
    triangles: np.ndarray,
    start: Array | None = None,
    most_steps: int = 300,
    converged: float = 1e-6,
    goal: float | None = None,
    progress: Progress = SILENT,
    keep: Keep = LENGTHS,
    held: Held | None = None,
) -> Relaxed:
    """Develops a mesh that is one connected sheet with a boundary.

    ``points_form`` (n, 3) in mm; ``triangles`` (t, 3) anticlockwise seen from outside; ``start`` (n, 2)
    an embedding without flips, if one is known. Stops when a step gains less than ``converged`` of the
    energy and Newton's method sees no more to gain, at ``most_steps``, or once the energy is not above ``goal``.
    ``keep`` is what it keeps, and ``held`` are pieces of the boundary that stay straight or keep their length.
    Raises CannotBeDone for a closed mesh.
    """
    metric = Metric.of(points_form, triangles)
    laplacian = metric.laplacian()
    springs = None
    stiffness = laplacian
    if held is not None:
        added, springs = held.stiffness(len(points_form), HELD * float(laplacian.diagonal().mean()))
        stiffness = laplacian + added
    progress.step(0.0, "factorising")
    factor = Pinned.of(stiffness)
    if start is None or (signed_double_areas(start, triangles) <= 0).any():
        progress.step(0.15, "looking for a start")
        start = embedded(points_form, triangles, metric, laplacian, factor, _roughly)
    if keep.what == "angles" and held is None:
        return _conformal(metric, laplacian, factor.order, start, progress)

    def local_global(points: Array) -> tuple[Array, float]:
        jacobians = metric.jacobians(points)
        wanted, density = local(jacobians, keep)
        energy = float((metric.areas * density).sum())
        right = metric.gathered(wanted)
        if held is not None and springs is not None:
            spans = held.targets(points)
            right = right + springs @ spans
            off = points[held.pairs[:, 1]] - points[held.pairs[:, 0]] - spans
            energy += float((springs.data.max() * off**2).sum())
        moved = factor.solve(right)
        return moved + (points.mean(axis=0) - moved.mean(axis=0)), energy

    points = _balanced(metric, start)
    target, energy = local_global(points)
    history: list[tuple[Array, Array]] = []
    steps, arrived = 0, False
    newton = keep == LENGTHS and held is None and goal is None and most_steps > SLOW
    for steps in range(1, most_steps + 1):
        proposal = _accelerated(history, points, target)
        moved = _stepped(points, proposal - points, metric)
        new_target, new_energy = local_global(moved)
        if not new_energy <= energy:  # the accelerated step was too bold: the plain one always gains
            history.clear()
            moved = _stepped(points, target - points, metric)
            new_target, new_energy = local_global(moved)
        gained = energy - new_energy
        points, target, energy = moved, new_target, new_energy
        progress.step(0.3 + 0.7 * steps / (steps + 15), "relaxing")
        if goal is not None and energy <= goal:
            return Relaxed(points, energy, steps)
        arrived = gained <= converged * energy or energy <= 1e-13 * metric.areas.sum()
        if arrived or (steps >= SLOW and newton and len(triangles) <= MOST_POLISHED):
            break
    if newton and len(triangles) <= (MOST_CHECKED if arrived else MOST_POLISHED):
        return _polished(points, metric, factor, points_form, steps, progress)
    return Relaxed(points, energy, steps, arrived)


HOPELESS = 1.0
"""With more energy than this times its area, a sheet stretches by some hundred percent on the average."""


def _polished(
    points: Array, metric: Metric, factor: Pinned, points_form: Array, steps: int, progress: Progress
) -> Relaxed:
    """Settled by Newton's method; where there is far to go, from a sheet rolled out, if that lies nearer."""

    def stepped(at: Array, direction: Array) -> Array:
        return _stepped(at, direction, metric)

    found = polished(points, metric, factor.order, 0, stepped)
    if found.promised > FAR:
        rolled = rolled_out(points_form, metric.triangles, metric, factor)
        if rolled is not None and metric.energy(_balanced(metric, rolled)) < found.energy:
            points = _balanced(metric, rolled)
    if metric.energy(points) > HOPELESS * metric.areas.sum():  # however long it is polished, nobody can make it
        return Relaxed(points, metric.energy(points), steps, False)
    if not found.arrived:
        found = polished(points, metric, factor.order, NEWTON_STEPS, stepped, progress, found)
    return Relaxed(found.points, found.energy, steps + found.steps, found.promised <= NEARLY)


def first_map(points_form: Array, triangles: np.ndarray) -> Array:
    """Where a development of the mesh starts from: a map (n, 2) without flips. Raises CannotBeDone if it is closed."""
    metric = Metric.of(points_form, triangles)
    laplacian = metric.laplacian()
    return embedded(points_form, triangles, metric, laplacian, Pinned.of(laplacian), _roughly)


def _roughly(points_form: Array, triangles: np.ndarray) -> Array:
    return relax(points_form, triangles, most_steps=15, converged=1e-3).points_blank


def _conformal(
    metric: Metric, laplacian: sparse.csc_matrix, order: np.ndarray, start: Array, progress: Progress
) -> Relaxed:
    """The map that keeps angles as well as can be, in the size of the form."""
    progress.step(0.3, "keeping angles")
    points = conformal(metric, laplacian, order)
    if (signed_double_areas(points, metric.triangles) <= 0).any():
        points = start  # it folds: the start, which does not, is the nearest there is
    points = _balanced(metric, points)
    return Relaxed(points, metric.energy(points), 0)


def _accelerated(history: list[tuple[Array, Array]], points: Array, target: Array) -> Array:
    """Anderson's mix of the last steps; ``history`` holds (residual, target) of each."""
    history.append((target - points, target))
    del history[: -WINDOW - 1]
    if len(history) < 2:
        return target
    residuals = np.stack([residual.ravel() for residual, _ in history])
    targets = np.stack([earlier.ravel() for _, earlier in history])
    change = residuals[-1] - residuals[:-1]
    gram = change @ change.T
    gram[np.diag_indices_from(gram)] *= 1 + 1e-10
    try:
        mix = np.linalg.solve(gram, change @ residuals[-1])
    except np.linalg.LinAlgError:
        return target
    return (targets[-1] - mix @ (targets[-1] - targets[:-1])).reshape(points.shape)


def _stepped(points: Array, direction: Array, metric: Metric) -> Array:
    """The points after a step along ``direction``: whole where it flips nothing, shorter round triangles it would flip.

    So one triangle that is pressed flat does not hold up all the others.
    """
    triangles = metric.triangles
    least = np.minimum(LEAST * 2 * metric.areas, 0.999 * signed_double_areas(points, triangles))
    moved = points + direction
    if (signed_double_areas(moved, triangles) > least).all():
        return moved
    longest = _longest_steps(points, direction, triangles, least)
    step = np.ones(len(points))
    np.minimum.at(step, triangles.ravel(), np.repeat(longest, 3))
    for _ in range(MOST_HALVINGS):
        moved = points + step[:, None] * direction
        flipped = signed_double_areas(moved, triangles) <= least
        if not flipped.any():
            return moved
        step[triangles[flipped].ravel()] *= 0.5
    return points + min(1.0, float(longest.min())) * direction


def _longest_steps(points: Array, direction: Array, triangles: np.ndarray, least: Array) -> Array:
    """For each triangle the longest step, at most 1, along ``direction`` that leaves it twice the area ``least``."""
    p, d = points[triangles], direction[triangles]
    e1, e2 = p[:, 1] - p[:, 0], p[:, 2] - p[:, 0]
    f1, f2 = d[:, 1] - d[:, 0], d[:, 2] - d[:, 0]
    # twice the area along the step is c + b t + a t²
    a = f1[:, 0] * f2[:, 1] - f1[:, 1] * f2[:, 0]
    b = e1[:, 0] * f2[:, 1] - e1[:, 1] * f2[:, 0] + f1[:, 0] * e2[:, 1] - f1[:, 1] * e2[:, 0]
    c = e1[:, 0] * e2[:, 1] - e1[:, 1] * e2[:, 0]
    c = c - least
    steps = np.ones(len(c))
    risk = np.nonzero(c - np.abs(b) - np.abs(a) <= 0)[0]
    if not len(risk):
        return steps
    a, b, c = a[risk], b[risk], c[risk]
    root = np.sqrt(np.maximum(b * b - 4 * a * c, 0))
    # 2 c / (-b ± root) are both roots, without cancellation; c > 0
    with np.errstate(divide="ignore", invalid="ignore"):
        candidates = np.stack([2 * c / (-b + root), 2 * c / (-b - root)])
    real = (b * b >= 4 * a * c) & np.isfinite(candidates) & (candidates > 0)
    first = np.where(real, candidates, np.inf).min(axis=0)
    steps[risk] = np.minimum(1.0, 0.9 * first)
    return steps


def _balanced(metric: Metric, points: Array) -> Array:
    """Scaled so that the blank has the area of the form."""
    area = signed_double_areas(points, metric.triangles).sum() / 2
    return (points - points.mean(axis=0)) * np.sqrt(metric.areas.sum() / area)
