"""What moved the forecast this week adds up to what it was and is, whatever was taken back meanwhile."""

from __future__ import annotations

import re
from datetime import timedelta

import pytest

from rovask.core.books.forecast import forecast
from rovask.core.plan.planner import make_plan
from rovask.settings import Settings
from tests.acts import kept_of
from tests.builders import person, refit, task
from tests.conftest import Sailor, kept_for_both
from tests.web.pages import Elements


@pytest.fixture
def pk(settings: Settings) -> int:
    assert settings.now is not None
    made = refit(
        task("mast", 4, skill="rigging"),
        people=[person("ann"), person("rig", role="trade", skills=["rigging"], rate=5000)],
        haul_at=settings.now.replace(hour=8),
        launch_at=settings.now.replace(hour=9) + timedelta(days=20),
        yard={"name": "Slip", "time_zone": "Europe/Lisbon", "lift_and_launch": 60000, "lay_day": 2000},
    )
    return kept_for_both(settings, made)


def _cents(text: str) -> list[int]:
    """The amounts a text holds, as pages print them."""
    found = re.findall(r"([+-]?\d[\d\s\u202f]*(?:\.\d\d)?) EUR", text)
    return [round(float(re.sub(r"\s", "", one)) * 100) for one in found]


def _total(settings: Settings, pk: int) -> int:
    made = kept_of(settings, pk).refit
    return forecast(made, make_plan(made, settings.clock())).total.minor


def test_what_moved_it_is_what_it_was_and_is_whatever_was_taken_back(
    sailor: Sailor, settings: Settings, pk: int
) -> None:
    """A part of 80, one of 300 that is taken back, and one of 15.50: 95.50 more, by hand."""
    sailor.get(f"/r/{pk}/purse")
    began = _total(settings, pk)
    for name, price in (("Hose", "80"), ("Pump", "300"), ("Clamp", "15.50")):
        assert sailor.post(f"/r/{pk}/part/save", {"name": name, "quantity": "1", "price": price}).status_code == 303
        if name == "Pump":
            assert sailor.post(f"/r/{pk}/undo").status_code == 303
    text = Elements(sailor.get(f"/r/{pk}/purse").text).texts("p", class_="text-sm")
    told = next(one for one in text if one.startswith("It was"))
    assert _cents(told) == [began, began + 9550, 9550]
    assert _total(settings, pk) - began == 9550
    since = Elements(sailor.get(f"/r/{pk}/since").text).texts("section", class_="keep")
    assert any(f"{began // 100}" in re.sub(r"\s", "", one) and "+95.50" in one for one in since)
