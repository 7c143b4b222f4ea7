"""3MF: the triangles of a form's bodies, each with its name and colour, in mm (3MF core specification 1.3)."""

from __future__ import annotations

import io
import zipfile

import numpy as np
from lxml import etree

from ..form.appearance import TINTS, Looks
from ..form.form import Form
from ..form.joined_triangles import joined_triangles
from .mesh_back import require_same_triangles

CORE = "http://schemas.microsoft.com/3dmanufacturing/core/2015/02"
CONTENT_TYPES = (
    '<?xml version="1.0" encoding="UTF-8"?>\n'
    '<Types xmlns="http://schemas.openxmlformats.org/package/2006/content-types">'
    '<Default Extension="rels" ContentType="application/vnd.openxmlformats-package.relationships+xml"/>'
    '<Default Extension="model" ContentType="application/vnd.ms-package.3dmanufacturing-3dmodel+xml"/></Types>'
)
RELATIONSHIPS = (
    '<?xml version="1.0" encoding="UTF-8"?>\n'
    '<Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships">'
    '<Relationship Target="/3D/3dmodel.model" Id="rel0" '
    'Type="http://schemas.microsoft.com/3dmanufacturing/2013/01/3dmodel"/></Relationships>'
)
COLOURS = ("#C8C8C4", "#AEBF6E", "#8E99CC", "#C786AC", "#C6A26B", "#7CB998")
"""Of the tints of bodies, as they are told apart in the window, only stronger."""
FIRST_OF_ALL = (1980, 1, 1, 0, 0, 0)
"""The same form gives the same bytes, whenever it is written."""
assert len(COLOURS) == TINTS


def threemf_bytes(form: Form, looks: Looks = Looks()) -> bytes:  # noqa: B008 - a frozen value
    """One object for each body, under its name, in its tint, or else one by its place.

    Raises CannotBeDone where the file, read back, does not hold the same triangles.
    """
    model = etree.Element("model", {"unit": "millimeter"}, nsmap={None: CORE})
    resources = etree.SubElement(model, "resources")
    materials = etree.SubElement(resources, "basematerials", id="1")
    for number, colour in enumerate(COLOURS):
        etree.SubElement(materials, "base", name=f"tint {number}", displaycolor=f"{colour}FF")
    build = etree.SubElement(model, "build")
    written = []
    for place, body in enumerate(form.bodies, 1):
        tint = looks.tints.get(place, (place - 1) % TINTS)
        name = looks.name(place, body) or f"body {place}"
        made = etree.SubElement(
            resources, "object", id=str(place + 1), type="model", name=name, pid="1", pindex=str(tint)
        )
        mesh = etree.SubElement(made, "mesh")
        points, triangles = joined_triangles(form, set(body.faces))
        written.append(points[triangles])
        used, corners = np.unique(triangles, return_inverse=True)
        vertices = etree.SubElement(mesh, "vertices")
        for x, y, z in points[used].tolist():
            etree.SubElement(vertices, "vertex", x=f"{x:.9g}", y=f"{y:.9g}", z=f"{z:.9g}")
        faces = etree.SubElement(mesh, "triangles")
        for a, b, c in corners.reshape(-1, 3).tolist():
            etree.SubElement(faces, "triangle", v1=str(a), v2=str(b), v3=str(c))
        etree.SubElement(build, "item", objectid=str(place + 1))
    packed = io.BytesIO()
    with zipfile.ZipFile(packed, "w", zipfile.ZIP_DEFLATED) as archive:
        for member, content in (
            ("[Content_Types].xml", CONTENT_TYPES.encode()),
            ("_rels/.rels", RELATIONSHIPS.encode()),
            ("3D/3dmodel.model", etree.tostring(model, xml_declaration=True, encoding="UTF-8")),
        ):
            archive.writestr(zipfile.ZipInfo(member, FIRST_OF_ALL), content, zipfile.ZIP_DEFLATED)
    content = packed.getvalue()
    if written:
        require_same_triangles(content, "3mf", np.concatenate(written))
    return content
