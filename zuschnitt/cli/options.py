"""Options of commands: made from the parameters of operations, under the names that scripts rely on."""

from __future__ import annotations

import argparse
from argparse import Namespace
from collections.abc import Callable, Collection, Mapping
from typing import Any

from ..core.errors import ZuschnittError
from ..core.expressions import length_of
from ..core.operations.registry import entry
from ..core.parameters.choice import Choice
from ..core.parameters.number import LARGEST, Number
from ..core.parameters.parameter import Parameter
from ..core.parameters.picks import picked_edges

DEVELOP_APART = (
    *("form", "faces", "remembered", "reliefs", "taken", "wide", "high"),
    *("cells_along", "cells_across"),  # these are only seen
)
"""Parameters of a development that a call gives in words of its own, or not at all."""
PLACE_APART = ("file", "blank", "x", "y", "drawing", "beside")
"""Those of artwork that is placed."""


def add_options(
    group: Any, operation: str, names: Mapping[str, str], flags: Mapping[str, str], leave: Collection[str]
) -> None:
    """An option for each parameter of an operation, but those to ``leave`` out.

    ``names`` are those of options that are called otherwise than their parameter; an option of ``flags`` has no value,
    and chooses the one named there.
    """
    for parameter in entry(operation).parameters:
        if parameter.name in leave or parameter.follows:
            continue
        option = f"--{names.get(parameter.name, parameter.name).replace('_', '-')}"
        about: dict[str, Any] = {"dest": parameter.name, "help": parameter.hint.replace("%", "%%")}
        if parameter.name in flags:
            group.add_argument(option, action="store_const", const=flags[parameter.name], **about)
        elif isinstance(parameter, Choice):
            group.add_argument(option, choices=tuple(parameter.choices), **about)
        else:
            group.add_argument(option, type=_reader(parameter), metavar=_metavar(parameter), **about)


def values_of(options: Namespace, operation: str, leave: Collection[str]) -> dict[str, Any]:
    """What the options of a call say for the parameters of an operation; None where they say nothing."""
    return {
        p.name: getattr(options, p.name, None)
        for p in entry(operation).parameters
        if p.name not in leave and not p.follows
    }


def _reader(parameter: Parameter) -> Callable[[str], str]:
    """Reads a value as it is written in a job; one that is no good for the parameter is a wrong call."""

    def read(text: str) -> str:
        try:
            if parameter.kind != "material":
                parameter.resolved(text, {"thickness": 1.0})
        except ZuschnittError as error:
            raise argparse.ArgumentTypeError(error.sentence.rstrip(".")) from None
        return text

    return read


def _metavar(parameter: Parameter) -> str:
    if isinstance(parameter, Number):
        return {"mm": "MM", "°": "DEGREES", "%": "PERCENT"}.get(parameter.unit, "N")
    return {"vector": "x,y,z", "points": "x,y,z; …", "edges": "1,4", "faces": "all|1,4"}.get(parameter.kind, "NAME")


# --- values that no parameter has --------------------------------------------------------------


def vector(text: str) -> tuple[float, ...]:
    parts = text.split(",")
    if len(parts) != 3:
        raise argparse.ArgumentTypeError(f"'{text}' must be three numbers with commas between: x,y,z")
    return numbers(parts, text)


def place(text: str) -> tuple[float | str, ...]:
    """Two numbers, or two empty ones for the largest free place."""
    return ("", "") if text == "free" else pair(text)


def pair(text: str) -> tuple[float, ...]:
    parts = text.split(",")
    if len(parts) != 2:
        raise argparse.ArgumentTypeError(f"'{text}' must be two numbers with a comma between: x,y")
    return numbers(parts, text)


def numbers(parts: list[str], text: str) -> tuple[float, ...]:
    """Lengths, each of which may carry its unit."""
    try:
        found = tuple(length_of(part) for part in parts)
    except ZuschnittError as error:
        raise argparse.ArgumentTypeError(f"'{text}' is not made of numbers: {error.sentence.rstrip('.')}") from None
    if not all(abs(number) <= LARGEST for number in found):  # nor what is not a number
        raise argparse.ArgumentTypeError(f"'{text}' has a number that is not finite, or far too large")
    return found


def amount(low: float, high: float) -> Callable[[str], float]:
    """Reads a number from ``low`` to ``high``; a length may carry its unit."""

    def read(text: str) -> float:
        (value,) = numbers([text], text)
        if not low <= value <= high:
            raise argparse.ArgumentTypeError(f"'{text}' must be a number from {low:g} to {high:g}")
        return value

    return read


def relief(text: str) -> str:
    """A shape, and a size where one is given, such as round:5."""
    shape, _, size = text.partition(":")
    if shape not in ("none", "square", "round"):
        raise argparse.ArgumentTypeError(f"'{text}' must be none, square or round, with a size or without: round:5")
    if size and numbers([size], text)[0] <= 0:
        raise argparse.ArgumentTypeError(f"'{text}' needs a size above 0")
    return text


def flange(text: str) -> str:
    """Edges, a length, and what else is given, as it was written."""
    try:
        entry("make_sheet").parameter("flanges").resolved(text, {})
    except ZuschnittError as error:
        raise argparse.ArgumentTypeError(error.sentence.rstrip(".")) from None
    return text


def sheet(text: str) -> tuple[float, float]:
    """A width and a height in mm, such as 300x200."""
    parts = text.lower().replace("×", "x").split("x")
    found = numbers(parts, text)
    if len(found) != 2 or min(found) <= 0:
        raise argparse.ArgumentTypeError(f"'{text}' must be a width and a height above 0, such as 300x200")
    return found[0], found[1]


def number_list(text: str) -> str:
    """A list of numbers of edges or faces, such as 1,4 or 1-3, as it was written."""
    try:
        picked_edges(text)
    except ZuschnittError as error:
        raise argparse.ArgumentTypeError(error.sentence) from None
    return text


def face_list(text: str) -> str:
    return text if text.strip().lower() == "all" else number_list(text)


def count(low: int, high: int) -> Callable[[str], int]:
    """Reads a whole number from ``low`` to ``high``."""

    def read(text: str) -> int:
        try:
            value = int(text)
        except ValueError:
            raise argparse.ArgumentTypeError(f"'{text}' is no whole number") from None
        if not low <= value <= high:
            raise argparse.ArgumentTypeError(f"'{text}' must be a number from {low} to {high}")
        return value

    return read
