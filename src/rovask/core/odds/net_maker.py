"""From a plan to its net: what the planner's Problem says, the order and the people of the plan, and what may come to light."""

from __future__ import annotations

import numpy as np

from rovask.core.odds.calendars import NetCalendars
from rovask.core.odds.net import (
    ABSENT,
    BEGUN,
    CLOCK,
    DONE,
    DRAWN,
    END,
    FIRST,
    FLOATS,
    FORESEES,
    HANGS,
    HIGH,
    IN_HI,
    IN_LO,
    JOB,
    KIND,
    LATEST,
    LIKELY,
    LONGEST,
    LOW,
    MODE_HI,
    MODE_LO,
    NEEDS_DRY,
    OPTIONAL,
    ORDER,
    OUT_HI,
    OUT_LO,
    RELEASE,
    RIVAL_HI,
    RIVAL_LO,
    START,
    STATE,
    TENDER,
    THEN,
    TO_PLAY,
    TRADE,
    USE_HI,
    USE_LO,
    WHOLE,
    Made,
    Net,
    by_person,
    ranks_of,
)
from rovask.core.odds.source import table_of
from rovask.core.odds.sources import Sources
from rovask.core.odds.spread import ROWS
from rovask.core.plan.problem.arrays import FIRST_TASK, FS, HAUL_NODE, LAUNCH_NODE, LIFT_NODE, NO_MAX, Ints, Problem
from rovask.core.plan.problem.calendar import slots_of
from rovask.core.plan.problem.hours import Hours
from rovask.core.plan.problem.lags import CURE_CLOCK, CURE_UNIT
from rovask.core.plan.problem.realisation import realisation_of, realised
from rovask.core.plan.problem.windows import hanging_on_launch
from rovask.core.plan.result import Plan
from rovask.core.plan.verdict.verdict import latest_starts
from rovask.core.refit.givens.choices import Role
from rovask.core.refit.model import Refit, Unknown

SAFE = 0.7  # a foreman begins what may be left only if all goes well that often, thing by thing (a judgement)
OTHERS = 4  # other crews a task may be given to, besides the one it is planned for


class NetMaker:
    """Puts one net together."""

    def __init__(
        self,
        refit: Refit,
        bare: Refit,
        plan: Plan,
        problem: Problem,
        waits: tuple[str, ...],
        sources: Sources,
        calendars: NetCalendars,
    ) -> None:
        """refit: with the plan's make-good work in it. bare: the same without its forecast; problem: of that one.

        calendars: of this problem; what a plan before had in them stays.
        """
        self.refit, self.plan, self.problem, self.a = refit, plan, problem, problem.arrays
        self.waits, self.at = waits, plan.by_task()
        self.hours = Hours.of(bare, problem.grid)
        self.sources, self.unknowns = sources, list(sources.unknowns)
        self.calendars = calendars
        self.slot = max(problem.grid.ceil(refit.launch_at), self.a.now)
        self.size = problem.size + len(self.unknowns)
        self.begins = np.full(self.size, problem.horizon, dtype=np.int64)
        self.modes: list[list[int]] = []
        self.masks: list[int] = []

    def made(self) -> Made:
        """The net. O(tasks x crews x skies x slots) at worst, for work that needs weather."""
        a, problem = self.a, self.problem
        node = self._nodes()
        arcs = self._arcs(node)
        _columns(node, arcs)
        use, hands = self._uses(node)
        rank, pos, left, most = self.calendars.arrays()
        must, must_ptr = by_person(node, self.modes, LATEST, self.problem.size, len(self.refit.people))
        turns, turn_ptr = by_person(node, self.modes, ORDER, 0, len(self.refit.people))
        rest, run, last_day = self._rest()
        begun = [any(task.begun_at for task in job.tasks) for job in self.refit.jobs]
        net = Net(
            node=node.astype(np.int32),
            mode=np.array(self.modes, dtype=np.int64),
            mask=np.array(self.masks, dtype=np.uint64),
            rank=rank,
            pos=pos,
            left=left,
            most=most,
            dry=self.calendars.dry(),
            clock=np.ascontiguousarray(np.concatenate([self.calendars.warmth(a.cure[0]), a.cure[1:2]])),
            arc=arcs,
            in_arc=np.argsort(arcs[:, THEN], kind="stable"),
            out_arc=np.argsort(arcs[:, FIRST], kind="stable"),
            use=use,
            rival=np.column_stack([a.rival, a.rival_mine, a.rival_theirs]).reshape(-1, 3),
            must=must,
            must_ptr=must_ptr,
            turns=turns,
            turn_ptr=turn_ptr,
            rest=rest,
            run=run,
            last_day=last_day,
            day_of=a.day_of,
            day_slot=a.day_slot,
            jobs_begun=np.array(begun or [False], dtype=np.int64),
            next_slots=np.array(sorted(problem.grid.ceil(one) for one in self.refit.next_slots), dtype=np.int64),
            now=a.now,
            slot=self.slot,
            hands=hands,
        )
        names = [problem.name(n) for n in range(problem.size)] + [f"unknown:{one.id}" for one in self.unknowns]
        unknowns = tuple((one, problem.size + n) for n, one in enumerate(self.unknowns))
        shown_in = tuple(self._shows(one) for one in self.unknowns)
        return Made(net, problem, tuple(names), self.waits, unknowns, self.calendars.many, self.begins, shown_in)

    def _nodes(self) -> Ints:
        """The nodes, and the modes each may be done in."""
        a, problem = self.a, self.problem
        node = np.zeros((self.size, LIKELY + 1), dtype=np.int64)
        node[:, [START, END]] = -1
        for n in range(problem.size):
            node[n, MODE_LO] = len(self.modes)
            node[n, [RELEASE, LONGEST, LIKELY, JOB]] = a.release[n], a.longest[n], a.work[n], a.job[n]
            node[n, OPTIONAL] = int(a.need[n] > 0)
            node[n, [RIVAL_LO, RIVAL_HI]] = a.rival_ptr[n], a.rival_ptr[n + 1]
            if n < FIRST_TASK:
                node[n, STATE] = TO_PLAY
                mask = self.hours.launching() if n == LAUNCH_NODE else np.ones(problem.horizon, dtype=np.bool_)
                self._mode(self.calendars.plain(mask), 0, ())
            else:
                self._task(node, n)
            node[n, MODE_HI] = len(self.modes)
        node[HAUL_NODE, [STATE, START, END]] = DONE, a.fixed_start[HAUL_NODE], a.fixed_end[HAUL_NODE]
        node[np.flatnonzero(hanging_on_launch(problem)), HANGS] = 2
        # ready is when she could be: the slot has no say in it
        node[LAUNCH_NODE, [RELEASE, HANGS]] = a.now, 0
        node[LIFT_NODE, HANGS] = 0
        self._latest(node)
        for at, one in enumerate(self.unknowns):
            self._unknown(node, problem.size + at, one)
        node[:, ORDER] = ranks_of(self.begins)
        return node

    def _mode(self, calendar: int, by_sky: int, people: tuple[int, ...]) -> None:
        width = self.a.mode_people.shape[1]
        self.modes.append([calendar, by_sky, *people, *[-1] * (width - len(people))])
        self.masks.append(sum(1 << who for who in people))

    def _task(self, node: Ints, n: int) -> None:
        a, grid = self.a, self.problem.grid
        task = self.refit.tasks[self.problem.name(n)]
        item = self.at.get(task.id)
        if a.fixed_end[n] >= 0:
            node[n, [STATE, START, END]] = DONE, a.fixed_start[n], a.fixed_end[n]
            return
        if item is None:
            return
        node[n, [STATE, START, BEGUN]] = TO_PLAY, a.fixed_start[n], int(a.fixed_start[n] >= 0)
        node[n, FLOATS] = int(item.start >= self.plan.launch)
        self.begins[n] = max(grid.ceil(item.resume or item.start), 0)
        if task.weather is not None and task.weather.dry:
            node[n, [NEEDS_DRY, TENDER, WHOLE]] = a.sky[n], a.tender[n], a.whole[n]
        masks = self.hours.masks_of(task)
        for mode in self._crews(n, item.people):
            mask = masks[mode - int(a.mode_lo[n])]
            people = tuple(who for who in a.mode_people[mode].tolist() if who >= 0)
            if task.weather is None:
                self._mode(self.calendars.plain(mask), 0, people)
            else:
                self._mode(self.calendars.under(mask, task.weather), 1, people)
        node[n, TRADE] = any(self.refit.persons[who].role is Role.TRADE for who in item.people)

    def _crews(self, n: int, people: tuple[str, ...]) -> list[int]:
        """The planned mode of a task, then some others that a foreman would turn to: own hands, unless a trade does it."""
        a, problem, persons = self.a, self.problem, self.refit.persons
        planned = problem.mode_of(n, people)
        if planned < 0:  # a pin or a fact may have kept people whom the rules no longer offer
            return [int(a.mode_lo[n])]
        if a.fixed_start[n] >= 0:
            return [planned]
        paid = {who for who in people if persons[who].role in (Role.TRADE, Role.YARD)}
        found = []
        for mode in range(int(a.mode_lo[n]), int(a.mode_hi[n])):
            hired = {who for who in problem.crew(mode) if persons[who].role in (Role.TRADE, Role.YARD)}
            if mode != planned and hired <= paid:
                found.append((int(a.mode_penalty[mode]), -len(set(problem.crew(mode)) & set(people)), mode))
        return [planned, *(mode for _, _, mode in sorted(found)[:OTHERS])]

    def _latest(self, node: Ints) -> None:
        """The last start of each that keeps the launch at its slot: of must-work among itself, of the rest among all.

        By safe figures: with typical ones the launch would be lost half of the time.
        """
        a, problem = self.a, self._safe()
        there = np.array([n for n in range(FIRST_TASK, problem.size) if node[n, STATE] != ABSENT], dtype=np.int64)
        must = there[a.need[there] == 0]
        node[:, LATEST] = problem.horizon
        for nodes in (there, must):
            node[nodes, LATEST] = latest_starts(problem, self.plan, nodes, self.slot)[nodes]

    def _safe(self) -> Problem:
        """The problem with hours and waits that hold in SAFE of all cases, one by one."""
        problem, sources, row = self.problem, self.sources, int(SAFE * ROWS)
        numbers = realisation_of(problem)
        work, low = numbers.work.copy(), numbers.low.copy()
        whole = 1.0 if sources.refit is None else table_of(sources.refit)[row]
        for n, key in enumerate(problem.tasks, FIRST_TASK):
            if key in sources.work and work[n]:
                paces = [sources.pace.get((who, sources.of_task.get(key, ""))) for who in self.at[key].people]
                logs = [float(np.log(table_of(one)[row])) for one in paces if one is not None]
                by = whole * float(np.exp(np.mean(logs))) if logs else whole
                work[n] = max(round(2 * float(table_of(sources.work[key])[row]) * by), 1)
        drawn = {key: 2 * float(table_of(sources.wait[key])[row]) for key in self.waits}
        for arc, link in enumerate(problem.arc_link):
            if link in drawn:
                low[arc] = round(drawn[link]) * (CURE_UNIT if problem.arrays.arcs[arc, CLOCK] == CURE_CLOCK else 1)
        return realised(problem, numbers._replace(work=work, low=low))

    def _unknown(self, node: Ints, n: int, one: Unknown) -> None:
        """What may come to light in a task: done by the same people in the same place, before what follows that."""
        base = self._shows(one)
        node[n, MODE_LO] = len(self.modes)
        node[n, STATE], node[n, LONGEST] = TO_PLAY, self.problem.horizon
        node[n, [JOB, RELEASE, LATEST]] = -1, self.a.now, self.problem.horizon
        if base >= 0 and node[base, STATE] == TO_PLAY:
            node[n, [OPTIONAL, JOB, FLOATS]] = node[base, [OPTIONAL, JOB, FLOATS]]
            # worked on as the task is, whatever weather that wants: nobody can say what this would
            self.modes += self.modes[node[base, MODE_LO] : node[base, MODE_HI]]
            self.masks += self.masks[node[base, MODE_LO] : node[base, MODE_HI]]
            self.begins[n] = self.begins[base]
        else:
            owner = next((at for at, who in enumerate(self.refit.people) if who.role is Role.OWNER), None)
            mask = self.hours.ashore.copy()
            if owner is not None:
                mask &= self.hours.person[self.refit.people[owner].id]
            self._mode(self.calendars.plain(mask), 0, () if owner is None else (owner,))
            if base < 0:  # nobody has said in which task it shows: half-way to the launch
                node[n, RELEASE] = (max(self.a.now, int(self.a.fixed_start[HAUL_NODE])) + self.slot) // 2
            self.begins[n] = node[n, RELEASE]
        node[n, MODE_HI] = len(self.modes)

    def _shows(self, one: Unknown) -> int:
        """The node of the task in which it comes to light; -1 if none is planned."""
        if one.task is None or one.task not in self.problem.tasks:
            return -1
        return self.problem.node(one.task)

    def _arcs(self, node: Ints) -> Ints:
        """The problem's arcs with what a missed wait costs, and those of what may come to light."""
        a, drawn = self.a, {key: at for at, key in enumerate(self.waits)}
        good = {link.id: slots_of(link.make_good_hours) for link in self.refit.links if link.make_good_hours}
        rows = [
            [first, then, kind, low, high, clock, good.get(link, 0), drawn.get(link, -1)]
            for (first, then, kind, low, high, clock, _), link in zip(
                a.arcs.tolist(), self.problem.arc_link, strict=True
            )
            if node[first, STATE] != ABSENT and node[then, STATE] != ABSENT and first != then
        ]
        out = list(rows)
        of_unknown = {one.id: self.problem.size + at for at, one in enumerate(self.unknowns)}
        for at, one in enumerate(self.unknowns):
            n, base = self.problem.size + at, self._shows(one)
            lead = len(self.waits) + at
            follows = [row for row in rows if row[FIRST] == base and row[KIND] == FS] if base >= 0 else []
            if base >= 0:
                out.append([base, n, FS, 0, NO_MAX, 0, 0, lead])
            for row in follows:
                if node[row[THEN], STATE] == TO_PLAY:
                    out.append([n, row[THEN], FS, row[LOW], NO_MAX, row[CLOCK], 0, row[DRAWN]])
            if not node[n, FLOATS] and not any(row[THEN] in (LAUNCH_NODE, LIFT_NODE) for row in follows):
                out.append([n, LAUNCH_NODE, FS, 0, NO_MAX, 0, 0, -1])
            if one.after in of_unknown:
                out.append([of_unknown[one.after], n, FS, 0, NO_MAX, 0, 0, -1])
        return np.array(out, dtype=np.int64).reshape(-1, DRAWN + 1)

    def _uses(self, node: Ints) -> tuple[Ints, int]:
        """What each node takes of places and equipment, as (first hand slot, hand slots there are, how many it takes)."""
        a = self.a
        first = np.concatenate([[0], np.cumsum(a.capacity)])
        rows: list[tuple[int, int, int]] = []
        for n in range(self.size):
            base = n if n < self.problem.size else self._shows(self.unknowns[n - self.problem.size])
            node[n, USE_LO] = len(rows)
            if base >= 0 and node[base, STATE] == TO_PLAY:
                for at in range(int(a.use_ptr[base]), int(a.use_ptr[base + 1])):
                    what, amount = int(a.use_what[at]), int(a.use_amount[at])
                    room = int(a.capacity[what])
                    if room:
                        rows.append((int(first[what]), room, min(amount, room)))
            node[n, USE_HI] = len(rows)
        return np.array(rows, dtype=np.int64).reshape(-1, 3), max(int(first[-1]), 1)

    def _rest(self) -> tuple[Ints, Ints, Ints]:
        """Days on end each person may work, has worked by now, and the last day they did."""
        a = self.a
        today = int(a.day_of[min(a.now, len(a.day_of) - 1)])
        run, last = np.zeros(len(a.longest_run), dtype=np.int64), np.full(len(a.longest_run), -9, dtype=np.int64)
        for who in range(len(a.longest_run)):
            days = np.flatnonzero(a.worked[who, : today + 1])
            if len(days):
                last[who] = days[-1]
                run[who] = 1
                while run[who] < len(days) and days[-1 - run[who]] == last[who] - run[who]:
                    run[who] += 1
        return a.longest_run.astype(np.int64), run, last


def _columns(node: Ints, arcs: Ints) -> None:
    """Fill in what of a node follows from its arcs."""
    size = len(node)
    for low, high, end in ((IN_LO, IN_HI, THEN), (OUT_LO, OUT_HI, FIRST)):
        pointer = np.concatenate([[0], np.cumsum(np.bincount(arcs[:, end], minlength=size))])
        node[:, low], node[:, high] = pointer[:-1], pointer[1:]
    hung = arcs[(arcs[:, FIRST] == LIFT_NODE) & (arcs[:, THEN] != LAUNCH_NODE), THEN]
    node[hung, HANGS] = 1
    to_start = (arcs[:, KIND] == FS) & (arcs[:, HIGH] != NO_MAX) & (arcs[:, THEN] >= FIRST_TASK)
    node[arcs[to_start & (arcs[:, FIRST] >= FIRST_TASK), FIRST], FORESEES] = 1
