"""Where a part lies on a sheet by hand."""

from __future__ import annotations

from ..record import record


@record
class LaidPart:
    """The ``copy`` of the part ``name``, both counted from 1, on a ``sheet`` at ``at`` in mm, turned by degrees."""

    name: str
    copy: int
    sheet: int
    at: tuple[float, float]
    turn: float = 0.0

    def written(self) -> str:
        """As ``LaidParts`` reads it."""
        copy = f"*{self.copy}" if self.copy != 1 else ""
        x, y, turn = (f"{value:.10g}" for value in (*self.at, self.turn))
        return f"{self.name}{copy}:{self.sheet}:{x}:{y}:{turn}"
