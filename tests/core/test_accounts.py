"""Agreed, invoiced, paid, owed, to come: worked by hand; and that the books balance whatever is written into them."""

from __future__ import annotations

from datetime import timedelta
from decimal import Decimal
from typing import Any

import pytest
from babel import Locale
from babel.core import get_global
from babel.numbers import get_currency_precision
from hypothesis import given, settings
from hypothesis import strategies as st
from pydantic import ValidationError

from rovask.core.books.account_sheet import account_sheet
from rovask.core.books.budget import by_line, grouped, sums
from rovask.core.books.forecast import forecast
from rovask.core.books.item import ItemKind
from rovask.core.books.items import items
from rovask.core.books.timeline import by_month, timeline
from rovask.core.judged.ledger_edits import ledger_doubts, loose_bills
from rovask.core.plain.currency import exponent
from rovask.core.plain.money import Money, shared
from rovask.core.plan.planner import plan_and_judge
from rovask.core.readings.commitments import Commitment, commitments, landed, order_total
from rovask.core.refit.model import Agreement, Entry, Refit
from rovask.core.refit.recount import in_currency
from tests.builders import HAUL, person, refit, task

TRADE = {"role": "trade", "skills": ["rigging"], "rate": 5000, "call_out_hours": 3}
AT = HAUL.isoformat()


def entry(key: str, kind: str, amount: int, **more: Any) -> dict[str, Any]:
    return {"id": key, "kind": kind, "title": key, "at": AT, "currency": "EUR", "rate": "1", "amount": amount} | more


def agreement(**more: Any) -> dict[str, Any]:
    return {
        "id": "rig", "title": "Standing rigging", "party": "Rig", "currency": "EUR", "rate": "1", "price": 42000, "at": AT,
    } | more  # fmt: skip


def made(*entries: dict[str, Any], **more: Any) -> Refit:
    return refit(task("a"), entries=list(entries), **more)


def one(it: Refit) -> Commitment:
    (found,) = commitments(it)
    return found


def test_agreed_420_invoiced_505_paid_half_tells_where_it_stands() -> None:
    it = made(
        entry("i", "invoice", 50500, agreement="rig"),
        entry("p", "payment", 25250, agreement="rig", against="i"),
        agreements=[agreement(hold_back=10)],
    )
    acc = one(it)
    assert (acc.agreed, acc.invoiced, acc.paid, acc.owed, acc.bound) == (42000, 50500, 25250, 25250, 0)
    assert (acc.differs, acc.held, acc.payable) == (8500, 5050, 20200)
    assert acc.here.will_be == 50500


@pytest.mark.parametrize(("paid", "held", "payable"), [(0, 12000, 38500), (42000, 8500, 0), (50500, 0, 0)])
def test_a_hold_back_may_be_a_sum(paid: int, held: int, payable: int) -> None:
    # 505 invoiced, 120 of it held: 385 may be paid; with 420 paid only 85 is left, and all of that is held
    payments = [entry("p", "payment", paid, agreement="rig", against="i")] if paid else []
    it = made(
        entry("i", "invoice", 50500, agreement="rig"),
        *payments,
        agreements=[agreement(hold_back=10, hold_back_sum=12000)],
    )
    assert (one(it).held, one(it).payable) == (held, payable)
    seen = it.agreements[0].model_copy(update={"accepted_at": HAUL})
    assert one(it.model_copy(update={"agreements": (seen,)})).held == 0


def test_agreed_not_invoiced_is_what_it_says_and_what_is_had_back_stands_apart() -> None:
    # rigging 420 agreed, 150 paid ahead; mast 300 invoiced, 405 paid: 105 to be had back
    it = made(
        entry("ahead", "payment", 15000, agreement="rig"),
        entry("i", "invoice", 30000, agreement="mast"),
        entry("p", "payment", 40500, agreement="mast"),
        agreements=[agreement(), agreement(id="mast", title="Mast", price=30000)],
    )
    plan = plan_and_judge(it, HAUL).plan
    told, sheet = forecast(it, plan), account_sheet(it, plan)
    assert (told.bound.minor, told.ahead.minor, told.back.minor) == (42000, 15000, 10500)
    assert told.total.minor == 42000 + 30000  # what it comes to in the end
    assert told.total == told.paid + told.owed + told.bound - told.ahead - told.back + told.planned
    assert sheet["bound"] == sheet["agreed_not_invoiced"] - sheet["paid_ahead"] - sheet["to_be_had_back"]


def test_a_fixed_price_is_a_rate() -> None:
    people = [person("ann"), person("rig", role="trade", skills=["rigging"])]
    bare = refit(task("a", skill="rigging"), people=people)
    assert any("Rig has no rate" in note for note in forecast(bare, plan_and_judge(bare, HAUL).plan).notes)
    for more in ({"person": "rig"}, {"job": "job"}, {}):  # by name, by the job, by whose party it is
        agreed = bare.model_copy(update={"agreements": (Agreement.model_validate(agreement(**more)),)})
        assert not any("no rate" in note for note in forecast(agreed, plan_and_judge(agreed, HAUL).plan).notes), more


@pytest.mark.parametrize(
    ("rows", "closed", "bound", "owed", "to_come", "back", "will_be"),
    [
        ((), False, 42000, 0, 42000, 0, 42000),
        ((("payment", 12000),), False, 42000, 0, 30000, 0, 42000),  # a deposit comes off what is bound
        ((("invoice", 20000),), False, 22000, 20000, 22000, 0, 42000),
        ((("payment", 12000), ("invoice", 20000)), False, 22000, 8000, 22000, 0, 42000),
        ((("invoice", 40000), ("payment", 40000)), True, 0, 0, 0, 0, 40000),  # cheaper, and done with
        ((("invoice", 42000), ("payment", 42000), ("credit note", 2000)), False, 0, 0, 0, 2000, 40000),
        ((("invoice", 42000), ("payment", 42000), ("credit note", 2000), ("refund", 2000)), False, 0, 0, 0, 0, 40000),
        ((("credit note", 3000),), True, 0, 0, 0, 3000, -3000),
        ((("credit note", 3000), ("refund", 3000)), True, 0, 0, 0, 0, -3000),
        ((("payment", 50000),), False, 42000, 0, 0, 8000, 42000),  # paid too much: to be had back
    ],
)
def test_what_is_bound_is_consumed_by_invoices(
    rows: tuple[tuple[str, int], ...], closed: bool, bound: int, owed: int, to_come: int, back: int, will_be: int
) -> None:
    entries = [entry(f"e{n}", kind, much, agreement="rig") for n, (kind, much) in enumerate(rows)]
    here = one(made(*entries, agreements=[agreement(closed=closed)])).here
    assert (here.bound, here.owed, here.to_come - here.back, here.will_be) == (bound, owed, to_come - back, will_be)


def test_a_rate_of_its_day_stays_and_what_it_gained_or_lost_is_told_apart() -> None:
    # 505 USD invoiced at 0.92 are 464.60; 250 of it paid at 0.94 are 235.00 where 230.00 were owed
    usd = {"currency": "USD"}
    it = made(
        entry("i", "invoice", 50500, agreement="rig", rate="0.92", **usd),
        entry("p", "payment", 25000, agreement="rig", against="i", rate="0.94", **usd),
        agreements=[agreement(rate="0.9", price=60000, **usd)],
    )
    here = one(it).here
    assert (here.paid, here.owed, here.by_rate) == (23500, 46460 - 23000, 500)
    assert here.to_come == 8550  # 95 USD not invoiced yet, at the rate agreed
    assert here.will_be == 23500 + 23460 + 8550
    yen = in_currency(it, "JPY", Decimal(160))
    assert [row.amount for row in yen.entries] == [50500, 25000]  # nothing is priced anew
    assert one(yen).here.paid == 37600
    dollars = in_currency(it, "USD", Decimal("1.1"))
    assert one(dollars).here.will_be == 60000
    assert {row.rate for row in dollars.entries} == {"1"}


def test_a_bill_in_the_wrong_currency_or_a_rate_of_nought_is_refused_by_name() -> None:
    with pytest.raises(ValidationError, match="type the amount in EUR"):
        made(entry("i", "invoice", 100, agreement="rig", currency="USD", rate="0.9"), agreements=[agreement()])
    with pytest.raises(ValidationError, match="rate of nought"):
        made(entry("i", "invoice", 100, currency="USD", rate="0.0"))
    with pytest.raises(ValidationError, match="must be 1"):
        made(entry("i", "invoice", 100, rate="0.5"))
    with pytest.raises(ValidationError, match="belongs to another order or agreement"):
        made(
            entry("i", "invoice", 100, agreement="rig"),
            entry("p", "payment", 100, against="i"),
            agreements=[agreement()],
        )


def test_paid_before_it_was_looked_at_twice_or_too_much_is_asked_about() -> None:
    it = made(
        entry("i", "invoice", 42000, agreement="rig", number="17", party="Rig"), agreements=[agreement(hold_back=10)]
    )

    def doubts(**more: Any) -> str:
        data = entry("new", "payment", 1, agreement="rig", against="i") | more
        return " ".join(ledger_doubts(it, Entry.model_validate(data)))

    assert doubts(amount=37800) == ""
    assert "held back until the work is accepted" in doubts(amount=42000)
    assert "more than the 420 EUR that are owed" in doubts(amount=42001)
    again = entry("new", "invoice", 42000, agreement="rig", number="17", party="rig")
    assert "is in the ledger already" in " ".join(ledger_doubts(it, Entry.model_validate(again)))
    assert "420 EUR more than was agreed" in " ".join(ledger_doubts(it, Entry.model_validate(again)))


def test_the_same_without_a_number_is_asked_about_and_a_bill_of_nothing_is_shown_beside_its_agreement() -> None:
    bill = entry("i", "invoice", 50500, title="Mast", party="Rig")
    it = made(bill, agreements=[agreement(party="rig ")])

    def doubts(**more: Any) -> list[str]:
        return ledger_doubts(it, Entry.model_validate(bill | {"id": "new"} | more))

    assert "The same is in the ledger already: invoice of 505 EUR" in " ".join(doubts())
    assert len(doubts(title="mast", number="18")) == 1  # the first had no number: it may be the same
    for other in (
        {"amount": 50501},
        {"at": (HAUL + timedelta(days=1)).isoformat()},
        {"party": "Yard"},
        {"title": "Boom"},
    ):
        assert doubts(**other) == []
    assert [row.id for row in loose_bills(it, it.agreements[0])] == ["i"]
    laid = made(bill | {"agreement": "rig"}, agreements=[agreement()])
    assert loose_bills(laid, laid.agreements[0]) == []
    assert (one(laid).agreed, one(laid).invoiced, one(laid).bound) == (42000, 50500, 0)


def test_a_payment_of_nothing_to_somebody_who_is_owed_is_asked_about_for_it_would_count_twice() -> None:
    """240 USD at 0.92 owed; paid by itself the forecast has 220.80 and 226.10, paid there 226.10. By hand."""
    bill = entry("i", "invoice", 24000, title="Basket", party="Chandler", currency="USD", rate="0.92")
    it = made(bill, agreements=[agreement(party="Rig")])
    paid = entry("p", "payment", 24000, title="Paid", party="chandler", currency="USD", rate="0.942083333333")

    def doubts(**more: Any) -> str:
        return " ".join(ledger_doubts(it, Entry.model_validate(paid | more)))

    assert doubts().startswith("240 USD is owed for “Basket” of Chandler: enter it there")
    assert "420 EUR is agreed and not invoiced yet, for “" in doubts(party="rig")
    for other in ({"against": "i"}, {"party": "Yard"}, {"party": ""}, {"kind": "invoice", "amount": 5}):
        assert doubts(**other) == ""
    apart, together = (
        it.model_copy(update={"entries": (*it.entries, Entry.model_validate(paid | more))})
        for more in ({}, {"against": "i"})
    )
    totals = [sum(one.here.will_be for one in commitments(each) if one.currency == "USD") for each in (apart, together)]
    assert totals == [22080 + 22610, 22610]


def test_a_fixed_price_covers_the_hours_of_its_job_and_by_the_hour_has_its_own_rate() -> None:
    two = [
        {"id": "mast", "title": "Mast", "tasks": [task("a", 4, skill="rigging")]},
        {"id": "boom", "title": "Boom", "tasks": [task("b", 4, skill="rigging")]},
    ]
    people = [person("ann"), person("rig", **TRADE)]

    def costs(*rows: dict[str, Any]) -> dict[tuple[str, str | None], int]:
        it = refit(jobs=two, people=people, agreements=list(rows))
        found = items(it, plan_and_judge(it, HAUL).plan)
        return {(row.kind.value, row.job): row.will_be for row in found if row.will_be}

    assert costs() == {("paid hours", "mast"): 20000, ("paid hours", "boom"): 20000}
    fixed = agreement(person="rig", job="mast", price=15000)
    assert costs(fixed) == {("agreements", "mast"): 15000, ("paid hours", "boom"): 20000}
    hourly = agreement(person="rig", form="by the hour", rate_of_pay=4000, price=0)
    assert costs(hourly) == {("agreements", None): 32000}


def test_a_persons_bill_takes_the_place_of_the_hours_worked() -> None:
    it = refit(
        task("a", 4, skill="rigging", begun_at=AT, done_at="2026-05-04T12:00Z", crew=["rig"]),
        task("b", 4, skill="rigging"),
        people=[person("ann"), person("rig", **TRADE)],
        entries=[entry("i", "invoice", 23000, person="rig", party="Rig")],
    )
    made_ = forecast(it, plan_and_judge(it, HAUL + timedelta(hours=6)).plan)
    # worked 4 h, 200.00, billed 230.00; 4 h more on another day or the same
    assert made_.owed.minor == 23000
    assert made_.planned.minor in (20000, 15000)
    assert made_.total.minor == made_.owed.minor + made_.planned.minor


def test_landed_and_rounding() -> None:
    # 100.00 and 10.00 freight; 4.5 % duty of 110.00 is 4.95; 23 % tax of 114.95 is 26.4385, so 26.44
    assert landed(10000, 1000, 4.5, 23, "EUR") == 14139
    assert landed(10000, 0, 0, 8, "JPY") == 10800
    assert Money(5, "EUR").times(Decimal("0.5")) == Money(3, "EUR")  # half a cent goes away from zero
    assert Money(-5, "EUR").times(Decimal("0.5")) == Money(-3, "EUR")


def test_minor_units_are_iso_4217s_as_babel_has_them() -> None:
    fractions = get_global("currency_fractions")
    for code in Locale("en").currencies:
        digits = fractions.get(code, fractions["DEFAULT"])[0]
        assert exponent(code) == digits == get_currency_precision(code), code
    assert (exponent("EUR"), exponent("JPY"), exponent("KWD")) == (2, 0, 3)  # ISO 4217


def test_the_contingency_is_drawn_down_by_name() -> None:
    it = made(
        budget=100000,
        budget_lines=[
            {"id": "hull", "title": "Hull", "amount": 60000, "sections": ["hull and underwater", "other"]},
            {"id": "rest", "title": "Contingency", "amount": 40000, "contingency": True},
        ],
        draws=[
            {"id": "d", "title": "Wet keel", "amount": 15000, "source": "rest", "to": "hull", "at": AT},
            {"id": "e", "title": "The mast, perhaps", "amount": 5000, "source": "rest", "at": AT},
        ],
        parts=[{"id": "p", "name": "P", "price": 70000}],
    )
    hull, rest = by_line(it, plan_and_judge(it, HAUL).plan)
    assert (hull.given, hull.sums.will_be, hull.left) == (75000, 70000, 5000)
    assert (rest.given, [draw.title for draw in rest.draws]) == (20000, ["Wet keel", "The mast, perhaps"])


@given(st.integers(-(10**9), 10**9), st.lists(st.floats(0, 1e6), min_size=1, max_size=9))
def test_shares_add_up_to_the_last_unit(amount: int, weights: list[float]) -> None:
    cut = shared(amount, weights)
    assert sum(cut) == amount
    whole = sum(weights)
    if whole > 1e-3:
        assert all(abs(part - amount * weight / whole) <= 1.001 for part, weight in zip(cut, weights, strict=True))


CURRENCIES = {"EUR": "1", "USD": "0.9137", "JPY": "0.0061", "KWD": "2.9931"}
documents = st.lists(
    st.tuples(
        st.sampled_from(["invoice", "payment", "credit note", "refund"]),
        st.sampled_from(["rig", "o", "p", "", "", "lift", "rig-hours"]),
        st.integers(1, 90_000),
        st.integers(-3, 3),
    ),
    max_size=14,
)


@settings(max_examples=120, deadline=None)
@given(documents, st.sampled_from(list(CURRENCIES)), st.sampled_from(list(CURRENCIES)), st.booleans())
def test_the_books_balance_whatever_is_entered(
    rows: list[tuple[str, str, int, int]], one_: str, other: str, closed: bool
) -> None:
    homes = {"rig": one_, "o": other, "p": "EUR"}
    entries = []
    for n, (kind, home, much, drift) in enumerate(rows):
        currency = homes.get(home, "EUR")
        rate = "1" if currency == "EUR" else f"{float(CURRENCIES[currency]) * (1 + drift / 50):.6f}"
        at = (HAUL + timedelta(hours=n)).isoformat()
        where: dict[str, Any] = {}
        if home == "rig":
            where = {"agreement": "rig"}
        elif home in ("o", "p"):
            where = {"order": home}
        elif home == "lift":
            where = {"charge": "lift"}
        elif home == "rig-hours":
            where = {"person": "rig"}
        entries.append(entry(f"e{n}", kind, much, currency=currency, rate=rate, at=at, **where))
    it = refit(
        jobs=[
            {"id": "j", "title": "J", "tasks": [task("a", 4, parts=["x", "y"]), task("r", 4, skill="rigging")]},
            {"id": "k", "title": "K", "need": "could", "tasks": [task("b", 3, parts=["x"])]},
        ],
        people=[person("ann"), person("rig", **TRADE)],
        yard={"name": "Y", "time_zone": "Europe/Lisbon", "lift_and_launch": 60000, "lay_day": 3333, "free_days": 2},
        parts=[
            {"id": "x", "name": "X", "quantity": 3, "unit": "kg", "price": 10001},
            {"id": "y", "name": "Y", "price": 777},
        ],
        unknowns=[{"id": "u", "title": "U", "chance": 0.3, "money": 4999}],
        orders=[
            {"id": "o", "supplier": "S", "currency": other, "rate": CURRENCIES[other], "placed_at": AT, "freight": 101,
             "duty": 3.5, "tax": 21, "closed": closed},
            {"id": "p", "supplier": "T", "currency": "EUR", "rate": "1", "placed_at": AT},
        ],
        order_lines=[
            {"id": "l", "order": "o", "part": "x", "quantity": 1, "price": 5003},
            {"id": "m", "order": "o", "part": "y", "quantity": 1, "price": 0},
        ],
        agreements=[agreement(currency=one_, rate=CURRENCIES[one_], job="k")],
        entries=entries,
        budget_lines=[{"id": "all", "title": "All", "amount": 1, "sections": ["yard", "other"]}],
    )  # fmt: skip
    plan = plan_and_judge(it, HAUL + timedelta(hours=4)).plan
    found, told = items(it, plan), forecast(it, plan)
    for acc in commitments(it):
        here = acc.here
        assert here.will_be == here.paid + here.owed + here.to_come - here.back
        assert acc.owed >= 0
        assert acc.bound >= 0
        raised = sum(row.amount for row in acc.entries if row.kind.value == "invoice")
        if acc.kind.value in ("order", "agreement") and not (acc.key == "o" and closed):
            # never counted twice: bound and invoiced together are what was agreed, or what was invoiced beyond it
            assert acc.bound + raised == max(acc.agreed, raised)
        if acc.currency == "EUR":
            assert here.by_rate == 0
    paid = sum(
        Money(row.amount, row.currency).changed_to("EUR", Decimal(row.rate)).minor
        * (1 if row.kind.value == "payment" else -1)
        for row in it.entries
        if row.kind.value in ("payment", "refund")
    )
    assert told.paid.minor == paid == sum(row.paid for row in found)
    # every view is a sum over the same items
    assert told.total.minor == sum(row.will_be for row in found)
    assert sum(row.sums.will_be for row in by_line(it, plan)) == told.total.minor
    for by in ("job", "party", "person", "section", "line"):
        groups = grouped(it, plan, lambda row, by=by: getattr(row, by))
        assert sum(row.will_be for row in groups.values()) == told.total.minor, by
        assert sum(row.paid for row in groups.values()) == paid, by
    days = timeline(it, plan)
    assert sum(row.total for row in days) == told.total.minor
    assert sum(row.paid for row in by_month(days).values()) == paid
    assert sum(row.unknown for row in days) == told.expected.minor
    sheet = account_sheet(it, plan)
    assert (
        sheet["forecast"]["total"]
        == sheet["paid"] + sheet["owed"] + sheet["bound"] + sheet["planned"] + sheet["unknowns"]
    )
    assert sum(row["amount"] for row in sheet["forecast"]["lines"]) == sheet["forecast"]["total"]
    assert told.low <= told.total <= told.high
    assert order_total(it.orders[0], [row for row in it.order_lines if row.order == "o"]) == next(
        acc.agreed for acc in commitments(it) if acc.key == "o"
    )
    assert sums(found).will_be == told.total.minor
    assert all(row.kind is not ItemKind.PART or row.rest >= 0 for row in found)
