"""Arithmetic and named values in every field."""

from __future__ import annotations

import ast
import math
import operator
import re
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
    reader = SimpleEval(operators=OPERATORS, functions=FUNCTIONS, names={"pi": math.pi, **values})
    for kind in (ast.Attribute, ast.Subscript):  # numbers have nothing inside
        reader.nodes.pop(kind, None)
    try:
        result = reader.eval(text)
    except InvalidExpression as error:
        unknown = getattr(error, "name", None) or getattr(error, "func_name", None)
        if unknown:
            raise Refused(f"'{unknown}' is not a named value of this job; known are {_known(values)}.") from error
        raise Refused(f"'{text}' cannot be worked out: {error}; write it with + - * / and numbers.") from error
    except SyntaxError as error:
        raise Refused(f"'{text}' is not complete arithmetic; write it like rim*2+3.") from error
    except ZeroDivisionError as error:
        raise Refused(f"'{text}' divides by zero; change it.") from error
    except (ArithmeticError, ValueError, TypeError, LookupError, MemoryError, RecursionError) as error:
        raise Refused(f"'{text}' has no result ({error}); change it.") from error
    if isinstance(result, bool) or not isinstance(result, int | float):
        raise Refused(f"'{text}' is not a number; write arithmetic such as rim*2+3.")
    return _finite(float(result), text)


def _finite(result: float, text: str) -> float:
    if not math.isfinite(result):
        raise Refused(f"'{text}' is not a finite number; change it.")
    return result


def _known(values: Mapping[str, float]) -> str:
    return ", ".join(sorted(values)) if values else "none yet"


def named_values(pairs: Iterable[tuple[str, str]]) -> dict[str, float]:
    """All named values; each may use those before it. Raises Refused, naming the value at fault."""
    values: dict[str, float] = {}
    for name, text in pairs:
        if not NAME.match(name) or name in FUNCTIONS or name == "pi":
            raise Refused(f"'{name}' cannot be the name of a value; use letters, digits and _, such as rim_2.")
        try:
            values[name] = value_of(text, values)
        except Refused as error:
            raise Refused(f"The value {name}: {error.sentence}") from error
    return values


def values_in_note(note: str) -> list[tuple[str, str]]:
    """``name = number`` lines or phrases in a note, as pairs."""
    return re.findall(r"\b([A-Za-z_]\w*)\s*=\s*(-?\d+(?:\.\d+)?)", note)
