"""The desk of choices: ways laid side by side, named, kept, taken; and what the worker finds of them."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from datetime import datetime

from rovask.core.choice.date_told import DateTold
from rovask.core.choice.laid import Laid, WayTold
from rovask.core.choice.levers import Asked
from rovask.core.plain.faults import refused
from rovask.core.plan.result import Plan
from rovask.core.refit.edits import put
from rovask.core.refit.model import Act, Decision, ProposedWay, Refit, Ways
from rovask.core.refit.seen.kinds import Alternative
from rovask.core.refit.ways.kinds import AS_IT_IS, MOST_ACTS, MOST_WAYS
from rovask.core.refit.whole import Edited
from rovask.desk.acts import numbered, right_for, run, way_mark
from rovask.desk.command import ChangeCommand, DirectCommand, EditOutcome, RefitCommand, Scene, Situation
from rovask.desk.rights import Right
from rovask.store import laid, queue, refits


def ways_of(refit: Refit, key: str) -> Ways:
    """The choice of that id. Raises RefitFaults if it is gone."""
    found = next((one for one in refit.ways if one.id == key), None)
    if found is None:
        raise refused("This choice is gone; somebody removed it meanwhile.")
    return found


def open_about(refit: Refit, about: str) -> Ways | None:
    """The open choice that came of the same question, if somebody laid one out already."""
    return next((one for one in refit.ways if about and one.about == about and not one.taken), None)


@dataclass(frozen=True)
class LayOut(RefitCommand):
    """Lay ways side by side; where the same question is on the desk already, it is that one. What this made is its id."""

    title: str
    about: str = ""
    ways: tuple[ProposedWay, ...] = ()

    def edit(self, refit: Refit, at: Situation) -> EditOutcome:
        """On the desk."""
        there = open_about(refit, self.about)
        if there is not None:
            return EditOutcome(Edited(refit), "", there.id)
        key = at.new_id("ways")
        row = Ways(id=key, title=self.title, about=self.about, ways=self.ways, at=at.moment)
        return EditOutcome(Edited(put(refit, row)), f"laid out ways: {self.title}", key)


@dataclass(frozen=True)
class WaysCommand(ChangeCommand):
    """A change to a choice that is still open."""

    ways: str

    def becomes(self, row: Ways, at: Situation) -> Ways:
        """The choice after it."""
        raise NotImplementedError

    def change(self, refit: Refit, at: Situation) -> Refit:
        """Changed. Raises RefitFaults for one that was decided."""
        row = ways_of(refit, self.ways)
        if row.taken:
            raise refused("This was decided; lay it out again to think on.")
        return put(refit, Ways.model_validate(self.becomes(row, at).model_dump()))

    def _way(self, row: Ways, way: str) -> ProposedWay:
        found = next((one for one in row.ways if one.id == way), None)
        if found is None:
            raise refused("This way is gone; somebody took it off the desk meanwhile.")
        return found

    def _with(self, row: Ways, way: ProposedWay) -> Ways:
        rows = tuple(way if one.id == way.id else one for one in row.ways)
        return row.model_copy(update={"ways": rows})


@dataclass(frozen=True)
class LayAnew(WaysCommand):
    """Other ways in the place of those that lie there."""

    rows: tuple[ProposedWay, ...]

    def told(self, refit: Refit) -> str:
        """Which."""
        return f"laid out anew: {ways_of(refit, self.ways).title}"

    def becomes(self, row: Ways, at: Situation) -> Ways:
        """They."""
        return row.model_copy(update={"ways": self.rows})


@dataclass(frozen=True)
class AddWay(WaysCommand):
    """One way more, with some acts or none yet; or with those of another one."""

    title: str
    acts: tuple[Act, ...] = ()

    def told(self, refit: Refit) -> str:
        """Which."""
        return f"laid out “{self.title}” beside “{ways_of(refit, self.ways).title}”"

    def becomes(self, row: Ways, at: Situation) -> Ways:
        """At the end."""
        if len(row.ways) >= MOST_WAYS:
            raise refused(f"{MOST_WAYS} ways lie beside as it is; take one off the desk first.", "title")
        made = ProposedWay(id=at.new_id("way"), title=self.title, acts=self.acts)
        return row.model_copy(update={"ways": (*row.ways, made)})


@dataclass(frozen=True)
class DropWay(WaysCommand):
    """Take a way off the desk."""

    way: str

    def told(self, refit: Refit) -> str:
        """Which."""
        way = ways_of(refit, self.ways).way(self.way)
        return f"took “{way.title if way is not None else 'a way'}” off the desk"

    def becomes(self, row: Ways, at: Situation) -> Ways:
        """Without it."""
        self._way(row, self.way)
        return row.model_copy(update={"ways": tuple(one for one in row.ways if one.id != self.way)})


@dataclass(frozen=True)
class NameWays(WaysCommand):
    """Give a choice, or one of its ways, another name. way: "": the choice itself."""

    title: str
    way: str = ""

    def told(self, refit: Refit) -> str:
        """What."""
        return f"named a {'way' if self.way else 'choice'} “{self.title}”"

    def becomes(self, row: Ways, at: Situation) -> Ways:
        """So called."""
        if not self.way:
            return row.model_copy(update={"title": self.title})
        return self._with(row, self._way(row, self.way).model_copy(update={"title": self.title}))


@dataclass(frozen=True)
class AddAct(WaysCommand):
    """One act more in a way."""

    way: str
    act: Act

    def told(self, refit: Refit) -> str:
        """Where."""
        way = ways_of(refit, self.ways).way(self.way)
        return f"put “{self.act.do.value}” into “{way.title if way is not None else 'a way'}”"

    def becomes(self, row: Ways, at: Situation) -> Ways:
        """At its end."""
        way = self._way(row, self.way)
        if len(way.acts) >= MOST_ACTS:
            raise refused(f"A way has at most {MOST_ACTS} acts.", "do")
        return self._with(row, way.model_copy(update={"acts": (*way.acts, self.act)}))


@dataclass(frozen=True)
class DropAct(WaysCommand):
    """One act less in a way. at: which, from 0; seen: what stood there for whoever drops it."""

    way: str
    at: int
    seen_act: Act | None = None

    def told(self, refit: Refit) -> str:
        """Where."""
        way = ways_of(refit, self.ways).way(self.way)
        return f"took an act out of “{way.title if way is not None else 'a way'}”"

    def becomes(self, row: Ways, at: Situation) -> Ways:
        """Without it."""
        way = self._way(row, self.way)
        if not 0 <= self.at < len(way.acts):
            raise refused("This act is gone; somebody took it out meanwhile.")
        acts = tuple(one for n, one in enumerate(way.acts) if n != self.at)
        return self._with(row, way.model_copy(update={"acts": acts}))


@dataclass(frozen=True)
class TakeWay(RefitCommand):
    """Take a way with its reason: all its acts become real in one change, the others stand as what was not chosen.

    figures: as they were told to whoever takes it; plan: the one those of this way were told by. needs_right: what its acts need.
    """

    ways: str
    way: str
    reason: str
    figures: Laid | None = None
    plan: Plan | None = None
    needs_right: Right = Right.WORK

    @property
    def right(self) -> Right:
        """The most that one of its acts needs."""
        return self.needs_right

    def edit(self, refit: Refit, at: Situation) -> EditOutcome:
        """Done, with the decision. Raises RefitFaults without a reason, and for what can't be done any more."""
        row = ways_of(refit, self.ways)
        if row.taken:
            raise refused("This was decided already; what came of it stands under Decisions.")
        if not self.reason.strip():
            raise refused("Say in a few words why this one; it is kept with the decision.", "reason")
        way = row.way(self.way)
        if way is None:
            raise refused("This way is gone; somebody took it off the desk meanwhile.")
        if right_for(way.acts) is not self.needs_right:
            raise refused("This way was changed meanwhile; look at it again.")
        ran = run(refit, way.acts, replace(at, new_id=numbered(way_mark(row.id, way.id))), self.reason)
        decision = Decision(
            id=at.new_id("decision"),
            title=row.title,
            alternatives=tuple(
                alternative(one, self.figures) for one in (ProposedWay(id=AS_IT_IS, title="As it is"), *row.ways)
            ),
            adopted=way.title,
            reason=self.reason,
            job=row.about.removeprefix("job:") if _is_job(ran.refit, row.about) else None,
            at=at.moment,
        )
        after = put(ran.refit, row.model_copy(update={"taken": way.id}))
        told = f"decided “{row.title}”: {way.title} ({self.reason})"
        return EditOutcome(Edited(after, (decision,)), told[:300], row.id, plan=self.plan)


def _is_job(refit: Refit, about: str) -> bool:
    return about.startswith("job:") and any(job.id == about.removeprefix("job:") for job in refit.jobs)


def alternative(way: ProposedWay, figures: Laid | None) -> Alternative:
    """A way as a decision keeps it, with the figures it had."""
    told: WayTold | None = figures.of(way.id) if figures is not None else None
    if told is None or told.odds is None:
        return Alternative(title=way.title)
    hours = sum(row.hours for row in told.hours)
    dearer = 0 if told.dearer is None else round(told.dearer.mean)
    return Alternative(title=way.title, hours=hours, money=dearer, holds=told.odds >= 0.5, odds=round(told.odds, 4))


@dataclass(frozen=True)
class WishLaid(DirectCommand):
    """Have a choice laid out as the refit stands now."""

    needs = Right.LOOK
    ways: str

    def run(self, scene: Scene, pk: int) -> None:
        """Handed to the worker."""
        queue.wish_to_lay(scene.session, pk, self.ways)


@dataclass(frozen=True)
class KeepLaid(DirectCommand):
    """Keep what was found of a choice, as the refit stood after a change."""

    ways: str
    found: Laid
    change: int
    plans: Mapping[str, Plan] = field(default_factory=dict)

    def run(self, scene: Scene, pk: int) -> bool:
        """Whether it was kept; not when the refit has changed since, or is gone."""
        if not refits.locked_as_of(scene.session, pk, self.change):
            return False
        laid.keep(scene.session, pk, self.ways, self.change, self.found, self.plans, scene.clock)
        return True


@dataclass(frozen=True)
class AskDate(DirectCommand):
    """Have it looked for what makes the date."""

    asked: Asked

    def run(self, scene: Scene, pk: int) -> None:
        """The search that there was gives way."""
        refits.lock(scene.session, pk)
        change = refits.load(scene.session, pk).change
        laid.ask_date(scene.session, pk, change, self.asked, scene.clock)
        queue.wish_to_make_date(scene.session, pk)


@dataclass(frozen=True)
class StopDate(DirectCommand):
    """Stop it; the best is kept."""

    def run(self, scene: Scene, pk: int) -> None:
        """It ends in a moment."""
        laid.stop_date(scene.session, pk)


@dataclass(frozen=True)
class NoteDate(DirectCommand):
    """How far the search for what makes the date is."""

    asked_at: datetime
    found: DateTold | None
    over: bool = False

    def run(self, scene: Scene, pk: int) -> bool:
        """Whether it is to go on."""
        return laid.note_date(scene.session, pk, self.asked_at, scene.clock, self.found, over=self.over)
