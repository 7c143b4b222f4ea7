"""What the command line writes: whole sets, through links and pipes, and over nothing that it reads."""

from __future__ import annotations

import os
import signal
import stat
import subprocess
import sys
import threading
import time
from pathlib import Path

import pytest

ROOT = Path(__file__).parents[2]


def call(*arguments, **options):
    return subprocess.run(
        [sys.executable, "-m", "zuschnitt", *map(str, arguments)],
        check=False, text=True, cwd=ROOT, **{"capture_output": True, **options},
    )  # fmt: skip


def left_in(folder):
    return sorted(path.name for path in folder.iterdir() if path.name != "state")


def test_a_set_appears_only_when_all_of_it_can(step, tmp_path):
    result = call("develop", step("bend"), "--svg", tmp_path / "a.svg", "--dxf", tmp_path / "no" / "a.dxf")
    assert result.returncode == 3 and "Nothing was written" in result.stderr
    assert left_in(tmp_path) == []


@pytest.mark.parametrize("linked", [False, True])
def test_no_input_is_written_over(step, tmp_path, linked):
    part = tmp_path / "part.step"
    part.write_bytes(step("bend").read_bytes())
    target = part
    if linked:
        target = tmp_path / "link.dxf"
        target.symlink_to(part)
    result = call("develop", part, "--dxf", target)
    assert result.returncode == 2 and "written over" in result.stderr
    assert part.read_bytes() == step("bend").read_bytes()


def test_two_files_of_one_path_are_refused(step, tmp_path):
    result = call("develop", step("bend"), "--dxf", tmp_path / "a", "--svg", tmp_path / "." / "a")
    assert result.returncode == 2 and "twice" in result.stderr and left_in(tmp_path) == []


def test_links_are_followed_and_modes_kept(step, tmp_path):
    real, link = tmp_path / "real.svg", tmp_path / "link.svg"
    real.write_text("old")
    real.chmod(0o640)
    link.symlink_to(real)
    assert call("develop", step("bend"), "--svg", link).returncode == 0
    assert link.is_symlink() and real.read_text().startswith("<?xml")
    assert stat.S_IMODE(real.stat().st_mode) == 0o640


def test_pipes_and_devices_get_the_bytes_once(step, tmp_path):
    pipe = tmp_path / "pipe"
    os.mkfifo(pipe)
    heard = []
    reader = threading.Thread(target=lambda: heard.append(pipe.read_bytes()))
    reader.start()
    assert call("develop", step("bend"), "--svg", pipe, "--dxf", "/dev/null").returncode == 0
    reader.join(10)
    assert heard[0].startswith(b"<?xml") and heard[0].count(b"</svg>") == 1
    assert stat.S_ISFIFO(pipe.stat().st_mode)
    out = call("develop", step("bend"), "--svg", "/dev/stdout", "--quiet").stdout
    assert out.count("</svg>") == 1


@pytest.mark.parametrize("how", ["| head -c 5", ">&-", "> /dev/full", "2>&-", "2> /dev/full"])
def test_streams_that_are_closed_or_full_change_nothing(step, tmp_path, how):
    svg = tmp_path / "a.svg"
    command = f"{sys.executable} -m zuschnitt develop {step('bend')} --svg {svg} {how}; exit ${{PIPESTATUS[0]}}"
    result = subprocess.run(["bash", "-c", command], check=False, capture_output=True, text=True, cwd=ROOT)
    assert result.returncode == 0 and "Traceback" not in result.stderr
    assert svg.read_text().startswith("<?xml")


def test_an_ascii_terminal_is_no_obstacle(step):
    plain = {**os.environ, "PYTHONIOENCODING": "ascii", "LC_ALL": "C", "PYTHONUTF8": "0"}
    result = call("develop", step("bend"), env=plain)
    assert result.returncode == 0 and "mm?" in result.stdout


@pytest.mark.parametrize("wait", [0.15, 0.25, 0.4, 0.6])
def test_stopped_while_it_starts(step, wait):
    process = subprocess.Popen(
        [sys.executable, "-m", "zuschnitt", "develop", str(step("rounded")), "--quiet"],
        cwd=ROOT, text=True, stdout=subprocess.PIPE, stderr=subprocess.PIPE,
    )  # fmt: skip
    time.sleep(wait)
    process.send_signal(signal.SIGINT)
    _, said = process.communicate(timeout=30)
    assert process.returncode == 130 and "Traceback" not in said
