"""Several forms as one, only to be looked at: as they stand in space, or beside each other."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from ..geometry.curves import Array
from .form import Body, Edge, Face, FaceMesh, Form
from .moved import Motion

GAP = 0.12
"""Forms beside each other are so far apart, as a part of the widest one."""
WIDER = 1.6
"""They stand on about so many times more room across than deep."""


def in_one(groups: Sequence[Sequence[Form]], beside: bool) -> Form:
    """All of them, a body for each form in order, faces and edges numbered through; seams and outlines are left out.

    Each group stays as it stands; ``beside`` puts the groups beside each other on a floor.
    """
    if beside:
        groups = [
            [Motion(np.eye(3), shift).form(form) for form in group]
            for group, shift in zip(groups, _places([_box(group) for group in groups]), strict=True)
        ]
    faces: list[Face] = []
    edges: list[Edge] = []
    meshes: list[FaceMesh] = []
    bodies: list[Body] = []
    lines: list[Array] = []
    for form in (form for group in groups for form in group):
        first, last = len(faces), len(edges)
        faces.extend(
            replace(face, number=first + face.number, loops=(), neighbours=(), smooth=(), flat=None, looked_at=True)
            for face in form.faces
        )
        edges.extend(
            replace(edge, number=last + k, faces=tuple(first + number for number in edge.faces))
            for k, edge in enumerate((e for i, e in enumerate(form.edges) if i not in form.seams), 1)
        )
        lines.extend(line for i, line in enumerate(form.lines) if i not in form.seams)
        meshes.extend(form.meshes)
        bodies.append(Body(form.name, tuple(range(first + 1, len(faces) + 1))))
    name = "all beside" if beside else "all standing"
    return Form(name, tuple(faces), tuple(edges), tuple(meshes), bodies=tuple(bodies), edge_lines=tuple(lines))


def _box(group: Sequence[Form]) -> Array:
    """The lowest and the highest corner (2, 3) of a group."""
    bounds = [form.bounds for form in group]
    return np.array([np.min([low for low, _ in bounds], axis=0), np.max([high for _, high in bounds], axis=0)])


def _places(boxes: Sequence[Array]) -> list[Array]:
    """How far each box is moved (3,) to stand in rows on a floor, one row behind the other."""
    sizes = np.array([high - low for low, high in boxes])
    gap = GAP * float(sizes[:, :2].max())
    row = max(float(sizes[:, 0].max()), WIDER * float(np.sqrt(((sizes[:, :2] + gap).prod(axis=1)).sum())))
    moved, at, back, depth = [], 0.0, 0.0, 0.0
    for (low, _), size in zip(boxes, sizes, strict=True):
        if at > 0 and at + size[0] > row:
            at, back, depth = 0.0, back + depth + gap, 0.0
        moved.append(np.array([at, back, 0.0]) - low)
        at, depth = at + size[0] + gap, max(depth, float(size[1]))
    return moved
