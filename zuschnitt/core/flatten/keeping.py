"""What a relaxed development keeps: lengths, angles or areas; and pieces of the boundary that are held.

Each is a pair of a local step, which says what the triangles would rather be, and a global one, which all of
them share (Liu et al., A local/global approach to mesh parameterization, 2008, section 4).
"""

from __future__ import annotations

import numpy as np
from scipy import sparse

from ..geometry.curves import Array
from ..record import record

HELD = 1000.0
"""How much stiffer than the triangles a held piece of the boundary is."""


@record
class Keep:
    """``what`` is lengths, angles or areas. ``ratio``: how much stiffer against compression than against stretch
    the material is, when lengths are kept."""

    what: str = "lengths"
    ratio: float = 1.0


LENGTHS = Keep()


def local(jacobians: Array, keep: Keep) -> tuple[Array, Array]:
    """What each of the maps (t, 2, 2) would rather be (t, 2, 2), and its energy for each mm² (t,)."""
    cosine = jacobians[:, 0, 0] + jacobians[:, 1, 1]
    sine = jacobians[:, 1, 0] - jacobians[:, 0, 1]
    rotation = turns(cosine, sine)
    if keep == LENGTHS:
        return rotation, ((jacobians - rotation) ** 2).sum(axis=(1, 2))
    stretch = np.einsum("tji,tjk->tik", rotation, jacobians)  # symmetric
    mean = (stretch[:, 0, 0] + stretch[:, 1, 1]) / 2
    spread = np.maximum(np.hypot((stretch[:, 0, 0] - stretch[:, 1, 1]) / 2, stretch[:, 0, 1]), 1e-300)
    values = np.stack([mean + spread, mean - spread], axis=1)
    wanted, energy = _wanted(values, keep)
    middle, half = wanted.mean(axis=1), (wanted[:, 0] - wanted[:, 1]) / 2
    target = (half / spread)[:, None, None] * (stretch - mean[:, None, None] * np.eye(2))
    target = target + middle[:, None, None] * np.eye(2)
    return rotation @ target, energy


def turns(cosine: Array, sine: Array) -> Array:
    """The rotations (t, 2, 2) by angles with these (t,), times some size."""
    size = np.maximum(np.hypot(cosine, sine), 1e-300)
    rotation = np.empty((len(size), 2, 2))
    rotation[:, 0, 0] = rotation[:, 1, 1] = cosine / size
    rotation[:, 1, 0] = sine / size
    rotation[:, 0, 1] = -rotation[:, 1, 0]
    return rotation


def _wanted(values: Array, keep: Keep) -> tuple[Array, Array]:
    """What the singular values (t, 2) would rather be, and the energy (t,)."""
    if keep.what == "angles":
        middle = values.mean(axis=1, keepdims=True)
        return np.repeat(middle, 2, axis=1), ((values - middle) ** 2).sum(axis=1)
    if keep.what == "areas":
        larger, smaller = np.maximum(values, 1e-6).T
        share = np.sqrt(larger / smaller)
        for _ in range(12):  # the nearest point of the hyperbola of equal areas, by Newton
            slope = -(larger - share) + (smaller - 1 / share) / share**2
            share = np.clip(share - slope / (1 + (3 / share - 2 * smaller) / share**3), share / 2, share * 2)
        wanted = np.stack([share, 1 / share], axis=1)
        return wanted, ((values - wanted) ** 2).sum(axis=1)
    # a blank larger than the form is compressed when it is formed; the stiffer side sets the step
    stiff = np.where(values > 1, keep.ratio, 1.0) / max(keep.ratio, 1.0)
    return values - stiff * (values - 1), (stiff * (values - 1) ** 2).sum(axis=1)


@record
class Held:
    """Spans ``pairs`` (k, 2) of the boundary with their ``lengths`` (k,) on the form, in ``chains`` (k,).

    ``straight`` (k,) and ``long`` (k,) tell which chains stay straight, and which keep their length.
    """

    pairs: np.ndarray
    lengths: Array
    chains: np.ndarray
    straight: np.ndarray
    long: np.ndarray

    def stiffness(self, count: int, weight: float) -> tuple[sparse.csc_matrix, sparse.csr_matrix]:
        """What it adds to the Laplacian of ``count`` points, and the operator that takes span vectors to its right."""
        k = len(self.pairs)
        rows = np.repeat(np.arange(k), 2)
        signs = np.tile([-1.0, 1.0], k)
        difference = sparse.csr_matrix((signs, (rows, self.pairs.ravel())), (k, count))
        return (weight * difference.T @ difference).tocsc(), (weight * difference.T).tocsr()

    def targets(self, points: Array) -> Array:
        """What the span vectors (k, 2) would rather be."""
        spans = points[self.pairs[:, 1]] - points[self.pairs[:, 0]]
        size = np.maximum(np.linalg.norm(spans, axis=1), 1e-300)
        direction = spans / size[:, None]
        count = int(self.chains.max()) + 1
        whole = np.stack([np.bincount(self.chains, spans[:, k], count) for k in (0, 1)], axis=1)
        whole = whole / np.maximum(np.linalg.norm(whole, axis=1, keepdims=True), 1e-300)
        direction = np.where(self.straight[:, None], whole[self.chains], direction)
        along = np.where(self.long, self.lengths, (spans * direction).sum(axis=1))
        return direction * along[:, None]
