"""The yard's bill against tables worked by hand, and what a day more costs. Invented tariffs; the counting is calendar's."""

from __future__ import annotations

from datetime import timedelta
from typing import Any

from hypothesis import given
from hypothesis import strategies as st

from rovask.core.books.forecast import forecast
from rovask.core.books.one_more_day import one_more_day
from rovask.core.books.yard_bill import against_invoices, by_day, yard_bill
from rovask.core.plan.planner import plan_and_judge
from rovask.core.plan.result import Plan
from rovask.core.refit.model import Refit
from tests.builders import HAUL, person, refit, task


def planned(it: Refit) -> Plan:
    return plan_and_judge(it, HAUL).plan


def bill(tariff: list[dict[str, Any]], *tasks: dict[str, Any], **more: Any) -> dict[str, int]:
    it = with_tariff(tariff, *tasks, **more)
    return {line.title: line.amount for line in yard_bill(it, planned(it))}


def with_tariff(
    tariff: list[dict[str, Any]], *tasks: dict[str, Any], yard: dict[str, Any] | None = None, **more: Any
) -> Refit:
    base = {"name": "Y", "time_zone": "Europe/Lisbon", "tariff": tariff, "slings_hours": 40}
    return refit(*(tasks or (task("a"),)), yard=base | (yard or {}), **more)


def line(charge: str, price: int, per: str, title: str = "", first: int = 1, last: int | None = None) -> dict[str, Any]:
    return {"charge": charge, "price": price, "per": per, "title": title, "from_day": first, "to_day": last}


def test_a_whole_tariff_by_hand() -> None:
    """Haul Mon 4 May, launch Mon 18 May: 15 days. The hull is 11 m by 3.5 m, 38.5 m²."""
    found = bill(
        [
            line("lift", 2150, "a metre", "Lift"),  # 11 × 21.50 = 236.50
            line("wash", 9000, "once", "Wash"),
            line("block", 450, "a metre", "Blocks"),  # 49.50
            line("launch", 20000, "once", "Launch"),
            line("lay-days", 110, "a metre and day", "Spring", 4, 10),  # 7 days × 11 m × 1.10 = 84.70, three days free
            line("lay-days", 45, "a square metre and day", "Then", 11),  # 5 days × 38.5 m² × 0.45 = 86.625: 86.63
            line("power", 32, "a kWh", "Power"),
            line("move", 8000, "each", "Moves"),
            line("contractors' access", 1500, "a contractor's day", "Access"),
            line("environment levy", 250, "per cent of the rest", "Levy"),
        ],
        task("r", 4, skill="rigging"),
        task("q", 4, skill="rigging"),
        people=[
            person("ann"),
            person(
                "rig", role="trade", skills=["rigging"], hours=[{"days": ["tue"], "start": "08:00", "end": "12:00"}]
            ),
        ],
        yard={
            "meter": [
                {"at": "2026-05-04T10:00Z", "kwh": 100.0},
                {"at": "2026-05-09T10:00Z", "kwh": 140.0},  # 8 a day; 9 days more to the 18th: 112 kWh in all
            ]
        },
        yard_extras=[
            {"id": "m", "title": "To the shed", "charge": "move", "on": "2026-05-06", "count": 2},
            {"id": "p", "title": "Grit permit", "charge": "permit", "on": "2026-05-07", "price": 4000},
        ],
    )
    rest = {
        "Lift": 23650,
        "Wash": 9000,
        "Blocks": 4950,
        "Launch": 20000,
        "Spring": 8470,
        "Then": 8663,
        "Power": 3584,
        "Moves": 16000,
        "Access": 3000,  # the rigger comes on Tuesday 5 and 12 May
        "Grit permit": 4000,
    }
    assert found == rest | {"Levy": round(sum(rest.values()) * 0.025)}


def test_months_begun_and_a_cheaper_first_month() -> None:
    long = {"launch_at": "2026-07-06T09:00Z"}  # 64 days from 4 May
    assert bill([line("lay-days", 60000, "a month begun", "Month")], **long) == {
        "Month": 3 * 60000
    }  # to 3 June, 3 July, 6 July
    two = [line("lay-days", 30000, "once", "First month", 1, 30), line("lay-days", 2000, "a day", "Then", 31)]
    assert bill(two, **long) == {"First month": 30000, "Then": 34 * 2000}
    assert bill(two) == {"First month": 30000}  # a fortnight


def test_nights_in_the_slings_and_what_one_more_day_costs() -> None:
    it = with_tariff(
        [line("nights in the slings", 12000, "a night"), line("lay-days", 4000, "a day", "Lay-days")],
        task("a"),
        task("s", 12, state="slings"),
        links=[],
        price_night_ashore=9000,
    )
    plan = planned(it)
    found = {row.title: row.amount for row in yard_bill(it, plan)}
    zone = it.yard.zone
    first = plan.by_task()["s"].start.astimezone(zone).date()
    nights = (plan.launch.astimezone(zone).date() - first).days
    assert nights == 1
    assert found["Nights in the slings"] == nights * 12000
    assert {row.title: row.amount.minor for row in one_more_day(it, plan)} == {"Lay-days": 4000}


def test_against_the_yards_invoice_line_by_line() -> None:
    """Lay-days invoiced to 10 May: 7 at 40.00 are 280.00, the yard says 320.00; 8 more to come. The lift as agreed."""

    def invoice(key: str, charge: str, amount: int, at: str) -> dict[str, Any]:
        return {
            "id": key, "title": charge, "kind": "invoice", "charge": charge, "amount": amount, "at": at, "currency": "EUR",
            "rate": "1",
        }  # fmt: skip

    it = refit(
        task("a"),
        yard={"name": "Y", "time_zone": "Europe/Lisbon", "lift_and_launch": 60000, "lay_day": 4000},
        entries=[
            invoice("l", "lift", 60000, "2026-05-04T12:00Z"),
            invoice("d", "lay-days", 32000, "2026-05-10T12:00Z"),
            invoice("x", "permit", 1500, "2026-05-10T12:00Z"),
        ],
    )
    rows = {row.charge.value: row for row in against_invoices(it, yard_bill(it, planned(it)))}
    assert (rows["lift"].differs, rows["lift"].rest) == (0, 0)
    assert (rows["lay-days"].until, rows["lay-days"].differs, rows["lay-days"].rest) == (28000, 4000, 32000)
    assert (rows["permit"].differs, rows["permit"].how) == (1500, "not in the tariff")
    assert forecast(it, planned(it)).total.minor == 60000 + 32000 + 1500 + 32000


@given(
    st.lists(
        st.tuples(
            st.sampled_from(["a day", "a metre and day", "a square metre and day", "a month begun", "once"]),
            st.integers(1, 9999),
            st.integers(1, 20),
            st.one_of(st.none(), st.integers(0, 20)),
        ),
        max_size=5,
    )
)
def test_the_days_of_every_line_add_up_to_it_and_a_later_launch_is_never_cheaper(
    rows: list[tuple[str, int, int, int | None]],
) -> None:
    tariff = [
        line("lay-days", price, per, f"{n}", first, None if more is None else first + more)
        for n, (per, price, first, more) in enumerate(rows)
    ]
    it = with_tariff(tariff)
    plan = planned(it)
    found = yard_bill(it, plan)
    for one in found:
        assert sum(amount for _, amount in one.days) == one.amount
    assert sum(by_day(found).values()) == sum(one.amount for one in found)
    later = plan.model_copy(update={"launch": plan.launch + timedelta(days=1)})
    assert sum(one.amount for one in yard_bill(it, later)) >= sum(one.amount for one in found)
    assert sum(row.amount.minor for row in one_more_day(it, plan)) == sum(
        one.amount for one in yard_bill(it, later)
    ) - sum(one.amount for one in found)
