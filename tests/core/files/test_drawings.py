"""SVG and DXF: artwork in, cut files out, on real files."""

from __future__ import annotations

import ezdxf
import numpy as np
import pytest

from zuschnitt.core.develop.developing import develop
from zuschnitt.core.errors import Refused
from zuschnitt.core.files.artwork_file import read_artwork
from zuschnitt.core.files.dxf import chained, read_dxf, write_dxf
from zuschnitt.core.files.svg import read_svg, svg_text
from zuschnitt.core.form.build import domed_lid, turned_body
from zuschnitt.core.plane.artwork import Artwork
from zuschnitt.core.plane.contour import Contour, bounds
from zuschnitt.core.plane.lettering import lettering
from zuschnitt.core.shop.cut_drawing import drawing
from zuschnitt.demo.job import HERE


def svg(body: str, size='width="100mm" height="60mm" viewBox="0 0 100 60"') -> bytes:
    return f'<svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink" {size}>{body}</svg>'.encode()


@pytest.mark.parametrize(
    "body, length, box",
    [
        ('<circle cx="50" cy="30" r="20"/>', 40 * np.pi, (30, -50, 70, -10)),
        ('<line x1="0" y1="0" x2="30" y2="40"/>', 50, (0, -40, 30, 0)),
        ('<rect x="10" y="5" width="40" height="20"/>', 120, (10, -25, 50, -5)),
        ('<rect x="10" y="5" width="40" height="20" rx="5"/>', 80 + 10 * np.pi, (10, -25, 50, -5)),
        ('<polyline points="0,0 10,0 10,10"/>', 20, (0, -10, 10, 0)),
        ('<polygon points="0,0 30,0 30,40"/>', 120, (0, -40, 30, 0)),
        ('<path d="M10 10 h20 v20 z"/>', 40 + np.hypot(20, 20), (10, -30, 30, -10)),
        ('<path d="M0 0 Q 10 0 20 0"/>', 20, (0, 0, 20, 0)),
        ('<path d="M20 30 A 10 10 0 0 1 40 30"/>', 10 * np.pi, (20, -30, 40, -20)),
        ('<g transform="translate(10 5) rotate(90)"><line x1="0" y1="0" x2="30" y2="0"/></g>', 30, (10, -35, 10, -5)),
        ('<ellipse cx="50" cy="30" rx="8" ry="5" transform="rotate(90 50 30)"/>', 41.3862, (45, -38, 55, -22)),
        ('<circle cx="5" cy="3" r="2" transform="scale(10)"/>', 40 * np.pi, (30, -50, 70, -10)),
    ],
)
def test_svg_shapes_have_their_lengths_and_places(body, length, box):
    artwork = read_svg(svg(body), "a.svg")
    assert sum(c.length for c in artwork.contours) == pytest.approx(length, rel=1e-3)
    assert artwork.bounds == pytest.approx(box, abs=0.02)


def test_circular_arcs_stay_arcs_and_beziers_keep_the_tolerance():
    assert len(read_svg(svg('<circle cx="50" cy="30" r="20"/>'), "a").contours[0].points) <= 4
    k = 4 / 3 * (np.sqrt(2) - 1) * 20  # nearly a quarter of a circle
    (curve,) = read_svg(svg(f'<path d="M70 30 C 70 {30 + k} {50 + k} 50 50 50"/>'), "a").contours
    t = np.linspace(0, 1, 2001)[:, None]
    p = np.array([[70, -30], [70, -30 - k], [50 + k, -50], [50, -50]])
    true = (1 - t) ** 3 * p[0] + 3 * (1 - t) ** 2 * t * p[1] + 3 * (1 - t) * t**2 * p[2] + t**3 * p[3]
    a, b = curve.points[:-1], curve.points[1:]
    along = np.clip((((true[:, None] - a) * (b - a)).sum(2)) / ((b - a) ** 2).sum(1), 0, 1)
    gap = np.linalg.norm(true[:, None] - (a + along[..., None] * (b - a)), axis=2).min(axis=1)
    assert gap.max() < 0.0101
    assert len(curve.points) < 60


@pytest.mark.parametrize("size, scale", [
    ('width="100mm" height="60mm" viewBox="0 0 100 60"', 1), ('width="10cm" height="6cm" viewBox="0 0 100 60"', 1),
    ('width="2in" height="1in" viewBox="0 0 50.8 25.4"', 1), ('width="96" height="96"', 25.4 / 96),
    ('width="200mm" height="120mm" viewBox="0 0 100 60"', 2)])  # fmt: skip
def test_svg_units_are_respected(size, scale):
    (line,) = read_svg(svg('<line x1="0" y1="0" x2="30" y2="0"/>', size), "a").contours
    assert line.length == pytest.approx(30 * scale, rel=1e-6)


def test_svg_text_becomes_outlines_that_read_upright():
    artwork = read_svg(svg('<text x="50" y="40" font-size="10" text-anchor="middle">Hof</text>'), "a")
    x0, y0, x1, y1 = artwork.bounds
    assert (x0 + x1) / 2 == pytest.approx(50, abs=1) and y0 == pytest.approx(-40, abs=0.3) and 6 < y1 - y0 < 9
    assert all(contour.closed for contour in artwork.contours)
    outlines, width = lettering("HH", 10)
    assert width > 10 and len(outlines) == 2
    left = [c.points[:, 0].min() for c in outlines]
    assert left[1] - left[0] == pytest.approx(width / 2)


def test_layers_by_word_and_pictures_left_out():
    artwork = read_svg(svg('<g class="CUT"><circle cx="5" cy="5" r="2"/></g><line x1="0" y1="0" x2="9" y2="0"/>'
                           '<image width="5" height="5" href="data:image/png;base64,AA=="/>'), "a")  # fmt: skip
    assert [c.layer for c in artwork.contours] == ["CUT", "MARK"]
    assert "1 picture in a left out" in artwork.messages[0]


BAD_SVG = {
    "empty": (b"  \n", "is empty"),
    "not XML": (b"hello, this is text", "not well-formed XML"),
    "cut": (svg("<circle/>")[:-9], "not well-formed XML"),
    "not SVG": (b"<html><body/></html>", "not SVG"),
    "nothing in it": (svg("<g/>"), "nothing in it"),
    "an entity": (b'<!DOCTYPE svg [<!ENTITY a "aaaa">]>' + svg("<text>&a;</text>"), "entities"),
    "an external entity": (
        b'<!DOCTYPE svg [<!ENTITY a SYSTEM "file:///etc/passwd">]>' + svg("<text>&a;</text>"),
        "entities",
    ),
    "an entity in UTF-16": (
        '<!DOCTYPE svg [<!ENTITY a "b">]><svg xmlns="http://www.w3.org/2000/svg"/>'.encode("utf-16"),
        "entities",
    ),
    "an external picture": (svg('<image xlink:href="file:///etc/passwd"/>'), "another file"),
    "an external use": (svg('<use xlink:href="other.svg#a"/>'), "another file"),
    "an external style": (svg('<rect width="9" height="9" style="fill:url(http://a.b/c)"/>'), "another file"),
    "not finite": (svg('<line x1="0" y1="0" x2="1e400" y2="0"/>'), "finite|nothing in it|cannot be read"),
}


@pytest.mark.parametrize("case", BAD_SVG)
def test_bad_svg_is_refused(case):
    content, why = BAD_SVG[case]
    with pytest.raises(Refused, match=why):
        read_svg(content, "bad.svg")


@pytest.fixture
def document():
    made = ezdxf.new("R2010")
    made.units = ezdxf.units.MM
    return made


def dxf_bytes(document, tmp_path) -> bytes:
    path = tmp_path / "a.dxf"
    document.saveas(path)
    return path.read_bytes()


def test_dxf_entities_have_their_lengths(document, tmp_path):
    space = document.modelspace()
    space.add_circle((10, 10), 5)
    space.add_lwpolyline([(0, 0, 1), (20, 0, 0), (20, 10, 0)], format="xyb")
    space.add_ellipse((50, 50), major_axis=(8, 0), ratio=0.5)
    space.add_spline([(300, 0), (310, 5), (320, -5), (330, 0)])
    space.add_arc((100, 0), 7, 300, 60)
    space.add_line((200, 0), (200, 9), dxfattribs={"layer": "CUT"})
    space.add_text("not a curve")
    artwork = read_dxf(dxf_bytes(document, tmp_path), "a.dxf")
    lengths = sorted(c.length for c in artwork.contours)
    expected = sorted([10 * np.pi, 10 * np.pi + 10, 38.7538, 9, 14 * np.pi / 3])
    spline = next(c for c in artwork.contours if len(c.points) > 8 and not c.closed)
    lengths.remove(spline.length)
    assert lengths == pytest.approx(expected, rel=1e-3)
    assert 30 < spline.length < 40
    assert [c.layer for c in artwork.contours].count("CUT") == 1
    assert "TEXT" in artwork.messages[0]


@pytest.mark.parametrize("unit, scale", [(1, 25.4), (4, 1), (5, 10), (6, 1000), (0, 1)])
def test_dxf_units_are_respected(document, tmp_path, unit, scale):
    document.units = unit
    document.modelspace().add_line((0, 0), (3, 4))
    artwork = read_dxf(dxf_bytes(document, tmp_path), "a.dxf")
    assert artwork.contours[0].length == pytest.approx(5 * scale)
    assert bool(artwork.messages) == (unit == 0)


def test_dxf_blocks_are_taken_apart(document, tmp_path):
    document.blocks.new("B").add_circle((0, 0), 2)
    document.modelspace().add_blockref("B", (30, 0), dxfattribs={"xscale": 2, "yscale": 2})
    (circle,) = read_dxf(dxf_bytes(document, tmp_path), "a.dxf").contours
    assert circle.length == pytest.approx(8 * np.pi, rel=1e-4)


def test_loose_lines_and_arcs_become_one_closed_contour():
    lines = [Contour.polyline([[0, 0], [10, 0]]), Contour.polyline([[10, 10], [0, 10]]),
             Contour(np.array([[10, 0], [10, 10.0]]), np.array([1.0, 0]), False), Contour.polyline([[0, 0], [0, 10]])]  # fmt: skip
    (whole,) = chained(lines)
    assert whole.closed and abs(whole.area) == pytest.approx(100 + np.pi * 12.5)
    fork = [*lines[:1], Contour.polyline([[10, 0], [20, 0]]), Contour.polyline([[10, 0], [20, 5]])]
    assert len(chained(fork)) == 3


@pytest.mark.parametrize("content, why", [
    (b"", "is empty"), (b"this is not a drawing", "cannot be read|nothing"), (b"\0" * 300, "cannot be read|nothing")])  # fmt: skip
def test_bad_dxf_is_refused(content, why):
    with pytest.raises(Refused, match=why):
        read_dxf(content, "bad.dxf")


def test_a_dxf_without_curves_is_refused(document, tmp_path):
    document.modelspace().add_text("only words")
    with pytest.raises(Refused, match="nothing in it"):
        read_dxf(dxf_bytes(document, tmp_path), "words.dxf")


@pytest.fixture(scope="module")
def cut():
    """Contours of the cone's and the lid's cut files, with artwork."""
    badge = read_artwork((HERE / "amsel.svg").read_bytes(), "amsel.svg")
    cone = develop(turned_body([(60, 0), (200, 420)]), [1])
    lid = develop(domed_lid(240, 180, 36, 40, 60), [1])
    return {"cone": (drawing(cone, [badge]), cone), "lid": (drawing(lid, ()), lid)}


@pytest.mark.parametrize("which", ["cone", "lid"])
def test_dxf_passes_the_audit_and_reads_back_alike(cut, which, tmp_path):
    contours, blank = cut[which]
    write_dxf(tmp_path / "out.dxf", contours)
    document = ezdxf.readfile(tmp_path / "out.dxf")
    assert not document.audit().has_errors
    assert document.units == ezdxf.units.MM and document.dxfversion >= "AC1024"
    back = read_dxf((tmp_path / "out.dxf").read_bytes(), "out.dxf").contours
    for layer in {c.layer for c in contours}:
        lengths = [sum(c.length for c in group if c.layer == layer) for group in (contours, back)]
        assert lengths[0] == pytest.approx(lengths[1], rel=1e-9)
    cut_lengths = sum(c.length for c in back if c.layer == "CUT")
    assert cut_lengths == pytest.approx(blank.figures.outline_length, rel=1e-5)
    assert all(c.closed for c in back if c.layer == "CUT")


def test_the_cones_outline_is_arcs_and_lines_in_the_dxf(cut, tmp_path):
    write_dxf(tmp_path / "out.dxf", cut["cone"][0])
    outline = ezdxf.readfile(tmp_path / "out.dxf").modelspace().query('LWPOLYLINE[layer=="CUT"]')[0]
    bulges = [bulge for *_, bulge in outline.get_points("xyb")]
    assert outline.closed and len(bulges) <= 6 and sum(b != 0 for b in bulges) >= 2


@pytest.mark.parametrize("which", ["cone", "lid"])
def test_svg_reads_back_alike(cut, which):
    contours, _ = cut[which]
    text = svg_text(contours, "a < b")
    assert 'width="' in text and "mm" in text and "a &lt; b" in text
    back = read_svg(text.encode(), "out.svg").contours
    assert len(back) == len(contours)
    for layer in {c.layer for c in contours}:
        lengths = [sum(c.length for c in group if c.layer == layer) for group in (contours, back)]
        assert lengths[0] == pytest.approx(lengths[1], rel=2e-5)
    size = np.subtract(bounds(contours)[2:], bounds(contours)[:2])
    assert np.subtract(bounds(back)[2:], bounds(back)[:2]) == pytest.approx(size, abs=0.01)


def test_artwork_of_200_000_segments_is_read_and_wrapped():
    from zuschnitt.core.carry.wrapping import wrap

    t = np.linspace(0, 40 * np.pi, 200_001)
    spiral = np.stack([60 + t / 5 * np.cos(t), -60 + t / 5 * np.sin(t)], axis=1)
    path = "M" + " L".join(f"{x:.4f},{-y:.4f}" for x, y in spiral)
    artwork = read_svg(svg(f'<path d="{path}"/>'), "spiral.svg")
    assert artwork.segments == 200_001
    blank = develop(turned_body([(60, 0), (200, 420)]), [1])
    (curve,) = wrap(blank.correspondence, artwork.contours)
    assert curve.length_blank == pytest.approx(np.linalg.norm(np.diff(spiral, axis=0), axis=1).sum(), rel=1e-3)


def test_placing_scales_then_turns_then_shifts():
    artwork = Artwork((Contour.polyline([[0, 0], [10, 0]]),), "a")
    (placed,) = artwork.placed(2, 90, (5, 7)).contours
    assert placed.points == pytest.approx(np.array([[5, 7], [5, 27]]))
    with pytest.raises(Refused):
        artwork.placed(0, 0, (0, 0))
    with pytest.raises(Refused):
        artwork.placed(1, np.inf, (0, 0))


def test_other_endings_are_refused():
    with pytest.raises(Refused, match="neither SVG nor DXF"):
        read_artwork(b"x", "photo.png")
