"""G-code as this machine reads it: G0, G1, G2, G3 in mm or inches, M3 and M5 for the beam, layers in comments."""

from __future__ import annotations

import re
from dataclasses import dataclass, field

import numpy as np

from .path import Path, Span, UnreadableError

WORD = re.compile(r"([A-Z])\s*([-+]?\d*\.?\d+)")
IGNORED = ("G4", "G17", "G40", "G54", "G90", "G94", "M2", "M3", "M4", "M5", "M30")
CLOSE = 0.02
"""An arc's centre may lie this far from where its ends would have it, in mm."""


@dataclass
class _Machine:
    at: np.ndarray = field(default_factory=lambda: np.zeros(2))
    scale: float = 1.0
    motion: str = "G0"
    beam: bool = False
    feed: float = 0.0
    layer: str = "CUT"
    spans: list[Span] = field(default_factory=list)
    runs: list[Path] = field(default_factory=list)

    def rest(self) -> None:
        """Ends a run of the beam."""
        if self.spans:
            self.runs.append(Path(self.layer, tuple(self.spans), {"feed": self.feed}))
            self.spans = []


def read(content: bytes) -> tuple[list[Path], list[str]]:
    """The runs of the beam in a program, in mm, in its order, and the words that this machine does not know."""
    machine = _Machine()
    left: list[str] = []
    text = content.decode("ascii", errors="replace").upper()
    for number, line in enumerate(text.splitlines(), 1):
        named = re.search(r"\(LAYER (\w+)\)", line)
        if named:
            machine.rest()
            machine.layer = named[1]
        words = WORD.findall(re.sub(r"\(.*?\)|;.*", "", line))
        values = {letter: float(value) for letter, value in words if letter not in "GM"}
        for letter, value in words:
            if letter in "GM":
                word = f"{letter}{float(value):g}"
                _switch(machine, word, left)
        if "F" in values:
            machine.feed = values["F"] * machine.scale
        if "X" in values or "Y" in values:
            _move(machine, values, number)
    machine.rest()
    return machine.runs, left


def _switch(machine: _Machine, word: str, left: list[str]) -> None:
    if word in ("G0", "G1", "G2", "G3"):
        machine.motion = word
    elif word in ("G20", "G21"):
        machine.scale = 25.4 if word == "G20" else 1.0
    elif word == "G91":
        raise UnreadableError("The program counts from where it is (G91), which this laser does not do; use G90.")
    elif word not in IGNORED:
        left.append(word)
    if word in ("M3", "M4", "M5"):
        machine.beam = word != "M5"
        if word == "M5":
            machine.rest()


def _move(machine: _Machine, values: dict[str, float], number: int) -> None:
    to = machine.at.copy()
    for k, axis in enumerate("XY"):
        if axis in values:
            to[k] = values[axis] * machine.scale
    if machine.motion == "G0" or not machine.beam:
        machine.rest()
    elif machine.motion == "G1":
        if np.linalg.norm(to - machine.at) > 1e-9:
            machine.spans.append(Span(machine.at, to))
    else:
        if "I" not in values and "J" not in values:
            raise UnreadableError(
                f"The arc in line {number} has no centre (I, J), so it cannot be run; export it again."
            )
        arm = np.array([values.get("I", 0.0), values.get("J", 0.0)]) * machine.scale
        centre = machine.at + arm
        a, b = machine.at - centre, to - centre
        if abs(np.linalg.norm(a) - np.linalg.norm(b)) > CLOSE:
            raise UnreadableError(
                f"The arc in line {number} does not meet its end, so it cannot be run; export it again."
            )
        sweep = float(np.arctan2(a[0] * b[1] - a[1] * b[0], a @ b))
        if machine.motion == "G3" and sweep <= 1e-12:
            sweep += 2 * np.pi
        elif machine.motion == "G2" and sweep >= -1e-12:
            sweep -= 2 * np.pi
        if abs(sweep) > 1.99 * np.pi:  # a whole turn is run as two halves
            middle = centre - a
            machine.spans += [Span(machine.at, middle, sweep / 2), Span(middle, to, sweep / 2)]
        else:
            machine.spans.append(Span(machine.at, to, sweep))
    machine.at = to
