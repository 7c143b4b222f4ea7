"""One relief through points that were clicked, as every operation that draws one makes it."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from ..develop.proposal import Relief
from ..errors import Refused
from ..form.drawn import drawn_on
from ..form.form import Form


def drawn_relief(form: Form, through: Sequence, how: str) -> Relief:
    """A relief on the form through points (3,). Raises Refused for fewer than two, with ``how`` to give more."""
    if len(through) < 2:
        raise Refused(f"A relief needs two points at least; click them on the form, or {how}.")
    line = drawn_on(form, np.array(through))
    return Relief.along(line)
