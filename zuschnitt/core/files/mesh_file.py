"""Triangles from STL, OBJ, PLY and 3MF files."""

from __future__ import annotations

import io
import zipfile
from pathlib import PurePath

import numpy as np

from ..errors import Refused
from ..geometry.curves import Array
from ..mesh.given import Triangles
from .apart import guarded, patience, time_limit

ENDINGS = (".stl", ".obj", ".ply", ".3mf")
UNITS = {"mm": 1.0, "cm": 10.0, "m": 1000.0, "in": 25.4, "ft": 304.8}
NAMES = {"millimeter": "mm", "millimeters": "mm", "centimeter": "cm", "meter": "m", "inch": "in", "foot": "ft"}
MICRON = "micron"
MOST_TRIANGLES = 5_000_000
NEEDED = (".model", ".rels", "types].xml")
"""How the names of members of a 3MF end that are needed."""
LARGEST_MODEL = 512 << 20
"""The model of a 3MF is not unpacked when it is larger than this, in bytes."""
SMALL = 5.0
"""A form of fewer units than this across is taken for one in metres."""


def read_triangles(content: bytes, name: str, unit: str = "auto") -> Triangles:
    """Reads a mesh file; ``unit`` is mm, cm, m, in, ft, or auto: the file's own, or else guessed and said.

    Raises Refused for a file that is empty, damaged or holds no triangles.
    """
    ending = PurePath(name).suffix.lower()
    if ending not in ENDINGS:
        raise Refused(f"{name} is no mesh file; {', '.join(e[1:].upper() for e in ENDINGS)} can be read.")
    if not content.strip():
        raise Refused(f"{name} is empty, so there is no form in it; export it again.")
    parts, own_unit = _parts(content, name, ending)
    points = np.vstack([p for p, _, _ in parts])
    offsets = np.cumsum([0, *(len(p) for p, _, _ in parts)])
    triangles = np.vstack([t + o for (_, t, _), o in zip(parts, offsets, strict=False)])
    body = np.repeat(np.arange(len(parts)), [len(t) for _, t, _ in parts])
    if not np.isfinite(points).all():
        raise Refused(f"{name} has numbers that are not finite; export it again.")
    messages: tuple[str, ...] = ()
    if unit == "auto":
        unit, messages = _guessed(points, own_unit, name)
    factor = 0.001 if unit == MICRON else UNITS[unit]
    return Triangles(points * factor, triangles, body, tuple(n for _, _, n in parts), unit, messages)


def _parts(content: bytes, name: str, ending: str) -> tuple[list[tuple[Array, np.ndarray, str]], str | None]:
    """Points, triangles and name of each mesh in the file, and its unit if it says one."""
    import trimesh

    if ending == ".3mf":
        content = _model_only(content, name)
    with (
        guarded(name, f"it is no whole {ending[1:].upper()}, so export it again"),
        time_limit(name, "export it again", patience(content)),
    ):
        scene = trimesh.load_scene(io.BytesIO(content), file_type=ending[1:], process=False)
        meshes = [m for m in scene.dump() if isinstance(m, trimesh.Trimesh) and len(m.faces)]
    if sum(len(m.faces) for m in meshes) > MOST_TRIANGLES:
        raise Refused(f"{name} has more than {MOST_TRIANGLES:,} triangles; export it coarser.")
    if not meshes:
        raise Refused(f"{name} holds no triangles; export the form as a mesh.")
    parts = []
    for i, mesh in enumerate(meshes):
        faces = np.asarray(mesh.faces, np.int64)
        if faces.min() < 0 or faces.max() >= len(mesh.vertices):
            raise Refused(f"{name} has triangles that name points it does not hold; export it again.")
        own = mesh.metadata.get("name") if ending == ".3mf" or len(meshes) > 1 else None
        parts.append((np.asarray(mesh.vertices, float), faces, str(own or f"body {i + 1}")))
    unit = meshes[0].units if ending == ".3mf" else None
    return parts, unit


def _model_only(content: bytes, name: str) -> bytes:
    """The archive of a 3MF with the members that are needed alone, none of them larger than is sensible."""
    packed = io.BytesIO()
    with (
        guarded(name, "export it again as 3MF"),
        zipfile.ZipFile(io.BytesIO(content)) as archive,
        zipfile.ZipFile(packed, "w") as kept,
    ):
        needed = [i for i in archive.infolist() if i.filename.lower().endswith(NEEDED)]
        if sum(info.file_size for info in needed) > LARGEST_MODEL:
            raise Refused(f"{name} would unpack to more than {LARGEST_MODEL >> 20} MB; export it coarser.")
        for info in needed:
            kept.writestr(info.filename, archive.read(info))
    return packed.getvalue()


def _guessed(points: Array, own: str | None, name: str) -> tuple[str, tuple[str, ...]]:
    if own is not None:
        return NAMES.get(own, own if own in (*UNITS, MICRON) else "mm"), ()
    across = float((points.max(axis=0) - points.min(axis=0)).max())
    unit = "m" if across < SMALL else "mm"
    return unit, (
        f"{name} does not say its unit; it is {across:.4g} units across and was taken to be in {unit}. "
        "Say another unit where that is wrong.",
    )
