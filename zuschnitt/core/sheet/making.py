"""A solid becomes a sheet part: its skin found, seams opened, sharp corners bent, laid flat and checked."""

from __future__ import annotations

import pickle
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import field, replace
from functools import cached_property
from itertools import groupby

import numpy as np

from ..errors import CannotBeDone, Refused, WrongCall
from ..form.form import Form
from ..geometry.surfaces import Cylinder
from ..progress import SILENT, Progress
from ..record import record
from ..wording import Note, counted
from .allowance import ByK, Rule
from .belonging import left_out, pierced, slanted, unseen
from .bending import LEAST, bend_between, setback, strip, without_strips
from .corners import Relief, relieved, rounded
from .facing import bulges
from .finishing import OVER, numbered, overlap, staying, without_loose
from .flanges import Flange, OpenCorner, flanged
from .grain import along_the_grain, warned_of_grain
from .mitres import mitred
from .opening import SAME, Link, choices_of, chosen, edges_of, together
from .part import Joint, SheetPart, Zone, matched
from .passing import Passing, passings
from .resizing import sharpened
from .seams import COVERS, Seam, asked_for, links_of, open_setbacks, open_wall, steps_at
from .skins import SHARE, Skins, beyond, named, no_sheet, sides, skins
from .step_bends import stepped
from .stepping import Stepped, Steps
from .unfolded import Corner, Unfolded, unfolded
from .zones import Loop, area

MOST_OF = 0.7
"""What hangs together is a sheet part where it has this part of the side's area at least."""
MOST_WAYS = 40
"""So many choices of seams are tried until the folded part does not pass through itself."""
GRAINS = 1e-6
"""What runs along the grain is compared in these, in mm."""
BEFORE = (
    "side", "other_side", "without", "rounds", "radius", "rule", "opened", "gap", "corners", "grain", "stays",
)  # fmt: skip
"""What of a plan is needed until the part has been opened and bent."""
ROUNDS = ("as-bends", "as-they-are", "sharp")
"""What becomes of rounds: bends, rolled walls as they are, or sharp corners that are bent anew."""


@record
class SheetPlan:
    """How a solid becomes a sheet part.

    ``side`` is a face of the skin that is followed, 0 for the larger one; ``other_side`` takes the one opposite.
    ``without`` are faces that are left out. ``rounds`` become bends, stay as they are, or go (``ROUNDS``). ``radius``
    is the inside radius that sharp corners get, None for the thickness. ``opened`` are the numbers of the edges that
    are opened, or "auto"; open ``corners`` are one of COVERS, ``gap`` mm apart. ``grain`` is its direction on the flat
    in radians, None where that does not matter: of seams as short those are chosen with which the bends run square to
    it. ``stays`` is a face of the wall that stays, 0 for the largest. ``rounding`` is the radius of outer corners, or
    how much of their sides is ``cut_off``; of those ``rounded_at`` points of the flat alone, where there are some.
    ``steps`` are those of large bends.
    """

    side: int = 0
    other_side: bool = False
    without: tuple[int, ...] = ()
    rounds: str = "as-bends"
    radius: float | None = None
    rule: Rule = field(default_factory=ByK)
    opened: tuple[int, ...] | str = ()
    gap: float = 0.0
    corners: str = "closed"
    grain: float | None = None
    stays: int = 0
    flanges: tuple[Flange, ...] = ()
    relief: Relief = field(default_factory=Relief)
    rounding: float = 0.0
    cut_off: bool = False
    rounded_at: tuple[tuple[float, float], ...] = ()
    steps: Steps | None = None


@record
class Made:
    """A sheet part as it was made: from which ``side`` of the form, what was left out, which seams were opened.

    ``stepped`` tells of its large bends in steps.
    """

    part: SheetPart
    side: tuple[int, ...]
    left_out: tuple[int, ...]
    seams: tuple[Seam, ...]
    stepped: tuple[Stepped, ...] = ()
    messages: tuple[str, ...] = ()

    @cached_property
    def passed(self) -> tuple[Passing, ...]:
        """Where the folded part passes through itself."""
        return passings(self.part)


def sheet_part(form: Form, plan: SheetPlan, progress: Progress = SILENT) -> Made:
    """The sheet part that a solid is. Raises Refused, CannotBeDone and WrongCall."""
    _require(plan)
    return _kept.made(form, plan, progress)


def rough_part(form: Form, plan: SheetPlan) -> SheetPart:
    """The part to look at while a value of it moves: its corners neither relieved nor rounded, its flat not checked.

    Raises as ``sheet_part`` does.
    """
    _require(plan)
    return _kept.opened(form, plan, SILENT).roughly(plan)


def _require(plan: SheetPlan) -> None:
    if plan.radius is not None and not (np.isfinite(plan.radius) and plan.radius >= 0):
        raise WrongCall("The inside radius of the bends must be 0 or more; change it.")
    if not (np.isfinite(plan.gap) and plan.gap >= 0):
        raise WrongCall("The gap between open corners must be 0 or more; change it.")
    if plan.rounds not in ROUNDS:
        raise WrongCall(f"Rounds are taken {', '.join(ROUNDS)}; {plan.rounds!r} is none of these.")
    if plan.corners not in COVERS:
        raise WrongCall(f"Open corners are {', '.join(COVERS)}; {plan.corners!r} is none of these.")


class _Kept:
    """The part that was made last; and as it was opened, for a plan that differs only in what is done after that."""

    def __init__(self) -> None:
        self._last: tuple[Form, bytes, _Opened] | None = None
        self._made: tuple[Form, bytes, Made] | None = None

    def made(self, form: Form, plan: SheetPlan, progress: Progress) -> Made:
        about = pickle.dumps(plan)
        if self._made is None or self._made[0] is not form or self._made[1] != about:
            self._made = form, about, self.opened(form, plan, progress).finished(plan, progress)
        return self._made[2]

    def opened(self, form: Form, plan: SheetPlan, progress: Progress) -> _Opened:
        about = pickle.dumps([getattr(plan, name) for name in BEFORE])
        if self._last is None or self._last[0] is not form or self._last[1] != about:
            self._last = form, about, _Opened(form, plan, progress)
        return self._last[2]


_kept = _Kept()


@record
class Way:
    """The part opened along links, by their places, and bent at all others."""

    part: SheetPart
    opened: tuple[int, ...]


class _LiesOver(CannotBeDone):
    """The flat lies over itself once flanges hang on it."""


class _Opened:
    """The skin as zones, opened and bent; and what is made of that."""

    def __init__(self, form: Form, plan: SheetPlan, progress: Progress) -> None:
        self.form, self.plan = form, plan
        progress.step(0.1, "looking for the sheet's two sides")
        self.skins = skins(form)
        self.thickness = self.skins.thickness
        self.side = _followed(form, self.skins, plan)
        self.beyond = beyond(form, self.skins, self.side)
        self.radius = self.thickness if plan.radius is None else plan.radius
        progress.step(0.4, "laying walls")
        self.rest = left_out(form, self.skins, (*self.side, *plan.without), self.beyond)
        self.messages: list[str] = []
        self._require_sheet()
        self._look_at_edges()
        laid = unfolded(form, self.side, self.thickness, plan.rule)
        self.laid = self._filled(laid)
        self.mitres = mitred(form, laid, self.side, self.skins, self.beyond)
        if plan.rounds == "as-they-are":
            self.laid = replace(self.laid, zones=tuple(_kept_round(zone) for zone in self.laid.zones))
        self.links = links_of(form, self.laid)
        asked = asked_for(form, self.laid, self.links, plan.opened)
        self._require_open(asked)
        group, self.others = self._group()
        self.links = [link for link in self.links if set(link.zones) <= group]
        progress.step(0.6, "bending")
        self.by_itself = asked is None
        self._ways = self._opened_by_itself() if asked is None else iter([self._opened_as_asked(self.links, asked)])
        self._known: list[Way] = []
        self._seen = 0  # which of the ways was made last
        self.way(0)

    def way(self, number: int) -> Way | None:
        """The part opened and bent in the first way, from 0, or a further one; None where there are no more."""
        while len(self._known) <= number:
            way = next(self._ways, None)
            if way is None:
                return None
            try:
                if self.plan.rounds == "sharp":
                    way = replace(way, part=sharpened(way.part, self.radius, self.plan.rule))
            except CannotBeDone:
                if not self._known:
                    raise
                continue
            self._known.append(way)
        return self._known[number]

    def finished(self, plan: SheetPlan, progress: Progress) -> Made:
        """With flanges, reliefs, steps and rounded corners; ``plan`` is the same but for those.

        Where seams are chosen, they are the shortest with which the part neither lies over itself nor, folded, passes
        through itself; if there are none such, the shortest.
        """
        first: Made | None = None
        why: CannotBeDone | None = None
        for number in range(MOST_WAYS):
            way = self.way(number)
            if way is None:
                break
            progress.step(0.8, "bending flanges" if number == 0 else "looking for other seams")
            try:
                made = self._finished(plan, way)
            except CannotBeDone as error:
                if number == 0 and not isinstance(error, _LiesOver):
                    raise
                why = why or error
                continue
            if not self.by_itself or not made.passed:
                self._seen = number
                return made
            first = first or made
        if first is None:
            assert why is not None
            raise why
        self._seen = 0
        return first

    def _other_seams(self, way: Way) -> list[str]:
        """That these are not the shortest, where they are longer."""
        long, short = (self._seams(each) for each in (way, self._known[0]))
        if long <= short * (1 + SAME):
            return []
        return [Note(
            f"Opened along the shortest seams, {short:.4g} mm, its walls would be in each other's way; "
            f"it is opened along {long:.4g} mm."
        )]  # fmt: skip

    def _seams(self, way: Way) -> float:
        return sum(self.links[k].length for k in way.opened)

    def _finished(self, plan: SheetPlan, way: Way) -> Made:
        form, laid, links, opened = self.form, self.laid, self.links, way.opened
        messages = list(self.messages)
        part = self._with_flanges(plan.flanges, way)
        part, count = relieved(part, plan.relief)
        if plan.relief.shape != "none" and not count:
            messages.append("No two bends meet at a corner, so there was none to relieve.")
        steps: tuple[Stepped, ...] = ()
        if plan.steps is not None:
            part, steps = stepped(part, plan.steps, self.radius, plan.rule)
        part = numbered(part)
        over = overlap(part)
        if over > OVER:
            raise _LiesOver(
                f"The flat would lie over itself by {over:.3g} mm²; open other edges, have them chosen (auto), or make "
                "flanges shorter."
            )
        if self.rest:
            messages.append(f"{named(self.rest)} do not belong to the sheet and were left out.")
        numbers = {*(edge for k in opened for edge in links[k].edges), *laid.torn, *laid.come_round}
        seams = [Seam(edge, form.edge(edge).length) for edge in numbers]
        part = staying(form, part, plan.stays)
        part, done, short = rounded(part, plan.rounding, plan.cut_off, plan.rounded_at)
        if plan.rounding and short:
            made, left = counted(done, "outer corner"), counted(short, "corner")
            how = "cut off" if plan.cut_off else "rounded"
            messages.append(f"{made} {how}; {left} had no room for it and stayed sharp.")
        if plan.grain is not None:
            messages.extend(warned_of_grain(part, plan.grain))
        seams.sort(key=lambda seam: seam.edge)
        away = tuple(sorted({*self.rest, *self.others, *plan.without}))
        return Made(part, self.side, away, tuple(seams), steps, (*messages, *self._other_seams(way)))

    def roughly(self, plan: SheetPlan) -> SheetPart:
        """With flanges and steps alone."""
        way = self.way(self._seen)
        assert way is not None
        part = self._with_flanges(plan.flanges, way)
        if plan.steps is not None:
            part, _ = stepped(part, plan.steps, self.radius, plan.rule)
        return staying(self.form, numbered(part), plan.stays)

    def _look_at_edges(self) -> None:
        """Says which edges of the sheet will be cut otherwise than they are."""
        skins = {*self.side, *self.beyond}
        edge = [face.number for face in self.form.faces if face.number not in skins.union(self.rest)]
        if found := slanted(self.form, self.thickness, edge, skins):
            self.messages.append(
                f"The sheet's edge is not square to it at {named(found)}: the flat is cut square along the side that "
                "is followed; follow the other side if its outline counts."
            )

    def _filled(self, laid: Unfolded) -> Unfolded:
        """Without holes that are only where something stands on the sheet, or is sunk into it, that does not belong.

        Where such a thing has a part in the outline that this side cannot tell, that is said.
        """
        form, gone, thickness = self.form, set(self.rest), self.thickness
        hidden = unseen(form, thickness, self.rest, self.side, self.beyond)
        if hidden:
            self.messages.append(
                f"Holes through the sheet cannot be seen from the side that is followed ({named(hidden)}); follow the "
                "other side to have them."
            )
        zones, standing = [], set()
        for zone in laid.zones:
            kept = []
            for loop in zone.loops:
                away = [set(form.edge(step.edge).faces) & gone if step.edge else set() for step in loop]
                outer = area([loop]) > 0
                if outer:
                    standing |= {n for each in away for n in each if not pierced(form, thickness, zone.faces, n)}
                if outer or not all(away) or any(pierced(form, thickness, zone.faces, n) for n in set().union(*away)):
                    kept.append(loop)
            zones.append(replace(zone, loops=tuple(kept)))
        if standing:
            self.messages.append(
                f"Something is at the sheet's edge on the side that is followed ({named(standing)}), so its outline "
                "runs round it; follow the other side where it runs under it."
            )
        return replace(laid, zones=tuple(zones))

    def _require_sheet(self) -> None:
        """Raises CannotBeDone where both skins are not most of what belongs to the part: then it is thick, no sheet."""
        mine = self.form.area({*self.side, *self.beyond})
        whole = self.form.area({face.number for face in self.form.faces} - set(self.rest))
        if mine < SHARE * whole and not self.plan.side:
            part = 100 * mine / whole
            raise CannotBeDone(no_sheet(
                self.form, f"only {part:.0f} % of its faces lie {self.thickness:.4g} mm, one thickness, from each other"
            ))  # fmt: skip

    def _require_open(self, asked: set[int] | None) -> None:
        """Raises CannotBeDone where the sheet comes round to itself and is not opened there.

        None stands for edges that are chosen.
        """
        closed = [] if asked is None else [edge for edge in self.laid.come_round if edge not in asked]
        if closed:
            raise CannotBeDone(
                f"The sheet comes round to itself and cannot be laid flat: open {counted(len(closed), 'edge')}: "
                f"{', '.join(map(str, closed))}; or have them chosen (auto).",
                edges=closed,
            )

    def _group(self) -> tuple[set[int], list[int]]:
        """The zones that hang together, the most of them; and the faces of the others, which are left out."""
        zones = self.laid.zones
        groups = together(len(zones), self.links)
        group = max(groups, key=lambda g: sum(zones[k].area for k in g))
        others = sorted(n for k, zone in enumerate(zones) if k not in group for n in zone.faces)
        if sum(zones[k].area for k in group) < MOST_OF * sum(zone.area for zone in zones):
            raise CannotBeDone(
                f"{named(others)} hang on by no straight edge, so this does not become one sheet part; make a part of "
                "each, leaving out (--without) what is of another.",
                faces=others,
            )
        if others:
            self.messages.append(
                f"{named(others)} hang on by no straight edge and would be parts of their own; they were left out."
            )
        return group, others

    def _opened_as_asked(self, links: Sequence[Link], asked: set[int]) -> Way:
        count = len(self.laid.zones)
        closed = [k for k, link in enumerate(links) if not set(link.edges) & asked]
        zones = {zone for link in links for zone in link.zones}
        pieces = [piece for piece in together(count, [links[k] for k in closed]) if piece <= zones]
        if len(pieces) > 1:
            raise CannotBeDone(
                f"With these edges opened the part falls into {len(pieces)} pieces; leave one edge more closed."
            )
        worth = [zone.area for zone in self.laid.zones]
        further = chosen(count, [links[k] for k in closed], worth)
        if further:
            edges = edges_of([links[k] for k in closed], further)
            raise CannotBeDone(
                f"The part closes on itself and cannot be laid flat: open {counted(len(edges), 'edge')}: "
                f"{', '.join(map(str, edges))}; or have them chosen (auto).",
                edges=edges,
            )
        opened = [k for k in range(len(links)) if k not in closed]
        part = self._bent(links, opened)
        over = overlap(part)
        if over > OVER:
            raise CannotBeDone(
                f"The flat would lie over itself by {over:.3g} mm²; open other edges, or have them chosen (auto)."
            )
        return Way(part, tuple(opened))

    def _opened_by_itself(self) -> Iterator[Way]:
        """The part with the shortest seams whose flat does not lie over itself, of those that are tried; then others.

        Of seams as short those come first with which the bends run square to the grain. Raises CannotBeDone where
        there are none.
        """
        least: float = np.inf
        why: CannotBeDone | None = None

        def flats(choices: Iterable[tuple[float, tuple[int, ...]]]) -> Iterator[Way]:
            nonlocal least, why
            for _, opened in choices:
                try:
                    part = self._bent(self.links, opened)
                except CannotBeDone as error:
                    why = why or error
                    continue
                over = overlap(part)
                least = min(least, over)
                if over <= OVER:
                    yield Way(part, opened)

        some = False
        worth = [zone.area for zone in self.laid.zones]
        choices = choices_of(len(worth), self.links, worth, self.plan.grain is not None)
        for _, alike in groupby(choices, key=lambda choice: choice[0]):
            ways = flats(alike)
            for way in ways if self.plan.grain is None else sorted(ways, key=self._along_the_grain):
                some = True
                yield way
        if some:
            return
        if why is not None and not np.isfinite(least):
            raise why
        raise CannotBeDone(
            f"With all seams that were tried the flat lies over itself, by {least:.3g} mm² at least; leave walls out, "
            "or name the edges to open."
        )

    def _along_the_grain(self, way: Way) -> int:
        """How far its bends run along the grain; what differs by rounding alone is the same."""
        assert self.plan.grain is not None
        return round(along_the_grain(staying(self.form, way.part, self.plan.stays), self.plan.grain) / GRAINS)

    def _bent(self, links: Sequence[Link], opened: Sequence[int]) -> SheetPart:
        """The part with the given links open, and bends at the corners that stay closed."""
        laid, plan = self.laid, self.plan
        zones = list(laid.zones)
        gone = {links[k].joint for k in opened}
        inside = {zone for link in links for zone in link.zones} or {max(
            range(len(zones)), key=lambda k: zones[k].area)}  # fmt: skip
        joints = {n: joint for n, joint in laid.joints.items() if n not in gone and set(joint.zones) <= inside}
        strips: dict[int, list[Loop]] = {k: list(loops) for k, loops in self.mitres.items()}
        corners: list[tuple[Corner, float, tuple[int, int], Joint]] = []
        number = max(laid.joints, default=-1) + 1
        open_corners = {links[k].corner for k in opened}
        for k, corner in enumerate(laid.corners):
            if not set(corner.zones) <= inside:
                continue
            if k in open_corners:
                for zone, deep in zip(
                    corner.zones, open_setbacks(corner, self.thickness, plan.corners, plan.gap), strict=True
                ):
                    open_wall(zones, strips, zone, corner, deep)
                continue
            radius = self._radius_of(corner)
            deep = setback(radius, corner.angle, self.thickness, corner.up)
            numbers = (number, number + 1)
            number += 2
            points, alongs = [], []
            for zone, mark in zip(corner.zones, numbers, strict=True):
                mine = steps_at(zones[zone], corner.edges)
                along = (mine[0].last - mine[0].first) / mine[0].length
                begin = mine[0].curve.evaluate(np.array([self.form.edge(corner.edges[0]).start]))[0]
                points.append(begin + deep * np.array([-along[1], along[0]]))
                alongs.append(along)
                if deep > LEAST:
                    strips.setdefault(zone, []).extend(strip(zones[zone], step, deep, mark) for step in mine)
                else:
                    zones[zone] = zones[zone].joined(corner.edges, mark)
            corners.append((corner, radius, numbers, Joint(corner.zones, np.array(points), np.array(alongs))))
        for zone, loops in strips.items():
            zones[zone] = without_strips(zones[zone], loops, f"The wall of {named(zones[zone].faces)}")
        for corner, radius, numbers, joint in corners:
            bend, first, second = bend_between(
                zones, numbers, joint, corner.angle, radius, corner.up, self.thickness, plan.rule
            )
            zones.append(bend)
            joints[numbers[0]], joints[numbers[1]] = first, second
        part = SheetPart(tuple(zones), joints, self.thickness)
        return numbered(matched(without_loose(part, inside, laid.frames)))

    def _radius_of(self, corner: Corner) -> float:
        """The inside radius of a corner: that of the round on the other skin where there is one."""
        if self.plan.rounds != "sharp":
            one, other = (
                {n for face in self.laid.zones[zone].faces for n in self.skins.opposite.get(face, ())}
                for zone in corner.zones
            )
            for number in self.beyond:
                face = self.form.face(number)
                if isinstance(face.surface, Cylinder) and set(face.smooth) & one and set(face.smooth) & other:
                    outer = face.surface.radius - (self.thickness if bulges(face) else 0.0)
                    return outer if outer > LEAST else 0.0
        return self.radius

    def _with_flanges(self, flanges: Sequence[Flange], way: Way) -> SheetPart:
        part, links, opened = way.part, self.links, way.opened
        if not flanges:
            return part
        gone = {links[k].corner for k in opened}
        place = {face: k for k, zone in enumerate(part.zones) if zone.wall for face in zone.faces}
        corners = []
        for k in gone - {-1}:
            corner = self.laid.corners[k]
            first, second = (place[self.laid.zones[zone].faces[0]] for zone in corner.zones)
            setbacks = open_setbacks(corner, self.thickness, self.plan.corners, self.plan.gap)
            corners.append(OpenCorner(corner.edges, (first, second), corner.angle, corner.up, setbacks))
        bent = {edge for k, link in enumerate(links) if k not in set(opened) for edge in link.edges}
        outer = self.form.area(self.side) >= self.form.area(self.beyond) - 1e-6
        return numbered(flanged(
            part, flanges, corners, bent, self.radius, self.plan.rule, outer, self.plan.gap
        ))  # fmt: skip


def _followed(form: Form, found: Skins, plan: SheetPlan) -> tuple[int, ...]:
    all_sides = sides(form, found)
    if plan.side:
        form.face(plan.side)
        mine = next((side for side in all_sides if plan.side in side), None)
        if mine is None:
            raise Refused(
                f"Face {plan.side} has no other face {found.thickness:.4g} mm below it, so no sheet runs along it; "
                "pick a face of a wall."
            )
    else:
        mine = all_sides[0]
    if plan.other_side:
        mine = beyond(form, found, mine) or mine
    for number in plan.without:
        form.face(number)
    kept = tuple(n for n in mine if n not in plan.without)
    if not kept:
        raise Refused("All faces of that side are left out; leave fewer out.")
    return kept


def _kept_round(zone: Zone) -> Zone:
    return zone if zone.roll is None else replace(zone, roll=replace(zone.roll, rolled=True))
