"""The job file: a ZIP archive with job.json and the brought-in files, untouched."""

from __future__ import annotations

import json
import struct
import zipfile
import zlib
from collections.abc import Mapping
from dataclasses import asdict
from io import BytesIO
from pathlib import Path, PurePosixPath
from typing import Any

from ..errors import Refused, ZuschnittError
from ..files.apart import guarded
from ..files.atomic import write_whole
from ..materials import material_from
from .job_schema import parsed, require_schema
from .route import Asset, Job, Row

SCHEMA = 1
ENDING = ".zuschnitt"
LARGEST = 2 << 30
"""The files of a job unpack to no more than this many bytes."""
LARGEST_TEXT = 64 << 20

DAMAGED = (zipfile.BadZipFile, zlib.error, EOFError, NotImplementedError, RuntimeError, OSError, struct.error)
"""What reading an archive raises where it is not whole."""
JOB_KEYS = {"schema", "name", "rows", "values", "material", "thickness", "unit", "assets", "materials"}
ROW_KEYS = {"id", "number", "operation", "parameters", "note", "enabled", "title", "view", "chapter"}


def job_bytes(job: Job) -> bytes:
    """The archive of a job."""
    content = {
        **job.extra,
        "schema": SCHEMA,
        "name": job.name,
        "unit": job.unit,
        "material": job.material,
        "thickness": job.thickness,
        "values": [{"name": name, "text": text} for name, text in job.values],
        "rows": [
            {
                **row.extra,
                "id": row.id,
                "number": row.number,
                "operation": row.operation,
                "parameters": dict(row.parameters),
                "note": row.note,
                "enabled": row.enabled,
                "title": row.title,
                **({"view": dict(row.view)} if row.view else {}),
                **({"chapter": row.chapter} if row.chapter else {}),
            }
            for row in job.rows
        ],
        "assets": {name: asset.sha256 for name, asset in sorted(job.assets.items())},
    }
    if own := job.own_materials:
        content["materials"] = [asdict(material) for material in own.values()]
    packed = BytesIO()
    with zipfile.ZipFile(packed, "w", zipfile.ZIP_DEFLATED, compresslevel=2) as archive:
        archive.writestr("job.json", json.dumps(content, indent=1, ensure_ascii=False))
        for name, asset in sorted(job.assets.items()):
            archive.writestr(f"assets/{name}", asset.content)
    return packed.getvalue()


def save_job(path: Path, job: Job) -> None:
    """Saves whole or not at all."""
    write_whole(path, job_bytes(job))


def load_job(path: Path) -> Job:
    """Loads a job file. Raises Refused, saying why, for anything that is not a whole one."""
    try:
        content = path.read_bytes()
    except OSError as error:
        raise Refused(f"{path} cannot be read: {error.strerror or error}; check the path.") from error
    return job_from_bytes(content, path.name)


def job_from_bytes(content: bytes, name: str) -> Job:
    """The job in an archive. Raises Refused, naming ``name``, where it is not a whole job."""
    if not content:
        raise Refused(f"{name} is empty; it holds no job.")
    try:
        with guarded(name, "take a copy or an autosave"), zipfile.ZipFile(BytesIO(content)) as archive:
            return _read(archive, name)
    except ZuschnittError as error:
        if not isinstance(error.__cause__, DAMAGED):
            raise
        raise Refused(
            f"{name} is not a whole job file (it is damaged or cut short); take a copy or an autosave."
        ) from error


def _read(archive: zipfile.ZipFile, name: str) -> Job:
    infos = archive.infolist()
    for info in infos:
        path = PurePosixPath(info.filename.replace("\\", "/"))
        if path.is_absolute() or ".." in path.parts or ":" in path.parts[0]:
            raise Refused(f"{name} holds a path that climbs out of it ({info.filename}); it was not opened.")
    names = {info.filename: info for info in infos}
    if "job.json" not in names:
        raise Refused(f"{name} holds no job.json; it is not a job file.")
    if names["job.json"].file_size > LARGEST_TEXT:
        raise Refused(f"The job.json in {name} is larger than {LARGEST_TEXT >> 20} MB; it was not opened.")
    content = parsed(archive.read("job.json"), name)
    schema = content.get("schema")
    if isinstance(schema, int) and schema > SCHEMA:
        raise Refused(
            f"{name} was saved by a newer version (schema {schema}, this one knows {SCHEMA}); "
            "open it with that version."
        )
    require_schema(content, name)
    needed = [f"assets/{asset}" for asset in content.get("assets", {})]
    lost = next((asset for asset in needed if asset not in names), None)
    if lost is not None:
        raise Refused(f"{name} lacks something it needs: {lost}; take a complete copy of it.")
    if sum(names[asset].file_size for asset in needed) > LARGEST:
        raise Refused(f"{name} would unpack to more than 2 GB; it was not opened.")
    rows = tuple(_row(row) for row in content.get("rows", []))
    assets = {asset: Asset(asset, archive.read(f"assets/{asset}")) for asset in content.get("assets", {})}
    for asset, digest in content.get("assets", {}).items():
        if isinstance(digest, str) and assets[asset].sha256 != digest:
            raise Refused(f"The file {asset} inside {name} was changed from outside; take a copy of the job.")
    return Job(
        name=str(content.get("name", "")),
        rows=rows,
        values=tuple((str(v["name"]), str(v["text"])) for v in content.get("values", [])),
        material=str(content.get("material", "")),
        thickness=str(content.get("thickness", "1.0")),
        unit=str(content.get("unit", "mm")) or "mm",
        assets=assets,
        materials={material.name: material for material in map(material_from, content.get("materials", []))},
        extra={key: value for key, value in content.items() if key not in JOB_KEYS},
    )


def _row(row: Mapping[str, Any]) -> Row:
    return Row(
        id=str(row["id"]),
        number=int(row["number"]),
        operation=str(row["operation"]),
        parameters=dict(row.get("parameters", {})),
        note=str(row.get("note", "")),
        enabled=bool(row.get("enabled", True)),
        title=str(row.get("title", "")),
        extra={key: value for key, value in row.items() if key not in ROW_KEYS},
        view=dict(row.get("view", {})),
        chapter=str(row.get("chapter", "")).strip(),
    )
