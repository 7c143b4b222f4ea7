"""Files that are damaged, hostile or unusual: one sentence each, in time, and nothing silently left out."""

from __future__ import annotations

import gc
import io
import json
import os
import time
import zipfile

import ezdxf
import numpy as np
import pytest

from zuschnitt.core.errors import Refused, ZuschnittError
from zuschnitt.core.expressions import named_values, value_of, values_in_note
from zuschnitt.core.files.apart import LONGEST, read_apart
from zuschnitt.core.files.artwork_file import read_artwork
from zuschnitt.core.files.curve_file import read_curves
from zuschnitt.core.files.form_file import read_form

HEAD = '<svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink" width="100mm" height="100mm" viewBox="0 0 100 100">'


def svg(body: str) -> bytes:
    return f"{HEAD}{body}</svg>".encode()


def dxf(draw, **header) -> bytes:
    document = ezdxf.new("R2010")
    document.units = header.pop("units", 4)
    draw(document, document.modelspace())
    text = io.StringIO()
    document.write(text)
    return text.getvalue().encode()


def in_time(read, seconds=10.0):
    """The sentence of what ``read`` refuses, which it must do in time."""
    begin, since = worked(), time.monotonic()
    with pytest.raises(ZuschnittError) as caught:
        read()
    assert worked() - begin < seconds
    assert time.monotonic() - since < 6 * seconds
    assert len(caught.value.sentence) <= LONGEST and "\n" not in caught.value.sentence
    return caught.value.sentence


def worked() -> float:
    """Processor time in seconds of this process and of those it has forked; other work on the machine has no part."""
    return sum(os.times()[:4])


# --- what is drawn -------------------------------------------------------------------------------

LINE = '<path id="{0}" d="M 10 {0} L 50 {0}" {1}/>'


@pytest.mark.parametrize(
    ("body", "drawn", "left_out"),
    [
        (LINE.format(10, "") + LINE.format(20, 'display="none"'), 1, 1),
        (LINE.format(10, "") + LINE.format(20, 'style="visibility:hidden"'), 1, 1),
        (LINE.format(10, "") + f'<g display="none">{LINE.format(20, "")}{LINE.format(30, "")}</g>', 1, 2),
        (f'<g visibility="hidden">{LINE.format(10, "")}{LINE.format(20, "visibility=" + chr(34) + "visible" + chr(34))}</g>', 1, 1),
        (LINE.format(10, "") + f'<mask id="m">{LINE.format(20, "")}</mask>', 1, 0),
        (LINE.format(10, "") + f'<marker id="m">{LINE.format(20, "")}</marker>', 1, 0),
        (LINE.format(10, "") + f'<clipPath id="m">{LINE.format(20, "")}</clipPath>', 1, 0),
        (LINE.format(10, "") + f'<pattern id="m">{LINE.format(20, "")}</pattern>', 1, 0),
        (f'<switch><g requiredExtensions="x">{LINE.format(10, "")}</g><g>{LINE.format(20, "")}</g><g>{LINE.format(30, "")}</g></switch>', 1, 2),
        (f'<style>.off {{ display: none }}</style>{LINE.format(10, "")}' + LINE.format(20, 'class="off"'), 1, 1),
        (f'<defs>{LINE.format(10, "")}</defs><use xlink:href="#10" y="5"/>', 1, 0),
        (f'<symbol id="s">{LINE.format(10, "")}</symbol><use href="#s"/><use href="#s" x="3"/>', 2, 0),
    ],
)  # fmt: skip
def test_only_what_an_svg_draws_is_carried_and_the_rest_counted(body, drawn, left_out):
    artwork = read_artwork(svg(body), "a.svg")
    assert len(artwork.contours) == drawn
    said = [message for message in artwork.messages if "left out" in message]
    assert [message.split()[0] for message in said] == ([str(left_out)] if left_out else [])


@pytest.mark.parametrize(
    ("use", "ratio", "corners"),
    [
        # the symbol's square (10, 20) to (30, 40) fills its view box of 20 x 20 but for nothing
        ('x="5" y="6" width="40" height="40"', "", (5, 6, 45, 46)),
        ('x="5" y="6" width="80" height="40"', "", (25, 6, 65, 46)),
        ('x="5" y="6" width="80" height="40"', "xMinYMid meet", (5, 6, 45, 46)),
        ('x="5" y="6" width="80" height="40"', "xMaxYMax", (45, 6, 85, 46)),
        ('x="5" y="6" width="80" height="40"', "none", (5, 6, 85, 46)),
        ('x="5" y="6" width="80" height="40"', "xMidYMin slice", (5, 6, 85, 86)),
        ('x="10%" width="50%" height="50%"', "", (10, 0, 60, 50)),
        ("", "", (0, 0, 100, 100)),
        ('x="1" y="2" width="10" height="10" transform="translate(50 0) scale(2)"', "", (52, 4, 72, 24)),
    ],
)
def test_a_symbol_with_a_view_box_fills_the_viewport_of_its_use(use, ratio, corners):
    square = '<path d="M10,20 H30 V40 H10 Z"/>'
    how = f'preserveAspectRatio="{ratio}"' if ratio else ""
    body = f'<symbol id="s" viewBox="10 20 20 20" {how}>{square}</symbol><use href="#s" {use}/>'
    artwork = read_artwork(svg(body), "a.svg")
    x0, y0, x1, y1 = artwork.bounds
    assert (x0, -y1, x1, -y0) == pytest.approx(corners, abs=1e-9)


def block_of_one(document):
    document.blocks.new("mark").add_circle((0, 0), 2)


def rows_and_columns(document, space):
    block_of_one(document)
    space.add_blockref("mark", (10, 10), dxfattribs={
        "row_count": 2, "column_count": 3, "row_spacing": 20, "column_spacing": 30, "rotation": 90})  # fmt: skip


def test_all_copies_of_an_array_of_inserts_are_carried():
    artwork = read_artwork(dxf(rows_and_columns), "a.dxf")
    centres = sorted(tuple(np.round(c.points.mean(axis=0), 6).tolist()) for c in artwork.contours)
    # columns go along the turned x axis, which is y
    assert centres == sorted((10.0 - 20 * row, 10.0 + 30 * column) for row in range(2) for column in range(3))


def hidden_in_four_ways(document, space):
    document.layers.add("off").off()
    document.layers.add("frozen").freeze()
    block_of_one(document)
    space.add_line((0, 0), (10, 0))
    space.add_line((0, 1), (10, 1), dxfattribs={"layer": "off"})
    space.add_line((0, 2), (10, 2), dxfattribs={"layer": "frozen"})
    space.add_line((0, 3), (10, 3), dxfattribs={"invisible": 1})
    space.add_blockref("mark", (5, 5), dxfattribs={"layer": "off"})


def test_what_is_off_frozen_or_invisible_is_left_out_and_counted():
    artwork = read_artwork(dxf(hidden_in_four_ways), "a.dxf")
    assert len(artwork.contours) == 1
    assert any(message.startswith("4 entities of a.dxf left out") for message in artwork.messages)


def missing_and_odd(document, space):
    space.add_line((0, 0), (10, 0))
    space.add_blockref("nowhere", (5, 5))
    space.add_ray((0, 0), (1, 0))
    space.add_xline((0, 0), (1, 0))
    space.add_3dface([(0, 0), (1, 0), (1, 1), (0, 1)])


@pytest.mark.parametrize("units", [0, 2, 4, 7, 13, 14])
def test_ordinary_drawings_with_rays_faces_and_any_unit_are_read(units):
    artwork = read_artwork(dxf(missing_and_odd, units=units), "a.dxf")
    assert len(artwork.contours) == 1
    said = " ".join(artwork.messages)
    assert (
        "1 insert of a.dxf left out: no such block" in said
        and "1 RAY" in said
        and "1 XLINE" in said
        and "1 3DFACE" in said
    )


# --- bounds --------------------------------------------------------------------------------------


def doubling(levels):
    groups = ['<g id="g0"><path d="M0,0 L1,1"/></g>']
    groups += [f'<g id="g{k}"><use href="#g{k - 1}"/><use href="#g{k - 1}"/></g>' for k in range(1, levels)]
    return svg(f"<defs>{''.join(groups)}</defs><use href='#g{levels - 1}'/>")


def nan_ellipse() -> bytes:
    plain = dxf(lambda d, s: s.add_ellipse((0, 0), (10, 0), 0.5, 0, 3)).decode()
    return plain.replace("AcDbEllipse\n 10\n0.0", "AcDbEllipse\n 10\nnan")


def nested_inserts(document, space):
    document.blocks.new("b0").add_circle((0, 0), 1)
    for k in range(1, 30):
        block = document.blocks.new(f"b{k}")
        for x in (0, 1):
            block.add_blockref(f"b{k - 1}", (x, 0))
    space.add_blockref("b29", (0, 0))


def many_copies(document, space):
    block_of_one(document)
    space.add_blockref("mark", (0, 0), dxfattribs={"row_count": 30000, "column_count": 30000, "row_spacing": 1})


def bomb(size: int) -> bytes:
    packed = io.BytesIO()
    with zipfile.ZipFile(packed, "w", zipfile.ZIP_DEFLATED) as archive, archive.open("3D/3dmodel.model", "w") as model:
        for _ in range(size >> 20):
            model.write(b" " * (1 << 20))
    return packed.getvalue()


@pytest.mark.parametrize(
    ("content", "name", "why"),
    [
        (doubling(40), "a.svg", "repeats its shapes"),
        (svg('<g id="a"><use href="#a"/></g>'), "a.svg", "uses itself"),
        (svg("<g>" * 5000 + '<path d="M0,0 L1,1"/>' + "</g>" * 5000), "a.svg", "nested"),
        (svg('<path d="M0,0 C1e12,1e12 -1e12,1e12 5,5"/>'), "a.svg", "so large"),
        (svg('<path d="M0,0 L1e12,5"/>'), "a.svg", "10 km"),
        (svg('<path d="M0,0 A 1e9 1 0 0 1 5 5"/>'), "a.svg", "large|10 km"),
        (dxf(nested_inserts), "a.dxf", "200,000"),
        (dxf(many_copies), "a.dxf", "200,000"),
        (dxf(lambda d, s: s.add_circle((0, 0), 1e300)), "a.dxf", "10 km|finite"),
    ],
    ids=lambda value: value if isinstance(value, str) else None,
)
def test_bounds_on_artwork(content, name, why):
    import re

    assert re.search(why, in_time(lambda: read_artwork(content, name)))


def test_what_is_not_a_number_in_a_drawing_is_left_out():
    try:
        read_artwork(nan_ellipse(), "a.dxf")
    except Refused as error:
        assert "a.dxf" in error.sentence


@pytest.mark.parametrize("content", [
    b'{"curves": 5}', b'{"curves": [5]}', b'[]', b'{"curves": [[[1, 2]]]}', b'{"curves": [[[1, 2, "x"]]]}', b"[" * 100_000,
    b'{"curves": [[[1, 2, 1e400], [0, 0, 0]]]}', b'{"curves": [[[1e12, 2, 1], [0, 0, 0]]]}', b"\xff\xfe", b"{}"])  # fmt: skip
def test_odd_curves_are_refused(content):
    in_time(lambda: read_curves(content, "c.json"))


def test_an_archive_that_unpacks_to_gigabytes_is_refused_before_it_does():
    assert "unpack" in in_time(lambda: read_form(bomb(1 << 30), "b.3mf"))


@pytest.mark.parametrize("name", ["a.stl", "a.obj", "a.ply", "a.3mf", "a.step"])
def test_noise_is_refused(name):
    random = np.random.default_rng(11)
    for size in (1, 80, 84, 5000):
        in_time(lambda size=size: read_form(random.bytes(size), name))


def test_a_damaged_step_file_never_takes_the_program_down(step):
    """Numbers of entities and coordinates are exchanged at random; whatever the kernel makes of it stays apart."""
    whole = step("rounded").read_bytes()
    random = np.random.default_rng(7)
    fallen = 0
    for _ in range(12):
        content = bytearray(whole)
        digits = np.array([i for i in range(len(content)) if content[i : i + 1].isdigit() and i > 1500])
        for place in random.choice(digits, 25):
            content[place] = ord("0") + int(random.integers(10))
        try:
            read_form(bytes(content), "d.step")
        except ZuschnittError as error:
            fallen += 1
            assert len(error.sentence) <= LONGEST and "d.step" in error.sentence
    assert fallen


def test_reading_apart_survives_all_that_can_happen():
    def crash(_):
        import os
        import signal

        os.kill(os.getpid(), signal.SIGSEGV)

    def hang(_):
        while True:
            pass

    def fill(_):
        return [bytearray(1 << 30) for _ in range(40)]

    for read, why in ((crash, "damaged"), (fill, "memory|too much")):
        with pytest.raises(Refused, match=why):
            read_apart("x.step", "export it again", read)
    with pytest.raises(Refused, match="takes too long"):
        read_apart("x.step", "export it again", hang, seconds=0.3)
    assert read_apart("x.step", "export it again", lambda _: 5) == 5


def test_an_error_from_deep_within_is_heard_whatever_is_sent_with_it():
    """Schedulers have tracebacks sent with errors, and one of many frames is too deep for that."""
    import tblib.pickling_support

    def deep(level):
        if level == 0:
            raise Refused("It is nested too deep.", faces=(3,))
        return sum(deep(level - 1) for _ in range(1))

    def read(_):
        tblib.pickling_support.install(Refused)
        deep(200)

    with pytest.raises(Refused, match="nested too deep") as caught:
        read_apart("x.step", "export it again", read)
    assert caught.value.faces == (3,)


class OnlyHere:
    """What ends a process that was forked from the one that made it, as a widget or a picture might."""

    def __init__(self) -> None:
        self.itself, self.process = self, os.getpid()

    def __del__(self) -> None:
        if os.getpid() != self.process:
            os._exit(1)


def test_what_the_program_has_let_go_is_not_collected_while_a_file_is_read():
    OnlyHere()
    assert read_apart("x.step", "export it again", lambda _: gc.collect() >= 0)


# --- expressions ---------------------------------------------------------------------------------


@pytest.mark.parametrize(
    "text", ["1; 2", "a=1", "1\n2", "[1]", "(1, 2)", "lambda: 1", "1 if 1 else 2 if", "x" * 2000, "9**9**9**9", "1e999"]
)
def test_what_is_no_single_number_is_refused(text):
    in_time(lambda: value_of(text, {"x": 1.0}))


def test_notes_that_only_look_like_values_break_nothing():
    assert values_in_note("pi = 3, sin = 1, rim = 240, class = 2") == [("rim", "240")]


def test_ten_thousand_chained_values_are_quick():
    begin = time.monotonic()
    values = named_values([("v0", "1"), *((f"v{k}", f"v{k - 1} + 1") for k in range(1, 10_000))])
    assert values["v9999"] == 10_000 and time.monotonic() - begin < 10


def test_json_is_what_it_says():
    (curve,) = read_curves(json.dumps({"curves": [[[0, 0, 0], [1, 2, 3]]]}).encode(), "c.json")
    assert curve.points.tolist() == [[0, 0, 0], [1, 2, 3]]


def test_a_reading_that_makes_no_progress_is_ended():
    begin = time.monotonic()
    with pytest.raises(Refused, match="takes too long to be read"):
        read_apart("spin.step", "export it again", lambda progress: time.sleep(60), silence=0.5)
    assert time.monotonic() - begin < 20

    def steady(progress):
        for k in range(8):
            progress.step(k / 8, "reading")
            time.sleep(0.2)
        return "done"

    assert read_apart("long.step", "export it again", steady, silence=1.0) == "done"
