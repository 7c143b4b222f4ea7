"""What a relaxed development keeps, what is held in it, and which layer it is of."""

from __future__ import annotations

import json

import numpy as np
import pytest

from zuschnitt.core.develop.assembly import Assembly
from zuschnitt.core.develop.compared import BINS
from zuschnitt.core.develop.comparing import compare
from zuschnitt.core.develop.developing import develop
from zuschnitt.core.develop.strokes import strokes
from zuschnitt.core.errors import CannotBeDone, Refused
from zuschnitt.core.form.build import domed_lid, turned_body
from zuschnitt.core.form.locator import foot
from zuschnitt.core.form.sheet_side import depths
from zuschnitt.core.materials import MATERIALS, known_names, own_table, required_material, table

LID = domed_lid(240, 180, 60, 40, 0)


def laid(**how):
    return develop(LID, [1], "relaxed", assembly=Assembly(**how))


def spoiled(blank) -> tuple[float, float]:
    """Root mean square of the change of areas, and of the shear of angles, in percent."""
    larger, smaller = (1 + blank.mesh.stretch).T
    return 100 * np.sqrt(((larger * smaller - 1) ** 2).mean()), 100 * np.sqrt(((larger / smaller - 1) ** 2).mean())


def test_each_way_keeps_what_it_says_better_than_the_others():
    lengths, angles, areas = (laid(keeps=what) for what in ("lengths", "angles", "areas"))
    assert spoiled(areas)[0] < 0.05 < spoiled(lengths)[0] < spoiled(angles)[0]
    assert spoiled(angles)[1] < 0.3 < spoiled(lengths)[1] < spoiled(areas)[1]
    assert all(b.figures.flipped == 0 and b.figures.round_trip_max < 1e-6 for b in (angles, areas))


def test_stiffness_against_compression_turns_it_into_stretch():
    soft, even, stiff = (laid(ratio=ratio) for ratio in (0.1, 1.0, 8.0))
    assert stiff.figures.stretch_min > even.figures.stretch_min + 1
    assert soft.figures.stretch_max < even.figures.stretch_max - 1
    # in area, too: what resists compression makes a larger share of the blank stretch
    assert stiff.figures.area_blank < even.figures.area_blank < soft.figures.area_blank


def edge_on(blank, number):
    edge = LID.edges[number - 1]
    points = blank.correspondence.to_blank(edge.curve.evaluate(np.linspace(edge.start, edge.end, 60))).points
    chord = points[-1] - points[0]
    across = np.array([-chord[1], chord[0]]) / np.linalg.norm(chord)
    bow = float(np.abs((points - points[0]) @ across).max())
    return bow, float(np.linalg.norm(np.diff(points, axis=0), axis=1).sum()) / edge.length - 1


def test_a_held_edge_stays_straight_or_as_long_as_it_is():
    free, straight, long = laid(), laid(straight=(1,)), laid(long=(1, 3))
    both = laid(straight=(1,), long=(1,))
    assert edge_on(free, 1)[0] > 0.2 and abs(edge_on(free, 1)[1]) > 0.03
    assert edge_on(straight, 1)[0] < 0.01
    assert abs(edge_on(long, 1)[1]) < 1e-3 and abs(edge_on(long, 3)[1]) < 1e-3
    assert edge_on(both, 1)[0] < 0.05 and abs(edge_on(both, 1)[1]) < 1e-3
    assert both.figures.flipped == 0


@pytest.mark.parametrize(
    ("how", "why"),
    [
        ({"keeps": "weight"}, "cannot be kept"),
        ({"ratio": 0.0}, "ratio of stiffness"),
        ({"ratio": np.nan}, "ratio of stiffness"),
        ({"straight": (77,)}, "Edge 77"),
        ({"tab": -1.0}, "width of the tabs"),
        ({"tab": 5.0, "tab_angle": 3.0}, "ends of the tabs"),
    ],
)
def test_what_makes_no_sense_is_refused(how, why):
    with pytest.raises(Refused, match=why):
        laid(**how)


# --- layers --------------------------------------------------------------------------------------


def sheet(layer, thickness, k_factor=0.44):
    return Assembly(layer=layer, thickness=thickness, k_factor=k_factor)


@pytest.mark.parametrize("layer, deep", [("given", 0), ("neutral", -1.12), ("neutral_of_inner", 1.12), ("other", -2)])
def test_a_tube_is_as_long_as_its_layer_is_round(layer, deep):
    """A tube whose faces are the inside of the sheet is bent towards them: K counts from there."""
    deep = 0.88 if layer == "neutral_of_inner" else deep
    blank = develop(turned_body([(100, 0), (100, 50)]), [1], assembly=sheet(layer, 2.0))
    x0, _, x1, _ = blank.bounds
    assert x1 - x0 == pytest.approx(2 * np.pi * (100 + deep), rel=1e-9)
    assert ("layer" in " ".join(blank.messages)) == (layer in ("neutral", "neutral_of_inner"))
    # what is carried still lies on the faces that were given
    on = blank.correspondence.to_form(np.array([[10.0, 20.0], [100.0, 30.0]])).points
    assert np.hypot(on[:, 0], on[:, 1]) == pytest.approx([100, 100], abs=1e-9)
    assert blank.figures.round_trip_max < 1e-6


@pytest.mark.parametrize("layer", ["neutral", "neutral_of_inner"])
@pytest.mark.parametrize("height", [0.0, 2.0])
def test_both_skins_of_a_solid_sheet_have_one_neutral_layer(form, layer, height):
    """Bent both ways; the bend allowance of each bend is angle times (inside radius + K thickness)."""
    part = form("bent_sheet")
    skin = part.smooth_chain([foot(part, np.array([20.0, 30, height]))[0]])
    assert len(skin) == 5
    blank = develop(part, skin, assembly=sheet(layer, 2.0))
    lengths = np.subtract(blank.bounds[2:], blank.bounds[:2])
    expected = 90 + np.pi / 2 * (3 + 0.88) + np.pi / 2 * (4 + 0.88)
    assert sorted(lengths) == pytest.approx([60, expected], rel=1e-9)
    assert blank.figures.pieces == 1 and blank.way == "exact"


def test_the_other_side_of_a_solid_sheet_is_below_either_skin(form):
    part = form("bent_sheet")
    for height, radii in ((0.0, (3, 6)), (2.0, (5, 4))):
        skin = part.smooth_chain([foot(part, np.array([20.0, 30, height]))[0]])
        blank = develop(part, skin, assembly=sheet("other", 2.0))
        lengths = np.subtract(blank.bounds[2:], blank.bounds[:2])
        assert max(lengths) == pytest.approx(90 + np.pi / 2 * sum(radii), rel=1e-9)


def test_an_open_sheet_bent_both_ways_takes_k_from_each_inside(form):
    part = form("three_smooth")
    blank = develop(part, part.smooth_chain([1]), assembly=sheet("neutral", 2.0))
    given = develop(part, part.smooth_chain([1]))
    depths_ = [round(abs(d), 6) for d in depths(part, [1, 3], "neutral", 2.0, 0.44).values()]
    assert sorted(depths_) == [0.88, 1.12]
    assert blank.figures.area_blank != pytest.approx(given.figures.area_blank, rel=1e-4)


def test_layers_of_a_cone_and_of_a_free_form():
    half = np.sqrt(0.5)
    cone = develop(turned_body([(50, 0), (100, 50)]), [1], assembly=sheet("other", 3.0))
    assert cone.figures.area_blank == pytest.approx(np.pi * (150 - 6 * half) * np.hypot(50, 50), rel=1e-9)
    lid = develop(LID, [1], assembly=sheet("other", 5.0))
    assert lid.figures.area_blank < 0.98 * LID.area([1]) and lid.figures.flipped == 0


def test_a_radius_smaller_than_the_sheet_is_refused():
    with pytest.raises(CannotBeDone, match="smaller than the sheet"):
        develop(turned_body([(2, 0), (2, 50)]), [1], assembly=sheet("other", 3.0))


# --- the comparison ------------------------------------------------------------------------------


def test_three_ways_side_by_side():
    blank = develop(LID, [1])
    relaxed, even, plain, exact = compare(LID, blank, ["relaxed", "even", "parametric", "exact"])
    assert relaxed.stretch_max < even.stretch_max < plain.stretch_max
    for each in (relaxed, even, plain):
        assert each.bins is not None and each.shares is not None
        assert len(each.shares) == BINS and each.shares.sum() == pytest.approx(100)
        assert (each.bins == relaxed.bins).all()
        assert len(each.circles) == len(relaxed.circles) >= 3
        # the blank lies as the one that is compared
        assert each.blank.hold_form == pytest.approx(blank.hold_form)
    assert exact.blank is None and "curves both ways" in exact.refusal and exact.purpose


def test_test_circles_become_what_the_stretch_says():
    """A circle's mapped width over its own, across all directions, is one over one plus the stretch there."""
    blank = develop(LID, [1])
    (relaxed,) = compare(LID, blank, ["relaxed"])
    circle = relaxed.circles[len(relaxed.circles) // 2]
    widths = np.linalg.norm(circle[:36] - circle[36:72], axis=1)
    centre = circle[:-1].mean(axis=0)
    mesh = relaxed.blank.mesh
    nearest = np.linalg.norm(mesh.points_blank[mesh.triangles].mean(axis=1) - centre, axis=1).argmin()
    larger, smaller = 1 + mesh.stretch[nearest]
    assert widths.max() / widths.min() == pytest.approx(larger / smaller, abs=0.01)


def test_strokes_run_along_the_larger_stretch():
    blank = develop(LID, [1], "parametric")
    found = strokes(blank.mesh)
    assert 50 < len(found.stretch) < 300
    assert np.linalg.norm(found.along_blank, axis=1) == pytest.approx(1)
    # carried a little way along its stroke, a point moves on the form by one plus the larger stretch
    step = 0.01
    there = blank.correspondence.to_form(found.points_blank + step * found.along_blank).points
    here = blank.correspondence.to_form(found.points_blank).points
    assert np.linalg.norm(there - here, axis=1) / step - 1 == pytest.approx(found.stretch[:, 0], abs=0.02)


# --- one's own materials -------------------------------------------------------------------------


def test_a_table_of_ones_own_adds_materials_and_replaces_some(monkeypatch, tmp_path):
    monkeypatch.setenv("XDG_CONFIG_HOME", str(tmp_path))
    assert table() == MATERIALS
    own_table().parent.mkdir()
    own = [
        {"name": "Felt", "stretch": 12, "compression": 9, "thickness": 3, "source": "pulled by hand"},
        {"name": "card", "stretch": 0.7, "compression": 0.3},
    ]
    own_table().write_text(json.dumps(own))
    assert required_material("felt").source == "pulled by hand" and required_material("FELT").thickness == 3
    assert required_material("card").stretch == 0.7 and required_material("paper") == MATERIALS["paper"]
    assert set(known_names()) == {*MATERIALS, "felt"}


@pytest.mark.parametrize("text", ["{", '[{"name": "x"}]', '[{"name": "x", "stretch": -1, "compression": 1}]', "[3]"])
def test_a_table_that_is_no_table_is_refused_and_named(monkeypatch, tmp_path, text):
    monkeypatch.setenv("XDG_CONFIG_HOME", str(tmp_path))
    own_table().parent.mkdir()
    own_table().write_text(text)
    with pytest.raises(Refused, match="no table of materials"):
        required_material("card")
    assert known_names() == list(MATERIALS)
