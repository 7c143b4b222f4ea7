"""A picture of a form in its material, finer than a stage has it, without any window."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from PyQt6.QtCore import QBuffer, QIODevice, Qt
from PyQt6.QtGui import QColor

from ..core.errors import CannotBeDone
from ..core.form.form import Form
from .finishes import Finish
from .stages.camera import Camera, silhouette
from .stages.scene import Scene

FINEST = 6000
"""A picture is drawn larger than it is asked for, but no side of it more than this, in pixels."""
LAMP = np.array([0.35, -0.25, -1.0])
"""Where the light falls to, for the shadow on the ground."""
EDGE, PAPER, SHADOW = "#23302f", "#ffffff", "#dadcd6"


@dataclass(frozen=True)
class Wanted:
    """``size`` in pixels, ``view`` of the camera's VIEWS; with ``edges`` and a ``shadow`` or without."""

    size: tuple[int, int] = (1600, 1000)
    view: str = "corner"
    edges: bool = True
    shadow: bool = True


def rendered(form: Form, finish: Finish, wanted: Wanted) -> bytes:
    """The picture as PNG. Raises CannotBeDone where nothing is to be seen."""
    if not form.meshes or not any(len(mesh.triangles) for mesh in form.meshes):
        raise CannotBeDone("The form has no faces that can be seen, so there is no picture of it; bring in another.")
    width, height = wanted.size
    detail = max(1.0, min(3.0, FINEST / max(width, height)))
    offsets = np.cumsum([0, *(len(mesh.points) for mesh in form.meshes)])[:-1]
    points = np.vstack([mesh.points for mesh in form.meshes])
    normals = np.vstack([mesh.normals for mesh in form.meshes])
    triangles = np.vstack([mesh.triangles + o for mesh, o in zip(form.meshes, offsets, strict=True)])
    scene = Scene()
    scene.set_finish(finish.soft, finish.lit, finish.shine, finish.sharp)
    scene.set_faces(points, normals, triangles)
    colour = QColor(finish.colour)
    scene.set_colours(np.tile([colour.red(), colour.green(), colour.blue()], (len(triangles), 1)).astype(np.uint8))
    seen = [points]
    if wanted.shadow and wanted.view not in ("top", "bottom"):
        ground = points[:, 2].min() - 1e-3 * form.size
        fallen = points + ((ground - points[:, 2]) / LAMP[2])[:, None] * LAMP
        scene.set_shadow(fallen, triangles, SHADOW)
        seen.append(fallen)
    camera = Camera(np.zeros(3)).seen_from(wanted.view).fitted(np.vstack(seen), (width, height), 0.88)
    if wanted.edges:
        sharp = [edge.points(form.size * 2e-4) for k, edge in enumerate(form.edges)
                 if not edge.smooth and k not in form.seams]  # fmt: skip
        scene.lines.of("edges", 1.3).show(sharp, EDGE)
        rims = silhouette(points, normals, triangles, camera.axes[2])
        scene.lines.of("rims", 1.3).segments(rims, EDGE)
    image = scene.picture(camera, width, height, detail, PAPER, 2 * form.size)
    smooth = Qt.TransformationMode.SmoothTransformation
    image = image.scaled(width, height, Qt.AspectRatioMode.IgnoreAspectRatio, smooth)
    buffer = QBuffer()
    buffer.open(QIODevice.OpenModeFlag.WriteOnly)
    if not image.save(buffer, "PNG"):
        raise CannotBeDone("The picture could not be made; take a smaller size.")
    return buffer.data().data()
