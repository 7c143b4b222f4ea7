"""What rows give that have the simulated laser or press brake read a file: the runs, and what is to be said of them."""

from __future__ import annotations

from typing import TYPE_CHECKING

from ..errors import Refused
from ..progress import Progress
from ..results.brake_plan import BrakePlanResult
from ..results.held import HeldResult
from ..results.laser import LaserResult
from ..results.result import Outcome, outcome

if TYPE_CHECKING:
    from ...standins.laser.machine import Laser, Run
    from ..develop.blank import Blank
    from ..form.form import Form

BACK = {
    "no": "left flat",
    "drawn": "held against its form, as drawn",
    "compensated": "held against its form, kerf put back",
}
"""What becomes of a part that the laser has cut."""


def cut_by_laser(
    content: bytes, name: str, laser: Laser, back: str, blank: Blank | None, form: Form | None, progress: Progress
) -> Outcome:
    """A cut file run on a laser; its part is formed ``back`` as its blank was developed from a form.

    Raises Refused for a file that cannot be read.
    """
    from ...standins.files.path import UnreadableError
    from ...standins.laser.machine import run

    progress.step(0.4, "running the laser")
    try:
        made = run(content, name, laser)
    except UnreadableError as error:
        raise Refused(str(error)) from None
    said = [*not_cut(made), *(fault.text for fault in made.faults[:1])]
    if back == "no" or blank is None or form is None:
        return outcome(LaserResult(made), messages=said)
    from ..shop.formed_back import held_formed_back

    progress.step(0.7, "forming back")
    held, area = held_formed_back(made, form, blank, laser.kerf if back == "compensated" else 0.0)
    return outcome(LaserResult(made), HeldResult(held, area), messages=said)


def not_cut(made: Run) -> list[str]:
    """What is said of what the laser left out."""
    return [f"The laser cannot cut {kind}; it was left out." for kind in sorted(set(made.left_out))]


def bent_by_press(content: bytes, name: str, progress: Progress) -> Outcome:
    """The order in which a press brake bends the flat of a file. Raises Refused for a file that cannot be read."""
    from ...standins.files.path import UnreadableError
    from ...standins.press.brake import planned
    from ...standins.press.flat import read

    try:
        flat = read(content, name)
    except UnreadableError as error:
        raise Refused(str(error)) from None
    progress.step(0.3, "looking for an order")
    plan = planned(flat)
    bad = next((step for step in plan.steps if step.collides), None)
    said = (f"Bend {bad.bend} cannot be made: {bad.reason.rstrip('.')}.",) if bad is not None else ()
    return outcome(BrakePlanResult(plan, flat), messages=said)
