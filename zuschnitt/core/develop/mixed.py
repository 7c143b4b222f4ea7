"""Faces of all kinds: relaxed where they curve both ways, and exactly where they need not be relaxed."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import replace

from ..form.form import Form
from ..form.unwrapped import Unwrapped
from ..progress import Progress
from .blank import Flat
from .exact import lay_exact
from .layout import Joining, beside
from .sheet import lay_relaxed


def lay_mixed(
    form: Form,
    unwrapped: dict[int, Unwrapped],
    first: int,
    edge_length: float | None,
    how: Joining,
    exact_where_possible: bool,
    progress: Progress,
) -> Flat:
    """All faces as one sheet; or, with ``exact_where_possible``, exactly what need not be relaxed.

    Then only faces that run on smoothly from a doubly curved one are relaxed with it.
    """
    groups = [list(unwrapped)]
    if how.apart:
        groups = [[n] for n in unwrapped]
    elif exact_where_possible:
        groups = _smooth_groups(form, unwrapped)
    curved = [g for g in groups if not (exact_where_possible and all(form.face(n).developable for n in g))]
    plain = [n for group in groups if group not in curved for n in group]
    flats: dict[int, Flat] = {}
    for i, group in enumerate([*curved, *([plain] if plain else [])]):
        part = progress.part(i / (len(curved) + 1), (i + 1) / (len(curved) + 1))
        mine = {n: unwrapped[n] for n in group}
        here = how if first in mine else replace(how, to_hold=None)
        holder = first if first in mine else group[0]
        if group is plain:
            flats[holder] = lay_exact(form, mine, holder, here, part)
        else:
            flats[holder] = lay_relaxed(form, mine, holder, edge_length, here, part)
    return beside([flats[first], *(flat for k, flat in sorted(flats.items()) if k != first)], how.gap)


def _smooth_groups(form: Form, numbers: Iterable[int]) -> list[list[int]]:
    """The faces in groups that continue each other smoothly."""
    left, groups = set(numbers), []
    while left:
        chain = sorted(left & set(form.smooth_chain([min(left)], within=left)))
        groups.append(chain)
        left -= set(chain)
    return groups
