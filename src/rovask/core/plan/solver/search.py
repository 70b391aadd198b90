"""The CP-SAT model of a Problem: variables (cp_nodes), rules (cp_rules), and here days at work and the objective."""

from __future__ import annotations

from collections import defaultdict
from typing import Any

import numpy as np
from ortools.sat.python import cp_model

from rovask.core.plan.problem.arrays import FIRST_TASK, HAUL_NODE, LAUNCH_NODE, Ints
from rovask.core.plan.problem.value import (
    DANGER,
    END,
    FAR_MOVE_SLOTS,
    FAR_SHARE,
    LAST,
    LATE,
    LEFT_OUT,
    MOVED,
    NEAR_SLOTS,
    OUTAGE,
    STILL_SLOTS,
)
from rovask.core.plan.solver.cp_rules import RuleModel
from rovask.core.plan.solver.hands import least_last


class Model(RuleModel):
    """The whole model. An impossible problem is found by the solver, not here."""

    def build(self) -> Model:
        """Everything: ties, people, places, rivals, days and the objective."""
        self.ties()
        days = self._days_at_work()
        self.use_once()
        self.rivals()
        self.minimize(days)
        return self

    def _in_calendar(self, node: int, calendar: int) -> Any:
        """Whether a node runs in one of its calendars; 1 if it has no other."""
        found = self.nodes[node]
        groups = [lit for at, _, _, lit in found.gaps if at == calendar]
        if len(groups) == len(found.gaps):
            return 1
        if len(groups) == 1:
            return groups[0]
        if calendar not in found.calendars:
            hint = self.hint
            used = hint is not None and self.has(node) and int(self.a.mode_calendar[int(hint.mode[node])]) == calendar
            found.calendars[calendar] = self.literal(used)
            self.model.add(sum(groups) == found.calendars[calendar])
        return found.calendars[calendar]

    def _spans(self, node: int, calendar: int) -> tuple[Ints, Ints]:
        """Every (begin, end) the model leaves a node in one of its calendars."""
        found = self.nodes[node]
        if isinstance(found.begin, int):
            return np.array([found.begin]), np.array([found.end])
        groups = [(gap, starts) for at, gap, starts, _ in found.gaps if at == calendar]
        begin = np.concatenate([starts for _, starts in groups])
        end = np.concatenate([starts + int(self.a.work[node]) + gap for gap, starts in groups])
        order = np.argsort(begin, kind="stable")
        return begin[order], end[order]

    def _hinted_days(self) -> set[tuple[int, int]]:
        """(person, day) on which somebody works in the hint."""
        out: set[tuple[int, int]] = set()
        hint, a = self.hint, self.a
        for node in range(FIRST_TASK, self.problem.size):
            if hint is None or not self.has(node) or a.fixed_end[node] >= 0 or not a.work[node]:
                continue
            mode = int(hint.mode[node])
            begin = hint.resume[node] if hint.resume[node] >= 0 else hint.start[node]
            days = self._touched(int(a.mode_calendar[mode]), np.array([begin]), np.array([hint.end[node]]))
            out |= {(who, day) for who in a.mode_people[mode].tolist() if who >= 0 for day in days}
        return out

    def _days_at_work(self) -> dict[tuple[int, int], Any]:
        """For people who are paid by the day or must rest: whether each works on each day, as a literal, or 1 where they must."""
        a = self.a
        out: dict[tuple[int, int], Any] = {}
        hinted = self._hinted_days()
        theirs: dict[int, list[tuple[int, Any]]] = defaultdict(list)
        touched: dict[int, list[tuple[int, dict[int, tuple[int, int]]]]] = {}
        for node in range(FIRST_TASK, self.problem.size):
            found = self.nodes[node]
            if found.interval is None:
                continue
            for who, lit in found.people.items():
                if (a.day_cost[who] or a.longest_run[who]) and not (isinstance(lit, int) and not lit):
                    theirs[who].append((node, lit))
                    if node not in touched:
                        calendars = dict.fromkeys(at for at, *_ in found.gaps)
                        touched[node] = [(at, self._touched(at, *self._spans(node, at))) for at in calendars]
        for who, rows in theirs.items():
            days: dict[int, bool] = {}
            for node, lit in rows:
                must = isinstance(lit, int) and isinstance(self.nodes[node].begin, int)
                for _, some in touched[node]:
                    days.update({day: must or days.get(day, False) for day in some})
            for day, must in sorted(days.items()):
                out[who, day] = 1 if must else self.literal((who, day) in hinted)
            self._days_off(who, rows, touched, {day: out[who, day] for day, must in days.items() if not must})
            self._enough_days(who, [int(a.work[node]) * lit for node, lit in rows], out)
        return out

    def _days_off(
        self, who: int, rows: list[tuple[int, Any]], touched: dict[int, list[tuple[int, dict[int, tuple[int, int]]]]], days: dict[int, Any]
    ) -> None:  # fmt: skip
        """A day on which somebody is not at work is taken up, like any other of what they can do only one at a time.

        Of a day that something may lie across without touching it, since its own hours leave it out, that can't be said:
        there, whatever touches the day begins elsewhere.
        """
        a = self.a
        ends = np.append(a.day_slot[1:], self.problem.horizon)
        spans = [(node, lit, calendar, some) for node, lit in rows for calendar, some in touched[node]]
        across: set[int] = set()
        for node, _, calendar, some in spans:
            across |= self._across(node, calendar, [day for day in days if day not in some and day not in across])
        for day, lit in days.items():
            if day not in across:
                begin, end = int(a.day_slot[day]), int(ends[day])
                self.off[who].append(self.model.new_optional_interval_var(begin, end - begin, end, ~lit, ""))
        for node, lit, calendar, some in spans:
            for day in across & some.keys():
                self._not_on(node, calendar, some[day], lit, ~days[day])

    def _across(self, node: int, calendar: int, days: list[int]) -> set[int]:
        """On which of the days a node may lie from before to after, in one of its calendars, which leaves them out."""
        begin, end = self._spans(node, calendar)
        slots = self.a.day_slot[np.array(days, dtype=np.int64)]
        before = np.searchsorted(begin, slots) - 1
        longest = np.where(before >= 0, end[before], 0)
        return {day for day, lies in zip(days, longest > slots, strict=True) if lies}

    def _not_on(self, node: int, calendar: int, starts: tuple[int, int], *literals: Any) -> None:
        """While the literals hold, a node in that calendar doesn't begin where it would touch a day."""
        found = self.nodes[node]
        guard = [*literals, self._in_calendar(node, calendar)]
        if isinstance(found.begin, int):
            self._if(self.model.add_bool_or([]), *guard)
            return
        sides = [[0, starts[0] - 1], [starts[1] + 1, self.last]]
        outside = cp_model.Domain.from_intervals([side for side in sides if side[0] <= side[1]])
        self._if(self.model.add_linear_expression_in_domain(found.begin, outside), *guard)

    def _enough_days(self, who: int, work: list[Any], days: dict[tuple[int, int], Any]) -> None:
        """A cut: the days somebody comes hold all the work they do."""
        a = self.a
        mine = {int(a.mode_calendar[mode]) for mode in np.flatnonzero((a.mode_people == who).any(axis=1))}
        ends = np.append(a.day_slot[1:], self.problem.horizon)
        terms = []
        for (one, day), lit in days.items():
            if one == who:
                low, high = int(a.day_slot[day]), int(ends[day])
                terms.append(max(int(a.rank[at, high] - a.rank[at, low]) for at in mine) * lit)
        self.model.add(sum(terms) >= sum(work))

    def _touched(self, calendar: int, begin: Ints, end: Ints) -> dict[int, tuple[int, int]]:
        """For each day on which some span has working slots, the first and last begin of those that have.

        begin, end: sorted, both at working slots of the calendar, so those spans are neighbours.
        """
        a = self.a
        first, last = int(a.day_of[int(begin[0])]), int(a.day_of[int(end[-1]) - 1])
        days = np.arange(first, last + 1)
        low = a.rank[calendar, a.day_slot[days]]
        high = a.rank[calendar, np.append(a.day_slot[1:], self.problem.horizon)[days]]
        days, low, high = days[high > low], low[high > low], high[high > low]
        opens, closes = a.pos[calendar, low], a.pos[calendar, high - 1]
        from_ = np.searchsorted(end, opens, side="right")
        to = np.searchsorted(begin, closes, side="right") - 1
        return {
            int(day): (int(begin[one]), int(begin[other]))
            for day, one, other in zip(days, from_, to, strict=True)
            if one <= other
        }

    def _rest(self, days: dict[tuple[int, int], Any]) -> None:
        """Nobody works more days on end than they may; days past count."""
        a = self.a
        for who in range(len(a.longest_run)):
            most = int(a.longest_run[who])
            mine = {day for one, day in days if one == who}
            if not most or not mine:
                continue
            for first in range(max(min(mine) - most, 0), max(mine) + 1):
                window = range(first, min(first + most + 1, len(a.day_slot)))
                past = [day for day in window if a.worked[who, day]]
                new = [days[who, day] for day in window if (who, day) in days and not a.worked[who, day]]
                if len(window) > most and len(past) + len(new) > most and any(day in mine for day in window):
                    today = [days[who, day] for day in window if (who, day) in days and a.worked[who, day]]
                    over = len(past) + sum(new) <= most
                    if isinstance(over, bool):
                        for lit in today if not over else []:
                            self.model.add(lit == 0)
                    else:
                        self.model.add(over)

    def minimize(self, days: dict[tuple[int, int], Any]) -> None:
        """What the solver makes small."""
        self.model.minimize(self.worth(days))

    def worth(self, days: dict[tuple[int, int], Any]) -> Any:
        """The objective of value.py, term by term, and what moving later tasks is reckoned at (``unsettling``)."""
        a, model = self.a, self.model
        weights = [int(weight) for weight in a.weights]
        terms: list[Any] = [weights[LATE] * (self.nodes[LAUNCH_NODE].begin - a.launch_at)]
        if weights[LATE] and isinstance(self.nodes[LAUNCH_NODE].begin, int):
            terms = [max(weights[LATE] * (self.nodes[LAUNCH_NODE].begin - a.launch_at), 0)]
        for job, lit in self.jobs.items():
            terms.append(weights[LEFT_OUT] * int(a.value[job]) * (1 - lit))
        last_value = 0
        lasting = []
        for node in range(FIRST_TASK, self.problem.size):
            found = self.nodes[node]
            if a.fixed_end[node] >= 0 or (isinstance(found.present, int) and not found.present):
                continue
            if weights[END]:
                terms.append(weights[END] * (found.end - a.now))
                if not isinstance(found.present, int):
                    earliest = self._first_end(node)
                    terms.append(-weights[END] * (earliest - a.now) * (1 - found.present))
            if weights[DANGER] and a.urgent[node] == 1:
                terms.append(weights[DANGER] * (found.end - a.now))
                if not isinstance(found.present, int):
                    terms.append(-weights[DANGER] * (self._first_end(node) - a.now) * (1 - found.present))
            if a.need[node] == 0 and a.before[node]:
                lasting.append(found.end)
                if self.hint is not None and self.has(node):
                    last_value = max(last_value, int(self.hint.end[node]))
            if weights[MOVED] and a.fixed_start[node] < 0 and a.anchor[node] >= 0:
                near = bool(a.anchor[node] < a.now + NEAR_SLOTS)
                terms.append(weights[MOVED] // (1 if near else FAR_SHARE) * self._moved(node, near))
        if weights[LAST] and lasting:
            first_end = max(
                [least_last(self.problem, self.windows)]
                + [int(self.windows.end[n]) for n in range(FIRST_TASK, self.problem.size)
                   if a.need[n] == 0 and a.before[n] and a.fixed_end[n] < 0]
            )  # fmt: skip
            last = self.number(first_end, self.last, max(last_value, first_end))
            for end in lasting:
                model.add(last >= end)
            terms.append(weights[LAST] * (last - a.now))
        if weights[LAST]:
            terms += [int(a.day_cost[who]) * lit for (who, _), lit in days.items() if a.day_cost[who]]
        self._rest(days)
        for first, then, weight, floats in a.outages.tolist():
            lasts = self._afloat(first, then) if floats else self._outage(first, then)
            terms.append(lasts * weights[OUTAGE] * weight)
        return sum(terms)

    def _first_end(self, node: int) -> int:
        """Where an absent node ends: the least value of its end, which the objective pulls it to."""
        found = self.nodes[node]
        if isinstance(found.end, int):
            return int(found.end)
        first = [int(begin[0]) + int(self.a.work[node]) + gap for _, gap, begin, _ in found.gaps]
        low = min(gap for _, gap, _, _ in found.gaps)
        begin = min(int(starts[0]) for _, _, starts, _ in found.gaps)
        return min(min(first), begin + int(self.a.work[node]) + low)

    def _moved(self, node: int, near: bool) -> Any:
        """Whether a task lies elsewhere than in the plan before, or has other people; a far one only where it lies quite elsewhere."""
        a, found = self.a, self.nodes[node]
        anchor, mode = int(a.anchor[node]), int(a.anchor_mode[node]) if near else -1
        still = STILL_SLOTS if near else FAR_MOVE_SLOTS - 1
        hint = self.hint
        was = (
            hint is not None
            and self.has(node)
            and (abs(int(hint.start[node]) - anchor) > still or (mode >= 0 and int(hint.mode[node]) != mode))
        )
        if isinstance(found.begin, int):
            return int(was)
        lit = self.literal(was)
        guard = [~lit] if isinstance(found.present, int) else [~lit, found.present]
        model = self.model
        model.add_linear_constraint(found.begin, anchor - still, anchor + still).only_enforce_if(guard)
        if mode >= 0:
            crew = found.crews.get(mode, 0)
            if isinstance(crew, int):
                if not crew:
                    model.add_bool_or([]).only_enforce_if(guard)
            elif crew is not found.present:
                model.add(crew == 1).only_enforce_if(guard)
        return lit

    def _outage(self, first: int, then: int) -> Any:
        one, other = self.nodes[first], self.nodes[then]
        if isinstance(one.present, int) and not one.present:
            return 0
        begin = self._start(first)
        begin = max(begin, self.a.now) if isinstance(begin, int) else begin
        if isinstance(one.present, int):
            return other.end - begin
        long = self.number(
            0,
            self.problem.horizon,
            int(self.hint.end[then] - self.hint.start[first] if self.hint is not None and self.has(first) else 0),
        )
        if isinstance(long, int):
            return long
        self.model.add(long >= other.end - begin).only_enforce_if(one.present)
        return long

    def _afloat(self, first: int, then: int) -> Any:
        """What of an outage lies before the haul or after the launch: of two least values each the smaller."""
        one, other = self.nodes[first], self.nodes[then]
        if isinstance(one.present, int) and not one.present:
            return 0
        begin = self._start(first)
        begin = max(begin, self.a.now) if isinstance(begin, int) else begin
        hint = self.hint
        known = hint is not None and self.has(first) and self.has(then)
        was = (max(int(hint.start[first]), self.a.now), int(hint.end[then])) if known and hint is not None else (0, 0)
        haul, launch = int(self.a.fixed_start[HAUL_NODE]), self.nodes[LAUNCH_NODE].begin
        floats = int(hint.start[LAUNCH_NODE]) if hint is not None else 0
        total: Any = 0
        for whole, part, values in (
            (other.end - begin, haul - begin, (was[1] - was[0], haul - was[0])),
            (other.end - begin, other.end - launch, (was[1] - was[0], was[1] - floats)),
        ):
            lasts = self.number(0, self.problem.horizon, max(min(values), 0))
            lit = self.literal(values[0] <= values[1])
            guard = [] if isinstance(one.present, int) else [one.present]
            self.model.add(lasts >= whole).only_enforce_if([lit, *guard])
            self.model.add(lasts >= part).only_enforce_if([~lit, *guard])
            total = total + lasts
        return total

    # -- solving -----------------------------------------------------------------------------------

    def with_hints(self) -> cp_model.CpModel:
        """The model with its hint, every variable named once."""
        clear: Any = self.model.clear_hints
        clear()
        hint: Any = self.model.proto.solution_hint  # at once: add_hint takes longer than the rest of a small model
        hint.vars.extend(list(self.hints))
        hint.values.extend(list(self.hints.values()))
        return self.model
