"""Newton's method on the isometric energy: for sheets on which local and global steps creep, as on long strips.

A sheet that bends in its plane without stretching costs a local and global step as much as one that stretches. The
second derivative knows better: of the changes of a triangle's map only the turn of it is not stiff. In closed form it
is 2 for three of them and 2 - 4 / (s1 + s2) for the turn, s the singular values (Smith, de Goes and Kim, Analytic
eigensystems for isotropic distortion energies, 2019, section 4.3); where that is below 0 it is taken for 0.
"""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from scipy import sparse

from ..geometry.curves import Array
from ..progress import SILENT, Progress
from ..record import record
from .keeping import LENGTHS, local
from .metric import Metric
from .pinned import solved_in_order

STEADY = 1e-7
"""How much of a local and global step's stiffness is added, so that a turn of the whole sheet is not free."""
ARRIVED = 1e-6
"""The energy has settled when a step promises to gain less than this part of it."""
NOTHING = 1e-13
"""Less energy for each mm² than this is that of rounding."""
MOST_SHORTER = 12
STUCK_AFTER, STUCK, MUCH = 12, 0.1, 0.01
"""Stuck is what gains in so many steps less than this part of what one of them promises, while that is much."""


@record
class Polished:
    """``points`` (n, 2), their ``energy``, the step ``onward`` (n, 2) from there, if it is known, and ``promised``,
    what one more step would gain of the energy, as a part."""

    points: Array
    energy: float
    onward: Array | None
    promised: float
    steps: int

    @property
    def arrived(self) -> bool:
        return self.promised <= ARRIVED


def polished(
    points: Array,
    metric: Metric,
    order: np.ndarray,
    most_steps: int,
    stepped: Callable[[Array, Array], Array],
    progress: Progress = SILENT,
    begun: Polished | None = None,
) -> Polished:
    """Newton steps from ``points`` (n, 2), at most so many. ``stepped`` shortens a step that would flip triangles.

    ``order`` (n,) is how the points are best eliminated; the last of them is held. What was ``begun`` goes on where
    it ended, if that is at these points.
    """
    free = np.stack([2 * order[:-1], 2 * order[:-1] + 1], axis=1).ravel()
    nothing = NOTHING * float(metric.areas.sum())
    energy = metric.energy(points)
    promised = np.inf
    energies = [energy]
    for steps in range(most_steps + 1):
        if begun is not None and begun.onward is not None and points is begun.points:
            direction, promised = begun.onward, begun.promised
        else:
            slope, stiffness = _derivatives(points, metric)
            step = np.zeros(2 * len(points))
            step[free] = -solved_in_order(stiffness, free, slope[free])
            direction = step.reshape(-1, 2)
            promised = 0.0 if energy <= nothing else float(-(slope @ step) / 2) / energy
        if promised <= ARRIVED or steps == most_steps:
            return Polished(points, energy, direction, promised, steps)
        progress.step(min(0.95, 0.7 + 0.02 * steps), "relaxing")
        for _ in range(MOST_SHORTER):
            moved = stepped(points, direction)
            lower = metric.energy(moved)
            if lower < energy:
                break
            direction = direction / 2
        else:
            return Polished(points, energy, None, promised, steps)
        points, energy = moved, lower
        energies.append(energy)
        earlier = energies[-1 - STUCK_AFTER] if len(energies) > STUCK_AFTER else np.inf
        if promised > MUCH and earlier - energy < STUCK * promised * energy:
            return Polished(points, energy, None, promised, steps + 1)
    raise AssertionError("the loop returns")


def _derivatives(points: Array, metric: Metric) -> tuple[Array, sparse.csc_matrix]:
    """The slope (2 n,) of the energy, and its stiffness (2 n, 2 n) with no direction in which it falls."""
    gradients = metric.interleaved
    jacobians = (gradients @ points.ravel()).reshape(-1, 2, 2)
    rotation, _ = local(jacobians, LENGTHS)
    slope = gradients.T @ (2 * metric.areas[:, None, None] * (jacobians - rotation)).ravel()
    turn = (rotation @ np.array([[0.0, -1.0], [1.0, 0.0]])).reshape(-1, 4) / np.sqrt(2)
    sum_of_values = np.einsum("tij,tij->t", rotation, jacobians)
    softer = np.minimum(4 / np.maximum(sum_of_values, 1e-12), 2.0 * (1 - STEADY))
    blocks = 2 * np.eye(4) - softer[:, None, None] * turn[:, :, None] * turn[:, None, :]
    blocks *= metric.areas[:, None, None]
    t = len(blocks)
    middle = sparse.bsr_matrix((blocks, np.arange(t), np.arange(t + 1)), shape=(4 * t, 4 * t))
    return slope, sparse.csc_matrix(gradients.T @ middle @ gradients)
