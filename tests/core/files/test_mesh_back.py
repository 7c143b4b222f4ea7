"""Mesh files are read back before they leave: what is whole passes, what is not is not written."""

from __future__ import annotations

import pytest

from zuschnitt.core.errors import CannotBeDone
from zuschnitt.core.files.mesh_back import require_same_triangles
from zuschnitt.core.files.stl import stl_bytes
from zuschnitt.core.files.threemf import threemf_bytes
from zuschnitt.core.form.build import turned_body
from zuschnitt.core.form.joined_triangles import joined_triangles

BODY = turned_body([(60, 0), (200, 420), (200, 640)])
POINTS, TRIANGLES = joined_triangles(BODY)
WRITERS = {"stl": stl_bytes, "3mf": threemf_bytes}


@pytest.mark.parametrize("ending", WRITERS)
@pytest.mark.parametrize("far", [0.0, 1e4])
def test_what_is_written_is_what_is_read(ending, far):
    content = WRITERS[ending](BODY)
    require_same_triangles(content, ending, POINTS[TRIANGLES])
    with pytest.raises(CannotBeDone, match="does not hold what it should"):
        require_same_triangles(content, ending, POINTS[TRIANGLES] + far + 0.1)


@pytest.mark.parametrize("ending", WRITERS)
@pytest.mark.parametrize(
    ("corners", "why"),
    [
        (POINTS[TRIANGLES[1:]], "triangles, not"),
        (POINTS[TRIANGLES] * [1, 1, 1.001], "from where it should"),
        (POINTS[TRIANGLES[[*range(len(TRIANGLES) - 1), 0]]], "from where it should"),
    ],
)
def test_what_is_missing_or_moved_is_found(ending, corners, why):
    with pytest.raises(CannotBeDone, match=why):
        require_same_triangles(WRITERS[ending](BODY), ending, corners)
