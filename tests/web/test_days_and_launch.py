"""Days, stays, trades' links, looks at work, the gate, and the end of a refit, by the forms a sailor fills in."""

from __future__ import annotations

import re
from datetime import UTC, date, datetime, timedelta
from typing import Any

import icalendar
import pytest
from sqlalchemy import text

from rovask.core.gate.gate import gate_of
from rovask.core.refit.days.choices import Said
from rovask.core.refit.launch.choices import Stage
from rovask.core.refit.model import Baseline, Refit
from rovask.core.refit.work import edits as work_edits
from rovask.settings import Settings
from rovask.store.database import transaction
from tests.acts import aside_of, kept_of, log_of, planned, undone
from tests.builders import link, person, refit, task
from tests.conftest import Sailor, kept_for_both
from tests.web.pages import Elements

TODAY = date(2026, 5, 12)


def of(settings: Settings, pk: int) -> Refit:
    return kept_of(settings, pk).refit


def faults(answer: Any) -> str:
    return " ".join(Elements(answer.text).texts("p", class_="fault"))


@pytest.fixture
def pk(settings: Settings) -> int:
    """A refit hauled a week ago: Ann, Bo, a trade; a valve job, a trade's laminate and the panel that closes it in."""
    assert settings.now is not None
    made = refit(
        jobs=[
            {"id": "valve", "title": "Valve", "tasks": [task("out", 2, opens=["valve"]), task("in", 2, parts=["bolt"])]},
            {
                "id": "keel",
                "title": "Keel",
                "tasks": [task("bond", 4, skill="laminating", opens=["keel joint"]), task("panel", 2)],
            },
        ],
        links=[link("out", "in"), link("bond", "panel")],
        people=[person("ann"), person("bo"), person("rig", role="trade", skills=["laminating"], rate=5000)],
        parts=[{"id": "bolt", "name": "Bolt", "status": "checked", "quantity": 4}],
        off_boat=[{"id": "hose", "what": "Hose", "off_task": "out", "back_task": "in"}],
        inspections=[{"id": "wet", "title": "Moisture", "unit": "%", "good_to": 15, "bad_from": 25}],
        haul_at=(settings.now - timedelta(days=7)).replace(hour=7),
        launch_at=(settings.now + timedelta(days=9)).replace(hour=9),
        yard={"name": "Slip", "time_zone": "Europe/Lisbon", "slings_night": 14000, "lift_hours": 0, "block_hours": 0},
        agreements=[
            {
                "id": "deal", "title": "Joint", "party": "Rig", "person": "rig", "job": "keel", "currency": "EUR", "rate": "1",
                "price": 100000, "hold_back": 10, "at": settings.now.isoformat(),
            }
        ],
    )  # fmt: skip
    return kept_for_both(settings, made)


# The day


def test_a_day_is_closed_in_one_form_and_set_right_later(sailor: Sailor, settings: Settings, pk: int) -> None:
    page = Elements(sailor.get(f"/r/{pk}/day/{TODAY}").text)
    rows = {
        page.value(f"task-{at}"): at
        for at in range(4)
        if f'name="task-{at}"' in sailor.get(f"/r/{pk}/day/{TODAY}").text
    }
    out, bond = rows["out"], rows["bond"]
    form: dict[str, object] = {f"task-{at}": key for key, at in rows.items()}
    form |= {
        f"way-{out}": "done", f"h-{out}-ann": "3", f"way-{bond}": "worked", f"h-{bond}-rig": "",
        "here": "ann", "weather": "Dry until noon", "words": "The valve came off in one piece.",
        "off": "hose", "lies-hose": "Shed", "bag-hose": "7", "new-off-0": "Plug", "new-lies-0": "Tin",
        "lost-0": "2", "reason-0": "rain", "lost-job-0": "keel", "found": "Crack at the flange", "found_place": "hull",
        "found_severity": "bad",
    }  # fmt: skip
    wrong = sailor.post(f"/r/{pk}/day/{TODAY}", form | {f"h-{out}-ann": "many", "lost-0": "2", "reason-0": "x"})
    assert wrong.status_code == 422
    assert "“many”" in faults(wrong)
    kept_typed = Elements(wrong.text)
    assert (kept_typed.value("words"), kept_typed.value("new-off-0")) == ("The valve came off in one piece.", "Plug")
    assert of(settings, pk).days == ()  # all of it or nothing
    lost = sailor.post(f"/r/{pk}/day/{TODAY}", form | {"reason-0": ""})
    assert "Say to what these hours were lost" in faults(lost)
    assert sailor.post(f"/r/{pk}/day/{TODAY}", form).status_code == 303
    made = of(settings, pk)
    assert made.tasks["out"].done_at is not None
    assert made.tasks["out"].crew == ("ann",)
    hours = {(row.task, row.person): row.hours for row in made.hours_log}
    planned_hours = next(row for row in planned(settings, pk)[1].plan.assignments if row.task == "bond")
    assert hours["out", "ann"] == 3
    assert hours["bond", "rig"] > 0  # left empty: as planned
    assert planned_hours.people == ("rig",)
    things = {one.what: one for one in made.off_boat}
    assert (things["Hose"].lies_at, things["Hose"].bag) == ("Shed", "7")
    assert things["Plug"].off_at is not None
    assert [(one.reason.value, one.hours, one.job) for one in made.lost] == [("rain", 2, "keel")]
    assert made.findings[0].title == "Crack at the flange"
    (day,) = made.days
    assert (day.on, day.weather, day.here) == (TODAY, "Dry until noon", ("ann",))
    assert log_of(settings, pk)[0].what == "wrote down Tue 12 May: 1 task done, 2 h lost"

    again = {f"task-{at}": key for key, at in rows.items()} | {f"h-{out}-ann": "2.5", "words": "In one piece, nearly."}
    assert sailor.post(f"/r/{pk}/day/{TODAY}", again).status_code == 303
    made = of(settings, pk)
    assert [row.hours for row in made.hours_log if row.task == "out"] == [2.5]  # instead of three, not beside
    assert (len(made.days), made.days[0].words) == (1, "In one piece, nearly.")
    assert made.lost == ()  # the form no longer said so
    undone(settings, pk)
    assert [row.hours for row in of(settings, pk).hours_log if row.task == "out"] == [3]


def test_a_past_day_shows_what_was_planned_and_may_be_written_down_late(
    sailor: Sailor, settings: Settings, pk: int
) -> None:
    yesterday = TODAY - timedelta(days=1)
    answer = sailor.get(f"/r/{pk}/morning?day={yesterday}")
    assert answer.headers["location"] == f"/r/{pk}/day/{yesterday}"
    sailor.post(f"/r/{pk}/day/{yesterday}", {"words": "Nobody came."})
    assert of(settings, pk).days[0].on == yesterday
    sailor.get(f"/r/{pk}/morning")  # the plan of a morning is kept: two days later it stands beside what was done
    settings.now = settings.clock() + timedelta(days=2)
    page = Elements(sailor.get(f"/r/{pk}/day/{TODAY}").text)
    assert any("Planned:" in line and "not worked at" in line for line in page.texts("p", class_="text-sm"))
    ahead = sailor.post(f"/r/{pk}/day/{TODAY + timedelta(days=9)}", {"words": "x"})
    assert "lies ahead" in faults(ahead)


def test_readings_of_the_day_make_a_line_and_judge_by_their_limits(sailor: Sailor, settings: Settings, pk: int) -> None:
    for value, on in (("28", "2026-05-10"), ("22", "2026-05-11"), ("14", "")):
        assert sailor.post(f"/r/{pk}/reading/wet", {"reading": value, "on": on}).status_code == 303
    row = of(settings, pk).inspections[0]
    assert [one.value for one in row.readings] == [28, 22, 14]
    assert (row.reading, row.verdict.value if row.verdict else None) == (14, "good")
    assert sailor.post(f"/r/{pk}/reading/wet", {"reading": "damp"}).status_code == 422


# Stays and trades


def test_somebody_slips_in_one_act_and_the_calls_are_named(sailor: Sailor, settings: Settings, pk: int) -> None:
    assert sailor.post(f"/r/{pk}/visit/save", {"title": "Rig's call", "person": "rig", "first": "13.5.2026", "last": "14.5.2026", "guests": "0"}).status_code == 303  # fmt: skip
    wrong = sailor.post(f"/r/{pk}/slip/rig", {"back": "1.5.2026"})
    assert "Give a day after 12 May" in faults(wrong)
    assert (
        sailor.post(f"/r/{pk}/slip/rig", {"back": "18.5.2026", "reason": "other boat"})
        .headers["location"]
        .endswith("/slip/rig")
    )
    (stay,) = of(settings, pk).visits
    assert (stay.first, stay.last, stay.was) == (date(2026, 5, 18), date(2026, 5, 19), date(2026, 5, 13))
    told = Elements(sailor.get(f"/r/{pk}/slip/rig").text)
    assert any(row.startswith("Rig: “Task bond” is now") for row in told.texts("p", class_="rule"))
    view = sailor.get(f"/r/{pk}/visits/{stay.id}").text
    assert "Only with Rig" in view
    assert "was to begin" in view


def link_of(answer: Any) -> str:
    found = re.search(r"/(?:t|feed)/[\w.-]+", "".join(Elements(answer.text).texts("p", id="address")))
    assert found is not None
    return found[0]


def test_a_trades_link_shows_its_work_and_nothing_else_and_ends(sailor: Sailor, settings: Settings, pk: int) -> None:
    shared = link_of(sailor.post(f"/r/{pk}/links/trade", {"person": "rig", "agreement": "yes"}))
    bare = link_of(sailor.post(f"/r/{pk}/links/trade", {"person": "rig", "days": "3"}))
    client = sailor.client
    client.cookies.clear()
    page = client.get(bare)
    assert page.status_code == 200
    assert page.headers["cache-control"] == "no-store"
    assert "Task bond" in page.text
    for other in ("Task out", "Task in", "Task panel", "EUR", "Morning", "Purse", "Bo"):
        assert not re.search(rf"\b{other}\b", " ".join(Elements(page.text).texts("main"))), other
    assert "1\u202f000 EUR" in client.get(shared).text  # its own agreement, where that is shared
    for path in (f"/r/{pk}/morning", f"/r/{pk}/export", f"/r/{pk}/purse", f"/r/{pk}/links"):
        assert client.get(path).headers["location"].startswith("/sign-in")
    assert client.get(bare + "x").status_code == 404
    assert client.get(bare.replace("/t/", "/feed/") + ".ics").status_code == 404  # a page's address is no calendar's
    assert client.get(f"{bare}/photo/none.jpg").status_code == 404

    def say(**form: str) -> Any:
        return client.post(f"{bare}/say", data=form)

    assert say(said="late", day="1.5.2026").status_code == 422
    assert say(said="late", day="").status_code == 422
    assert "“soon”" in faults(say(said="late", day="soon"))
    assert say(said="done", task="out").status_code == 422  # not its own
    assert say(said="dance").status_code == 422
    assert (
        client.post(f"{bare}/say", data={"said": "coming"}, headers={"origin": "https://evil.example"}).status_code
        == 403
    )
    assert of(settings, pk).words == ()
    assert say(said="coming").headers["location"] == f"{bare}?told=coming"
    assert say(said="late", day="20.5.2026", note="other boat").status_code == 303
    assert say(said="found", task="bond", note="void behind it").status_code == 303
    assert say(said="done", task="bond").status_code == 303
    made = of(settings, pk)
    assert [one.said for one in made.words] == [Said.COMING, Said.LATE, Said.FOUND, Said.DONE]
    assert made.tasks["bond"].done_at is not None
    assert made.tasks["bond"].crew == ("rig",)
    assert (made.findings[0].title, made.findings[0].jobs) == ("void behind it", ("keel",))
    morning = Elements(sailor.get(f"/r/{pk}/morning").text)
    assert "Trades say" in morning.texts("h2")
    late = made.words[1].id
    assert (
        sailor.post(f"/r/{pk}/slip/rig", {"back": "20.5.2026", "reason": "other boat", "word": late}).status_code == 303
    )
    assert of(settings, pk).words[1].answered
    newest = Elements(sailor.get(f"/r/{pk}/links").text).value("secret")
    sailor.post(f"/r/{pk}/links/withdraw", {"secret": newest})  # the bare one
    client.cookies.clear()
    assert client.get(bare).status_code == 404
    assert say(said="coming").status_code == 404
    assert client.get(shared).status_code == 200
    settings.now = settings.clock() + timedelta(days=61)
    assert client.get(shared).status_code == 404  # it ran out by itself
    kept = of(settings, pk)
    assert len(kept.words) == 4


def test_a_feed_follows_the_plan_until_it_is_withdrawn(sailor: Sailor, settings: Settings, pk: int) -> None:
    feed = link_of(sailor.post(f"/r/{pk}/links/calendar", {"person": "rig"}))
    client = sailor.client
    answer = client.get(feed)
    assert answer.headers["content-type"].startswith("text/calendar")

    def begins() -> dict[str, Any]:
        rows = icalendar.Calendar.from_ical(client.get(feed).content).walk("VEVENT")
        return {str(one["uid"]): one.decoded("dtstart") for one in rows}

    first = begins()
    assert any("task-bond" in uid for uid in first)
    assert not any("task-out" in uid for uid in first)
    sailor.post(f"/r/{pk}/slip/rig", {"back": "18.5.2026"})
    assert min(at for uid, at in begins().items() if "task-bond" in uid).date() == date(2026, 5, 18)
    file = sailor.get(f"/r/{pk}/calendar/all.ics")
    assert "attachment" in file.headers["content-disposition"]
    other = kept_for_both(settings, refit(task("x"), haul_at=settings.now, launch_at="2026-06-20T09:00:00Z"))
    number = Elements(sailor.get(f"/r/{pk}/links").text).value("secret")
    assert sailor.post(f"/r/{other}/links/withdraw", {"secret": number}).status_code == 404  # not another refit's
    assert client.get(feed).status_code == 200
    assert sailor.post(f"/r/{pk}/links/withdraw", {"secret": number}).status_code == 303
    assert client.get(feed).status_code == 404
    parcels = link_of(sailor.post(f"/r/{pk}/links/calendar", {"person": ".deliveries"}))
    assert b"task-" not in client.get(parcels).content
    assert sailor.get(f"/r/{pk}/calendar/deliveries.ics").status_code == 200
    assert sailor.post(f"/r/{pk}/links/calendar", {"person": "nobody"}).status_code == 422
    assert sailor.get(f"/r/{pk}/calendar/nobody.ics").status_code == 404
    with transaction(settings.database_url) as session:  # and the token itself is kept nowhere
        rows = session.execute(text("select token_hash, hint from secret where refit_id = :pk"), {"pk": pk}).all()
    token = feed.removeprefix("/feed/").removesuffix(".ics")
    assert all(token.encode() not in bytes(row.token_hash) and len(row.hint) == 5 for row in rows)


# Accepted, or not


def test_work_that_does_not_pass_keeps_the_money_back_and_what_covers_it_waiting(
    sailor: Sailor, settings: Settings, pk: int
) -> None:
    sailor.post(f"/r/{pk}/task/bond/done", {"crew": "rig"})
    page = Elements(sailor.get(f"/r/{pk}/accept/bond").text)
    titles = [page.value(f"title-{at}") for at in range(2)]
    assert titles[0] == "No daylight, no bubbles, the finish as agreed"
    form = {"title-0": titles[0], "title-1": titles[1], "way-0": "no", "seen-0": "light comes through", "person": "ann"}
    refused = sailor.post(f"/r/{pk}/accept/bond", form)
    assert "Say who puts it right" in faults(refused)
    assert Elements(refused.text).value("seen-0") == "light comes through"
    assert (
        sailor.post(f"/r/{pk}/accept/bond", form | {"who-0": "rig", "hours-0": "3", "until-0": "18.5.2026"}).status_code
        == 303
    )
    made = of(settings, pk)
    snag = next(one for one in made.tasks.values() if one.title.startswith("Put right"))
    assert (snag.people, snag.work.likely) == (("rig",), 3)
    assert made.checks[0].until == date(2026, 5, 18)
    begun = sailor.post(f"/r/{pk}/task/panel/begin", {"crew": "ann"})
    assert begun.status_code == 409
    assert "did not pass, and this would cover it" in begun.text
    paid = sailor.post(f"/r/{pk}/agreement/deal/accept", {"way": "yes"})
    assert paid.status_code == 409
    assert "light comes through" not in paid.text  # what is asked is whether, not the whole story
    assert of(settings, pk).agreements[0].accepted_at is None
    sailor.post(f"/r/{pk}/task/{snag.id}/done", {"crew": "rig", "anyway": "1"})
    sailor.post(f"/r/{pk}/accept/bond", {"title-0": titles[0], "title-1": titles[1], "all": "yes", "person": "ann"})
    assert sailor.post(f"/r/{pk}/agreement/deal/accept", {"way": "yes"}).status_code == 303
    assert of(settings, pk).agreements[0].accepted_at is not None
    assert log_of(settings, pk)[1].what == "accepted “Task bond”"


# The gate


def tick_all(sailor: Sailor, settings: Settings, pk: int, stage: Stage) -> None:
    gate = gate_of(of(settings, pk), settings.clock())
    items = [item.key for item in gate.stages[stage].items if not item.passed]
    assert items, stage
    answer = sailor.post(f"/r/{pk}/launch/tick", {"item": items, "person": "ann"})  # type: ignore[dict-item]
    assert answer.status_code == 303


def test_a_launch_with_a_leak_another_night_and_an_account_at_the_end(
    sailor: Sailor, settings: Settings, pk: int
) -> None:
    assert "Not ready" in Elements(sailor.get(f"/r/{pk}/launch").text).texts("h1")
    early = sailor.post(f"/r/{pk}/launch/let-go", {"person": "ann"})
    assert early.status_code == 422
    assert "She is held" in early.text
    sailor.post(f"/r/{pk}/found", {"title": "Drain moves", "severity": "dangerous"})
    danger = of(settings, pk).findings[0].id
    keys = {one.record: one.key for one in gate_of(of(settings, pk), settings.clock()).blocks}
    never = sailor.post(f"/r/{pk}/launch/overrule", {"item": keys[danger], "person": "ann", "reason": "late"})
    assert "What is dangerous is never overruled" in never.text
    undone = next(key for key in keys.values() if key.startswith("work:"))
    nameless = sailor.post(f"/r/{pk}/launch/overrule", {"item": undone, "person": "ann", "reason": "late"})
    assert "doesn&#39;t know which of the people you are" in nameless.text  # a name that is typed overrules nothing
    stands_for = {"account": str(sailor.account), "role": "skipper", "person": "ann"}
    assert sailor.post(f"/r/{pk}/people/role", stands_for).status_code == 303
    sailor.post(f"/r/{pk}/launch/overrule", {"item": undone, "person": "bo", "reason": "late"})
    assert [(one.person, one.overruled) for one in of(settings, pk).gate_ticks] == [("ann", True)]
    sailor.post(f"/r/{pk}/undo")
    sailor.post(f"/r/{pk}/finding/{danger}/settle", {"way": "settled"})
    for key, crew in (("out", "ann"), ("in", "ann"), ("bond", "rig"), ("panel", "ann")):
        sailor.post(f"/r/{pk}/task/{key}/done", {"crew": crew, "anyway": "1", "reason": "so"})
    for key in ("in", "bond", "panel"):
        page = sailor.get(f"/r/{pk}/accept/{key}").text
        titles = {f"title-{at}": Elements(page).value(f"title-{at}") for at in range(6) if f'name="title-{at}"' in page}
        assert titles, key
        sailor.post(f"/r/{pk}/accept/{key}", titles | {"all": "yes", "person": "bo"})
    assert [one.words for one in gate_of(of(settings, pk), settings.clock()).blocks] == []
    settings.now = of(settings, pk).launch_at - timedelta(hours=1)
    tick_all(sailor, settings, pk, Stage.BEFORE)
    assert "Ready for the slings" in Elements(sailor.get(f"/r/{pk}/launch").text).texts("h1")
    tick_all(sailor, settings, pk, Stage.SLINGS)
    leak = "valve:valve:in the slings"
    sailor.post(f"/r/{pk}/launch/tick", {"item": leak, "way": "no", "person": "bo", "seen": "weeps"})
    held = sailor.post(f"/r/{pk}/launch/let-go", {"person": "ann"})
    assert "Two people say different things of it: Valve: Valve: weeps" in held.text
    before, forecast = of(settings, pk), planned(settings, pk)[1]
    wrong = sailor.post(f"/r/{pk}/night", {"slot": "2026-05-01T10:00", "why": "weeps", "item": leak})
    assert "must lie ahead" in faults(wrong)
    assert "Say why" in faults(sailor.post(f"/r/{pk}/night", {"slot": "2026-05-22T11:00", "why": ""}))
    hung = {"slot": "2026-05-22T11:00", "why": "valve weeps", "item": leak, "stays": "bo", "hours": "1"}
    assert sailor.post(f"/r/{pk}/night", hung).headers["location"].endswith("/night/told")
    made = of(settings, pk)
    assert (made.launch_at - before.launch_at) == timedelta(days=1, hours=1)
    assert forecast.plan.launch == before.launch_at
    again = next(one for one in made.tasks.values() if one.title.startswith("Put right in the slings"))
    assert (made.job_of[again.id].id, again.state.value) == ("valve", "slings")
    assert [one.price for one in made.yard_extras] == [14000]
    told = " ".join(Elements(sailor.get(f"/r/{pk}/night/told").text).texts("p"))
    assert "140 EUR" in told
    assert "Bo stays aboard" in told
    settings.now = made.launch_at - timedelta(hours=1)
    assert planned(settings, pk)[1].plan.by_task()[again.id].end <= made.launch_at
    sailor.post(f"/r/{pk}/task/{again.id}/done", {"crew": "ann", "anyway": "1"})
    page = Elements(sailor.get(f"/r/{pk}/accept/{again.id}").text)
    sailor.post(f"/r/{pk}/accept/{again.id}", {"title-0": page.value("title-0"), "all": "yes", "person": "bo"})
    assert (
        gate_of(of(settings, pk), settings.clock()).stages[Stage.SLINGS].items[0].again
    )  # the valve was worked at since
    settings.now = settings.clock() + timedelta(minutes=30)
    for stage in (Stage.BEFORE, Stage.SLINGS):
        tick_all(sailor, settings, pk, stage)
    gone = sailor.post(f"/r/{pk}/launch/let-go", {"person": "ann", "next": f"/r/{pk}/launch/minutes"})
    assert gone.headers["location"] == f"/r/{pk}/launch/minutes"
    floated = settings.clock()
    assert of(settings, pk).launch_at == floated - (floated - floated.replace(minute=0)) % timedelta(minutes=30)
    for stage, wait in ((Stage.MINUTES, 0), (Stage.HOUR, 1), (Stage.DAY, 24), (Stage.WEEK, 24 * 7)):
        settings.now = floated + timedelta(hours=wait, minutes=10)
        looks = Elements(sailor.get(f"/r/{pk}/morning").text).texts("h2")
        assert "Look at, afloat" in looks, stage
        tick_all(sailor, settings, pk, stage)
    sailor.post(f"/r/{pk}/close", {"surprised": "The valve, twice.", "way": "close"})
    closed = of(settings, pk)
    assert closed.closed_at is not None
    refused = sailor.post(f"/r/{pk}/found", {"title": "x", "severity": "bad"})
    assert refused.status_code == 403
    assert "read-only" in refused.text
    assert sailor.post(f"/r/{pk}/undo").status_code == 403
    assert sailor.post(f"/r/{pk}/close", {"surprised": "The valve, three times.", "way": "note"}).status_code == 303
    text_ = sailor.get(f"/r/{pk}/account").text
    assert "The valve, three times." in text_
    assert "1 d 30 min later" in text_  # 10:00 was the slot, 11:00 a day later the next one, and she went at 10:30
    bad = sailor.post(
        f"/r/{pk}/next", {"haul_at": "2027-05-03T10:00", "launch_at": "2027-05-01T10:00", "budget": "5000"}
    )
    assert bad.status_code == 422
    mine = sailor.get(f"/r/{pk}/recipes/winches.toml").text.replace('id = "winches"', 'id = "my-winches"')
    mine = mine.replace("Winches serviced", "Winches my way")
    sailor.post(f"/r/{pk}/recipes/bring-in", files={"file": ("mine.toml", mine.encode())})
    made_next = sailor.post(
        f"/r/{pk}/next", {"haul_at": "2027-05-03T10:00", "launch_at": "2027-05-31T10:00", "budget": "5000"}
    )
    other = int(re.findall(r"/r/(\d+)/", made_next.headers["location"])[0])
    fresh = of(settings, other)
    assert (fresh.budget, len(fresh.people), fresh.jobs, fresh.entries) == (500000, 3, (), ())
    assert fresh.boat == closed.boat
    assert "Winches my way" in sailor.get(f"/r/{other}/recipes").text  # own recipes come along
    assert sailor.post(f"/r/{pk}/close", {"way": "open"}).status_code == 303
    assert of(settings, pk).closed_at is None


def test_a_tick_sent_twice_is_kept_once_and_one_from_before_keeps_its_time(
    sailor: Sailor, settings: Settings, pk: int
) -> None:
    form = {"item": "always:keys", "person": "ann", "mark": "a1b2c3", "ticked_at": "2026-05-12T08:15:00Z"}
    for _ in range(2):
        assert sailor.post(f"/r/{pk}/launch/tick", form).status_code == 303
    (tick,) = of(settings, pk).gate_ticks
    assert tick.at.isoformat() == "2026-05-12T08:15:00+00:00"
    ahead = sailor.post(f"/r/{pk}/launch/tick", form | {"mark": "d4", "ticked_at": "2030-01-01T00:00:00Z"})
    assert ahead.status_code == 303
    assert of(settings, pk).gate_ticks[1].at == settings.clock()  # a phone whose clock is ahead means now
    for _ in range(2):
        done = {"crew": "ann", "mark": "e5", "ticked_at": "2026-05-12T08:40:00Z"}
        assert sailor.post(f"/r/{pk}/task/out/done", done).status_code == 303
    out = of(settings, pk).tasks["out"]
    assert (out.begun_at, out.done_at) == (  # nobody said when it was begun: its two hours before
        datetime(2026, 5, 12, 6, 40, tzinfo=UTC),
        datetime(2026, 5, 12, 8, 40, tzinfo=UTC),
    )
    many = work_edits.update_task(of(settings, pk), "in", units=3)
    other = kept_for_both(settings, many)
    for _ in range(2):  # its answer was lost: sent again it is no second one
        done = {"crew": "ann", "mark": "c0ffee", "ticked_at": "2026-05-12T08:40:00Z", "anyway": "1"}
        assert sailor.post(f"/r/{other}/task/in/unit", done).status_code == 303
    assert of(settings, other).tasks["in"].units_done == 1
    sailor.post(f"/r/{other}/task/in/unit", done | {"mark": "c0ffef"})
    assert of(settings, other).tasks["in"].units_done == 2
    sailor.post(f"/r/{pk}/task/bond/begin", {"crew": "rig", "when": "11.5.2026 09:00"})
    sailor.post(f"/r/{pk}/task/bond/done", {"mark": "f6", "ticked_at": "2026-05-12T08:40:00Z", "anyway": "1"})
    bond = of(settings, pk).tasks["bond"]
    assert bond.begun_at == datetime(2026, 5, 11, 8, tzinfo=UTC)  # and what was begun stays begun when it was
    assert bond.done_at == out.done_at


# Hand-over, Log, progress


def test_since_i_was_away_tells_what_was_done_found_spent_and_what_to_do_first(
    sailor: Sailor, settings: Settings, pk: int
) -> None:
    sailor.post(f"/r/{pk}/task/out/done", {"crew": "ann", "hours": "2"})
    sailor.post(f"/r/{pk}/found", {"title": "Drain moves", "severity": "dangerous"})
    sailor.post(f"/r/{pk}/purse/entry", {"kind": "payment", "amount": "25", "title": "Tape", "party": "Shop"})
    sailor.post(f"/r/{pk}/slip/rig", {"back": "18.5.2026"})
    page = Elements(sailor.get(f"/r/{pk}/since?since=11.5.2026").text)
    whole = " ".join(page.texts("main"))
    for words in (
        "Dangerous: Drain moves",
        "Task out",
        "Ann 2",
        "25 EUR",
        "Task bond",
        "not planned" if False else "→",
    ):
        assert words in whole, words
    assert "is not a day" in sailor.get(f"/r/{pk}/since?since=yesterday").text
    later = Elements(sailor.get(f"/r/{pk}/since?since=13.5.2026").text)
    assert "Nothing was ticked." in later.texts("p")


def test_the_log_is_searched_by_person_job_place_and_kind(sailor: Sailor, settings: Settings, pk: int) -> None:
    sailor.post(f"/r/{pk}/task/out/done", {"crew": "ann", "hours": "2"})
    sailor.post(f"/r/{pk}/task/in/hours", {"person": "bo", "hours": "1", "note": "stiff thread"})
    sailor.post(f"/r/{pk}/found", {"title": "Crack", "severity": "bad", "place": "hull"})

    def lines(**asked: str) -> list[str]:
        query = "&".join(f"{name}={value}" for name, value in asked.items())
        return Elements(sailor.get(f"/r/{pk}/log?{query}").text).texts("li", class_="rule")

    assert len(lines(kind="hours")) == 2
    assert len(lines(person="bo")) == 1
    assert lines(person="bo") == lines(text="stiff+thread")
    assert all("Task" in row for row in lines(job="valve"))
    assert any("Found, bad: Crack." in row for row in lines(place="hull"))
    assert lines(text="nothing+like+it") == []


def test_a_plan_is_kept_by_itself_after_the_haul_and_progress_is_measured_by_it(
    sailor: Sailor, settings: Settings, pk: int
) -> None:
    assert aside_of(settings, pk, Baseline) == ()
    sailor.post(f"/r/{pk}/task/out/done", {"crew": "ann", "hours": "4"})
    (first,) = aside_of(settings, pk, Baseline)
    assert {row.task for row in first.tasks} == {"out", "in", "bond", "panel"}
    undone(settings, pk)
    assert len(aside_of(settings, pk, Baseline)) == 1  # nobody's act: no undo takes it away
    assert sailor.post(f"/r/{pk}/progress/keep", {"title": "Second thoughts"}).status_code == 303
    page = sailor.get(f"/r/{pk}/progress").text
    assert "Plan at the haul-out" in page
    sailor.post(f"/r/{pk}/task/out/done", {"crew": "ann", "hours": "4"})
    pace = Elements(sailor.get(f"/r/{pk}/progress").text)
    key = next(value for value in pace.attributes("input", "value") if value.startswith("ann|"))
    before = of(settings, pk).tasks["in"].work.likely
    assert sailor.post(f"/r/{pk}/progress/paces", {"pace": key}).status_code == 303
    after = of(settings, pk).tasks["in"]
    assert planned(settings, pk)[1].plan.by_task()["in"].people == ("ann",)
    # 4 h for 2: ln 2 · 1 / (1 + 0.36 / 0.2209) = 0.264, so 1.30 of the estimate, drawn in from one task; 2.6 h in half-hours
    assert (before, after.work.likely, after.paced) == (2, 2.5, 1.3)
    assert sailor.post(f"/r/{pk}/progress/paces", {}).status_code == 303
    assert of(settings, pk).tasks["in"].work.likely == before
