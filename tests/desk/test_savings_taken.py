"""Each way to save, taken as a sailor takes it: what changes, what is kept of why, and back again."""

from __future__ import annotations

from datetime import timedelta
from typing import Any

import pytest

from rovask.core.books.forecast import forecast
from rovask.core.books.savings import Saving, SavingKind
from rovask.core.plain.faults import RefitFaults
from rovask.core.refit.model import Decision, Refit
from rovask.core.refit.work.edits import remove_job
from rovask.desk.commands.purse import DecideSaving
from rovask.desk.door import Desk
from rovask.settings import Settings
from tests.acts import ROVASK, aside_of, changed, planned, rows_of, undone
from tests.builders import data, person, task
from tests.conftest import Sailor, kept_for_both


def made(settings: Settings) -> Refit:
    """A drain that was found bad, a should-job, and three hours of which the rigger has to do two."""
    now = settings.now
    assert now is not None
    morning = now.replace(hour=7, minute=0)
    rig = person("rig", role="trade", rate=5000, skills=["rigging"], call_out_hours=4)
    plain = data(
        haul_at=morning.isoformat(),
        launch_at=(morning + timedelta(days=12)).isoformat(),
        people=[person("ann"), rig],
        parts=[{"id": "hose", "name": "Hose", "price": 8000}, {"id": "paint", "name": "Paint", "price": 3000}],
    )
    plain["jobs"] = [
        {"id": "drain", "title": "Drain", "tasks": [task("d", 1, parts=["hose"])]},
        {"id": "trim", "title": "Trim", "need": "should", "tasks": [task("t", 1, parts=["paint"])]},
        {"id": "rig", "title": "Rig", "tasks": [task("r", 2, people=["rig"]), task("s", 1)]},
    ]
    plain["findings"] = [
        {"id": "f1", "title": "Drain weeps", "severity": "bad", "at": morning.isoformat(), "jobs": ["drain"]}
    ]
    return Refit.model_validate(plain)


@pytest.mark.parametrize(
    ("form", "money", "told"),
    [
        ({"kind": "put off", "key": "trim"}, -3000, "put off “Trim” to save 30 EUR"),
        ({"kind": "interim fix", "key": "drain", "hours": "1", "spent": "12.50"}, -6750, "made “Drain” good for now"),
    ],
)
def test_a_way_to_save_is_taken_with_its_reason_and_taken_back(
    sailor: Sailor, settings: Settings, form: dict[str, Any], money: int, told: str
) -> None:
    pk = kept_for_both(settings, made(settings))
    before, total = rows_of(settings, pk).refit, costs(settings, pk)
    refused = sailor.post(f"/r/{pk}/purse/save", form)
    assert refused.status_code == 422
    assert "Say in a few words why" in refused.text
    assert sailor.post(f"/r/{pk}/purse/save", form | {"reason": "the season is long"}).status_code == 303
    assert costs(settings, pk) - total == money
    assert told in sailor.get(f"/r/{pk}/log").text
    (parked,) = rows_of(settings, pk).refit.parked
    assert parked.note.startswith("To get then: Hose" if form["key"] == "drain" else "To get then: Paint, 1, 30 EUR.")
    (decision,) = aside_of(settings, pk, Decision)
    assert (decision.alternatives[1].money, decision.reason) == (money, "the season is long")
    again = sailor.post(f"/r/{pk}/purse/save", form | {"reason": "the season is long"})
    assert (again.status_code, "saves nothing any more" in again.text) == (422, True)
    undone(settings, pk)
    assert rows_of(settings, pk).refit == before
    assert aside_of(settings, pk, Decision) == ()


def test_an_interim_fix_that_costs_as_much_or_nonsense_is_refused(sailor: Sailor, settings: Settings) -> None:
    pk = kept_for_both(settings, made(settings))
    form = {"kind": "interim fix", "key": "drain", "reason": "quick"}
    assert "saves nothing" in sailor.post(f"/r/{pk}/purse/save", form | {"spent": "80"}).text
    assert sailor.post(f"/r/{pk}/purse/save", form | {"spent": "a lot"}).status_code == 422
    assert sailor.post(f"/r/{pk}/purse/save", form | {"hours": "-3"}).status_code == 422
    assert [job.id for job in rows_of(settings, pk).refit.jobs] == ["drain", "trim", "rig"]


def test_what_was_worked_out_of_a_job_that_somebody_removed_since_is_refused(settings: Settings) -> None:
    pk = kept_for_both(settings, made(settings))
    worked = Saving(SavingKind.OWN_HANDS, "trim", "Trim", "1 h done by yourselves", 5000, 0.2, settled=True)
    changed(settings, pk, lambda it: remove_job(it, "trim"))
    with pytest.raises(RefitFaults, match="saves nothing any more"):
        Desk(settings).act(ROVASK, pk, DecideSaving(SavingKind.OWN_HANDS, "trim", "money", worked=worked))


def costs(settings: Settings, pk: int) -> int:
    kept, plan = planned(settings, pk)
    return forecast(kept.refit, plan.plan).total.minor
