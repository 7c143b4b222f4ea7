"""The form as a picture: VTK, off the screen, so that it needs no particular display."""

from __future__ import annotations

from collections.abc import Sequence
from functools import cache

import numpy as np
from numpy.typing import NDArray
from PyQt6.QtGui import QColor, QImage
from vtkmodules.util.numpy_support import numpy_to_vtk, numpy_to_vtkIdTypeArray, vtk_to_numpy
from vtkmodules.vtkCommonCore import vtkPoints, vtkUnsignedCharArray
from vtkmodules.vtkCommonDataModel import vtkCellArray, vtkPolyData
from vtkmodules.vtkRenderingCore import vtkActor, vtkLight, vtkPolyDataMapper, vtkRenderer
from vtkmodules.vtkRenderingOpenGL2 import vtkOSOpenGLRenderWindow

from ...core.record import record
from ..finishes import Finish
from .camera import Camera

Array = NDArray[np.float64]
THROUGH = 0.16
"""How much of the form is left to see where bodies are seen through it."""


def rgb(colour: str) -> tuple[float, float, float]:
    made = QColor(colour)
    return made.redF(), made.greenF(), made.blueF()


class Lines:
    """Polylines in one colour, as one drawing call."""

    def __init__(self, renderer: vtkRenderer, width: float) -> None:
        self._data = vtkPolyData()
        mapper = vtkPolyDataMapper()
        mapper.SetInputData(self._data)
        self.actor = vtkActor()
        self.actor.SetMapper(mapper)
        self.actor.GetProperty().SetLighting(False)
        self._width = width
        self._shown: tuple[Array, Array] = np.zeros((0, 3)), np.zeros(0)
        renderer.AddActor(self.actor)

    def show(self, polylines: Sequence[Array], colour: str) -> None:
        """``polylines``: each (n, 3)."""
        lengths = np.array([len(line) for line in polylines], int)
        points = np.vstack(polylines) if len(polylines) else np.zeros((0, 3))
        starts = np.cumsum(lengths) - lengths
        offsets = np.r_[0, np.cumsum(lengths)]
        connectivity = np.arange(len(points)) if len(lengths) else np.zeros(0, int)
        assert not len(starts) or starts[-1] + lengths[-1] == len(points)
        self._set(points, offsets, connectivity, colour)

    def segments(self, ends: Array, colour: str) -> None:
        """``ends``: (s, 2, 3)."""
        count = len(ends)
        self._set(ends.reshape(-1, 3), np.arange(count + 1) * 2, np.arange(2 * count), colour)

    def _set(self, points: Array, offsets, connectivity, colour: str) -> None:
        self.actor.GetProperty().SetColor(*rgb(colour))
        if np.array_equal(points, self._shown[0]) and np.array_equal(offsets, self._shown[1]):
            return
        self._shown = np.array(points), offsets
        made = vtkPoints()
        made.SetData(numpy_to_vtk(np.ascontiguousarray(points), deep=True))
        cells = vtkCellArray()
        cells.SetData(ids(offsets), ids(connectivity))
        self._data.SetPoints(made)
        self._data.SetLines(cells)
        self._data.Modified()

    def widen(self, factor: float) -> None:
        self.actor.GetProperty().SetLineWidth(self._width * factor)


class LineSets:
    """Sets of lines by name, each in a colour and width of its own, made when they are asked for."""

    def __init__(self, renderer: vtkRenderer) -> None:
        self._renderer = renderer
        self.sets: dict[str, Lines] = {}

    def of(self, name: str, width: float) -> Lines:
        """The set of that name, ``width`` pixels wide."""
        if name not in self.sets:
            self.sets[name] = Lines(self._renderer, width)
        return self.sets[name]

    def clear(self) -> None:
        """Takes all lines away; what is still to be seen is given anew."""
        for lines in self.sets.values():
            lines.show([], "#000000")

    def widen(self, factor: float) -> None:
        for lines in self.sets.values():
            lines.widen(factor)


def ids(values):
    return numpy_to_vtkIdTypeArray(np.ascontiguousarray(values, np.int64), deep=True)


@cache
def _window() -> vtkOSOpenGLRenderWindow:
    """The one off-screen window of the process.

    Its software context is never destroyed: a new one at the address of a destroyed one would be taken
    for current, and drawing into it ends the process.
    """
    made = vtkOSOpenGLRenderWindow()
    made.SetOffScreenRendering(1)
    made.SetMultiSamples(0)
    return made


def window_for(renderer: vtkRenderer) -> vtkOSOpenGLRenderWindow:
    """The window, with no other renderer in it."""
    window = _window()
    if not window.HasRenderer(renderer):
        renderers = window.GetRenderers()
        while (other := renderers.GetFirstRenderer()) is not None:
            window.RemoveRenderer(other)
        window.AddRenderer(renderer)
    return window


LAMPS = (-0.5, 0.6, 1.0), (0.8, -0.3, 0.6)
"""Where the lamp and a weaker one stand: to the right, upwards, and towards the eye."""


@record
class Bodies:
    """Flat triangles ``corners`` (t, 3, 3), each of a colour (t, 3)."""

    corners: Array
    colours: NDArray[np.uint8]


class Scene:
    """Faces, edges, silhouettes and carried curves of one form."""

    def __init__(self) -> None:
        self._renderer = vtkRenderer()
        self._renderer.SetUseOIT(False)  # what is seen through hides its own back, so little overlaps
        self._renderer.SetAutomaticLightCreation(False)
        self._renderer.GetActiveCamera().ParallelProjectionOn()
        self.set_lights(*LAMPS)
        self._faces, self._actor = self._surface()
        self._bodies, self._solid = self._surface()
        self.lines = LineSets(self._renderer)
        self._shadow: vtkPolyData | None = None
        self._pixels = vtkUnsignedCharArray()

    def _surface(self) -> tuple[vtkPolyData, vtkActor]:
        """Triangles, each of a colour of its own, that are drawn once there are some."""
        data = vtkPolyData()
        mapper = vtkPolyDataMapper()
        mapper.SetInputData(data)
        mapper.SetScalarModeToUseCellData()
        mapper.SetColorModeToDirectScalars()
        mapper.SetResolveCoincidentTopologyToPolygonOffset()
        mapper.SetRelativeCoincidentTopologyPolygonOffsetParameters(2, 2)
        actor = vtkActor()
        actor.SetMapper(mapper)
        surface = actor.GetProperty()
        surface.SetAmbient(0.68)
        surface.SetDiffuse(0.48)
        surface.SetSpecular(0.0)
        self._renderer.AddActor(actor)
        return data, actor

    def set_bodies(self, corners: Array, colours: NDArray[np.uint8]) -> None:
        """Triangles (t, 3, 3) with flat faces in colours (t, 3), seen through the form; with none it is seen whole."""
        normals = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
        normals /= np.maximum(np.linalg.norm(normals, axis=1), 1e-300)[:, None]
        triangles = np.arange(3 * len(corners)).reshape(-1, 3)
        _fill(self._bodies, corners.reshape(-1, 3), triangles, np.repeat(normals, 3, axis=0))
        self._bodies.GetCellData().SetScalars(numpy_to_vtk(np.ascontiguousarray(colours, np.uint8), deep=True))
        form = self._actor.GetProperty()
        form.SetOpacity(THROUGH if len(corners) else 1.0)
        form.SetBackfaceCulling(bool(len(corners)))

    def set_faces(self, points: Array, normals: Array, triangles: NDArray) -> None:
        """All triangles of the form at once: ``points`` (n, 3), ``normals`` (n, 3), ``triangles`` (t, 3)."""
        _fill(self._faces, points, triangles, normals)

    def set_lights(self, lamp: Sequence[float], weaker: Sequence[float]) -> None:
        """Where a lamp and a weaker one stand: to the right, upwards, and towards the eye."""
        self._renderer.RemoveAllLights()
        for position, strength in ((lamp, 0.72), (weaker, 0.26)):
            light = vtkLight()
            light.SetLightTypeToCameraLight()
            light.SetPosition(*position)
            light.SetIntensity(strength)
            self._renderer.AddLight(light)

    def add_faces(self, points: Array, normals: Array, triangles: NDArray, finish: Finish) -> None:
        """Further triangles (t, 3), which all look alike."""
        data, actor = self._surface()
        _fill(data, points, triangles, normals)
        colour = np.tile(np.array(QColor(finish.colour).getRgb()[:3], np.uint8), (len(triangles), 1))
        data.GetCellData().SetScalars(numpy_to_vtk(colour, deep=True))
        surface = actor.GetProperty()
        surface.SetAmbient(finish.soft)
        surface.SetDiffuse(finish.lit)
        surface.SetSpecular(finish.shine)
        surface.SetSpecularPower(finish.sharp)

    def set_shadow(self, points: Array, triangles: NDArray, colour: str) -> None:
        """Triangles in one colour, which no light changes."""
        if self._shadow is None:
            self._shadow, actor = self._surface()
            surface = actor.GetProperty()
            surface.SetLighting(False)
            surface.SetAmbient(0.0)
            surface.SetDiffuse(1.0)
        _fill(self._shadow, points, triangles)
        shade = np.tile(np.array(QColor(colour).getRgb()[:3], np.uint8), (len(triangles), 1))
        self._shadow.GetCellData().SetScalars(numpy_to_vtk(shade, deep=True))

    def set_colours(self, colours: NDArray[np.uint8]) -> None:
        """RGB (t, 3) of each triangle."""
        array = numpy_to_vtk(np.ascontiguousarray(colours, np.uint8), deep=True)
        self._faces.GetCellData().SetScalars(array)
        self._faces.Modified()

    def picture(self, camera: Camera, width: int, height: int, detail: float, paper: str, reach: float) -> QImage:
        """The scene at ``width`` x ``height`` pixels times ``detail``; ``reach`` is the form's size in mm."""
        size = max(1, round(width * detail)), max(1, round(height * detail))
        window = window_for(self._renderer)
        window.SetSize(*size)
        self._renderer.SetBackground(*rgb(paper))
        self.lines.widen(detail)
        _, up, back = camera.axes
        view = self._renderer.GetActiveCamera()
        view.SetFocalPoint(*camera.target)
        view.SetPosition(*(camera.target + back * 4 * reach))
        view.SetViewUp(*up)
        view.SetParallelScale(height / 2 / camera.scale)
        view.SetClippingRange(0.1 * reach, 8 * reach)
        window.Render()
        return image_of(window, self._pixels)


def _fill(data: vtkPolyData, points: Array, triangles: NDArray, normals: Array | None = None) -> None:
    made = vtkPoints()
    made.SetData(numpy_to_vtk(np.ascontiguousarray(points), deep=True))
    cells = vtkCellArray()
    cells.SetData(ids(np.arange(len(triangles) + 1) * 3), ids(triangles.ravel()))
    data.SetPoints(made)
    data.SetPolys(cells)
    if normals is not None:
        data.GetPointData().SetNormals(numpy_to_vtk(np.ascontiguousarray(normals), deep=True))
    data.Modified()


def image_of(window: vtkOSOpenGLRenderWindow, pixels: vtkUnsignedCharArray) -> QImage:
    """What a window shows; ``pixels`` are used for it."""
    width, height = window.GetSize()
    window.GetRGBACharPixelData(0, 0, width - 1, height - 1, 0, pixels)
    rows = np.ascontiguousarray(vtk_to_numpy(pixels).reshape(height, width, 4)[::-1])
    return QImage(rows.tobytes(), width, height, 4 * width, QImage.Format.Format_RGBX8888).copy()
