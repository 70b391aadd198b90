"""The launch gate and what leads up to it: looks at work that is done, ticks, what is overruled by name, letting her go."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date, datetime

from rovask.core.gate.gate import LET_GO, gate_of, hangs, hangs_from
from rovask.core.gate.state import Item, Why
from rovask.core.plain.faults import refused
from rovask.core.plain.words import count, day_and_time
from rovask.core.readings.acceptance import acceptances, made_by
from rovask.core.readings.closes import opened_by
from rovask.core.refit.days.edits import look_at_work
from rovask.core.refit.edits import put, rebuilt
from rovask.core.refit.launch.choices import Stage
from rovask.core.refit.launch.edits import launched
from rovask.core.refit.model import Check, GateTick, Refit
from rovask.core.refit.whole import Edited
from rovask.core.refit.work.choices import State
from rovask.desk.command import EditOutcome, RefitCommand, Situation
from rovask.desk.commands.seen import WithPicture, photo_of
from rovask.formats.photo import Picture


def _at(when: datetime | None, at: Situation) -> datetime:
    """When it was seen; now unless it is said. Raises RefitFaults for what lies ahead."""
    if when is not None and when > at.moment:
        raise refused("That lies ahead; give the time at which it was seen.", "when")
    return when or at.moment


def _somebody(refit: Refit, person: str) -> str | None:
    return person if person in refit.persons else None


@dataclass(frozen=True, slots=True)
class Look:
    """What somebody saw of one thing of a task: passed or not, and what; of what did not pass, who puts it right,
    in how many hours, until when.
    """

    title: str
    passed: bool
    seen: str = ""
    who: str = ""
    hours: float = 1
    until: date | None = None


@dataclass(frozen=True)
class LookAtWork(WithPicture):
    """Somebody looked at work that is done, thing by thing. What did not pass becomes a task of whoever puts it right.

    apart: each thing that did not pass is a task of its own; else what one puts right is one.
    """

    task: str
    looks: tuple[Look, ...]
    person: str = ""
    when: datetime | None = None
    picture: Picture | None = None
    apart: bool = False

    def edit(self, refit: Refit, at: Situation) -> EditOutcome:
        """Each look kept. Raises RefitFaults for work that isn't done and for things nobody asked to be looked at."""
        task = refit.tasks.get(self.task)
        if task is None:
            raise refused("This task is gone; somebody removed it meanwhile.")
        if not self.looks:
            raise refused("Say of at least one thing whether it is as it should be.")
        photos, photo = photo_of(self.picture, task.title, at)
        opens, moment = opened_by(refit, refit.job_of[task.id], task), _at(self.when, at)
        snags: dict[str, str] = {}
        for one in self.looks:
            check = Check(
                id=at.new_id("check"),
                task=task.id,
                title=one.title,
                at=moment,
                person=_somebody(refit, self.person),
                passed=one.passed,
                seen=one.seen,
                photos=(photo,) if photo else (),
                until=one.until,
            )
            refit = look_at_work(
                refit,
                check,
                who=_somebody(refit, one.who),
                hours=one.hours,
                snag_id=at.new_id("task"),
                link_id=at.new_id("link"),
                opens=opens,
                along="" if self.apart else snags.get(one.who, ""),
            )
            made = next((row.snag for row in refit.checks if row.id == check.id), None)
            if made is not None and not one.passed:
                snags.setdefault(one.who, made)
        bad = [one for one in self.looks if not one.passed]
        found = acceptances(refit).get(task.id)
        told = f"looked at “{task.title}”"
        if bad:
            told = f"did not accept “{task.title}”: {bad[0].title}" + (f" and {len(bad) - 1} more" if bad[1:] else "")
        elif found is not None and found.accepted:
            told = f"accepted “{task.title}”"
        return EditOutcome(Edited(refit, photos), told)


@dataclass(frozen=True)
class TickGate(WithPicture):
    """Somebody says of some items of the gate that they are as they should be, or that they aren't.

    words: what was seen.
    """

    items: tuple[str, ...]
    passed: bool = True
    person: str = ""
    words: str = ""
    when: datetime | None = None
    picture: Picture | None = None

    def edit(self, refit: Refit, at: Situation) -> EditOutcome:
        """One tick for each item. Raises RefitFaults for what isn't on the gate."""
        gate = gate_of(refit, at.moment)
        known = {item.key: item for state in gate.stages.values() for item in state.items}
        if not self.items or any(key not in known for key in self.items):
            raise refused("This is not on the gate any more; look at the page as it is now.")
        if any(known[key].stage is Stage.SLINGS for key in self.items) and not hangs(refit, gate, at.moment):
            since = day_and_time(hangs_from(refit), refit.yard.zone)
            raise refused(f"She does not hang yet: that is looked at in the slings, from {since}.")
        photos, photo = photo_of(self.picture, known[self.items[0]].title, at)
        moment = _at(self.when, at)
        ticks = tuple(
            GateTick(
                id=at.new_id("gate-tick"),
                item=key,
                at=moment,
                person=_somebody(refit, self.person),
                passed=self.passed,
                seen=self.words,
                photos=(photo,) if photo else (),
            )
            for key in self.items
        )
        title = known[ticks[0].item].title
        more = f" and {len(ticks) - 1} more" if ticks[1:] else ""
        told = f"{'saw' if self.passed else 'saw wrong'} at the gate: {title}{more}"
        after = rebuilt(refit, gate_ticks=(*refit.gate_ticks, *ticks))
        names = []
        for key in self.items if not self.passed else ():
            after, name = sent_back(after, known[key], self.words, _somebody(refit, self.person), at)
            names += [name] if name else []
        if names:
            told += f"; it goes back to {', '.join(dict.fromkeys(names))}"
        return EditOutcome(Edited(after, photos), told)


def sent_back(refit: Refit, item: Item, words: str, person: str | None, at: Situation) -> tuple[Refit, str]:
    """What is not right at the gate and was made by a trade goes back to whoever made it: a look that did not pass, so that
    what is held back stays, and a task to put it right. The refit, and who that is; "" where it is nobody's paid work.
    """
    made = made_by(refit, item)
    if made is None:
        return refit, ""
    task, title, who = made
    check = Check(
        id=at.new_id("check"), task=task.id, title=title, at=at.moment, person=person, passed=False, seen=words
    )
    state = State.SLINGS if item.stage is Stage.SLINGS else State.AFLOAT_AFTER
    after = look_at_work(
        refit,
        check,
        who=who,
        hours=1,
        snag_id=at.new_id("task"),
        link_id=at.new_id("link"),
        opens=(),
        state=state if item.stage is not Stage.BEFORE else None,
    )
    return after, refit.persons[who].name


@dataclass(frozen=True)
class OverruleGate(RefitCommand):
    """She may go all the same: by name, with a reason, for one thing; never for what is dangerous."""

    item: str
    person: str
    reason: str

    def edit(self, refit: Refit, at: Situation) -> EditOutcome:
        """Taken on. Raises RefitFaults for what is dangerous or not on the gate, without a name, without a reason."""
        gate = gate_of(refit, at.moment)
        block = next((one for one in gate.blocks if one.key == self.item), None)
        item = next((one for state in gate.stages.values() for one in state.items if one.key == self.item), None)
        if block is None and item is None:
            raise refused("This is not on the gate any more; look at the page as it is now.")
        if block is not None and block.why is Why.DANGEROUS:
            raise refused("What is dangerous is never overruled: settle it first.")
        if _somebody(refit, self.person) is None:
            raise refused(
                "Only a name overrules it, and Rovask doesn't know which of the people you are: say so under People.",
                "person",
            )
        if not self.reason:
            raise refused("Say why she may go all the same.", "reason")
        tick = GateTick(
            id=at.new_id("gate-tick"),
            item=self.item,
            at=at.moment,
            person=self.person,
            passed=False,
            overruled=True,
            seen=self.reason,
        )
        what = block.words if block is not None else item.title if item is not None else ""
        told = f"overruled at the gate: {what} ({self.reason})"
        return EditOutcome(Edited(put(refit, tick)), told)


@dataclass(frozen=True)
class LetGo(RefitCommand):
    """She floats and the straps are let go; or, taken back, she is in the slings again."""

    person: str
    gone: bool = True
    when: datetime | None = None

    def edit(self, refit: Refit, at: Situation) -> EditOutcome:
        """Kept with who gave the word. Raises RefitFaults while something holds her."""
        moment = _at(self.when, at)
        if self.gone:
            gate = gate_of(refit, at.moment)
            held = gate.held(Stage.SLINGS)
            if held:
                more = f" and {count(len(held) - 1, 'more thing', 'more things')}" if held[1:] else ""
                raise refused(f"She is held: {held[0].words}{more}. Settle it, or overrule it by name.")
            left = [
                item
                for stage in (Stage.BEFORE, Stage.SLINGS)
                for item in gate.stages[stage].items
                if not item.passed and not (item.tick is not None and item.tick.overruled)
            ]
            if left:
                raise refused(f"Nobody has looked yet: {left[0].title}, {left[0].words}. {len(left)} in all.")
        if self.gone:
            refit = launched(refit, moment)
        who = _somebody(refit, self.person)
        tick = GateTick(id=at.new_id("gate-tick"), item=LET_GO, at=moment, person=who, passed=self.gone)
        return EditOutcome(Edited(put(refit, tick)), "let her go" if self.gone else "took her back into the slings")
