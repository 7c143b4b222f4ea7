"""For scripts: read a form, develop it, carry artwork, make a sheet part, write files; ``import zuschnitt`` has it."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path
from typing import Any

from .core.carry.carried import CarriedCurve
from .core.develop.blank import Blank
from .core.errors import WrongCall
from .core.files.reading import content_of
from .core.form.form import Form
from .core.plane.artwork import Artwork

Point = Sequence[float]


def read_form(path: str | Path) -> Form:
    """The form in a STEP file or a mesh (STL, OBJ, PLY, 3MF), in mm. Raises Refused."""
    from .core.files.form_file import read_form as read

    path = Path(path)
    return read(content_of(path), path.name, path=path)


def read_artwork(path: str | Path) -> Artwork:
    """The contours of an SVG or DXF, in mm, y up. Raises Refused."""
    from .core.files.artwork_file import read_artwork as read

    path = Path(path)
    return read(content_of(path), path.name)


def develop(
    form: Form,
    faces: Sequence[int] | None = None,
    way: str = "auto",
    hold: Point | None = None,
    along: Point | None = None,
) -> Blank:
    """The blank of faces by their numbers, of all where none are given.

    ``way`` is auto, exact, relaxed, parametric or even; ``hold`` (3,) is the point of the form that lies at the blank's
    origin, ``along`` (3,) the direction there that becomes +x. Raises Refused and CannotBeDone.
    """
    import numpy as np

    from .core.develop.placing import Hold
    from .core.reliefs.cut_where_needed import develop_cut

    numbers = [face.number for face in form.faces] if faces is None else list(faces)
    held = Hold(*(None if v is None else np.asarray(v, float) for v in (hold, along)))
    return develop_cut(form, numbers, way, held)


def wrap(
    blank: Blank, artwork: Artwork, scale: float = 1.0, turn: float = 0.0, at: Point = (0.0, 0.0)
) -> tuple[CarriedCurve, ...]:
    """Artwork carried from the blank onto the form: scaled, turned by ``turn`` degrees, shifted, in that order.

    Each curve has its points ``form`` (n, 3) and ``blank`` (n, 2).
    """
    from .core.carry.wrapping import wrap as carry

    return tuple(carry(blank.correspondence, artwork.placed(scale, turn, at).contours))


def sheet_part(form: Form, **plan: Any) -> Any:
    """A solid as a sheet part: the keywords are the fields of ``core.sheet.making.SheetPlan``.

    Its ``part`` has zones, thickness, volume and flat_area. Raises Refused and CannotBeDone.
    """
    from .core.sheet.making import SheetPlan
    from .core.sheet.making import sheet_part as make

    return make(form, SheetPlan(**plan))


def write(path: str | Path, thing: Blank | Form | Sequence[CarriedCurve]) -> None:
    """Writes a blank (DXF, SVG, PDF, STEP), a form (STEP, STL) or curves on the form (STEP), whole or not at all.

    Raises WrongCall for an ending that it cannot have.
    """
    from .core.files.atomic import write_whole
    from .core.results.blank import BlankResult
    from .core.results.curves import WrappedResult
    from .core.results.form import FormResult
    from .core.results.result import Printing, Result

    path = Path(path)
    result: Result
    if isinstance(thing, Blank):
        result = BlankResult(thing)
    elif isinstance(thing, Form):
        result = FormResult(thing)
    else:
        result = WrappedResult(tuple(thing))
    ending = path.suffix.lower().lstrip(".")
    if ending not in result.writes:
        raise WrongCall(f"{path.name} cannot be written: this is a file of the kind {', '.join(result.writes)}.")
    write_whole(path, result.content(ending, path.stem, Printing()))
