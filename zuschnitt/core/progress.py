"""How long work tells where it is, and hears that it shall stop."""

from __future__ import annotations

from collections.abc import Callable

from .errors import Cancelled


class Progress:
    """Passed down into long work. ``step`` is cheap and raises ``Cancelled`` when asked to stop."""

    def __init__(
        self,
        tell: Callable[[float, str], None] = lambda fraction, text: None,
        stopped: Callable[[], bool] = lambda: False,
        show: Callable[[object, bool], None] = lambda coarse, enough: None,
    ) -> None:
        self._tell, self._stopped, self._show = tell, stopped, show

    def show(self, coarse: object, enough: bool = False) -> None:
        """Shows a first, coarse result while the work goes on; one that is ``enough`` stays if it is stopped."""
        self._show(coarse, enough)

    def step(self, fraction: float, text: str = "") -> None:
        """``fraction`` of the work (0 to 1) is done; ``text`` says what is being done."""
        if self._stopped():
            raise Cancelled()
        self._tell(fraction, text)

    def said(self, more: str) -> Progress:
        """The same, with ``more`` said each time."""
        return Progress(lambda f, text: self._tell(f, f"{text}, {more}" if text else more), self._stopped, self._show)

    def part(self, start: float, end: float) -> Progress:
        """Progress of a part of the work that takes from ``start`` to ``end`` of the whole."""
        return Progress(lambda f, text: self._tell(start + f * (end - start), text), self._stopped, self._show)


SILENT = Progress()
