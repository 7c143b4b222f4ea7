"""A job of as many rows as nobody has: turned bodies, each laid flat, given a grid of circles and cut; and ten lids."""

from __future__ import annotations

from dataclasses import replace


def long_job(rows: int = 400):
    """The lids take long; the others are all different."""
    from zuschnitt.core.job.route import Job, Row

    made: list[Row] = []
    for k in range(rows // 4):
        made += [
            Row(f"f{k}", 0, "turned_body", {"cone": str(200 + k)}),
            Row(f"d{k}", 0, "develop", {"form": f"f{k}"}),
            Row(f"g{k}", 0, "circle_grid", {"blank": f"d{k}"}),
            Row(f"c{k}", 0, "cut_file", {"blank": f"d{k}"}),
        ]
    for k in range(10):
        made[40 * k : 40 * k + 2] = [
            Row(f"f{10 * k}", 0, "domed_lid", {}),
            Row(f"d{10 * k}", 0, "develop", {"form": f"f{10 * k}", "triangles": str(2 + k / 10)}),
        ]
    return Job("long", tuple(replace(row, number=10 * (i + 1)) for i, row in enumerate(made)))
