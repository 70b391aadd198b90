"""What is typed is read as it was meant, or asked about: an amount that is read a thousand times too small is the worst of faults."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from rovask.core.plain.currency import exponent
from rovask.core.refit import typed

BLANK, COMMA, POINT = "\u00a0", ",", "."


def spelled(value: int, digits: int, group: str, decimal: str, cents: bool) -> str:
    """An amount as one country or another writes it."""
    whole, part = divmod(value, 10**digits)
    text = f"{whole:,}".replace(",", group)
    return f"{text}{decimal}{part:0{digits}d}" if digits and (part or cents) else text


@given(
    st.integers(0, 10**11),
    st.sampled_from(["EUR", "JPY", "KWD"]),
    st.sampled_from([("", POINT), ("", COMMA), (BLANK, COMMA), ("'", POINT), (COMMA, POINT), (POINT, COMMA)]),
    st.booleans(),
)
def test_an_amount_is_read_as_any_country_means_it_or_is_asked_about(
    value: int, currency: str, signs: tuple[str, str], cents: bool
) -> None:
    digits = exponent(currency)
    text = spelled(value, digits, *signs, cents)
    try:
        found = typed.minor(text, currency)
    except ValueError as error:
        assert signs[0] in (COMMA, POINT)  # one sign between thousands, and no decimals
        assert 10**3 <= value // 10**digits < 10**6
        assert f"write {value // 10**digits} if that is meant" in str(error)
        return
    three = digits == 3 and not cents  # a currency of three decimals: its own way of writing comes first
    assert found == value or (three and 10**3 <= value // 10**3 < 10**6 and value % 10**3 == 0)


@given(st.floats(-1e6, 1e6).map(lambda one: round(one, 6)))
def test_what_the_pages_write_into_a_field_is_what_is_read_back(value: float) -> None:
    assert typed.number(f"{value:.6f}") == value


@pytest.mark.parametrize(
    ("text", "told"),
    [
        ("6,000", "may be 6000 or 6: write which"),
        ("-12,500", "may be -12500 or -12.5"),
        ("1,2,3", "is not a number"),
        ("1.23.456", "is not a number"),
        ("1,234.567.8", "is not a number"),
    ],
)
def test_a_number_that_can_be_read_in_two_ways_is_asked_about(text: str, told: str) -> None:
    with pytest.raises(ValueError, match=told):
        typed.number(text)


def test_a_rate_has_as_many_decimals_as_it_likes() -> None:
    assert str(typed.rate("1,085")) == "1.085"
