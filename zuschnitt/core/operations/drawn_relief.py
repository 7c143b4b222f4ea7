"""One relief through points that were clicked, as every operation that draws one makes it."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING

import numpy as np

from ..errors import Refused

if TYPE_CHECKING:
    from ..form.form import Form
    from ..reliefs.relief import Relief


def drawn_relief(form: Form, through: Sequence, how: str) -> Relief:
    """A relief on the form through points (3,). Raises Refused for fewer than two, with ``how`` to give more."""
    from ..form_curves.drawn import drawn_on
    from ..reliefs.relief import Relief

    if len(through) < 2:
        raise Refused(f"A relief needs two points at least; click them on the form, or {how}.")
    line = drawn_on(form, np.array(through))
    return Relief.along(line)
