"""Any order of acts, undos and redos, through the pages' own forms: the invariants hold after every step.

No answer is a server error; what is remembered is what the rows say; the plan is verified; the refit goes out as a file
and comes in the same; and in the end everything can be taken back, to the refit as it was loaded.
"""

from __future__ import annotations

from datetime import timedelta
from random import Random

import pytest

from rovask.core.plan.verify.check import verify
from rovask.core.refit.model import Refit
from rovask.core.refit.records import ORDER, changes_between
from rovask.formats.refit_file import read_refit
from rovask.settings import Settings
from rovask.store.errors import NothingToUndo
from rovask.web.app import create_app
from tests.acts import kept_of, log_of, planned, rows_of, undone
from tests.builders import link, person, refit, task
from tests.conftest import Browser, Sailor, kept_for_both

STEPS = 45


def made(settings: Settings) -> Refit:
    return refit(
        *(task(f"t{at}", 2 + at % 3, place="hull" if at % 2 else "deck", units=1 + at % 2) for at in range(6)),
        links=[link("t0", "t1", 2), link("t1", "t2", 1, 30), link("t3", "t4", 0, None, "SS")],
        people=[person("ann"), person("bo", skills=["rigging"], rate=3000, call_out_hours=2)],
        places=[{"id": "hull", "name": "Hull", "capacity": 2}, {"id": "deck", "name": "Deck", "capacity": 2}],
        parts=[{"id": "core", "name": "Core", "price": 4000, "lead_days": 2}],
        findings=[{"id": "f1", "title": "Crack", "place": "hull", "at": settings.now.isoformat()}],  # type: ignore[union-attr]
        unknowns=[{"id": "u1", "title": "Rot", "chance": 0.3, "hours": 3, "task": "t1", "money": 500}],
        off_boat=[{"id": "o1", "what": "Rudder", "off_task": "t0", "back_task": "t4"}],
        parked=[{"id": "k1", "title": "Later", "place": "deck", "state": "ashore"}],
        inspections=[{"id": "i1", "title": "Seal", "place": "hull", "task": "t2", "bad_from": 2}],
        haul_at=settings.now,
        launch_at="2026-05-28T10:00:00Z",
    )


def differs(one: Refit, other: Refit) -> str:
    """What two refits differ in, record by record."""
    return "; ".join(f"{key}: {was} / {is_}" for key, (was, is_) in changes_between(one, other).items()) or "type alone"


def act(random: Random, now: Refit) -> tuple[str, dict[str, str]]:
    """One of everything a sailor can do, on something that is there (or was)."""
    one = random.choice([*now.tasks, "t0"])
    other = random.choice([*now.tasks, "t5"])
    job = random.choice([*(job.id for job in now.jobs), "job"])
    hours = random.choice(["0.5", "1", "2", "0"])
    odd = now.haul_at.astimezone(now.yard.zone) - timedelta(
        minutes=random.choice([1, 17, 83])
    )  # no half-hour's beginning
    lately = f"{odd:%Y-%m-%dT%H:%M}"
    day = random.choice(["2026-05-13T09:00", "2026-05-20T10:00", "2026-05-01T08:00"])
    acts: list[tuple[str, dict[str, str]]] = [
        (f"task/{one}/begin", random.choice([{}, {"when": lately, "anyway": "yes"}])),
        (f"task/{one}/done", random.choice([{}, {"when": lately, "hours": "0.85", "anyway": "yes"}])),
        (f"task/{one}/unit", {}),
        (f"task/{one}/reopen", {}),
        (f"task/{one}/hours", {"hours": hours, "person": "ann", "remaining": random.choice(["", "1"])}),
        (f"task/{one}/pin", {"at": day}),
        (f"task/{one}/unpin", {}),
        (f"task/{one}/split", {"hours": hours}),
        (f"task/{one}/move", {"way": random.choice(["up", "down"])}),
        (f"task/{one}/remove", {}),
        (f"job/{job}/remove", {}),
        ("job/save", {"title": "Another job", "need": random.choice(["must", "should", "could"])}),
        ("link/save", {"first": one, "then": other, "kind": "FS", "min_lag": "1"}),
        ("part/save", {"name": "Bolt", "quantity": "4", "status": "needed", "lead_days": "1", "price": "1.50"}),
        ("part/core/now", {"status": random.choice(["ordered", "aboard", "checked", "needed"])}),
        ("part/core/remove", {"take_out": random.choice(["", "yes"])}),
        ("place/deck/remove", {"take_out": random.choice(["", "yes"])}),
        (
            "person/ann/save",
            {"key": "ann", "name": "Ann", "role": "owner", "absences": "2026-05-14 to 2026-05-15 away"},
        ),
        ("header/save", {"launch_at": random.choice(["2026-05-28T10:00", "2026-06-03T10:00"]), "budget": "900"}),
        ("found", {"severity": random.choice(["watch", "bad", "dangerous"]), "place": "hull"}),
        ("finding/f1/settle", {"way": random.choice(["settle", "open"])}),
        ("finding/f1/decide", {"way": random.choice(["-interim", "-next-time"]), "interim_hours": "1"}),
        ("unknown/u1/settle", {"way": random.choice(["real", "nothing", "open"])}),
        ("look/i1", {"reading": random.choice(["1", "3"])}),
        ("off/o1/photo", {"way": random.choice(["off", "back", "on"])}),
        ("parked/k1/place", {"way": random.choice(["ashore", "next", "this"])}),
        (f"jobs/{job}/next-time", {}),
        ("recipes/several", {"pick": random.choice(["gas", "chain", "anodes"])}),
        ("weather/now", {"hours": "3", "wet": random.choice(["yes", "no"])}),
        ("currency", {"currency": random.choice(["GBP", "JPY", "EUR"]), "way": "rate", "rate": "1.25"}),
        ("undo", {}),
        ("undo", {}),
        ("redo", {}),
    ]
    where, form = random.choice(acts)
    if where == "person/ann/save":
        where, form = "person/save", form
    return where, form


@pytest.mark.parametrize("seed", range(4))
def test_any_sequence_of_acts_and_undos_keeps_the_invariants(settings: Settings, seed: int) -> None:
    random = Random(seed)
    start = made(settings)
    pk = kept_for_both(settings, start)
    kept_steps = 0
    with Browser(create_app(settings), follow_redirects=False) as client:
        sailor = Sailor(client, settings, "Mira")
        for _ in range(STEPS):
            before = kept_of(settings, pk)
            where, form = act(random, before.refit)
            if seed % 2 and random.random() < 0.15:  # any change in the log, not only the last
                where, form = "log/take-back", {"change": str(random.choice(log_of(settings, pk)).pk)}
            answer = sailor.post(f"/r/{pk}/{where}", form)
            assert answer.status_code in (303, 404, 409, 422), f"{where} {form}: {answer.status_code}"
            after, plan = planned(settings, pk)
            if answer.status_code != 303:
                assert after.revision == before.revision, where  # refused is refused: nothing of it is kept
                continue
            kept_steps += after.revision != before.revision
            rows = rows_of(settings, pk)
            assert rows.refit == after.refit, f"{where} {form} {differs(rows.refit, after.refit)}"
            assert dict(rows.revisions) == dict(after.revisions), where
            assert verify(after.refit, plan.plan) == [], where
        out = sailor.get(f"/r/{pk}/export").content
        assert read_refit(out).refit == kept_of(settings, pk).refit
        back = sailor.post("/import", files={"file": ("x.refit.json", out)})
        assert back.status_code == 303
        again = int(back.headers["location"].split("/")[2])
        assert kept_of(settings, again).refit == kept_of(settings, pk).refit
    assert kept_steps > STEPS // 4
    for _ in range(2 * STEPS):
        try:
            undone(settings, pk)
        except NothingToUndo as nothing:
            assert str(nothing) == "Nothing is left to take back."
            break
    end = rows_of(settings, pk).refit
    if seed % 2:  # an order of rows that went and came in another order can only be guessed
        assert not [key for key in changes_between(end, start) if key.kind != ORDER]
    else:
        assert end == start, differs(end, start)
