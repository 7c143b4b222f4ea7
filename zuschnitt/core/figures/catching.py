"""What a pointer catches on a drawing: corners, ends, middles, centres, crossings, edges; each with its name."""

from __future__ import annotations

from collections.abc import Collection, Iterator, Sequence
from dataclasses import replace

import numpy as np

from ..geometry.curves import Array
from ..plane.spans import Spans
from ..record import record
from .drawn import Drawn
from .ground import Ground

MOST_CROSSED = 400
"""Of drawings with more spans than this, crossings are not looked for."""
MOST_FIGURE = 60
"""Of figures with more contours than this, only the middle is caught."""


@record
class Caught:
    """``point`` (2,) under a name; ``place`` where figures can be placed from it, as it is written."""

    point: Array
    name: str
    place: str = ""


@record
class Catcher:
    """``points`` are caught before ``lines``, each with its name; what belongs to a figure bears its number."""

    points: tuple[Caught, ...]
    owners: np.ndarray
    lines: Spans
    names: tuple[str, ...]
    line_owners: np.ndarray

    @staticmethod
    def of(ground: Ground, figures: Sequence[Drawn]) -> Catcher:
        found = [(0, caught) for caught in _of_ground(ground)]
        kept = [each for each in figures if not each.used]
        for each in kept:
            found.extend((each.number, caught) for caught in _of_figure(each, ground))
        edges = [(0, f"edge {k}", edge.spans) for k, edge in enumerate(ground.edges, 1)]
        edges += [(0, f"bend {k}", Spans.of([bend])) for k, bend in enumerate(ground.bends, 1)]
        for each in kept:
            edges.append((each.number, f"figure {each.number}", Spans.of(each.contours[:MOST_FIGURE])))
        names = tuple(name for _, name, _ in edges)
        lines = _numbered([spans for _, _, spans in edges])
        found.extend((-1, caught) for caught in _crossings(lines))
        return Catcher(
            tuple(caught for _, caught in found),
            np.array([owner for owner, _ in found]),
            lines,
            names,
            np.array([owner for owner, _, _ in edges]),
        )

    def at(self, point: Array, reach: float, without: Collection[int] = ()) -> Caught | None:
        """What is caught within ``reach`` mm of ``point`` (2,), nothing of the figures ``without``."""
        point = np.asarray(point, float)
        places = np.array([caught.point for caught in self.points]).reshape(-1, 2)
        gaps = np.linalg.norm(places - point, axis=1)
        gone = [*without, *([-1] if without else [])]
        gaps[np.isin(self.owners, gone)] = np.inf
        if len(gaps) and gaps.min() <= reach:
            return self.points[int(np.argmin(gaps))]
        if not len(self.lines):
            return None
        gaps = self.lines.distance(np.repeat(point[None], len(self.lines), axis=0))
        gaps[np.isin(self.line_owners[self.lines.owner], gone)] = np.inf
        k = int(np.argmin(gaps))
        if gaps[k] > reach:
            return None
        t = np.clip(self.lines.place(point[None], np.array([k])), 0, 1)
        return Caught(self.lines.evaluate(t, np.array([k]))[0], f"on {self.names[self.lines.owner[k]]}")


def _of_ground(ground: Ground) -> Iterator[Caught]:
    x0, y0, x1, y1 = ground.box
    yield Caught(np.array([x0 + x1, y0 + y1]) / 2, "the middle", "middle")
    yield Caught(np.zeros(2), "the origin", "origin")
    for k, (point, _) in enumerate(ground.corners, 1):
        yield Caught(point, f"corner {k}", f"corner {k}")
    for k, edge in enumerate(ground.edges, 1):
        yield Caught(edge.middle, f"middle of edge {k}", f"edge {k}")
    for k, bend in enumerate(ground.bends, 1):
        yield Caught((bend.points[0] + bend.points[-1]) / 2, f"middle of bend {k}", f"bend {k}")


def _of_figure(each: Drawn, ground: Ground) -> Iterator[Caught]:
    from ..plane.contour import bounds

    box = bounds(each.contours)
    yield Caught(
        np.array([box[0] + box[2], box[1] + box[3]]) / 2, f"middle of figure {each.number}", f"figure {each.number}"
    )
    if len(each.contours) > MOST_FIGURE or each.key == "text":
        return
    spans = Spans.of(each.contours)
    for contour in each.contours:
        ends = contour.points if contour.closed else contour.points[[0, -1]]
        for point in ends if len(ends) <= MOST_FIGURE else ():
            yield Caught(point, f"end in figure {each.number}")
    for centre in np.unique(np.round(spans.centre[spans.curved], 6), axis=0):
        yield Caught(centre, f"centre in figure {each.number}")
    for middle in spans.evaluate(np.full(len(spans), 0.5))[~spans.curved]:
        yield Caught(middle, f"middle of a line of figure {each.number}")


def _numbered(parts: Sequence[Spans]) -> Spans:
    """All spans together; their owners are the places of the parts they come from."""
    owner = np.repeat(np.arange(len(parts)), [len(part) for part in parts])
    return replace(Spans.together(parts), owner=owner)


def _crossings(lines: Spans) -> Iterator[Caught]:
    if len(lines) > MOST_CROSSED:
        return
    i, _, s, t = lines.meetings()
    inner = (s > 1e-9) & (s < 1 - 1e-9) & (t > 1e-9) & (t < 1 - 1e-9)
    for point in lines.evaluate(s[inner], i[inner]):
        yield Caught(point, "crossing")
