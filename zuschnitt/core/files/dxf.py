"""DXF: artwork in, cut files out."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from dataclasses import asdict, fields, replace
from io import BytesIO, StringIO
from itertools import pairwise
from pathlib import Path

import numpy as np

from ..errors import Refused
from ..geometry.curves import Array
from ..plane.artwork import UNNAMED, Artwork, checked, in_layers, require_few_points
from ..plane.contour import LAYERS, BendNote, Contour
from ..plane.lettering import bezier
from ..progress import SILENT, Progress
from ..tolerances import ARTWORK
from ..wording import Note, counted
from .apart import guarded
from .atomic import write_whole
from .dxf_entities import Drawn

OF_BEND = "ZUSCHNITT"
"""The application's name under which a bend line has its angle, radius and allowance as extended data."""
FLAT_KINDS = ("LINE", "CIRCLE", "ARC", "LWPOLYLINE")
TOUCHING = 1e-4
"""Ends of lines and arcs nearer than this, in mm, belong together."""


def read_dxf(content: bytes, name: str, progress: Progress = SILENT) -> Artwork:
    """Contours of a DXF in mm; its own unit is respected, none given counts as mm.

    Raises Refused for what is not DXF, or holds nothing that can be drawn.
    """
    if not content.strip():
        raise Refused(f"{name} is empty, so there is no artwork in it; export it again.")
    from ezdxf import recover
    from ezdxf.audit import AuditError

    with guarded(name, "export it again as DXF"):
        document, auditor = recover.read(BytesIO(content))
    scale, messages = _scale(document, name)
    contours: list[Contour] = []
    left_out: Counter[str] = Counter()
    drawn = Drawn(document, name)
    total = max(len(document.modelspace()), 1)
    for i, entity in enumerate(drawn):
        if i % 200 == 0:
            progress.step(min(i / total, 0.95), f"reading {name}")
            require_few_points(contours, name)
        contour = _contour(entity)
        if contour is None:
            left_out[entity.dxftype()] += 1
        else:
            known = replace(contour, bend=_bend_of(entity), sorts=_sorts(entity, document))
            contours.append(known.moved(scale))
    missing = sum(1 for mend in auditor.fixes if mend.code == AuditError.UNDEFINED_BLOCK)
    if missing:  # reading has taken them out already
        messages += (f"{counted(missing, 'insert')} of {name} left out: no such block.",)
    messages += drawn.messages
    if left_out:
        kinds = ", ".join(f"{count} {kind}" for kind, count in sorted(left_out.items()))
        messages += (f"Left out of {name}, since they are not curves: {kinds}.",)
    if not contours:
        why = f" ({' '.join(drawn.messages)})" if drawn.messages else ""
        raise Refused(f"{name} has nothing in it that is drawn{why}; export its lines, curves or polylines.")
    require_few_points(contours, name)
    return checked(in_layers(Artwork(tuple(chained(contours)), name, messages)))


def _scale(document, name: str) -> tuple[float, tuple[str, ...]]:
    """How many mm the file's unit is, and what is to be said of that."""
    from ezdxf import units

    if not document.units:
        return 1.0, (Note(f"{name} names no unit; its numbers were taken as mm."),)
    try:
        return units.conversion_factor(units.InsertUnits(document.units), units.InsertUnits.Millimeters), ()
    except (ValueError, TypeError, KeyError, IndexError):
        return 1.0, (f"{name} names a unit that is not known ({document.units}); its numbers were taken as mm.",)


def _contour(entity) -> Contour | None:
    kind = entity.dxftype()
    layer = entity.dxf.layer.upper()
    layer = layer if layer in LAYERS else UNNAMED
    upright = kind in FLAT_KINDS and (kind == "LINE" or entity.dxf.get("extrusion", (0, 0, 1))[2] > 0.999999)
    if kind == "LINE":
        return Contour.polyline([_flat(entity.dxf.start), _flat(entity.dxf.end)], layer=layer)
    if kind == "CIRCLE" and upright:
        return Contour.circle(_flat(entity.dxf.center), entity.dxf.radius, layer)
    if kind == "ARC" and upright:
        return _arc(entity, layer)
    if kind == "LWPOLYLINE" and upright:
        rows = np.array(entity.get_points("xyb"), float).reshape(-1, 3)
        return Contour(rows[:, :2], rows[:, 2].copy(), bool(entity.closed), layer) if len(rows) > 1 else None
    if kind in ("CIRCLE", "ARC", "LWPOLYLINE", "POLYLINE", "SPLINE", "ELLIPSE"):
        from ezdxf import path

        try:
            made = path.make_path(entity)
            points = _flattened(made)
        except (TypeError, ValueError, ZeroDivisionError, IndexError, AttributeError):
            return None
        if len(points) < 2:
            return None
        closed = bool(np.linalg.norm(points[0] - points[-1]) < 1e-9)
        return Contour.polyline(points[:-1] if closed else points, closed, layer)
    return None


def _sorts(entity, document) -> tuple[str, ...]:
    """The names of an entity's layer and colour."""
    from ezdxf import colors

    layer = entity.dxf.layer
    colour = entity.rgb
    if colour is None:
        index = entity.dxf.get("color", 256)
        if index == 256:
            index = abs(document.layers.get(layer).dxf.get("color", 7)) if layer in document.layers else 7
        colour = colors.aci2rgb(index) if 0 < index < 256 else (0, 0, 0)
    if tuple(colour) == (255, 255, 255):  # seen as black on paper
        colour = (0, 0, 0)
    return layer.lower(), "#" + "".join(f"{part:02x}" for part in colour)


def _flattened(path) -> np.ndarray:
    """Points (n, 2) along a path of lines and Bézier curves, within ``ARTWORK``. Raises Refused for far too many."""
    points = [np.array(_flat(path.start))]
    for command in path.commands():
        ends = [points[-1], *(np.array(_flat(p)) for p in _controls(command))]
        points.extend(bezier(np.array(ends), ARTWORK) if len(ends) > 2 else ends[1:])
    return np.array(points, float)


def _controls(command) -> tuple:
    """The control points of a path's command, its end the last of them."""
    if hasattr(command, "ctrl2"):
        return command.ctrl1, command.ctrl2, command.end
    if hasattr(command, "ctrl"):
        return command.ctrl, command.end
    return (command.end,)


def _flat(point) -> tuple[float, float]:
    return point.x, point.y


def _arc(entity, layer: str) -> Contour:
    start, end = np.radians([entity.dxf.start_angle, entity.dxf.end_angle])
    sweep = (end - start) % (2 * np.pi) or 2 * np.pi
    angles = start + sweep * np.array([0, 0.5, 1])
    centre = np.array(_flat(entity.dxf.center))
    points = centre + entity.dxf.radius * np.stack([np.cos(angles), np.sin(angles)], axis=1)
    bulge = np.tan(sweep / 8)
    return Contour(points, np.array([bulge, bulge, 0.0]), False, layer)


def chained(contours: Sequence[Contour]) -> list[Contour]:
    """Open contours of one layer whose ends touch, two at a place, become one; rings become closed.

    Each runs as the first of its parts does.
    """
    from ezdxf import edgeminer

    done = [c for c in contours if c.closed]
    loose = [c for c in contours if not c.closed]
    place = {id(contour): k for k, contour in enumerate(loose)}
    found = {k: _joined([contour]) for k, contour in enumerate(loose) if _comes_back(contour.points)}
    left = [contour for k, contour in enumerate(loose) if k not in found]
    for layer in dict.fromkeys(contour.layer for contour in left):
        mine = [contour for contour in left if contour.layer == layer]
        edges = [edgeminer.make_edge(c.points[0], c.points[-1], payload=c) for c in mine]
        for edge_chain in edgeminer.find_all_simple_chains(edgeminer.Deposit(edges, gap_tol=TOUCHING)):
            first = min(edge_chain, key=lambda edge: place[id(edge.payload)])
            way = edge_chain[::-1] if first.is_reverse else edge_chain
            parts = [e.payload if e.is_reverse == first.is_reverse else e.payload.reversed() for e in way]
            found[place[id(first.payload)]] = _joined(parts)
    return [*done, *(found[k] for k in sorted(found))]


def _joined(parts: Sequence[Contour]) -> Contour:
    """Open contours one after the other as one, closed where it comes back to its begin."""
    points = np.vstack([*(part.points[:-1] for part in parts), parts[-1].points[-1:]])
    bulges = np.concatenate([*(part.bulges[:-1] for part in parts), parts[-1].bulges[-1:]])
    closed = len(points) > 2 and _comes_back(points)
    end = -1 if closed else len(points)
    return replace(parts[0], points=points[:end], bulges=bulges[:end], closed=closed)


def _comes_back(points: Array) -> bool:
    """To where it begins."""
    return bool(np.linalg.norm(points[0] - points[-1]) < 2 * TOUCHING)


def dxf_bytes(contours: Sequence[Contour], version: str = "R2010") -> bytes:
    """A DXF cut file in mm: polylines with arcs, by layer, in order. Old machines read ``version`` R12."""
    import ezdxf

    old = version == "R12"
    document = ezdxf.new(version, setup=False)
    if not old:  # that version has no unit, so its numbers are mm
        document.units = ezdxf.units.MM
    if any(contour.bend is not None for contour in contours):
        document.appids.add(OF_BEND)
    space = document.modelspace()
    for layer in LAYERS:
        if any(contour.layer == layer for contour in contours):
            document.layers.add(layer, true_color=None if old else LAYERS[layer])
    add = space.add_polyline2d if old else space.add_lwpolyline
    for contour in contours:
        rows = np.column_stack([contour.points, contour.bulges])
        line = add(rows.tolist(), format="xyb", close=contour.closed, dxfattribs={"layer": contour.layer})
        if contour.bend is not None:
            line.set_xdata(OF_BEND, _bend_tags(contour.bend))
    text = StringIO()
    document.write(text)
    return document.encode(text.getvalue())


def _bend_tags(bend: BendNote) -> list[tuple[int, str | float]]:
    """What extended data say of a bend: each name as a text (1000), its value after it (1040)."""
    return [tag for name, value in asdict(bend).items() for tag in ((1000, name), (1040, float(value)))]


def _bend_of(entity) -> BendNote | None:
    """What an entity's extended data say of a bend; None where they say nothing that can be used."""
    if not entity.has_xdata(OF_BEND):
        return None
    tags = [(tag.code, tag.value) for tag in entity.get_xdata(OF_BEND)]
    found = {str(name): value for (code, name), (_, value) in pairwise(tags) if code == 1000}
    try:
        return BendNote(*(float(found[field.name]) for field in fields(BendNote)))
    except (KeyError, TypeError, ValueError):
        return None


def write_dxf(path: Path, contours: Sequence[Contour]) -> None:
    """Writes whole or not at all."""
    write_whole(path, dxf_bytes(contours))
