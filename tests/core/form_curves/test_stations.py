"""Cuts of whole bodies: they go on over sharp edges, against the sections of the geometry kernel, which are off by some 1e-4."""

from __future__ import annotations

import numpy as np
import pytest
import trimesh
from OCP.BRepAlgoAPI import BRepAlgoAPI_Section
from OCP.BRepGProp import BRepGProp
from OCP.gp import gp_Dir, gp_Pln, gp_Pnt
from OCP.GProp import GProp_GProps
from OCP.IFSelect import IFSelect_RetDone
from OCP.ShapeAnalysis import ShapeAnalysis_FreeBounds
from OCP.STEPControl import STEPControl_Reader
from OCP.TopAbs import TopAbs_EDGE
from OCP.TopExp import TopExp_Explorer
from OCP.TopTools import TopTools_HSequenceOfShape

from tests.meshes import form_of
from zuschnitt.core.form_curves.stations import Way, stations

PARTS = ("tube", "cone", "oblique_tube", "drilled_tube", "rounded", "L", "pocketed", "tip_up")


def longest(path, point, normal) -> float:
    """The length of the longest wire in which the kernel finds that a plane cuts the part in a STEP file."""
    reader = STEPControl_Reader()
    assert reader.ReadFile(str(path)) == IFSelect_RetDone
    reader.TransferRoots()
    plane = gp_Pln(gp_Pnt(*point.tolist()), gp_Dir(*normal.tolist()))
    edges, wires = TopTools_HSequenceOfShape(), TopTools_HSequenceOfShape()
    found = TopExp_Explorer(BRepAlgoAPI_Section(reader.OneShape(), plane, True).Shape(), TopAbs_EDGE)
    while found.More():
        edges.Append(found.Current())
        found.Next()
    ShapeAnalysis_FreeBounds.ConnectEdgesToWires_s(edges, 1e-5, False, wires)
    lengths = [0.0]
    for k in range(1, wires.Length() + 1):
        about = GProp_GProps()
        BRepGProp.LinearProperties_s(wires.Value(k), about)
        lengths.append(about.Mass())
    return max(lengths)


@pytest.mark.parametrize("name", PARTS)
@pytest.mark.parametrize("along", [(1.0, 0.0, 0.0), (0.3, -0.2, 1.0), (1.0, 0.7, 0.4)])
def test_a_cut_is_the_longest_wire_of_the_section(name, along, form, step):
    given = form(name)
    low, high = given.bounds
    normal = np.array(along) / np.linalg.norm(along)
    corners = np.array([[(low, high)[k][0], (low, high)[j][1], (low, high)[i][2]]
                        for k in (0, 1) for j in (0, 1) for i in (0, 1)]) @ normal  # fmt: skip
    start = (low + high) / 2
    start = start + (corners.min() - start @ normal) * normal
    steps = np.ptp(corners) * np.array([0.31, 0.11, 0.17])
    found, _ = stations(given, [face.number for face in given.faces], Way(start, normal), steps.tolist())
    assert found
    for station in found:
        there = start + station.at * normal
        assert station.length == pytest.approx(longest(step(name), there, normal), rel=2e-4)
        assert np.abs((station.curve - there) @ normal).max() < 1e-6


def test_over_the_edges_of_a_tube_it_is_closed(form):
    given = form("tube")  # 50 in radius, 120 high
    found, said = stations(given, [1, 2, 3], Way(np.array([0, 0, 5.0]), np.array([1.0, 0, 0])), [30.0, 10.0])
    assert [s.length for s in found] == pytest.approx([2 * (120 + 2 * h) for h in (40.0, 30.0)], rel=1e-9)
    assert all(station.closed for station in found) and not said


def test_over_the_edges_of_a_mesh_it_is_closed():
    body = trimesh.creation.cylinder(60, 80, sections=96)
    given = form_of(body)
    way = np.array([1.0, 0.2, 0.3]) / np.linalg.norm([1.0, 0.2, 0.3])
    found, said = stations(given, [f.number for f in given.faces], Way(np.zeros(3), way), [11.0, 17.3])
    for station in found:
        wanted = body.section(way, way * station.at)
        assert station.closed and station.length == pytest.approx(wanted.length, rel=1e-6)
    assert not said
