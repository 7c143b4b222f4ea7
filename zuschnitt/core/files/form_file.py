"""A form from a file of any kind that is read."""

from __future__ import annotations

from functools import partial
from pathlib import Path, PurePath

from ..errors import Refused
from ..form.form import Form
from ..progress import SILENT, Progress
from .apart import read_apart
from .mesh_file import ENDINGS as MESHES
from .mesh_file import UNITS, read_triangles

STEP = (".step", ".stp")
ENDINGS = (*STEP, *MESHES)
UNIT_CHOICES = ("auto", *UNITS)
CREASE = 30.0
ADVICE = "export it again"
SILENCE = 50.0
SILENCE_PER_BYTE = 2e-5
"""Seconds: 50, and 20 for each MB."""
PER_BYTE = 40
"""Bytes of memory that a mesh may take for each byte of its file, besides what any file may take."""


def read_form(
    content: bytes,
    name: str,
    unit: str = "auto",
    crease: float = CREASE,
    progress: Progress = SILENT,
    path: Path | None = None,
) -> Form:
    """The form in a STEP or mesh file, read in a process of its own.

    ``unit`` is that of a mesh (auto: its own, else guessed and said); ``crease`` in degrees is how much
    its triangles must turn for a face to end there; ``path`` is where the file lies, if it does. Raises Refused for
    what cannot be read.
    """
    if PurePath(name).suffix.lower() in MESHES:
        read = partial(_from_mesh, content, name, unit, crease)
        return read_apart(name, ADVICE, read, progress, silence=_silence(content), more=PER_BYTE * len(content))
    if PurePath(name).suffix.lower() not in STEP and b"ISO-10303-21" not in content[:1000] and content.strip():
        raise Refused(f"{name} is neither STEP nor a mesh (STL, OBJ, PLY, 3MF); choose another file.")
    read = partial(_from_step, content, name, path)
    return read_apart(name, ADVICE, read, progress, silence=_silence(content), meanwhile=_load_developing)


def _load_developing() -> None:
    """Most forms are developed next: its imports need not wait for the kernel's, which the other process does."""
    from ..develop import developing  # noqa: F401


def _silence(content: bytes) -> float:
    """For how many seconds reading may make no progress: damaged files now and then send the kernel in circles."""
    return SILENCE + SILENCE_PER_BYTE * len(content)


def _from_mesh(content: bytes, name: str, unit: str, crease: float, progress: Progress) -> Form:
    from ..form.mesh_form import form_from_triangles

    progress.step(0.05, f"reading {name}")
    return form_from_triangles(read_triangles(content, name, unit), name, crease, progress)


def _from_step(content: bytes, name: str, path: Path | None, progress: Progress) -> Form:
    from ..kernel.step_in import read_step, read_step_bytes

    if path is not None and path.is_file():
        return read_step(path, name, progress)
    return read_step_bytes(content, name, progress)
