"""How sure the launch is, as pages say it: played by the worker, kept with its change, marked when that is past."""

from __future__ import annotations

import json
import re
from datetime import UTC, datetime, timedelta
from pathlib import Path
from zoneinfo import ZoneInfo

import pytest
from sqlalchemy import text
from typer.testing import CliRunner

from rovask.core.odds.odds import odds_of
from rovask.core.odds.told import Odds, in_words
from rovask.core.plan.planner import plan_and_judge
from rovask.core.refit.model import Refit
from rovask.formats.refit_file import plan_json
from rovask.settings import Settings
from rovask.start.cli import app
from rovask.store import odds as kept_odds
from rovask.store import refits
from rovask.store.database import reading, transaction
from rovask.store.odds import OddsThen
from rovask.web.odds_drawing import dots_of, line_of
from rovask.web.odds_words import moves_by_change, odds_moves
from rovask.work.odds import play
from tests.acts import changed
from tests.builders import HAUL, link, person, task
from tests.builders import refit as built
from tests.conftest import DEMO, Sailor, kept_for_both

LISBON = ZoneInfo("Europe/Lisbon")


@pytest.fixture
def tight() -> Refit:
    """Four weeks with work for half of them, and a leak that nobody has looked for."""
    rows = [task("look", 2), task("repair", 8), task("paint", 20) | {"work": {"least": 10, "likely": 20, "most": 60}}]
    leak = {"id": "leak", "title": "The tank leaks", "chance": 0.5, "hours": 30, "lead_days": 6, "task": "look"}
    return built(
        *rows,
        links=[link("look", "repair"), link("repair", "paint")],
        unknowns=[leak],
        people=[person("ann"), person("bo")],
    )


@pytest.fixture
def tight_pk(settings: Settings, tight: Refit) -> int:
    return kept_for_both(settings, tight)


@pytest.fixture
def at_the_haul(settings: Settings) -> Settings:
    return settings.model_copy(update={"now": HAUL})


def newest(settings: Settings, pk: int) -> Odds:
    with reading(settings.database_url) as session:
        found = kept_odds.newest(session, pk)
    assert found is not None
    return found


def test_nothing_is_said_before_it_was_played_and_all_after(sailor: Sailor, settings: Settings, demo_pk: int) -> None:
    page = sailor.get(f"/r/{demo_pk}/odds")
    assert "is being played" in page.text
    assert play(settings, demo_pk)
    found = newest(settings, demo_pk)
    assert found.runs == 10_000
    page = sailor.get(f"/r/{demo_pk}/odds").text
    assert found.words in page
    assert page.count("<circle") == 20
    assert "being played" not in page
    for where in ("slip", "purse", "jobs/bottom", "findings"):
        assert sailor.get(f"/r/{demo_pk}/{where}").status_code == 200
    assert "Where the launch may fall" in sailor.get(f"/r/{demo_pk}/slip").text
    assert "Played with its luck" in sailor.get(f"/r/{demo_pk}/purse").text
    assert "8 in 10 by" in sailor.get(f"/r/{demo_pk}/jobs/bottom").text


def test_every_page_says_how_sure_it_is_beside_the_spare(client, at_the_haul: Settings, tight: Refit) -> None:  # type: ignore[no-untyped-def]
    from rovask.web.app import create_app
    from tests.conftest import SKIPPER, Browser

    pk = kept_for_both(at_the_haul, tight)
    with Browser(create_app(at_the_haul), follow_redirects=False) as browser:
        ann = Sailor(browser, at_the_haul, SKIPPER)
        assert "·" not in standing(ann, pk)
        assert play(at_the_haul, pk)
        found = newest(at_the_haul, pk)
        assert f"· {found.words}" in standing(ann, pk)
        # after a change it is of before that, until it was played again
        answer = ann.post(
            f"/r/{pk}/unknown/leak/settle", {"way": "vanished", "anyway": "yes", "next": f"/r/{pk}/findings"}
        )
        assert answer.status_code == 303
        assert f"· {found.words} before that" in standing(ann, pk)
        assert "before the last change" in ann.get(f"/r/{pk}/slip").text
        assert play(at_the_haul, pk)
        after = newest(at_the_haul, pk)
        assert after.odds is not None
        assert found.odds is not None
        assert after.odds > found.odds
        assert f"· {after.words}" in standing(ann, pk)
        moved = round(100 * (after.odds - found.odds))
        assert f"odds +{moved} in 100" in ann.get(f"/r/{pk}/log").text
        assert f"+{moved}</span>" in ann.get(f"/r/{pk}/progress").text
        # taken back, it is as it was
        ann.post(f"/r/{pk}/undo", {"next": f"/r/{pk}/log"})
        assert play(at_the_haul, pk)
        assert newest(at_the_haul, pk).odds == found.odds
        # another slot is asked about in the very same runs
        asked = ann.get(f"/r/{pk}/odds?slot=22+May+10:00").text
        assert re.search(r'id="asked".*?Fri 22 May 10:00', asked, re.S)
        assert "lies in the past" in ann.get(f"/r/{pk}/odds?slot=1+May+2026+10:00").text
        assert "fault" in ann.get(f"/r/{pk}/odds?slot=soon").text


def standing(who: Sailor, pk: int) -> str:
    found = re.search(r'aria-label="Standing line".*?</section>', who.get(f"/r/{pk}/jobs").text, re.S)
    assert found is not None
    return re.sub(r"<[^>]+>", "", found.group(0))


def test_before_the_looks_are_played_nobody_says_that_none_is_worth_anything(
    sailor: Sailor, settings: Settings, tight: Refit, tight_pk: int
) -> None:
    """The first answer comes without them."""
    plan = plan_and_judge(tight, HAUL).plan
    first = odds_of(tight, plan, runs=500, looks=False)
    with transaction(settings.database_url) as session:
        kept_odds.keep(session, tight_pk, refits.load(session, tight_pk).change, first, settings.clock())
    shown = sailor.get(f"/r/{tight_pk}/odds").text
    assert "look is worth is still being played" in " ".join(shown.split())
    assert "No look taken earlier" not in shown


def test_a_touch_on_the_standing_line_says_the_day_the_money_and_what_decides(
    sailor: Sailor, at_the_haul: Settings, settings: Settings, tight_pk: int
) -> None:
    before = sailor.get(f"/r/{tight_pk}/odds/brief")
    assert "being played" in before.text
    assert play(at_the_haul, tight_pk)
    found = newest(settings, tight_pk)
    assert found.ready is not None
    assert found.ready.p80 is not None
    assert found.money is not None
    told = sailor.get(f"/r/{tight_pk}/odds/brief")
    assert told.template.name == "_odds_brief.html"
    assert found.words in told.text
    assert f"{found.ready.p80.astimezone(LISBON):%-d %b %H:%M}" in told.text
    assert 1 <= told.text.count("<li>") <= 3
    assert 'hx-target="#brief"' in sailor.get(f"/r/{tight_pk}/jobs").text


def test_a_job_s_dots_are_those_of_its_last_task(at_the_haul: Settings, settings: Settings, tight_pk: int) -> None:
    """The one job is over when she could be launched, at the earliest: its dots are no later, and as many."""
    assert play(at_the_haul, tight_pk)
    found = newest(settings, tight_pk)
    (job,) = found.jobs
    assert len(job.dots) == len(found.dots) == 20
    assert all(a is not None and b is not None and a <= b for a, b in zip(job.dots, found.dots, strict=True))
    assert list(job.dots) == sorted(one for one in job.dots if one is not None)


def test_what_a_job_s_sheet_says_of_before_the_last_change_is_marked(
    sailor: Sailor, at_the_haul: Settings, tight_pk: int
) -> None:
    assert play(at_the_haul, tight_pk)
    sheet = f"/r/{tight_pk}/jobs/job"
    assert "8 in 10 by" in sailor.get(sheet).text
    assert "before the last change" not in sailor.get(sheet).text
    changed(at_the_haul, tight_pk, lambda made: made.grown(budget=90000))
    assert "(before the last change)" in sailor.get(sheet).text


def test_what_another_version_kept_is_left_alone(settings: Settings, sailor: Sailor, tight_pk: int) -> None:
    assert play(settings, tight_pk)
    with transaction(settings.database_url) as session:
        query = "update odds set body = body || '{\"said\": 1}' where refit_id = :pk"
        session.execute(text(query), {"pk": tight_pk})
    for where in ("odds", "slip", "purse", "morning"):
        assert sailor.get(f"/r/{tight_pk}/{where}").status_code == 200


def test_a_refit_that_is_gone_or_has_no_work_is_not_played(settings: Settings, sailor: Sailor) -> None:
    assert not play(settings, 10**9)
    pk = kept_for_both(settings, built())
    assert not play(settings, pk)
    assert "no work in it yet" in sailor.get(f"/r/{pk}/odds").text


def test_what_cannot_be_planned_says_why(settings: Settings, sailor: Sailor) -> None:
    pk = kept_for_both(settings, built(task("a", skill="welding"), launch_at="2026-06-18T09:00:00+00:00"))
    assert not play(settings, pk)
    assert "can't be planned" in sailor.get(f"/r/{pk}/odds").text.replace("&#39;", "'")


def test_the_wish_to_play_goes_with_the_change(settings: Settings, sailor: Sailor, demo_pk: int) -> None:
    def waiting() -> int:
        with transaction(settings.database_url) as session:
            query = "select count(*) from procrastinate_jobs where queueing_lock = :name and status = 'todo'"
            return int(session.scalar(text(query), {"name": f"odds-{demo_pk}"}) or 0)

    with transaction(settings.database_url) as session:
        session.execute(text("delete from procrastinate_jobs where queueing_lock = :name"), {"name": f"odds-{demo_pk}"})
    sailor.post(f"/r/{demo_pk}/task/bottom-9/pin", {"at": "28 May 2026 08:00", "next": f"/r/{demo_pk}/slip"})
    sailor.post(f"/r/{demo_pk}/task/bottom-9/unpin", {"next": f"/r/{demo_pk}/slip"})
    assert waiting() == 1


def test_the_command_says_the_same_as_the_pages(
    settings: Settings, demo_pk: int, demo: Refit, day_9: datetime, tmp_path: Path
) -> None:
    from tests.acts import planned

    _, made = planned(settings, demo_pk)
    file = tmp_path / "plan.json"
    file.write_text(plan_json(made.plan))
    assert play(settings, demo_pk)
    command = ["odds", str(DEMO), "--plan", str(file), "--runs", "10000", "--slot", "2026-06-09T10:30+01:00"]
    told = json.loads(CliRunner().invoke(app, command).stdout)
    page = newest(settings, demo_pk)
    same = Odds.model_validate(told).model_copy(update={"slots": page.slots})
    assert same == page
    assert any(slot["at"] == "2026-06-09T09:30:00Z" for slot in told["slots"])
    assert made.plan.now <= day_9
    assert demo.launch_at == page.slot


@pytest.mark.parametrize(
    ("option", "value", "says"),
    [("--runs", "0", "from 1 to"), ("--slot", "soon", "is not a moment"), ("--now", "2026-05-12T10:00", "time zone")],
)
def test_the_command_refuses_what_makes_no_sense(option: str, value: str, says: str) -> None:
    found = CliRunner().invoke(app, ["odds", str(DEMO), option, value])
    assert says in str(found.exception)


def test_usual_spreads_and_slots_are_typed_under_the_yard(sailor: Sailor, settings: Settings, tight_pk: int) -> None:
    from tests.acts import kept_of
    from tests.web.forms import form_to

    page = f"/r/{tight_pk}/header/edit"
    fields = dict(form_to(sailor.get(page).text, "/header/save").fields) | {
        "usual_spreads": "work 0.7 to 3\nlead time 0,9 - 1.5",
        "next_slots": "20 Jun 2026 10:00\n4 Jul 2026 08:30",
    }
    sailor.post(f"/r/{tight_pk}/header/save", fields)
    kept = kept_of(settings, tight_pk).refit
    assert [(one.of.value, one.least, one.most) for one in kept.usual_spreads] == [
        ("work", 0.7, 3),
        ("lead time", 0.9, 1.5),
    ]
    assert kept.next_slots == (datetime(2026, 6, 20, 9, tzinfo=UTC), datetime(2026, 7, 4, 7, 30, tzinfo=UTC))
    assert "lead time 0.9 to 1.5" in sailor.get(page).text
    for wrong in ("work 1.2 to 0.8", "rain 0.5 to 2", "work lots"):
        answer = sailor.post(f"/r/{tight_pk}/header/save", fields | {"usual_spreads": wrong})
        assert answer.status_code == 422
        assert wrong in answer.text, "what was typed comes back"


def test_an_unknown_s_spread_the_wrong_way_round_is_refused(sailor: Sailor, tight_pk: int) -> None:
    from tests.web.forms import form_to

    page = sailor.get(f"/r/{tight_pk}/unknown/leak/edit").text
    fields = dict(form_to(page, "/unknown/save").fields) | {"hours_least": "40"}
    answer = sailor.post(f"/r/{tight_pk}/unknown/save", fields)
    assert answer.status_code == 422
    assert "not lie between the least and the most" in answer.text
    assert (
        sailor.post(f"/r/{tight_pk}/unknown/save", fields | {"hours_least": "10", "chance": "140"}).status_code == 422
    )


def test_twenty_dots_lie_on_their_days_and_rings_miss_the_slot() -> None:
    slot = datetime(2026, 6, 4, 9, 30, tzinfo=UTC)
    moments = (*(slot + timedelta(days=n - 10) for n in range(19)), None)
    made = dots_of(moments, slot, LISBON)
    assert len(made.dots) == 20
    assert [dot.misses for dot in made.dots] == [False] * 11 + [True] * 9
    xs = [dot.x for dot in made.dots]
    assert xs == sorted(xs)
    assert made.marks[-1][1] == "later"
    assert made.slot_x is not None
    assert all((dot.x > made.slot_x) == dot.misses for dot in made.dots)
    # all on one day: a stack that fits
    stack = dots_of((slot,) * 20, slot, LISBON)
    assert len({dot.x for dot in stack.dots}) == 1
    assert min(dot.y for dot in stack.dots) > 0
    assert not any(dot.misses for dot in stack.dots)
    # half a year: some days a column, and no wider than a page
    wide = dots_of(tuple(slot + timedelta(days=9 * n) for n in range(20)), slot, LISBON)
    assert wide.width < 640


def test_the_line_of_the_odds_tells_what_is_more_than_noise() -> None:
    def then(change: int, odds: float | None, runs: int = 10_000) -> OddsThen:
        return OddsThen(change, HAUL + timedelta(days=change), runs, odds, None, None)

    rows = [then(1, 0.5), then(2, 0.505), then(3, 0.61), then(4, None), then(5, 0.3), then(6, 0.36, 100), then(7, 0.1)]
    assert moves_by_change(rows) == {3: 10, 7: -26}
    assert [(move.by, move.what) for move in odds_moves(rows, {3: "settled the leak"})] == [
        (-26, "days went by"),
        (10, "settled the leak"),
    ]
    drawn = line_of(rows, LISBON)
    assert len(drawn.points) == 6
    assert line_of([], LISBON).path == ""


def test_words_never_say_more_than_is_known() -> None:
    """Every hundredth has words, and surer ones are never said to be less."""
    order = ["hardly ever", "1 in 20", *(f"{n} in 10" for n in range(1, 10)), "19 in 20", "as good as sure"]
    said = [order.index(in_words(n / 1000)) for n in range(1001)]
    assert said == sorted(said)
    assert set(said) == set(range(len(order)))
