"""Turning a form of 318,000 triangles: pictures a second with its lighter stand-in, against the whole form."""

from __future__ import annotations

import os
import time

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

import numpy as np
import trimesh
from PyQt6.QtWidgets import QApplication

from zuschnitt.core.files.mesh_file import read_triangles
from zuschnitt.core.form.mesh_form import form_from_triangles
from zuschnitt.window.stages.camera import Camera
from zuschnitt.window.stages.form_picture import FormPicture

SIZE = (470.0, 640.0)
PICTURES = 12


def form_of(triangles: int):
    """A torus with waves of about so many triangles, in which many parts hide others."""
    around = int(np.sqrt(triangles / 2 * 1.6))
    mesh = trimesh.creation.torus(120, 45, major_sections=around, minor_sections=int(triangles / 2 / around))
    mesh.vertices *= 1 + 0.05 * np.sin(mesh.vertices[:, :1] / 9)
    return form_from_triangles(read_triangles(mesh.export(file_type="stl"), "ring.stl", "mm"), "ring")


def pictures_per_second(picture: FormPicture, moving: bool) -> float:
    camera = Camera(np.zeros(3)).seen_from("front").fitted(picture.points, SIZE)
    picture.image(camera, SIZE, 1.0, moving)
    begin = time.perf_counter()
    for k in range(PICTURES):
        picture.image(camera.turned(6.0 * k, 3.0), SIZE, 1.0, moving)
    return PICTURES / (time.perf_counter() - begin)


def main() -> None:
    application = QApplication([])
    print(f"{'triangles':>10} {'stand-in':>9} {'made in s':>10} {'whole, 1/s':>11} {'moving, 1/s':>12}")
    for count in (30_000, 100_000, 318_000):
        picture = FormPicture()
        picture.take(form_of(count))
        picture.colour((), (), None, "as it is", None)
        whole = pictures_per_second(picture, False)
        begin = time.perf_counter()
        picture.image(Camera(np.zeros(3)).fitted(picture.points, SIZE), SIZE, 1.0, True)
        made = time.perf_counter() - begin
        moving = pictures_per_second(picture, True)
        light = len(picture._stand_in.triangles) if picture._stand_in is not None else len(picture._triangles)
        print(f"{len(picture._triangles):>10,} {light:>9,} {made:>10.2f} {whole:>11.1f} {moving:>12.1f}")
    application.quit()


if __name__ == "__main__":
    main()
