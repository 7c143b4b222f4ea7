"""One call of each command, for its help."""

from __future__ import annotations

EXAMPLES = {
    "faces": "faces cone.step --report faces.json",
    "develop": "develop cone.step --pick 70,0,75 --dxf blank.dxf --report blank.json",
    "wrap": "wrap cone.step badge.svg --pick 70,0,75 --at 20,30 --step on-form.step",
    "holes": "holes cone.step holes.dxf --pick 70,0,75 --step drilled.step",
    "raise": "raise collar.step badge.svg --by 1.5 --tangent --pick 40,0,20 --step raised.step",
    "thicken": "thicken cone.step --pick 70,0,75 --thickness 2 --formed --step shell.step",
    "sweep": "sweep drum.step helix.svg --section strip.svg --step flight.step",
    "stations": "stations handle.step --from 0,0,0 --along 1,0,0 --rule left/8 --bar half-round:3 --step marks.step",
    "pocket": "pocket plate.step --faces 1 --inset 6 --corner 3 --deep 2 --step pocket.step",
    "trace": "trace lid.step line.json --dxf blank.dxf",
    "draw": 'draw lid.step --through "0,0,40; 40,10,38; 60,40,30" --step curve.step',
    "panels": "panels --sections 6 --across 0,1,0 awning.step --dxf panels.dxf",
    "compare": "compare lid.step --report ways.json",
    "thin": "thin logo.svg --tolerance 0.05 --smallest 0.5 --dxf logo.dxf",
    "prepare": "prepare blank.dxf --kerf 0.2 --lead 4 --gcode blank.nc",
    "compare-curves": "compare-curves before.step after.step",
    "sheet": "sheet --block 300,180,60 --hollow 1.5 --open auto --flange top:15 --dxf flat.dxf --step tray.step",
    "ribs": "ribs bench.step --x 60 --y 60 --thickness 12 --dxf ribs.dxf",
    "materials": "materials",
    "picture": "picture cone.step --png cone.png --material brass",
    "nest": "nest tray.dxf:4 cone.dxf --sheet 1500x1000 --gap 4 --dxf nest.dxf",
    "check": "check blank.dxf --form cone.step --pick 70,0,75",
    "press": "press flat.dxf --report plan.json",
    "batch": "batch cone.zuschnitt sizes.csv --out cones --dxf --workers 2",
    "run": "run cone.zuschnitt --set 10.top=420 --dxf blank.dxf",
}
"""The words of a call after the program's name."""
