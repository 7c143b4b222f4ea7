"""What scripts import: the page's own example, and what cannot be done."""

from __future__ import annotations

import re
from pathlib import Path

import pytest

import zuschnitt
from tests.parts import write
from zuschnitt.core.errors import Refused, WrongCall

PAGE = Path(__file__).parents[2] / "docs" / "scripting.md"


def test_the_example_of_the_page_runs(tmp_path, monkeypatch, capsys):
    monkeypatch.chdir(tmp_path)
    write(tmp_path / "cone.step", "cone")
    (tmp_path / "art.svg").write_text(
        '<svg xmlns="http://www.w3.org/2000/svg" width="20mm" height="20mm" viewBox="0 0 20 20"><circle cx="9" cy="8" r="4"/></svg>'
    )
    (example,) = re.findall(r"```python\n(.*?)```", PAGE.read_text(), re.DOTALL)
    exec(compile(example, str(PAGE), "exec"), {})
    area, length = (float(line.split()[0]) for line in capsys.readouterr().out.splitlines())
    assert area > 1000 and length == pytest.approx(2 * 3.14159265 * 2, rel=1e-3)
    assert (tmp_path / "blank.dxf").stat().st_size > 1000
    assert (tmp_path / "curves.step").read_text().startswith("ISO-10303-21")


def test_what_cannot_be_read_or_written_is_said(tmp_path):
    with pytest.raises(Refused, match="cannot be read"):
        zuschnitt.read_form(tmp_path / "nowhere.step")
    write(tmp_path / "cone.step", "cone")
    with pytest.raises(WrongCall, match="cannot be written"):
        zuschnitt.write(tmp_path / "cone.dxf", zuschnitt.read_form(tmp_path / "cone.step"))
    with pytest.raises(AttributeError):
        zuschnitt.nothing  # noqa: B018


def test_sheet_parts_from_scripts(tmp_path):
    write(tmp_path / "sheet.step", "bent_sheet")
    made = zuschnitt.sheet_part(zuschnitt.read_form(tmp_path / "sheet.step"))
    assert made.part.thickness == pytest.approx(2.0)
