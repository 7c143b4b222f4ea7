"""A form from a file of any kind that is read."""

from __future__ import annotations

import tempfile
from pathlib import Path, PurePath

from ..errors import Refused
from ..form.form import Form
from ..progress import SILENT, Progress
from .mesh_file import ENDINGS as MESHES
from .mesh_file import UNITS, read_triangles

STEP = (".step", ".stp")
ENDINGS = (*STEP, *MESHES)
UNIT_CHOICES = ("auto", *UNITS)
CREASE = 30.0


def read_form(
    content: bytes,
    name: str,
    unit: str = "auto",
    crease: float = CREASE,
    progress: Progress = SILENT,
    path: Path | None = None,
) -> Form:
    """The form in a STEP or mesh file.

    ``unit`` is that of a mesh (auto: its own, else guessed and said); ``crease`` in degrees is how much
    its triangles must turn for a face to end there; ``path`` is where the file lies, if it does. Raises
    Refused for what cannot be read.
    """
    if PurePath(name).suffix.lower() in MESHES:
        from ..form.mesh_form import form_from_triangles

        progress.step(0.05, f"reading {name}")
        return form_from_triangles(read_triangles(content, name, unit), name, crease, progress)
    if PurePath(name).suffix.lower() not in STEP and b"ISO-10303-21" not in content[:1000] and content.strip():
        raise Refused(f"{name} is neither STEP nor a mesh (STL, OBJ, PLY, 3MF); choose another file.")
    from ..form.kernel import read_step

    if path is not None:
        return read_step(path, name, progress)
    with tempfile.TemporaryDirectory() as folder:  # the kernel reads from a path only
        written = Path(folder) / "form.step"
        written.write_bytes(content)
        return read_step(written, name, progress)
