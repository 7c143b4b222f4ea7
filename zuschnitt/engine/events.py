"""What the engine tells of a job while it is computed, and the sentences for what goes wrong in its processes."""

from __future__ import annotations

import signal

from ..core.form.glimpse import Glimpse
from ..core.job.evaluate import State
from ..core.record import record
from ..core.results.result import Outcome
from .store import Store


@record
class RowStands:
    """A row's state is known."""

    generation: int
    row_id: str
    state: State


@record
class RowRuns:
    """A row is being computed; ``fraction`` of it is done."""

    generation: int
    row_id: str
    fraction: float
    text: str


@record
class RowShows:
    """A first, coarse result of a row that is still being computed."""

    generation: int
    row_id: str
    outcome: Outcome


@record
class RowGlimpsed:
    """What a row would give, roughly, with values that the job does not have yet."""

    generation: int
    row_id: str
    glimpse: Glimpse


@record
class Finished:
    """All rows of that job have a state."""

    generation: int


Event = RowStands | RowRuns | RowShows | RowGlimpsed | Finished


def crash_reason(code: int) -> str:
    how = f"code {code}"
    if code < 0:
        try:
            how = signal.Signals(-code).name
        except ValueError:
            how = f"signal {-code}"
    return f"The computation ended unexpectedly ({how}); it was started anew. Try again, or change a value of this row."


def no_room(store: Store, error: OSError) -> State:
    why = error.strerror or str(error)
    return State("broken", reason=f"There is no room to keep results in {store.folder} ({why}); free some, try again.")
