"""Random artwork raised and sunk on random bodies: how many are exact, by mesh, refused, and whether volumes are right.

Arguments: how many (300), the first seed (1). A volume is held against area times height, with the curvature of the
surface; the area is that of the artwork on the form. What is off, not valid, or ends without a sentence is named.
"""

from __future__ import annotations

import sys
import time
from collections import Counter

import numpy as np
from OCP.BRepPrimAPI import BRepPrimAPI_MakeBox, BRepPrimAPI_MakeCylinder, BRepPrimAPI_MakeSphere, BRepPrimAPI_MakeTorus

from zuschnitt.core.job.evaluate import run_all
from zuschnitt.core.job.route import Asset, Job
from zuschnitt.core.kernel.step_out import shape_bytes

EXACT, RELAXED = 2e-3, 0.1
"""A change of volume may be off by this part of it, on faces developed exactly and relaxed."""


def bodies(rng: np.random.Generator) -> tuple[str, object, int, tuple[float, float], str]:
    """A name, the kernel's shape, the face that is developed, its two curvatures, and the way."""
    kind = rng.choice(["block", "cylinder", "ball", "ring"])
    r = float(rng.uniform(40, 90))
    if kind == "block":
        shape = BRepPrimAPI_MakeBox(*rng.uniform(90, 160, 3).tolist()).Shape()
        return kind, shape, 6, (0.0, 0.0), "exact"
    if kind == "cylinder":
        return kind, BRepPrimAPI_MakeCylinder(r, float(rng.uniform(100, 160))).Shape(), 1, (1 / r, 0.0), "exact"
    if kind == "ball":
        return kind, BRepPrimAPI_MakeSphere(r, -0.7, 0.7, 1.6).Shape(), 1, (1 / r, 1 / r), "relaxed"
    tube = r * float(rng.uniform(0.2, 0.4))
    return kind, BRepPrimAPI_MakeTorus(r, tube, -0.8, 0.8, 1.6).Shape(), 1, (1 / tube, 1 / (r + tube)), "relaxed"


def figures(rng: np.random.Generator, reach: float) -> list[dict]:
    """One to three closed figures side by side in the middle of the blank, some with an island."""
    made: list[dict] = []
    for k in range(int(rng.integers(1, 4))):
        size = float(rng.uniform(0.15, 0.4) * reach)
        at = {"x": f"{0.5 * (k - 1) * reach:.3f}", "y": f"{rng.uniform(-0.3, 0.3) * reach:.3f}"}
        turned = {**at, "turn": f"{rng.uniform(0, 180):.2f}"}
        wide, high = f"{size:.3f}", f"{0.6 * size:.3f}"
        shapes = {
            "circle": {**at, "diameter": wide},
            "slot": {**turned, "length": wide, "width": high},
            "rectangle": {**turned, "width": wide, "height": high, "radius": f"{0.1 * size:.3f}"},
            "polygon": {**turned, "sides": str(rng.integers(3, 9)), "across": f"{0.8 * size:.3f}"},
            "ellipse": {**turned, "length": wide, "width": high},
            "text": {**at, "text": str(rng.choice(["o", "8", "A", "R"])), "height": high, "kind": "cut"},
        }
        figure = str(rng.choice(list(shapes)))
        made.append({"number": len(made) + 1, "figure": figure, **shapes[figure]})
        if figure == "circle" and rng.random() < 0.5:
            made.append({"number": len(made) + 1, "figure": "circle", **at, "diameter": f"{0.4 * size:.3f}"})
    return made


def tried(seed: int) -> tuple[str, str]:
    """What became of one: a word, and what there is to say of it."""
    rng = np.random.default_rng(seed)
    name, shape, face, curved, way = bodies(rng)
    least = 1 / max(*curved, 1 / 120)
    by = float(rng.choice([-1, 1]) * rng.uniform(0.3, 3.0) * min(1.0, least / 30))
    draft, rounded = float(rng.choice([0, 0, 8])), float(rng.choice([0, 0, 0.2])) * abs(by)
    job = (
        Job(thickness="1").with_asset(Asset("body.step", shape_bytes(shape, name))).added("bring_in", file="body.step")
    )
    job = job.added("develop", faces=str(face), way=way)
    job = job.added("draw_figures", figures=figures(rng, 0.8 * min(least, 60)))
    job = job.added("raise_artwork", by=f"{by:.4f}", draft=f"{draft:g}", round=f"{rounded:.4f}")
    about = f"seed {seed}, {name}, by {by:.3f}, draft {draft:g}, round {rounded:.3f}"
    states = list(run_all(job).values())
    broken = next((state for state in states if state.status != "done"), None)
    if broken is not None:
        return "refused", f"{about}: {broken.reason}"
    made = states[-1].outcome.result("form").made
    if len(made) != 1:
        return "WRONG", f"{about}: {len(made)} bodies were made of one"
    change, before = float(made[0].volume_change), volume(shape)
    if made[0].by == "exact" and abs(made[0].volume - before - change) > 1e-6 * before:
        return "WRONG", f"{about}: it changed by {made[0].volume - before:.2f} mm³, and says {change:.2f}"
    if draft or rounded:
        return made[0].by, about
    area = covered(states[2].outcome.value.contours)
    one, other = curved
    wanted = area * by * (1 + by * (one + other) / 2 + by * by * one * other / 3)
    chords = area * made[0].deviation if made[0].by == "mesh" else 0.0  # its triangles are so far off the surface
    off = max(abs(change - wanted) - chords, 0.0) / abs(wanted)
    if off > (EXACT if way == "exact" else RELAXED):
        return "WRONG", f"{about}: {change:.2f} mm³ instead of {wanted:.2f}, {100 * off:.2f} % off"
    return made[0].by, about


def volume(shape: object) -> float:
    from OCP.BRepGProp import BRepGProp
    from OCP.GProp import GProp_GProps

    found = GProp_GProps()
    BRepGProp.VolumeProperties_s(shape, found)
    return float(found.Mass())


def covered(contours) -> float:
    """The area of closed contours, what lies within another one alternating."""
    import shapely

    area = shapely.Polygon()
    for contour in contours:
        area = area.symmetric_difference(shapely.Polygon(contour.flattened(1e-4)))
    return float(area.area)


def main() -> None:
    count = int(sys.argv[1]) if len(sys.argv) > 1 else 300
    first = int(sys.argv[2]) if len(sys.argv) > 2 else 1
    found: Counter[str] = Counter()
    begin, slowest = time.perf_counter(), (0.0, 0)
    for seed in range(first, first + count):
        since = time.perf_counter()
        try:
            became, about = tried(seed)
        except Exception as error:
            became, about = "FALLEN", f"seed {seed}: {type(error).__name__}: {error}"
        slowest = max(slowest, (time.perf_counter() - since, seed))
        found[became] += 1
        if became not in ("exact", "mesh"):
            print(f"{became}: {about}", flush=True)
    print(
        f"{count} in {time.perf_counter() - begin:.0f} s, slowest {slowest[0]:.1f} s (seed {slowest[1]}): {dict(found)}"
    )
    sys.exit(1 if found["WRONG"] or found["FALLEN"] else 0)


if __name__ == "__main__":
    main()
