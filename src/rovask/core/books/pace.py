"""True pace: how a person's worked hours compare with the estimates, by kind of work, learned from what is done.

Of each task that is done with hours logged, x = ln(worked / estimated), shared among its people by their hours. With few
data the mean of x is drawn towards 0, pace 1 (empirical Bayes with a normal prior, Efron & Morris, "Data analysis using
Stein's estimator and its generalizations", JASA 70, 1975; Gelman et al., Bayesian Data Analysis, 3rd ed., ch. 2):

    estimate = mean * n / (n + s2 / T2),   s2 = (V0 * S0^2 + sum w (x - mean)^2) / (V0 + n - 1)

n is the sum of the shares. T2 is how far apart paces lie, S0 how far single tasks lie from somebody's pace, both in
logarithms, V0 how many tasks that is believed like; all three are a judgement. One task alone is held to a third or
three times of what was thought, so that a forgotten entry does not run away with it.
"""

from __future__ import annotations

import math
from collections import defaultdict
from collections.abc import Iterable, Mapping
from dataclasses import dataclass

from rovask.core.books.items import section_of
from rovask.core.plain.half_hours import of_a_unit
from rovask.core.plan.progress import estimate
from rovask.core.plan.result import Plan
from rovask.core.refit.model import Refit, Task
from rovask.core.refit.work.kinds import WorkTime

T2 = math.log(1.6) ** 2
S0 = 0.6
V0 = 2.0
C2 = T2  # how far whole crews lie from what they think, in logarithms: as far as paces do, a judgement too
FIRST_WELL = (
    0.05  # what is done first is what went well: by so much the mean of what is done falls short (docs/odds.md)
)
FARTHEST = math.log(3)
REMEMBERED = 4  # tasks that a pace of a haul-out before counts like, at most
LEAST, MOST = 0.4, 2.5  # paces beyond this are not taken over


@dataclass(frozen=True, slots=True)
class Pace:
    """Somebody's pace at a kind of work: worked hours for one estimated. tasks: how many of theirs it is learned from.

    plain: the same without being drawn towards 1. unsure: standard deviation of the logarithm of ``factor``, as far as is
    known; single: of single tasks about it.
    """

    person: str
    work: str
    factor: float
    plain: float
    tasks: int
    hours: float
    unsure: float = math.sqrt(T2)
    single: float = S0


def kind_of_work(refit: Refit, task: Task) -> str:
    """What kind of work a task is: its skill, else the part of the boat its job belongs to."""
    skill = task.skill or (task.skilled[0] if task.skilled else None)
    return skill or section_of(refit, refit.job_of[task.id]).value


def drawn_in(samples: Iterable[tuple[float, float]]) -> tuple[float, float]:
    """(pace, plain pace) from (worked / estimated, share) pairs; (1, 1) for none.

    >>> drawn_in([])
    (1.0, 1.0)
    >>> round(drawn_in([(1.5, 1.0)] * 10)[0], 2), round(drawn_in([(9.0, 1.0)])[0], 1)
    (1.48, 1.5)
    """
    n, mean, s2 = _seen(samples)
    if not n:
        return 1.0, 1.0
    return math.exp(mean * n / (n + s2 / T2)), math.exp(mean)


def left_unsure(samples: Iterable[tuple[float, float]]) -> tuple[float, float]:
    """Of the same samples: how unsure the pace still is, and how far single tasks lie from it; both of logarithms.

    >>> left_unsure([]) == (math.sqrt(T2), S0)
    True
    >>> [round(x, 2) for x in left_unsure([(1.3, 1.0)] * 10)]
    [0.08, 0.26]
    """
    n, _, s2 = _seen(samples)
    return math.sqrt(1 / (1 / T2 + n / s2)), math.sqrt(s2)


def _seen(samples: Iterable[tuple[float, float]]) -> tuple[float, float, float]:
    """How many tasks, the mean of x over them, and the variance of single ones."""
    rows = [(max(min(math.log(ratio), FARTHEST), -FARTHEST), share) for ratio, share in samples if ratio > 0 < share]
    n = sum(share for _, share in rows)
    mean = sum(x * share for x, share in rows) / n if n else 0.0
    spread = sum(share * (x - mean) ** 2 for x, share in rows)
    return n, mean, (V0 * S0**2 + spread) / (V0 + max(n - 1, 0))


def paces(refit: Refit) -> list[Pace]:
    """Every pace there is something to learn of, by person in their order, the most hours first. O(tasks + hours)."""
    by_task: dict[str, dict[str, float]] = defaultdict(lambda: defaultdict(float))
    for entry in refit.hours_log:
        by_task[entry.task][entry.person] += entry.hours
    samples: dict[tuple[str, str], list[tuple[float, float]]] = defaultdict(list)
    hours: dict[tuple[str, str], float] = defaultdict(float)
    for key, mine in by_task.items():
        task = refit.tasks[key]
        if task.done_at is None:
            continue
        whole = sum(mine.values())
        ratio = whole / (estimate(task) * task.hands)
        for who, much in mine.items():
            where = (who, kind_of_work(refit, task))
            samples[where].append((ratio, much / whole))
            hours[where] += much
    for person in refit.people:
        for known in person.paces:
            samples[person.id, known.work] += [(known.factor, 1.0)] * min(known.tasks, REMEMBERED)
    order = {person.id: at for at, person in enumerate(refit.people)}
    out = []
    for (who, work), rows in samples.items():
        factor, plain = drawn_in(rows)
        out.append(Pace(who, work, factor, plain, len(rows), hours[who, work], *left_unsure(rows)))
    return sorted(out, key=lambda one: (order.get(one.person, 999), -one.hours, one.work))


def crew_pace(known: Iterable[Pace]) -> float:
    """The pace of a crew altogether, for what nothing is known of yet: the mean of its paces, drawn towards 1; 1 without any.

    A normal prior of variance C2 over that of the single paces about it (two levels of the same estimate; Gelman et al., ch. 5): each plain
    mean lies from the crew's by T2 and what its own few tasks leave open, and short of it by FIRST_WELL.

    >>> crew_pace([])
    1.0
    """
    weight, total = 1 / C2, 0.0
    for one in known:
        seen = 1 / one.unsure**2 - 1 / T2
        if seen > 0:
            mine = 1 / (T2 + 1 / seen)
            weight, total = weight + mine, total + mine * (math.log(one.plain) + FIRST_WELL)
    return math.exp(total / weight)


@dataclass(frozen=True, slots=True)
class Paced:
    """A task of what is left whose hours would be others by the paces: what it takes now, and then."""

    task: Task
    factor: float
    now: float
    then: float


def with_paces(refit: Refit, plan: Plan, chosen: Mapping[tuple[str, str], float]) -> list[Paced]:
    """What is left and not begun, by the paces of the people the plan has for it; of several, their mean.

    chosen: paces by person and kind of work; what isn't among them counts 1. Only what changes is told.
    """
    at = plan.by_task()
    out = []
    for task in refit.tasks.values():
        if task.begun_at is not None or task.id not in at or not at[task.id].people:
            continue
        people, work = at[task.id].people, kind_of_work(refit, task)
        mean = sum(chosen.get((who, work), 1.0) for who in people) / len(people)
        factor = round(min(max(mean, LEAST), MOST), 2)
        then = _rounded(task, task.work.likely / task.paced * factor)
        if then != task.work.likely:
            out.append(Paced(task, factor, task.work.likely, then))
    return out


def _rounded(task: Task, hours: float) -> float:
    """To the nearest half-hour, at least one; of one of several units to the nearest three minutes."""
    return of_a_unit(hours) if task.units > 1 else max(math.floor(hours * 2 + 0.5) / 2, 0.5)


def at_pace(task: Task, factor: float) -> Task:
    """The task with its first estimate times a pace; the factor is kept with it, so that it can be taken back."""
    scale = factor / task.paced
    likely = _rounded(task, task.work.likely * scale)
    work = WorkTime(
        least=min(of_a_unit(task.work.least * scale), likely),
        likely=likely,
        most=max(of_a_unit(task.work.most * scale), likely),
    )
    return Task.model_validate(task.model_dump() | {"work": work, "paced": factor})
