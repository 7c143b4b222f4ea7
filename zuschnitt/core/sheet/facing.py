"""Which way faces look: also those on frames that are left-handed, as some programs write them."""

from __future__ import annotations

import numpy as np

from ..form.form import Face
from ..geometry.curves import Array
from ..geometry.surfaces import Cone, Cylinder, Plane


def outwards(face: Face) -> Array:
    """The unit normal (3,) of a plane face, out of the material."""
    assert isinstance(face.surface, Plane)
    x, y, _ = face.surface.frame.axes
    return np.cross(x, y) * (-1.0 if face.reversed else 1.0)


def bulges(face: Face) -> bool:
    """Whether a round face looks away from its axis."""
    assert isinstance(face.surface, Cylinder | Cone)
    return (handed(face) > 0) != face.reversed


def handed(face: Face) -> float:
    """1 where the frame of its surface is right-handed, -1 where it is left-handed."""
    assert isinstance(face.surface, Plane | Cylinder | Cone)
    return face.surface.frame.hand
