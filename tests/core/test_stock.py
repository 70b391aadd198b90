"""What there is of a part, what covers whose need, and by when to order: counted by hand."""

from __future__ import annotations

from datetime import UTC, date, datetime, timedelta
from typing import Any
from zoneinfo import ZoneInfo

import pytest
from hypothesis import given
from hypothesis import strategies as st

from rovask.core.books.items import unbought
from rovask.core.books.later import gives_berth_back, later_costs
from rovask.core.books.order_by import part_needs, reason, to_order
from rovask.core.judged.misfit_edits import made_to_fit
from rovask.core.judged.order_edits import receipt_of, received, tried
from rovask.core.judged.part_edits import counted, got, moved_on
from rovask.core.judged.trips import Trip, planned_trip, proposals
from rovask.core.plan.planner import plan_and_judge
from rovask.core.plan.verify.check import verify
from rovask.core.readings.open_days import OpenDays, open_days
from rovask.core.readings.readiness import ready_at
from rovask.core.readings.stock import stocks
from rovask.core.refit.model import Refit
from rovask.core.refit.stores.choices import Condition, PartStatus, Remedy
from rovask.core.refit.work.edits import finish_task, reopen_task
from tests.builders import HAUL, link, refit, task

AT = HAUL.isoformat()
PLY = {"id": "ply", "name": "Plywood", "quantity": 3, "unit": "", "price": 9000, "lead_days": 2}


class Ids:
    """Ids in order of asking."""

    def __init__(self) -> None:
        self.n = 0

    def __call__(self, kind: str) -> str:
        self.n += 1
        return f"{kind[0]}-{self.n}"


def order(key: str = "o", **more: Any) -> dict[str, Any]:
    return {"id": key, "supplier": "Shop", "currency": "EUR", "rate": "1", "placed_at": HAUL.isoformat()} | more


def row(key: str, part: str, quantity: float, price: int = 0, of: str = "o") -> dict[str, Any]:
    return {"id": key, "order": of, "part": part, "quantity": quantity, "price": price}


def came(key: str, line: str, quantity: float, condition: str = "arrived", **more: Any) -> dict[str, Any]:
    return {"id": key, "line": line, "at": HAUL.isoformat(), "quantity": quantity, "condition": condition} | more


def test_a_leftover_is_used_first_and_is_gone_once_it_is_built_in() -> None:
    # three sheets wanted, one and a half lie in the quarter locker; the floor takes 1, the lockers 2
    made = refit(
        task("floor", parts=["ply"]),
        task("lockers", parts=["ply"]),
        parts=[PLY | {"unit": "sheet", "counted": 1.5, "counted_at": HAUL.isoformat()}],
        uses=[
            {"id": "u", "task": "floor", "part": "ply", "amount": 1},
            {"id": "v", "task": "lockers", "part": "ply", "amount": 2},
        ],
    )
    stock = stocks(made)["ply"]
    assert (stock.there_is, stock.wanted, stock.short) == (1.5, 3, 1.5)
    assert stock.by_task["floor"].tried == 1
    assert stock.by_task["lockers"].tried == 0.5
    assert ready_at(made, "ply", "floor", HAUL) is None
    assert ready_at(made, "ply", "lockers", HAUL) == HAUL + timedelta(days=2, minutes=30)
    done = finish_task(made, "floor", HAUL + timedelta(hours=4), ("ann",))
    assert stocks(done)["ply"].there_is == 0.5
    assert stocks(reopen_task(done, "floor"))["ply"].there_is == 1.5  # a tick taken back puts it back
    counted_after = counted(done, "ply", 0.25, HAUL + timedelta(hours=5))
    assert stocks(counted_after)["ply"].there_is == 0.25  # what was used before the count is in it
    assert stocks(counted_after)["ply"].short == 1.75


def test_part_deliveries_cover_in_the_order_of_need_and_only_what_fits_may_be_used() -> None:
    expected = HAUL + timedelta(days=3)
    made = refit(
        jobs=[
            {"id": "late", "title": "Could", "need": "could", "tasks": [task("c", parts=["ply"])]},
            {"id": "must", "title": "Must", "tasks": [task("m", parts=["ply"])]},
        ],
        parts=[PLY],
        uses=[
            {"id": "u", "task": "c", "part": "ply", "amount": 2},
            {"id": "v", "task": "m", "part": "ply", "amount": 1},
        ],
        orders=[order(expected=expected.isoformat())],
        order_lines=[row("l", "ply", 3)],
        receipts=[came("r", "l", 1)],
    )
    stock = stocks(made)["ply"]
    assert (stock.untried, stock.on_order, stock.short, stock.status) == (1, 2, 0, PartStatus.ORDERED)
    assert ready_at(made, "ply", "m", HAUL) == HAUL + timedelta(minutes=30)  # a try for fit
    assert ready_at(made, "ply", "c", HAUL) == expected + timedelta(minutes=30)
    fits = tried(made, "r", HAUL)
    assert ready_at(fits, "ply", "m", HAUL) is None
    plan = plan_and_judge(made, HAUL).plan
    assert verify(made, plan) == []
    assert plan.by_task()["c"].start >= expected + timedelta(minutes=30)
    all_of_it = received(fits, receipt_of(fits, "r").model_copy(update={"id": "s", "quantity": 2}))
    assert all_of_it.orders[0].state == "arrived"
    assert stocks(all_of_it)["ply"].on_order == 0
    with pytest.raises(Exception, match="more than the 3"):
        received(all_of_it, receipt_of(fits, "r").model_copy(update={"id": "t"}))


@pytest.mark.parametrize(
    ("condition", "remedy", "there", "coming", "short"),
    [
        ("fits", None, 3, 0, 0),
        ("does not fit", None, 0, 0, 3),
        ("does not fit", "exchange", 0, 3, 0),
        ("lost", None, 0, 0, 3),
        ("returned", "money back", 0, 0, 3),
        ("wrong thing", "exchange", 0, 3, 0),
        ("damaged", "another offer", 0, 0, 3),
    ],
)
def test_what_cannot_be_used_is_no_stock(
    condition: str, remedy: str | None, there: float, coming: float, short: float
) -> None:
    made = refit(
        task("a", parts=["ply"]),
        parts=[PLY],
        orders=[order()],
        order_lines=[row("l", "ply", 3)],
        receipts=[came("r", "l", 3, condition, remedy=remedy)],
    )
    stock = stocks(made)["ply"]
    assert (stock.there_is, stock.on_order, stock.short) == (there, coming, short)


def test_a_part_that_does_not_fit_is_made_to_by_a_task_before_what_needs_it() -> None:
    made = refit(
        task("a", parts=["ply"]), parts=[PLY], orders=[order()], order_lines=[row("l", "ply", 3)],
        receipts=[came("r", "l", 3, "does not fit", off_by="2 mm", remedy="modify")],
    )  # fmt: skip
    mended = made_to_fit(made, receipt_of(made, "r"), 3, Ids())
    plan = plan_and_judge(mended, HAUL).plan
    first = next(one for one in mended.jobs[0].tasks if one.id != "a")
    assert plan.by_task()["a"].start >= plan.by_task()[first.id].end
    assert verify(mended, plan) == []
    done = finish_task(mended, first.id, HAUL + timedelta(hours=3), ("ann",))
    assert stocks(done)["ply"].status is PartStatus.CHECKED


def test_ordered_received_and_tried_by_three_taps_and_put_back() -> None:
    made, ids = refit(task("a", parts=["ply"]), parts=[PLY | {"supplier": "Chandler"}]), Ids()
    ordered = moved_on(made, "ply", PartStatus.ORDERED, HAUL, ids)
    assert (ordered.order_lines[0].quantity, ordered.order_lines[0].price) == (3, 9000)
    assert ordered.orders[0].expected == HAUL + timedelta(days=2)
    assert to_order(part_needs(ordered, *_planned(ordered))) == []
    here = moved_on(ordered, "ply", PartStatus.ABOARD, HAUL + timedelta(days=2), ids)
    assert stocks(here)["ply"].status is PartStatus.ABOARD
    fits = moved_on(here, "ply", PartStatus.CHECKED, HAUL + timedelta(days=2), ids)
    assert stocks(fits)["ply"].status is PartStatus.CHECKED
    assert fits.receipts[0].condition is Condition.FITS
    back = moved_on(ordered, "ply", PartStatus.NEEDED, HAUL, ids)
    assert stocks(back)["ply"].short == 3
    bought = got(made, "ply", HAUL, ids, 7500)
    assert [(entry.kind.value, entry.amount) for entry in bought.entries] == [("invoice", 7500), ("payment", 7500)]
    assert stocks(bought)["ply"].here == 3


def _planned(made: Refit):  # type: ignore[no-untyped-def]
    planned = plan_and_judge(made, HAUL)
    return planned.plan, planned.verdict


def test_pieces_are_taken_whole_and_what_is_measured_is_shared() -> None:
    made = refit(
        task("dry", parts=["bearing", "epoxy"]),
        task("fit", parts=["bearing", "epoxy"]),
        parts=[
            {"id": "bearing", "name": "Bearing", "status": "checked"},
            {"id": "epoxy", "name": "Epoxy", "quantity": 5, "unit": "kg", "status": "checked"},
        ],
    )
    done = finish_task(made, "dry", HAUL + timedelta(hours=4), ("ann",))
    assert stocks(done)["bearing"].there_is == 1  # it was only tried
    assert stocks(done)["epoxy"].there_is == 2.5
    gone = finish_task(done, "fit", HAUL + timedelta(hours=8), ("ann",))
    assert (stocks(gone)["bearing"].there_is, stocks(gone)["epoxy"].there_is) == (0, 0)


def test_what_lies_elsewhere_cannot_start_its_task_until_a_trip_brings_it() -> None:
    made = refit(
        task("a", parts=["ply"]),
        task("b"),
        parts=[PLY | {"status": "checked", "lies": "far store", "supplier": "The barn"}],
        suppliers=[{"id": "barn", "name": "The barn", "what": "store of our own", "away_hours": 4}],
    )
    assert ready_at(made, "ply", "a", HAUL) == HAUL + timedelta(days=1, minutes=30)
    (one,) = proposals(made)
    assert (one.to, [part.id for part in one.parts], one.hours) == ("The barn", ["ply"], 4.5)
    after, key = planned_trip(made, Trip("The barn", ("ply",), 4.5, "bo"), Ids())
    plan = plan_and_judge(after, HAUL).plan
    assert plan.by_task()[key].people == ("bo",)
    assert plan.by_task()["a"].start >= plan.by_task()[key].end
    assert verify(after, plan) == []
    assert proposals(after) == []


LISBON = ZoneInfo("Europe/Lisbon")


def local(day: int, hour: int = 10, month: int = 3) -> datetime:
    return datetime(2026, month, day, hour, tzinfo=LISBON).astimezone(UTC)


def test_lead_times_count_open_days_over_a_weekend_a_holiday_and_a_change_of_the_clocks() -> None:
    """By the calendar of March 2026: Friday the 27th; the clocks go forward in Lisbon on Sunday the 29th."""
    every = OpenDays(LISBON, frozenset(range(7)), ())
    week = OpenDays(LISBON, frozenset(range(5)), ())
    holiday = OpenDays(LISBON, frozenset(range(5)), ((date(2026, 3, 31), date(2026, 3, 31)),))
    assert every.after(local(27), 3) == local(30)  # 10:00 by the clock on the wall, an hour less elapsed
    assert local(30) - local(27) == timedelta(hours=71)
    assert week.after(local(27), 3) == local(1, month=4)  # Mon 30, Tue 31, Wed 1 April
    assert holiday.after(local(27), 3) == local(2, month=4)  # Tuesday is a holiday
    assert week.after(local(28), 1) == local(31)  # ordered on a Saturday: taken on Monday, sent by Tuesday
    assert week.before(local(1, month=4), 3) == local(27)
    assert holiday.before(local(2, month=4), 3) == local(27)
    assert week.before(local(29), 1) == local(26)  # needed on a Sunday: it must come on Friday, ordered on Thursday


@given(st.integers(0, 400), st.integers(0, 20), st.sets(st.integers(0, 6), min_size=1), st.booleans())
def test_the_latest_order_comes_in_time_and_a_day_later_does_not(
    day: int, lead: int, weekdays: set[int], shut: bool
) -> None:
    ranges = ((date(2026, 4, 3), date(2026, 4, 9)),) if shut else ()
    days = OpenDays(LISBON, frozenset(weekdays), ranges)
    need = datetime(2026, 1, 5, 12, tzinfo=LISBON).astimezone(UTC) + timedelta(days=day)
    latest = days.before(need, lead)
    assert days.after(latest, lead) <= need
    later = latest + timedelta(days=1)
    assert days.after(later, lead) > need or later > need


def test_order_by_says_why_and_a_carrier_that_is_shut_makes_it_earlier() -> None:
    shop = {"id": "s", "name": "Chandler", "open_days": ["mon", "tue", "wed", "thu", "fri"]}
    made = refit(task("a", parts=["ply"]), parts=[PLY | {"supplier": "chandler", "lead_most": 4}], suppliers=[shop])
    plan, verdict = _planned(made)
    (need,) = part_needs(made, plan, verdict)
    latest = plan.by_task()["a"].start + timedelta(minutes=need.spare)
    assert need.order_by == open_days(made, "Chandler").before(latest - timedelta(minutes=30), 2)
    assert need.order_by is not None
    assert need.surely_by is not None
    assert need.surely_by < need.order_by
    assert "2 open days on the way" in reason(made, need)
    carrier = {"id": "c", "name": "Van", "what": "carrier", "shut": [{"first": "2026-05-11", "last": "2026-05-17"}]}
    slower = Refit.model_validate(made.model_dump() | {"suppliers": [shop, carrier]})
    (later,) = part_needs(slower, plan, verdict)
    assert later.order_by is not None
    assert later.order_by < need.order_by
    safe = Refit.model_validate(made.model_dump() | {"certainty": "safe"})
    (surely,) = part_needs(safe, plan, verdict)
    assert surely.order_by == need.surely_by


def test_a_day_later_costs_nothing_then_spare_and_a_berth_then_the_yards_day() -> None:
    made = refit(
        task("open", 2, takes_out=["berth"], until="close"),
        task("panel", 2, parts=["ply"]),
        task("close", 2),
        task("other", 1, parts=["rope"]),
        links=[link("open", "panel", 72), link("panel", "close")],
        parts=[PLY, {"id": "rope", "name": "Rope", "lead_days": 1}],
        price_night_ashore=6000,
        yard={"lay_day": 2500, "free_days": 0},
    )
    plan, verdict = _planned(made)
    ply, rope = (next(one for one in part_needs(made, plan, verdict) if one.part.id == key) for key in ("ply", "rope"))
    # opened on Monday at 8, to be panelled on Thursday at 10: without spare ordered by Tuesday morning
    assert ply.easy_by == open_days(made, "").before(plan.by_task()["panel"].start - timedelta(minutes=30), 2)
    assert [(one.until, one.what, one.money.minor) for one in later_costs(made, plan, ply)] == [
        (ply.easy_by, "nothing", 0),
        (ply.order_by, "spare and a night elsewhere, for a berth stays out", 6000),
        (
            None,
            "another order of work, or the launch: a day more in the yard and a night elsewhere, for a berth stays out",
            8500,
        ),
    ]
    assert [(one.what, one.money.minor) for one in later_costs(made, plan, rope)][-1] == (
        "another order of work, or the launch: a day more in the yard",
        2500,
    )
    # what has to be there before the berth is opened keeps nobody from it, and a could-job moves no launch
    assert [gives_berth_back(made, key) for key in ("open", "panel", "close", "other")] == [False, True, True, False]
    could = Refit.model_validate(made.model_dump() | {"jobs": [made.jobs[0].model_dump() | {"need": "could"}]})
    assert later_costs(could, plan, rope)[-1].what == "“Job”, which no longer fits before the launch"


def test_something_without_a_date_is_still_to_order() -> None:
    made = refit(task("a"), parts=[PLY])
    assert [need.part.id for need in to_order(part_needs(made, *_planned(made)))] == ["ply"]


@pytest.mark.parametrize(
    ("more", "lots", "share"),
    [
        ({}, [], 1),  # six are needed, none had: all of the price
        ({"counted": 2, "counted_at": AT}, [], 4 / 6),
        ({"counted": 2, "counted_at": AT, "pack": 5}, [], 5 / 6),
        ({}, [(6, "fits", None)], 0),
        ({}, [(5, "fits", None), (1, "lost", None)], 1 / 6),  # one went overboard: it is bought again
        ({}, [(6, "damaged", "exchange")], 0),
        ({}, [(6, "damaged", "money back")], 1),
        ({"counted": 6, "counted_at": (HAUL + timedelta(days=1)).isoformat()}, [(6, "fits", None)], 0),
        ({"counted": 1, "counted_at": (HAUL + timedelta(days=1)).isoformat()}, [(6, "fits", None)], 5 / 6),
        ({"status": "checked"}, [], 0),  # aboard: it costs nothing more
        ({"status": "checked", "quantity": 3}, [], 1),  # three had, three more needed
        ({"status": "ordered", "arrives": AT}, [], 1),  # without a paper: as typed
        ({"status": "checked", "missing_since": AT}, [], 1),
    ],
)
def test_what_is_still_to_be_spent_on_a_part(
    more: dict[str, Any], lots: list[tuple[int, str, str | None]], share: float
) -> None:
    made = refit(
        task("a", parts=["p"]),
        parts=[{"id": "p", "name": "P", "quantity": 6} | more],
        uses=[{"id": "u", "task": "a", "part": "p", "amount": 6}],
        orders=[order()] if lots else [],
        order_lines=[row("l", "p", 6)] if lots else [],
        receipts=[came(f"r{n}", "l", much, how, remedy=then) for n, (much, how, then) in enumerate(lots)],
    )
    assert unbought(made, made.parts[0]) == pytest.approx(share)


amounts = st.integers(1, 5)


@given(
    st.lists(amounts, min_size=1, max_size=4),
    st.one_of(st.none(), st.integers(0, 12)),
    st.lists(st.tuples(amounts, st.sampled_from(list(Condition)), st.sampled_from([None, *Remedy])), max_size=4),
    st.sets(st.integers(0, 3)),
)
def test_no_stock_below_nothing_and_every_need_is_covered_once(
    uses: list[int], have: int | None, lots: list[tuple[int, Condition, Remedy | None]], done: set[int]
) -> None:
    begun = {"begun_at": "2026-05-04T08:00Z", "done_at": "2026-05-04T09:00Z"}
    tasks = [task(f"t{n}", parts=["p"], **(begun if n in done else {})) for n in range(len(uses))]
    total = sum(much for much, _, _ in lots) + 3
    made = refit(
        *tasks,
        links=[link("t0", "t1")] if len(uses) > 1 and not done else [],
        parts=[{"id": "p", "name": "P", "quantity": 1, "counted": have, "counted_at": HAUL.isoformat() if have is not None else None}],
        uses=[{"id": f"u{n}", "task": f"t{n}", "part": "p", "amount": much} for n, much in enumerate(uses)],
        orders=[order()],
        order_lines=[row("l", "p", total)],
        receipts=[
            came(f"r{n}", "l", much, how.value, remedy=cure, at=(HAUL + timedelta(minutes=n + 1)).isoformat())
            for n, (much, how, cure) in enumerate(lots)
        ],
    )  # fmt: skip
    stock = stocks(made)["p"]
    assert min(stock.tried, stock.untried, stock.away, stock.over) >= 0
    open_uses = sum(much for n, much in enumerate(uses) if n not in done)
    assert stock.wanted == open_uses
    for cover in stock.by_task.values():
        parts = cover.tried + cover.untried + cover.away + sum(one.quantity for one in cover.coming) + cover.short
        assert parts == pytest.approx(cover.taken)
    assert sum(cover.tried for cover in stock.by_task.values()) <= stock.tried
    assert sum(one.quantity for cover in stock.by_task.values() for one in cover.coming) <= stock.on_order
    came_good = sum(much for much, how, _ in lots if how.is_here)
    base = have or 0
    used = sum(much for n, much in enumerate(uses) if n in done)
    if not any(how is Condition.MISFIT for _, how, _ in lots):
        assert stock.there_is == max(base + came_good - used, 0)
        assert stock.over == max(used - base - came_good, 0)
