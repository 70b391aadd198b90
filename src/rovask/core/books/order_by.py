"""What to order, by when, why, and what each day later costs: from the tasks that wait for what nobody has ordered."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime, timedelta

from rovask.core.plain.derived import derived
from rovask.core.plain.half_hours import HALF_HOUR
from rovask.core.plain.words import count, day_and_time, minutes_of, span
from rovask.core.plan.problem.lags import CURE_UNIT
from rovask.core.plan.problem.ties import ANY_TIME, margin_ties, ties_of
from rovask.core.plan.result import Plan, Verdict
from rovask.core.plan.verdict.verdict import must_that_cannot
from rovask.core.readings.open_days import open_days
from rovask.core.readings.readiness import FIT_CHECK, is_fetched
from rovask.core.readings.stock import NO_TASK, Stock, stocks
from rovask.core.refit.givens.choices import Certainty
from rovask.core.refit.model import Part, Refit
from rovask.core.refit.work.choices import LinkKind, State
from rovask.core.refit.work.kinds import LAUNCH
from rovask.core.refit.work.make_good import with_make_good


@dataclass(frozen=True, slots=True)
class PartNeed:
    """A part with its stock and the first task that waits for it.

    needed_at: when the plan starts that task; unplanned: a task that waits for it, when none of them is in the plan.
    order_by: last moment to order without moving the launch, at the chosen certainty: the task's start and its spare,
    less the try for fit and the lead time in days on which those who move it work; None when nothing is to be ordered or
    no task waits. easy_by: the same without using any spare. surely_by: order_by if it takes its longest, where that is
    known and isn't what is reckoned with. overdue: under way, and its day has passed. spare: minutes of the task it
    comes from. on_trip: the trip that brings it, where one is planned.
    """

    part: Part
    stock: Stock
    task: str | None
    needed_at: datetime | None
    order_by: datetime | None
    overdue: bool
    surely_by: datetime | None = None
    unplanned: str | None = None
    easy_by: datetime | None = None
    spare: int = 0
    decides: str | None = None
    on_trip: str | None = None

    @property
    def due(self) -> datetime | None:
        """When the next parcel of it is due, or was, whether or not any work waits for it."""
        return min((one.at for one in self.stock.coming if one.at is not None), default=None)

    @property
    def to_order(self) -> bool:
        """Whether something of it is still to be ordered or bought."""
        return self.stock.short > 0


@derived(of=1)
def part_needs(refit: Refit, plan: Plan, verdict: Verdict) -> list[PartNeed]:
    """Every part, most urgent first: overdue, then by order-by date, then what is to order at all, then by need."""
    return _needs(refit, plan, verdict)


def _needs(refit: Refit, plan: Plan, verdict: Verdict) -> list[PartNeed]:
    refit = with_make_good(refit, plan.made_good)
    at, found = plan.by_task(), stocks(refit, plan)
    cannot = must_that_cannot(refit, plan)
    stopped = {key for key in plan.unplanned if key in refit.job_of and refit.job_of[key].id in cannot}
    by_ties = _by_ties(refit) if stopped else {}
    out = []
    for part in refit.parts:
        stock = found[part.id]
        waiting = {
            key: cover for key, cover in stock.by_task.items() if key != NO_TASK and not refit.tasks[key].begun_at
        }
        planned = [key for key in waiting if key in at]
        first = min(planned, key=lambda key: at[key].start, default=None)
        latest: tuple[datetime, datetime, str] | None = None
        trip = part.fetch if is_fetched(refit, part) else None
        if trip is None:
            ends = [
                (at[key].start + timedelta(minutes=verdict.spare_by_task.get(key, 0)), at[key].start, key)
                for key in planned
                if waiting[key].short
            ]
            ends += [(by_ties[key],) * 2 + (key,) for key in waiting if key in by_ties and key in stopped]
            latest = min(ends, default=None)
        overdue = any(one.at is not None and one.at <= plan.now for one in stock.coming)
        unplanned = next(iter(waiting), None) if first is None else None
        need = PartNeed(
            part, stock, first, at[first].start if first else None, None, overdue, None, unplanned, on_trip=trip
        )
        out.append(_with_dates(refit, need, latest) if latest is not None and stock.short else need)
    far = datetime.max.replace(tzinfo=plan.now.tzinfo)
    out.sort(
        key=lambda need: (
            not need.overdue,
            need.order_by or far,
            not need.to_order,
            need.needed_at or far,
            need.part.id,
        )
    )
    return out


def _with_dates(refit: Refit, need: PartNeed, latest: tuple[datetime, datetime, str]) -> PartNeed:
    with_spare, start, key = latest
    days, part = open_days(refit, need.part.supplier), need.part
    check = FIT_CHECK if part.must_fit else timedelta(0)
    safe = part.lead_most if part.lead_most is not None else part.lead_days
    reckoned = safe if refit.certainty is Certainty.SAFE else part.lead_days
    surely = days.before(with_spare - check, safe) if safe != reckoned else None
    return PartNeed(
        part,
        need.stock,
        need.task,
        need.needed_at,
        days.before(with_spare - check, reckoned),
        need.overdue,
        surely,
        need.unplanned,
        days.before(start - check, reckoned),
        minutes_of(with_spare - start),
        key,
    )


def _by_ties(refit: Refit) -> dict[str, datetime]:
    """The latest each task could start for the launch by its ties alone, worked round the clock by whoever is wanted, cures as at 20 °C.

    For what can't be planned: nothing of it can be later, and mostly all must be sooner. O(tasks x ties) at worst.
    """
    own = {key: timedelta(hours=refit.hours_to_do(task)) for key, task in refit.tasks.items()}
    serves = {key: task.state for key, task in refit.tasks.items() if task.state is not State.AFLOAT_AFTER}
    ends = {key: refit.haul_at if state is State.AFLOAT_BEFORE else refit.launch_at for key, state in serves.items()}
    ties = [tie for tie in (*ties_of(refit), *margin_ties(refit).values()) if tie.low > ANY_TIME and tie.first in ends]
    for _ in ends:
        before = dict(ends)
        for tie in ties:
            if tie.then != LAUNCH and tie.then not in ends:
                continue
            wait = (
                timedelta(days=tie.low / CURE_UNIT)
                if tie.in_days
                else tie.low / (CURE_UNIT if tie.cures else 1) * HALF_HOUR
            )
            to_start, from_start = tie.kind in (LinkKind.FS, LinkKind.SS), tie.kind in (LinkKind.SS, LinkKind.SF)
            then = (
                refit.launch_at
                if tie.then == LAUNCH
                else ends[tie.then] - (own[tie.then] if to_start else timedelta(0))
            )
            latest = then - wait + (own[tie.first] if from_start else timedelta(0))
            ends[tie.first] = min(ends[tie.first], latest)
        if ends == before:
            break
    return {key: end - own[key] for key, end in ends.items()}


def next_order(needs: list[PartNeed]) -> PartNeed | None:
    """The part to order first, if any has to be ordered by a date."""
    return min((need for need in needs if need.order_by), key=lambda need: need.order_by, default=None)  # type: ignore[arg-type,return-value]


def reason(refit: Refit, need: PartNeed) -> str:
    """Why a part is to be ordered by its date, in one sentence."""
    if need.order_by is None or need.decides is None or need.decides not in refit.tasks:
        return ""
    task, zone = refit.tasks[need.decides], refit.yard.zone
    lead = need.part.lead_days
    if refit.certainty is Certainty.SAFE and need.part.lead_most is not None:
        lead = need.part.lead_most
    shut = open_days(refit, need.part.supplier)
    days = count(lead, "open day" if len(shut.weekdays) < 7 or shut.shut else "day")
    starts = f" starts {day_and_time(need.needed_at, zone)}" if need.needed_at and need.task == need.decides else ""
    spare = f", {span(need.spare)} spare" if need.spare > 0 else ""
    check = ", half an hour to try it" if need.part.must_fit else ""
    return f"“{task.title}”{starts}{spare}; {days} on the way{check}."


def to_order(needs: list[PartNeed]) -> list[PartNeed]:
    """What is to be ordered or bought, with a date or without."""
    return [need for need in needs if need.to_order]
