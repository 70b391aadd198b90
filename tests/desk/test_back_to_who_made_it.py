"""A fitting that weeps goes back to the trade who made it; what is looked at when; one fault is one thing to put right."""

from __future__ import annotations

from datetime import timedelta
from itertools import count
from typing import Any

import pytest

from rovask.core.gate.gate import gate_of
from rovask.core.judged.leaps import Doubtful
from rovask.core.plain.faults import RefitFaults
from rovask.core.plain.half_hours import floored
from rovask.core.plan.planner import plan_and_judge
from rovask.core.readings.acceptance import acceptances
from rovask.core.refit.givens.choices import Drive
from rovask.core.refit.launch.choices import Stage
from rovask.core.refit.model import Refit
from rovask.core.refit.work.choices import State
from rovask.desk.command import ChangeCommand, RefitCommand, Situation
from rovask.desk.commands.gate import Look, LookAtWork, TickGate
from rovask.desk.commands.purse import AcceptWork
from rovask.formats.recipe_file import library
from tests.builders import HAUL, LAUNCH, person, refit, task

DONE = {"begun_at": HAUL.isoformat(), "done_at": (HAUL + timedelta(hours=3)).isoformat()}
HANGING = LAUNCH - timedelta(hours=1)


def act(made: Refit, command: RefitCommand | ChangeCommand, moment: Any) -> Refit:
    numbers = count(1)
    now = floored(moment, made.yard.zone)
    at = Situation(now, moment, plan_and_judge(made, now), library, lambda kind: f"{kind[:3]}-{next(numbers)}x")
    return command.edit(made, at).edited.refit


def made(**more: Any) -> Refit:
    """Three hoses renewed by a plumber for a price, with 120 held back; a job of our own beside it."""
    return refit(
        jobs=[
            {
                "id": "hoses",
                "title": "Hoses",
                "tasks": [task("h", 3, skill="plumbing", opens=["hose"], crew=["pip"], **DONE)],
            },
            {"id": "own", "title": "Own", "tasks": [task("o", 1, opens=["plug"], crew=["ann"], **DONE)]},
        ],
        people=[person("ann"), person("bo"), person("pip", role="trade", skills=["plumbing"], rate=4500)],
        agreements=[
            {
                "id": "a", "title": "Hoses", "party": "Pip", "person": "pip", "job": "hoses", "currency": "EUR", "rate": "1",
                "price": 98000, "hold_back_sum": 12000, "at": HAUL.isoformat(),
            }
        ],
        **more,
    )  # fmt: skip


def test_a_hose_that_weeps_in_the_slings_goes_back_to_the_plumber_and_keeps_the_hold_back() -> None:
    it = made()
    looked = LookAtWork("h", tuple(Look(one.title, True) for one in acceptances(it)["h"].wanted), "bo")
    it = act(it, looked, LAUNCH - timedelta(hours=6))
    assert acceptances(it)["h"].accepted
    act(it, AcceptWork("a"), LAUNCH - timedelta(hours=5))  # nothing speaks against it yet
    weeps = act(it, TickGate(("hose:hoses:in the slings",), passed=False, person="ann", words="weeps"), HANGING)
    found = acceptances(weeps)["h"]
    assert found.failed
    (snag,) = [one.snag for one in found.wanted if one.failed]
    assert snag is not None
    assert (snag.people, snag.state) == (("pip",), State.SLINGS)  # where she hangs, and not "ashore" any more
    with pytest.raises(Doubtful, match=r"weeps|did not pass"):
        act(weeps, AcceptWork("a"), HANGING)
    own = act(it, TickGate(("plug:own:in the slings",), passed=False, person="bo"), HANGING)
    assert len(own.tasks) == len(it.tasks)  # our own work goes back to nobody


def test_marks_for_the_slings_are_not_taken_before_she_hangs() -> None:
    it = made(yard={"slings_hours": 4})
    key = "always:hangs"
    with pytest.raises(RefitFaults, match=r"does not hang yet.*Mon 18 May 06:00"):  # four hours before 10:00
        act(it, TickGate((key,), person="ann"), LAUNCH - timedelta(hours=4, minutes=1))
    seen = act(it, TickGate((key,), person="ann"), LAUNCH - timedelta(hours=4))
    assert seen.gate_ticks[-1].item == key


@pytest.mark.parametrize(("drive", "stage"), [("shaft", Stage.SLINGS), ("outboard", Stage.MINUTES)])
def test_the_engine_is_tried_before_letting_go_where_she_can_run_in_the_slings(drive: str, stage: Stage) -> None:
    it = made()
    it = it.model_copy(update={"boat": it.boat.model_copy(update={"drive": Drive(drive)})})
    stages = [
        one for one, state in gate_of(it, HAUL).stages.items() if any(i.key == "always:start" for i in state.items)
    ]
    assert stages == [stage]


def test_one_fault_in_several_places_is_one_thing_to_put_right_unless_it_is_said_apart() -> None:
    it = made()
    titles = [one.title for one in acceptances(it)["h"].wanted][:2]
    looks = tuple(Look(title, False, "smeared", "pip", hours) for title, hours in zip(titles, (1.0, 2.0), strict=True))
    together = act(it, LookAtWork("h", looks, "ann"), HAUL + timedelta(hours=4))
    snags = {one.snag for one in together.checks}
    assert len(snags) == 1
    (snag,) = [together.tasks[key] for key in snags if key is not None]
    assert snag.work.likely == 2  # as long as the longer of the two
    assert titles[1] in snag.note
    apart = act(it, LookAtWork("h", looks, "ann", apart=True), HAUL + timedelta(hours=4))
    assert len({one.snag for one in apart.checks}) == 2
