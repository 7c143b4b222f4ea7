"""Arithmetic and named values in every field."""

from __future__ import annotations

import ast
import keyword
import math
import operator
import re
from collections import ChainMap
from collections.abc import Iterable, Mapping

from simpleeval import InvalidExpression, SimpleEval

from .errors import Refused

FUNCTIONS = {
    "sqrt": math.sqrt,
    "abs": abs,
    "min": min,
    "max": max,
    "round": round,
    "sin": lambda degrees: math.sin(math.radians(degrees)),
    "cos": lambda degrees: math.cos(math.radians(degrees)),
    "tan": lambda degrees: math.tan(math.radians(degrees)),
    "atan": lambda ratio: math.degrees(math.atan(ratio)),
}
"""Angles in degrees."""

OPERATORS = {
    ast.Add: operator.add,
    ast.Sub: operator.sub,
    ast.Mult: operator.mul,
    ast.Div: operator.truediv,
    ast.Pow: math.pow,
    ast.Mod: operator.mod,
    ast.USub: operator.neg,
    ast.UAdd: operator.pos,
}

LONGEST = 1000
"""An expression has no more letters than this."""
MOST_VALUES = 20_000
MM = {"mm": 1.0, "cm": 10.0, "m": 1000.0, "in": 25.4, "ft": 304.8}
"""How many mm each unit of length has."""
UNIT = re.compile(r"(?<=[\d.)])\s*(mm|cm|m|in|ft)\b")
MIXED = re.compile(r"(?<![\w.])(\d+)\s+(\d+/\d+)(?=\s*(in|ft)\b)")
"""A whole number and a fraction beside it, such as 2 1/2in."""
NAME = re.compile(r"[A-Za-z_]\w*\Z")


def value_of(text: str | float, values: Mapping[str, float] = {}) -> float:
    """The number that ``text`` stands for. Raises Refused, saying why, where it stands for none."""
    if isinstance(text, int | float):
        return _finite(float(text), str(text))
    text = text.strip()
    if not text:
        raise Refused("A number is missing here; type one, or an expression such as rim*2+3.")
    try:
        # bare numbers are the most common case, and need no parser
        return _finite(float(text), text)
    except ValueError:
        pass
    if len(text) > LONGEST:
        raise Refused(f"An expression of more than {LONGEST} letters cannot be worked out; use named values in it.")
    _require_one_expression(text)
    reader = SimpleEval(operators=OPERATORS, functions=FUNCTIONS, names=ChainMap({"pi": math.pi}, values))  # type: ignore[arg-type]
    for kind in (ast.Attribute, ast.Subscript):  # numbers have nothing inside
        reader.nodes.pop(kind, None)
    try:
        result = reader.eval(text)
    except InvalidExpression as error:
        unknown = getattr(error, "name", None) or getattr(error, "func_name", None)
        if unknown:
            raise Refused(f"'{unknown}' is not a named value of this job; known are {_known(values)}.") from error
        raise Refused(f"'{text}' cannot be worked out: {error}; write it with + - * / and numbers.") from error
    except ZeroDivisionError as error:
        raise Refused(f"'{text}' divides by zero; change it.") from error
    except (ArithmeticError, ValueError, TypeError, LookupError, MemoryError, RecursionError) as error:
        raise Refused(f"'{text}' has no result ({error}); change it.") from error
    if isinstance(result, bool) or not isinstance(result, int | float):
        raise Refused(f"'{text}' is not a number; write arithmetic such as rim*2+3.")
    return _finite(float(result), text)


def length_of(text: str | float, values: Mapping[str, float] = {}) -> float:
    """Like ``value_of``, in mm: a number, or what stands in brackets, may carry its unit: 1/16in, 2 1/2in, 2.5 cm."""
    if isinstance(text, str):
        text = MIXED.sub(r"(\1+\2)", text)
        text = UNIT.sub(lambda found: f"*{MM[found.group(1)]:g}", text)
    return value_of(text, values)


def _require_one_expression(text: str) -> None:
    """Raises Refused for assignments, several statements, and whatever else is not one expression."""
    try:
        ast.parse(text, mode="eval")
    except (SyntaxError, ValueError, MemoryError, RecursionError) as error:
        shown = " ".join(text[:60].split())
        raise Refused(f"'{shown}' is not complete arithmetic; write it like rim*2+3.") from error


def _finite(result: float, text: str) -> float:
    if not math.isfinite(result):
        raise Refused(f"'{text}' is not finite; change it.")
    return result


def _known(values: Mapping[str, float]) -> str:
    return ", ".join(sorted(values)) if values else "none yet"


def named_values(pairs: Iterable[tuple[str, str]]) -> dict[str, float]:
    """All named values; each may use those before it. Raises Refused, naming the value at fault."""
    values: dict[str, float] = {}
    pairs = list(pairs)
    if len(pairs) > MOST_VALUES:
        raise Refused(f"There are more than {MOST_VALUES:,} named values; leave some out.")
    for name, text in pairs:
        if not _can_be_named(name):
            raise Refused(f"'{name}' cannot be the name of a value; use letters, digits and _, such as rim_2.")
        try:
            values[name] = length_of(text, values)
        except Refused as error:
            raise Refused(f"The value {name}: {error.sentence}") from error
    return values


def values_in_note(note: str) -> list[tuple[str, str]]:
    """``name = number`` lines or phrases in a note, as pairs; what cannot be a name is mere text."""
    found = re.findall(r"\b([A-Za-z_]\w*)\s*=\s*(-?\d+(?:\.\d+)?)", note)
    return [(name, text) for name, text in found if _can_be_named(name)]


def _can_be_named(name: str) -> bool:
    return bool(NAME.match(name)) and name not in FUNCTIONS and name != "pi" and not keyword.iskeyword(name)
