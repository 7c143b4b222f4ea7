"""What computes the results has a name that changes with it."""

from __future__ import annotations

import os
import subprocess
import sys
from importlib.metadata import version as installed

import numpy
import pytest

from zuschnitt.engine import version as module


@pytest.fixture
def package(tmp_path):
    inner = tmp_path / "inner"
    inner.mkdir()
    (tmp_path / "one.py").write_text("a = 1\n")
    (inner / "two.py").write_text("b = 1\n")
    (inner / "picture.png").write_bytes(b"\0")
    return tmp_path


def told(package) -> list[str]:
    return sorted(module._sources(str(package), len(str(package))))


def test_every_source_counts_and_nothing_else(package):
    assert [each.split()[0] for each in told(package)] == ["/inner/two.py", "/one.py"]


def test_a_source_changed_in_its_folder_tells(package):
    before = told(package)
    (package / "inner" / "two.py").write_text("b = 12\n")
    longer = told(package)
    os.utime(package / "one.py", ns=(1, 1))
    assert len({tuple(before), tuple(longer), tuple(told(package))}) == 3


def test_the_versions_of_all_libraries_count():
    said = " ".join(module._libraries())
    assert f"numpy-{numpy.__version__}." in said
    for name in module.LIBRARIES.values():
        assert f"{name}-{installed(name)}." in said


def test_another_library_gives_another_name(monkeypatch):
    here = module.version.__wrapped__()
    monkeypatch.setattr(module, "_libraries", lambda: ["numpy-0.1.dist-info"])
    assert module.version.__wrapped__() != here


def test_all_processes_agree():
    code = "from zuschnitt.engine.version import version; print(version())"
    other = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True)
    assert other.stdout.strip() == module.version()
