"""How every operation that spans panels reports them."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING

from ..parameters import choice
from ..results.form import PanelsResult
from ..results.result import Figure, Outcome, outcome
from ..wording import distance

if TYPE_CHECKING:
    from ..panels.panels import Panels


def nearest_choice():
    """The value of every such operation that says what is to be kept where not everything can be."""
    return choice(
        "through",
        {"through": "through both curves", "nearest": "developable, as near to the second curve as can be"},
        "what to do where no developable panel runs through both curves",
    )


def panel_outcome(made: Panels, messages: Sequence[str] = ()) -> Outcome:
    """The panels as a form, with the largest residual twist, stretch and gap among them."""
    twist, stretch, gap = (max(getattr(p, name) for p in made.panels) for name in ("twist", "error", "gap"))
    more = [Figure("twist", f"{twist:.3f}°", "form"), Figure("stretch of the flat", f"{100 * stretch:.4f} %")]
    if gap > 0:
        more.append(Figure("off the second curve", distance(gap), "form"))
    said = (*made.form.messages, *messages)
    return outcome(PanelsResult(made.form, made.panels), messages=said, more=more)
