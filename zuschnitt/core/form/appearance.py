"""How a form is looked at: what is hidden of it, and its bodies' names and tints. Changes no result."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import field, replace
from typing import Any

from ..record import record
from .form import Body, Form

TINTS = 6
"""How many tints there are; 0 is that of every form."""


@record
class Looks:
    """``hidden`` faces by their numbers; ``names`` and ``tints`` of bodies by their place, counted from 1.

    ``paints`` say what faces are made of in a picture, by their numbers.

    What a row that is ``unseen`` gives on a form or a blank is not drawn there.
    """

    hidden: frozenset[int] = frozenset()
    names: Mapping[int, str] = field(default_factory=dict)
    tints: Mapping[int, int] = field(default_factory=dict)
    unseen: bool = False
    paints: Mapping[int, str] = field(default_factory=dict)

    @staticmethod
    def of(view: Mapping[str, Any]) -> Looks:
        """As a row keeps it; what cannot be read is left out."""
        try:
            hidden = frozenset(int(n) for n in view.get("hidden", ()))
            names = {int(k): str(v) for k, v in dict(view.get("names", {})).items()}
            tints = {int(k): int(v) % TINTS for k, v in dict(view.get("tints", {})).items()}
            paints = {int(k): str(v) for k, v in dict(view.get("paints", {})).items()}
        except (TypeError, ValueError):
            return Looks()
        return Looks(hidden, names, tints, view.get("unseen") is True, paints)

    @property
    def view(self) -> dict[str, Any]:
        """As a row keeps it: only what differs from a form that nobody has touched."""
        kept = {
            "hidden": sorted(self.hidden),
            "names": {str(k): v for k, v in sorted(self.names.items()) if v},
            "tints": {str(k): v for k, v in sorted(self.tints.items()) if v},
            "unseen": self.unseen,
            "paints": {str(k): v for k, v in sorted(self.paints.items()) if v},
        }
        return {key: value for key, value in kept.items() if value}

    def name(self, place: int, body: Body) -> str:
        return self.names.get(place) or body.name

    def tint_of_faces(self, form: Form) -> dict[int, int]:
        """The tint of each face whose body has one of its own."""
        return {n: self.tints[k] for k, body in enumerate(form.bodies, 1) if self.tints.get(k) for n in body.faces}

    def named(self, place: int, name: str) -> Looks:
        return replace(self, names={**self.names, place: name.strip()})

    def tinted(self, place: int) -> Looks:
        """With the next tint for a body."""
        return replace(self, tints={**self.tints, place: (self.tints.get(place, 0) + 1) % TINTS})

    def painted(self, face: int, paint: str) -> Looks:
        """With a face made of something else in a picture; of what the whole is where ``paint`` is empty."""
        return replace(self, paints={**self.paints, face: paint})

    def hides(self, body: Body) -> bool:
        """Whether nothing of a body is to be seen."""
        return set(body.faces) <= self.hidden

    def toggled(self, faces: Iterable[int]) -> Looks:
        """With the faces hidden or, where all of them are, shown."""
        faces = frozenset(faces)
        return replace(self, hidden=self.hidden - faces if faces <= self.hidden else self.hidden | faces)
