"""The page on the job file: each of its examples opens and is computed, and it names all there is."""

from __future__ import annotations

import json
import re
import zipfile
from io import BytesIO
from pathlib import Path

import pytest

from zuschnitt.core.job.evaluate import run_all
from zuschnitt.core.job.job_file import job_from_bytes
from zuschnitt.core.operations.registry import entries

PAGE = (Path(__file__).parents[3] / "docs" / "job-file.md").read_text()
SECTIONS = dict(re.findall(r"^#### `(\w+)`[^\n]*\n(.*?)(?=^###|\Z)", PAGE, re.DOTALL | re.MULTILINE))


def archive(section: str) -> bytes:
    """The job file that a section shows, packed as a reader of the page would pack it."""
    (text,) = re.findall(r"```json\n(.*?)```", section, re.DOTALL)
    packed = BytesIO()
    with zipfile.ZipFile(packed, "w") as file:
        file.writestr("job.json", text)
        for name, content in re.findall(r"with `assets/([\w.]+)`:\n\n```text\n(.*?)```", section, re.DOTALL):
            file.writestr(f"assets/{name}", content)
    return packed.getvalue()


def test_it_has_every_operation_and_every_parameter():
    assert set(SECTIONS) == set(entries())
    for key, known in entries().items():
        rows = re.findall(r"^\| `(\w+)` \|", SECTIONS[key], re.MULTILINE)
        assert rows == [p.name for p in known.parameters if p.kind not in ("identities", "origin")], key
        for parameter in known.parameters:
            for choice in parameter.choices if parameter.kind == "choice" else ():
                assert f"`{choice}`" in SECTIONS[key], (key, choice)


@pytest.mark.parametrize("key", SECTIONS)
def test_its_examples_open_and_are_computed(key):
    job = job_from_bytes(archive(SECTIONS[key]), f"{key}.zuschnitt")
    states = run_all(job)
    assert job.rows[-1].operation == key
    assert {row.operation: (states[row.id].status, states[row.id].reason) for row in job.rows} == {
        row.operation: ("done", "") for row in job.rows
    }


def test_its_first_example_opens():
    (text,) = re.findall(r"## job.json\n\n```json\n(.*?)```", PAGE, re.DOTALL)
    job = job_from_bytes(archive(f"```json\n{text}```"), "first.zuschnitt")
    assert {state.status for state in run_all(job).values()} == {"done"}
    assert json.loads(text)["rows"][1]["title"] == job.rows[1].title


def test_what_may_be_left_out_may_be_left_out():
    text = '{"schema": 1, "rows": [{"id": "a", "number": 10, "operation": "turned_body"}]}'
    job = job_from_bytes(archive(f"```json\n{text}```"), "short.zuschnitt")
    assert run_all(job)["a"].status == "done"
