"""DXF: artwork in, cut files out."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from io import BytesIO
from pathlib import Path

import numpy as np

from ..artwork import Artwork, checked
from ..contour import LAYERS, Contour
from ..errors import Refused
from ..progress import SILENT, Progress
from ..tolerances import ARTWORK
from .whole import whole_file

TOUCHING = 1e-4
"""Ends of lines and arcs nearer than this, in mm, belong together."""


def read_dxf(content: bytes, name: str, progress: Progress = SILENT) -> Artwork:
    """Contours of a DXF in mm; its own unit is respected, none given counts as mm.

    Raises Refused for what is not DXF, or holds nothing that can be drawn.
    """
    if not content.strip():
        raise Refused(f"{name} is empty, so there is no artwork in it; export it again.")
    import ezdxf
    from ezdxf import recover, units

    try:
        document, _ = recover.read(BytesIO(content))
    except (ezdxf.DXFError, OSError, ValueError, KeyError, IndexError, UnicodeError) as error:
        raise Refused(f"{name} cannot be read as DXF: {error}; export it again.") from error
    messages = []
    if document.units:
        scale = units.conversion_factor(units.InsertUnits(document.units), units.InsertUnits.Millimeters)
    else:
        scale = 1.0
        messages.append(f"{name} names no unit; its numbers were taken as mm.")
    contours: list[Contour] = []
    left_out: dict[str, int] = {}
    entities = list(document.modelspace())
    for i, entity in enumerate(entities):
        if i % 200 == 0:
            progress.step(i / len(entities), f"reading {name}")
        for part in _exploded(entity):
            contour = _contour(part)
            if contour is None:
                left_out[part.dxftype()] = left_out.get(part.dxftype(), 0) + 1
            else:
                contours.append(contour.moved(scale))
    if left_out:
        kinds = ", ".join(f"{count} {kind}" for kind, count in sorted(left_out.items()))
        messages.append(f"Left out of {name}, since they are not curves: {kinds}.")
    return checked(Artwork(tuple(chained(contours)), name, tuple(messages)))


def _exploded(entity) -> Iterable:
    if entity.dxftype() == "INSERT":
        for part in entity.virtual_entities():
            yield from _exploded(part)
    else:
        yield entity


def _contour(entity) -> Contour | None:
    kind = entity.dxftype()
    layer = entity.dxf.layer.upper()
    layer = layer if layer in LAYERS else "MARK"
    upright = kind == "LINE" or entity.dxf.get("extrusion", (0, 0, 1))[2] > 0.999999
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
        except TypeError:
            return None
        points = np.array([_flat(p) for p in made.flattening(ARTWORK)], float)
        if len(points) < 2:
            return None
        closed = bool(np.linalg.norm(points[0] - points[-1]) < 1e-9)
        return Contour.polyline(points[:-1] if closed else points, closed, layer)
    return None


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
    """Open contours of one layer whose ends touch, two at a place, become one; rings become closed."""
    done = [c for c in contours if c.closed]
    loose = [c for c in contours if not c.closed]
    at: dict[tuple, list[int]] = {}

    def key(i: int, end: int) -> tuple:
        return (loose[i].layer, *np.round(loose[i].points[end] / TOUCHING).astype(int).tolist())

    for i in range(len(loose)):
        for end in (0, -1):
            at.setdefault(key(i, end), []).append(i)
    used: set[int] = set()

    def follow(i: int, end: int) -> tuple[int, int] | None:
        """The contour that goes on from that end, and which of its ends touches."""
        there = at[key(i, end)]
        if len(there) != 2 or there[0] == there[1]:
            return None
        other = there[0] if there[1] == i else there[1]
        return other, 0 if key(other, 0) == key(i, end) else -1

    for i in range(len(loose)):
        if i in used:
            continue
        first, end = i, 0
        seen = {i}
        while (before := follow(first, end)) and before[0] not in seen:
            first, touching = before
            end = -1 if touching == 0 else 0
            seen.add(first)
        chain = loose[first] if end == 0 else loose[first].reversed()
        used.add(first)
        here, far = first, -1 if end == 0 else 0
        while (after := follow(here, far)) and after[0] not in used:
            here, touching = after
            used.add(here)
            part = loose[here] if touching == 0 else loose[here].reversed()
            far = -1 if touching == 0 else 0
            chain = Contour(
                np.vstack([chain.points[:-1], part.points]),
                np.r_[chain.bulges[:-1], part.bulges],
                False,
                chain.layer,
                chain.name,
            )
        if len(chain.points) > 2 and np.linalg.norm(chain.points[0] - chain.points[-1]) < 2 * TOUCHING:
            chain = Contour(chain.points[:-1], chain.bulges[:-1], True, chain.layer, chain.name)
        done.append(chain)
    return done


def write_dxf(path: Path, contours: Sequence[Contour]) -> None:
    """Writes a DXF (R2010, mm) cut file whole or not at all: polylines with arcs, by layer."""
    import ezdxf

    document = ezdxf.new("R2010", setup=False)
    document.units = ezdxf.units.MM
    space = document.modelspace()
    for layer in LAYERS:
        if any(contour.layer == layer for contour in contours):
            document.layers.add(layer, true_color=LAYERS[layer])
    for contour in contours:
        rows = np.column_stack([contour.points, contour.bulges])
        space.add_lwpolyline(rows.tolist(), format="xyb", close=contour.closed, dxfattribs={"layer": contour.layer})
    with whole_file(path) as temporary:
        document.saveas(temporary)
