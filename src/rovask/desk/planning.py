"""The plan a refit has now: kept, found again, or made anew and verified; never one that breaks a rule."""

from __future__ import annotations

from datetime import datetime
from threading import Lock

from rovask.core.plan.planner import Planned, plan_and_judge
from rovask.core.plan.result import Plan
from rovask.core.plan.verify.check import verify
from rovask.core.refit.model import Refit
from rovask.store import plans
from rovask.store.database import reading, transaction
from rovask.store.errors import BadPlan
from rovask.store.refits import Kept, lock

MOST_NAMED = 5


def verified(
    refit: Refit, now: datetime, starts: int | None = None, seed: int = 1, before: Plan | None = None
) -> Planned:
    """A plan that the verifier passed. Raises BadPlan, naming the breaches, if it did not."""
    planned = plan_and_judge(refit, now, starts, seed, before)
    breaches = verify(refit, planned.plan)
    if breaches and before is not None:  # perhaps it is the plan before that can't be followed
        planned = plan_and_judge(refit, now, starts, seed)
        breaches = verify(refit, planned.plan)
    if breaches:
        told = "; ".join(f"{breach.task} {breach.sentence}" for breach in breaches[:MOST_NAMED])
        raise BadPlan(f"Rovask made a plan that breaks its own rules and does not show it: {told}")
    return planned


def better(new: Planned, old: Planned, refit: Refit) -> bool:
    """Whether a plan is better: nothing more unplanned, the launch no later, and less by the planner's own measure."""
    return _rank(new, refit) < _rank(old, refit)


def _rank(planned: Planned, refit: Refit) -> tuple[int, datetime, int]:
    plan = planned.plan
    return len(plan.unplanned), max(plan.launch, refit.launch_at), plan.value


class Planning:
    """Present plans of the refits in one database. A plan that several ask for at once is made once."""

    def __init__(self, url: str) -> None:
        self.url = url
        self._making: dict[tuple[int, int, datetime], Lock] = {}
        self._guard = Lock()

    def current(self, kept: Kept, clock: datetime) -> Planned:
        """The plan of this revision at this half-hour: the one kept, or a new one, verified and kept.

        A new one follows the plan before it: near tasks stay where they were unless moving them pays. It is made
        outside any transaction, so that nobody waits for it but who needs it.
        """
        now = plans.half_hour(kept.now(clock))
        with reading(self.url) as session:
            found = plans.kept_plan(session, kept, now)
        if found is not None:
            return found
        where = (kept.pk, kept.revision, now)
        with self._guard:
            making = self._making.setdefault(where, Lock())
        try:
            with making:
                return self._made(kept, now, clock)
        finally:
            with self._guard:
                self._making.pop(where, None)

    def _made(self, kept: Kept, now: datetime, clock: datetime) -> Planned:
        with reading(self.url) as session:
            found = plans.kept_plan(session, kept, now)
            before = plans.plan_so_far(session, kept.pk, kept.revision) if found is None else None
        if found is not None:
            return found
        made = verified(kept.refit, now, before=before.plan if before else None)
        with transaction(self.url) as session:
            if lock(session, kept.pk) == kept.revision and plans.kept_plan(session, kept, now) is None:
                plans.keep_plan(session, kept, made, clock)
        return made
