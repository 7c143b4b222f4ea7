"""The errors a user may meet: one sentence each, and the geometry it speaks of."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from .record import record


@record
class Remedy:
    """What would help: ``words`` to offer it, and the ``values`` of the row that it would change."""

    words: str
    values: Mapping[str, str]


class ZuschnittError(Exception):
    """One sentence for the user: what happened, why, and what to do.

    ``faces``, ``edges`` and ``points`` (n, 3), in mm, let a window point at the place; ``remedies`` would help, each by
    one click.
    """

    exit_code = 4

    def __init__(
        self,
        sentence: str,
        *,
        faces: Sequence[int] = (),
        points: Sequence[Sequence[float]] = (),
        edges: Sequence[int] = (),
        remedies: Sequence[Remedy] = (),
    ) -> None:
        super().__init__(sentence)
        self.sentence = sentence
        self.faces = tuple(faces)
        self.points = tuple(tuple(p) for p in points)
        self.edges = tuple(edges)
        self.remedies = tuple(remedies)

    def bare(self) -> ZuschnittError:
        """The same error without its traceback and causes, which other packages may want to send with it."""
        kind, parts = self.__reduce__()
        return kind(*parts)

    def __reduce__(self):  # keyword arguments do not survive the default pickling of exceptions
        return _rebuild, (type(self), self.sentence, self.faces, self.points, self.edges, self.remedies)


def _rebuild(kind, sentence, faces, points, edges, remedies):
    return kind(sentence, faces=faces, points=points, edges=edges, remedies=remedies)


class WrongCall(ZuschnittError):
    """The call itself is off: an unknown option, a value out of range."""

    exit_code = 2


class Refused(ZuschnittError):
    """The input is refused: unreadable, empty, not finite, nothing picked."""

    exit_code = 3


class Lacking(Refused):
    """Something is not there yet: its row waits for it, and is not broken."""


class CannotBeDone(ZuschnittError):
    """The input is sound, but what is asked of it is impossible."""

    exit_code = 4


class Cancelled(ZuschnittError):
    """The user stopped the work."""

    exit_code = 130

    def __init__(self, sentence: str = "Stopped by you; nothing was changed.", **geometry) -> None:
        super().__init__(sentence, **geometry)


def failed(exit_code: int, sentence: str, faces: Sequence[int] = (), points: Sequence[Sequence[float]] = ()):
    """The error that ends with that code."""
    kind = next(kind for kind in (WrongCall, Refused, CannotBeDone, Cancelled) if kind.exit_code == exit_code)
    return kind(sentence, faces=faces, points=points)
