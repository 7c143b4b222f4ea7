"""SVG as this machine reads it: paths of lines and arcs, and plain shapes, in mm."""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import replace
from itertools import pairwise
from xml.etree import ElementTree

import numpy as np

from .path import Array, Path, Span, UnreadableError, circle

TOKENS = re.compile(r"([MmLlHhVvAaCcQqZz])|(-?(?:\d+\.?\d*|\.\d+)(?:[eE][-+]?\d+)?)")
UNITS = {"mm": 1.0, "cm": 10.0, "in": 25.4, "pt": 25.4 / 72, "px": 25.4 / 96, "": 25.4 / 96}
CURVE = 64
"""A Bézier curve is cut as so many lines."""


def read(content: bytes) -> tuple[list[Path], list[str]]:
    """The runs in an SVG, in mm with y upwards, in its order, and the kinds of element that cannot be cut."""
    if b"<!ENTITY" in content:
        raise UnreadableError("The file declares entities, which this laser does not expand; export it as plain SVG.")
    try:
        root = ElementTree.fromstring(content)
    except ElementTree.ParseError as error:
        raise UnreadableError(f"The file is no well-formed SVG ({error}); export it again.") from None
    if not root.tag.endswith("svg"):
        raise UnreadableError("The file is XML, but no SVG; export the drawing as SVG.")
    scale = _scale(root)
    found: list[Path] = []
    left: list[str] = []
    for element, layer in _shapes(root, "0"):
        kind = element.tag.rpartition("}")[2]
        if element.get("transform"):
            left.append(f"{kind} with a transform")
            continue
        made = list(_paths(kind, element, layer))
        if made:
            data = {key[5:]: float(value) for key, value in element.attrib.items() if key.startswith("data-")}
            found.extend(replace(_in_mm(path, scale), data=data) for path in made)
        elif kind in ("text", "image", "use", "ellipse"):
            left.append(kind)
    return found, left


def _scale(root: ElementTree.Element) -> float:
    """How many mm a unit of the file is."""
    size = re.fullmatch(r"\s*([\d.eE+-]+)\s*([a-z]*)\s*", root.get("width", ""))
    if not size or size[2] not in UNITS:
        return UNITS["px"]
    box = root.get("viewBox", "").replace(",", " ").split()
    wide = float(box[2]) if len(box) == 4 else float(size[1])
    return float(size[1]) * UNITS[size[2]] / wide


def _shapes(group: ElementTree.Element, layer: str) -> Iterator[tuple[ElementTree.Element, str]]:
    for element in group:
        here = element.get("class") or layer
        kind = str(element.tag).rpartition("}")[2]
        if kind == "g":
            yield from _shapes(element, element.get("id") or here)
        elif kind not in ("defs", "title", "desc", "style", "metadata"):
            yield element, here


def _in_mm(path: Path, scale: float) -> Path:
    turned = np.array([scale, -scale])
    return Path(path.layer, tuple(Span(s.start * turned, s.end * turned, -s.sweep) for s in path.spans))


def _paths(kind: str, element: ElementTree.Element, layer: str) -> Iterator[Path]:
    def number(name: str) -> float:
        return float(element.get(name, "0"))

    if kind == "path":
        yield from _data(element.get("d", ""), layer)
    elif kind == "circle":
        yield circle(layer, np.array([number("cx"), number("cy")]), number("r"))
    elif kind == "line":
        yield Path(layer, (Span(np.array([number("x1"), number("y1")]), np.array([number("x2"), number("y2")])),))
    elif kind == "rect":
        x, y, w, h = (number(name) for name in ("x", "y", "width", "height"))
        yield _closed(layer, np.array([[x, y], [x + w, y], [x + w, y + h], [x, y + h]]), True)
    elif kind in ("polyline", "polygon"):
        numbers = [float(n) for n in re.findall(r"[-\d.eE+]+", element.get("points", ""))]
        yield _closed(layer, np.array(numbers).reshape(-1, 2), kind == "polygon")


def _closed(layer: str, points: Array, closed: bool) -> Path:
    ends = np.vstack([points, points[:1]]) if closed else points
    return Path(layer, tuple(Span(a, b) for a, b in pairwise(ends)))


def _data(text: str, layer: str) -> Iterator[Path]:
    tokens = [(letter, float(number) if number else 0.0) for letter, number in TOKENS.findall(text)]
    spans: list[Span] = []
    at = begin = np.zeros(2)
    k, command = 0, ""

    def take(count: int) -> Array:
        nonlocal k
        values = [value for letter, value in tokens[k : k + count] if not letter]
        if len(values) < count:
            raise UnreadableError("A path of the file breaks off in the middle; export it again.")
        k += count
        return np.array(values)

    while k < len(tokens):
        if tokens[k][0]:
            command = tokens[k][0]
            k += 1
        base = at if command.islower() else np.zeros(2)
        upper = command.upper()
        if upper == "Z":
            if np.linalg.norm(at - begin) > 1e-9:
                spans.append(Span(at, begin))
            at = begin
            if spans:
                yield Path(layer, tuple(spans))
            spans = []
        elif upper == "M":
            if spans:
                yield Path(layer, tuple(spans))
            spans = []
            at = begin = base + take(2)
            command = "l" if command == "m" else "L"
        elif upper in ("L", "H", "V"):
            if upper == "L":
                end = base + take(2)
            elif upper == "H":
                end = np.array([base[0] + take(1)[0], at[1]])
            else:
                end = np.array([at[0], base[1] + take(1)[0]])
            if np.linalg.norm(end - at) > 1e-12:
                spans.append(Span(at, end))
            at = end
        elif upper == "A":
            rx, ry, turn, large, positive, x, y = take(7)
            end = base + np.array([x, y])
            spans.extend(_arc(at, end, rx, ry, turn, bool(large), bool(positive)))
            at = end
        elif upper in ("C", "Q"):
            control = base + take(6 if upper == "C" else 4).reshape(-1, 2)
            spans.extend(_bezier(np.vstack([at, control])))
            at = control[-1]
        else:
            raise UnreadableError("A path of the file begins with no command; export it again.")
    if spans:
        yield Path(layer, tuple(spans))


def _arc(start: Array, end: Array, rx: float, ry: float, turn: float, large: bool, positive: bool) -> list[Span]:
    """A circular arc as one span; an elliptical one cannot be told from a circle by this machine."""
    del turn
    chord = float(np.linalg.norm(end - start))
    if abs(rx - ry) > 1e-6 * max(rx, ry) or chord < 1e-12:
        raise UnreadableError(
            "The file has an elliptical arc, which this laser does not cut; export it as lines and arcs."
        )
    radius = max(abs(rx), chord / 2)
    sweep = 2 * float(np.arcsin(min(1.0, chord / 2 / radius)))
    sweep = 2 * np.pi - sweep if large else sweep
    return [Span(start, end, sweep if positive else -sweep)]


def _bezier(control: Array) -> list[Span]:
    t = np.linspace(0, 1, CURVE + 1)[:, None]
    points = control[None].repeat(len(t), axis=0)
    while points.shape[1] > 1:
        points = (1 - t[:, None]) * points[:, :-1] + t[:, None] * points[:, 1:]
    ends = points[:, 0]
    return [Span(a, b) for a, b in pairwise(ends)]
