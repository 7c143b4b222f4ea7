"""A name for what computes the results: this program's sources, and the libraries that its numbers rest on."""

from __future__ import annotations

import hashlib
import os
import sys
from collections.abc import Iterator
from functools import cache
from importlib.util import find_spec

from .. import __version__

LIBRARIES = {"numpy": "numpy", "scipy": "scipy", "shapely": "shapely", "OCP": "cadquery_ocp_novtk"}
"""What is imported, and what it is installed as."""


@cache
def version() -> str:
    """The same in all processes of one installation, another one after any change to it."""
    root = os.path.dirname(os.path.dirname(__file__))
    said = sorted(_sources(root, len(root))) + sorted(_libraries())
    return hashlib.blake2b("\n".join([__version__, sys.version, *said]).encode(), digest_size=8).hexdigest()


def _sources(folder: str, above: int) -> Iterator[str]:
    """For each source file its path in the package, its size and when it was changed."""
    with os.scandir(folder) as entries:
        for entry in entries:
            if entry.is_dir():
                yield from _sources(entry.path, above)
            elif entry.name.endswith(".py"):
                about = entry.stat()
                yield f"{entry.path[above:]} {about.st_size} {about.st_mtime_ns}"


def _libraries() -> Iterator[str]:
    """The names of the folders that say what is installed, in which its version stands."""
    known = tuple(f"{name}-" for name in LIBRARIES.values())
    for place in {_place(module) for module in LIBRARIES} - {None}:
        yield from (name for name in os.listdir(place) if name.endswith("-info") and name.lower().startswith(known))


def _place(module: str) -> str | None:
    """The folder that a library is installed in."""
    found = find_spec(module)
    return None if found is None or found.origin is None else os.path.dirname(os.path.dirname(found.origin))
