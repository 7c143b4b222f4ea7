"""The demo job: what is being built in the workshop of the coffee roastery."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

from ..core.job.route import Asset, Job

HERE = Path(__file__).parent

SWITCHES = [
    {"number": 1, "figure": "circle", "diameter": "46"},
    {"number": 2, "figure": "circle", "diameter": "12", "x": "52", "place": "figure 1"},
    {"number": 3, "figure": "mirror", "of": "2"},
    {"number": 4, "figure": "slot", "length": "64", "width": "10", "y": "-48", "place": "figure 1"},
    {"number": 5, "figure": "text", "text": "Amselhof", "height": "9", "y": "40", "place": "figure 1"},
]
FRONT = [
    {"number": 1, "figure": "curve", "points": "0, 420; 400, 460; 800, 430; 1200, 400", "place": "origin"},
    {"number": 2, "figure": "curve", "points": "0, 380; 400, 470; 800, 500; 1200, 420", "place": "origin"},
]
ABOVE = [
    {"number": 1, "figure": "line", "points": "0, 0; 1200, 0", "place": "origin"},
    {"number": 2, "figure": "curve", "points": "0, 400; 600, 460; 1200, 380", "place": "origin"},
]
FLIGHTS = [
    {"number": 1, "figure": "line", "points": "20, 30; 905, 390", "place": "origin"},
    {"number": 2, "figure": "line", "points": "480, 30; 905, 203", "place": "origin"},
    {"number": 3, "figure": "line", "points": "20, 217; 445, 390", "place": "origin"},
]
ELBOW = [{"number": 1, "figure": "line", "points": "0, 60; 70, 60; 70, 0", "radius": "24", "place": "origin"}]
BADGE = [
    {"number": 1, "figure": "circle", "diameter": "52", "place": "middle"},
    {"number": 2, "figure": "circle", "diameter": "46", "place": "middle"},
    {"number": 3, "figure": "text", "text": "A", "height": "26", "y": "-13", "place": "middle"},
]
ARC = [{"number": 1, "figure": "arc", "radius": "150", "begin": "66", "end": "114", "place": "origin"}]
MARK = [
    {"number": 1, "figure": "circle", "diameter": "34", "place": "middle"},
    {"number": 2, "figure": "circle", "diameter": "29", "place": "middle"},
    {"number": 3, "figure": "text", "text": "A", "height": "15", "y": "-7.5", "place": "middle"},
]
"""Figures of the demo's drawings."""
CHAPTERS = {
    10: "Cyclone",
    60: "Lid",
    110: "Inlet transition",
    130: "Awning",
    160: "Lid, other ways",
    200: "Tray and counter",
    270: "Laser",
    290: "Display bench",
    340: "Grip line, badge",
    360: "Roasting drum",
    400: "Sight-glass collar",
    460: "Dosing handle",
    500: "Name plate",
}
"""The chapters of the demo job, by the numbers of the rows with which they begin."""


def demo_job() -> Job:
    """The chaff cyclone with its badge, the hopper lid with its film decal, the transition of the cyclone as a card
    model, the awning in panels, the lid once more, with reliefs and in three ways, the control tray and the counter
    front from sheet, the tray drawn on, bent and nested, the display bench of ribs, a line on the lid, a badge from a
    scan made clean, and bodies: the drum's flights, the collar's badge, the handle's scale and studs, a name plate."""
    job = cyclone_and_lid()
    for name in ("amsel_traced.svg", "flight.svg", "studs.step"):
        job = job.with_asset(Asset(name, (HERE / name).read_bytes()))
    rows = (
        ("transition", "Inlet transition", "",
         {"length": "rim*0.65", "width": "rim*0.45", "diameter": "outlet*1.25", "height": "160", "x": "30"}),
        ("develop", "Card model", "glue the seam last",
         {"form": "d110", "cuts": "1, 12", "tab": "12", "marks": "numbers", "material": "card", "way": "exact"}),
        ("domed_lid", "Awning", "over the counter front",
         {"length": "2400", "width": "900", "crown": "520", "corner": "0", "hole": "0"}),
        ("panels_through_sections", "Awning in panels", "",
         {"form": "d130", "count": "6", "across": "0, 1, 0"}),
        ("develop", "Develop the panels", "seam allowance is added by the sailmaker",
         {"form": "d140", "apart": "apart", "marks": "numbers", "material": "woven fabric"}),
        ("propose_reliefs", "Reliefs for the lid", "for a lid of card instead of film",
         {"blank": "d70", "target": "1.5", "most": "4"}),
        ("develop", "Lid with reliefs", "",
         {"form": "d60", "hold": "0, -90, 18", "along": "1, 0, 0", "way": "relaxed", "reliefs": "d160",
          "marks": "numbers", "material": "cast vinyl film"}),
        ("compare", "Three ways for the lid", "", {"blank": "d70"}),
        ("print_pages", "Lid on paper", "to be glued on for the trial", {"blank": "d170", "shown": "stretch"}),
        ("hollow_block", "Control tray, hollowed", "", {"width": "300", "depth": "180", "height": "60", "off": "top"}),
        ("make_sheet", "Control tray", "half folded here; stage 1 is the part",
         {"form": "d200", "opened": "auto", "radius": "2", "relief": "round", "flanges": "top:14", "rounding": "3",
          "gap": "0.2", "stage": "0.55", "material": "stainless sheet"}),
        ("hollow_block", "Counter front, bare", "",
         {"width": "1200", "depth": "420", "height": "900", "thickness": "2", "off": "bottom, back, left, right"}),
        ("make_sheet", "Counter front", "its one large bend in seven flats",
         {"form": "d220", "radius": "220", "steps": "7", "small": "2"}),
        ("draw_figures", "Holes in the tray", "the dial in the middle, a lamp at each side of it",
         {"blank": "d210", "figures": SWITCHES}),
        ("cut_file", "Tray, cut file", "", {"blank": "d210"}),
        ("plan_bends", "Tray on the press brake", "", {"blank": "d210"}),
        ("nest_parts", "The roastery's sheets", "two cones, the lid, the counter front, nine trays",
         {"parts": "50, 100, 230, 250", "counts": "2, 1, 1, 9", "sheets": "2500 x 1250, 1500 x 1000", "seconds": "2"}),
        ("check_cut", "Cone on the laser", "", {"drawing": "d50"}),
        ("lay_sheet", "Paper for the bench", "", {"width": "1300", "height": "600"}),
        ("draw_figures", "Bench from the front", "its two upper edges", {"blank": "d290", "figures": FRONT}),
        ("draw_figures", "Bench from above", "", {"blank": "d290", "figures": ABOVE}),
        ("sweep_guides", "Display bench", "for the beans, in front of the counter", {"front": "d300", "top": "d310"}),
        ("make_ribs", "Display bench, ribs", "24 pieces of plywood",
         {"form": "d320", "x": "", "y": "48", "start_y": "24", "count_x": "16", "count_y": "8", "thickness": "12",
          "fit": "0.2", "floor": "0"}),
        ("draw_curve", "Grip line on the lid", "where a hand takes hold of it",
         {"form": "d60", "through": "80, 0, 28; 0, 62, 27.457; -80, 0, 28; 0, -62, 27.457", "ends": "closed"}),
        ("thin_drawing", "Badge, traced", "from a scan: 11,000 tiny segments, doubles and specks",
         {"file": "amsel_traced.svg", "tolerance": "0.03", "smallest": "0.5", "gaps": "0.05"}),
        ("make_tube", "Roasting drum", "", {"diameter": "300", "height": "420", "wall": "3"}),
        ("develop", "Drum, inside", "", {"form": "d360", "faces": "3", "way": "exact"}),
        ("draw_figures", "Ways of the flights", "a line at an angle on the flat is a helix in the drum",
         {"blank": "d370", "figures": FLIGHTS}),
        ("sweep", "Helical flights", "they carry the beans to the front",
         {"artwork": "d380", "section": "flight.svg"}),
        ("lay_sheet", "Paper for profiles", "", {"width": "200", "height": "200"}),
        ("draw_figures", "Collar, profile", "", {"blank": "d400", "figures": ELBOW}),
        ("pull_profile", "Sight-glass collar", "", {"profile": "d410", "length": "90", "wall": "4"}),
        ("develop", "Collar, outside", "three faces as one", {"form": "d420", "faces": "1, 2, 3", "way": "exact"}),
        ("draw_figures", "Badge of the collar", "", {"blank": "d430", "figures": BADGE}),
        ("raise_artwork", "Collar with its badge", "over the bend", {"artwork": "d440", "by": "1.5"}),
        ("make_tube", "Dosing handle", "", {"diameter": "28", "height": "130", "wall": "0"}),
        ("lay_stations", "Scale of the handle", "each mark a fifth of what is left",
         {"form": "d460", "faces": "2", "along": "0, 0, 1", "rule": "left/5", "count": "7", "bar": "triangle",
          "size": "1.6"}),
        ("develop", "Handle, flat", "", {"form": "d460", "faces": "2", "way": "exact"}),
        ("stand_body", "Studs of the handle", "",
         {"file": "studs.step", "blank": "d480", "x": "-20", "y": "40", "turn": "90"}),
        ("draw_figures", "Name plate, profile", "as round as the drum", {"blank": "d400", "figures": ARC}),
        ("pull_profile", "Name plate, bent", "", {"profile": "d500", "length": "48"}),
        ("develop", "Name plate, flat", "", {"form": "d510", "way": "exact", "along": "1, 0, 0"}),
        ("draw_figures", "Mark to be sunk", "", {"blank": "d520", "figures": MARK}),
        ("thicken", "Name plate", "its mark sunk by 0.8",
         {"blank": "d520", "thickness": "2", "recess": "d530", "deep": "0.8", "shape": "formed"}),
    )  # fmt: skip
    for operation, title, note, parameters in rows:
        job = job.added(operation, **parameters)
        row = replace(job.rows[-1], id=f"d{10 * len(job.rows)}", title=title, note=note)
        job = replace(job, rows=(*job.rows[:-1], row))
    return replace(job, rows=tuple(replace(row, chapter=CHAPTERS.get(row.number, "")) for row in job.rows))


def cyclone_and_lid() -> Job:
    """Its first ten rows: cyclone and lid, each from its form to its cut file."""
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
