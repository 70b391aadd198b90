"""Published scheduling instances as Problems: the same engine as refits, with one endless day and no people."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date, timedelta
from typing import Any
from zoneinfo import ZoneInfo

import numpy as np

from rovask.core.plan.problem.arrays import (
    FIRST_TASK,
    FOREVER,
    FS,
    HAUL_NODE,
    LAUNCH_NODE,
    LIFT_NODE,
    NO_MAX,
    SS,
    Arrays,
    Problem,
    by_node,
)
from rovask.core.plan.problem.calendar import SlotGrid
from rovask.core.plan.problem.value import MAKESPAN_WEIGHTS


@dataclass(frozen=True, slots=True)
class Instance:
    """A project with renewable resources: what each activity takes and lasts, and the ties between them.

    durations[i] >= 0; demands[i][r] <= capacities[r]; waits: (i, j, lag): j starts at least ``lag`` after the end of i
    (from_end) or after its start; a negative lag after a start says that i starts at most -lag after j.
    """

    name: str
    durations: tuple[int, ...]
    demands: tuple[tuple[int, ...], ...]
    capacities: tuple[int, ...]
    waits: tuple[tuple[int, int, int], ...]
    from_end: bool


def problem_of(instance: Instance) -> Problem:
    """The instance as a Problem whose value is its makespan. O(its size)."""
    count = len(instance.durations)
    size = count + FIRST_TASK
    horizon = sum(instance.durations) + sum(max(lag, 0) for *_, lag in instance.waits) + 1
    rows, names = [], []
    for first, then, lag in instance.waits:
        one, other = first + FIRST_TASK, then + FIRST_TASK
        if instance.from_end:
            rows.append((one, other, FS, lag, NO_MAX))
        elif lag >= 0:
            rows.append((one, other, SS, lag, NO_MAX))
        else:
            rows.append((other, one, SS, -FOREVER, -lag))
        names.append(f"{first}>{then}")
    rows += [(node, LAUNCH_NODE, FS, 0, NO_MAX) for node in range(FIRST_TASK, size)]
    rows.append((LIFT_NODE, LAUNCH_NODE, FS, 0, NO_MAX))
    arcs = np.array([(*row, 0, 0) for row in rows], dtype=np.int64)
    pointer, index = by_node(size, arcs)

    def full(value: int) -> Any:
        return np.full(size, value, dtype=np.int64)

    fixed = full(-1)
    fixed[HAUL_NODE] = 0
    work = full(0)
    work[FIRST_TASK:] = instance.durations
    uses = [[(what, amount) for what, amount in enumerate(row) if amount] for row in instance.demands]
    use_ptr = np.cumsum([*([0] * (FIRST_TASK + 1)), *(len(row) for row in uses)], dtype=np.int64)
    flat = np.array([use for row in uses for use in row], dtype=np.int64).reshape(-1, 2)
    none = np.zeros(0, dtype=np.int64)
    arrays = Arrays(
        work=work,
        longest=np.where(work > 0, work, FOREVER),
        release=full(0),
        deadline=full(horizon),
        fixed_start=fixed,
        fixed_end=fixed.copy(),
        need=full(0),
        before=full(1),
        urgent=full(0),
        job=np.where(np.arange(size) < FIRST_TASK, -1, 0),
        value=np.zeros(1, dtype=np.int64),
        mode_lo=np.arange(size, dtype=np.int64),
        mode_hi=np.arange(1, size + 1, dtype=np.int64),
        mode_calendar=full(0),
        mode_people=np.full((size, 1), -1, dtype=np.int64),
        mode_penalty=full(0),
        rank=np.arange(horizon + 1, dtype=np.int32).reshape(1, -1),
        pos=np.arange(horizon + 1, dtype=np.int32).reshape(1, -1),
        sky=full(0),
        tender=full(0),
        whole=full(0),
        sky_run=np.full((1, horizon + 1), FOREVER, dtype=np.int32),
        use_ptr=use_ptr,
        use_what=flat[:, 0].copy(),
        use_amount=flat[:, 1].copy(),
        capacity=np.array(instance.capacities, dtype=np.int64),
        rival_ptr=np.zeros(size + 1, dtype=np.int64),
        rival=none,
        rival_mine=none,
        rival_theirs=none,
        arcs=arcs,
        arc_ptr=pointer,
        arc_idx=index,
        cure=np.arange(horizon + 1, dtype=np.int64).reshape(1, -1),
        longest_run=np.zeros(1, dtype=np.int64),
        worked=np.zeros((1, 1), dtype=np.int64),
        day_of=np.zeros(horizon + 1, dtype=np.int64),
        day_slot=np.zeros(1, dtype=np.int64),
        day_cost=np.zeros(1, dtype=np.int64),
        outages=np.zeros((0, 4), dtype=np.int64),
        anchor=full(-1),
        anchor_mode=full(-1),
        weights=MAKESPAN_WEIGHTS,
        now=0,
        launch_at=0,
    )
    day = date(2000, 1, 1)
    return Problem(
        grid=SlotGrid(ZoneInfo("UTC"), day, day + timedelta(days=horizon // 48)),
        arrays=arrays,
        tasks=tuple(str(activity) for activity in range(count)),
        jobs=(instance.name,),
        people=("",),
        resources=tuple(f"R{what + 1}" for what in range(len(instance.capacities))),
        arc_link=(*names, *("" for _ in range(len(rows) - len(names)))),
        crews=((),) * size,
    )
