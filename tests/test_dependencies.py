"""A plain install brings all that the program imports: what is imported is what ``pyproject.toml`` names."""

from __future__ import annotations

import ast
import re
import sys
import tomllib
from importlib.metadata import packages_distributions
from pathlib import Path

ROOT = Path(__file__).parents[1]
SAME = {"cadquery-ocp": "cadquery-ocp-novtk", "pyqt6-qt6": "pyqt6", "pyqt6-sip": "pyqt6", "cadquery-ocp-proxy": "cadquery-ocp-novtk"}  # fmt: skip
"""Distributions that come with one that is named."""


def plain(name):
    return re.sub(r"[-_.]+", "-", name).lower()


def imported():
    """The top packages that any file of the program imports, anywhere in it."""
    found = set()
    for path in (ROOT / "zuschnitt").rglob("*.py"):
        for node in ast.walk(ast.parse(path.read_text())):
            if isinstance(node, ast.Import):
                found |= {alias.name.split(".")[0] for alias in node.names}
            elif isinstance(node, ast.ImportFrom) and node.level == 0:
                found.add(node.module.split(".")[0])
    return found - set(sys.stdlib_module_names) - {"zuschnitt"}


def named():
    project = tomllib.loads((ROOT / "pyproject.toml").read_text())["project"]
    return {plain(re.split(r"[<>=!~ ]", each)[0]) for each in project["dependencies"]}


def test_all_that_is_imported_is_named():
    known = packages_distributions()
    missing = {}
    for package in imported():
        owners = {SAME.get(plain(owner), plain(owner)) for owner in known.get(package, [package])}
        if not owners & named():
            missing[package] = owners
    assert not missing


def test_all_that_is_named_is_pinned():
    pins = {plain(line.split("==")[0]) for line in (ROOT / "requirements.txt").read_text().splitlines() if "==" in line}
    assert named() <= pins
