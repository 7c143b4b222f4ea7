"""What a row says: a note in ink, a warning in red, and a warning before any note."""

from __future__ import annotations

from io import StringIO

import ezdxf
import numpy as np
import pytest
import trimesh

from tests.window.conftest import opened
from zuschnitt.core.job.route import Asset, Job
from zuschnitt.window.theme import theme


def drawing(*layers_off: str, image: bool = False) -> bytes:
    """A square of no named unit; with layers that are off, and with something that is no curve."""
    document = ezdxf.new(units=0)
    space = document.modelspace()
    space.add_lwpolyline([(0, 0), (40, 0), (40, 30), (0, 30)], close=True)
    for name in layers_off:
        document.layers.add(name).off()
        space.add_line((0, 0), (5, 5), dxfattribs={"layer": name})
    if image:
        space.add_3dface([(0, 0, 0), (1, 0, 0), (1, 1, 0)])
    stream = StringIO()
    document.write(stream)
    return stream.getvalue().encode()


@pytest.fixture
def said(tmp_path, application):
    """The words on the card of a row that brings a file in, and whether they are red."""
    windows = []

    def of(content: bytes, name: str = "square.dxf") -> tuple[str, bool]:
        operation = "bring_in" if name.endswith(".stl") else "bring_in_drawing"
        job = Job().with_asset(Asset(name, content)).added(operation, file=name)
        windows.append(opened(tmp_path, job))
        window = next(windows[-1])
        state = window.card.cards[window.session.job.rows[0].id]._state
        return state.text(), state.palette().windowText().color().name() == theme().broken

    yield of
    for each in windows:
        next(each, None)


def test_a_guessed_unit_is_a_note(said):
    text, red = said(drawing("dimensions"))
    assert "names no unit" in text and not red


def test_what_is_left_out_is_a_warning_and_comes_first(said):
    text, red = said(drawing(image=True))
    assert "not curves" in text and red


def test_a_mesh_is_red_where_it_passes_through_itself_and_not_where_it_was_mended(said):
    """Of a form all that is said is a note, but for what is wrong with it."""
    box = trimesh.creation.box((40, 30, 20))
    box.faces[0] = box.faces[0][::-1]
    text, red = said(box.export(file_type="stl"), "box.stl")
    assert text and not red
    strip = np.array([[0.0, 0, 0], [40, 0, 0], [40, 0, 30], [20, 0, 30], [20, 0, -20]])
    upright = np.stack([strip, strip + [0, 20.0, 0]], axis=1).reshape(-1, 3)
    i = 2 * np.arange(len(strip) - 1)[:, None]
    through = trimesh.Trimesh(upright, np.vstack([i + [0, 2, 1], i + [1, 2, 3]]), process=False)
    text, red = said(through.export(file_type="stl"), "strip.stl")
    assert "pass through each other" in text and red
