"""A picture of a form in its material, finer than a stage has it, without any window."""

from __future__ import annotations

from collections.abc import Mapping
from types import MappingProxyType

import numpy as np
from PyQt6.QtCore import QBuffer, QIODevice
from PyQt6.QtGui import QImage

from ..core.errors import CannotBeDone
from ..core.form.form import Form
from ..core.geometry.curves import Array
from ..core.record import record
from .finishes import Finish
from .stages.camera import VIEWS, Camera, hit, silhouette
from .stages.scene import LAMPS, Scene

SAMPLES = 25
"""A picture is finished by so many samples."""
NEARER = 2e-3
"""Rims are drawn nearer to the eye by this part of the form's size."""
LAMP = 0.09
"""The lamp is so large, as a part of its distance."""
Lamp = tuple[float, float, float]
NO_FACES: Mapping[int, Finish] = MappingProxyType({})
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


@record
class Wanted:
    """``size`` in pixels; seen from ``view``, azimuth and elevation in degrees, lit from one of LIGHTS; with ``edges``
    and a ``shadow`` or without; finished by so many ``samples``."""

    size: tuple[int, int] = (1600, 1000)
    view: tuple[float, float] = VIEWS["corner"]
    light: str = "left"
    edges: bool = True
    shadow: bool = True
    samples: int = SAMPLES


class Picture:
    """A form in its ``finish``, single faces in finishes of their own by their numbers; it gets finer by each sample.

    The first sample shows all there is. Each further one is seen a part of a pixel aside and lit from a point of the
    lamp nearby, so that their mean has smooth edges and a soft shadow. Raises CannotBeDone where nothing is to be seen.
    """

    def __init__(self, form: Form, finish: Finish, wanted: Wanted, faces: Mapping[int, Finish] = NO_FACES) -> None:
        if not form.meshes or not any(len(mesh.triangles) for mesh in form.meshes):
            raise CannotBeDone(
                "The form has no faces that can be seen, so there is no picture of it; bring in another."
            )
        self._form, self.wanted = form, wanted
        self.samples = 0
        offsets = np.cumsum([0, *(len(mesh.points) for mesh in form.meshes)])[:-1]
        self._points = np.vstack([mesh.points for mesh in form.meshes])
        normals = np.vstack([mesh.normals for mesh in form.meshes])
        each = [mesh.triangles + o for mesh, o in zip(form.meshes, offsets, strict=True)]
        self._triangles = np.vstack(each)
        self.face_of = np.repeat([face.number for face in form.faces], [len(mine) for mine in each])
        self._scene = Scene()
        looks = [faces.get(face.number, finish) for face in form.faces]
        for look in dict.fromkeys(looks):
            mine = np.vstack([part for part, its in zip(each, looks, strict=True) if its == look])
            self._scene.add_faces(self._points, normals, mine, look)
        camera = Camera(np.zeros(3), *wanted.view)
        self._shadowed = wanted.shadow and 0 <= wanted.view[1] < 80
        seen = [self._points, *([self._fallen(camera, LIGHTS[wanted.light][0])] if self._shadowed else [])]
        self.camera = camera.fitted(np.vstack(seen), wanted.size, 0.88)
        if wanted.edges:
            sharp = [edge.points(form.size * 2e-4) for k, edge in enumerate(form.edges)
                     if not edge.smooth and k not in form.seams]  # fmt: skip
            self._scene.lines.of("edges", 1.3).show(sharp, EDGE)
            rims = silhouette(self._points, normals, self._triangles, camera.axes[2])
            # where a face turns away it is as deep as it is steep, so that it would hide parts of its own rim
            nearer = NEARER * form.size * camera.axes[2]
            self._scene.lines.of("rims", 1.3).segments(rims + nearer, EDGE)
        width, height = wanted.size
        self._sum = np.zeros((height, width, 3))

    def add_sample(self) -> None:
        """Makes it finer by one more sample."""
        wanted, k = self.wanted, self.samples
        # two at a time, on either side, so that nothing is seen or lit from one side more than from the other
        way = 1 if k % 2 else -1
        aside, about = way * (_spread((k + 1) // 2) - 0.5), way * _disc(_spread((k + 1) // 2)) * bool(k)
        lamp, weaker = (_moved(each, about) for each in LIGHTS[wanted.light])
        self._scene.set_lights(lamp, weaker)
        if self._shadowed:
            self._scene.set_shadow(self._fallen(self.camera, lamp), self._triangles, SHADOW)
        camera = self.camera.moved(*aside) if k else self.camera
        width, height = wanted.size
        image = self._scene.picture(camera, width, height, 1.0, PAPER, 2 * self._form.size)
        rows = np.frombuffer(image.constBits().asstring(image.sizeInBytes()), np.uint8)
        self._sum += rows.reshape(height, width, 4)[..., :3]
        self.samples += 1

    @property
    def image(self) -> QImage:
        """The mean of all samples so far."""
        mean = np.full((*self._sum.shape[:2], 4), 255, np.uint8)
        mean[..., :3] = np.round(self._sum / max(1, self.samples))
        height, width = mean.shape[:2]
        return QImage(mean.tobytes(), width, height, 4 * width, QImage.Format.Format_RGBX8888).copy()

    def png(self) -> bytes:
        """As a file. Raises CannotBeDone where that cannot be."""
        buffer = QBuffer()
        buffer.open(QIODevice.OpenModeFlag.WriteOnly)
        if not self.image.save(buffer, "PNG"):
            raise CannotBeDone("The picture could not be made; take a smaller size.")
        return buffer.data().data()

    def face_under(self, x: float, y: float) -> int | None:
        """The number of the face that is seen at a pixel."""
        origin, direction = self.camera.ray(x, y, self.wanted.size)
        far = 8 * self._form.size + float(np.linalg.norm(origin - self._points.mean(axis=0)))
        met = hit(origin - direction * far, direction, self._points[self._triangles])
        return None if met is None else int(self.face_of[met[0]])

    def _fallen(self, camera: Camera, lamp: Lamp) -> Array:
        """The points of the form where its shadow has them, on the ground."""
        ground = self._points[:, 2].min() - 1e-3 * self._form.size
        way = _falling(camera, lamp)
        return np.asarray(self._points + ((ground - self._points[:, 2]) / way[2])[:, None] * way)


def rendered(form: Form, finish: Finish, wanted: Wanted, faces: Mapping[int, Finish] = NO_FACES) -> bytes:
    """The finished picture as PNG. Raises CannotBeDone where nothing is to be seen."""
    picture = Picture(form, finish, wanted, faces)
    for _ in range(wanted.samples):
        picture.add_sample()
    return picture.png()


def _spread(k: int) -> Array:
    """The k-th of points (2,) strewn evenly over a square of side 1.

    Source: Roberts, The unreasonable effectiveness of quasirandom sequences, 2018.
    """
    return np.asarray((0.5 + k * np.array([0.7548776662466927, 0.5698402909980532])) % 1.0)


def _disc(square: Array) -> Array:
    """A point of the square as one of a disc of radius 1."""
    radius, angle = np.sqrt(square[0]), 2 * np.pi * square[1]
    return np.array([radius * np.cos(angle), radius * np.sin(angle)])


def _moved(lamp: Lamp, about: Array) -> Lamp:
    """A point of the lamp beside its middle."""
    x, y, z = lamp
    size = LAMP * float(np.linalg.norm(lamp))
    return x + size * float(about[0]), y + size * float(about[1]), z


def _falling(camera: Camera, lamp: Lamp) -> Array:
    """The way (3,) that the lamp's light takes to the ground, never flatter than ``STEEPEST`` allows."""
    towards = np.array(lamp) @ camera.axes
    aside = float(np.hypot(towards[0], towards[1]))
    towards[2] = max(float(towards[2]), STEEPEST * aside, 1e-3)
    return np.asarray(-towards / np.linalg.norm(towards))
