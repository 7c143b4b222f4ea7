"""What the laser does with a cut file: order, lengths, time, and what goes wrong."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import shapely

from ..files.path import Path, UnreadableError, chained
from ..files.reading import READERS, ending_of, read
from .itself import meets_itself, twice_along

CUT = "CUT"
MARKED = ("MARK", "TEXT")
LEFT = ("REFERENCE", "BEND_UP", "BEND_DOWN")
LEAD, BETWEEN_BRIDGES = "LEAD", "CUT_OPEN"
KNOWN = (CUT, LEAD, BETWEEN_BRIDGES, "RELIEF", *MARKED, *LEFT)
"""Layers by their words: what is cut, what is marked, and what this machine leaves alone."""
JOINED = 0.01
"""Ends nearer to each other than this, in mm, are one."""
DOUBLE = 0.5
"""Cuts that lie on each other for longer than this, in mm, are cut twice."""
ALONG = 0.005
ON_ITSELF = 0.0005
"""A run has to come so near to itself: where a cut ends in a point, its sides come nearer to each other than ALONG."""
BESIDE = 1.6
"""Bridges of one part differ by no more than this."""
MOST_PAIRS = 20_000
"""No more pairs of contours that meet are looked at one by one."""
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
    pierces: int
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
    if ending_of(name) not in READERS:
        raise UnreadableError(
            f"{name} is no DXF, SVG or G-code, so the laser does not take it; export the drawing as one of these."
        )
    found, left = read(content, name)
    if not found:
        raise UnreadableError(f"{name} has nothing in it that can be cut; export the drawing again.")
    layered = any(path.layer.upper() in KNOWN for path in found)
    named = [Path(path.layer.upper() if layered else CUT, path.spans, path.data) for path in found]
    paths = [path for path in chained(named, JOINED, LEAD) if path.layer not in LEFT]
    if not paths:
        raise UnreadableError(f"{name} has nothing on the layers that are cut or marked; export the drawing again.")
    return _timed(tuple(paths), laser, tuple(left))


def _timed(paths: tuple[Path, ...], laser: Laser, left: tuple[str, ...]) -> Run:
    cuts = tuple(k for k, path in enumerate(paths) if path.layer not in (*MARKED, LEAD))
    mark = sum(path.length for path in paths if path.layer in MARKED)
    cut = sum(path.length for path in paths) - mark
    at, rapid, pierces, minutes = np.zeros(2), 0.0, 0, 0.0
    for path in paths:
        away = float(np.linalg.norm(path.spans[0].start - at))
        rapid += away
        pierces += path.layer not in MARKED and (away > JOINED or path is paths[0])
        minutes += path.length / (path.data.get("feed") or laser.feed)
        at = path.spans[-1].end
    seconds = 60 * (minutes + rapid / laser.rapid) + laser.pierce * pierces
    return Run(paths, cuts, pierces, cut, mark, rapid, seconds, _faults(paths, cuts, laser), left)


def _faults(paths: tuple[Path, ...], cuts: tuple[int, ...], laser: Laser) -> tuple[Fault, ...]:
    found: list[Fault] = []
    points = [path.points for path in paths]
    lines = {k: shapely.LineString(points[k]) for k in range(len(paths))}
    closed = [k for k in cuts if paths[k].gap <= JOINED and len(points[k]) > 3]
    areas = {k: shapely.Polygon(points[k]) for k in closed}
    for k in cuts:
        if paths[k].gap > JOINED and paths[k].layer != BETWEEN_BRIDGES:
            found.append(_fault("open", paths[k], paths[k].spans[-1].end, f"is open by {paths[k].gap:.3f} mm"))
    for k in cuts:
        twice, there = twice_along(points[k], ON_ITSELF)
        if twice > DOUBLE and there is not None:
            found.append(_fault("double", paths[k], there, f"lies on itself for {twice:.2f} mm"))
        elif k in areas and (met := meets_itself(lines[k])) is not None:
            found.append(_fault("crossing", paths[k], met, "crosses or touches itself"))
        elif paths[k].gap <= JOINED and (k not in areas or _too_small(areas[k], laser.kerf)):
            found.append(_fault("tiny", paths[k], points[k][0], f"is too small for a kerf of {laser.kerf:g} mm"))
    runs = tuple(k for k in range(len(paths)) if paths[k].layer not in MARKED)
    found.extend(_between(paths, runs, lines))
    sound = {k: shapely.make_valid(areas[k]) for k in closed}
    found.extend(_order(paths, closed, sound))
    rings = [np.vstack([points[k] for k in runs]) for runs in bridged_parts(paths)]
    whole = [*sound.values(), *(shapely.make_valid(shapely.Polygon(ring)) for ring in rings)]
    parts = shapely.union_all(whole) if whole else None
    room = parts.buffer(JOINED) if parts is not None else None
    shapely.prepare(room)
    for k in range(len(paths)):
        if paths[k].layer in MARKED and room is not None and not room.covers(lines[k]):
            outside = lines[k].difference(room)
            at = np.array(outside.representative_point().coords[0])
            found.append(_fault("outside", paths[k], at, "runs outside of what is cut out"))
    return tuple(found)


def bridged_parts(paths: tuple[Path, ...]) -> list[tuple[int, ...]]:
    """The runs of each part that is held by bridges: one after the other, until one ends beside the first."""
    found: list[tuple[int, ...]] = []
    runs: list[int] = []
    for k, path in enumerate(paths):
        if path.layer != BETWEEN_BRIDGES:
            continue
        runs.append(k)
        first = paths[runs[0]]
        back = float(np.linalg.norm(path.spans[-1].end - first.spans[0].start))
        bridge = back if len(runs) == 1 else float(np.linalg.norm(first.spans[-1].end - paths[runs[1]].spans[0].start))
        if back <= BESIDE * bridge and back < path.length / 3:
            found.append(tuple(runs))
            runs = []
    return found


def _fault(kind: str, path: Path, at: np.ndarray, why: str) -> Fault:
    x, y = (float(v) for v in at)
    return Fault(kind, path.layer, (x, y), f"A contour on {path.layer} at {x:.2f}, {y:.2f} {why}.")


def _too_small(area: shapely.Polygon, kerf: float) -> bool:
    """Whether nothing of it is left once the beam has gone round inside."""
    return bool(area.area < np.pi * kerf**2 / 4 or shapely.make_valid(area).buffer(-kerf / 2).is_empty)


def _between(paths: tuple[Path, ...], cuts: tuple[int, ...], lines: dict) -> list[Fault]:
    """Cuts that lie on each other, or cross."""
    found: list[Fault] = []
    mine = np.array([lines[k] for k in cuts], object)
    pairs = shapely.STRtree(mine).query(mine, predicate="dwithin", distance=ALONG).T
    pairs = pairs[pairs[:, 0] < pairs[:, 1]]
    pairs = pairs[np.lexsort(pairs.T[::-1])]
    unseen = max(len(pairs) - MOST_PAIRS, 0)
    pairs = pairs[:MOST_PAIRS]
    one, other = mine[pairs[:, 0]], mine[pairs[:, 1]]
    beside = shapely.length(shapely.intersection(other, shapely.buffer(mine, ALONG)[pairs[:, 0]]))
    for k in np.nonzero((beside > DOUBLE) | shapely.crosses(one, other))[0].tolist():
        i, j = pairs[k].tolist()
        a, b = mine[i], mine[j]
        if beside[k] > DOUBLE:
            shared = b.intersection(a.buffer(ALONG))
            at = np.array(shared.interpolate(0.5, normalized=True).coords[0]) if shared.geom_type == "LineString" \
                else np.array(shapely.get_coordinates(shared)[0])  # fmt: skip
            found.append(_fault("double", paths[cuts[j]], at, f"lies on another one for {shared.length:.2f} mm"))
        elif len(at := _off_ends(paths, cuts[i], cuts[j], shapely.get_coordinates(a.intersection(b)))):
            found.append(_fault("crossing", paths[cuts[j]], at[0], "crosses another one"))
    if unseen:
        at = paths[cuts[pairs[-1, 1]]].points[0]
        found.append(_fault("crossing", paths[cuts[pairs[-1, 1]]], at, f"is one of {unseen:,} more that meet others"))
    return found


def _off_ends(paths: tuple[Path, ...], one: int, other: int, points: np.ndarray) -> np.ndarray:
    """The points at which two runs cross, without the ends of a lead: it is to end on the other one."""
    ends = [end for k in (one, other) if paths[k].layer == LEAD
            for end in (paths[k].spans[0].start, paths[k].spans[-1].end)]  # fmt: skip
    away = np.array([min((float(np.linalg.norm(point - end)) for end in ends), default=np.inf) for point in points])
    return points[away > JOINED]


def _order(paths: tuple[Path, ...], closed: list[int], areas: dict) -> list[Fault]:
    """Contours that are cut, or marked, only when what they lie in is loose already."""
    starts = shapely.points(np.array([path.points[0] for path in paths]))
    round_it, within = shapely.STRtree(starts).query(np.array([areas[k] for k in closed], object), predicate="contains")
    found: list[Fault] = []
    for k, other in sorted(zip((closed[i] for i in round_it.tolist()), within.tolist(), strict=True)):
        inner = areas.get(other)
        if other > k and (inner is None or inner.area < areas[k].area):
            found.append(_fault("loose", paths[other], paths[other].points[0],
                                "is run when the part round it is loose already"))  # fmt: skip
    return found
