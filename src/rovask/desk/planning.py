"""The plan a refit has now: kept, found again, or made anew and verified; an old one, marked as such, rather than none."""

from __future__ import annotations

import logging
import time
from datetime import datetime, timedelta
from threading import Lock

from rovask.core.plan.planner import Planned, draft_plan, is_dearer, mended
from rovask.core.plan.result import Assignment, Collision, CollisionKind, Outcome, Plan, Verdict
from rovask.core.plan.unsettled import unsettled
from rovask.core.plan.verdict.verdict import judge
from rovask.core.plan.verify.check import verify
from rovask.core.refit.model import Refit
from rovask.core.refit.work.make_good import with_make_good
from rovask.store import odds, plans, queue
from rovask.store.database import reading, transaction
from rovask.store.refits import Kept, lock

log = logging.getLogger("rovask.desk")

MOST_NAMED = 5
MEND_SECONDS = 1.2  # once in a half-hour, for whoever looks first


def verified(
    refit: Refit,
    now: datetime,
    starts: int | None = None,
    seed: int = 1,
    before: Plan | None = None,
    *,
    mend_seconds: float = 0,
) -> Planned:
    """A plan that the verifier passed, whatever was done to the refit: no act ends without one.

    mend_seconds: how long, at most, it is looked for one that leaves more of the plan before as it was.
    When the plan that follows the one before breaks a rule, one is made anew; when that does, too, what breaks it is
    left out with a reason; when nothing helps, the plan before stays, marked as old.
    """
    known: list[Collision] = []
    for so_far in (before, None, None, None):
        draft = draft_plan(refit, now, starts, seed, so_far, known)
        if so_far is not None and mend_seconds:
            draft = mended(refit, draft, so_far, mend_seconds, time.monotonic)
        breaches = verify(refit, draft.plan)
        if not breaches:
            return Planned(draft.plan, judge(refit, draft.plan, draft.problem))
        told = "; ".join(f"{breach.task} {breach.sentence}" for breach in breaches[:MOST_NAMED])
        log.error("a plan breaks the rules and is not shown: %s", told)
        if so_far is None:
            named = dict.fromkeys(breach.task for breach in breaches if breach.task in refit.tasks)
            known += [_left_out(refit, key) for key in named]
            if not named:
                break
    return _old(refit, now, before)


def foretold(refit: Refit, now: datetime, plan: Plan | None, before: Plan | None) -> Planned | None:
    """A plan that was found for a change beforehand, if it is of this moment and stands up to the verifier; else None.

    When she could be ready is looked for as after any change, and the earlier of both is told.
    """
    if plan is None or plan.now != now:
        return None
    other = draft_plan(refit, now, before=before).plan
    if other.ready is not None and (plan.ready is None or other.ready.at < plan.ready.at):
        plan = plan.model_copy(update={"ready": other.ready})
    return None if verify(refit, plan) else Planned(plan, judge(refit, plan))


def later(refit: Refit, now: datetime, before: Plan | None) -> Planned:
    """The plan of a refit to which nothing has happened but time: what could be begun and wasn't moves, and little else."""
    return verified(refit, now, before=before, mend_seconds=MEND_SECONDS)


def _left_out(refit: Refit, key: str) -> Collision:
    return Collision(
        kind=CollisionKind.SEARCH,
        tasks=(key,),
        lost=(key,),
        sentence=f"“{refit.tasks[key].title}”"[:80] + " could not be placed by the rules; look at its ties and people.",
    )


def _old(refit: Refit, now: datetime, before: Plan | None) -> Planned:
    """The plan before for what is left of it, marked as old; without one nothing is planned, and it is said."""
    why = "No plan could be made of the last change; this is the one before it."
    assignments: tuple[Assignment, ...] = ()
    named = tuple(refit.tasks)
    if before is not None:
        there = with_make_good(refit, before.made_good).tasks
        assignments = tuple(item for item in before.assignments if item.task in there)
        planned = {item.task for item in assignments}
        named = tuple(key for key in refit.tasks if key not in planned)
    else:
        why = "No plan could be made of this refit."
    stopped = Collision(kind=CollisionKind.SEARCH, tasks=(), sentence=why)
    plan = Plan(
        now=now,
        launch=max(refit.launch_at, before.launch) if before is not None else refit.launch_at,
        assignments=assignments,
        unplanned=named,
        collisions=(*(before.collisions if before is not None else ()), stopped),
        made_good=before.made_good if before is not None else (),
        ready=before.ready if before is not None else None,
        old=why,
    )
    verdict = Verdict(
        outcome=Outcome.IMPOSSIBLE, launch=plan.launch, left_out=plan.left_out, collisions=plan.collisions, old=why
    )
    return Planned(plan, verdict)


def better(new: Planned, old: Planned, refit: Refit, stood: Plan | None = None) -> bool:
    """Whether a plan is better: nothing more unplanned, the launch no later, and worth more by the planner's measure.

    stood: the plan that both would take the place of, ``old`` by default; what they move of it counts against them.
    """
    stood = stood or old.plan
    return _rank(new, refit, stood) < _rank(old, refit, stood)


def _rank(planned: Planned, refit: Refit, stood: Plan) -> tuple[int, datetime, int]:
    plan = planned.plan
    return len(plan.unplanned), max(plan.launch, refit.launch_at), plan.value + unsettled(refit, stood, plan)


class Planning:
    """Present plans of the refits in one database. A plan that several ask for at once is made once."""

    def __init__(self, url: str) -> None:
        self.url = url
        self._making: dict[tuple[int, int, datetime], Lock] = {}
        self._guard = Lock()

    def current(self, kept: Kept, clock: datetime, played_within: timedelta = timedelta(0)) -> Planned:
        """The plan of this revision at this half-hour: the one kept, or a new one, verified and kept.

        A new one follows the plan before it: near tasks stay where they were unless moving them pays. It is made
        outside any transaction, so that nobody waits for it but who needs it.

        played_within: how old the odds may be that need not be played anew for it.
        """
        now = kept.half_hour(clock)
        with reading(self.url) as session:
            found = plans.kept_plan(session, kept, now)
        if found is not None:
            return found
        where = (kept.pk, kept.revision, now)
        with self._guard:
            making = self._making.setdefault(where, Lock())
        try:
            with making:
                return self._made(kept, now, clock, played_within)
        finally:
            with self._guard:
                self._making.pop(where, None)

    def _made(self, kept: Kept, now: datetime, clock: datetime, played_within: timedelta) -> Planned:
        with reading(self.url) as session:
            found = plans.kept_plan(session, kept, now)
            before = plans.plan_so_far(session, kept.pk, kept.revision) if found is None else None
        if found is not None:
            return found
        made = later(kept.refit, now, before.plan if before else None)
        with transaction(self.url) as session:
            if lock(session, kept.pk) == kept.revision and plans.kept_plan(session, kept, now) is None:
                plans.keep_plan(session, kept, made, clock)
                if not odds.played_since(session, kept.pk, now - played_within):
                    queue.wish_to_play(session, kept.pk)
                if before is not None and is_dearer(kept.refit, made.plan, before.plan):
                    queue.wish_for_search(session, kept.pk)
        return made
