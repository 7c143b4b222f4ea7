"""``batch``: a table of sizes gives the files of a job for each row, here, in processes, and at a scheduler."""

from __future__ import annotations

import json
import os
import re
import signal
import subprocess
import sys
import time
import tracemalloc
from pathlib import Path

import pytest

from zuschnitt.core.batch.ledger import Ledger
from zuschnitt.core.batch.piece import Piece
from zuschnitt.core.batch.table import read_table
from zuschnitt.core.errors import Refused
from zuschnitt.core.files.dxf import read_dxf
from zuschnitt.core.job.job_file import job_bytes
from zuschnitt.core.job.route import Job

from .test_commands import call, refused


@pytest.fixture(scope="module")
def files(tmp_path_factory):
    folder = tmp_path_factory.mktemp("batch")
    job = Job(name="Cone", material="steel sheet", thickness="1.0").with_value("top", "400")
    job = job.with_value("outlet", "top*0.3")
    job = job.added("turned_body", top="top", cylinder="0", cone="420", outlet="outlet")
    (folder / "cone.zuschnitt").write_bytes(job_bytes(job.added("develop").added("cut_file")))
    lines = ["name,top,outlet", *(f"cone-{k},{200 + 10 * k},{50 + k}" for k in range(12))]
    (folder / "cones.csv").write_text("\n".join(lines))
    return folder


def rows_of(folder: Path):
    return {row["name"]: row for row in json.loads((folder / "report.json").read_text())["rows"]}


def batch(files, out, *more):
    return call("batch", files / "cone.zuschnitt", files / "cones.csv", "--out", out, "--dxf", "--quiet", *more)


@pytest.mark.parametrize("more", [(), ("--workers", "2")])
def test_each_row_gives_its_files(files, tmp_path, more):
    made = batch(files, tmp_path / "out", "--svg", *more)
    assert made.returncode == 0, made.stderr
    rows = rows_of(tmp_path / "out")
    assert list(rows) == [f"cone-{k}" for k in range(12)]
    for k, row in enumerate(rows.values()):
        assert row["status"] == "done" and row["files"] == [f"cone-{k}.dxf", f"cone-{k}.svg"]
        drawing = read_dxf((tmp_path / "out" / row["files"][0]).read_bytes(), "a.dxf")
        big, small = (200 + 10 * k) / 2, (50 + k) / 2
        slant = ((big - small) ** 2 + 420**2) ** 0.5
        area = sum(abs(c.area) for c in drawing.contours if c.layer == "CUT")
        assert area == pytest.approx(3.141592653589793 * (big + small) * slant, rel=1e-6)


def test_only_what_is_missing_or_out_of_date_is_made_again(files, tmp_path):
    out = tmp_path / "out"
    assert batch(files, out).returncode == 0
    times = {path.name: path.stat().st_mtime_ns for path in out.glob("*.dxf")}
    (out / "cone-3.dxf").unlink()
    (out / "cone-4.dxf").write_text("spoilt")
    again = batch(files, out)
    assert again.returncode == 0 and "2 rows computed" in again.stdout
    changed = {name for name, at in times.items() if (out / name).stat().st_mtime_ns != at}
    assert changed == {"cone-3.dxf", "cone-4.dxf"}
    assert (out / "cone-4.dxf").read_bytes().lstrip().startswith(b"0")


def test_bad_rows_never_stop_the_others(files, tmp_path):
    table = tmp_path / "bad.csv"
    table.write_text("name,top\na,200\nb,2+\nc,-5\n../x,100\na,300\nd,220\ne,\nf,1,2\n")
    made = call("batch", files / "cone.zuschnitt", table, "--out", tmp_path / "out", "--dxf", "--quiet")
    assert "6 of 8 rows were not made" in refused(made, 4)
    rows = rows_of(tmp_path / "out")
    assert [name for name, row in rows.items() if row["status"] == "done"] == ["a", "d"]
    assert all(row["reason"].endswith(".") for row in rows.values() if row["status"] == "failed")
    assert sorted(path.name for path in (tmp_path / "out").iterdir()) == ["a.dxf", "d.dxf", "report.json"]


@pytest.mark.parametrize(
    "table, why",
    [
        ("", "is empty"),
        ("name,top\n", "no rows"),
        ("name,tip\na,1\n", "the head 'tip'"),
        ("name,top,top\na,1,2\n", "twice"),
        ("name\na\n", "sets no value"),
        (b"\xff\xfe\x00a", "is not UTF-8"),
        ('name,top\n"a,1\n', "no CSV"),
    ],
)
def test_tables_are_checked_before_anything_runs(table, why):
    job = Job().with_value("top", "400")
    with pytest.raises(Refused, match=why):
        read_table(table if isinstance(table, bytes) else table.encode(), "t.csv", job)


@pytest.mark.parametrize(
    "more, code",
    [((), 2), (("--dxf", "--workers", "0"), 2), (("--dxf", "--row", "99"), 3), (("--pdf", "--row", "10"), 4),
     (("--dxf", "--workers", "2", "--scheduler", "tcp://127.0.0.1:1"), 2)],
)  # fmt: skip
def test_calls_that_cannot_be_done(files, tmp_path, more, code):
    refused(
        call("batch", files / "cone.zuschnitt", files / "cones.csv", "--out", tmp_path / "o", "--quiet", *more), code
    )


def test_a_scheduler_that_is_not_there(files, tmp_path, monkeypatch):
    from zuschnitt.core.batch import running

    monkeypatch.setattr(running, "PATIENCE", 1)
    with pytest.raises(Refused, match="No scheduler answers"):
        list(running.at_scheduler(b"", (), None, "tcp://127.0.0.1:9"))  # type: ignore[arg-type]


def started(*words, into: Path):
    environment = {**os.environ, "PYTHONPATH": str(Path(__file__).parents[2]), "OPENBLAS_NUM_THREADS": "1"}
    log = into.open("w")
    return subprocess.Popen([sys.executable, "-m", "dask", *words], stdout=log, stderr=log, env=environment)


def said(log: Path, pattern: str) -> str:
    for _ in range(600):
        found = re.search(pattern, log.read_text())
        if found:
            return found.group(0)
        time.sleep(0.1)
    raise AssertionError(log.read_text())


def test_a_scheduler_with_two_workers_one_of_which_is_killed(files, tmp_path):
    running = [started("scheduler", "--host", "127.0.0.1", "--port", "0", "--no-dashboard", into=tmp_path / "s.log")]
    try:
        address = said(tmp_path / "s.log", r"tcp://127\.0\.0\.1:\d+")
        common = ("worker", address, "--nthreads", "1", "--no-nanny", "--no-dashboard", "--local-directory", tmp_path)
        for k in range(2):
            running.append(started(*map(str, common), into=tmp_path / f"w{k}.log"))
            said(tmp_path / f"w{k}.log", "Registered to")
        words = ["batch", files / "cone.zuschnitt", files / "cones.csv", "--out", tmp_path / "out", "--dxf", "--quiet"]
        environment = {**os.environ, "PYTHONPATH": str(Path(__file__).parents[2])}
        made = subprocess.Popen(
            [sys.executable, "-m", "zuschnitt", *map(str, words), "--scheduler", address],
            stderr=subprocess.PIPE, text=True, env=environment,
        )  # fmt: skip
        for _ in range(600):
            if list((tmp_path / "out").glob("*.dxf")) if (tmp_path / "out").exists() else False:
                break
            time.sleep(0.1)
        running[1].send_signal(signal.SIGKILL)
        _, errors = made.communicate(timeout=200)
        assert made.returncode == 0, errors
        assert all(row["status"] == "done" for row in rows_of(tmp_path / "out").values())
        assert len(list((tmp_path / "out").glob("*.dxf"))) == 12
    finally:
        for process in running:
            process.kill()
            process.wait()


def test_ten_thousand_rows_take_little_memory(tmp_path):
    """From row 100 to row 10,000: less than the 50 MB that a batch may grow by, most of it the report as it is written."""
    names = [f"cone-{k}" for k in range(10_000)]
    labels = ("form", "blank", "size", "change", "mass", "way")
    ledger = Ledger(tmp_path, names)
    tracemalloc.start()
    try:
        for name in names:
            ledger.add(Piece(name, {}, {label: f"{label} of {name}" for label in labels}), f"{name:a>64}")
            if name == "cone-100":
                early = tracemalloc.get_traced_memory()[1]
        ledger.write()
        assert tracemalloc.get_traced_memory()[1] - early < 25e6
    finally:
        tracemalloc.stop()
    assert len(rows_of(tmp_path)) == len(names) and ledger.failed == []


def test_a_batch_that_is_ended_leaves_no_process_behind(tmp_path):
    job = (
        Job(material="steel sheet")
        .with_value("rim", "200")
        .added("turned_body", top="rim")
        .added("develop")
        .added("cut_file")
    )
    (tmp_path / "j.zuschnitt").write_bytes(job_bytes(job))
    rows = "\n".join(f"c{k},{200 + k % 300}" for k in range(20_000))
    (tmp_path / "t.csv").write_text(f"name,rim\n{rows}\n")
    call = [
        sys.executable,
        "-m",
        "zuschnitt",
        "batch",
        "j.zuschnitt",
        "t.csv",
        "--out",
        "out",
        "--dxf",
        "--workers",
        "2",
    ]
    batch = subprocess.Popen([*call, "--quiet"], cwd=tmp_path, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
    until(lambda: len(list((tmp_path / "out").glob("*.dxf"))) > 3, "a few rows")
    workers = children(batch.pid)
    assert len(workers) >= 2
    batch.terminate()
    batch.wait(10)
    until(lambda: not any(alive(pid) for pid in workers), "the workers' end")


def until(done, what: str) -> None:
    end = time.monotonic() + 60
    while not done():
        assert time.monotonic() < end, f"waited in vain for {what}"
        time.sleep(0.05)


def children(pid: int) -> list[int]:
    """The processes that one has begun, and those that these have."""
    found = []
    for entry in Path("/proc").iterdir():
        if entry.name.isdigit():
            try:
                parent = int((entry / "stat").read_text().rpartition(")")[2].split()[1])
            except OSError:
                continue
            if parent == pid:
                found += [int(entry.name), *children(int(entry.name))]
    return found


def alive(pid: int) -> bool:
    try:
        return (Path("/proc") / str(pid) / "stat").read_text().rpartition(")")[2].split()[0] != "Z"
    except OSError:
        return False
