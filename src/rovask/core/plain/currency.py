"""Currencies by their ISO 4217 codes: which there are, and how many decimals their minor unit has.

Both from the CLDR data that Babel carries; nothing is listed here by hand.
"""

from __future__ import annotations

from functools import lru_cache

from babel import Locale
from babel.numbers import get_currency_precision


@lru_cache(maxsize=1)
def currencies() -> dict[str, str]:
    """English names by code."""
    return dict(Locale("en").currencies)


def known_currency(code: str) -> str:
    """The code itself. Raises ValueError for one that isn't ISO 4217's."""
    if code not in currencies():
        raise ValueError(f"{code} is not a currency; write its three letters, like EUR")
    return code


def is_currency(code: str) -> bool:
    """Whether there is one of that code."""
    return code in currencies()


@lru_cache(maxsize=256)
def exponent(code: str) -> int:
    """Decimals of the minor unit: 2 for cents, 0 where there is none.

    >>> exponent("EUR"), exponent("JPY"), exponent("KWD")
    (2, 0, 3)
    """
    return get_currency_precision(code)
