"""Bars of which one side is kept: where the faces end within them, they are continued."""

from __future__ import annotations

import numpy as np
import pytest

from zuschnitt.core.form_curves.stations import Way, stations
from zuschnitt.core.solids.bars import Bar, bars
from zuschnitt.core.solids.bodies import form_of_bodies

ALONG = Way(np.zeros(3), np.array([1.0, 0, 0]))


@pytest.mark.parametrize("name", ["saddle", "tip_sector", "octant"])
@pytest.mark.parametrize(("kind", "size", "whole"), [("round", 4.0, np.pi * 4), ("square", 3.0, 9.0)])
def test_both_sides_together_are_the_bar(form, name, kind, size, whole):
    faces = [face.number for face in form(name).faces]
    found, _ = stations(form(name), faces, ALONG, [20.0])
    sides = {}
    for keep in ("whole", "outer", "inner"):
        (sides[keep],), said = bars(form(name), faces, found, Bar(kind, size, keep=keep))
        assert not said
        form_of_bodies([sides[keep]], "bar")  # its faces can be read again
    assert sides["whole"].volume == pytest.approx(whole * found[0].length, rel=2e-2)
    assert sides["outer"].volume + sides["inner"].volume == pytest.approx(sides["whole"].volume, rel=1e-5)
    assert 0.4 < sides["outer"].volume / sides["whole"].volume < 0.6
