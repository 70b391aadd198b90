"""Every zone of the database: the half-hours of its clock, and a plan made on them that the verifier finds sound."""

from __future__ import annotations

from datetime import UTC, date, datetime, time, timedelta
from zoneinfo import ZoneInfo, available_timezones

import pytest

from rovask.core.plain.half_hours import HALF_HOUR, beginning, floored
from rovask.core.plan.planner import plan_and_judge
from rovask.core.plan.verify.check import verify
from rovask.core.refit.model import Refit
from tests.builders import link, person, refit, task

ZONES = sorted(available_timezones() - {"localtime", "Factory"})
FIRST, LAST = datetime(1990, 1, 1, tzinfo=UTC), datetime(2100, 12, 31, tzinfo=UTC)
SEASONS = (
    date(2026, 3, 2),
    date(2026, 9, 21),
    date(2026, 10, 19),
)  # over the changes of clocks of both halves of the world


def test_the_part_of_an_hour_a_zone_stands_off_stays_what_it_is() -> None:
    """So that half-hours counted from one moment of it are half-hours of its clock ever after."""
    off = [
        name
        for name in ZONES
        for zone in [ZoneInfo(name)]
        for week in range(0, (LAST - FIRST).days, 56)
        if floored(moment := (FIRST + timedelta(days=week)).astimezone(zone).replace(minute=0), zone) != moment
    ]
    assert not off
    quarters = {name for name in ZONES if beginning(ZoneInfo(name)).minute % 30}
    assert {"Asia/Kathmandu", "Pacific/Chatham", "Australia/Eucla"} <= quarters


def like_others() -> dict[tuple[timedelta, ...], str]:
    """One zone for all whose clocks do the same in these months."""
    out: dict[tuple[timedelta, ...], str] = {}
    for name in ZONES:
        zone = ZoneInfo(name)
        days = [datetime.combine(first, time(12), UTC) + timedelta(days=n) for first in SEASONS for n in range(30)]
        out.setdefault(tuple(day.astimezone(zone).utcoffset() or timedelta(0) for day in days), name)
    return out


def of_the_zone(name: str, first: date) -> Refit:
    """Three coats under a forecast that warms by the hour, with a cure that opens and closes, a look and somebody's meeting."""
    zone = ZoneInfo(name)
    haul = datetime.combine(first, time(8), zone)
    start = datetime.combine(first, time(0), UTC)
    weather = {
        "source": "test",
        "fetched_at": start.isoformat(),
        "start": start.isoformat(),
        "temperature": [8 + hour % 24 / 2 for hour in range(120)],
        "humidity": [60.0] * 120,
        "rain": [1.0 if hour % 31 == 7 else 0.0 for hour in range(120)],
        "wind": [3.0] * 120,
        "climate": [
            {"month": month, "temperature": 10.0, "humidity": 70.0, "wind": 4.0, "rain_days": 5.0}
            for month in range(1, 13)
        ],
    }
    coat = {"weather": {"dry": True, "least_temp": 9}, "tender": 2}
    return refit(
        task("a", 3, state="ashore", begun_at=(haul + timedelta(minutes=32, seconds=7)).isoformat(), crew=["ann"]),
        task("b", 2, state="ashore", **coat),
        task("c", 2.5, state="ashore", **coat),
        task("d", 1, state="slings"),
        links=[link("a", "b", 4, 60), link("b", "c", 7, 40) | {"cures": True}, link("c", "d", 5)],
        haul_at=haul.isoformat(),
        launch_at=datetime.combine(first + timedelta(days=24), time(10, 30), zone).isoformat(),
        yard={"time_zone": name, "hours": person("y")["hours"]},
        places=[{"id": "hull", "name": "Hull", "capacity": 2, "outdoors": True}],
        people=[person("ann"), person("bo")],
        weather=weather,
        appointments=[
            {
                "id": "m",
                "title": "Meeting",
                "at": (haul + timedelta(days=1, minutes=45)).isoformat(),
                "hours": 1,
                "people": ["bo"],
            }
        ],
    )


@pytest.mark.parametrize("first", SEASONS)
def test_a_plan_holds_in_every_zone(first: date) -> None:
    """Planner against verifier, which read the clock, the forecast and the cures each in their own way."""
    zones = like_others()
    assert len(zones) > 50
    for name in zones.values():
        made = of_the_zone(name, first)
        now = floored(made.haul_at + timedelta(hours=1, minutes=50), made.yard.zone)
        found = plan_and_judge(made, now)
        assert not found.plan.collisions, f"{name}: {found.plan.collisions}"
        at = found.plan.by_task()
        assert set(at) == {"a", "b", "c", "d"}, name
        assert verify(made, found.plan) == [], name
        for key in ("b", "c", "d"):
            local = at[key].start.astimezone(made.yard.zone)
            assert (local.minute % 30, local.second) == (0, 0), name
            assert HALF_HOUR * 16 <= timedelta(hours=local.hour, minutes=local.minute) < HALF_HOUR * 36, name
