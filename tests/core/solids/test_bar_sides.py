"""Bars of which one side is kept: where the faces end within them, they are continued."""

from __future__ import annotations

import numpy as np
import pytest
from OCP.BRepAlgoAPI import BRepAlgoAPI_Common
from OCP.BRepBuilderAPI import (
    BRepBuilderAPI_MakeEdge,
    BRepBuilderAPI_MakeFace,
    BRepBuilderAPI_MakePolygon,
    BRepBuilderAPI_MakeWire,
)
from OCP.BRepPrimAPI import BRepPrimAPI_MakePrism
from OCP.GC import GC_MakeArcOfCircle
from OCP.gp import gp_Pnt, gp_Vec

from zuschnitt.core.form_curves.stations import Way, stations
from zuschnitt.core.kernel.forms import form_of_shape
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


@pytest.fixture(scope="module")
def strip():
    """A flat face and a part of a tube of radius 40 that goes on from it, between edges aslant to both: 8 degrees."""
    straight = BRepBuilderAPI_MakeEdge(gp_Pnt(0, -60, 40), gp_Pnt(0, 0, 40)).Edge()
    arc = GC_MakeArcOfCircle(gp_Pnt(0, 0, 40), gp_Pnt(0, 24, 32), gp_Pnt(0, 40, 0)).Value()
    line = BRepBuilderAPI_MakeWire(straight, BRepBuilderAPI_MakeEdge(arc).Edge()).Wire()
    outline = BRepBuilderAPI_MakePolygon()
    for x, y in ((0, -50), (300, -20), (300, 30), (0, 20)):
        outline.Add(gp_Pnt(x, y, -100))
    outline.Close()
    around = BRepPrimAPI_MakePrism(BRepBuilderAPI_MakeFace(outline.Wire()).Face(), gp_Vec(0, 0, 300)).Shape()
    faces = BRepAlgoAPI_Common(BRepPrimAPI_MakePrism(line, gp_Vec(300, 0, 0)).Shape(), around).Shape()
    return form_of_shape(faces, "strip")


@pytest.mark.parametrize(("keep", "side"), [("outer", 1), ("inner", -1)])
def test_a_bar_over_two_open_faces_is_kept_on_one_side_of_both(strip, keep, side):
    """It reaches beyond both at its ends. Half a disc whose centre lies by 4 r / 3 pi further out is turned."""
    found, _ = stations(strip, [1, 2], ALONG, [100.0, 80.0])
    made, said = bars(strip, [1, 2], found, Bar("round", 6.0, keep=keep))
    assert not said
    for body, station in zip(made, found, strict=True):
        lengths = {piece.face.kind: piece.length for piece in station.pieces}
        wanted = lengths["plane"] + lengths["cylinder"] * (1 + side * 4 * 3 / (3 * np.pi) / 40)
        assert body.volume == pytest.approx(wanted * np.pi * 9 / 2, rel=1e-6)
