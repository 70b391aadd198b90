"""What a calculator of the bench is: inputs with units and ranges, rows of results, and what a result can become."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from datetime import datetime
from typing import Any

from rovask.core.plan.result import Plan
from rovask.core.refit.model import Refit

Values = Mapping[str, Any]


@dataclass(frozen=True, slots=True)
class AskedAt:
    """Where a calculator is asked: the refit, its plan and the moment."""

    refit: Refit
    plan: Plan
    now: datetime


@dataclass(frozen=True, slots=True)
class Input:
    """A figure to type, or one of some choices. default: a number or word, or worked out from the refit."""

    name: str
    label: str
    unit: str = ""
    default: float | str | Callable[[AskedAt], float | str] = 0.0
    least: float = 0.0
    most: float = 1e6
    choices: tuple[tuple[str, str], ...] = ()
    help: str = ""

    def usual(self, place: AskedAt) -> float | str:
        """What stands in it when the sailor says nothing."""
        return self.default(place) if callable(self.default) else self.default


@dataclass(frozen=True, slots=True)
class Row:
    """One line of a result: what it is, the figure with its unit, the same in the other units, and how it came about."""

    label: str
    value: str
    imperial: str = ""
    how: str = ""
    main: bool = False


@dataclass(frozen=True, slots=True)
class PartResult:
    """A result that can become a part line."""

    name: str
    quantity: float
    unit: str


@dataclass(frozen=True)
class Result:
    """What a calculator says. hours: a task's duration; lag: least and most hours between two tasks (None: no most).

    warnings: what makes the result doubtful or dangerous. drawing: its kind and figures, for the page to draw.
    """

    rows: tuple[Row, ...]
    parts: tuple[PartResult, ...] = ()
    hours: float | None = None
    lag: tuple[float, float | None] | None = None
    warnings: tuple[str, ...] = ()
    drawing: tuple[str, Any] | None = None
    table: tuple[tuple[str, ...], ...] = field(default_factory=tuple)


@dataclass(frozen=True)
class Calculator:
    """One calculator: its formula in words, the source of it, the range it is good for, its cautions."""

    id: str
    title: str
    group: str
    about: str
    inputs: tuple[Input, ...]
    formula: str
    source: str
    range: str
    work: Callable[[Values, AskedAt], Result]
    cautions: tuple[str, ...] = ()


# Beside metric, the units some of the trade thinks in


def feet(metres: float) -> str:
    """Metres in feet."""
    return f"{metres / 0.3048:.1f} ft"


def inches(mm: float) -> str:
    """Millimetres in inches."""
    return f"{mm / 25.4:.2f} in"


def square_feet(m2: float) -> str:
    """Square metres in square feet."""
    return f"{m2 / 0.09290304:.0f} ft²"


def gallons(litres: float) -> str:
    """Litres in US gallons."""
    return f"{litres / 3.785411784:.2f} US gal"


def pounds(kg: float) -> str:
    """Kilograms in pounds."""
    return f"{kg / 0.45359237:.1f} lb"


def fahrenheit(celsius: float) -> str:
    """Degrees Celsius in Fahrenheit."""
    return f"{celsius * 1.8 + 32:.0f} °F"


def mils(um: float) -> str:
    """Micrometres in thousandths of an inch."""
    return f"{um / 25.4:.1f} mil"
