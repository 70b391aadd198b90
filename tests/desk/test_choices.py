"""The desk of choices by its commands: laid out once for everybody, worked out by the worker, taken and taken back as one."""

from __future__ import annotations

import json
from datetime import timedelta
from pathlib import Path
from typing import Any

import pytest
from sqlalchemy import text
from typer.testing import CliRunner

from rovask.core.books.forecast import forecast
from rovask.core.choice.laid import Laid, WayState
from rovask.core.choice.levers import Asked
from rovask.core.plain.faults import RefitFaults, RovaskError
from rovask.core.refit.model import Act, Decision, ProposedWay, Refit, Ways
from rovask.core.refit.ways.kinds import AS_IT_IS
from rovask.core.refit.whole import Whole
from rovask.core.refit.work.edits import begin_task, finish_task
from rovask.desk.commands.choices import AddAct, AddWay, AskDate, DropAct, LayOut, StopDate, TakeWay
from rovask.desk.door import Desk
from rovask.desk.rights import Right
from rovask.formats.refit_file import write_refit
from rovask.settings import Settings
from rovask.start.cli import app
from rovask.store import laid
from rovask.store.database import reading, transaction
from rovask.store.laid import DateThen, LaidThen
from rovask.work import choices as work
from tests.acts import ROVASK, aside_of, changed, planned, rows_of, undone
from tests.builders import data, task
from tests.conftest import kept_for_both


def made(settings: Settings) -> Refit:
    """A pump of some 25 days for must-work, in a refit of ten, and a should-job."""
    now = settings.now
    assert now is not None
    morning = now.replace(hour=7, minute=0, second=0, microsecond=0)
    plain = data(haul_at=morning.isoformat(), launch_at=(morning + timedelta(days=10, hours=2)).isoformat())
    plain["parts"] = [{"id": "pump", "name": "Pump", "price": 40_000, "lead_days": 25, "must_fit": False}]
    plain["jobs"] = [
        {"id": "fit", "title": "Fit the pump", "tasks": [task("fit", 3, parts=["pump"])]},
        {"id": "trim", "title": "Trim", "need": "should", "tasks": [task("trim", 5)]},
    ]
    return Refit.model_validate(plain)


EXPRESS = Act.model_validate({"do": "express", "of": "pump", "days": 2, "money": 6_000})
LEAVE = Act.model_validate({"do": "next time", "of": "trim"})


@pytest.fixture
def pk(settings: Settings) -> int:
    return kept_for_both(settings, made(settings))


def lay_out(settings: Settings, pk: int, **more: Any) -> str:
    ways = (
        ProposedWay(id="sooner", title="Sooner", acts=(EXPRESS,)),
        ProposedWay(id="both", title="Both", acts=(EXPRESS, LEAVE)),
    )
    return Desk(settings).act(ROVASK, pk, LayOut("Wait?", more.get("about", "part:pump"), ways)).made


def row_of(settings: Settings, pk: int, key: str) -> Ways:
    return next(one for one in rows_of(settings, pk).refit.ways if one.id == key)


def newest(settings: Settings, pk: int, key: str) -> LaidThen:
    with reading(settings.database_url) as session:
        return laid.line(session, pk, key)[0]


def take(settings: Settings, pk: int, key: str, way: str, figures: Laid | None = None, reason: str = "in time") -> Any:
    with reading(settings.database_url) as session:
        line = laid.line(session, pk, key)
        plan = laid.plan_of(session, pk, key, way, line[0].change) if line else None
    return Desk(settings).act(ROVASK, pk, TakeWay(key, way, reason, figures, plan))


def test_the_same_question_is_laid_out_once_and_both_see_it(settings: Settings, pk: int) -> None:
    first, second = lay_out(settings, pk), lay_out(settings, pk)
    assert first == second
    assert len(rows_of(settings, pk).refit.ways) == 1
    assert lay_out(settings, pk, about="") != first


def test_taken_it_is_one_change_with_what_was_told_and_one_undo_takes_all_of_it_back(
    settings: Settings, pk: int
) -> None:
    """The courier's 60.00 and the should-job left: as told, both at once; the plan is the one the figures were told by."""
    key = lay_out(settings, pk)
    assert work.lay(settings, pk, key)
    then = newest(settings, pk, key)
    told = then.laid.of("both")
    assert told is not None
    before = rows_of(settings, pk)
    total = forecast(before.refit, planned(settings, pk)[1].plan).total.minor
    assert told.planned == total + 6_000
    done = take(settings, pk, key, "both", then.laid)
    after = rows_of(settings, pk)
    assert done.change == after.change == before.change + 1
    assert [job.id for job in after.refit.jobs] == ["fit"]
    assert [one.title for one in after.refit.parked] == ["Trim"]
    assert len(after.refit.orders) == 1
    assert forecast(after.refit, planned(settings, pk)[1].plan).total.minor == told.planned
    with reading(settings.database_url) as session:
        plan = laid.plan_of(session, pk, key, "both", then.change)
    assert plan is not None
    assert planned(settings, pk)[1].plan.assignments == plan.assignments
    (decision,) = aside_of(settings, pk, Decision)
    assert (decision.adopted, decision.reason) == ("Both", "in time")
    assert [(one.title, one.money, one.odds) for one in decision.alternatives] == [
        ("As it is", 0, then.laid.ways[0].odds),
        ("Sooner", 6_000, then.laid.ways[1].odds),
        ("Both", 6_000, told.odds),
    ]
    assert row_of(settings, pk, key).taken == "both"
    undone(settings, pk)
    assert rows_of(settings, pk).refit == before.refit
    assert aside_of(settings, pk, Decision) == ()


def test_to_leave_it_as_it_is_is_decided_too_and_changes_nothing_else(settings: Settings, pk: int) -> None:
    key = lay_out(settings, pk)
    before = rows_of(settings, pk).refit
    take(settings, pk, key, AS_IT_IS, reason="it can wait")
    after = rows_of(settings, pk).refit
    assert after.ways[0].taken == AS_IT_IS
    assert after.supposed(ways=()) == before.supposed(ways=())
    with pytest.raises(RefitFaults, match="decided already"):
        take(settings, pk, key, "both")
    with pytest.raises(RefitFaults, match="decided"):
        Desk(settings).act(ROVASK, pk, AddWay(key, "One more"))


def test_without_a_reason_or_with_what_no_longer_applies_nothing_is_taken(settings: Settings, pk: int) -> None:
    key = lay_out(settings, pk)
    with pytest.raises(RefitFaults, match="why this one"):
        take(settings, pk, key, "both", reason="  ")
    now = settings.clock()
    changed(settings, pk, lambda one: finish_task(begin_task(one, "trim", now, ("ann",)), "trim", now, ("ann",)))
    with pytest.raises(RefitFaults, match="nothing to leave"):
        take(settings, pk, key, "both")
    assert not rows_of(settings, pk).refit.orders  # not half of it either
    assert work.lay(settings, pk, key)
    found = newest(settings, pk, key).laid
    assert [one.state for one in found.ways] == [WayState.WORKED, WayState.WORKED, WayState.GONE]
    assert "nothing to leave" in found.ways[2].reason


def test_the_right_it_asks_for_is_that_of_its_acts_even_when_they_changed_meanwhile(
    settings: Settings, pk: int
) -> None:
    """A slot is a skipper's: who may only work was shown a way without one, and takes no other."""
    key = lay_out(settings, pk)
    slot = Act.model_validate({"do": "slot", "at": "2026-06-20T09:00:00+00:00"})
    Desk(settings).act(ROVASK, pk, AddAct(key, "both", slot))
    assert TakeWay(key, "both", "x", needs_right=Right.WORK).right is Right.WORK
    with pytest.raises(RefitFaults, match="changed meanwhile"):
        Desk(settings).act(ROVASK, pk, TakeWay(key, "both", "in time", needs_right=Right.WORK))
    Desk(settings).act(ROVASK, pk, TakeWay(key, "both", "in time", needs_right=Right.GIVENS))
    assert rows_of(settings, pk).refit.launch_at == slot.at


def test_acts_are_put_in_and_taken_out(settings: Settings, pk: int) -> None:
    key = lay_out(settings, pk)
    desk = Desk(settings)
    desk.act(ROVASK, pk, DropAct(key, "both", 0))
    assert row_of(settings, pk, key).way("both") == ProposedWay(id="both", title="Both", acts=(LEAVE,))
    with pytest.raises(RefitFaults, match="is gone"):
        desk.act(ROVASK, pk, DropAct(key, "both", 5))
    for _ in range(3):
        desk.act(ROVASK, pk, AddWay(key, "More"))
    with pytest.raises(RefitFaults, match="5 ways lie"):
        desk.act(ROVASK, pk, AddWay(key, "More"))


def test_figures_of_before_a_change_are_kept_and_told_beside_the_new_ones(settings: Settings, pk: int) -> None:
    from zoneinfo import ZoneInfo

    from rovask.web.ways_told import was_and_is

    key = lay_out(settings, pk)
    work.lay(settings, pk, key)
    later = settings.model_copy(update={"now": settings.clock() + timedelta(days=1)})
    changed(
        later,
        pk,
        lambda one: Refit.model_validate(one.model_dump() | {"launch_at": one.launch_at + timedelta(days=40)}),
    )
    assert work.lay(later, pk, key)
    with reading(settings.database_url) as session:
        line = laid.line(session, pk, key)
    assert len(line) == 2
    words = was_and_is(line, "sooner", ZoneInfo("Europe/Lisbon"))
    assert words.startswith("+")
    assert words.endswith("now +0")
    assert was_and_is(line[:1], "sooner", ZoneInfo("Europe/Lisbon")) == ""


def test_what_is_being_laid_out_is_not_kept_of_a_refit_that_changed_meanwhile(
    settings: Settings, pk: int, monkeypatch: pytest.MonkeyPatch
) -> None:
    key = lay_out(settings, pk)
    first = work.SideBySide.first

    def changed_meanwhile(self: Any) -> Laid:
        changed(settings, pk, lambda one: Refit.model_validate(one.model_dump() | {"budget": 12_345}))
        return first(self)

    monkeypatch.setattr(work.SideBySide, "first", changed_meanwhile)
    assert not work.lay(settings, pk, key)
    with reading(settings.database_url) as session:
        assert laid.line(session, pk, key) == []


def then_of(settings: Settings, pk: int) -> DateThen:
    with reading(settings.database_url) as session:
        found = laid.date_then(session, pk, settings.clock())
    assert found is not None
    return found


def test_what_makes_the_date_is_looked_for_told_and_stopped_with_the_best_kept(settings: Settings, pk: int) -> None:
    """The only thing that helps is the courier; what is asked for 60.00 is found, and a stop keeps what there is.

    It ends by itself after some seconds; the minutes it may take are for a machine that does other things beside.
    """
    desk = Desk(settings)
    asked = Asked(odds=0.9, money=10_000, express_money=6_000, seconds=300)
    desk.run(ROVASK, AskDate(asked), pk)
    assert not then_of(settings, pk).over
    assert work.look_for_date(settings, pk).endswith("points")
    then = then_of(settings, pk)
    assert then.over
    assert then.told is not None
    assert then.told.stands
    assert then.told.told_closely
    assert then.told.best is not None
    best = then.told.points[then.told.best]
    assert (best.dearer, best.words, best.acts) == (6_000, "as good as sure", (EXPRESS,))
    assert work.look_for_date(settings, pk) == "nothing was asked"
    desk.run(ROVASK, AskDate(asked), pk)
    desk.run(ROVASK, StopDate(), pk)
    work.look_for_date(settings, pk)
    stopped = then_of(settings, pk)
    assert stopped.over
    assert stopped.told is not None
    assert not stopped.told.stands or stopped.told.tried >= 1


def test_a_search_whose_worker_was_killed_is_told_as_waiting_and_keeps_what_it_found(
    settings: Settings, pk: int
) -> None:
    desk = Desk(settings)
    desk.run(ROVASK, AskDate(Asked(express_money=6_000, seconds=120)), pk)
    work.look_for_date(settings, pk)
    with transaction(settings.database_url) as session:
        session.execute(
            text("update frontier set over = false, seen_at = seen_at - interval '5 minutes' where refit_id = :pk"),
            {"pk": pk},
        )
    then = then_of(settings, pk)
    assert then.silent
    assert then.told is not None
    assert then.told.points
    with transaction(settings.database_url) as session:  # the wish is still in the queue, for the next worker
        waits = session.scalar(
            text("select count(*) from procrastinate_jobs where task_name = 'make-date' and lock = :lock"),
            {"lock": f"date-{pk}"},
        )
    assert waits == 1


def test_the_same_without_pages(settings: Settings, tmp_path: Path) -> None:
    """One JSON object each; a way that can't be done is told with exit status 1, a file that can't be read with a sentence."""
    refit = made(settings)
    file, ways, asked = tmp_path / "r.refit.json", tmp_path / "ways.json", tmp_path / "asked.json"
    file.write_bytes(write_refit(Whole(refit)))
    rows = [{"title": "Sooner", "acts": [{"do": "express", "of": "pump", "days": 2, "money": 6_000}]}]
    ways.write_text(json.dumps(rows))
    now = settings.clock().replace(minute=0).isoformat()

    def ran(*words: str) -> tuple[int, Any, str]:
        result = CliRunner().invoke(app, [*words, "--now", now])
        told = json.loads(result.stdout) if result.stdout.startswith("{") else None
        return result.exit_code, told, str(result.exception)

    status, told, _ = ran("choose", str(file), "--ways", str(ways), "--runs", "1000", "--seconds", "0")
    assert status == 0
    assert [one["title"] for one in told["ways"]] == ["As it is", "Sooner"]
    assert told["ways"][1]["dearer"]["mean"] == 6_000
    assert told["ways"][1]["gains"]["low"] > 0.9
    ways.write_text(json.dumps([{"title": "Gone", "acts": [{"do": "next time", "of": "nothing"}]}]))
    status, told, _ = ran("choose", str(file), "--ways", str(ways), "--runs", "100", "--seconds", "0")
    assert (status, told["ways"][1]["state"]) == (1, "no longer applies")
    for wrong in (
        '[{"title": "x", "acts": [{"do": "pray"}]}]',
        '{"a": 1}',
        "[",
        '[{"title": "x", "acts": [{"do": "slot"}]}]',
    ):
        ways.write_text(wrong)
        assert isinstance(CliRunner().invoke(app, ["choose", str(file), "--ways", str(ways)]).exception, RovaskError), (
            wrong
        )
    asked.write_text(json.dumps({"express_money": 6_000, "leave": False}))
    status, told, _ = ran(
        "make-date", str(file), "--odds", "0.9", "--money", "60", "--asked", str(asked), "--seconds", "300"
    )
    assert status == 0
    assert told["points"][told["best"]]["dearer"] == 6_000
    status, told, _ = ran(
        "make-date", str(file), "--odds", "0.9", "--money", "59.99", "--asked", str(asked), "--seconds", "300"
    )
    assert (status, told["best"]) == (1, None)
