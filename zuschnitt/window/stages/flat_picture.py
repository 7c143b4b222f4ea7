"""Coloured triangles in the plane as a picture: VTK, off the screen, so that very many are drawn at once."""

from __future__ import annotations

import numpy as np
from PyQt6.QtCore import QPointF
from PyQt6.QtGui import QImage
from vtkmodules.util.numpy_support import numpy_to_vtk
from vtkmodules.vtkCommonCore import vtkPoints, vtkUnsignedCharArray
from vtkmodules.vtkCommonDataModel import vtkCellArray, vtkPolyData
from vtkmodules.vtkRenderingCore import vtkActor, vtkPolyDataMapper, vtkRenderer

from ..theme import theme
from .paper_view import PaperView
from .scene import ids, image_of, rgb, window_for


class FlatPicture:
    """Triangles of one blank."""

    def __init__(self) -> None:
        self._renderer = vtkRenderer()
        self._renderer.GetActiveCamera().ParallelProjectionOn()
        self._data = vtkPolyData()
        mapper = vtkPolyDataMapper()
        mapper.SetInputData(self._data)
        mapper.SetScalarModeToUseCellData()
        mapper.SetColorModeToDirectScalars()
        actor = vtkActor()
        actor.SetMapper(mapper)
        actor.GetProperty().SetLighting(False)
        self._renderer.AddActor(actor)
        self._pixels = vtkUnsignedCharArray()

    def take(self, points: np.ndarray, triangles: np.ndarray, colours: np.ndarray) -> None:
        """``points`` (n, 2) in mm, ``triangles`` (t, 3), ``colours`` (t, 3) as RGB."""
        made = vtkPoints()
        made.SetData(numpy_to_vtk(np.column_stack([points, np.zeros(len(points))]), deep=True))
        cells = vtkCellArray()
        cells.SetData(ids(np.arange(len(triangles) + 1) * 3), ids(triangles.ravel()))
        self._data.SetPoints(made)
        self._data.SetPolys(cells)
        self._data.GetCellData().SetScalars(numpy_to_vtk(np.ascontiguousarray(colours, np.uint8), deep=True))
        self._data.Modified()

    def image(self, view: PaperView) -> QImage:
        """The picture as large as the view."""
        window = window_for(self._renderer)
        window.SetSize(*view.size)
        self._renderer.SetBackground(*rgb(theme().blank_paper))
        x, y = view.to_blank(QPointF(view.size[0] / 2, view.size[1] / 2)).tolist()
        camera = self._renderer.GetActiveCamera()
        camera.SetFocalPoint(x, y, 0.0)
        camera.SetPosition(x, y, 1.0)
        camera.SetViewUp(0.0, 1.0, 0.0)
        camera.SetParallelScale(view.size[1] / 2 / view.scale)
        camera.SetClippingRange(0.5, 2.0)
        window.Render()
        return image_of(window, self._pixels)
