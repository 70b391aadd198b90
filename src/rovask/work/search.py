"""The search for a better plan, as the worker runs it: improve, keep what is verified and better, say how far it is.

One search of a refit at a time (the queue's lock). It stops when it is asked to, when the refit changes, and when its
seconds are over; whatever it had found by then is kept. It holds no transaction open while it computes.
"""

from __future__ import annotations

import logging
import threading
import time

from sqlalchemy.exc import IntegrityError
from sqlalchemy.orm.exc import StaleDataError

from rovask.core.odds.surer import surer
from rovask.core.plan.planner import Draft, Planned, plan_of, schedule_of, settled
from rovask.core.plan.problem.compile import compile_refit
from rovask.core.plan.ready import searched
from rovask.core.plan.result import Plan
from rovask.core.plan.solver.improve import BetterSchedule, Status, Stop, improve
from rovask.core.plan.verdict.verdict import judge
from rovask.core.plan.verify.check import verify
from rovask.desk.command import Actor
from rovask.desk.commands.search import BeginSearch, KeepFound, KeepReady, KeepSurer, NoteSearch
from rovask.desk.door import Desk
from rovask.settings import Settings
from rovask.store import plans
from rovask.store.errors import NotFound, StoreError
from rovask.store.plan_tables import SearchState

log = logging.getLogger("rovask.work")

ROVASK = Actor(None)
LOOK_EVERY = 0.4  # seconds between looks at what was found and whether to go on
CONFLICT_SECONDS = 10.0
READY_SHARE, MOST_READY_SECONDS = 0.2, 5.0  # of a search, for when she could be ready


class _Search:
    """One search of one refit at one revision."""

    def __init__(self, settings: Settings, pk: int, seconds: float) -> None:
        self.settings, self.pk, self.seconds = settings, pk, seconds
        self.desk = Desk(settings)
        self.began = time.monotonic()
        self.stop = Stop()
        self.lock = threading.Lock()
        self.found: BetterSchedule | None = None
        self.better = 0
        self.asked = False
        self.over = threading.Event()
        self.lost: BaseException | None = None

    def taken(self) -> float:
        """Seconds since it began."""
        return time.monotonic() - self.began

    def run(self) -> int:
        """Search; returns how many better plans were kept."""
        try:
            with self.desk.looking() as session:
                kept = self.desk.seen_by(session, None, self.pk).kept
                replaced = plans.beside(session, kept)[1]
                # near tasks keep to where they were before the change, not to where its first answer put them
                before = plans.plan_before(session, kept) if replaced is None else None
            best = self.desk.planning.current(kept, self.desk.settings.clock())
        except StoreError:
            return 0  # removed meanwhile
        if not kept.refit.tasks:
            return 0
        self.desk.run(ROVASK, BeginSearch(kept.revision, self.seconds), self.pk)
        self.revision, self.refit, self.stood = kept.revision, kept.refit, before or best.plan
        workers = self.settings.solver_workers
        draft = settled(kept.refit, best.plan, CONFLICT_SECONDS, time.monotonic, workers, before)
        if draft.plan is not best.plan:
            self._keep(self._judged(draft.plan, draft))
        if draft.schedule is None:
            self._end(SearchState.DONE, "Nothing can be planned before what collides is changed.")
            return self.better
        self.draft, self.last = draft, draft.plan
        self._note(first_value=draft.plan.value, value=draft.plan.value)
        self._ready()
        watcher = threading.Thread(target=self._watch, name="rovask-search-watch")
        watcher.start()
        try:
            found = improve(
                draft.problem,
                draft.schedule,
                seconds=max(self.seconds - self.taken(), 0.5),
                clock=time.monotonic,
                workers=self.settings.solver_workers,
                tell=self._tell,
                stop=self.stop,
                seed=kept.revision,
            )
        finally:
            self.over.set()
            watcher.join()
        if self.lost is not None:
            raise self.lost
        self._look()
        state = SearchState.DONE
        if found.status is Status.OPTIMAL and not self.stop.asked:
            state = SearchState.PROVEN
        told = self._surer(found.bound)
        if self.asked and state is not SearchState.PROVEN:
            state = SearchState.STOPPED
        self._end(state, told, found.bound)
        return self.better

    def _ready(self) -> None:
        """When she could be ready: proven, or looked for a little longer, before anything else is."""
        draft, known = self.draft, self.draft.plan.ready
        if known is None or known.proven:
            return
        seconds = min(self.seconds * READY_SHARE, MOST_READY_SECONDS)
        found = searched(draft.problem, known, seconds, time.monotonic, self.settings.solver_workers, self.stop)
        if found == known:
            return
        plan = draft.plan.model_copy(update={"ready": found})
        self.draft, self.last = Draft(plan, draft.problem, draft.schedule), plan
        self.desk.run(ROVASK, KeepReady(self._judged(plan, self.draft), self.revision), self.pk)

    def _surer(self, bound: int) -> str:
        """A plan worth about the same by which the launch is surer, looked for a while longer; what came of it, in a sentence."""
        if self.stop.asked or not self.settings.surer_seconds:
            return ""
        plan = self.last
        problem = compile_refit(self.refit, plan.now, plan.collisions, plan.made_good, self.stood, broken=plan.broken)
        draft = Draft(plan, problem, schedule_of(problem, plan))
        until, looked = time.monotonic() + self.settings.surer_seconds, [0.0]

        def go_on(tried: int) -> bool:
            now = time.monotonic()
            if now - looked[0] > LOOK_EVERY:
                looked[0] = now
                if (
                    self._note(told=f"Looking for a plan worth as much that is surer: {tried} played.")
                    or self._outdated()
                ):
                    self.stop.pull()
            return now < until and not self.stop.asked

        found = surer(self.refit, draft, go_on)
        if found is None or self._outdated():
            return ""
        planned = self._judged(found.plan.model_copy(update={"bound": bound or None}), draft)
        if not self._verified(planned) or not self.desk.run(ROVASK, KeepSurer(planned, plan, self.revision), self.pk):
            return ""
        return found.in_words(self.refit.currency)

    def _tell(self, step: BetterSchedule) -> None:
        with self.lock:
            self.found = step

    def _watch(self) -> None:
        """Beside the solver: keep what it found, say how far it is, and stop it when it is time."""
        try:
            while not self.over.wait(LOOK_EVERY):
                self._look()
                if self._note() or self._outdated():
                    self.stop.pull()
        except BaseException as error:  # noqa: BLE001 - handed on to the thread that waits for it
            self.lost = error
            self.stop.pull()

    def _look(self) -> None:
        """Keep the latest step, if it is a better plan and the refit is still the same."""
        with self.lock:
            step, self.found = self.found, None
        if step is None:
            return
        plan = plan_of(
            self.refit,
            self.draft.problem,
            step.schedule,
            self.draft.plan.now,
            bound=step.bound or None,
            ready=self.draft.plan.ready,
        )
        self._keep(self._judged(plan, self.draft), step)

    def _judged(self, plan: Plan, draft: Draft) -> Planned:
        return Planned(plan, judge(self.refit, plan, draft.problem))

    def _verified(self, planned: Planned) -> bool:
        breaches = verify(self.refit, planned.plan)
        if breaches:
            told = "; ".join(f"{breach.task} {breach.sentence}" for breach in breaches[:5])
            log.error("a found plan breaks the rules and is dropped: %s", told)
        return not breaches

    def _keep(self, planned: Planned, step: BetterSchedule | None = None) -> None:
        if not self._verified(planned):
            return
        if self.desk.run(ROVASK, KeepFound(planned, self.revision, self.stood), self.pk):
            self.better += 1
            self.last = planned.plan
        if step is not None:
            self._note(value=step.value, bound=step.bound or None)

    def _outdated(self) -> bool:
        try:
            with self.desk.looking() as session:
                return self.desk.seen_by(session, None, self.pk).kept.revision != self.revision
        except StoreError:
            return True

    def gone(self) -> bool:
        """Whether the refit was removed meanwhile."""
        try:
            with self.desk.looking() as session:
                self.desk.seen_by(session, None, self.pk)
        except NotFound:
            return True
        return False

    def _note(
        self,
        first_value: int | None = None,
        value: int | None = None,
        bound: int | None = None,
        told: str | None = None,
    ) -> bool:
        better = self.better
        note = NoteSearch(self.taken(), first_value=first_value, value=value, bound=bound, better=better, told=told)
        asked = bool(self.desk.run(ROVASK, note, self.pk))
        self.asked = self.asked or asked
        return asked

    def _end(self, state: SearchState, told: str, bound: int | None = None) -> None:
        note = NoteSearch(self.taken(), state=state, told=told, better=self.better, bound=bound or None)
        self.desk.run(ROVASK, note, self.pk)


def search(settings: Settings, pk: int, seconds: float) -> int:
    """Look for better plans of a refit for up to ``seconds``; returns how many were kept or proposed."""
    one = _Search(settings, pk, seconds)
    try:
        return one.run()
    except (StoreError, IntegrityError, StaleDataError):
        if one.gone():
            log.info("refit %s was removed while it was searched", pk)
            return 0
        raise
