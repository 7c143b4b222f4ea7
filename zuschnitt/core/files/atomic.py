"""Files that appear whole or not at all."""

from __future__ import annotations

import os
import stat
import tempfile
from collections.abc import Iterator, Sequence
from contextlib import contextmanager, suppress
from pathlib import Path

from ..errors import Refused, ZuschnittError


@contextmanager
def staged(files: Sequence[tuple[Path, bytes]]) -> Iterator[None]:
    """Writes files beside their places; they take them, one after the other, only when the block ends well.

    Links are followed, and a file that is there keeps its mode. Raises Refused where a folder cannot be written or
    the disk is full; nothing is left then.
    """
    waiting: list[tuple[Path, Path, Path]] = []
    path = Path()
    try:
        for path, content in files:
            place = Path(os.path.realpath(path))
            temporary = _beside(place)
            waiting.append((path, place, temporary))
            with temporary.open("wb") as written:
                written.write(content)
                written.flush()
                os.fsync(written.fileno())
            os.chmod(temporary, _mode(place))
        yield
        for path, place, temporary in waiting:  # noqa: B007 - named where one fails
            os.replace(temporary, place)
    except OSError as error:
        raise unwritable(path, error) from error
    finally:
        for _, _, temporary in waiting:
            with suppress(OSError):
                temporary.unlink(missing_ok=True)


def write_whole(path: Path, content: str | bytes) -> None:
    """Writes ``content`` (text as UTF-8) whole or not at all."""
    with staged([(Path(path), content.encode() if isinstance(content, str) else content)]):
        pass


def unwritable(path: Path, error: OSError) -> ZuschnittError:
    reason = error.strerror or str(error)
    return Refused(
        f"{path} cannot be written: {reason[0].lower()}{reason[1:]}; "
        "choose another folder or free some space. Nothing was written."
    )


def _beside(place: Path) -> Path:
    if place.is_dir():
        raise IsADirectoryError(0, "It is a folder")
    if not place.name:
        raise FileNotFoundError(0, "It names no file")
    handle, name = tempfile.mkstemp(prefix=f".{place.name[:40]}.", suffix=place.suffix[:20], dir=place.parent)
    os.close(handle)
    return Path(name)


def _mode(place: Path) -> int:
    """That of the file in its place, or what a new file gets."""
    try:
        return stat.S_IMODE(os.stat(place).st_mode)
    except OSError:
        return 0o666 & ~_umask()


def _umask() -> int:
    mask = os.umask(0)
    os.umask(mask)
    return mask
