"""What a batch has made so far: the report in its folder, from which it goes on when it is started again."""

from __future__ import annotations

import hashlib
import json
import time
from pathlib import Path
from typing import Any

from ... import __version__
from ..errors import Refused
from ..files.atomic import staged, write_whole
from ..files.report import Written, plain, report_bytes
from .piece import Piece, described

FILE = "report.json"
SHARE = 20
"""Writing the report takes no more than one part in so many of the time."""


class Ledger:
    """The rows of a batch by their names, and their files in ``folder``. Raises Refused where that cannot be made.

    Of each row only its line of the report is kept, since there may be very many.
    """

    def __init__(self, folder: Path, names: list[str]) -> None:
        self.folder, self.names = folder, names
        self.lines: dict[str, Written] = {}
        self.reasons: dict[str, str] = {}
        self._next = 0.0
        try:
            folder.mkdir(parents=True, exist_ok=True)
        except OSError as error:
            raise Refused(f"{folder} cannot be made: {error.strerror or error}; name another folder.") from error
        self._before = self._earlier()

    def _earlier(self) -> dict[str, Written]:
        """The rows that an earlier run has made; none where its report cannot be read."""
        try:
            rows = json.loads((self.folder / FILE).read_text("utf-8"))["rows"]
            return {row["name"]: Written(plain(row)) for row in rows if row["status"] == "done"}
        except (OSError, ValueError, KeyError, TypeError):
            return {}

    def is_made(self, name: str, key: str) -> bool:
        """Whether a row was made before, from the same job and values, and its files are still there as they were."""
        row = json.loads(self._before.get(name, "{}"))
        if not row or row.get("key") != key:
            return False
        try:
            for file, digest in zip(row["files"], row["sha256"], strict=True):
                if hashlib.sha256((self.folder / file).read_bytes()).hexdigest() != digest:
                    return False
        except (OSError, KeyError, TypeError, ValueError):
            return False
        self.lines[name] = self._before.pop(name)
        return True

    def add(self, piece: Piece, key: str) -> None:
        """Writes a row's files, whole or not at all, and notes it; what cannot be written is its reason."""
        about = described(piece, key)
        try:
            with staged([(self.folder / f"{piece.name}.{end}", content) for end, content in piece.files.items()]):
                pass
        except Refused as error:
            about = described(Piece(piece.name, reason=error.sentence), key)
        self.lines[piece.name] = Written(plain(about))
        if about["status"] == "done":
            self.reasons.pop(piece.name, None)
        else:
            self.reasons[piece.name] = about["reason"]
        if time.monotonic() >= self._next:
            begin = time.monotonic()
            self.write()
            self._next = time.monotonic() + SHARE * (time.monotonic() - begin)

    def report(self) -> dict[str, Any]:
        rows = [self.lines[name] for name in self.names if name in self.lines]
        return {"schema": 1, "zuschnitt": __version__, "command": "batch", "rows": rows}

    def write(self) -> None:
        """Raises Refused where the report cannot be written."""
        write_whole(self.folder / FILE, report_bytes(self.report()))

    @property
    def failed(self) -> list[str]:
        """The rows that were not made, or not yet."""
        return [name for name in self.names if name in self.reasons or name not in self.lines]
