"""The demo job: the chaff cyclone with its badge, and the hopper lid with its film decal."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

from ..core.route import Asset, Job

HERE = Path(__file__).parent


def demo_job() -> Job:
    """Ten rows: cyclone and lid, each from its form to its cut file."""
    job = Job(name="Chaff cyclone", material="steel sheet", thickness="1.0")
    for name in ("amsel.svg", "decal.svg"):
        job = job.with_asset(Asset(name, (HERE / name).read_bytes()))
    job = job.with_value("rim", "400").with_value("outlet", "rim*0.3")
    job = job.added("turned_body", top="rim", cylinder="220", cone="420", outlet="outlet")
    job = job.added("develop", faces="1", hold="0, -rim/2, 420", along="1, 0, 0", seam="opposite", way="exact")
    job = job.added("place_artwork", file="amsel.svg", x="-136", y="-80", turn="0", scale="1.7")
    job = job.added("wrap")
    job = job.added("cut_file")
    job = job.added("domed_lid", length="240", width="180", crown="36", corner="40", hole="60")
    job = job.added("develop", hold="0, -90, 18", along="1, 0, 0", way="relaxed", material="cast vinyl film")
    job = job.added("place_artwork", file="decal.svg", x="-90", y="156", scale="1")
    job = job.added("wrap")
    job = job.added("cut_file")
    titles = (
        "Cyclone body",
        "Develop the cone",
        "Badge",
        "",
        "",
        "Hopper lid",
        "Develop the lid",
        "Film decal",
        "",
        "",
    )
    notes = {1: "seam at the back, weld hidden by the bracket", 6: "film goes on warm, from the middle outwards"}
    rows = tuple(
        replace(row, id=f"d{10 * (i + 1)}", title=titles[i], note=notes.get(i, "")) for i, row in enumerate(job.rows)
    )
    return replace(job, rows=rows)
