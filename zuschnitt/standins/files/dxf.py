"""DXF as this machine reads it: pairs of group codes and values, and of these the entities that can be cut."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace
from itertools import pairwise

import numpy as np

from .path import Path, Span, UnreadableError, circle

UNITS = {0: 1.0, 1: 25.4, 2: 304.8, 4: 1.0, 5: 10.0, 6: 1000.0}
Group = tuple[int, str]


def read(content: bytes) -> tuple[list[Path], list[str]]:
    """The runs in a DXF, in mm, in its order, and the kinds of entity that this machine cannot cut."""
    groups = list(_groups(content))
    scale = _unit(groups)
    found: list[Path] = []
    left: list[str] = []
    for kind, entity in _entities(groups):
        if kind in ("SEQEND", "VERTEX", "ATTRIB"):
            continue
        made = _path(kind, entity, scale)
        if made is None:
            left.append(kind)
        else:
            found.append(replace(made, data=_data(entity)))
    return found, left


def _groups(content: bytes) -> Iterator[Group]:
    if content.startswith(b"AutoCAD Binary"):
        raise UnreadableError("The file is a binary DXF, which this laser does not read; export it as text.")
    lines = content.decode("utf-8", errors="replace").splitlines()
    for code, value in zip(lines[::2], lines[1::2], strict=False):
        try:
            yield int(code.strip()), value.strip()
        except ValueError:
            raise UnreadableError("The file is no DXF: where a group code should be stands something else.") from None


def _unit(groups: list[Group]) -> float:
    for k, (code, value) in enumerate(groups[:-1]):
        if code == 9 and value == "$INSUNITS" and groups[k + 1][0] == 70:
            number = int(float(groups[k + 1][1]))
            if number not in UNITS:
                raise UnreadableError(
                    f"The file has the unit number {number}, which this laser does not know; export in mm."
                )
            return UNITS[number]
    return 1.0


def _entities(groups: list[Group]) -> Iterator[tuple[str, list[Group]]]:
    """The entities of the drawing, each with its groups; the vertices of an old polyline stand in it."""
    inside, kind, own = False, "", []
    for k, (code, value) in enumerate(groups):
        if code == 2 and value == "ENTITIES" and groups[k - 1] == (0, "SECTION"):
            inside = True
            continue
        if not inside:
            continue
        if code == 0:
            if kind == "POLYLINE" and value == "VERTEX":
                own.append((0, value))
                continue
            if kind:
                yield kind, own
            if value == "ENDSEC":
                return
            kind, own = value, []
        else:
            own.append((code, value))
    if not inside:
        raise UnreadableError("The file is no DXF with entities; export the drawing as DXF.")


def _data(entity: list[Group]) -> dict[str, float]:
    """Extended data: each name as a text (1000) with its value after it (1040)."""
    found = {}
    for (code, name), (after, value) in pairwise(entity):
        if code == 1000 and after == 1040:
            found[name] = float(value)
    return found


def _all(entity: list[Group], code: int) -> list[float]:
    return [float(value) for own, value in entity if own == code]


def _one(entity: list[Group], code: int, default: float = 0.0) -> float:
    return next(iter(_all(entity, code)), default)


def _path(kind: str, entity: list[Group], scale: float) -> Path | None:
    layer = next((value for code, value in entity if code == 8), "0")
    if kind == "LINE":
        a = np.array([_one(entity, 10), _one(entity, 20)])
        b = np.array([_one(entity, 11), _one(entity, 21)])
        return Path(layer, (Span(a * scale, b * scale),))
    if kind in ("CIRCLE", "ARC"):
        centre, radius = np.array([_one(entity, 10), _one(entity, 20)]) * scale, _one(entity, 40) * scale
        if kind == "CIRCLE":
            return circle(layer, centre, radius)
        first, last = np.radians([_one(entity, 50), _one(entity, 51)])
        ends = [centre + radius * np.array([np.cos(a), np.sin(a)]) for a in (first, last)]
        return Path(layer, (Span(ends[0], ends[1], float((last - first) % (2 * np.pi))),))
    if kind == "LWPOLYLINE":
        return _polyline(layer, *_vertices(entity), bool(int(_one(entity, 70)) & 1), scale)
    if kind == "POLYLINE":
        head, *vertices = _split(entity)
        points = [(_one(v, 10), _one(v, 20)) for v in vertices]
        return _polyline(layer, points, [_one(v, 42) for v in vertices], bool(int(_one(head, 70)) & 1), scale)
    return None


def _vertices(entity: list[Group]) -> tuple[list[tuple[float, float]], list[float]]:
    points: list[tuple[float, float]] = []
    bulges: list[float] = []
    for code, value in entity:
        if code == 10:
            points.append((float(value), 0.0))
            bulges.append(0.0)
        elif code == 20 and points:
            points[-1] = (points[-1][0], float(value))
        elif code == 42 and points:
            bulges[-1] = float(value)
    return points, bulges


def _split(entity: list[Group]) -> list[list[Group]]:
    parts: list[list[Group]] = [[]]
    for group in entity:
        if group == (0, "VERTEX"):
            parts.append([])
        else:
            parts[-1].append(group)
    return parts


def _polyline(layer: str, points: list, bulges: list[float], closed: bool, scale: float) -> Path | None:
    at = np.array(points, float).reshape(-1, 2) * scale
    if len(at) < 2:
        return None
    ends = [*range(1, len(at)), *([0] if closed else [])]
    spans = [Span(at[k], at[j], 4 * float(np.arctan(bulges[k]))) for k, j in enumerate(ends)]
    spans = [span for span in spans if span.length > 1e-9]
    return Path(layer, tuple(spans)) if spans else None
