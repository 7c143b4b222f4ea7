"""Bodies united and cut: tried with the kernel's own tolerance, then with wider ones and a healed shape."""

from __future__ import annotations

from collections.abc import Sequence

from OCP.BOPAlgo import BOPAlgo_PaveFiller
from OCP.BRepAlgoAPI import (
    BRepAlgoAPI_BooleanOperation,
    BRepAlgoAPI_Common,
    BRepAlgoAPI_Cut,
    BRepAlgoAPI_Fuse,
    BRepAlgoAPI_Splitter,
)
from OCP.BRepCheck import BRepCheck_Analyzer
from OCP.ShapeFix import ShapeFix_Shape
from OCP.ShapeUpgrade import ShapeUpgrade_UnifySameDomain
from OCP.TopAbs import TopAbs_SOLID
from OCP.TopoDS import TopoDS_Shape
from OCP.TopTools import TopTools_ListOfShape

from ..errors import CannotBeDone
from .explore import each, rough_volume, volume
from .within import held, inner_points

FUZZY = (0.0, 1e-6, 1e-5, 1e-4)
"""Tolerances in mm that are tried one after the other."""
BALANCED = 1e-5
"""What volumes may be out of balance, as a part of the body: more is a failure of the kernel, whatever it says."""


def united(body: TopoDS_Shape, others: Sequence[TopoDS_Shape], shared: float | None = None) -> TopoDS_Shape:
    """The body and all ``others`` as one; ``shared`` is the volume in mm³ that they have in common, where one knows.

    Raises CannotBeDone where the kernel finds no valid one.
    """
    return _tried(BRepAlgoAPI_Fuse, body, others, 1, shared)


def cut(body: TopoDS_Shape, others: Sequence[TopoDS_Shape], shared: float | None = None) -> TopoDS_Shape:
    """The body without ``others``, as in ``united``."""
    return _tried(BRepAlgoAPI_Cut, body, others, -1, shared)


def cut_within(body: TopoDS_Shape, other: TopoDS_Shape, tolerance: float) -> TopoDS_Shape:
    """The body without another one, faces of both being the same where they lie within a tolerance in mm.

    No volume is looked at, since what lies between such faces is lost. Raises CannotBeDone where it is no valid body.
    """
    made = _Crossed(body, [other], tolerance).made(BRepAlgoAPI_Cut)
    if not BRepCheck_Analyzer(made).IsValid():
        raise CannotBeDone("The geometry kernel finds no valid body there.")
    return made


def common(body: TopoDS_Shape, others: Sequence[TopoDS_Shape]) -> TopoDS_Shape:
    """What of the body lies in ``others``; it may be nothing."""
    return _Crossed(body, others, 0.0).made(BRepAlgoAPI_Common)


def _tried(
    kind: type[BRepAlgoAPI_BooleanOperation],
    body: TopoDS_Shape,
    others: Sequence[TopoDS_Shape],
    way: int,
    shared: float | None,
) -> TopoDS_Shape:
    # the kernel may leave a tool out without a word, in the common part too: so points of it are asked
    points = [point for other in others for point in inner_points(other)]
    for fuzzy in FUZZY:
        given = body if fuzzy == 0 else _healed(body)
        crossed = _Crossed(given, others, fuzzy)
        made = crossed.made(kind)
        if not list(each(made, TopAbs_SOLID)) or not BRepCheck_Analyzer(made).IsValid():
            continue
        if any(within != (way > 0) for within in held(made, points)):
            continue
        if shared is not None and _as_large(made, body, others, way, shared):
            return made  # otherwise what they share is not quite what one thought
        several = way > 0 and len(others) > 1  # they may overlap each other
        if several:
            if _between(made, body, others):
                return made
            continue
        if _as_large(made, body, others, way, crossed.made(BRepAlgoAPI_Common)):
            return made
    raise CannotBeDone("The geometry kernel finds no valid body there; move the artwork a little, or make it simpler.")


def _as_large(
    made: TopoDS_Shape, body: TopoDS_Shape, others: Sequence[TopoDS_Shape], way: int, shared: float | TopoDS_Shape
) -> bool:
    """Whether a body has the volume that it must have; first by volumes that are quickly found."""
    for measure in (rough_volume, volume):
        before, added = measure(body), sum(map(measure, others))
        common = shared if isinstance(shared, float) else measure(shared)
        wanted = before + added - common if way > 0 else before - common
        if abs(measure(made) - wanted) <= BALANCED * max(before, added):
            return True
    return False


def _between(made: TopoDS_Shape, body: TopoDS_Shape, others: Sequence[TopoDS_Shape]) -> bool:
    """Whether a body united with others, which may overlap each other, is neither smaller nor larger than can be."""
    before, added = volume(body), sum(map(volume, others))
    return before * (1 - BALANCED) <= volume(made) <= (before + added) * (1 + BALANCED)


def divided(body: TopoDS_Shape, faces: Sequence[TopoDS_Shape]) -> list[TopoDS_Shape]:
    """The parts into which faces divide a body."""
    tools, bodies = TopTools_ListOfShape(), TopTools_ListOfShape()
    for face in faces:
        tools.Append(face)
    bodies.Append(body)
    splitter = BRepAlgoAPI_Splitter()
    splitter.SetArguments(bodies)
    splitter.SetTools(tools)
    splitter.SetUseOBB(True)  # what lies far from the faces is left out sooner
    splitter.Build()
    return list(each(splitter.Shape(), TopAbs_SOLID))


class _Crossed:
    """Where a body and others cross, found once for all that is made of them."""

    def __init__(self, body: TopoDS_Shape, others: Sequence[TopoDS_Shape], fuzzy: float) -> None:
        self._body, self._tools, every = TopTools_ListOfShape(), TopTools_ListOfShape(), TopTools_ListOfShape()
        self._body.Append(body)
        every.Append(body)
        for other in others:
            self._tools.Append(other)
            every.Append(other)
        self._filler = BOPAlgo_PaveFiller()
        self._filler.SetArguments(every)
        self._filler.SetNonDestructive(True)
        self._filler.SetFuzzyValue(fuzzy)
        self._filler.SetRunParallel(True)
        self._filler.Perform()

    def made(self, kind: type[BRepAlgoAPI_BooleanOperation]) -> TopoDS_Shape:
        """What is united, cut, or what they have in common."""
        operation = kind(self._filler)
        operation.SetArguments(self._body)
        operation.SetTools(self._tools)
        operation.SetNonDestructive(True)
        operation.SetRunParallel(True)
        operation.Build()
        return operation.Shape()


def _healed(body: TopoDS_Shape) -> TopoDS_Shape:
    fix = ShapeFix_Shape(body)
    fix.Perform()
    return fix.Shape()


def merged_faces(body: TopoDS_Shape) -> TopoDS_Shape:
    """The body with faces that continue each other on one surface taken together."""
    upgrade = ShapeUpgrade_UnifySameDomain(body, True, True, False)
    upgrade.Build()
    return upgrade.Shape()
