"""Which of several results writes a file."""

from __future__ import annotations

from collections.abc import Sequence

from .result import Outcome, Printing


def written(outcomes: Sequence[Outcome], ending: str, title: str, printing: Printing) -> bytes | None:
    """The file with that ending: of the last result that writes one, rather of a kind which writes it ``first``."""
    able = [result for outcome in outcomes for result in outcome.results if ending in result.writes]
    able = [result for result in able if ending in result.first] or able
    if not able:
        return None
    kind = type(able[-1])
    return kind.together([result for result in able if isinstance(result, kind)], ending, title, printing)
