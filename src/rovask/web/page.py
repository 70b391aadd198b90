"""What every page of a refit knows: the refit, its plan and verdict, and the standing line."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from datetime import date, datetime
from functools import cached_property
from typing import Any
from zoneinfo import ZoneInfo

from fastapi import Request
from sqlalchemy.orm import Session

from rovask.core.books.forecast import Forecast, forecast
from rovask.core.books.order_by import PartNeed, next_order, part_needs, to_order
from rovask.core.explain.broken import BrokenWait, broken_waits
from rovask.core.explain.effects import effect_of
from rovask.core.explain.first_look import looks, most_pressing
from rovask.core.odds.told import Odds, in_words
from rovask.core.plain.words import count, day, day_and_time, minutes_of, money, span
from rovask.core.plan.planner import Planned
from rovask.core.plan.result import Outcome, Plan, Verdict
from rovask.core.readings.curing import CureClock
from rovask.core.readings.prices import worth
from rovask.core.refit.givens.slot import nearest_launches
from rovask.core.refit.model import Finding, Job, Photo, Refit, Unknown
from rovask.core.refit.register import kind_of
from rovask.core.refit.seen.choices import UnknownState
from rovask.core.refit.values import Frozen
from rovask.core.refit.work.make_good import with_make_good
from rovask.desk.door import CLOSED
from rovask.desk.helpers import Helpers
from rovask.desk.helpers import Kept as Answers
from rovask.desk.rights import NotAllowed, Right, may
from rovask.desk.settling import is_open
from rovask.store import odds as kept_odds
from rovask.store.account_tables import Membership
from rovask.store.accounts import SignedIn
from rovask.store.glance import Glance
from rovask.store.history import ChangeEntry, Steps, steps
from rovask.store.odds import OddsThen
from rovask.store.plans import beside, plan_before
from rovask.store.records import load_aside
from rovask.store.refits import Kept
from rovask.store.searches import SearchView
from rovask.web.asking import desk_of, helpers_of
from rovask.web.effect_words import money_told
from rovask.web.sky_words import SkyWords, weather_words
from rovask.web.standing import Item, Note, other_side, short_name


@dataclass(frozen=True)
class Page:
    """Everything a page of one refit shows, at one moment."""

    who: SignedIn
    kept: Kept
    planned: Planned
    now: datetime
    note: Note | None
    steps: Steps
    helpers: Helpers
    role: Membership
    person: str | None = None
    waiting: bool = False
    search: SearchView | None = None
    proposal: Planned | None = None
    replaced: Planned | None = None
    aside: Mapping[str, tuple[Any, ...]] = field(default_factory=dict)
    before: Plan | None = None
    sent: bool = False  # whether it answers a form, and so holds what somebody typed
    odds_then: OddsThen | None = None  # how sure the launch was when it was played last
    played: Odds | None = None  # all of that, for pages that ask for it

    @property
    def searching(self) -> bool:
        """Whether a better plan is being looked for, or a search waits to begin."""
        return self.waiting or (self.search is not None and self.search.running)

    def may(self, right: str) -> bool:
        """Whether whoever looks may do what asks for a right, by its name; to a closed refit nothing may be done."""
        if self.closed and Right(right) in (Right.WORK, Right.GIVENS):
            return False
        return self.may_when_closed(right)

    def may_when_closed(self, right: str) -> bool:
        """The same for what may be done to a closed refit too."""
        return may(self.role, Right(right))

    @property
    def closed(self) -> bool:
        """Whether it is closed: read-only but for what surprised."""
        return self.kept.refit.closed_at is not None

    @property
    def undoable(self) -> str:
        """What undo would take back, in words; "" for nothing."""
        return self.steps.undo.what if self.steps.undo and self.may_take_back(self.steps.undo) else ""

    @property
    def redoable(self) -> str:
        """What redo would make again, in words; "" for nothing."""
        redo = self.steps.redo
        return redo.what.removeprefix("took back: ") if redo and self.may_take_back(redo) else ""

    def may_take_back(self, entry: ChangeEntry) -> bool:
        """Whether whoever looks may take a change back: what it took to make it."""
        return entry.can_be_taken_back and self.may(entry.needs or Right.WORK)

    @cached_property
    def photos(self) -> dict[str, Photo]:
        """The photos the page was asked for, by id."""
        return {photo.id: photo for photo in self.aside.get("photo", ())}

    @cached_property
    def refit(self) -> Refit:
        """The refit as its plan has it: with the work that makes missed waits good."""
        return with_make_good(self.kept.refit, self.plan.made_good)

    @property
    def plan(self) -> Plan:
        """Its plan."""
        return self.planned.plan

    @property
    def verdict(self) -> Verdict:
        """What the plan says about the launch."""
        return self.planned.verdict

    @property
    def zone(self) -> ZoneInfo:
        """The yard's time zone."""
        return self.refit.yard.zone

    @property
    def today(self) -> date:
        """The day on the yard's clock."""
        return self.now.astimezone(self.zone).date()

    @property
    def root(self) -> str:
        """Address of the refit."""
        return f"/r/{self.kept.pk}"

    def to_task(self, key: str) -> str:
        """Where a task is told, on the page of its job."""
        return f"{self.root}/jobs/{self.refit.job_of[key].id}?task={key}#{key}"

    @cached_property
    def needs(self) -> list[PartNeed]:
        """The parts, most urgent first."""
        return part_needs(self.refit, self.plan, self.verdict)

    @cached_property
    def forecast(self) -> Forecast:
        """The forecast at completion."""
        return forecast(self.refit, self.plan)

    @cached_property
    def standing(self) -> list[Item]:
        """The standing line."""
        danger = [self._danger()] if self.dangers else []
        return [self._launch(), *danger, self._spare(), self._money(), self._look() or self._order(), self._weather()]

    @property
    def odds_old(self) -> bool:
        """Whether what is known of the odds is of the refit as it stood before."""
        return self.odds_then is not None and self.odds_then.change != self.kept.change

    @property
    def odds_words(self) -> str:
        """How sure the launch is, as people say it; "" while nobody knows."""
        then = self.odds_then
        if then is None or then.odds is None or self.verdict.outcome is Outcome.AFLOAT:
            return ""
        return in_words(then.odds) + (" before that" if self.odds_old else "")

    def planned_end(self, job: Job) -> datetime | None:
        """When a job is planned to be over; None where none of it is planned."""
        items = (self.plan.by_task().get(task.id) for task in job.tasks)
        return max((item.end for item in items if item is not None), default=None)

    @cached_property
    def dangers(self) -> list[Finding]:
        """What was found dangerous and isn't settled: she may not float."""
        return [one for one in self.refit.findings if one.blocks]

    @property
    def asked(self) -> list[Unknown]:
        """Unknowns nobody has settled though the task that settles them is done."""
        tasks = self.refit.tasks
        return [
            one
            for one in self.refit.unknowns
            if one.state is UnknownState.OPEN and one.task in tasks and tasks[one.task].done_at
        ]

    def _danger(self) -> Item:
        more = f" and {len(self.dangers) - 1} more" if len(self.dangers) > 1 else ""
        first = self.dangers[0]
        return Item("Dangerous", f"{first.title[:34]}{more}", f"{self.root}/finding/{first.id}", "urgent")

    def _look(self) -> Item | None:
        """What must be looked at, when that is more pressing than what must be ordered."""
        row = most_pressing(looks(self.refit, self.plan))
        if row is None or any(need.overdue for need in self.needs):
            return None
        following = next_order(self.needs)
        if following is not None and following.order_by is not None and following.order_by < row.by:
            return None
        tone = "urgent" if row.late else ""
        return Item(row.inspection.title[:40], f"look by {day(row.by, self.zone)}", f"{self.root}/look", tone)

    def _launch(self) -> Item:
        left = minutes_of(self.refit.launch_at - self.now)
        when = day_and_time(self.refit.launch_at, self.zone)
        if left >= 0:
            return Item(span(left // 60 * 60), f"to launch, {when}", f"{self.root}/slip")
        return Item(span(-left // 60 * 60), f"since the launch slot, {when}", f"{self.root}/slip", "urgent")

    def _spare(self) -> Item:
        """Spare or short, and how sure that is."""
        item = self._spare_alone()
        if not self.odds_words or self.verdict.old:
            return item
        where = item.href if self.dangers else f"{self.root}/odds"
        label = item.label.replace("but may not", "may not")  # there is little room
        short = self.odds_words if item.short else ""  # what is dangerous has said so beside it
        told = {"label": f"{label} · {self.odds_words}", "short": short}
        return replace(item, **told, href=where, brief=f"{self.root}/odds/brief")

    def _spare_alone(self) -> Item:
        verdict, slip = self.verdict, f"{self.root}/slip#verdict"
        if not self.refit.tasks:
            return Item("–", "no tasks yet", f"{self.root}/jobs")
        left_out = f", {len(verdict.left_out)} left out" if verdict.left_out else ""
        at_worst = other_side(verdict)
        match verdict.outcome:
            case _ if verdict.old:
                return Item("Old plan", "none could be made of the last change", slip, "urgent")
            case Outcome.IMPOSSIBLE:
                return Item("Can't be planned", count(len(verdict.stopped), "must-job"), slip, "urgent")
            case Outcome.SHORT:
                return Item(span(-verdict.spare_minutes), f"short{at_worst}{left_out}", slip, "urgent")
            case Outcome.SLOT:
                later = span(minutes_of(self.plan.launch - self.refit.launch_at))
                return Item("Slot can't be", f"afloat {later} after it{left_out}", slip, "urgent")
            case Outcome.HELD if self.dangers:
                return Item(span(verdict.spare_minutes), "spare, but may not float", slip, "urgent", "may not float")
            case Outcome.AFLOAT:
                return Item("Afloat", "ashore work is done", slip, "good")
            case Outcome.HELD:
                tone = "good" if verdict.spare_minutes >= 24 * 60 and not at_worst else "warn"
                return Item(span(verdict.spare_minutes), f"spare{at_worst}{left_out}", slip, tone)

    def _money(self) -> Item:
        total, budget, paid = self.forecast.total, self.forecast.budget, self.forecast.paid
        whole, purse = money(total, whole=True), f"{self.root}/purse"
        spent = f", {money(paid, whole=True).rpartition(' ')[0]} spent" if paid else ""
        if not budget:
            return Item(whole, f"forecast{spent}, no budget", purse, "money")
        tone = "urgent" if total > budget else "money"
        return Item(whole, f"of {money(budget, whole=True).rpartition(' ')[0]}{spent}", purse, tone)

    def _order(self) -> Item:
        stores = f"{self.root}/stores"
        late = [need for need in self.needs if need.overdue]
        following = next_order(self.needs)
        if late:
            more = f", and {len(late) - 1} more" if len(late) > 1 else ""
            return Item(short_name(late[0].part.name), f"overdue{more}: chase it", f"{stores}?show=coming", "urgent")
        open_ = to_order(self.needs)
        if (following is None or following.order_by is None) and open_:
            return Item(count(len(open_), "part"), "to order, without a date", f"{stores}?show=order")
        if following is None or following.order_by is None:
            return Item("Nothing", "left to order", stores)
        tone = "urgent" if following.order_by <= self.now else ""
        return Item(
            short_name(following.part.name), f"order by {day_and_time(following.order_by, self.zone)}", stores, tone
        )

    def _weather(self) -> Item:
        return Item(self.sky.told, self.sky.how_old, f"{self.root}/yard#weather", self.sky.tone)

    @cached_property
    def sky(self) -> SkyWords:
        """Today's weather in words."""
        return weather_words(self.refit.weather, self.now, self.zone)

    def worth(self, value: int) -> str:
        """A plan's value, or the difference of two, as money."""
        return money(worth(self.refit, value), whole=True)

    @cached_property
    def broken(self) -> list[BrokenWait]:
        """Waits that what happened has broken."""
        return broken_waits(self.refit, self.plan)

    @cached_property
    def launches(self) -> tuple[datetime | None, datetime | None]:
        """The yard's last launch before the slot and its first one after."""
        return nearest_launches(self.refit, self.refit.launch_at)

    @property
    def cure_at(self) -> float:
        """The temperature (°C) a cure has now; each hour counts with its own."""
        return self.cures.temperature(self.now)

    @cached_property
    def answers(self) -> Answers:
        """What was worked out of it before and is kept."""
        return self.helpers.kept(self.kept.pk, self.kept.change)

    @cached_property
    def cures(self) -> CureClock:
        """The cure clock."""
        return CureClock.of(self.refit)

    def context(self, **more: Any) -> dict[str, Any]:
        """What the templates get."""
        return {"page": self, "refit": self.refit, "plan": self.plan, "verdict": self.verdict, "who": self.who} | more


READ_AGAIN = 3  # times, when a plan had to be made first and somebody changed the refit meanwhile


def page_here(
    request: Request,
    who: SignedIn,
    pk: int,
    right: Right = Right.LOOK,
    aside: tuple[type[Frozen], ...] = (),
    *,
    before: bool = False,
    odds: bool = False,
) -> Page:
    """Everything of a refit at one moment, for somebody who may see it. Raises NotFound for others.

    A page that is there to change something is not shown of a closed refit. aside: models of what is kept aside that the
    page shows. before: whether it shows what moved; odds: all that is known of how sure the launch is. When the half-hour has no plan yet, it is made first, outside any
    transaction, and everything is read again.
    """
    desk, helpers = desk_of(request), helpers_of(request)
    clock, sent = desk.settings.clock(), request.method != "GET"
    for turn in range(READ_AGAIN + 1):
        with desk.looking() as session:
            found, kept = desk.glance(session, who.account, pk, right)
            if right in (Right.WORK, Right.GIVENS) and kept.refit.closed_at is not None:
                raise NotAllowed(CLOSED)
            planned = found.planned(kept, kept.half_hour(clock))
            if planned is None and turn == READ_AGAIN:
                planned = desk.planning.current(kept, clock)
            if planned is not None:
                return _page(helpers, session, who, found, kept, planned, clock, aside, before, sent, odds)
        desk.planning.current(kept, clock)
    raise AssertionError  # the last turn had a plan


def _page(
    helpers: Helpers, session: Session, who: SignedIn, found: Glance, kept: Kept, planned: Planned, clock: datetime,
    aside: tuple[type[Frozen], ...], before: bool, sent: bool, odds: bool,
) -> Page:  # fmt: skip
    newest, next_steps = steps(session, kept.pk)
    note = _note(newest, who.seen_change)
    waits, instead = beside(session, kept) if before else (None, None)
    return Page(
        who,
        kept,
        planned,
        kept.now(clock),
        note,
        next_steps,
        helpers,
        found.role or Membership.SKIPPER,
        found.person,
        found.waiting,
        found.search(clock),
        waits,
        instead,
        {kind_of(model).name: load_aside(session, kept.pk, kind_of(model)) for model in aside},
        plan_before(session, kept) if before and (note or instead) else None,
        sent,
        found.odds,
        kept_odds.newest(session, kept.pk) if odds else None,
    )


def _note(entry: ChangeEntry | None, seen: int) -> Note | None:
    if entry is None or entry.revision <= 1 or entry.pk <= seen:
        return None
    effect, tone = effect_of(entry.before, entry.after)
    took_back = entry.what.startswith("took back: ")
    return Note(
        entry.pk, entry.who, entry.what, effect, tone, money_told(entry.effect), took_back, is_open(entry.effect)
    )
