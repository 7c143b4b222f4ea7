"""A set of files that is written as one: all of them could be made, or none appears."""

from __future__ import annotations

import os
import stat
from collections.abc import Iterable
from dataclasses import dataclass, field
from pathlib import Path

from ..errors import WrongCall
from .atomic import staged, unwritable


@dataclass
class Outputs:
    """``inputs`` are never written over. Files are added with their whole content, and appear with ``write``."""

    inputs: tuple[Path, ...] = ()
    files: list[tuple[Path, bytes]] = field(default_factory=list)

    def add(self, path: Path, content: str | bytes) -> None:
        self.files.append((Path(path), content.encode() if isinstance(content, str) else content))

    def write(self) -> None:
        """Writes everything, regular files whole or not at all; pipes and devices get their bytes once, at the end.

        Raises WrongCall for two with one path or one that is an input, and Refused, with nothing written, where one
        cannot be written.
        """
        require_apart([path for path, _ in self.files], self.inputs)
        regular = [(path, content) for path, content in self.files if is_regular(path)]
        with staged(regular):
            pass
        for path, content in self.files:
            if not is_regular(path):
                _poured(path, content)


def require_apart(paths: Iterable[Path], inputs: Iterable[Path]) -> None:
    """Raises WrongCall where two regular files are to be written to one place, or one over an input."""
    seen: dict[str, Path] = {}
    read = {os.path.realpath(path): path for path in inputs}
    for path in paths:
        if not is_regular(path):
            continue
        place = os.path.realpath(path)
        if place in read or any(_same(path, source) for source in read.values()):
            raise WrongCall(f"{path} is read by this call and would be written over; name another file.")
        if place in seen or any(_same(path, other) for other in seen.values()):
            raise WrongCall(f"{path} would be written twice by this call; name a file of its own for each.")
        seen[place] = path


def is_regular(path: Path) -> bool:
    """Whether a file can take its place whole: it is one, or there is none yet."""
    try:
        return stat.S_ISREG(os.stat(path).st_mode)
    except OSError:
        return True


def _same(one: Path, other: Path) -> bool:
    try:
        return os.path.samefile(one, other)
    except OSError:
        return False


def _poured(path: Path, content: bytes) -> None:
    try:
        with open(path, "wb", buffering=0) as sink:
            rest = memoryview(content)
            while rest:
                rest = rest[sink.write(rest) :]
    except BrokenPipeError:
        return  # whoever reads it has had enough
    except OSError as error:
        raise unwritable(path, error) from error
