"""Half-hours on the yard's clock, across the days on which the clocks change."""

from datetime import UTC, date, datetime, time, timedelta
from zoneinfo import ZoneInfo

import pytest

from rovask.core.plan.problem.calendar import SlotGrid
from rovask.core.refit.model import DayRange, Person, Shift

ALL_DAYS = ("mon", "tue", "wed", "thu", "fri", "sat", "sun")


def shift(start: int, end: int) -> Shift:
    return Shift.model_validate({"days": ALL_DAYS, "start": time(start), "end": time(end)})


@pytest.mark.parametrize(
    ("zone", "day", "slots"),
    [
        ("Europe/Lisbon", date(2026, 3, 29), 46),  # clocks forward: a day of 23 hours
        ("Europe/Lisbon", date(2026, 10, 25), 50),  # clocks back: 25 hours
        ("Europe/Lisbon", date(2026, 5, 4), 48),
        ("Australia/Lord_Howe", date(2026, 10, 4), 47),  # half an hour forward
        ("Asia/Kathmandu", date(2026, 5, 4), 48),  # a zone at a quarter past
    ],
)
def test_a_local_day_has_the_half_hours_the_sun_gives_it(zone: str, day: date, slots: int) -> None:
    assert SlotGrid(ZoneInfo(zone), day, day).size == slots


def test_working_hours_follow_the_clock_and_elapsed_time_the_sun() -> None:
    grid = SlotGrid(ZoneInfo("Europe/Lisbon"), date(2026, 3, 28), date(2026, 3, 30))
    mask = grid.open_slots([shift(8, 12)])
    starts = [grid.local(int(slot)) for slot in range(grid.size) if mask[slot] and not mask[slot - 1]]
    assert [start.hour for start in starts] == [8, 8, 8]
    between = grid.ceil(starts[1].astimezone(UTC)) - grid.ceil(starts[0].astimezone(UTC))
    assert between == 46  # the night lost an hour, so a 24 h cure begun on Saturday 08:00 ends at 09:00 on Sunday


def test_a_shift_over_the_skipped_hour_is_shorter() -> None:
    grid = SlotGrid(ZoneInfo("Europe/Lisbon"), date(2026, 3, 29), date(2026, 3, 29))
    assert grid.open_slots([shift(0, 4)]).sum() == 6


def test_floor_and_ceil_of_a_moment_between_half_hours() -> None:
    grid = SlotGrid(ZoneInfo("Europe/Lisbon"), date(2026, 5, 4), date(2026, 5, 5))
    moment = grid.moment(10) + timedelta(minutes=7)
    assert (grid.floor(moment), grid.ceil(moment), grid.ceil(grid.moment(10))) == (10, 11, 10)
    assert grid.moment(0) == datetime(2026, 5, 3, 23, tzinfo=UTC)


def test_a_person_works_neither_before_arriving_nor_while_away() -> None:
    grid = SlotGrid(ZoneInfo("Europe/Lisbon"), date(2026, 5, 1), date(2026, 5, 10))
    who = Person(
        id="p",
        name="P",
        hours=(shift(8, 10),),
        arrives=date(2026, 5, 3),
        leaves=date(2026, 5, 8),
        absences=(DayRange(first=date(2026, 5, 5), last=date(2026, 5, 6)),),
    )
    days = sorted({grid.local(slot).day for slot, works in enumerate(grid.hours_of(who)) if works})
    assert days == [3, 4, 7, 8]
