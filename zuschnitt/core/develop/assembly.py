"""How the faces of a blank hang together, and what is put on it so that it can be put together."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from ..errors import Refused
from ..flatten.keeping import Keep
from ..form.form import CUT, WAIST, Before, Form
from ..geometry.curves import Array
from ..materials import K_FACTOR
from ..record import record
from .layout import Joining, ToHold
from .outline import seam_name
from .sheet_size import SheetSize
from .tabs import Tabs


@record
class Assembly:
    """Along edges whose numbers are in ``cuts`` faces are not joined; with ``apart`` not along any.

    Edges that are to be joined get glue tabs ``tab`` mm wide (0 for none), whose ends run in by ``tab_angle``
    degrees, and with ``labelled`` are numbered in pairs. ``reliefs`` are curves (n, 3) on the form that open a
    relaxed blank where they reach its outline. That keeps lengths, angles or areas as well as can be (``keeps``),
    its material being ``ratio`` times as stiff against compression as against stretch; edges whose numbers
    are in ``straight`` stay straight in it, edges in ``long`` keep their length. What is laid flat is a ``layer`` of
    a sheet ``thickness`` mm thick, whose neutral layer lies ``k_factor`` of that from the inside of a bend. No piece
    with its tabs is larger than ``within`` (width, height) in mm, however it is turned. Where ``depths`` are given,
    those of each face, in mm along its outer normal, are the layer that is laid flat.
    """

    cuts: tuple[int, ...] = ()
    apart: bool = False
    tab: float = 0.0
    tab_angle: float = 45.0
    labelled: bool = False
    reliefs: tuple[Array, ...] = ()
    keeps: str = "lengths"
    ratio: float = 1.0
    straight: tuple[int, ...] = ()
    long: tuple[int, ...] = ()
    layer: str = "given"
    thickness: float = 1.0
    k_factor: float = K_FACTOR
    within: tuple[float, float] | None = None
    depths: tuple[tuple[int, float], ...] = ()

    def before_cutting(self, before: Before) -> bool:
        """Whether it can be said of the form as it was before it was cut: it names no edge that was not there then."""
        known = all(number <= len(before.form.edges) for number in (*self.cuts, *self.straight, *self.long))
        return known and not (self.apart and len(set(before.parents)) < len(before.parents))


KEEPS = ("lengths", "angles", "areas")
PLAIN = Assembly()


def joining(form: Form, numbers: Sequence[int], assembly: Assembly, to_hold: ToHold) -> Joining:
    """What the ways of laying faces flat need to know of it. Raises Refused for edges that there are not."""
    for number in (*assembly.cuts, *assembly.straight, *assembly.long):
        form.edge(number)
    if assembly.keeps not in KEEPS:
        raise Refused(f"'{assembly.keeps}' cannot be kept; choose one of {', '.join(KEEPS)}.")
    if not (np.isfinite(assembly.ratio) and 0.01 <= assembly.ratio <= 100):
        raise Refused("The ratio of stiffness must be from 0.01 to 100; change it.")
    if not (np.isfinite([assembly.tab, assembly.tab_angle]).all() and assembly.tab >= 0):
        raise Refused("The width of the tabs must be a number that is not below 0 mm; change it.")
    if not 10 <= assembly.tab_angle <= 90:
        raise Refused("The ends of the tabs must run in by 10 to 90 degrees; change the angle.")
    tabs = Tabs(assembly.tab, float(np.radians(assembly.tab_angle)), _tab_owners(form, numbers))
    keep = Keep(assembly.keeps, assembly.ratio if assembly.keeps == "lengths" else 1.0)
    cuts, straight, long = (
        frozenset(number - 1 for number in numbers) for numbers in (assembly.cuts, assembly.straight, assembly.long)
    )
    within = None
    if assembly.within is not None:
        if not (np.isfinite(assembly.within).all() and min(assembly.within) > 2 * assembly.tab):
            raise Refused("The sheet must be larger than two tabs in both directions; name a larger one.")
        within = SheetSize(*assembly.within, edge=assembly.tab)
    return Joining(cuts, assembly.apart, tabs, to_hold, assembly.reliefs, keep, straight, long, within)


def _tab_owners(form: Form, numbers: Sequence[int]) -> dict[int, int]:
    """Which face has the tab of each edge at which two sides are to be joined: the one of the lower number."""
    owners = {seam_name(n, kind): n for n in numbers for kind in (CUT, WAIST)}
    for index, edge in enumerate(form.edges):
        developed = [n for n in edge.faces if n in numbers]
        if len(developed) > 1 or (index in form.seams and developed):
            owners[index + 1] = developed[0]
    return owners
