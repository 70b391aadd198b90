"""What every page of a refit knows: the refit, its plan and verdict, and the standing line."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime
from functools import cached_property
from typing import Any
from zoneinfo import ZoneInfo

from fastapi import Request
from sqlalchemy.orm import Session

from rovask.core.books.forecast import Forecast, forecast
from rovask.core.books.order_by import PartNeed, next_order, part_needs
from rovask.core.plan.explain.first_look import looks, most_pressing
from rovask.core.plan.planner import Planned
from rovask.core.plan.result import Outcome, Plan, Verdict
from rovask.core.refit.choices import UnknownState
from rovask.core.refit.model import Finding, Refit, Unknown
from rovask.core.refit.weather import cure_temperature
from rovask.core.words import day, day_and_time, minutes_of, money, span
from rovask.store.accounts import SignedIn
from rovask.store.database import transaction
from rovask.store.refits import ChangeEntry, Kept, current_plan, history, last_undoable, load, proposal, replaced
from rovask.store.searches import SearchView, search_of
from rovask.web.security import settings_of
from rovask.web.sky_words import SkyWords, weather_words
from rovask.work.queue import is_waiting


@dataclass(frozen=True, slots=True)
class Item:
    """One item of the standing line: what it says, what that is, where it is explained, and its tone."""

    value: str
    label: str
    href: str
    tone: str = ""


@dataclass(frozen=True, slots=True)
class Note:
    """What the last change did, until dismissed."""

    change: int
    who: str
    what: str
    effect: str
    tone: str
    can_undo: bool


@dataclass(frozen=True)
class Page:
    """Everything a page of one refit shows, at one moment."""

    who: SignedIn
    kept: Kept
    planned: Planned
    now: datetime
    note: Note | None
    undoable: str
    waiting: bool = False
    search: SearchView | None = None
    proposal: Planned | None = None
    replaced: Planned | None = None

    @property
    def searching(self) -> bool:
        """Whether a better plan is being looked for, or a search waits to begin."""
        return self.waiting or (self.search is not None and self.search.running)

    @property
    def refit(self) -> Refit:
        """The refit."""
        return self.kept.refit

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
    def root(self) -> str:
        """Address of the refit."""
        return f"/r/{self.kept.pk}"

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
        verdict, slip = self.verdict, f"{self.root}/slip#verdict"
        if not self.refit.tasks:
            return Item("–", "no tasks yet", f"{self.root}/jobs")
        left_out = f", {len(verdict.left_out)} left out" if verdict.left_out else ""
        match verdict.outcome:
            case Outcome.IMPOSSIBLE:
                return Item("Can't be planned", f"{len(verdict.collisions)} collision(s)", slip, "urgent")
            case Outcome.SHORT:
                return Item(span(-verdict.spare_minutes), f"short{left_out}", slip, "urgent")
            case Outcome.AFLOAT:
                return Item("Afloat", "ashore work is done", slip, "good")
            case Outcome.HELD:
                tone = "good" if verdict.spare_minutes >= 24 * 60 else "warn"
                return Item(span(verdict.spare_minutes), f"spare{left_out}", slip, tone)

    def _money(self) -> Item:
        total, budget, currency = self.forecast.total, self.refit.budget, self.refit.currency
        spent = money(total // 100 * 100, currency)
        if not budget:
            return Item(spent, "forecast, no budget set", f"{self.root}/yard#money", "money")
        tone = "urgent" if total > budget else "money"
        return Item(spent, f"forecast of {money(budget, currency)}", f"{self.root}/yard#money", tone)

    def _order(self) -> Item:
        stores = f"{self.root}/stores"
        late = [need for need in self.needs if need.overdue]
        following = next_order(self.needs)
        if late:
            more = f" and {len(late) - 1} more" if len(late) > 1 else ""
            return Item(late[0].part.name + more, "overdue: chase it", stores, "urgent")
        if following is None or following.order_by is None:
            return Item("Nothing", "left to order", stores)
        tone = "urgent" if following.order_by <= self.now else ""
        return Item(following.part.name, f"order by {day_and_time(following.order_by, self.zone)}", stores, tone)

    def _weather(self) -> Item:
        return Item(self.sky.told, self.sky.how_old, f"{self.root}/yard#weather", self.sky.tone)

    @cached_property
    def sky(self) -> SkyWords:
        """Today's weather in words."""
        return weather_words(self.refit.weather, self.now, self.zone)

    @property
    def cure_at(self) -> float:
        """The temperature (°C) cures are counted at."""
        return cure_temperature(self.refit.weather, self.plan.now, self.refit.launch_at)

    def context(self, **more: Any) -> dict[str, Any]:
        """What the templates get."""
        return {"page": self, "refit": self.refit, "plan": self.plan, "verdict": self.verdict, "who": self.who} | more


def open_page(session: Session, who: SignedIn, pk: int, clock: datetime) -> Page:
    """Load a refit with its present plan for somebody signed in. Raises NotFound."""
    kept = load(session, pk)
    planned = current_plan(session, kept, clock)
    last = last_undoable(session, pk)
    newest = history(session, pk, limit=1)
    return Page(
        who,
        kept,
        planned,
        kept.now(clock),
        _note(newest, who.seen_change, last is not None),
        last.what if last else "",
        is_waiting(session, pk),
        search_of(session, pk, clock),
        proposal(session, kept),
        replaced(session, kept),
    )


def page_here(request: Request, who: SignedIn, pk: int) -> Page:
    """The page of a request, in a transaction of its own."""
    settings = settings_of(request)
    with transaction(settings.database_url) as session:
        return open_page(session, who, pk, settings.clock())


def _note(newest: list[ChangeEntry], seen: int, can_undo: bool) -> Note | None:
    if not newest or newest[0].revision <= 1 or newest[0].pk <= seen:
        return None
    entry = newest[0]
    effect, tone = effect_of(entry.before, entry.after)
    return Note(entry.pk, entry.who, entry.what, effect, tone, can_undo)


def effect_of(before: Verdict | None, after: Verdict | None) -> tuple[str, str]:
    """What a change did to the launch, in words, and its tone."""
    if before is None or after is None:
        return "", ""
    was, is_ = _spoken(before), _spoken(after)
    left = len(after.left_out) - len(before.left_out)
    jobs = f"; {abs(left)} job(s) {'left out' if left > 0 else 'back in'}" if left else ""
    if was == is_:
        return f"launch unchanged: {is_}{jobs}", "warn" if left > 0 else ""
    return f"{was} → {is_}{jobs}", "good" if _rank(after) > _rank(before) else "urgent"


def _rank(verdict: Verdict) -> tuple[bool, int]:
    return verdict.outcome is not Outcome.IMPOSSIBLE, verdict.spare_minutes


def _spoken(verdict: Verdict) -> str:
    match verdict.outcome:
        case Outcome.IMPOSSIBLE:
            return "can't be planned"
        case Outcome.SHORT:
            return f"short {span(-verdict.spare_minutes)}"
        case Outcome.AFLOAT:
            return "afloat"
        case Outcome.HELD:
            return f"spare {span(verdict.spare_minutes)}"
