"""Results and files kept on disk by their content, so that processes share them and they outlive the window."""

from __future__ import annotations

import hashlib
import os
import pickle
import shutil
import tempfile
from collections.abc import Iterator
from contextlib import suppress
from functools import cache
from pathlib import Path
from typing import Any

from .version import version

LIMIT = 2 << 30
"""What is kept on disk may take so many bytes; what was used longest ago goes first."""
HEAD = b"zuschnitt kept 1\n"
DIGEST = 16
PROTOCOL = 4
"""From 5 on each array, however small, comes with two objects that hold its memory: it takes half as long again to read
results of many contours, and twice to three times as long to look through them for garbage."""


class Store:
    """A folder of pickles, each with a digest of its bytes, written whole or not at all.

    What is damaged or cut off counts as not there. Results of another version stand in another folder, which goes
    once it takes too much room.
    """

    def __init__(self, base: Path | None = None, limit: int = LIMIT, name: str = "") -> None:
        self.base = _usable(base or cache_folder())
        self.folder = self.base / (name or version())
        self.folder.mkdir(exist_ok=True, mode=0o700)
        self._limit = limit

    def has(self, key: str) -> bool:
        return self._place(key).exists()

    def put(self, key: str, value: Any) -> None:
        """Keeps a value; one that is there already stays. Raises OSError where there is no room."""
        place = self._place(key)
        if place.exists():
            return
        content = pickle.dumps(value, PROTOCOL)
        digest = hashlib.blake2b(content, digest_size=DIGEST).digest()
        handle, name = tempfile.mkstemp(dir=self.folder, prefix=".", suffix=".part")
        try:
            with os.fdopen(handle, "wb") as written:
                written.writelines((HEAD, digest, content))
            os.replace(name, place)
        except BaseException:
            with suppress(OSError):
                os.unlink(name)
            raise

    def get(self, key: str) -> Any:
        """What is kept under ``key``. Raises KeyError where it is not there, or not whole any more."""
        place = self._place(key)
        try:
            content = place.read_bytes()
            body = memoryview(content)[len(HEAD) + DIGEST :]
            if content[: len(HEAD)] != HEAD or (
                hashlib.blake2b(body, digest_size=DIGEST).digest() != content[len(HEAD) : len(HEAD) + DIGEST]
            ):
                raise ValueError("damaged")
            value = pickle.loads(body)
        except Exception as error:  # whatever is wrong with the file: it is computed anew
            with suppress(OSError):
                place.unlink(missing_ok=True)
            raise KeyError(key) from error
        with suppress(OSError):
            os.utime(place)
        return value

    def drop(self, key: str) -> None:
        with suppress(OSError):
            self._place(key).unlink(missing_ok=True)

    def trim(self) -> None:
        """Removes what was used longest ago until what is left is within the limit, and what was never finished."""
        found = sorted(_files(self.base), key=lambda item: item[1], reverse=True)
        room = self._limit
        for path, used, size in found:
            room -= size
            old = path.suffix == ".part" and used < found[0][1] - 3600
            if room < 0 or old:
                with suppress(OSError):
                    path.unlink()
        for folder in self.base.iterdir():
            if folder != self.folder and folder.is_dir():
                with suppress(OSError):
                    folder.rmdir()  # only where nothing is left in it

    def _place(self, key: str) -> Path:
        return self.folder / key


def cache_folder() -> Path:
    """Where programs keep what they can make again (XDG base directory specification)."""
    base = os.environ.get("XDG_CACHE_HOME") or str(Path.home() / ".cache")
    return Path(base) / "zuschnitt" / "results"


def _usable(folder: Path) -> Path:
    """The folder, made where it is missing; one of this process alone where that cannot be."""
    try:
        folder.mkdir(parents=True, exist_ok=True, mode=0o700)
        with tempfile.TemporaryFile(dir=folder):
            return folder
    except OSError:
        return _folder_for_now()


@cache
def _folder_for_now() -> Path:
    import atexit

    folder = Path(tempfile.mkdtemp(prefix="zuschnitt-"))
    atexit.register(shutil.rmtree, folder, ignore_errors=True)
    return folder


def _files(base: Path) -> Iterator[tuple[Path, float, int]]:
    for path in base.glob("*/*"):
        with suppress(OSError):
            about = path.stat()
            yield path, about.st_mtime, about.st_size
