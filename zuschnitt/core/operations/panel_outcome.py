"""How every operation that spans panels reports them."""

from __future__ import annotations

from typing import TYPE_CHECKING

from ..wording import counted, distance
from .form_outcome import form_outcome
from .registry import Figure, Outcome, choice

if TYPE_CHECKING:
    from ..form.panels import Panels


def nearest_choice():
    """The value of every such operation that says what is to be kept where not everything can be."""
    return choice(
        "through",
        {"through": "through both curves", "nearest": "developable, as near to the second curve as can be"},
        "what to do where no developable panel runs through both curves",
    )


def panel_outcome(made: Panels) -> Outcome:
    """The panels as a form, with the largest residual twist, stretch and gap among them."""
    outcome = form_outcome(made.form)
    twist, stretch, gap = (max(getattr(p, name) for p in made.panels) for name in ("twist", "error", "gap"))
    figures = [
        *outcome.figures,
        Figure("twist", f"{twist:.3f}°", "form"),
        Figure("stretch of the flat", f"{100 * stretch:.4f} %"),
    ]
    if gap > 0:
        figures.append(Figure("off the second curve", distance(gap), "form"))
    return Outcome("form", made.form, tuple(figures), outcome.messages, counted(len(made.panels), "panel"))
