"""Values that keep what they once worked out, but do not carry it to another process."""

from __future__ import annotations

from dataclasses import fields


class Lazy:
    """For frozen dataclasses with cached properties: only the fields are pickled."""

    def __getstate__(self) -> dict:
        return {f.name: self.__dict__[f.name] for f in fields(self)}  # type: ignore[arg-type]
