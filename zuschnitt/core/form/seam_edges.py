"""Seams that developing has put into faces made edges like the form's own, so that curves on faces can end there."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import replace

import numpy as np

from .form import CUT, WAIST, Coedge, Edge, Form, OnSurface
from .unwrapped import Unwrapped, shifted


def with_seam_edges(form: Form, faces: Iterable[Unwrapped]) -> tuple[Form, list[Unwrapped], dict[int, int]]:
    """The form with an edge more for each seam put into its faces, and the faces walking along these.

    With them what each of these edges, by its index, was before: ``CUT`` or ``WAIST``.
    """
    edges, made, was = list(form.edges), [], {}
    for face in faces:
        new: dict[int, tuple[Coedge, np.ndarray]] = {}
        loops = []
        for loop in face.loops:
            walked = []
            for c in loop:
                if c.edge not in (CUT, WAIST):
                    walked.append(c)
                elif c.edge not in new:
                    index = len(edges)
                    low, high = sorted((c.start, c.end))
                    number = face.face.number
                    edges.append(Edge(index + 1, OnSurface(face.face.surface, c.curve), low, high, (number, number)))
                    was[index] = c.edge
                    mine = replace(c, edge=index)
                    new[c.edge] = mine, c.ends
                    walked.append(mine)
                else:  # the other side of it: the same edge walked back, where parameters come round again
                    first, ends = new[c.edge]
                    back = Coedge(first.edge, first.curve, first.end, first.start)
                    walked.append(shifted(back, c.ends[0] - ends[1]))
            loops.append(tuple(walked))
        made.append(replace(face, loops=tuple(loops)))
    return (form if not was else replace(form, edges=tuple(edges))), made, was
