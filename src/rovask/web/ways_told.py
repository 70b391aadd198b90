"""Ways side by side as a page shows them: the same rows for each, what differs strong, about the same quiet."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from datetime import datetime
from zoneinfo import ZoneInfo

from rovask.core.choice.laid import Difference, Laid, WayState, WayTold
from rovask.core.choice.seasons import SeasonTold, dates_of, season_told
from rovask.core.odds.told import in_words
from rovask.core.plain.words import day, day_and_time, money, span
from rovask.core.refit.model import ProposedWay, Refit
from rovask.core.refit.ways.kinds import AS_IT_IS
from rovask.store.laid import LaidThen

WORTH_HOURS, WORTH_ODDS = 1.0, 0.005  # a difference of less is told as none
MOST_NAMED = 4


@dataclass(frozen=True, slots=True)
class Cell:
    """What one way says in one row: lines, and what that is against as it is. differs: whether it does at all."""

    lines: tuple[str, ...]
    against: str = ""
    differs: bool = False
    tone: str = ""


@dataclass(frozen=True, slots=True)
class Row:
    """One row of all ways, as it is first."""

    label: str
    cells: tuple[Cell, ...]


def season_rows(refit: Refit, ways: Sequence[ProposedWay], laid: Laid, now: datetime) -> list[Row]:
    """What the months of each way are like, where they are compared: weather, daylight, storms."""
    told = {way.id: season_told(refit, *dates_of(refit, way), now) for way in ways}
    rows: list[tuple[str, Callable[[SeasonTold], tuple[str, ...]]]] = [
        ("Weather of its months", lambda one: (one.weather,)),
        ("Daylight", lambda one: (one.daylight,)),
        ("Storm season", lambda one: one.storms),
    ]
    out = []
    for label, words in rows:
        was = words(told[AS_IT_IS])
        cells = [
            Cell(words(told[one.way]), differs=words(told[one.way]) != was) if one.way in told else Cell(())
            for one in laid.ways
        ]
        out.append(Row(label, tuple(cells)))
    return out


Told = Callable[[WayTold], tuple[str, ...]]


def rows_of(laid: Laid, zone: ZoneInfo) -> list[Row]:
    """Every row; ways that can't be worked out have empty cells."""
    c = laid.currency
    plain: list[tuple[str, Told]] = [
        ("Next slot", lambda one: _next_slot(one, zone)),
        ("Forecast of the plan", lambda one: _forecast(one, laid.ways[0], c)),
        ("Lay-days", lambda one: (f"{one.lay_days} d",)),
        ("Services out", lambda one: tuple(f"{row.service} {_hours(row.hours)}" for row in one.services) or ("none",)),
        ("Whose hours", lambda one: tuple(f"{row.name} {_hours(row.hours)}" for row in one.hours[:6])),
        ("Left for next time", lambda one: _some(one.left) or ("nothing",)),
        ("Hangs on", lambda one: tuple(f"{title}, {_tenths(share)}" for title, share in one.hangs)),
        ("Can be turned back", lambda one: _turned(one, laid, zone)),
    ]
    rows = [
        _figure(laid, "How sure", lambda one: (one.words,), lambda one: one.gains, _surer, better=1),
        _figure(laid, "Ready: best, likely, worst", lambda one: _ready(one, zone), lambda one: one.later, _later, better=-1),
        _figure(laid, "Money: likely, 8 in 10", lambda one: _money(one, c), lambda one: one.dearer, lambda by: _dearer(by, c), better=-1),
    ]  # fmt: skip
    rows += [_row(laid, label, told) for label, told in plain]
    order = ["How sure", "Next slot", "Ready: best, likely, worst", "Money: likely, 8 in 10"]
    return sorted(rows, key=lambda row: order.index(row.label) if row.label in order else len(order))


def _figure(
    laid: Laid, label: str, told: Told, against: Callable[[WayTold], Difference | None],
    words: Callable[[Difference], str], *, better: int,
) -> Row:  # fmt: skip
    cells = []
    for one in laid.ways:
        if one.odds is None:
            cells.append(Cell(()))
            continue
        by = against(one) if one.way != AS_IT_IS else None
        said = words(by) if by is not None else ""
        differs = bool(said) and said != SAME
        tone = "" if not differs or by is None else "good" if by.mean * better > 0 else "warn"
        cells.append(Cell(told(one), said, differs, tone))
    return Row(label, tuple(cells))


def _row(laid: Laid, label: str, told: Told) -> Row:
    base = laid.ways[0]
    was = told(base) if base.state is WayState.WORKED else None
    cells = []
    for one in laid.ways:
        if one.state is not WayState.WORKED:
            cells.append(Cell(()))
            continue
        lines = told(one)
        cells.append(Cell(lines, differs=one is not base and was is not None and lines != was))
    return Row(label, tuple(cells))


SAME = "about the same"


def _surer(by: Difference) -> str:
    """By how much surer, in hundredths, and how sure that is."""
    if by.about_the_same or abs(by.mean) < WORTH_ODDS:
        return SAME
    half = max(round(50 * (by.high - by.low)), 1)
    return f"{round(100 * by.mean):+d} ± {half} in 100"


def _later(by: Difference) -> str:
    if by.about_the_same or abs(by.mean) < WORTH_HOURS:
        return SAME
    told = span(round(abs(by.mean)) * 60)
    return f"{told} {'later' if by.mean > 0 else 'sooner'} as a mean"


def _dearer(by: Difference, currency: str) -> str:
    if by.about_the_same or round(by.mean) == 0:
        return SAME
    sign, half = "+" if by.mean > 0 else "−", (by.high - by.low) / 2
    sure = f" ± {money(round(half), currency, whole=True).rpartition(' ')[0]}" if round(half) else ""
    whole = money(abs(round(by.mean)), currency, whole=True)
    return f"{sign}{whole}{sure} as a mean"


def _ready(one: WayTold, zone: ZoneInfo) -> tuple[str, ...]:
    if one.ready is None:
        return ()
    return tuple(_moment(at, zone) for at in (one.ready.p10, one.ready.p50, one.ready.p90))


def _moment(at: datetime | None, zone: ZoneInfo) -> str:
    return day_and_time(at, zone) if at is not None else "later than is looked at"


def _money(one: WayTold, currency: str) -> tuple[str, ...]:
    if one.money is None:
        return ()
    return tuple(money(amount, currency, whole=True) for amount in (one.money.p50, one.money.p80))


def _forecast(one: WayTold, base: WayTold, currency: str) -> tuple[str, ...]:
    """What the plan comes to as every page has it, and by how much that is more."""
    more = one.planned - base.planned
    told = (money(one.planned, currency, whole=True),)
    return told if not more else (*told, f"{'+' if more > 0 else '−'}{money(abs(more), currency, whole=True)}")


def _next_slot(one: WayTold, zone: ZoneInfo) -> tuple[str, ...]:
    if one.next_slot is None or one.next_odds is None:
        return ("none known",)
    return (f"{day(one.next_slot, zone)}: {in_words(one.next_odds)}",)


def _turned(one: WayTold, laid: Laid, zone: ZoneInfo) -> tuple[str, ...]:
    back, out = one.turns_back, list[str]()
    if back is not None:
        now = back.at <= laid.now
        out.append(f"until {back.then}" if now else f"until {day_and_time(back.at, zone)}, then {back.then}")
    if one.slot != laid.ways[0].slot:
        out.append("as long as the yard keeps the slot there is")
    return tuple(out) or ("at any time",)


def _hours(hours: float) -> str:
    return f"{hours:.0f} h" if hours >= 10 else f"{hours:.1f} h"


def _tenths(share: float) -> str:
    return "always" if share > 0.97 else f"{min(max(round(10 * share), 1), 9)} in 10"


def _some(titles: Sequence[str]) -> tuple[str, ...]:
    more = len(titles) - MOST_NAMED
    return tuple(titles[:MOST_NAMED]) + ((f"and {more} more",) if more > 0 else ())


def was_and_is(line: Sequence[LaidThen], way: str, zone: ZoneInfo) -> str:
    """What a way won when it was laid out before, where that is another thing now; "" where it isn't. line: newest first."""
    now = line[0].laid.of(way) if line else None
    if now is None or now.gains is None:
        return ""
    for then in line[1:]:
        old = then.laid.of(way)
        if old is None or old.gains is None:
            continue
        if abs(old.gains.mean - now.gains.mean) < 2 * WORTH_ODDS:
            return ""
        return (
            f"{round(100 * old.gains.mean):+d} in 100 on {day_and_time(then.now, zone)}, now "
            f"{round(100 * now.gains.mean):+d}"
        )
    return ""
