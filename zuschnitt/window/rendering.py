"""A picture of a form in its material, finer than a stage has it, without any window."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from PyQt6.QtCore import QBuffer, QIODevice, Qt
from PyQt6.QtGui import QColor

from ..core.errors import CannotBeDone
from ..core.form.curves import Array
from ..core.form.form import Form
from .finishes import Finish
from .stages.camera import VIEWS, Camera, silhouette
from .stages.scene import LAMPS, Scene

FINEST = 6000
"""A picture is drawn larger than it is asked for, but no side of it more than this, in pixels."""
LIGHTS = {
    "left": LAMPS,
    "right": ((0.5, 0.6, 1.0), (-0.8, -0.3, 0.6)),
    "above": ((0.0, 1.0, 0.35), (0.0, -0.4, 1.0)),
    "front": ((0.0, 0.2, 1.0), (0.0, 0.8, 0.6)),
}
"""Where the lamp and a weaker one stand: to the right, upwards, and towards the eye."""
STEEPEST = 0.8
"""A shadow is no longer than the form is high, times the reciprocal of this."""
EDGE, PAPER, SHADOW = "#23302f", "#ffffff", "#dadcd6"


@dataclass(frozen=True)
class Wanted:
    """``size`` in pixels; seen from ``view``, azimuth and elevation in degrees, lit from one of LIGHTS; with ``edges``
    and a ``shadow`` or without."""

    size: tuple[int, int] = (1600, 1000)
    view: tuple[float, float] = VIEWS["corner"]
    light: str = "left"
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
    camera = Camera(np.zeros(3), *wanted.view)
    lamp, weaker = LIGHTS[wanted.light]
    scene.set_lights(lamp, weaker)
    seen = [points]
    if wanted.shadow and 0 <= wanted.view[1] < 80:
        ground = points[:, 2].min() - 1e-3 * form.size
        way = _falling(camera, lamp)
        fallen = points + ((ground - points[:, 2]) / way[2])[:, None] * way
        scene.set_shadow(fallen, triangles, SHADOW)
        seen.append(fallen)
    camera = camera.fitted(np.vstack(seen), (width, height), 0.88)
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


def _falling(camera: Camera, lamp: tuple[float, float, float]) -> Array:
    """The way (3,) that the lamp's light takes to the ground, never flatter than ``STEEPEST`` allows."""
    towards = np.array(lamp) @ camera.axes
    aside = float(np.hypot(towards[0], towards[1]))
    towards[2] = max(float(towards[2]), STEEPEST * aside, 1e-3)
    return np.asarray(-towards / np.linalg.norm(towards))
