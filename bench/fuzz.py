"""Damaged, hostile and odd calls of the command line, by the hundred: how many were tried, and which fell.

A call has fallen when it ends in a traceback, by a signal, with a code that is not in the contract, with too long a
sentence, after too long a time, or when it leaves something half written. ``bench/fuzz --seconds 600`` prints them.
"""

from __future__ import annotations

import argparse
import io
import json
import os
import random
import subprocess
import sys
import tempfile
import threading
import time
import zipfile
from collections import Counter
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")  # as the program itself: files are read in forked processes
ROOT = Path(__file__).parents[1]
CODES = {0, 2, 3, 4, 130}
LONGEST = 60.0
"""No call may take longer than this, in seconds."""
NUMBERS = ["0", "-1", "nan", "inf", "-inf", "1e200", "1e-300", "x", "1,2", "1/0", "9" * 20, "-0.0", "é", ""]
NAMES = "limit under edge hold along faces pick cuts tabs ratio straight long thickness layer seam way crease unit"
OPTIONS = [f"--{name}" for name in NAMES.split()]
ART = ["--scale", "--turn", "--at"]


class Callers:
    """Warm processes, one for each thread that calls: a call costs what it does, not the start of an interpreter."""

    def __init__(self) -> None:
        self._own = threading.local()
        self._started: list[subprocess.Popen[str]] = []

    def _process(self) -> subprocess.Popen[str]:
        if getattr(self._own, "process", None) is None or self._own.process.poll() is not None:
            self._own.process = subprocess.Popen(
                [sys.executable, str(ROOT / "bench" / "warm.py")],
                stdin=subprocess.PIPE, stdout=subprocess.PIPE, text=True, cwd=ROOT,
                env={**os.environ, "OPENBLAS_NUM_THREADS": "1"},
            )  # fmt: skip
            self._started.append(self._own.process)
        return self._own.process

    def run(self, arguments: list[str], seconds: float = LONGEST) -> tuple[int | None, str, float]:
        """The code (None where it took too long), what was said on standard error, and the seconds it took."""
        process = self._process()
        process.stdin.write(json.dumps({"arguments": arguments, "seconds": seconds}) + "\n")
        process.stdin.flush()
        answer = json.loads(process.stdout.readline())
        return answer["code"], answer["said"], answer["seconds"]

    def close(self) -> None:
        for process in self._started:
            process.stdin.close()
            process.wait()


def fallen(code: int | None, said: str) -> str | None:
    """Why a call has fallen; None where it has not."""
    if code is None:
        return "took too long"
    if code not in CODES:
        return f"ended with {code}"
    if "Traceback" in said or "Warning" in said:
        return "a traceback or a warning"
    lines = said.strip().splitlines()
    if code in (2, 3, 4) and (not lines or len(lines[-1]) > 400):
        return "no sentence, or too long a one"
    return None


def damaged(content: bytes, dice: random.Random) -> bytes:
    """Bytes exchanged, cut out, doubled, or digits made others."""
    made = bytearray(content)
    for _ in range(dice.choice([1, 1, 2, 5, 25])):
        if not made:
            break
        place = dice.randrange(len(made))
        how = dice.randrange(6)
        if how == 0:
            made[place] = dice.randrange(256)
        elif how == 1:
            del made[place : place + dice.choice([1, 5, 100, 2000])]
        elif how == 2:
            made[place:place] = made[place : place + dice.choice([1, 20, 500])]
        elif how == 3:
            made = made[:place] if dice.random() < 0.3 else made
        elif how == 4:
            made[place:place] = dice.choice([b"nan", b"1e400", b"-", b"<g>", b"\0", b"9" * 30, b"inf"])
        else:
            digits = [i for i in range(place, min(place + 300, len(made))) if made[i : i + 1].isdigit()]
            for i in digits[:3]:
                made[i] = ord("0") + dice.randrange(10)
    return bytes(made)


def job_with(content: bytes, dice: random.Random) -> bytes:
    """A job file with one field of its job.json made odd."""
    odd = [None, [], {}, "", "x", -1, 0, 1e30, True, [[]], {"a": 1}, "\u0000", "nan", "../x", 10**30]
    with zipfile.ZipFile(io.BytesIO(content)) as archive:
        members = {name: archive.read(name) for name in archive.namelist()}
    job = json.loads(members["job.json"])
    places = []

    def collect(node):
        for key in node if isinstance(node, dict) else range(len(node)):
            places.append((node, key))
            if isinstance(node[key], dict | list):
                collect(node[key])

    collect(job)
    node, key = dice.choice(places)
    if dice.random() < 0.2:
        del node[key]
    else:
        node[key] = dice.choice(odd)
    members["job.json"] = json.dumps(job).encode()
    packed = io.BytesIO()
    with zipfile.ZipFile(packed, "w") as archive:
        for name, data in members.items():
            archive.writestr(name, data)
    return packed.getvalue()


class Fuzzer:
    """Makes calls from a few good files, by a seed."""

    def __init__(self, folder: Path) -> None:
        self.folder = folder
        sys.path.insert(0, str(ROOT))
        import trimesh

        import zuschnitt.core.kernel  # noqa: F401 - it has the kernel write in silence
        from tests import parts

        self.forms: list[Path] = []
        for name in ("box", "tube", "joggle", "octant", "bent_sheet", "apex"):
            path = folder / f"{name}.step"
            parts.write(path, name)
            self.forms.append(path)
        for ending in ("stl", "obj", "ply", "3mf"):
            path = folder / f"mesh.{ending}"
            trimesh.creation.capsule(40, 15, count=[8, 8]).export(path)
            self.forms.append(path)
        self.art = [ROOT / "zuschnitt" / "demo" / "decal.svg", folder / "good.dxf"]
        import ezdxf

        document = ezdxf.new("R2010")
        space = document.modelspace()
        space.add_circle((10, 10), 5)
        space.add_lwpolyline([(0, 0, 0.3), (20, 0, 0), (20, 20, -0.5)], format="xyb", close=True)
        space.add_spline([(0, 0), (5, 9), (9, 2), (20, 20)])
        document.blocks.new("b").add_line((0, 0), (3, 3))
        space.add_blockref("b", (5, 5), dxfattribs={"row_count": 2, "row_spacing": 4})
        document.saveas(self.art[1])
        self.curves = folder / "curves.json"
        self.curves.write_text(json.dumps({"curves": [[[0, 0, 10], [10, 5, 12], [30, 30, 20]]]}))
        self.job, self.shop, self.cut = (folder / name for name in ("job.zuschnitt", "shop.zuschnitt", "cut.dxf"))
        self._small_job()

    def _small_job(self) -> None:
        from zuschnitt.core.job.job_file import save_job
        from zuschnitt.core.job.route import Asset, Job

        job = Job("small").with_asset(Asset("decal.svg", self.art[0].read_bytes()))
        job = job.added("turned_body").added("develop").added("place_artwork", file="decal.svg").added("wrap")
        save_job(self.job, job.added("cut_file"))
        figures = [
            {"number": 1, "figure": "slot", "length": "40", "width": "12", "place": "edge 1", "y": "20"},
            {"number": 2, "figure": "circle", "place": "figure 1", "x": "30"},
            {"number": 3, "figure": "row", "of": "2", "count": "3", "pitch": "12"},
            {"number": 4, "figure": "line", "points": "0, 0; 30, 0; 30, 20", "ends": "closed", "radius": "3"},
            {"number": 5, "figure": "combine", "of": "4", "way": "less", "other": "1"},
            {"number": 6, "figure": "text", "text": "Amselhof"},
        ]
        shop = Job("shop").added("lay_sheet").added("draw_figures", figures=figures).added("cut_file")
        save_job(self.shop, shop.added("prepare_cut", lead="3", bridges="2").added("check_cut"))
        self.cut.write_bytes(self._cut_file(shop))

    @staticmethod
    def _cut_file(job) -> bytes:
        from zuschnitt.core.job.evaluate import run_all
        from zuschnitt.core.results.result import Printing

        states = run_all(job)
        return states[job.rows[-1].id].outcome.results[0].content("dxf", "cut", Printing())

    def input(self, seed: int) -> tuple[str, bytes]:
        """A damaged file, by its name."""
        dice = random.Random(seed)
        path = dice.choice([*self.forms, *self.art, *self.art, self.curves, self.job, self.job, self.shop, self.shop])
        content = path.read_bytes()
        if path in (self.job, self.shop) and dice.random() < 0.8:
            return path.name, job_with(content, dice)
        return path.name, damaged(content, dice)

    def read(self, name: str, content: bytes) -> None:
        """What a call does with such a file."""
        from zuschnitt.core.files.artwork_file import read_artwork
        from zuschnitt.core.files.curve_file import read_curves
        from zuschnitt.core.files.form_file import read_form
        from zuschnitt.core.job.evaluate import run_all
        from zuschnitt.core.job.job_file import job_from_bytes

        ending = name.rpartition(".")[2]
        if ending in ("svg", "dxf"):
            read_artwork(content, name)
        elif ending == "json":
            read_curves(content, name)
        elif ending == "zuschnitt":
            states = run_all(job_from_bytes(content, name))
            mistakes = [state.reason for state in states.values() if "mistake in the program" in state.reason]
            if mistakes:
                raise RuntimeError(mistakes[0])
        else:
            read_form(content, name)

    def call(self, seed: int) -> tuple[list[str], Path]:
        """The arguments of a call, and the folder it writes into."""
        dice = random.Random(seed)
        out = self.folder / f"call-{seed}"
        out.mkdir()
        kinds = ["form", "form", "art", "art", "curves", "job", "job", "options", "options", "thin", "ribs", "draw"]
        kinds += ["prepare", "check", "press", "nest", "sheet", "shop"]
        kind = dice.choice(kinds)

        def spoilt(path: Path) -> Path:
            bad = out / path.name
            bad.write_bytes(damaged(path.read_bytes(), dice))
            return bad

        form = dice.choice(self.forms)
        written = ["--report", str(out / "r.json"), "--svg", str(out / "o.svg")]
        if kind == "form":
            return ["develop", str(spoilt(form)), "--quiet", *written], out
        if kind == "art":
            return [
                "wrap",
                str(self.forms[1]),
                str(spoilt(dice.choice(self.art))),
                "--faces",
                "1",
                "--quiet",
                *written,
            ], out
        if kind in ("prepare", "check", "press", "nest"):
            cut = dice.choice([self.cut, *self.art])
            given = str(spoilt(cut) if dice.random() < 0.5 else cut)
            more = {
                "prepare": [
                    "--kerf",
                    dice.choice(NUMBERS),
                    "--lead",
                    dice.choice(NUMBERS),
                    "--bridges",
                    dice.choice(NUMBERS),
                ],
                "check": ["--kerf", dice.choice(NUMBERS)],
                "press": [],
                "nest": [
                    "--sheet",
                    dice.choice(["300x200", "0x0", "1e9x1", "20x20", "ax3"]),
                    "--gap",
                    dice.choice(NUMBERS),
                ],
            }[kind]
            outputs = written if kind in ("prepare", "nest") else written[:2]
            return [kind, given, *more, "--quiet", *outputs], out
        if kind == "sheet":
            sizes = ",".join(dice.choice([*NUMBERS[:7], "60", "90", "40"]) for _ in range(3))
            block = ["--block", sizes, "--hollow", dice.choice([*NUMBERS, "1.5", "2"])]
            source = (
                block if dice.random() < 0.6 else [str(spoilt(self.forms[0]) if dice.random() < 0.5 else self.forms[0])]
            )
            return ["sheet", *source, "--open", dice.choice(["auto", "1", "999", "x"]), "--quiet", *written], out
        if kind == "shop":
            bad = out / "bad.zuschnitt"
            bad.write_bytes(job_with(self.shop.read_bytes(), dice))
            return ["run", str(bad), "--quiet", *written], out
        if kind == "thin":
            thin = ["thin", str(spoilt(dice.choice(self.art))), "--tolerance", dice.choice(NUMBERS)]
            return [*thin, "--gaps", dice.choice(NUMBERS), "--quiet", *written], out
        if kind == "ribs":
            ribs = ["ribs", str(spoilt(form) if dice.random() < 0.5 else form), "--quiet", *written]
            for option in ("--x", "--y", "--thickness", "--fit"):
                ribs += [option, dice.choice([*NUMBERS, "10", "25", "3"])]
            return ribs, out
        if kind == "draw":
            points = "; ".join(",".join(dice.choice([*NUMBERS[:7], "40", "20"]) for _ in range(3)) for _ in range(3))
            return ["draw", str(form), "--through", points, "--quiet", *written], out
        if kind == "curves":
            curves = str(spoilt(self.curves))
            read = ["trace", str(self.forms[1]), curves] if dice.random() < 0.5 else ["panels", curves]
            return [*read, "--quiet", *written], out
        if kind == "job":
            bad = out / "bad.zuschnitt"
            content = self.job.read_bytes()
            bad.write_bytes(job_with(content, dice) if dice.random() < 0.8 else damaged(content, dice))
            return ["run", str(bad), "--quiet", *written], out
        options: list[str] = []
        for _ in range(dice.choice([1, 2, 3])):
            option = dice.choice(OPTIONS)
            value = dice.choice(NUMBERS)
            if option in ("--hold", "--along", "--pick") and dice.random() < 0.7:
                value = ",".join(dice.choice(NUMBERS[:7]) for _ in range(3))
            options += [option, value]
        if dice.random() < 0.4:
            return [
                "wrap",
                str(form),
                str(dice.choice(self.art)),
                dice.choice(ART),
                dice.choice(NUMBERS),
                *options,
                *written,
            ], out
        return ["develop", str(form), *options, *written], out


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--seconds", type=float, default=120)
    parser.add_argument("--seed", type=int, default=0, help="of the first call")
    parser.add_argument("--keep", type=Path, help="a folder for the inputs that fell")
    parser.add_argument("--readers", action="store_true", help="calls the readers alone, many more in the same time")
    options = parser.parse_args()
    sys.path.insert(0, str(ROOT))
    from zuschnitt.core.errors import ZuschnittError

    found: list[tuple[int, str, list[str]]] = []
    codes: Counter[int | None] = Counter()
    slowest = 0.0
    end = time.monotonic() + options.seconds
    with tempfile.TemporaryDirectory() as name, ThreadPoolExecutor(os.cpu_count() or 1) as pool:
        fuzzer = Fuzzer(Path(name))
        callers = Callers()

        def one(seed: int):
            if time.monotonic() > end:
                return None
            arguments, out = fuzzer.call(seed)
            code, said, seconds = callers.run(arguments)
            why = fallen(code, said)
            left = [path.name for path in out.iterdir() if path.name.startswith(".")]
            if why is None and (left or (code != 0 and (out / "o.svg").exists())):
                why = "left something half written"
            if why is None:
                for path in out.iterdir():
                    path.unlink()
                out.rmdir()
            elif options.keep is not None:
                options.keep.mkdir(parents=True, exist_ok=True)
                given = [
                    Path(each) for each in arguments[1:3] if Path(each).parent == Path(name) and Path(each).is_file()
                ]
                for path in (*out.iterdir(), *given):
                    (options.keep / f"{seed}-{path.name}").write_bytes(path.read_bytes())
            return seed, why, arguments, code, seconds

        def read(seed: int):
            """A reader called here, which is much quicker than a call."""
            if time.monotonic() > end:
                return None
            begin = time.monotonic()
            name, content = fuzzer.input(seed)
            try:
                fuzzer.read(name, content)
                code, why = 0, None
            except ZuschnittError as error:
                code, why = error.exit_code, None if len(error.sentence) <= 400 else "too long a sentence"
            except Exception as error:
                code, why = 1, f"{type(error).__name__}: {error}"
            if why and options.keep is not None:
                options.keep.mkdir(parents=True, exist_ok=True)
                (options.keep / f"{seed}-{name}").write_bytes(content)
            seconds = time.monotonic() - begin
            return seed, why or ("took too long" if seconds > LONGEST else None), [name], code, seconds

        seeds = range(options.seed, options.seed + 1_000_000)
        for made in map(read, seeds) if options.readers else pool.map(one, seeds):
            if made is None:
                break
            seed, why, arguments, code, seconds = made
            codes[code] += 1
            slowest = max(slowest, seconds)
            if why:
                found.append((seed, why, arguments))
                print(f"{seed:>8}  {why}  {' '.join(arguments)[:200]}", flush=True)
        callers.close()
    print(f"tried {sum(codes.values())}, fallen {len(found)}, slowest {slowest:.1f} s; codes {dict(codes)}")
    sys.exit(1 if found else 0)


if __name__ == "__main__":
    main()
