"""3MF files as other programs read them: bodies by name, closed, in their colours."""

from __future__ import annotations

import io
import zipfile

import pytest
import trimesh
from lxml import etree

from zuschnitt.core.files.mesh_file import read_triangles
from zuschnitt.core.files.threemf import COLOURS, CORE, threemf_bytes
from zuschnitt.core.form.appearance import Looks
from zuschnitt.core.form.mesh_form import form_from_triangles


@pytest.fixture(scope="module")
def parts():
    drum, block = trimesh.creation.cylinder(60, 120), trimesh.creation.box((30, 20, 10))
    block.apply_translation([150, 0, 0])
    content = trimesh.Scene({"drum": drum, "block & base": block}).export(file_type="3mf")
    return form_from_triangles(read_triangles(content, "parts.3mf"), "parts"), drum.volume, block.volume


def model(content):
    with zipfile.ZipFile(io.BytesIO(content)) as archive:
        return etree.fromstring(archive.read("3D/3dmodel.model"))


def test_bodies_come_back_closed_under_their_names(parts):
    form, drum, block = parts
    scene = trimesh.load(io.BytesIO(threemf_bytes(form)), file_type="3mf")
    found = {name.split("_")[0]: mesh for name, mesh in scene.geometry.items()}
    assert set(found) == {"drum", "block & base"}
    assert all(mesh.is_watertight for mesh in found.values())
    assert found["drum"].volume == pytest.approx(drum, rel=1e-6)
    assert found["block & base"].volume == pytest.approx(block, rel=1e-6)
    again = read_triangles(threemf_bytes(form), "again.3mf")
    assert again.unit == "mm" and again.bodies == ("drum", "block & base")


def test_names_and_tints_are_those_of_the_looks(parts):
    looks = Looks(names={2: "foot"}, tints={2: 4})
    found = model(threemf_bytes(parts[0], looks)).findall(f".//{{{CORE}}}object")
    assert [(each.get("name"), each.get("pindex")) for each in found] == [("drum", "0"), ("foot", "4")]
    bases = model(threemf_bytes(parts[0])).findall(f".//{{{CORE}}}base")
    assert [base.get("displaycolor") for base in bases] == [f"{colour}FF" for colour in COLOURS]


def test_the_same_form_gives_the_same_bytes(parts):
    assert threemf_bytes(parts[0]) == threemf_bytes(parts[0])
