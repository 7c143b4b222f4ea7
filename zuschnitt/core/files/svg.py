"""SVG: artwork in, cut files out."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Iterator, Sequence
from dataclasses import asdict, replace
from io import BytesIO
from itertools import groupby
from xml.etree import ElementTree
from xml.sax.saxutils import escape

import numpy as np

from ..errors import Refused
from ..plane.artwork import UNNAMED, Artwork, checked, in_layers, require_few_points
from ..plane.contour import LAYERS, Contour, arc_centre, bounds
from ..plane.lettering import bezier, few, lettering
from ..progress import SILENT, Progress
from ..tolerances import ARTWORK
from ..wording import Note, counted
from .apart import guarded
from .svg_symbols import fit_symbols
from .svg_tree import drawn_only, in_pixels

MM_PER_PIXEL = 25.4 / 96


def read_svg(content: bytes, name: str, progress: Progress = SILENT) -> Artwork:
    """Contours of an SVG in mm, y turned up. Text becomes outlines of the shipped typeface.

    Raises Refused for what is not SVG, refers to other files, or declares entities.
    """
    root = _plain_svg(content, name)
    in_pixels(root)
    fit_symbols(root)
    left_out = drawn_only(root, name)
    from svgelements import SVG, Image, Path, Shape, Text

    with guarded(name, "save it again as plain SVG"):
        drawing = SVG.parse(BytesIO(ElementTree.tostring(root)), reify=True, ppi=96)
        elements = list(_leaves(drawing, UNNAMED, ()))
    contours: list[Contour] = []
    messages: list[str] = []
    if left_out:
        messages.append(Note(f"{counted(left_out, 'shape')} of {name} left out: hidden there, or not drawn."))
    images = 0
    for i, (element, layer, names) in enumerate(elements):
        progress.step(i / len(elements), f"reading {name}")
        if isinstance(element, Text | Shape):
            label = getattr(element, "id", None) or ""
            # abs applies its transform
            made = _text(element, layer) if isinstance(element, Text) else _path(abs(Path(element)), layer, label)
            sorts = (*names, *_colour(element))
            contours.extend(replace(contour, sorts=sorts) for contour in made)
        elif isinstance(element, Image):
            images += 1
        if i % 500 == 0:
            require_few_points(contours, name)
    if images:
        messages.append(f"{counted(images, 'picture')} in {name} left out: only curves can be carried.")
    return checked(in_layers(Artwork(tuple(contours), name, tuple(messages))))


def _plain_svg(content: bytes, name: str) -> ElementTree.Element:
    """The tree of the file. Raises Refused where it is not SVG, or not all of it stands in the file."""
    if not content.strip():
        raise Refused(f"{name} is empty, so there is no artwork in it; export it again.")
    plain = content.replace(b"\0", b"")
    if re.search(rb"<!ENTITY", plain, re.IGNORECASE):
        raise Refused(f"{name} declares entities, which are never expanded here; save it as plain SVG.")
    try:
        root = ElementTree.fromstring(content)
    except (ElementTree.ParseError, ValueError, LookupError) as error:
        raise Refused(f"{name} is not well-formed XML ({error}); export it again as SVG.") from error
    if not root.tag.split("}")[-1] == "svg":
        raise Refused(f"{name} is XML, but not SVG; export it as SVG.")
    for node in root.iter():
        for key, value in node.attrib.items():
            target = value.strip()
            outside = key.split("}")[-1] == "href" and not target.startswith(("#", "data:"))
            linked = re.search(r"url\(\s*['\"]?(?!#|data:)", target) if "url(" in target else None
            if (outside and node.tag.split("}")[-1] != "a") or linked:
                raise Refused(
                    f"{name} refers to another file ({target[:60]}), which is never followed here; "
                    "embed it or remove it."
                )
    return root


def _leaves(group, layer: str, names: tuple[str, ...]) -> Iterator[tuple]:
    """The shapes of a group with their layers, and the names of the groups they are in; a class or id that names a
    layer holds for all below."""
    from svgelements import Group, Use

    for element in group:
        own = (getattr(element, "values", None) or {}).get("attributes") or {}
        named = [word for word in (str(own.get(key, "")).upper() for key in ("class", "id")) if word in LAYERS]
        here = named[0] if named else layer
        if isinstance(element, Group | Use):
            called = [str(value).strip().lower() for key, value in own.items() if key == "id" or key.endswith("}label")]
            yield from _leaves(element, here, (*names, *(word for word in called if word and word not in names)))
        else:
            yield element, here, names


def _colour(element) -> tuple[str, ...]:
    """The colour a shape is drawn in, or else filled with."""
    for colour in (element.stroke, element.fill):
        if colour is not None and colour.value is not None:
            return (colour.hexrgb.lower(),)
    return ("#000000",)


def _to_mm(point) -> np.ndarray:
    return np.array([point.x, -point.y]) * MM_PER_PIXEL


def _path(path, layer: str, label: str) -> list[Contour]:
    from svgelements import Arc, Close, CubicBezier, Line, Move, QuadraticBezier

    contours: list[Contour] = []
    points: list[np.ndarray] = []
    bulges: list[float] = []

    def finish(closed: bool) -> None:
        if len(points) > 1:
            if closed and np.linalg.norm(points[0] - points[-1]) < 1e-9:
                points.pop()
                bulges.pop()
            contours.append(Contour(np.array(points), np.array(bulges), closed, layer, label))

    for segment in path:
        if isinstance(segment, Move):
            finish(False)
            points, bulges = [_to_mm(segment.end)], [0.0]
        elif isinstance(segment, Close):
            finish(True)
            start = points[0] if points else np.zeros(2)
            points, bulges = [start], [0.0]
        elif isinstance(segment, Line):
            points.append(_to_mm(segment.end))
            bulges.append(0.0)
        elif isinstance(segment, QuadraticBezier | CubicBezier):
            control = np.array([_to_mm(p) for p in _controls(segment)])
            curve = bezier(control, ARTWORK)
            points.extend(curve)
            bulges.extend([0.0] * len(curve))
        elif isinstance(segment, Arc):
            _arc(segment, points, bulges)
    finish(False)
    return contours


def _controls(segment):
    from svgelements import QuadraticBezier

    if isinstance(segment, QuadraticBezier):
        return segment.start, segment.control, segment.end
    return segment.start, segment.control1, segment.control2, segment.end


def _arc(arc, points: list[np.ndarray], bulges: list[float]) -> None:
    """Adds an elliptical arc: a circular one as bulges, any other flattened."""
    radii = arc.rx * MM_PER_PIXEL, arc.ry * MM_PER_PIXEL
    if not np.isfinite(radii).all() or max(radii) == 0:
        points.append(_to_mm(arc.end))
        bulges.append(0.0)
        return
    if abs(radii[0] - radii[1]) < 1e-6 * max(radii):
        count = int(np.ceil(abs(arc.sweep) / (np.pi * 1.0001)))
        bulges[-1] = -np.tan(arc.sweep / count / 4)  # y is turned over
        for k in range(1, count + 1):
            points.append(_to_mm(arc.end if k == count else arc.point(k / count)))
            bulges.append(bulges[-1] if k < count else 0.0)
        return
    step = 2 * np.arccos(max(1 - ARTWORK / max(radii), 0.5))
    count = max(2, few(abs(arc.sweep) / step))
    flat = arc.npoint(np.linspace(0, 1, count + 1)[1:])
    points.extend(np.asarray(flat, float) * [MM_PER_PIXEL, -MM_PER_PIXEL])
    bulges.extend([0.0] * count)


def _text(element, layer: str) -> list[Contour]:
    text = element.text or ""
    matrix = element.transform
    size = float(element.font_size or 16)
    weight = str(getattr(element, "font_weight", "") or element.values.get("font-weight", ""))
    contours, width = lettering(text.strip(), size, bold=weight in ("bold", "700", "800", "900"))
    shift = {"middle": -width / 2, "end": -width}.get(element.anchor or "start", 0.0)
    result = []
    for contour in contours:
        x = contour.points[:, 0] + shift + float(element.x or 0)
        y = -contour.points[:, 1] + float(element.y or 0)
        moved = np.stack([matrix.a * x + matrix.c * y + matrix.e, -(matrix.b * x + matrix.d * y + matrix.f)], 1)
        result.append(Contour.polyline(moved * MM_PER_PIXEL, True, layer, contour.name))
    return result


def svg_text(contours: Sequence[Contour], title: str = "") -> str:
    """An SVG in mm, in order, a group wherever the layer changes; y is turned over so that it reads upright."""
    margin = 2.0
    x0, y0, x1, y1 = bounds(contours)
    width, height = x1 - x0 + 2 * margin, y1 - y0 + 2 * margin
    lines = [
        '<?xml version="1.0" encoding="UTF-8"?>',
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{width:.12g}mm" height="{height:.12g}mm" '
        f'viewBox="{x0 - margin:.12g} {-y1 - margin:.12g} {width:.12g} {height:.12g}">',
        f"<title>{escape(title)}</title>",
    ]
    groups: Counter[str] = Counter()
    for layer, mine in groupby(contours, lambda contour: contour.layer):
        groups[layer] += 1
        name = layer if groups[layer] == 1 else f"{layer}-{groups[layer]}"
        lines.append(f'<g id="{name}" class="{layer}" fill="none" stroke="#{LAYERS[layer]:06x}" stroke-width="0.1">')
        lines.extend(f'<path class="{layer}"{_bend_data(contour)} d="{_path_data(contour)}"/>' for contour in mine)
        lines.append("</g>")
    return "\n".join([*lines, "</svg>", ""])


def _bend_data(contour: Contour) -> str:
    """What a press must know of a bend line, as data of its path."""
    if contour.bend is None:
        return ""
    return "".join(f' data-{name}="{value:.12g}"' for name, value in asdict(contour.bend).items())


def _path_data(contour: Contour) -> str:
    def at(p) -> str:
        return f"{p[0]:.12g},{0.0 - p[1]:.12g}"

    parts = [f"M{at(contour.points[0])}"]
    for start, end, bulge in zip(*contour.spans, strict=True):
        if bulge == 0:
            parts.append(f"L{at(end)}")
        else:
            _, radius, _, sweep = arc_centre(start, end, bulge)
            large, turning = int(abs(sweep) > np.pi), int(sweep < 0)
            parts.append(f"A{radius:.12g},{radius:.12g} 0 {large} {turning} {at(end)}")
    return " ".join(parts) + (" Z" if contour.closed else "")
