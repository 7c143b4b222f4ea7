"""Packages in which each file is named as the one thing that it registers: imported one by one, or all of them."""

from __future__ import annotations

import importlib
import importlib.util
import pkgutil


def import_file(package: str, name: str) -> None:
    """Imports the file of that name, if the package has one."""
    if name.isidentifier() and importlib.util.find_spec(f"{package}.{name}") is not None:
        importlib.import_module(f"{package}.{name}")


def import_all(package: str) -> None:
    """Imports all files of a package."""
    for module in pkgutil.iter_modules(importlib.import_module(package).__path__):
        importlib.import_module(f"{package}.{module.name}")
