"""The package as somebody else installs it: a wheel in an environment of its own, far from the sources."""

from __future__ import annotations

import json
import os
import shutil
import subprocess
import sys
import sysconfig
import venv
from pathlib import Path

import pytest

ROOT = Path(__file__).parents[1]
APART = {key: value for key, value in os.environ.items() if key != "PYTHONPATH"}


@pytest.fixture(scope="module")
def python(tmp_path_factory) -> Path:
    """The interpreter of an environment that has the wheel, and the packages that the wheel asks for.

    Those are lent by this one, without what stands beside them there: that all are asked for is another test.
    """
    folder = tmp_path_factory.mktemp("wheel")
    sources = folder / "sources"
    sources.mkdir()
    for name in ("pyproject.toml", "README.md", "LICENSE"):
        shutil.copy(ROOT / name, sources)
    shutil.copytree(ROOT / "zuschnitt", sources / "zuschnitt", ignore=shutil.ignore_patterns("__pycache__"))
    pip = [sys.executable, "-m", "pip", "--disable-pip-version-check", "-q"]
    build = [*pip, "wheel", "--no-deps", "--no-build-isolation", "--no-index", "-w", str(folder), str(sources)]
    subprocess.run(build, check=True, capture_output=True, timeout=300)
    (wheel,) = folder.glob("*.whl")
    shutil.rmtree(sources)
    venv.create(folder / "env", with_pip=False, symlinks=True)
    (site,) = (folder / "env" / "lib").glob("python*/site-packages")
    subprocess.run(
        [*pip, "install", "--no-deps", "--no-index", "--target", str(site), str(wheel)], check=True, timeout=300
    )
    (site / "lent.pth").write_text(sysconfig.get_paths()["purelib"])
    return folder / "env" / "bin" / "python"


def test_a_command_runs_far_from_the_sources(python, step, tmp_path):
    where = subprocess.run(
        [python, "-c", "import zuschnitt; print(zuschnitt.__file__)"],
        cwd=tmp_path,
        env=APART,
        capture_output=True,
        text=True,
        check=True,
        timeout=60,
    )
    assert str(python.parents[1]) in where.stdout
    report = tmp_path / "r.json"
    call = [
        python,
        "-m",
        "zuschnitt",
        "develop",
        step("cone"),
        "--faces",
        "1",
        "--report",
        report,
        "--dxf",
        tmp_path / "o.dxf",
        "--numbers",
    ]
    done = subprocess.run(call, cwd=tmp_path, env=APART, capture_output=True, text=True, check=False, timeout=120)
    assert done.returncode == 0, done.stderr
    assert json.loads(report.read_text())["blank"]["way"] == "exact" and (tmp_path / "o.dxf").exists()


def test_all_that_is_no_code_is_in_it(python):
    (installed,) = (python.parents[1] / "lib").glob("python*/site-packages/zuschnitt")
    for path in (ROOT / "zuschnitt").rglob("*"):
        if path.is_file() and path.suffix != ".pyc":
            assert (installed / path.relative_to(ROOT / "zuschnitt")).exists(), path
