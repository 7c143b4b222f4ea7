"""From start to the first picture of the demo job, against a bare window with the same toolkit and 3D widget.

Each run is a process of its own; pairs alternate. The bare window has a toolkit window with a 3D
widget in it that shows one cone. Ours counts until the demo's cone and its blank are both on the screen.
"""

from __future__ import annotations

import subprocess
import sys
import time

import numpy as np

RUNS = 7

BARE = """
from PyQt6.QtWidgets import QApplication, QMainWindow
application = QApplication([])
import vtkmodules.vtkRenderingOpenGL2
import vtkmodules.vtkInteractionStyle
from vtkmodules.qt.QVTKRenderWindowInteractor import QVTKRenderWindowInteractor
from vtkmodules.vtkFiltersSources import vtkConeSource
from vtkmodules.vtkRenderingCore import vtkActor, vtkPolyDataMapper, vtkRenderer
window = QMainWindow()
window.resize(1280, 800)
widget = QVTKRenderWindowInteractor(window)
window.setCentralWidget(widget)
renderer = vtkRenderer()
widget.GetRenderWindow().SetMultiSamples(0)
widget.GetRenderWindow().AddRenderer(renderer)
source = vtkConeSource()
mapper = vtkPolyDataMapper()
mapper.SetInputConnection(source.GetOutputPort())
actor = vtkActor()
actor.SetMapper(mapper)
renderer.AddActor(actor)
window.show()
widget.Initialize()
widget.GetRenderWindow().Render()
application.processEvents()
print("shown", flush=True)
import os
os._exit(0)
"""

OURS = """
import os, sys, time
from zuschnitt.window.start import prepared
application, window = prepared(None, True, None)
window.show()
session = window.session
while not (window.form_stage.form() and window.blank_stage.blank()):
    application.processEvents()
    time.sleep(0.002)
application.processEvents()
window.grab()
print("shown", flush=True)
session.close()
os._exit(0)
"""


def seconds(code: str) -> float:
    begin = time.perf_counter()
    command = [sys.executable, "-c", code]
    process = subprocess.Popen(command, stdout=subprocess.PIPE, stderr=subprocess.DEVNULL, text=True)
    assert process.stdout is not None
    if process.stdout.readline().strip() != "shown":
        raise SystemExit("a window did not come up; is there a display (xvfb-run)?")
    end = time.perf_counter()
    process.wait()
    return end - begin


def main() -> None:
    seconds(BARE), seconds(OURS)  # the files are then in memory
    pairs = np.array([(seconds(BARE), seconds(OURS)) for _ in range(RUNS)])
    print(f"from start to the first picture, {RUNS} pairs, in s")
    print(f"{'bare window':>12} {'demo job':>9} {'ratio':>6}")
    for bare, ours in [*pairs, np.median(pairs, axis=0)]:
        print(f"{bare:>12.2f} {ours:>9.2f} {ours / bare:>6.2f}")
    print(f"the last line is the median; median of the ratios {np.median(pairs[:, 1] / pairs[:, 0]):.2f}")


if __name__ == "__main__":
    main()
