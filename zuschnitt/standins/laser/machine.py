"""What the laser does with a cut file: order, lengths, time, and what goes wrong."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import shapely

from ..files import dxf, svg
from ..files.path import Path, UnreadableError, chained

CUT = "CUT"
MARKED = ("MARK", "TEXT")
LEFT = ("REFERENCE", "BEND_UP", "BEND_DOWN")
KNOWN = (CUT, "RELIEF", *MARKED, *LEFT)
"""Layers by their words: what is cut, what is marked, and what this machine leaves alone."""
JOINED = 0.01
"""Ends nearer to each other than this, in mm, are one."""
DOUBLE = 0.5
"""Cuts that lie on each other for longer than this, in mm, are cut twice."""
ALONG = 0.005
SPOILING = ("open", "double", "crossing", "tiny", "loose")
"""Faults that spoil the part."""


@dataclass(frozen=True)
class Laser:
    """``kerf`` in mm, ``feed`` and ``rapid`` in mm a minute, ``pierce`` in seconds."""

    kerf: float = 0.2
    feed: float = 3000.0
    rapid: float = 30000.0
    pierce: float = 0.3


@dataclass(frozen=True)
class Fault:
    """``kind`` is open, double, crossing, tiny, outside or loose; ``at`` (x, y) in mm."""

    kind: str
    layer: str
    at: tuple[float, float]
    text: str


@dataclass(frozen=True)
class Run:
    """A cut file as the machine would run it. ``paths`` are in its order; lengths in mm, ``seconds`` in all."""

    paths: tuple[Path, ...]
    cuts: tuple[int, ...]
    length_cut: float
    length_mark: float
    length_rapid: float
    seconds: float
    faults: tuple[Fault, ...]
    left_out: tuple[str, ...]

    @property
    def spoilt(self) -> bool:
        return any(fault.kind in SPOILING for fault in self.faults)


def run(content: bytes, name: str, laser: Laser) -> Run:
    """Runs a DXF or an SVG. Raises UnreadableError."""
    ending = name.lower().rpartition(".")[2]
    if ending not in ("dxf", "svg"):
        raise UnreadableError(
            f"{name} is no DXF or SVG, so the laser does not take it; export the drawing as one of these."
        )
    found, left = (dxf if ending == "dxf" else svg).read(content)
    if not found:
        raise UnreadableError(f"{name} has nothing in it that can be cut; export the drawing again.")
    layered = any(path.layer.upper() in KNOWN for path in found)
    named = [Path(path.layer.upper() if layered else CUT, path.spans) for path in found]
    paths = [path for path in chained(named, JOINED) if path.layer not in LEFT]
    if not paths:
        raise UnreadableError(f"{name} has nothing on the layers that are cut or marked; export the drawing again.")
    return _timed(tuple(paths), laser, tuple(left))


def _timed(paths: tuple[Path, ...], laser: Laser, left: tuple[str, ...]) -> Run:
    cuts = tuple(k for k, path in enumerate(paths) if path.layer not in MARKED)
    cut = sum(paths[k].length for k in cuts)
    mark = sum(path.length for path in paths) - cut
    at, rapid = np.zeros(2), 0.0
    for path in paths:
        rapid += float(np.linalg.norm(path.spans[0].start - at))
        at = path.spans[-1].end
    minutes = (cut + mark) / laser.feed + rapid / laser.rapid
    return Run(
        paths, cuts, cut, mark, rapid, 60 * minutes + laser.pierce * len(cuts), _faults(paths, cuts, laser), left
    )


def _faults(paths: tuple[Path, ...], cuts: tuple[int, ...], laser: Laser) -> tuple[Fault, ...]:
    found: list[Fault] = []
    lines = {k: shapely.LineString(paths[k].points) for k in range(len(paths))}
    closed = [k for k in cuts if paths[k].gap <= JOINED and len(paths[k].points) > 3]
    for k in cuts:
        if k not in closed:
            found.append(_fault("open", paths[k], paths[k].spans[-1].end, f"is open by {paths[k].gap:.3f} mm"))
    areas = {k: shapely.Polygon(paths[k].points) for k in closed}
    for k in closed:
        crossing = None if lines[k].is_simple else _self_crossing(lines[k])
        if crossing is not None:
            found.append(_fault("crossing", paths[k], crossing, "crosses itself"))
        elif _too_small(areas[k], laser.kerf):
            found.append(_fault("tiny", paths[k], paths[k].points[0], f"is too small for a kerf of {laser.kerf:g} mm"))
    found.extend(_between(paths, cuts, lines))
    sound = {k: shapely.make_valid(areas[k]) for k in closed}
    found.extend(_order(paths, closed, sound))
    parts = shapely.union_all(list(sound.values())) if sound else None
    for k in range(len(paths)):
        if k not in cuts and parts is not None and not parts.buffer(JOINED).covers(lines[k]):
            outside = lines[k].difference(parts.buffer(JOINED))
            at = np.array(outside.representative_point().coords[0])
            found.append(_fault("outside", paths[k], at, "runs outside of what is cut out"))
    return tuple(found)


def _fault(kind: str, path: Path, at: np.ndarray, why: str) -> Fault:
    x, y = (float(v) for v in at)
    return Fault(kind, path.layer, (x, y), f"A contour on {path.layer} at {x:.2f}, {y:.2f} {why}.")


def _too_small(area: shapely.Polygon, kerf: float) -> bool:
    """Whether nothing of it is left once the beam has gone round inside."""
    return bool(area.area < np.pi * kerf**2 / 4 or shapely.make_valid(area).buffer(-kerf / 2).is_empty)


def _self_crossing(line: shapely.LineString) -> np.ndarray | None:
    """Where a closed run crosses itself; touching at its own ends is none."""
    points = np.array(line.coords)
    noded = shapely.node(line)
    ends = shapely.get_coordinates([piece.coords[0] for piece in shapely.get_parts(noded)] and noded)
    corners = {tuple(np.round(p, 6)) for p in points}
    crossing = [p for p in ends if tuple(np.round(p, 6)) not in corners]
    return np.array(crossing[0]) if crossing else None


def _between(paths: tuple[Path, ...], cuts: tuple[int, ...], lines: dict) -> list[Fault]:
    """Cuts that lie on each other, or cross."""
    found: list[Fault] = []
    mine = [lines[k] for k in cuts]
    one, other = shapely.STRtree(mine).query(mine, predicate="dwithin", distance=ALONG)
    for i, j in sorted({(min(a, b), max(a, b)) for a, b in zip(one.tolist(), other.tolist(), strict=True) if a != b}):
        a, b = mine[i], mine[j]
        shared = b.intersection(a.buffer(ALONG))
        if shared.length > DOUBLE:
            at = np.array(shared.interpolate(0.5, normalized=True).coords[0]) if shared.geom_type == "LineString" \
                else np.array(shapely.get_coordinates(shared)[0])  # fmt: skip
            found.append(_fault("double", paths[cuts[j]], at, f"lies on another one for {shared.length:.2f} mm"))
        elif a.crosses(b):
            at = shapely.get_coordinates(a.intersection(b))[0]
            found.append(_fault("crossing", paths[cuts[j]], at, "crosses another one"))
    return found


def _order(paths: tuple[Path, ...], closed: list[int], areas: dict) -> list[Fault]:
    """Contours that are cut, or marked, only when what they lie in is loose already."""
    found: list[Fault] = []
    for k in closed:
        for other in range(k + 1, len(paths)):
            at = shapely.Point(paths[other].points[0])
            if not areas[k].contains(at):
                continue
            inner = areas.get(other)
            if inner is not None and inner.area >= areas[k].area:
                continue
            found.append(_fault("loose", paths[other], paths[other].points[0],
                                "is run when the part round it is loose already"))  # fmt: skip
    return found
