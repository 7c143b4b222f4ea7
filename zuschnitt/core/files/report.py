"""Reports: JSON whose keys scripts rely on."""

from __future__ import annotations

import hashlib
import json
from collections.abc import Sequence
from pathlib import Path
from typing import Any

from ... import __version__


class Written(str):
    """A member of a report's list that is JSON already."""

    __slots__ = ()


def report(command: str, source: Path | None, **parts: Any) -> dict[str, Any]:
    """A report with its head; ``parts`` are added where they are not None."""
    result: dict[str, Any] = {"schema": 1, "zuschnitt": __version__, "command": command}
    if source is not None:
        digest = hashlib.sha256(source.read_bytes()).hexdigest()
        result["input"] = {"file": str(source), "sha256": digest}
    result.update({key: value for key, value in parts.items() if value is not None})
    return result


def messages_part(messages: Sequence[str], level: str = "note") -> list[dict[str, str]]:
    return [{"level": level, "text": text} for text in messages]


def plain(value: Any) -> str:
    """A value as JSON on one line."""
    return json.dumps(value, ensure_ascii=False, allow_nan=False)


def report_bytes(content: dict[str, Any]) -> bytes:
    """A report as JSON, UTF-8: each key on a line, and each member of a list; what stands in these is not broken up."""

    def written(value: Any) -> str:
        if not (isinstance(value, list) and value):
            return plain(value)
        members = (each if isinstance(each, Written) else plain(each) for each in value)
        return "[\n  " + ",\n  ".join(members) + "\n ]"

    lines = ",\n".join(f" {plain(key)}: {written(value)}" for key, value in content.items())
    return f"{{\n{lines}\n}}\n".encode(errors="replace")
