"""What rows that make a shape of the kernel give: bodies where it is closed, else an open form."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import TYPE_CHECKING, Any

from ..errors import CannotBeDone, ZuschnittError
from ..progress import Progress
from ..results.bodies import BodiesResult
from ..results.form import FormResult
from ..results.result import Outcome, outcome

if TYPE_CHECKING:
    from ..form.form import Form
    from ..form.made_body import MadeBody
    from ..plane.contour import Contour


def of_shape(make: Callable[[], Any], name: str, progress: Progress) -> Outcome:
    """A body for each solid of the shape that is made; where it has none, its faces.

    Raises CannotBeDone where the kernel makes none, or bodies that are not valid.
    """
    from ..kernel.forms import form_of_shape
    from ..solids.bodies import form_of_bodies, made_body
    from ..solids.explore import solids_of

    try:
        shape = make()
    except ZuschnittError:
        raise
    except Exception as error:  # the kernel's own errors have no common kind
        raise CannotBeDone(f"The kernel makes no {name} of these values; change them a little.") from error
    found = solids_of(shape)
    progress.step(0.6, "reading faces")
    if not found:
        form = form_of_shape(shape, name)
        return outcome(FormResult(form))
    made = [made_body(name if len(found) == 1 else f"{name} {k}", solid) for k, solid in enumerate(found, 1)]
    return outcome(BodiesResult(form_of_bodies(made, name), tuple(made)))


def changed(before: Form, made: Sequence[MadeBody], name: str) -> BodiesResult:
    """Bodies of which one may be what was made of the form ``before``: with the faces that are new on it."""
    from ..form.changed import new_faces
    from ..solids.bodies import form_of_bodies

    form = form_of_bodies(made, name)
    new: tuple[int, ...] = ()
    if any(body.volume_change is not None for body in made):
        new = new_faces(before, form)
        if len(form.bodies) == len(made):  # what stands beside the one that was changed is new as a whole
            beside = {f for b, m in zip(form.bodies, made, strict=True) if m.volume_change is None for f in b.faces}
            new = tuple(number for number in new if number not in beside)
    return BodiesResult(form, tuple(made), new_faces=new)


def drawn(artwork: Any) -> list[Contour]:
    """The contours of a drawing that count: what stands for reference is left out."""
    return [contour for contour in artwork.contours if contour.layer != "REFERENCE"]
