"""The gate through the commands people act by, at odd minutes: whatever was worked on after its look is looked at again."""

from __future__ import annotations

import itertools
import random
from datetime import datetime, timedelta

import pytest

from rovask.core.gate.gate import gate_of
from rovask.core.plain.faults import RefitFaults
from rovask.core.plain.half_hours import floored
from rovask.core.plan.planner import plan_and_judge
from rovask.core.readings.acceptance import acceptances
from rovask.core.recipes.common import Library
from rovask.core.refit.launch.choices import Stage
from rovask.core.refit.model import Refit
from rovask.desk.command import RefitCommand, Situation
from rovask.desk.commands import work
from rovask.desk.commands.days import CloseDay, Worked
from rovask.desk.commands.gate import Look, LookAtWork, TickGate
from rovask.desk.commands.seen import MoveOff, SettleFinding
from rovask.formats.recipe_file import library
from tests.builders import HAUL
from tests.core.test_gate import TASKS, THINGS, begin_with

BEFORE = (Stage.BEFORE, Stage.SLINGS)


class Yard:
    """A refit that people act on, one after the other; the clock goes on by odd minutes and seconds."""

    def __init__(self, dice: random.Random) -> None:
        self.dice, self.at, self.ids = dice, HAUL + timedelta(hours=1), itertools.count()
        self.refit = Refit.model_validate(begin_with())
        self.planned = plan_and_judge(self.refit, floored(self.at, self.refit.yard.zone))

    def act(self, command: RefitCommand, on: timedelta | None = None) -> None:
        """Do it after some time; what is refused changes nothing."""
        self.at += on or timedelta(minutes=self.dice.choice((1, 7, 18, 32, 50)), seconds=self.dice.randrange(60))
        books: Library = library()
        here = Situation(
            floored(self.at, self.refit.yard.zone),
            self.at,
            self.planned,
            lambda: books,
            lambda kind: f"{kind[0]}-{next(self.ids)}",
        )
        try:
            self.refit = command.edit(self.refit, here).edited.refit
        except RefitFaults:
            return

    def keys(self) -> list[str]:
        gate = gate_of(self.refit, self.at)
        return [item.key for state in gate.stages.values() for item in state.items]

    def at_random(self) -> RefitCommand:
        """Something somebody does, in whatever order."""
        dice, task = self.dice, self.dice.choice(TASKS)
        hours = dice.choice((0.5, 1.0, 2.0))
        return dice.choice(
            (
                lambda: work.Begin(task, crew=("ann",), anyway=True),
                lambda: work.Finish(task, crew=("ann",), anyway=True),
                lambda: work.Finish(task, crew=("bo",), anyway=True, hours=hours),
                lambda: work.LogHours(task, "bo", hours),
                lambda: work.Reopen(task),
                lambda: MoveOff(thing=str(dice.choice(THINGS)["id"]), way=dice.choice(("off", "back"))),
                lambda: SettleFinding("drain", dice.random() < 0.7),
                lambda: TickGate((dice.choice(self.keys()),), person="ann", passed=dice.random() < 0.8),
                lambda: CloseDay(self.at.date(), worked=(Worked(task, (("ann", hours),), done=dice.random() < 0.5),)),
            )
        )()

    def made_ready(self) -> None:
        """All work done, all things back, everything looked at: what a tidy crew does at the end."""
        for task in TASKS:
            self.act(work.Finish(task, crew=("rig",) if task in ("out", "in") else ("ann",), anyway=True))
        for _ in range(2):
            for thing in THINGS:
                self.act(MoveOff(thing=str(thing["id"]), way="back"))
        self.act(SettleFinding("drain", True))
        for key, found in acceptances(self.refit).items():
            self.act(LookAtWork(key, tuple(Look(one.title, True) for one in found.wanted), "bo"))
        before = gate_of(self.refit, self.at).stages[Stage.BEFORE].items
        self.act(TickGate(tuple(item.key for item in before), person="bo"))
        self.act(TickGate(tuple(dict.fromkeys(self.keys())), person="bo"))  # the slings' own once all before is settled

    @property
    def ready(self) -> bool:
        gate = gate_of(self.refit, self.at)
        return all(gate.ready(stage) for stage in BEFORE)

    def check(self) -> None:
        """Nothing counts as seen that was touched after it was seen, to the second."""
        gate = gate_of(self.refit, self.at)
        items = {item.key: item for state in gate.stages.values() for item in state.items}
        for job in self.refit.jobs:
            for task in job.tasks:
                last: list[datetime] = [one for one in (task.begun_at, task.done_at) if one is not None]
                for what in task.opens if last else ():
                    for stage in BEFORE:
                        item = items.get(f"{what.value}:{job.id}:{stage.value}")
                        if item is not None and item.passed:
                            assert item.tick is not None
                            assert item.tick.at >= max(last)


@pytest.mark.parametrize("seed", range(3))
def test_what_was_worked_on_after_its_look_is_looked_at_again(seed: int) -> None:
    ready = again = 0
    for turn in range(12):
        yard = Yard(random.Random(1000 * seed + turn))
        for _ in range(yard.dice.randrange(14)):
            yard.act(yard.at_random())
            yard.check()
        yard.made_ready()
        yard.check()
        if not yard.ready:
            continue  # a tick that somebody gave as wrong, or a snag, stands in the way; the next turn
        ready += 1
        # looked at :32, worked on at :50: one minute of one task makes it not ready
        task = yard.dice.choice(["pull", "draw", "out"])
        yard.act(work.Reopen(task), timedelta(minutes=1))
        yard.act(work.Finish(task, crew=("ann",), anyway=True), timedelta(minutes=17, seconds=9))
        yard.check()
        assert not yard.ready, f"seed {seed}, turn {turn}: {task} was worked on after everything was looked at"
        again += 1
    assert ready >= 3, "the gate was hardly ever reached"
    assert again == ready
