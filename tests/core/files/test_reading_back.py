"""Cut files are read back before they leave: what is whole passes, whatever it holds, and what is not is caught."""

from __future__ import annotations

import numpy as np
import pytest
from OCP.BRepBuilderAPI import BRepBuilderAPI_Transform
from OCP.gp import gp_Trsf

from tests import parts
from zuschnitt.core.errors import CannotBeDone
from zuschnitt.core.files.drawing_file import drawing_bytes
from zuschnitt.core.files.gcode import LEFT_OUT, gcode_bytes
from zuschnitt.core.files.reading_back import require_same
from zuschnitt.core.kernel import step_out
from zuschnitt.core.kernel.step_in import read_step_bytes
from zuschnitt.core.plane.contour import Contour

KINDS = ("dxf", "svg")


def strewn(seed):
    """Contours of every sort, small and far off, with arcs either way."""
    random = np.random.default_rng(seed)
    made = []
    for layer in ("CUT", "MARK", "TEXT", "BEND_UP", "REFERENCE", "LEAD", "CUT_OPEN"):
        for closed in (True, False):
            count = int(random.integers(2, 9))
            points = random.random((count, 2)) * 10 ** random.uniform(-1, 3) + random.uniform(-1e4, 1e4, 2)
            bulges = np.where(random.random(count) < 0.5, 0.0, random.uniform(-1, 1, count))
            made.append(Contour(points, bulges, closed, layer))
    turn = np.array([[1.0, 0], [-1, 0]]) * random.uniform(0.1, 500)
    return [*made, Contour(turn, np.ones(2), True, "CUT")]


@pytest.mark.parametrize("kind", KINDS)
@pytest.mark.parametrize("seed", range(12))
def test_whole_files_pass(kind, seed):
    drawn = strewn(seed)
    require_same(drawing_bytes(kind, drawn, "strewn"), kind, drawn)


@pytest.mark.parametrize("kind", KINDS)
def test_what_is_missing_or_moved_is_caught(kind):
    drawn = strewn(3)
    with pytest.raises(CannotBeDone, match="not written: layer"):
        require_same(drawing_bytes(kind, drawn[:-1], "less"), kind, drawn)
    other = [*drawn[:-1], drawn[-1].moved(1.01)]
    with pytest.raises(CannotBeDone, match="mm long in it"):
        require_same(drawing_bytes(kind, other, "larger"), kind, drawn)
    with pytest.raises(CannotBeDone, match="not written"):
        require_same(drawing_bytes(kind, drawn, "cut off")[:200], kind, drawn)


@pytest.mark.parametrize("seed", range(6))
def test_programs_of_a_laser_pass_and_what_is_missing_in_them_is_caught(seed):
    drawn = [contour for contour in strewn(seed) if contour.layer not in LEFT_OUT]
    require_same(gcode_bytes(drawn, "strewn"), "nc", drawn)
    for k in (0, len(drawn) - 1):
        with pytest.raises(CannotBeDone, match="not written: layer"):
            require_same(gcode_bytes(drawn[:k] + drawn[k + 1 :], "less"), "nc", drawn)


@pytest.mark.parametrize("name", ["loft", "box", "cone", "ring", "vase", "wave", "drilled_tube", "curve", "square"])
def test_step_files_are_read_back(name, monkeypatch):
    """Solids, open faces and curves pass; one that is not what was written does not leave."""
    shape = parts.PARTS[name]()
    assert step_out.named_shapes_bytes([("a", shape)]).startswith(b"ISO-10303-21")
    larger = BRepBuilderAPI_Transform(shape, scaled(1.001)).Shape()
    monkeypatch.setattr(step_out, "read_step_shape", lambda content, name: larger)
    with pytest.raises(CannotBeDone, match="is not written"):
        step_out.named_shapes_bytes([("a", shape)])


def test_several_bodies_are_all_measured():
    """Only the last one was, and whole files were held back."""
    content = step_out.named_shapes_bytes([(name, parts.PARTS[name]()) for name in ("box", "tube", "ball", "curve")])
    assert len(read_step_bytes(content, "a").bodies) == 3


def scaled(factor):
    motion = gp_Trsf()
    motion.SetScaleFactor(factor)
    return motion
