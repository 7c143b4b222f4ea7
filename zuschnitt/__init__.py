"""Zuschnitt: from a form in space to its blank, and back.

For scripts it has ``read_form``, ``read_artwork``, ``develop``, ``wrap``, ``sheet_part`` and ``write``; see
docs/scripting.md.
"""

from __future__ import annotations

from typing import Any

__version__ = "0.1.0"
__all__ = ["__version__", "develop", "read_artwork", "read_form", "sheet_part", "wrap", "write"]


def __getattr__(name: str) -> Any:
    """What scripts use is imported when they use it: the program itself starts without."""
    if name in __all__:
        from . import scripting

        return getattr(scripting, name)
    raise AttributeError(f"module 'zuschnitt' has no attribute {name!r}")
