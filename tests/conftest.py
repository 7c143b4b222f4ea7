"""What all tests share: parts as real STEP files, and a state folder of their own."""

from __future__ import annotations

import os

os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")

import pytest

from . import parts
from .nursery import Nursery

LONGEST = "test_headless_demo"


def pytest_collection_modifyitems(items):
    """The longest test comes first, so that no worker is left alone with it at the end."""
    items.sort(key=lambda item: item.name != LONGEST)


@pytest.fixture(scope="session")
def step(tmp_path_factory):
    """A function that gives the path of a part's STEP file by its name; each is written once."""
    folder = tmp_path_factory.mktemp("step")

    def path(name: str):
        file = folder / f"{name}.step"
        if not file.exists():
            parts.write(file, name)
        return file

    return path


@pytest.fixture(scope="session")
def form(step):
    """A function that gives the form of a part by its name."""
    from zuschnitt.core.kernel.step_in import read_step

    known = {}

    def made(name: str):
        if name not in known:
            known[name] = read_step(step(name))
        return known[name]

    return made


@pytest.fixture(scope="session")
def nursery():
    made = Nursery()
    yield made
    made.close()


@pytest.fixture(autouse=True)
def state_of_its_own(tmp_path, tmp_path_factory, monkeypatch):
    """No test touches the user's autosaves, list of recent jobs or kept results."""
    monkeypatch.setenv("XDG_CACHE_HOME", str(tmp_path_factory.mktemp("cache")))
    monkeypatch.setenv("XDG_STATE_HOME", str(tmp_path / "state"))
