"""A refit counted in another currency: every amount in it, wherever a model says that it holds one."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from decimal import Decimal
from functools import lru_cache, partial
from typing import Any, get_args

from pydantic import BaseModel

from rovask.core.plain.currency import known_currency
from rovask.core.plain.faults import Fault, RefitFaults
from rovask.core.plain.money import Money
from rovask.core.refit.model import Refit
from rovask.core.refit.values import IN_CURRENCY, MOST_MINOR

_DIGITS = 20  # decimals that rates are kept to


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

    return Refit.model_validate(
        _with(refit, changed, partial(_rebased, refit.currency, currency, rate)) | {"currency": currency}
    )


def _rebased(old: str, new: str, factor: Decimal | None, own: str, rate: str) -> tuple[str, str]:
    """(currency, rate) of what is kept in a currency of its own. Its amount stays; only what it counts for changes.

    As numbers, what was in the refit's currency is so still. At a rate, what is in the new currency counts as it stands.
    """
    if factor is None:
        return (new, "1") if own == old else (own, "1" if own == new else rate)
    if own == new:
        return own, "1"
    return own, f"{(Decimal(rate) * factor).quantize(Decimal(1).scaleb(-_DIGITS)):f}"


def amounts(refit: Refit) -> Iterator[int]:
    """Every amount in the refit that isn't nought."""
    found: list[int] = []

    def noted(minor: int) -> int:
        found.append(minor)
        return minor

    _with(refit, noted)
    yield from (minor for minor in found if minor)


Rebase = Callable[[str, str], tuple[str, str]]


def _with(item: BaseModel, change: Callable[[int], int], rebase: Rebase | None = None) -> dict[str, Any]:
    """The fields of a model with every amount changed, in it and in what it holds; what holds none stays itself."""
    out: dict[str, Any] = {}
    for name in type(item).model_fields:
        value = getattr(item, name)
        amount = name in _amount_fields(type(item)) and value is not None
        out[name] = change(value) if amount else _inner(value, change, rebase)
    if rebase is not None and "rate" in out and "currency" in out:
        out["currency"], out["rate"] = rebase(out["currency"], out["rate"])
    return out


def _inner(value: Any, change: Callable[[int], int], rebase: Rebase | None) -> Any:
    if isinstance(value, BaseModel):
        return _with(value, change, rebase) if holds_amounts(type(value)) else value
    if isinstance(value, tuple) and value and isinstance(value[0], BaseModel):
        return tuple(_inner(one, change, rebase) for one in value)
    return value


@lru_cache(maxsize=200)
def _amount_fields(model: type[BaseModel]) -> frozenset[str]:
    return frozenset(name for name, info in model.model_fields.items() if IN_CURRENCY in info.metadata)


@lru_cache(maxsize=200)
def holds_amounts(model: type[BaseModel]) -> bool:
    """Whether a model, or one it holds, has an amount, or a rate to the refit's currency."""
    return (
        bool(_amount_fields(model))
        or {"currency", "rate"} <= set(model.model_fields)
        or any(holds_amounts(one) for info in model.model_fields.values() for one in _models_in(info.annotation))
    )


def _models_in(annotation: Any) -> Iterator[type[BaseModel]]:
    if isinstance(annotation, type) and issubclass(annotation, BaseModel):
        yield annotation
    for one in get_args(annotation):
        yield from _models_in(one)
