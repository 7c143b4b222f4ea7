"""Cyclic garbage is collected in the window's thread alone.

Python collects in whichever thread happens to allocate, so the one that listens to the engine would end
widgets and pictures of the form under the hands of the window, and now and then the process with them.
"""

from __future__ import annotations

import gc

from PyQt6.QtCore import QObject, QTimer

PAUSE = 500
"""Milliseconds between two looks at how much has gathered."""


class Garbage(QObject):
    """While it lives, nothing is collected but from its timer."""

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        gc.disable()
        self._timer = QTimer(self, interval=PAUSE)
        self._timer.timeout.connect(self.collect)
        self._timer.start()

    def collect(self) -> None:
        """Collects the oldest generation that has grown past its threshold, and those younger."""
        full = [
            k for k, (count, limit) in enumerate(zip(gc.get_count(), gc.get_threshold(), strict=True)) if count > limit
        ]
        if full:
            gc.collect(max(full))
