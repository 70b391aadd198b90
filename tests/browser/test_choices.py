"""The desk of choices in a real browser: a late parcel three ways, one taken and undone; and what makes the date, stopped and taken."""

from __future__ import annotations

import threading
from datetime import datetime, timedelta
from typing import Any

from playwright.sync_api import Page, expect

from rovask.core.refit.model import Refit
from rovask.settings import Settings
from rovask.work.choices import lay, look_for_date
from tests.acts import rows_of
from tests.builders import data, person, task
from tests.conftest import kept_for_both


def late_parcel(day_9: datetime) -> Refit:
    """A pump ordered for eight days hence, a day after it is too late for the slot; another offer takes three; a job that may wait."""
    haul, due = day_9.replace(hour=7, minute=0), day_9 + timedelta(days=8)
    plain = data(haul_at=haul.isoformat(), launch_at=(haul + timedelta(days=8, hours=2)).isoformat())
    plain["people"] = [person("ann"), person("bo")]
    plain["parts"] = [{"id": "pump", "name": "Bilge pump", "price": 20_000, "lead_days": 9, "must_fit": False}]
    order = {
        "id": "o",
        "supplier": "Far",
        "currency": "EUR",
        "rate": "1",
        "placed_at": haul.isoformat(),
        "expected": due.isoformat(),
    }
    plain |= {
        "orders": [order],
        "order_lines": [{"id": "l", "order": "o", "part": "pump", "quantity": 1, "price": 20_000}],
    }
    offer: dict[str, Any] = {
        "id": "near",
        "part": "pump",
        "supplier": "Near",
        "what": "the same",
        "currency": "EUR",
        "rate": "1",
    }
    plain["offers"] = [offer | {"price": 26_000, "lead_days": 3}]
    plain["jobs"] = [
        {"id": "pumps", "title": "Pumps", "need": "should", "tasks": [task("fit", 3, parts=["pump"])]},
        {"id": "hull", "title": "Hull", "tasks": [task("hull", 12)]},
    ]
    return Refit.model_validate(plain)


def test_a_late_parcel_three_ways_the_second_taken_read_and_undone(
    mira: Page, address: str, settings: Settings, day_9: datetime
) -> None:
    pk = kept_for_both(settings, late_parcel(day_9))
    before = rows_of(settings, pk).refit
    mira.goto(f"{address}/r/{pk}/stores/part/pump")
    mira.get_by_text("Wait for it, or another way?").click()
    mira.get_by_label("A courier takes, days").fill("2")
    mira.get_by_label("and costs more").fill("45")
    mira.get_by_role("button", name="Ways side by side").click()
    expect(mira.get_by_role("heading", level=1)).to_contain_text("Bilge pump: wait for it?")
    heads = mira.locator("table.ways thead th")
    expect(heads).to_have_count(4)  # as it is, and three
    key = mira.url.rpartition("/")[2]
    mira.get_by_label("Why this one").fill("three days is enough")
    assert lay(settings, pk, key)
    expect(mira.locator("table.ways tbody tr")).to_have_count(11)  # they come by themselves
    expect(mira.get_by_label("Why this one")).to_have_value("three days is enough")
    expect(mira.locator("#laid")).to_contain_text("played 10000 times")

    mira.get_by_role("radio", name="Bilge pump from Near, 3 d").check()
    mira.get_by_role("button", name="Take this way").click()
    expect(mira.locator("main")).to_contain_text("Decided: Bilge pump from Near, 3 d.")
    mira.get_by_role("link", name="Decisions").click()
    expect(mira.locator("main")).to_contain_text("three days is enough")
    expect(mira.locator("main")).to_contain_text("against As it is")
    assert len(rows_of(settings, pk).refit.orders) == 2
    mira.locator("#note").get_by_role("button", name="Undo").click()
    expect(mira.locator("#note")).to_contain_text("took back")
    after = rows_of(settings, pk).refit
    assert (after.orders, after.offers) == (before.orders, before.offers)
    assert after.ways[0].taken == ""


def test_make_the_date_stop_it_and_take_a_point_at_phone_width(
    mira: Page, address: str, settings: Settings, day_9: datetime
) -> None:
    haul = day_9.replace(hour=7, minute=0)
    rows = [task(f"t{n}", 14, sureness="wild") for n in range(5)]
    made = data(*rows, haul_at=haul.isoformat(), launch_at=(haul + timedelta(days=5, hours=3)).isoformat())
    made["people"] = [person("ann"), person("bo")]
    pk = kept_for_both(settings, Refit.model_validate(made))
    mira.set_viewport_size({"width": 390, "height": 844})
    mira.goto(f"{address}/r/{pk}/date")
    mira.get_by_label("How sure, in tenths").fill("9")
    mira.get_by_label("Spend at most").fill("800")
    mira.get_by_label("One more hand, a day").fill("110")
    mira.get_by_label("Your own days longer by, h").fill("1")
    mira.get_by_label("Look for").select_option(
        "three minutes"
    )  # a busy machine needs more than the usual 20 s; it is stopped below
    mira.get_by_role("button", name="Look for it").click()
    expect(mira.locator("main")).to_contain_text("the first points come")
    worker = threading.Thread(target=look_for_date, args=(settings, pk))
    worker.start()
    expect(mira.locator("svg.frontier")).to_be_visible(timeout=90_000)
    expect(mira.get_by_role("button", name="beside as it is").last).to_be_visible(timeout=150_000)  # a point to keep
    stop = mira.get_by_role("button", name="Stop, keep the best")
    if stop.count():  # a search of so few levers may be over before one gets to it
        stop.click()
    worker.join(timeout=120)
    assert not worker.is_alive()
    expect(mira.locator("main")).not_to_contain_text("Look again", timeout=60_000)
    assert mira.evaluate("document.documentElement.scrollWidth") <= 390
    mira.get_by_role("button", name="beside as it is").last.click()
    expect(mira.get_by_role("heading", level=1)).to_contain_text("Make the date: point")
    assert rows_of(settings, pk).refit.ways[-1].ways[0].acts
