"""A blank given a thickness, with recesses: flat, or bent back to the form."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from OCP.TopAbs import TopAbs_SOLID

from ..carry.lifted import Lifting
from ..develop.blank import Blank
from ..errors import Refused
from ..form.form import Form
from ..form.made_body import MadeBody
from ..plane.contour import Contour
from ..progress import SILENT, Progress
from .bent_mesh import bent_triangles
from .bodies import made_body
from .booleans import cut
from .by_mesh import triangles_made
from .carrying import carry_body
from .explore import each
from .outlines import flat_figures, sheet_body
from .triangulated import even_triangles
from .under import has_triangles

ABOVE = 1.0
"""Recesses are cut from so many mm above the blank, in the flat."""


def thickened(
    form: Form,
    blank: Blank,
    thickness: float,
    recess: Sequence[Contour],
    deep: float,
    formed: bool,
    progress: Progress = SILENT,
) -> tuple[tuple[MadeBody, ...], tuple[str, ...]]:
    """The blank from 0 to ``thickness`` mm, its recesses ``deep`` mm from the outer side; and what is to be said.

    Raises Refused and CannotBeDone.
    """
    if not (np.isfinite(thickness) and thickness > 0):
        raise Refused("The thickness must be above 0 mm; change it.")
    if recess and not 0 < deep <= thickness:
        raise Refused(f"The recess must be above 0 and no deeper than the {thickness:g} mm of the blank; change it.")
    flat = sheet_body(blank, 0.0, thickness)
    messages: tuple[str, ...] = ()
    if recess:
        figures, messages = flat_figures(blank, recess)
        low = thickness - deep if deep < thickness else -ABOVE
        flat = cut(flat, [figure.body(low, thickness + ABOVE, False) for figure in figures])
    solids = list(each(flat, TopAbs_SOLID))
    lifting = Lifting(form, blank.correspondence)
    meshed = has_triangles(form, blank)
    made: list[MadeBody] = []
    for k, solid in enumerate(solids):
        name = "blank" if len(solids) == 1 else f"blank, piece {k + 1}"
        if not formed:
            made.append(made_body(name, solid))
            continue
        part = progress.part(k / len(solids), (k + 1) / len(solids))
        carried = None if meshed else carry_body(lifting, solid, name, part)
        if carried is None:
            bent = bent_triangles(lifting, *even_triangles(solid), name)
            made.append(triangles_made(name, *bent, depth_min=0.0, depth_max=thickness))
            continue
        parts = list(each(carried.shape, TopAbs_SOLID))
        for n, one in enumerate(parts, 1):
            title = name if len(parts) == 1 else f"{name}, face {n}"
            made.append(made_body(title, one, carried.deviation, depth_min=0.0, depth_max=thickness))
    return tuple(made), messages
