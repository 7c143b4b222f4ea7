"""Which faces are meant: by number, by a point, with all that continue smoothly."""

from __future__ import annotations

import numpy as np

from ..errors import Refused
from ..form.form import Form
from ..form.locator import foot
from ..geometry.curves import Array
from .picks import picked_faces


def pick(form: Form, faces: str | None, point: Array | None, tangent: bool) -> tuple[int, ...]:
    """Face numbers from the words of a call; all faces where nothing is asked.

    Raises Refused for numbers that the form does not have, or a point that is not finite.
    """
    if point is not None:
        if not np.isfinite(point).all():
            raise Refused("The point to pick by has a number that is not finite; give three plain numbers.")
        numbers: tuple[int, ...] = (foot(form, point)[0],)
    else:
        asked = picked_faces(faces or "all")
        numbers = tuple(f.number for f in form.faces) if isinstance(asked, str) else asked
    for number in numbers:
        form.face(number)
    return form.smooth_chain(numbers) if tangent else numbers
