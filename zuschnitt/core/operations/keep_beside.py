"""Keep what is left beside: what of a solid does not belong to its sheet part, as bodies to work on."""

from __future__ import annotations

from typing import Any

from ..errors import Refused
from ..parameters import source
from ..progress import Progress
from ..results.bodies import BodiesResult
from ..results.result import Outcome, outcome
from .registry import operation


@operation(
    "keep_beside",
    title="Keep what is left beside",
    stage="form",
    group="Sheet parts",
    gives="form",
    takes="a sheet part beside which something was left",
    makes="what does not belong to it, a boss or another thickness, as solids",
)
class KeepBeside:
    beside: Any = source("beside", hint="the sheet part beside which something was left")

    sentence = "Keep what is left beside {beside}."

    def run(self, progress: Progress) -> Outcome:
        from ..solids.bodies import form_of_bodies

        if self.beside is None:
            raise Refused("Nothing is left beside this sheet part; take one that does not have all faces of its solid.")
        return outcome(BodiesResult(form_of_bodies(self.beside, "left beside"), self.beside))
