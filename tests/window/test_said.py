"""What a row says: a note in ink, a warning in red, and a warning before any note."""

from __future__ import annotations

from io import StringIO

import ezdxf
import pytest

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
    """The words on the card of a row that brings a drawing in, and whether they are red."""
    windows = []

    def of(content: bytes) -> tuple[str, bool]:
        job = Job().with_asset(Asset("square.dxf", content)).added("bring_in_drawing", file="square.dxf")
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
