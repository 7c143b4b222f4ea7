"""Meshes in, developables, panels, reliefs: each beside something of the same kind that everybody has."""

from __future__ import annotations

import io
import time

import numpy as np
import trimesh

from zuschnitt.core.develop import unfolding
from zuschnitt.core.develop.developing import develop
from zuschnitt.core.developable.ruled import ruled_form
from zuschnitt.core.files.mesh_file import read_triangles
from zuschnitt.core.files.pdf import pdf_bytes
from zuschnitt.core.files.svg import svg_text
from zuschnitt.core.form.build import domed_lid
from zuschnitt.core.form.mesh_form import form_from_triangles
from zuschnitt.core.geometry.tracks import track
from zuschnitt.core.mesh.crossing import crossing
from zuschnitt.core.panels.panel import panel
from zuschnitt.core.reliefs.proposing import propose
from zuschnitt.core.shop.cut_drawing import drawing
from zuschnitt.core.shop.pages import paged


def timed(work) -> float:
    begin = time.perf_counter()
    work()
    return time.perf_counter() - begin


def line(what: str, ours: float, yardstick: str, theirs: float) -> None:
    print(f"{what:<58} {ours:>7.2f} s   {yardstick:<44} {theirs:>7.2f} s   {ours / theirs:>6.2f}")


def _globe() -> bytes:
    return trimesh.creation.icosphere(3, 60).export(file_type="stl")


def main() -> None:
    for _ in range(2):  # the first round warms the imports up
        round_()
        print()


def round_() -> None:
    ball = trimesh.creation.icosphere(7, 50)
    ball.update_faces(ball.triangles_center[:, 2] > 10)
    content = ball.export(file_type="stl")

    def reading(content=content):
        loaded = trimesh.load(io.BytesIO(content), file_type="stl")
        loaded.merge_vertices()
        trimesh.repair.fix_normals(loaded)

    def bringing(content=content):
        form_from_triangles(read_triangles(content, "dome.stl", "mm"), "dome.stl")

    count = f"{len(ball.faces):,} triangles"
    line(
        f"bring a mesh of {count} in, with its faces",
        timed(bringing),
        "read it, weld, make the normals agree",
        timed(reading),
    )

    s = np.linspace(0, 1, 241)
    lower = np.stack([80 * np.cos(2 * np.pi * s), 80 * np.sin(2 * np.pi * s), 0 * s], axis=1)
    upper = np.stack([30 + 40 * np.cos(2 * np.pi * s), 10 + 40 * np.sin(2 * np.pi * s), 100 + 0 * s], axis=1)
    lid = domed_lid(240, 180, 40, 40, 0)
    blank = develop(lid, [1])
    one = timed(lambda: develop(lid, [1]))
    made = panel(track(lower), track(upper))
    line(
        "a panel between two circles",
        timed(lambda: panel(track(lower), track(upper))),
        "one relaxed development",
        one,
    )
    form = ruled_form([made.surface], "panel")
    cone = develop(form, [1])
    points = cone.correspondence.to_form(np.random.default_rng(1).uniform(-60, 60, (20_000, 2))).points
    carried = timed(lambda: cone.correspondence.to_form(np.random.default_rng(1).uniform(-60, 60, (20_000, 2))))
    tree = timed(lambda: trimesh.proximity.ProximityQuery(trimesh.Trimesh(points[:3000])).vertex(points))
    line("20,000 points from the blank of a panel to its form", carried, "20,000 nearest of 3,000 points", tree)
    line(
        "propose reliefs that bring a lid under 2 %",
        timed(lambda: propose(lid, blank, 2.0)),
        "one relaxed development",
        one,
    )
    globe = form_from_triangles(read_triangles(_globe(), "globe.stl", "mm"), "globe.stl")
    whole = develop(globe, [1])
    line(
        "propose gores that bring a meshed ball under 10 %",
        timed(lambda: propose(globe, whole, 10.0)),
        "one relaxed development of it",
        timed(lambda: develop(globe, [1])),
    )
    rock = trimesh.creation.icosphere(1, 50)
    rock.vertices *= (0.75 + 0.5 * np.random.default_rng(0).random(len(rock.vertices)))[:, None]
    body = form_from_triangles(read_triangles(rock.export(file_type="stl"), "rock.stl", "mm"), "rock.stl", 1.0)
    faces = range(1, len(body.faces) + 1)
    search = timed(lambda: develop(body, faces))
    tries, unfolding.TRIES = unfolding.TRIES, 0
    line(
        f"unfold {len(faces)} faces over the best tree found",
        search,
        "over the first",
        timed(lambda: develop(body, faces)),
    )
    unfolding.TRIES = tries
    points, triangles = np.asarray(ball.vertices), np.asarray(ball.faces)
    line(
        f"look for triangles that cross, among {count}",
        timed(lambda: crossing(points, triangles)),
        "sort their edges",
        timed(lambda: np.unique(np.sort(triangles[:, [0, 1, 1, 2, 2, 0]].reshape(-1, 2), axis=1), axis=0)),
    )
    contours = drawing(blank, ())
    line(
        "a lid as PDF, with its map of 9,000 triangles",
        timed(lambda: pdf_bytes(paged(blank, contours, shown="stretch"), "lid")),
        "as SVG, without it",
        timed(lambda: svg_text(contours, "lid")),
    )


if __name__ == "__main__":
    main()
