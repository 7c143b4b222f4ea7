"""Forms made shapes of the kernel again: also those on left-handed frames, as the kernel makes some of."""

from __future__ import annotations

import pytest
from OCP.BRepCheck import BRepCheck_Analyzer

from tests import parts
from tests.sheet_parts import mirrored
from zuschnitt.core.kernel.forms import form_of_shape
from zuschnitt.core.kernel.step_in import read_step_bytes
from zuschnitt.core.kernel.step_out import shape_bytes
from zuschnitt.core.solids.explore import volume
from zuschnitt.core.solids.shape import shape_of


@pytest.mark.parametrize("turned", [False, True], ids=["as it is", "mirrored"])
@pytest.mark.parametrize(
    "name", ["box", "tube", "apex", "ring", "rounded", "drilled_tube", "oblique_tube", "bent_sheet"]
)
def test_a_form_is_the_shape_that_it_was_read_from(name, turned):
    solid = parts.PARTS[name]()
    shape = mirrored(solid) if turned else solid
    again = shape_of(form_of_shape(shape, name))
    assert BRepCheck_Analyzer(again).IsValid()
    assert volume(again) == pytest.approx(volume(solid), rel=1e-9)
    back = shape_of(read_step_bytes(shape_bytes(again, name), name))
    assert volume(back) == pytest.approx(volume(solid), rel=1e-7)
