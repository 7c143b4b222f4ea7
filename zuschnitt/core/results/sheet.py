"""A sheet part: folded, with its walls, bends and seams."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import field
from functools import cached_property
from typing import TYPE_CHECKING, Any

import numpy as np

from ..errors import CannotBeDone
from ..record import record
from ..wording import area, counted, length, size, volume
from .form import FormResult
from .result import Figure, Printing

if TYPE_CHECKING:
    from ..sheet.flange_tips import FlangeTip
    from ..sheet.making import Made
    from ..sheet.verdicts import BendVerdict

VOLUME_AGREES = 1e-4
"""The kernel's volume of the folded solid is that of the walls and bends within this part."""


@record
class SheetResult(FormResult):
    """``value`` is the folded body, ``made`` the part; ``verdicts`` say of each bend whether it can be made.

    ``stage`` is how far it is folded, from 0, flat, to 1; ``factor`` the K-factor that was asked for, if it was.
    ``through`` says in words which walls would lie in which when it is folded.
    """

    made: Made = None  # type: ignore[assignment]
    verdicts: Mapping[int, BendVerdict] = field(default_factory=dict)
    rule: str = ""
    stage: float = 1.0
    factor: float | None = None
    through: tuple[str, ...] = ()
    first = ("step", "stl", "3mf")

    def figures(self) -> tuple[Figure, ...]:
        from ..sheet.flat import bend_lines, flat_size, outline

        part = self.made.part
        low, high = flat_size(outline(part))
        walls = sum(1 for zone in part.zones if zone.wall)
        lines = bend_lines(part)
        found = [
            Figure("sheet", f"{length(part.thickness)} thick", "form"),
            Figure("walls", str(walls), "form"),
            Figure("bends", f"{len(lines)} · {self.rule}" if lines else "0", "blank"),
            Figure("flat", size(*(high - low)), "blank"),
            Figure("flat area", area(part.flat_area), "blank"),
            Figure("volume", volume(part.volume), "form"),
        ]
        alike: dict[str, list[int]] = {}
        for k, each in enumerate(self.made.stepped, 1):
            words = f"{each.flats} flats of {length(each.width)}, {length(each.gap)} off the arc"
            alike.setdefault(words, []).append(k)
        for words, bends in alike.items():
            name = "large bend" if len(bends) == 1 else "large bends"
            found.append(Figure(f"{name} {', '.join(map(str, bends))}", words, "form"))
        wrong = [number for number, verdict in self.verdicts.items() if not verdict.can]
        if lines:
            words = f"bend {wrong[0]}: {self.verdicts[wrong[0]].reason}" if wrong else "all of them"
            found.append(Figure("bends that can be made", words))
        return tuple(found)

    @cached_property
    def tips(self) -> tuple[FlangeTip, ...]:
        """The free ends of its flanges."""
        from ..sheet.flange_tips import flange_tips

        return flange_tips(self.made.part, self.stage)

    def brief(self) -> str:
        walls = sum(1 for zone in self.made.part.zones if zone.wall)
        bends = sum(1 for zone in self.made.part.zones if zone.bend)
        return f"{counted(walls, 'wall')}, {counted(bends, 'bend')}"

    @property
    def passes(self) -> str:
        """That the folded part passes through itself, in a sentence."""
        return (
            f"Folded, the part passes through itself: {'; '.join(self.through)}. Make walls shorter or bend otherwise."
        )

    def content(self, ending: str, title: str, printing: Printing) -> bytes:
        if self.through and self.stage == 1:
            raise CannotBeDone(f"{self.passes} Its flat can be written; its folded body is none.")
        if ending == "step":
            return checked_step(self.value, self.made.part.volume_at(self.stage))
        return super().content(ending, title, printing)

    def flat_step(self) -> bytes:
        """The flat as a solid, as STEP."""
        from ..sheet.body import flat_body

        part = self.made.part
        return checked_step(flat_body(part), part.flat_area * part.thickness)

    def report(self) -> dict[str, Any]:
        from ..sheet.flat import bend_lines, flat_size, outline

        part, made = self.made.part, self.made
        low, high = flat_size(outline(part))
        lines = bend_lines(part)
        factors = {round(_k(line.angle, line.radius, line.allowance, part.thickness), 9) for line in lines}
        about: dict[str, Any] = {"thickness": part.thickness}
        if len(factors) == 1:
            about["k_factor"] = factors.pop()
        elif self.factor is not None:
            about["k_factor"] = self.factor
        about.update(
            side=made.side[0],
            walls=sum(1 for zone in part.zones if zone.wall),
            flat_size=(high - low).tolist(),
            flat_area=part.flat_area,
            volume=part.volume,
            left_out=list(made.left_out),
            bends=[
                {
                    "number": line.number,
                    "from": line.ends[0].tolist(),
                    "to": line.ends[1].tolist(),
                    "angle": float(np.degrees(line.angle)),
                    "radius": line.radius,
                    "allowance": line.allowance,
                    "length": line.length,
                    "direction": "up" if line.up else "down",
                    "walls": list(line.walls),
                    "verdict": {
                        "can_take_it": self.verdicts[line.number].can,
                        "reason": self.verdicts[line.number].reason,
                    },
                }
                for line in lines
            ],
            seams=[{"edge": seam.edge, "length": seam.length} for seam in made.seams],
        )
        if made.stepped:
            about["steps"] = [{"flats": s.flats, "width": s.width, "gap": s.gap} for s in made.stepped]
        return {"sheet": about}


def _k(angle: float, radius: float, allowance: float, thickness: float) -> float:
    return (allowance / angle - radius) / thickness


def checked_step(form: Any, expected: float) -> bytes:
    """A body as STEP, one closed solid of the volume ``expected`` in mm³. Raises CannotBeDone where it is not."""
    from ..solids.bodies import made_body
    from ..solids.shape import shape_of

    body = made_body(form.name, shape_of(form))
    if abs(body.volume - expected) > VOLUME_AGREES * expected:
        raise CannotBeDone(
            f"The solid has {body.volume:.6g} mm³ where its walls and bends have {expected:.6g} mm³, so it is not "
            "written; write its mesh instead, and please report this part."
        )
    from ..solids.bodies import bodies_step

    return bodies_step((body,))
