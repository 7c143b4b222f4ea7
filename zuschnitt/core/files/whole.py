"""Files that appear whole or not at all."""

from __future__ import annotations

import os
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from ..errors import Refused, ZuschnittError


@contextmanager
def whole_file(path: Path) -> Iterator[Path]:
    """A temporary path beside ``path``; it takes its place only when the block ends well.

    Raises Refused where the folder cannot be written or the disk is full; nothing is left then.
    """
    path = Path(path)
    try:
        handle, name = tempfile.mkstemp(prefix=f".{path.name}.", suffix=path.suffix, dir=path.parent)
        os.close(handle)
    except OSError as error:
        raise _unwritable(path, error) from error
    temporary = Path(name)
    try:
        yield temporary
        with temporary.open("rb+") as written:
            os.fsync(written.fileno())
        os.chmod(temporary, 0o666 & ~_umask())
        os.replace(temporary, path)
    except OSError as error:
        raise _unwritable(path, error) from error
    finally:
        temporary.unlink(missing_ok=True)


def write_whole(path: Path, content: str | bytes) -> None:
    """Writes ``content`` (text as UTF-8) whole or not at all."""
    with whole_file(path) as temporary:
        temporary.write_bytes(content.encode() if isinstance(content, str) else content)


def _unwritable(path: Path, error: OSError) -> ZuschnittError:
    reason = error.strerror or str(error)
    return Refused(
        f"{path} cannot be written: {reason[0].lower()}{reason[1:]}; "
        "choose another folder or free some space. Nothing was written."
    )


def _umask() -> int:
    mask = os.umask(0)
    os.umask(mask)
    return mask
