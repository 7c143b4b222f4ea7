"""Reports: JSON whose keys scripts rely on."""

from __future__ import annotations

import hashlib
import json
from collections.abc import Sequence
from pathlib import Path
from typing import Any

from ... import __version__
from ..carry.carried import CarriedCurve
from ..develop.blank import Blank
from ..develop.compared import Compared
from ..form.form import Form


def report(command: str, source: Path | None, **parts: Any) -> dict[str, Any]:
    """A report with its head; ``parts`` are added where they are not None."""
    result: dict[str, Any] = {"schema": 1, "zuschnitt": __version__, "command": command}
    if source is not None:
        digest = hashlib.sha256(source.read_bytes()).hexdigest()
        result["input"] = {"file": str(source), "sha256": digest}
    result.update({key: value for key, value in parts.items() if value is not None})
    return result


def faces_part(form: Form) -> list[dict[str, Any]]:
    found = []
    for face in form.faces:
        about: dict[str, Any] = {"id": face.number, "kind": face.kind, "area": face.area}
        if face.radius is not None:
            about["radius"] = face.radius
        about["developable"] = face.developable
        about["neighbours"] = list(face.neighbours)
        about["smooth_neighbours"] = list(face.smooth)
        found.append(about)
    return found


def bodies_part(form: Form) -> list[dict[str, Any]]:
    return [{"name": body.name, "faces": list(body.faces)} for body in form.bodies]


def blank_part(blank: Blank) -> dict[str, Any]:
    figures = blank.figures
    part: dict[str, Any] = {
        "way": blank.way,
        "faces": list(blank.faces),
        "area_form": figures.area_form,
        "area_blank": figures.area_blank,
        "area_change": figures.area_change,
        "stretch_max": figures.stretch_max,
        "stretch_min": figures.stretch_min,
        "bounds": list(blank.bounds),
        "outline_length": figures.outline_length,
        "pieces": figures.pieces,
        "flipped": figures.flipped,
        "round_trip_max": figures.round_trip_max,
        "seconds": figures.seconds,
    }
    if blank.verdict is not None:
        part["verdict"] = {
            "material": blank.verdict.material.name,
            "can_take_it": blank.verdict.can,
            "failing_percent": 100 * blank.verdict.share,
            "source": blank.verdict.material.source,
        }
    if blank.mesh is not None:
        part["triangles"] = figures.triangles
    return part


def compared_part(compared: Compared) -> dict[str, Any]:
    """One way of a comparison: its blank and the histogram of its stretch, or why it was refused."""
    part: dict[str, Any] = {"way": compared.way, "purpose": compared.purpose}
    if compared.blank is None or compared.bins is None or compared.shares is None:
        return {**part, "refusal": compared.refusal}
    histogram = {"percent": compared.bins.tolist(), "share": compared.shares.tolist()}
    return {**part, "blank": blank_part(compared.blank), "histogram": histogram}


def curves_part(curves: Sequence[CarriedCurve]) -> list[dict[str, Any]]:
    return [
        {
            "name": curve.name,
            "layer": curve.layer,
            "closed": curve.closed,
            "inside": bool(curve.inside.all()),
            "form": curve.form.tolist(),
            "blank": curve.blank.tolist(),
            "length_form": curve.length_form,
            "length_blank": curve.length_blank,
        }
        for curve in curves
    ]


def messages_part(messages: Sequence[str], level: str = "note") -> list[dict[str, str]]:
    return [{"level": level, "text": text} for text in messages]


def report_bytes(content: dict[str, Any]) -> bytes:
    """A report as JSON, UTF-8: each key on a line, and each member of a list; what stands in these is not broken up."""

    def plain(value: Any) -> str:
        return json.dumps(value, ensure_ascii=False, allow_nan=False)

    def written(value: Any) -> str:
        listed = isinstance(value, list) and value
        return "[\n  " + ",\n  ".join(plain(each) for each in value) + "\n ]" if listed else plain(value)

    lines = ",\n".join(f" {plain(key)}: {written(value)}" for key, value in content.items())
    return f"{{\n{lines}\n}}\n".encode(errors="replace")
