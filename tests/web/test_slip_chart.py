"""The Slip's geometry: labels never collide, blocks lie in their place and time, it holds at 250 tasks."""

from datetime import UTC, date, datetime, timedelta
from itertools import combinations
from zoneinfo import ZoneInfo

import pytest

from benches.generate import generated_refit
from rovask.core.plan.planner import plan_and_judge
from rovask.core.refit.model import Refit
from rovask.web.slip.chances import MayFall
from rovask.web.slip.chart import LABEL_HEIGHT, LETTER, draw
from rovask.web.slip.marks import Chart
from rovask.web.slip.scale import TimeScale
from rovask.web.slip.view import View, whole_view


def chart_of(made: Refit, now: datetime, days: int = 0) -> Chart:
    planned = plan_and_judge(made, now, starts=2)
    view = whole_view(made, planned.plan)
    if days:
        first = now.astimezone(made.yard.zone).date()
        view = View(first, first + timedelta(days=days - 1))
    return draw(made, planned.plan, planned.verdict, now, view)


@pytest.mark.parametrize("days", [0, 14, 7, 1])
def test_labels_and_blocks_of_different_jobs_never_lie_on_each_other(demo: Refit, day_9: datetime, days: int) -> None:
    for made, now in ((demo, day_9), (generated_refit(250, 3), generated_refit(250, 3).haul_at + timedelta(days=9))):
        chart = chart_of(made, now, days)
        labels = []
        for ribbon in chart.ribbons:
            length = len(ribbon.label) * LETTER
            x = ribbon.label_x - (length if ribbon.anchor == "end" else 0)
            labels.append((x, ribbon.y - LABEL_HEIGHT, x + length, ribbon.y))
        bodies = [(block.x, block.y, block.x + block.width, block.y + block.height) for block in chart.blocks]
        for one, other in combinations(labels, 2):
            assert not overlap(one, other)
        for label in labels:
            assert not any(overlap(label, body) for body in bodies)


def overlap(one: tuple[float, float, float, float], other: tuple[float, float, float, float]) -> bool:
    slack = 0.6
    return (
        one[0] + slack < other[2]
        and other[0] + slack < one[2]
        and one[1] + slack < other[3]
        and other[1] + slack < one[3]
    )


def test_every_task_lies_in_the_band_of_its_place(demo: Refit, day_9: datetime) -> None:
    chart = chart_of(demo, day_9)
    bands = {band.name: band for band in chart.bands}
    assert [band.name for band in chart.bands] == [place.name for place in demo.places]
    for block in chart.blocks:
        band = bands[demo.place_by_id[demo.tasks[block.task].place].name]
        assert band.y <= block.y
        assert block.y + block.height <= band.y + band.height
        assert chart.left - 1 <= block.x <= block.x + block.width <= chart.right + 1
    planned = plan_and_judge(demo, day_9, starts=2).plan
    assert len(chart.blocks) == len(planned.assignments)


def test_days_count_down_to_launch_and_the_water_rises_there(demo: Refit, day_9: datetime) -> None:
    chart = chart_of(demo, day_9)
    assert [mark.number for mark in chart.days][:3] == ["38", "37", "36"]
    launch_day = next(mark for mark in chart.days if mark.number == "0")
    assert chart.water_x is not None
    assert launch_day.x < chart.water_x < launch_day.x + launch_day.width
    afloat = [block for block in chart.blocks if demo.tasks[block.task].state == "afloat_after"]
    assert afloat
    assert all(block.x >= chart.water_x - 0.01 for block in afloat)
    assert sum(mark.quiet for mark in chart.days) == 5 + 1  # five Sundays ashore, and the one afloat
    assert [mark.today for mark in chart.days].index(True) == 8


def test_nights_are_narrower_than_days_and_time_never_runs_back() -> None:
    zone = ZoneInfo("Europe/Lisbon")
    scale = TimeScale.over(date(2026, 3, 28), date(2026, 3, 30), 0, 900, zone)  # over a change of the clocks
    moments = [datetime(2026, 3, 28, tzinfo=UTC) + timedelta(minutes=20 * step) for step in range(215)]
    xs = [scale.x(moment) for moment in moments]
    assert xs == sorted(xs)
    night = scale.x(datetime(2026, 3, 28, 5, tzinfo=UTC)) - scale.x(datetime(2026, 3, 28, 3, tzinfo=UTC))
    noon = scale.x(datetime(2026, 3, 28, 13, tzinfo=UTC)) - scale.x(datetime(2026, 3, 28, 11, tzinfo=UTC))
    assert night < noon / 3
    assert scale.x(datetime(2020, 1, 1, tzinfo=UTC)) == 0
    assert scale.x(datetime(2030, 1, 1, tzinfo=UTC)) == 900


def test_overdue_parcels_threads_cures_and_absences_are_drawn(demo: Refit, day_9: datetime) -> None:
    chart = chart_of(demo, day_9)
    late = [parcel for parcel in chart.parcels if parcel.late]
    assert ["overdue" in parcel.told for parcel in late] == [True]
    loose = [parcel.told for parcel in chart.parcels if parcel.thread_to is None]
    assert all(told.startswith("Acrylic canvas") for told in loose)  # its job is left out: nothing to lead to
    assert chart.tails
    assert chart.brackets
    assert any(block.bite for block in chart.blocks)
    assert any(day.away for day in chart.person_days)
    assert sum(block.keel for block in chart.blocks) == sum(
        key in plan_and_judge(demo, day_9, starts=2).verdict.driving for key in demo.tasks
    )


def test_names_of_tasks_appear_when_a_week_fills_the_width(demo: Refit, day_9: datetime) -> None:
    assert not any(block.name for block in chart_of(demo, day_9).blocks)
    named = [block for block in chart_of(demo, day_9, 7).blocks if block.name]
    assert named
    assert all(len(block.name) * LETTER <= block.width for block in named)


def test_filters_leave_only_what_is_asked_for(demo: Refit, day_9: datetime) -> None:
    planned = plan_and_judge(demo, day_9, starts=2)
    whole = whole_view(demo, planned.plan)
    for field, value in (("person", "aurel"), ("job", "keel")):
        view = View(whole.first, whole.last, **{field: value})  # type: ignore[arg-type]
        blocks = draw(demo, planned.plan, planned.verdict, day_9, view).blocks
        assert blocks
        at = planned.plan.by_task()
        assert all(value in at[block.task].people or demo.job_of[block.task].id == value for block in blocks)


def test_dots_of_the_launch_lie_on_their_days_and_later_ones_are_counted(demo: Refit, day_9: datetime) -> None:
    """Fifteen on the day before the slot, three on its day after it, two beyond what is shown: heaped in their days' columns."""
    planned = plan_and_judge(demo, day_9)
    view = whole_view(demo, planned.plan)
    slot = demo.launch_at
    moments = (*(slot - timedelta(days=1) for _ in range(15)), *(slot + timedelta(hours=4) for _ in range(3)))
    beyond = datetime(view.last.year, view.last.month, view.last.day, tzinfo=demo.yard.zone) + timedelta(days=3)
    falls = (MayFall("may float", (*moments, beyond, None), slot, "When she may float"),)
    bare, chart = (draw(demo, planned.plan, planned.verdict, day_9, view, None, some) for some in ((), falls))
    (strip,) = chart.chances
    assert len(strip.dots) == 18
    assert strip.later == 2
    assert sum(dot.misses for dot in strip.dots) == 3
    eve = next(day for day in chart.days if day.number == "1")
    assert sum(eve.x <= dot.x < eve.x + eve.width for dot in strip.dots) == 15
    assert all(strip.y <= dot.y <= strip.y + strip.height for dot in strip.dots)
    places = {(round(dot.x, 1), round(dot.y, 1)) for dot in strip.dots}
    assert len(places) == 18, "no dot lies on another"
    assert [band.y for band in chart.bands] == [band.y + strip.height for band in bare.bands]
    assert "5 of 20 dots are later than" in strip.told
