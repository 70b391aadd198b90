"""What the worker does on behalf of whoever changed a refit: a search begins, says how far it is, and keeps what it found."""

from __future__ import annotations

from dataclasses import dataclass

from rovask.core.plan.planner import Planned
from rovask.core.plan.result import Plan
from rovask.desk.command import DirectCommand, Scene
from rovask.desk.planning import better
from rovask.store import plans, queue, refits
from rovask.store.errors import NotFound
from rovask.store.plan_tables import SearchState
from rovask.store.refits import Kept
from rovask.store.searches import begin_search, note_search


@dataclass(frozen=True)
class BeginSearch(DirectCommand):
    """A search of a refit at a revision begins, for so many seconds."""

    revision: int
    seconds: float

    def run(self, scene: Scene, pk: int) -> None:
        """Noted."""
        begin_search(scene.session, pk, self.revision, self.seconds, scene.clock)


@dataclass(frozen=True)
class NoteSearch(DirectCommand):
    """How far a search is; what is None stays."""

    taken: float
    first_value: int | None = None
    value: int | None = None
    bound: int | None = None
    better: int | None = None
    state: SearchState | None = None
    told: str | None = None

    def run(self, scene: Scene, pk: int) -> bool:
        """Whether it has been asked to stop."""
        return note_search(
            scene.session,
            pk,
            scene.clock,
            taken=self.taken,
            first_value=self.first_value,
            value=self.value,
            bound=self.bound,
            better=self.better,
            state=self.state,
            told=self.told,
        )


def _stands(scene: Scene, pk: int, revision: int, found: Planned) -> tuple[Kept | None, Planned | None]:
    """The refit, locked, with the plan it has now; None when it is gone or has changed since, or time has moved on."""
    try:
        refits.lock(scene.session, pk)
        kept = refits.load(scene.session, pk)
    except NotFound:
        return None, None
    return (kept, plans.kept_plan(scene.session, kept, found.plan.now)) if kept.revision == revision else (None, None)


@dataclass(frozen=True)
class KeepReady(DirectCommand):
    """More is known of when she could be ready: said of the present plan, which stays as it is."""

    known: Planned
    revision: int

    def run(self, scene: Scene, pk: int) -> bool:
        """Whether it was kept; not when the refit or its plan has changed meanwhile."""
        kept, present = _stands(scene, pk, self.revision, self.known)
        if kept is None or present is None or present.plan.assignments != self.known.plan.assignments:
            return False
        plans.say_ready(scene.session, kept, self.known)
        return True


def _kept_or_proposed(scene: Scene, kept: Kept, present: Planned, found: Planned) -> bool:
    """Adopt a plan, or propose it where the sailor wants to be asked; the one the search began from can be put back."""
    if kept.refit.ask_first:
        plans.propose(scene.session, kept, found)
    else:
        previous = plans.previous_of(scene.session, kept) or plans.plain(present)
        plans.keep_plan(scene.session, kept, found, scene.clock, previous=previous)
        queue.wish_to_play(scene.session, kept.pk)
    return True


@dataclass(frozen=True)
class KeepSurer(DirectCommand):
    """Adopt or propose a verified plan by which the launch is surer than by the one it was begun from; worth about the same."""

    found: Planned
    begun_from: Plan
    revision: int

    def run(self, scene: Scene, pk: int) -> bool:
        """Whether it was kept; not when the refit has changed or gone, time has moved on, or another plan was taken meanwhile."""
        kept, present = _stands(scene, pk, self.revision, self.found)
        if kept is None or present is None:
            return False
        best = plans.proposal(scene.session, kept) or present
        if best.plan.assignments != self.begun_from.assignments:
            return False
        return _kept_or_proposed(scene, kept, present, self.found)


@dataclass(frozen=True)
class KeepFound(DirectCommand):
    """Adopt a verified plan that is better than the present one, or propose it where the sailor wants to be asked.

    What is put back later is the plan the search began from. stood: the plan before the change that is searched for.
    """

    found: Planned
    revision: int
    stood: Plan | None = None

    def run(self, scene: Scene, pk: int) -> bool:
        """Whether it was kept; not when the refit has changed or gone, or time has moved on."""
        kept, present = _stands(scene, pk, self.revision, self.found)
        if kept is None or present is None:
            return False
        best = plans.proposal(scene.session, kept) or present
        if not better(self.found, best, kept.refit, self.stood):
            return False
        return _kept_or_proposed(scene, kept, present, self.found)
