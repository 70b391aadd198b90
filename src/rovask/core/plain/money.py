"""Money: an amount with its currency. Sums of two currencies are refused by the type; nothing is ever a float.

Rounding, wherever an amount is multiplied: half a minor unit goes away from zero, as on invoices.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from decimal import ROUND_HALF_UP, Decimal

from rovask.core.plain.currency import exponent
from rovask.core.plain.faults import RovaskError


class TwoCurrencies(RovaskError):
    """Amounts of two currencies were to be added or compared; one must be changed into the other first."""


@dataclass(frozen=True, slots=True)
class Money:
    """``minor`` minor units (cents, or whole yen) of ``currency`` (ISO 4217); negative where something is owed back.

    >>> Money(1250, "EUR") + Money(-250, "EUR")
    Money(minor=1000, currency='EUR')
    """

    minor: int
    currency: str

    def _same(self, other: Money) -> int:
        if other.currency != self.currency:
            raise TwoCurrencies(f"{self.currency} and {other.currency} can't be added; change one of them first.")
        return other.minor

    def __add__(self, other: Money) -> Money:
        return Money(self.minor + self._same(other), self.currency)

    def __sub__(self, other: Money) -> Money:
        return Money(self.minor - self._same(other), self.currency)

    def __neg__(self) -> Money:
        return Money(-self.minor, self.currency)

    def __abs__(self) -> Money:
        return Money(abs(self.minor), self.currency)

    def __lt__(self, other: Money) -> bool:
        return self.minor < self._same(other)

    def __le__(self, other: Money) -> bool:
        return self.minor <= self._same(other)

    def __gt__(self, other: Money) -> bool:
        return self.minor > self._same(other)

    def __ge__(self, other: Money) -> bool:
        return self.minor >= self._same(other)

    def __bool__(self) -> bool:
        return self.minor != 0

    def times(self, factor: float | Decimal) -> Money:
        """The amount times hours, days, a share or a rate of exchange within its currency; rounded."""
        return Money(rounded(Decimal(self.minor) * Decimal(str(factor))), self.currency)

    @property
    def amount(self) -> Decimal:
        """In whole units: 12.50 for 1250 cents, 5000 for 5000 yen."""
        return Decimal(self.minor).scaleb(-exponent(self.currency))

    def changed_to(self, currency: str, rate: Decimal) -> Money:
        """What it is in another currency, one unit of this being ``rate`` of that; rounded to that one's minor unit.

        >>> from decimal import Decimal
        >>> Money(1000, "EUR").changed_to("JPY", Decimal("162.5"))
        Money(minor=1625, currency='JPY')
        """
        return Money(rounded((self.amount * rate).scaleb(exponent(currency))), currency)


def rounded(value: Decimal) -> int:
    """To a whole number, half away from zero.

    >>> rounded(Decimal("2.5")), rounded(Decimal("-2.5")), rounded(Decimal("2.4"))
    (3, -3, 2)
    """
    return int(value.quantize(Decimal(1), rounding=ROUND_HALF_UP))


def total(amounts: Iterable[Money], currency: str) -> Money:
    """Their sum; nothing of ``currency`` for none. Raises TwoCurrencies."""
    out = Money(0, currency)
    for amount in amounts:
        out += amount
    return out


def shared(amount: int, weights: Sequence[float]) -> list[int]:
    """An amount in minor units shared out by weights, to the last unit: the running total is cut, so the shares add up.

    Without any weight the first has it all; for nobody there is nothing to share.

    >>> shared(100, [1, 1, 1]), shared(-5, [0, 0]), shared(7, [])
    ([33, 33, 34], [-5, 0], [])
    """
    if len(weights) < 2 or not amount:
        return [amount] * len(weights)
    parts = [round(weight * WEIGHED) for weight in weights]
    whole = sum(parts)
    if not whole:
        return [amount] + [0] * (len(weights) - 1)
    out, before, running = [], 0, 0
    for part in parts:
        running += part
        until = amount * running // whole
        out.append(until - before)
        before = until
    return out


WEIGHED = 10**6  # weights are compared to so many parts of one
