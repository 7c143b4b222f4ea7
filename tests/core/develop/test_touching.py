"""Blanks that touch themselves, and blanks that lie over themselves."""

from __future__ import annotations

import numpy as np
import pytest
import shapely

from zuschnitt.core.develop.developing import develop
from zuschnitt.core.plane.region import Region

SQUARE = np.array([[0, 0], [10, 0], [10, 10], [0, 10]], float)


@pytest.mark.parametrize("name", ["L", "U", "pocketed"])
def test_what_only_touches_itself_is_cut_in_one(form, name):
    part = form(name)
    blank = develop(part, [face.number for face in part.faces])
    assert not any("overlaps" in message for message in blank.messages)
    faces = [shapely.transform(leaf.region.shape, leaf.placement.apply) for leaf in blank.correspondence.leaves]
    covered = shapely.union_all(shapely.buffer(faces, 0.0)).area
    assert covered == pytest.approx(sum(face.area for face in part.faces), abs=1e-6)


def test_overlap_is_measured():
    turned = np.array([[0, 0], [30, 0], [30, 5], [10, 5], [10, -5], [20, -5], [20, 10], [0, 10]], float)
    # an outline that comes round and lies over itself on 10 x 5
    assert Region((turned,)).overlap > 1 and not Region((turned,)).touches_only
    assert Region((SQUARE,)).touches_only and Region((SQUARE[::-1],)).touches_only
    assert not Region((turned[::-1],)).touches_only
    apart = SQUARE + [10, 10]
    assert Region((SQUARE, apart)).touches_only  # corner to corner
    assert not Region((SQUARE, SQUARE + [9, 0])).touches_only
    hole = (SQUARE * 0.5 + 2)[::-1]
    assert Region((SQUARE, hole)).touches_only
