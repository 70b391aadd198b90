"""A refit counted in another currency: every amount in it, wherever a model says that it holds one."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from decimal import Decimal
from functools import lru_cache
from typing import Any, get_args

from pydantic import BaseModel

from rovask.core.books.money import Money
from rovask.core.refit.currency import known_currency
from rovask.core.refit.faults import Fault, RefitFaults
from rovask.core.refit.model import Refit
from rovask.core.refit.values import IN_CURRENCY, MOST_MINOR


def in_currency(refit: Refit, currency: str, rate: Decimal | None) -> Refit:
    """``refit`` in another currency. rate: what one unit of the old is worth in the new; None: the numbers stay as typed.

    5 000 EUR at 162.5 become 812 500 JPY; as numbers they become 5 000 JPY. What was decided keeps the figures it was
    decided on, in the currency of that time. Raises RefitFaults for a currency there isn't, or amounts beyond bounds.
    """
    try:
        known_currency(currency)
    except ValueError as error:
        raise RefitFaults([Fault("currency", str(error))]) from None
    factor = Decimal(1) if rate is None else rate

    def changed(minor: int) -> int:
        found = Money(minor, refit.currency).changed_to(currency, factor).minor
        if abs(found) > MOST_MINOR:
            raise RefitFaults([Fault("rate", "makes an amount larger than can be kept; look at the rate")])
        return found

    return Refit.model_validate(_with(refit, changed) | {"currency": currency})


def amounts(refit: Refit) -> Iterator[int]:
    """Every amount in the refit that isn't nought."""
    found: list[int] = []

    def noted(minor: int) -> int:
        found.append(minor)
        return minor

    _with(refit, noted)
    yield from (minor for minor in found if minor)


def _with(item: BaseModel, change: Callable[[int], int]) -> dict[str, Any]:
    """The fields of a model with every amount changed, in it and in what it holds; what holds none stays itself."""
    out: dict[str, Any] = {}
    for name in type(item).model_fields:
        value = getattr(item, name)
        out[name] = change(value) if name in _amount_fields(type(item)) and value is not None else _inner(value, change)
    return out


def _inner(value: Any, change: Callable[[int], int]) -> Any:
    if isinstance(value, BaseModel):
        return _with(value, change) if holds_amounts(type(value)) else value
    if isinstance(value, tuple) and value and isinstance(value[0], BaseModel):
        return tuple(_inner(one, change) for one in value)
    return value


@lru_cache(maxsize=200)
def _amount_fields(model: type[BaseModel]) -> frozenset[str]:
    return frozenset(name for name, info in model.model_fields.items() if IN_CURRENCY in info.metadata)


@lru_cache(maxsize=200)
def holds_amounts(model: type[BaseModel]) -> bool:
    """Whether a model, or one it holds, has an amount."""
    return bool(_amount_fields(model)) or any(
        holds_amounts(one) for info in model.model_fields.values() for one in _models_in(info.annotation)
    )


def _models_in(annotation: Any) -> Iterator[type[BaseModel]]:
    if isinstance(annotation, type) and issubclass(annotation, BaseModel):
        yield annotation
    for one in get_args(annotation):
        yield from _models_in(one)
