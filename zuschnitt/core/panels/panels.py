"""Panels between curves, one after the other, as a form with a face for each and marks where they match."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from itertools import pairwise

import numpy as np

from ..developable.ruled import ruled_form
from ..errors import CannotBeDone, Refused, ZuschnittError
from ..form.form import Body, Form, Match
from ..geometry.curves import Array
from ..geometry.ruled_flat import DEVELOPABLE
from ..geometry.tracks import Track, track
from ..progress import SILENT, Progress
from ..record import record
from .panel import FOLDED, Panel, panel

STATIONS = 4
"""Into so many parts matching marks divide a join."""


@record
class Panels:
    """``form`` has a face for each of ``panels``."""

    form: Form
    panels: tuple[Panel, ...]


def panels(curves: Sequence[Array], nearest: bool, name: str, progress: Progress = SILENT) -> Panels:
    """Panels from each of the ``curves`` (n, 3) to the next.

    With ``nearest``, a pair between which no developable panel exists gets the nearest developable one.
    Raises Refused or CannotBeDone.
    """
    if len(curves) < 2:
        raise Refused("A panel needs two curves, and there is one only; pick another.")
    tracks = [track(points, name=f"Curve {k + 1}") for k, points in enumerate(curves)]
    made: list[Panel] = []
    messages: list[str] = []
    for k, (first, second) in enumerate(pairwise(tracks)):
        progress.step(k / (len(tracks) - 1), f"panel {k + 1}")
        try:
            found = panel(first, second, nearest)
        except ZuschnittError as error:
            raise type(error)(f"Panel {k + 1}: {error.sentence}") from error
        if found.twist > FOLDED or not np.isfinite(found.error):
            raise CannotBeDone(
                f"Panel {k + 1}: between these curves every sheet would have rulings that cross; "
                "take curves that are less unlike, or one more between them."
            )
        made.append(found)
        messages.extend(_said(k + 1, found, nearest))
    form = ruled_form([p.surface for p in made], name, tuple(messages))
    bodies = tuple(Body(f"panel {k}", (k,)) for k in range(1, len(made) + 1))
    return Panels(replace(form, matches=_matches(made, tracks), bodies=bodies), tuple(made))


def _said(number: int, found: Panel, nearest: bool) -> list[str]:
    said = []
    if found.turned:
        said.append(f"Panel {number}: the second curve ran the other way and was turned.")
    if found.error > DEVELOPABLE:
        more = "" if nearest else " Ask for the nearest developable one, or allow the stretch when you develop it."
        said.append(
            f"Panel {number}: no developable panel runs through both curves; this one is twisted by up to "
            f"{found.twist:.1f}° and stretches by {100 * found.error:.2g} %.{more}"
        )
    if found.gap > 0:
        said.append(
            f"Panel {number}: no developable panel runs through both curves; the nearest one leaves the second "
            f"curve by up to {found.gap:.2f} mm."
        )
    return said


def _matches(made: Sequence[Panel], tracks: Sequence[Track]) -> tuple[Match, ...]:
    """Stations along the curve that two panels share, lettered by join and counted along it."""
    found = []
    for k in range(1, len(made)):
        if made[k - 1].gap > 0:
            continue
        s = np.arange(1, STATIONS) / STATIONS
        if tracks[k].closed:
            s = np.r_[0.0, s]
        for i, point in enumerate(tracks[k].at(s)):
            found.append(Match(f"{k}.{i + 1}", (k, k + 1), point))
    return tuple(found)
