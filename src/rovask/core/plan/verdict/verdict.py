"""What a plan says about the launch: held or short, by how much, and what drives it."""

from __future__ import annotations

from collections import defaultdict
from dataclasses import dataclass, replace
from datetime import datetime

import numpy as np
import numpy.typing as npt

from rovask.core.plain.words import minutes_of
from rovask.core.plan.problem.arrays import (
    FIRST_TASK,
    FS,
    HAUL_NODE,
    LAUNCH_NODE,
    LIFT_NODE,
    NO_MAX,
    Ints,
    Problem,
    by_node,
)
from rovask.core.plan.problem.compile import compile_refit
from rovask.core.plan.problem.windows import Windows, hanging_on_launch, windows_of
from rovask.core.plan.ready import launch_free
from rovask.core.plan.result import Outcome, Plan, Verdict
from rovask.core.refit.givens.slot import yard_launches
from rovask.core.refit.model import Refit
from rovask.core.refit.work.choices import LinkKind, Need, State
from rovask.core.refit.work.kinds import LAUNCH
from rovask.core.refit.work.make_good import with_make_good

SLOTS_A_DAY = 48
NEARLY_DRIVING_SLOTS = 1  # an hour later and she is ready an hour later; of a half-hour of slack half is lost
MOST_AHEAD = 8  # of those who use one place or thing, each is tied to so many that come after it


def judge(refit: Refit, plan: Plan, problem: Problem | None = None) -> Verdict:
    """The verdict on a plan of this very refit; ``problem`` saves compiling it again. O(tasks squared per person and place at worst).

    Spare of the launch is the slot less *ready at* (plan.ready), short when that is negative. Spare of a task is the
    elapsed time its end may slip, order and people kept, before what it serves slips: the haul for work afloat before
    it, the launch for work ashore. Should- and could-jobs give way, so the spare of must-work does not count them. What
    drives the launch is what leaves no room in the schedule that shows when she could be ready.
    """
    refit = with_make_good(refit, plan.made_good)
    problem = problem or compile_refit(refit, plan.now, plan.collisions, plan.made_good, broken=plan.broken)
    arrays = problem.arrays
    slots = _planned(problem, plan)
    launch = max(problem.grid.ceil(plan.launch), arrays.launch_at)
    everything = np.array([n for n in range(FIRST_TASK, problem.size) if slots[n, 0] >= 0], dtype=np.int64)
    open_ = [n for n in everything if arrays.fixed_end[n] < 0]
    must = np.array([n for n in everything if arrays.need[n] == 0], dtype=np.int64)
    modes = _chosen_modes(problem, plan)
    of_all, of_must = (_order_arcs(problem, plan, slots, nodes) for nodes in (everything, must))
    whole = _slips(problem, modes, of_all, slots, everything, launch)
    pinned = _slips(problem, modes, of_must, slots, must, launch)
    spare = {}
    for n in open_:
        slip = int((pinned if arrays.need[n] == 0 else whole)[n])
        most = _time_to_what_it_serves(refit, problem, int(slots[n, 1]), n, launch)
        if most is not None or slip + slots[n, 1] < problem.horizon - SLOTS_A_DAY:
            spare[problem.name(n)] = (slip if most is None else max(min(slip, most), 0)) * 30
    stopped = must_that_cannot(refit, plan)
    if stopped:
        outcome = Outcome.IMPOSSIBLE
    elif plan.ready is None:
        outcome = Outcome.AFLOAT
    elif plan.ready.at > refit.launch_at:
        outcome = Outcome.SHORT
    elif plan.launch > refit.launch_at:
        outcome = Outcome.SLOT
    else:
        outcome = Outcome.HELD
    ready = plan.launch if plan.ready is None else plan.ready.at
    with_optional = None
    if plan.ready is not None and plan.ready.with_optional not in (None, plan.ready.at):
        with_optional = minutes_of(refit.launch_at - plan.ready.with_optional)
    return Verdict(
        outcome=outcome,
        launch=plan.launch,
        spare_minutes=minutes_of(refit.launch_at - ready),
        spare_with_optional=with_optional,
        proven=plan.ready is not None and plan.ready.proven and not plan.ready.is_open,
        is_open=plan.ready is not None and plan.ready.is_open,
        spare_best=_spare_at(refit, plan.ready.best if plan.ready is not None else None),
        spare_worst=_spare_at(refit, plan.ready.worst if plan.ready is not None else None),
        slot_open=yard_launches(refit, refit.launch_at),
        driving=_driving(problem, plan, refit),
        spare_by_task=spare,
        left_out=plan.left_out,
        collisions=plan.collisions,
        stopped=stopped,
        no_work=not refit.tasks,
        old=plan.old,
    )


def latest_starts(problem: Problem, plan: Plan, nodes: Ints, launch: int) -> Ints:
    """The last slot in which each node of a plan may start, order and people kept among ``nodes``, for a launch at a slot.

    Where that is before the plan's own start the launch is late in that order; -1 where it can't be kept at all. Of use only for ``nodes``.
    O(tasks squared per person and place at worst).
    """
    slots = _planned(problem, plan)
    order = _order_arcs(problem, plan, slots, nodes)
    return _in_order(problem, _chosen_modes(problem, plan), order, slots, nodes, launch).latest_start


def _spare_at(refit: Refit, moment: datetime | None) -> int | None:
    return None if moment is None else minutes_of(refit.launch_at - moment)


def _time_to_what_it_serves(refit: Refit, problem: Problem, end: int, node: int, launch: int) -> int | None:
    """Slots from a task's end to the haul or the launch it serves, by where it is planned; None for what serves neither.

    Work that may be done afloat or ashore serves the one it lies before.
    """
    task, haul = refit.tasks[problem.name(node)], problem.grid.ceil(refit.haul_at)
    if task.state is State.AFLOAT_AFTER:
        return None
    if task.state is State.AFLOAT_BEFORE or (task.state is State.EITHER and end <= haul):
        return haul - end
    if task.state is State.EITHER and end > launch:
        return None
    return launch - end


def must_that_cannot(refit: Refit, plan: Plan) -> tuple[str, ...]:
    """Ids of must-jobs, and of jobs that are begun, with tasks that can't be planned."""
    out = dict.fromkeys(
        refit.job_of[key].id
        for key in plan.unplanned
        if key in refit.job_of
        and (refit.job_of[key].need is Need.MUST or any(task.begun_at for task in refit.job_of[key].tasks))
    )
    return tuple(out)


@dataclass(frozen=True, slots=True)
class Before:
    """A task that must be done before a fixed one, with the minutes it may slip without moving that; None: not planned.

    latest: the last moment at which it may end.
    """

    task: str
    spare: int | None
    late: bool
    latest: datetime | None = None


def fixed_at(refit: Refit, plan: Plan, key: str) -> datetime | None:
    """When the launch, an appointment, or a task is: a task where it is planned, else at its pin; None without either."""
    if key == LAUNCH:
        return refit.launch_at
    for meeting in refit.appointments:
        if meeting.id == key and key not in refit.tasks:
            return meeting.at
    item = plan.by_task().get(key)
    return item.start if item is not None else refit.tasks[key].pin if key in refit.tasks else None


def _ending_at(refit: Refit, problem: Problem, key: str) -> Problem:
    """The problem with the launch standing for an appointment or for a task it doesn't have: only what is tied to it comes before."""
    rows = []
    for link in refit.links:
        if link.then == key and link.first in problem.tasks and link.kind is LinkKind.FS:
            rows.append((problem.node(link.first), LAUNCH_NODE, FS, round(link.min_lag * 2), NO_MAX, 0, 0))
    kept = [tuple(arc) for arc in problem.arrays.arcs.tolist() if arc[1] not in (LAUNCH_NODE, LIFT_NODE)]
    arcs = np.array([*kept, *rows], dtype=np.int64).reshape(-1, 7)
    pointer, index = by_node(problem.size, arcs)
    links = ("",) * len(arcs)
    return replace(problem, arrays=problem.arrays._replace(arcs=arcs, arc_ptr=pointer, arc_idx=index), arc_link=links)


def before_this(refit: Refit, plan: Plan, key: str, verdict: Verdict | None = None) -> list[Before]:
    """All that must be done before a task, or before the launch, by ties, states and the plan's order of people.

    The tightest first; what isn't planned, and what would be late, before all. verdict: of the plan; before the launch a
    task may slip by its spare, the same figure as everywhere.
    """
    refit = with_make_good(refit, plan.made_good)
    problem = compile_refit(refit, plan.now, plan.collisions, plan.made_good, broken=plan.broken)
    slots, a = _planned(problem, plan), problem.arrays
    moment = fixed_at(refit, plan, key)
    if moment is None:
        return []
    at = problem.grid.floor(moment)
    if key == LAUNCH:
        target = LAUNCH_NODE
    elif key in problem.tasks and slots[problem.node(key), 0] >= 0:
        target = problem.node(key)
    else:  # an appointment, or what can't be held: reckoned back from its time all the same
        problem, target = _ending_at(refit, problem, key), LAUNCH_NODE
        a = problem.arrays
    everything = np.array([n for n in range(FIRST_TASK, problem.size) if slots[n, 0] >= 0], dtype=np.int64)
    order = _order_arcs(problem, plan, slots, everything)
    ancestors, todo = {target}, [target]
    while todo:
        this = todo.pop()
        for first in a.arcs[a.arcs[:, 1] == this, 0].tolist():
            if first not in ancestors:
                ancestors.add(first)
                todo.append(first)
    deadline = a.deadline.copy()
    deadline[target] = at
    low, high = _chosen_modes(problem, plan)
    arcs = np.concatenate([a.arcs, *order])
    windows = windows_of(
        replace(problem, arrays=a._replace(deadline=deadline, mode_lo=low, mode_hi=high, arcs=arcs)),
        at if target == LAUNCH_NODE else problem.horizon,
        whole=True,
    )
    out = []
    away = set(plan.left_out)
    for node in sorted(ancestors - {target}):
        if node < FIRST_TASK or a.fixed_end[node] >= 0:
            continue
        if slots[node, 0] < 0:
            if refit.job_of[problem.name(node)].id not in away:
                out.append(Before(problem.name(node), None, True))
            continue
        spare = int(windows.latest_end[node] - slots[node, 1])
        if a.fixed_start[node] < 0:
            spare = int(windows.latest_start[node] - slots[node, 0])
        latest = problem.grid.moment(int(windows.latest_end[node])) if windows.latest_end[node] >= 0 else None
        own = verdict.spare_by_task.get(problem.name(node)) if verdict is not None and key == LAUNCH else None
        if own is not None and spare >= 0:
            spare, latest = own // 30, problem.grid.moment(int(slots[node, 1]) + own // 30)
        out.append(Before(problem.name(node), spare * 30, spare < 0, latest))
    gone = [
        key
        for key in problem.unplanned
        if key in refit.tasks and _leads_to(refit, key, {problem.name(n) for n in ancestors})
    ]
    out += [Before(one, None, True) for one in gone]
    return sorted(out, key=lambda one: (one.spare is not None, one.spare or 0, one.task))


def _leads_to(refit: Refit, key: str, wanted: set[str]) -> bool:
    """Whether a tie runs from a task that isn't planned to one of some."""
    return any(link.first == key and link.then in wanted for link in refit.links)


def _driving(problem: Problem, plan: Plan, refit: Refit) -> tuple[str, ...]:
    """The tasks that leave least room in the schedule of ``plan.ready``, in order of time; what hangs on the launch left out."""
    if plan.ready is None:
        return ()
    shown = plan.model_copy(update={"assignments": plan.ready.assignments, "launch": plan.ready.at})
    free = launch_free(problem)
    arrays = free.arrays
    slots = _planned(free, shown)
    nodes = np.array(
        [n for n in range(FIRST_TASK, free.size) if slots[n, 0] >= 0 and arrays.need[n] == 0], dtype=np.int64
    )
    if not len(nodes):
        return ()
    order = _order_arcs(free, shown, slots, nodes)
    slips = _slips(free, _chosen_modes(free, shown), order, slots, nodes, free.grid.ceil(plan.ready.at))
    hanging = hanging_on_launch(problem)
    counts = [
        n
        for n in nodes.tolist()
        if arrays.fixed_end[n] < 0
        and not hanging[n]
        and refit.tasks[problem.name(n)].pin is None  # where somebody wants it drives nothing by itself
        and refit.tasks[problem.name(n)].state not in (State.AFLOAT_AFTER, State.AFLOAT_BEFORE)
    ]
    least = min((int(slips[n]) for n in counts), default=0)
    found = sorted((n for n in counts if slips[n] <= least + NEARLY_DRIVING_SLOTS), key=lambda n: (slots[n, 0], n))
    return tuple(problem.name(n) for n in found)


def _planned(problem: Problem, plan: Plan) -> Ints:
    """Columns begin (or resume) and end of every node, in slots; -1 for what is left out."""
    slots = np.full((problem.size, 2), -1, dtype=np.int64)
    at = plan.by_task()
    for node in range(FIRST_TASK, problem.size):
        item = at.get(problem.name(node))
        if item:
            slots[node] = problem.grid.ceil(item.resume or item.start), problem.grid.ceil(item.end)
    return slots


def _chosen_modes(problem: Problem, plan: Plan) -> tuple[Ints, Ints]:
    """Mode slices narrowed to the crew the plan chose."""
    low, high = problem.arrays.mode_lo.copy(), problem.arrays.mode_hi.copy()
    node_of = {key: at + FIRST_TASK for at, key in enumerate(problem.tasks)}
    for item in plan.assignments:
        node = node_of.get(item.task)
        mode = -1 if node is None else problem.mode_of(node, item.people)
        if mode >= 0:
            low[node], high[node] = mode, mode + 1
    return low, high


def _order_arcs(problem: Problem, plan: Plan, slots: Ints, nodes: Ints) -> tuple[Ints, Ints]:
    """The order the plan gives people, places, equipment and rivals, as finish-start ties; and apart those to a fixed time.

    Of places and equipment only pairs that can't share them are tied; three tasks that crowd each other only
    together are not. What is not under way can also be done after something pinned that has the same hands or place:
    that tie is among the second, and one to the next that isn't pinned among the first. So is what a lift or fumes keep away.
    """
    a = problem.arrays
    begin, end = slots[:, 0], slots[:, 1]
    begun, pinned = a.fixed_start >= 0, (a.release == a.deadline) & (a.fixed_start < 0)
    inside = np.zeros(problem.size, dtype=np.bool_)
    inside[nodes] = True
    in_turn = nodes[np.lexsort((nodes, begin[nodes]))]
    undone = in_turn[a.fixed_end[in_turn] < 0]
    keeps_away = np.repeat(np.arange(problem.size), np.diff(a.rival_ptr))
    apart = inside[keeps_away] & inside[a.rival] & (end[keeps_away] <= begin[a.rival]) & ~begun[a.rival]
    pairs = [np.column_stack([keeps_away, a.rival, a.rival_mine])[apart]]
    firsts, thens = _queued(problem, plan, undone, pinned, begun)
    pairs.append(np.column_stack([firsts, thens, np.zeros_like(firsts)]))
    uses = np.diff(a.use_ptr)[undone]
    taker = np.repeat(undone, uses)
    rows = np.arange(len(taker)) + np.repeat(a.use_ptr[undone] - np.cumsum(uses) + uses, uses)
    for what in np.unique(a.use_what[rows]):
        mine = a.use_what[rows] == what
        who, amount = taker[mine], a.use_amount[rows][mine]
        for ahead in range(1, min(MOST_AHEAD, len(who) - 1) + 1):
            first, then = who[:-ahead], who[ahead:]
            crowd = (amount[:-ahead] + amount[ahead:] > a.capacity[what]) & (end[first] <= begin[then])
            pairs.append(np.column_stack([first, then, np.zeros_like(first)])[crowd])
    first, then, lag = np.concatenate(pairs).T
    kind = np.zeros_like(first)
    arcs = np.column_stack([first, then, kind + FS, lag, kind + NO_MAX, kind, kind])
    past = pinned[then] & ~begun[first]
    return arcs[~past], arcs[past]


def _queued(
    problem: Problem, plan: Plan, undone: Ints, pinned: npt.NDArray[np.bool_], begun: npt.NDArray[np.bool_]
) -> tuple[Ints, Ints]:
    """Whom each person's tasks are followed by: the pinned ones next in turn, and the first that isn't."""
    at = plan.by_task()
    queues: dict[str, list[int]] = defaultdict(list)
    for node in undone.tolist():
        for who in at[problem.name(node)].people:
            queues[who].append(node)
    waits, goes_on = pinned.tolist(), begun.tolist()
    firsts, thens = list[int](), list[int]()
    for queue in queues.values():
        for place, first in enumerate(queue):
            for then in queue[place + 1 :]:
                firsts.append(first)
                thens.append(then)
                if not waits[then] or goes_on[first]:
                    break
    return np.array(firsts, dtype=np.int64), np.array(thens, dtype=np.int64)


def _slips(
    problem: Problem, modes: tuple[Ints, Ints], order: tuple[Ints, Ints], slots: Ints, nodes: Ints, launch: int
) -> Ints:
    """Slots each node may slip in an order; a big number for what isn't in ``nodes``.

    order: as ``_order_arcs`` gives it. Of the ties to a fixed time only those count whose first could not be done after it.
    """
    windows = _in_order(problem, modes, order, slots, nodes, launch)
    to_end, to_start = windows.latest_end - slots[:, 1], windows.latest_start - slots[:, 0]
    out = np.full(problem.size, problem.horizon, dtype=np.int64)
    out[nodes] = np.where(problem.arrays.fixed_start >= 0, to_end, to_start)[nodes]
    return np.maximum(out, 0)


def _in_order(
    problem: Problem, modes: tuple[Ints, Ints], order: tuple[Ints, Ints], slots: Ints, nodes: Ints, launch: int
) -> Windows:
    """Earliest and latest of ``nodes`` with an order among them; as ``_slips``."""
    low, high = modes
    arrays = problem.arrays
    inside = np.zeros(problem.size, dtype=np.bool_)
    inside[[HAUL_NODE, LAUNCH_NODE, LIFT_NODE, *nodes]] = True
    arcs, loose = arrays.arcs[inside[arrays.arcs[:, 0]] & inside[arrays.arcs[:, 1]]], order[1]
    arcs = np.concatenate([arcs, order[0]])
    while True:
        narrowed = arrays._replace(mode_lo=low, mode_hi=high, arcs=arcs)
        windows = windows_of(replace(problem, arrays=narrowed), launch, whole=True)
        before = windows.latest_start[loose[:, 0]] < slots[loose[:, 1], 1]
        if not before.any():
            return windows
        arcs, loose = np.concatenate([arcs, loose[before]]), loose[~before]
