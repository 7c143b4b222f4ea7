"""How every operation that gives a form reports it."""

from __future__ import annotations

from collections import Counter
from typing import TYPE_CHECKING

from ..wording import area, counted, size
from .registry import Figure, Outcome

if TYPE_CHECKING:
    from ..form.form import Form


def form_outcome(form: Form) -> Outcome:
    """The form with its figures: faces by kind, area, outer size, unit of its file."""
    kinds = Counter(face.kind for face in form.faces)
    low, high = form.bounds
    figures = [
        Figure("form", area(sum(face.area for face in form.faces)), "form"),
        Figure("faces", str(len(form.faces)), "form"),
        Figure("size", size(*(high - low)), "form"),
    ]
    if len(form.bodies) > 1:
        figures.append(Figure("bodies", str(len(form.bodies)), "form"))
    if form.unit != "mm":
        figures.append(Figure("unit of the file", form.unit))
    brief = ", ".join(counted(count, kind) for kind, count in kinds.most_common())
    return Outcome("form", form, tuple(figures), form.messages, brief)
