"""What is not certain about a refit: one list, which the play, the pages and the command line read alike.

Where figures were typed they are meant; else a usual spread (usual.py), narrower or wider as the sailor said, and for work
as far as this crew's logs show (books/pace.py). docs/odds.md says why each is as large as it is.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from rovask.core.books.items import unknowns_that_count
from rovask.core.books.pace import S0, T2, Pace, crew_pace, kind_of_work, paces
from rovask.core.odds.source import Origin, Sort, Source
from rovask.core.odds.spread import at_least, lognormal, pert
from rovask.core.odds.usual import (
    ALL_ERR,
    ILL_A_DAY,
    ILL_DAYS,
    LATE_USUAL,
    LONG_WAIT,
    NO_SHOW,
    NOT_RIGHT,
    Span,
    usual_of_wait,
    usual_of_work,
    usual_span,
)
from rovask.core.plan.result import Plan
from rovask.core.readings.acceptance import is_paid
from rovask.core.readings.stock import Cover, stocks
from rovask.core.refit.givens.choices import Role
from rovask.core.refit.model import Job, Link, Order, Part, Refit, Task, Unknown
from rovask.core.refit.seen.choices import UnknownState
from rovask.core.refit.work.choices import UsualOf


@dataclass(frozen=True, eq=False)
class Sources:
    """All sources of a refit with its plan, by what they are of; a lot of one sort is keyed by its record.

    pace: by person and kind of work; of_task: that kind, by task. money: of unknowns, what they cost if they are so.
    """

    work: dict[str, Source]
    wait: dict[str, Source]
    lead: dict[str, Source]
    unknown: dict[str, Source]
    unknown_lead: dict[str, Source]
    unknown_money: dict[str, Source]
    trade: dict[str, Source]
    illness: dict[str, Source]
    not_accepted: dict[str, Source]
    price: dict[str, Source]
    pace: dict[tuple[str, str], Source]
    of_task: dict[str, str]
    refit: Source | None
    unknowns: tuple[Unknown, ...]
    only_typed: bool

    def every(self) -> Iterator[Source]:
        """Each of them that has any spread."""
        for lot in (
            self.work, self.wait, self.lead, self.unknown, self.unknown_lead, self.unknown_money, self.trade, self.illness,
            self.not_accepted, self.price, self.pace,
        ):  # fmt: skip
            yield from (one for one in lot.values() if one.is_open)
        if self.refit is not None:
            yield self.refit


def sources_of(refit: Refit, plan: Plan, *, only_typed: bool = False) -> Sources:
    """The sources of ``refit`` (with its make-good work in it) as ``plan`` would have it. O(records).

    only_typed: only what was typed as three figures, a chance or a range of prices; nothing usual, nobody ill, no factor.
    """
    return _Lists(refit, plan, only_typed).made()


class _Lists:
    def __init__(self, refit: Refit, plan: Plan, only_typed: bool) -> None:
        self.refit, self.plan, self.only_typed = refit, plan, only_typed
        self.planned = plan.by_task()
        self.paces = {} if only_typed else {(one.person, one.work): one for one in paces(refit)}
        self.crew = crew_pace(self.paces.values())

    def made(self) -> Sources:
        refit = self.refit
        open_tasks = [(job, task) for job, task in refit.walk() if task.done_at is None and task.id in self.planned]
        of_task = {} if self.only_typed else {task.id: kind_of_work(refit, task) for _, task in open_tasks}
        unknowns = _in_order(refit, [one for one in unknowns_that_count(refit, self.plan) if one.chance > 0])
        return Sources(
            work={task.id: self._work(job, task, of_task.get(task.id, "")) for job, task in open_tasks},
            wait=dict(self._waits()),
            lead=dict(self._leads()),
            unknown={one.id: self._unknown_hours(one) for one in unknowns},
            unknown_lead={one.id: self._unknown_lead(one) for one in unknowns if one.lead_days},
            unknown_money={one.id: self._unknown_money(one) for one in unknowns if one.money},
            trade=dict(self._no_shows(open_tasks)),
            illness=dict(self._illness()),
            not_accepted=dict(self._not_accepted(open_tasks)),
            price=dict(self._prices()),
            pace=self._paces(open_tasks, of_task),
            of_task=of_task,
            refit=None if self.only_typed else self._all_together(),
            unknowns=tuple(unknowns),
            only_typed=self.only_typed,
        )

    def _work(self, job: Job, task: Task, kind: str) -> Source:
        """Hours still to do. What is begun is more than what was worked on it already; units alike err alike."""
        refit, work = self.refit, task.work
        left, origin = refit.hours_to_do(task), Origin.TYPED
        if work.least < work.likely or work.most > work.likely:
            span = Span(work.least / work.likely, work.most / work.likely)
        elif self.only_typed:
            span = Span(1, 1)
        else:
            usual = usual_span(refit, usual_of_work(job, task), task.sureness)
            crew = [self.paces.get((who, kind)) for who in self.planned[task.id].people]
            span, origin = _as_logged(usual, [one for one in crew if one is not None])
            if task.sureness is not None:
                origin = Origin.TYPED
        whole = task.begun_at is not None and task.remaining is None and not task.units_done
        if not whole:
            table = pert(left * span.least, left, left * span.most)
            return Source(
                Sort.WORK, task.id, task.title, origin, "h", table, least=float(left * span.least), likely=left, most=left * span.most
            )  # fmt: skip
        total, done = work.likely * task.units, refit.logged.get(task.id, 0.0) / task.hands
        table = at_least(pert(total * span.least, total, total * span.most), done) - done
        return Source(
            Sort.WORK,
            task.id,
            task.title,
            origin,
            "h",
            table,
            least=float(table[0]),
            likely=left,
            most=float(table[-1]),
        )

    def _waits(self) -> Iterator[tuple[str, Source]]:
        for link in self.refit.waits:
            if link.first not in self.planned and link.first != "haul":
                continue
            if link.then not in self.planned or self.refit.tasks[link.then].begun_at is not None:
                continue
            found = self._wait(link)
            if found is not None:
                yield link.id, found

    def _wait(self, link: Link) -> Source | None:
        refit, likely = self.refit, link.min_lag
        if link.least_lag is not None or link.most_lag is not None:
            least = link.least_lag if link.least_lag is not None else likely
            most = link.most_lag if link.most_lag is not None else likely
            origin = Origin.TYPED
        elif self.only_typed or not likely or (likely < LONG_WAIT and link.sureness is None):
            return None
        else:
            span = usual_span(refit, usual_of_wait(link), link.sureness)
            least, most, origin = likely * span.least, likely * span.most, Origin.USUAL
            if link.sureness is not None:
                origin = Origin.TYPED
            if link.cures and link.sureness is None:
                least = likely  # what the sheet says is the least; a thick coat or a damp day takes longer
        if link.max_lag is not None:
            most = min(most, link.max_lag)
        title = link.reason or f"before “{refit.tasks[link.then].title}”"
        return Source(
            Sort.WAIT, link.id, title, origin, "h", pert(least, likely, most), least=least, likely=likely, most=most
        )

    def _leads(self) -> Iterator[tuple[str, Source]]:
        """Of what is to be ordered its lead time in days; of what is under way how many days late it is."""
        found, orders = stocks(self.refit), {one.id: one for one in self.refit.orders}
        for part in self.refit.parts:
            covers = [
                found[part.id].by_task[task]
                for task in found[part.id].by_task
                if task in self.planned and self.refit.tasks[task].begun_at is None
            ]
            if any(cover.short > 0 for cover in covers):
                yield part.id, self._lead(part)
            elif any(cover.coming for cover in covers):
                yield part.id, self._late(part, covers, orders)

    def _lead(self, part: Part) -> Source:
        likely, origin = float(part.lead_days), Origin.TYPED
        least = likely if part.lead_least is None else float(part.lead_least)
        most = likely if part.lead_most is None else float(part.lead_most)
        if part.lead_least is None and part.lead_most is None:
            span = Span(1, 1) if self.only_typed else usual_span(self.refit, UsualOf.LEAD, part.sureness)
            least, most = likely * span.least, likely * span.most
            origin = Origin.USUAL if part.sureness is None else Origin.TYPED
        return Source(
            Sort.LEAD, part.id, part.name, origin, "d", pert(least, likely, most), least=least, likely=likely, most=most
        )

    def _late(self, part: Part, covers: list[Cover], orders: dict[str, Order]) -> Source:
        parcels = [one for cover in covers for one in cover.coming]
        due = max((one.at for one in parcels if one.at is not None), default=None)
        said = [orders[one.order] for one in parcels if one.order in orders]
        most = 0.0
        for order in said:
            if order.expected is not None and order.expected_most is not None:
                most = max(most, (order.expected_most - order.expected).total_seconds() / 86400)
        origin = Origin.TYPED
        if not any(order.expected_most is not None for order in said) and not self.only_typed:
            left = 0.0 if due is None else max((due - self.plan.now).total_seconds() / 86400, 0.0)
            most, origin = max(LATE_USUAL.most * left, 1.0), Origin.USUAL
        return Source(Sort.LEAD, part.id, part.name, origin, "d late", pert(0, 0, most), least=0, likely=0, most=most)

    def _unknown_hours(self, one: Unknown) -> Source:
        luck = "unknown hours"
        return self._of_unknown(one, Sort.UNKNOWN, luck, "h", one.hours, one.hours_least, one.hours_most, one.chance)

    def _unknown_lead(self, one: Unknown) -> Source:
        least, most = one.lead_least, one.lead_most
        return self._of_unknown(one, Sort.UNKNOWN_LEAD, "unknown lead", "d", one.lead_days, least, most)

    def _unknown_money(self, one: Unknown) -> Source:
        least, most = one.money_least, one.money_most
        return self._of_unknown(one, Sort.UNKNOWN_MONEY, "unknown money", "minor units", one.money, least, most)

    def _of_unknown(
        self,
        one: Unknown,
        sort: Sort,
        luck: str,
        unit: str,
        likely: float,
        least: float | None,
        most: float | None,
        chance: float | None = None,
    ) -> Source:
        origin = Origin.TYPED
        if least is None and most is None:
            span = Span(1, 1) if self.only_typed else usual_span(self.refit, UsualOf.UNKNOWN, one.sureness)
            least, most = likely * span.least, likely * span.most
            origin = Origin.USUAL if one.sureness is None else Origin.TYPED
        low, high = likely if least is None else least, likely if most is None else most
        of_it = {Sort.UNKNOWN_LEAD: ": its parts", Sort.UNKNOWN_MONEY: ": its price"}
        title = one.title + of_it.get(sort, "")
        return Source(
            sort, one.id, title, origin, unit, pert(low, likely, high), chance, low, likely, high, (luck, one.id)
        )

    def _no_shows(self, rows: list[tuple[Job, Task]]) -> Iterator[tuple[str, Source]]:
        if self.only_typed:
            return
        busy = {who for _, task in rows for who in self.planned[task.id].people}
        for person in self.refit.people:
            if person.role is Role.TRADE and person.id in busy:
                yield person.id, Source(Sort.TRADE, person.id, person.name, Origin.USUAL, "", chance=NO_SHOW)

    def _illness(self) -> Iterator[tuple[str, Source]]:
        if self.only_typed:
            return
        least, likely, most = ILL_DAYS
        for person in self.refit.people:
            if person.role in (Role.OWNER, Role.HELPER):
                yield (
                    person.id,
                    Source(
                        Sort.ILLNESS, person.id, person.name, Origin.USUAL, "d",
                        pert(least, likely, most), ILL_A_DAY, least, likely, most,
                    ),
                )  # fmt: skip

    def _not_accepted(self, rows: list[tuple[Job, Task]]) -> Iterator[tuple[str, Source]]:
        if self.only_typed:
            return
        for _, task in rows:
            if is_paid(self.refit, task):
                yield task.id, Source(Sort.NOT_ACCEPTED, task.id, task.title, Origin.USUAL, "", chance=NOT_RIGHT)

    def _prices(self) -> Iterator[tuple[str, Source]]:
        for part in self.refit.parts:
            if part.price_least is None and part.price_most is None:
                continue
            least = part.price if part.price_least is None else part.price_least
            most = part.price if part.price_most is None else part.price_most
            table = pert(least, part.price, most)
            yield (
                part.id,
                Source(
                    Sort.PRICE, part.id, part.name, Origin.TYPED, "minor units", table, None, least, part.price, most
                ),
            )

    def _paces(self, rows: list[tuple[Job, Task]], of_task: dict[str, str]) -> dict[tuple[str, str], Source]:
        """What each person errs by at each kind of work: round what was learned of them, else round 1."""
        out: dict[tuple[str, str], Source] = {}
        for _, task in rows if not self.only_typed else ():
            for who in self.planned[task.id].people:
                pair = who, of_task[task.id]
                if pair not in out:
                    out[pair] = self._pace(*pair)
        return out

    def _pace(self, who: str, kind: str) -> Source:
        known = self.paces.get((who, kind))
        own, unsure = (known.factor, known.unsure) if known is not None else (1.0, float(np.sqrt(T2)))
        middle = own * self.crew ** (unsure**2 / T2)  # what their own logs leave open is as the crew altogether
        table = lognormal(unsure, middle)
        title = f"{self.refit.persons[who].name.split(',')[0]}'s pace: {kind}"
        origin = Origin.LEARNED if self.paces else Origin.USUAL
        return Source(
            Sort.PACE, f"{who} {kind}", title, origin, "times", table,
            least=float(table[102]), likely=middle, most=float(table[-103]), luck=("pace", who, kind),
        )  # fmt: skip

    def _all_together(self) -> Source:
        table = lognormal(ALL_ERR, 1.0)
        return Source(
            Sort.REFIT, "all", "everything takes longer, or less", Origin.USUAL, "times", table,
            least=float(table[102]), likely=1.0, most=float(table[-103]),
        )  # fmt: skip


def _as_logged(usual: Span, crew: list[Pace]) -> tuple[Span, Origin]:
    """The usual spread, widened or narrowed as single tasks of this crew lay from their pace."""
    if not crew:
        return usual, Origin.USUAL
    by = sum(one.single for one in crew) / len(crew) / S0
    least, most = max(1 - by * (1 - usual.least), 0.2), 1 + by * (usual.most - 1)
    return Span(least, most), Origin.LEARNED


def _in_order(refit: Refit, unknowns: list[Unknown]) -> list[Unknown]:
    """Each after the one that opens it; what can't be any more, since that turned out not to be so, is left away."""
    state = {one.id: one.state for one in refit.unknowns}
    out: list[Unknown] = []
    left = [one for one in unknowns if one.after is None or state[one.after] is not UnknownState.VANISHED]
    while left:
        waiting = {one.id for one in left}
        free = [one for one in left if one.after not in waiting] or left[:1]  # a ring is begun anywhere
        out += free
        left = [one for one in left if one not in free]
    return out
