"""Bring in: a form from a STEP file."""

from __future__ import annotations

import tempfile
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from ..progress import Progress
from .form_outcome import form_outcome
from .registry import Outcome, file, operation


@operation(
    "bring_in",
    title="Bring in",
    stage="form",
    group="Get a form",
    gives="form",
    takes="a STEP file",
    makes="a form with faces one can pick",
)
@dataclass(frozen=True)
class BringIn:
    file: Any = file(".step", ".stp", hint="the STEP file of the part")

    sentence = "Bring in {file}."

    def run(self, progress: Progress) -> Outcome:
        from ..form.kernel import read_step

        # the kernel reads from a path only
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "form.step"
            path.write_bytes(self.file.content)
            return form_outcome(read_step(path, self.file.name, progress))
