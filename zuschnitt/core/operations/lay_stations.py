"""Stations: cuts of a form at distances by a rule, and bars along them."""

from __future__ import annotations

from typing import Any

import numpy as np

from ..errors import Lacking, Refused
from ..parameters import (
    choice,
    direction,
    faces,
    identities,
    number,
    numbers,
    optional_number,
    optional_source,
    point,
    rule,
    source,
)
from ..progress import Progress
from ..results.form import FormResult
from ..results.result import Outcome, outcome
from ..results.stations import CutsResult, StationsResult, told
from .body_outcome import changed
from .registry import operation


@operation(
    "lay_stations",
    title="Lay stations",
    stage="form",
    group="Bodies",
    gives=("form", "curves"),
    takes="faces of a form, a rule or a list of distances",
    makes="the cut at each station, and bars with tongues along them",
)
class LayStations:
    form: Any = source("form", hint="the form that is cut")
    faces: Any = faces("the faces that are cut: pick them on the form, or write all or 1, 4")
    remembered: Any = identities()
    start: Any = point("the origin", "where the way begins")
    along: Any = direction("upward", "the direction square to the cuts")
    path: Any = optional_source("curves", words="a straight way", hint="a curve that the cuts are square to")
    rule: Any = rule(
        "no rule",
        "the distance to each station: left is what is left, k its number, last the one before",
        "left",
        "k",
        "last",
    )
    spacings: Any = numbers("no list", "the distances one after the other")
    total: Any = optional_number("", "mm", "what the rule divides; the faces' extent where nothing is said", above=0,
                                 words="the faces' extent")  # fmt: skip
    count: Any = optional_number(
        "", "", "how many stations at the most", low=1, high=1000, words="as many as there is room for"
    )
    skip: Any = numbers("none", "numbers of stations that are left out")
    cut: Any = choice("faces", {"faces": "the faces alone", "body": "the whole body"}, "what is cut")
    bar: Any = choice(
        "none",
        {"none": "no bar", "round": "a round bar", "half-round": "a half-round bar", "square": "a square bar",
         "triangle": "a triangular bar"},
        "what runs along each cut",
    )  # fmt: skip
    size: Any = number(6, "mm", "the bar's diameter or side", above=0)
    wall: Any = number(0, "mm", "the wall of a hollow bar; 0 for a solid one", low=0)
    keep: Any = choice(
        "whole",
        {"whole": "whole", "outer": "its outer part", "inner": "its inner part"},
        "which part of the bar stays, divided by the faces",
    )
    round: Any = number(0, "mm", "the radius of the bar's edges", low=0)
    tongue: Any = number(0, "mm", "the thickness of a tongue below the bar; 0 for none", low=0)
    depth: Any = number(5, "mm", "how deep the tongue reaches below the faces", above=0)
    setback: Any = number(0, "mm", "how far the tongue stays from the ends", low=0)
    groove: Any = optional_number("", "mm", "how much wider its groove in the body is; no groove where nothing is said",
                                  words="no groove")  # fmt: skip

    sentence = "Lay stations over {faces} of {form}, from {start} along {along}, {rule}, {spacings}."
    clauses = (
        ("along a curve", "They are square to {path}."),
        ("how many", "There are {count}, of a total of {total}, without {skip}."),
        ("the whole body", "Cut is {cut}."),
        ("bars", "Along each runs {bar} of {size}, wall {wall}, edges {round}; {keep} stays."),
        ("tongues", "Below it is a tongue {tongue} thick and {depth} deep, {setback} from the ends, {groove}."),
    )

    def run(self, progress: Progress) -> Outcome:
        from ..carry.tracing import SpaceCurve
        from ..form.persistent_names import faces_again
        from ..form_curves.stations import Way, spacings_by, stations

        picked, said = faces_again(self.form, self.faces, self.remembered)
        numbers_of = tuple(face.number for face in self.form.faces) if picked is None else picked
        cut = numbers_of if self.cut == "faces" else self._body(numbers_of)
        along = np.array(self.along if self.along is not None else (0.0, 0.0, 1.0), float)
        if not np.linalg.norm(along) > 0:
            raise Refused("The direction must not be 0, 0, 0; change it.")
        start = np.array(self.start if self.start is not None else (0.0, 0.0, 0.0), float)
        way = Way(start, along, None if self.path is None else self.path[0].points)
        count = None if self.count is None else round_(self.count)
        if self.spacings:
            spacings = list(self.spacings)[:count]
        elif self.rule is not None:
            total = self.total if self.total is not None else way.extent(self.form, numbers_of)
            spacings = spacings_by(self.rule.value, total, count)
        else:
            raise Lacking("The stations wait for their distances; write a rule such as left/5, or a list of them.")
        progress.step(0.1, "cutting")
        found, messages = stations(self.form, cut, way, spacings, {round_(number) for number in self.skip})
        curves = tuple(SpaceCurve(s.curve, f"station {s.number}", True, s.joins) for s in found)
        if self.bar == "none":
            cuts = CutsResult(curves, tuple(map(told, found)))
            return outcome(FormResult(self.form), cuts, messages=(*said, *messages))
        result = StationsResult(curves, tuple(map(told, found)))
        from ..solids.bars import Bar, bars

        tongue = (self.tongue, self.depth, self.setback) if self.tongue else None
        bar = Bar(self.bar, self.size, self.wall, self.keep, tongue, self.groove, self.round)
        made, more = bars(self.form, cut, found, bar, progress.part(0.2, 0.8))
        progress.step(0.8, "reading faces")
        bodies = changed(self.form, made, "bars")
        return outcome(bodies, result, messages=(*said, *messages, *more))

    def _body(self, picked: tuple[int, ...]) -> tuple[int, ...]:
        return tuple(sorted({n for body in self.form.bodies if set(body.faces) & set(picked) for n in body.faces}))


def round_(value: float) -> int:
    return int(np.floor(value + 0.5))
