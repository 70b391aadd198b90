"""Formulas of recipes: small expressions of numbers, words and the boat's figures, never Python's own evaluation.

They are read by simpleeval (MIT licence) with everything taken out that a formula has no use for: attributes, items,
powers, strings built of strings, comprehensions, functions other than those below.
"""

from __future__ import annotations

import ast
import math
from collections.abc import Callable, Mapping
from functools import lru_cache
from typing import Any

from simpleeval import InvalidExpression, SimpleEval

from rovask.core.plain.faults import RovaskError

Value = float | str | bool
LONGEST = 200
FUNCTIONS: dict[str, Callable[..., Any]] = {
    "ceil": math.ceil,
    "floor": math.floor,
    "max": max,
    "min": min,
    "round": round,
    "sqrt": math.sqrt,
}
_USELESS = (ast.Attribute, ast.Subscript, ast.JoinedStr, ast.FormattedValue, ast.Slice)


class BadFormula(RovaskError):
    """A formula that can't be read or worked out; the message names it and says why."""


@lru_cache(maxsize=4096)
def _parsed(text: str) -> ast.expr:
    if len(text) > LONGEST:
        raise BadFormula(f"the formula “{text[:30]}…” is longer than {LONGEST} signs; split it into values")
    try:
        parsed: ast.expr = SimpleEval.parse(text.strip())
    except (SyntaxError, ValueError, RecursionError, MemoryError, InvalidExpression) as error:
        raise BadFormula(f"the formula “{text}” can't be read: {error}") from None
    return parsed


def names_in(text: str) -> set[str]:
    """The names a formula uses, functions left out. Raises BadFormula."""
    return {node.id for node in ast.walk(_parsed(text)) if isinstance(node, ast.Name) and node.id not in FUNCTIONS} - {
        "True",
        "False",
    }


def worked_out(text: str, names: Mapping[str, Value]) -> Value:
    """What a formula comes to: a finite number, a word or yes and no. Raises BadFormula, never anything else.

    >>> worked_out("ceil(area * coats / 8)", {"area": 20, "coats": 3})
    8
    """
    evaluator = SimpleEval(names=dict(names), functions=FUNCTIONS)
    for kind in _USELESS:
        evaluator.nodes.pop(kind, None)
    evaluator.operators.pop(ast.Pow, None)
    evaluator.operators.pop(ast.LShift, None)
    try:
        value = evaluator.eval(text, previously_parsed=_parsed(text))
    except InvalidExpression as error:
        raise BadFormula(f"the formula “{text}” can't be worked out: {_said(error)}") from None
    except ZeroDivisionError:
        raise BadFormula(f"the formula “{text}” divides by nothing") from None
    except (TypeError, ValueError, KeyError, OverflowError, RecursionError, AttributeError) as error:
        raise BadFormula(f"the formula “{text}” can't be worked out: {error}") from None
    if isinstance(value, bool | str):
        return value
    if isinstance(value, int | float) and abs(value) < 1e12 and math.isfinite(value):
        return value
    raise BadFormula(f"the formula “{text}” does not come to a number, a word or yes and no")


def _said(error: InvalidExpression) -> str:
    text = str(error)
    return text if len(text) < 120 else text[:117] + "…"


def number(text: str, names: Mapping[str, Value]) -> float:
    """A formula that must come to a number. Raises BadFormula."""
    value = worked_out(text, names)
    if isinstance(value, str | bool):
        raise BadFormula(f"the formula “{text}” must come to a number, and comes to {value!r}")
    return float(value)


def holds(text: str, names: Mapping[str, Value]) -> bool:
    """A condition; "" always holds. Raises BadFormula."""
    if not text:
        return True
    value = worked_out(text, names)
    if not isinstance(value, bool):
        raise BadFormula(f"the condition “{text}” must come to yes or no, and comes to {value!r}")
    return value
