"""The program among others: its menu entry, its file type, and an example in the help of each command."""

from __future__ import annotations

import configparser
import os
import re
import shlex
import subprocess
import sys
from pathlib import Path
from xml.etree import ElementTree

import pytest

from zuschnitt.cli.command_parser import command_parser
from zuschnitt.cli.examples import EXAMPLES
from zuschnitt.cli.parser import COMMANDS, window_parser

from .test_commands import call

ROOT = Path(__file__).parents[2]


def test_it_is_put_into_the_menus_with_its_icon_and_file_type(tmp_path):
    words = [sys.executable, "-m", "zuschnitt", "--register"]
    for _ in range(2):  # and again
        made = subprocess.run(
            words, capture_output=True, text=True, check=True, env={**os.environ, "XDG_DATA_HOME": str(tmp_path)}
        )
    assert len(made.stdout.splitlines()) == 3
    entry = configparser.ConfigParser(interpolation=None, strict=True)
    entry.optionxform = str
    entry.read(tmp_path / "applications" / "zuschnitt.desktop")
    about = entry["Desktop Entry"]
    program = shlex.split(about["Exec"])
    assert program[-1] == "%f" and "MimeType" in about
    said = subprocess.run([*program[:-1], "--version"], capture_output=True, text=True, check=True)
    assert said.stdout.startswith("zuschnitt ")
    kinds = ElementTree.parse(tmp_path / "mime" / "packages" / "zuschnitt.xml").getroot()
    assert kinds[0].get("type") == about["MimeType"].rstrip(";")
    ElementTree.parse(tmp_path / "icons" / "hicolor" / "scalable" / "apps" / "zuschnitt.svg")


@pytest.mark.parametrize("command", COMMANDS)
def test_each_command_has_an_example_that_can_be_read(command):
    words = shlex.split(EXAMPLES[command])
    options = command_parser().parse_args(words)
    assert options.command == command


def test_the_help_of_a_command_ends_with_its_example():
    assert "Example: zuschnitt nest tray.dxf:4" in call("nest", "--help").stdout.replace("\n", " ")


def test_the_commands_of_the_guide_can_be_typed():
    text = (ROOT / "docs" / "guide.md").read_text()
    lines = [line for block in re.findall(r"```sh\n(.*?)```", text, re.DOTALL) for line in block.splitlines()]
    assert len(lines) > 8
    for line in lines:
        program, *words = shlex.split(line)
        assert program == "zuschnitt"
        if words[0] in COMMANDS:
            command_parser().parse_args(words)
        else:
            window_parser().parse_args(words)
