"""Rows of a table made into cut files: time a row with one worker and with two, and memory as the rows go on.

Arguments: how many rows (1,000), with how many workers (1 and 2). The yardstick of two workers is one worker; of many
rows, the first hundred.
"""

from __future__ import annotations

import subprocess
import sys
import tempfile
import time
from pathlib import Path

from zuschnitt.core.job.job_file import save_job
from zuschnitt.core.job.route import Job

EARLY = 100


def cone() -> Job:
    job = Job(thickness="1.5").with_value("wide", "400").with_value("high", "420")
    return job.added("turned_body", top="wide", cylinder="0", cone="high", outlet="120").added("develop")


def memory(root: int) -> float:
    """MB that a process and all below it hold, what they share counted once for all."""
    found, waiting = 0.0, [root]
    while waiting:
        process = waiting.pop()
        try:
            smaps = Path(f"/proc/{process}/smaps_rollup").read_text()
            waiting.extend(int(p) for p in Path(f"/proc/{process}/task/{process}/children").read_text().split())
        except (OSError, ValueError):
            continue
        found += sum(int(line.split()[1]) for line in smaps.splitlines() if line.startswith("Pss:")) / 1024
    return found


def run(folder: Path, rows: int, workers: int) -> tuple[float, float, float]:
    """Seconds, and the most MB held up to row ``EARLY`` and up to the last one."""
    out = folder / f"out{workers}"
    command = [sys.executable, "-m", "zuschnitt", "batch", str(folder / "cone.zuschnitt"), str(folder / "rows.csv")]
    begin = time.perf_counter()
    made = subprocess.Popen(
        [*command, "--out", str(out), "--dxf", "--workers", str(workers)], stdout=subprocess.DEVNULL
    )
    early = late = 0.0
    while made.poll() is None:
        held = memory(made.pid)
        late = max(late, held)
        if out.exists() and sum(1 for _ in out.glob("*.dxf")) <= EARLY:
            early = max(early, held)
        time.sleep(0.5)
    seconds = time.perf_counter() - begin
    count = sum(1 for _ in out.glob("*.dxf"))
    assert made.returncode == 0 and count == rows, f"{count} of {rows} files were made"
    return seconds, early, late


def main() -> None:
    rows = int(sys.argv[1]) if len(sys.argv) > 1 else 1000
    with tempfile.TemporaryDirectory() as there:
        folder = Path(there)
        save_job(folder / "cone.zuschnitt", cone())
        lines = [f"cone-{k},{300 + 0.2 * k:.1f},{350 + 0.1 * k:.1f}" for k in range(rows)]
        (folder / "rows.csv").write_text("\n".join(["name,wide,high", *lines, ""]))
        print(f"{rows:,} rows, a cut file each")
        print(f"{'workers':>7} {'seconds':>8} {'ms a row':>9} {f'MB to row {EARLY}':>14} {'MB in all':>10}")
        for workers in [int(text) for text in sys.argv[2:]] or [1, 2]:
            seconds, early, late = run(folder, rows, workers)
            print(f"{workers:>7} {seconds:>8.1f} {1000 * seconds / rows:>9.1f} {early:>14.0f} {late:>10.0f}")


if __name__ == "__main__":
    main()
