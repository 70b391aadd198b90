"""The desk of choices on pages: from where a question arises to a decision; what is typed wrong is kept and said."""

from __future__ import annotations

import re
from datetime import timedelta
from typing import Any

import pytest

from rovask.core.choice.date_told import DateTold, Point
from rovask.core.choice.laid import Difference, Laid, WayTold
from rovask.core.choice.levers import Asked
from rovask.core.odds.told import Amounts
from rovask.core.refit.model import Act, Decision, Refit
from rovask.desk.door import Desk
from rovask.settings import Settings
from rovask.store import laid
from rovask.store.account_tables import Membership
from rovask.store.database import reading
from rovask.web.app import create_app
from rovask.web.frontier_drawing import RADIUS, frontier_of
from rovask.web.ways_told import SAME, rows_of
from rovask.work.choices import lay
from tests.acts import aside_of, changed
from tests.acts import rows_of as kept_rows
from tests.builders import HAUL, person, refit, task
from tests.conftest import SKIPPER, Browser, Sailor, kept_for_both
from tests.web.test_odds_pages import LISBON


def opened(sailor: Sailor, pk: int, about: str, **form: str) -> str:
    answer = sailor.post(f"/r/{pk}/choices/open", {"about": about} | form)
    assert answer.status_code == 303, answer.text
    return str(answer.headers["location"])


@pytest.mark.parametrize(
    ("about", "ways"),
    [
        ("job:chain", ["an interim fix", "next time"]),
        ("part:chain", ["from Keel and Cable", "from Averra", "next time"]),
        ("finding:f4", ["an interim fix"]),  # dangerous: not next time
        ("person:aurel", ["own hands", "launch Fri 12 Jun"]),
        ("unknown:u3", ["first: "]),
        ("short", ["next time", "1 h longer", "first: ", "launch Fri 12 Jun"]),
        ("budget", ["next time", "own hands"]),
    ],
)
def test_each_question_brings_its_obvious_ways_along(sailor: Sailor, demo_pk: int, about: str, ways: list[str]) -> None:
    page = sailor.get(opened(sailor, demo_pk, about)).text
    heads = " ".join(re.findall(r'<th scope="col".*?</th>', page, re.DOTALL))
    for words in ways:
        assert words in heads
    assert "Being planned and played" in page


def test_what_a_courier_costs_is_never_invented(sailor: Sailor, demo_pk: int, settings: Settings) -> None:
    opened(sailor, demo_pk, "part:panel")
    row = kept_rows(settings, demo_pk).refit.ways[-1]
    assert all(act.do != "express" for way in row.ways for act in way.acts)
    opened(sailor, demo_pk, "part:anti", days="3", money="45,50")
    acts = [act for way in kept_rows(settings, demo_pk).refit.ways[-1].ways for act in way.acts]
    assert (acts[0].do, acts[0].days, acts[0].money) == ("express", 3, 4_550)


def test_from_a_late_parcel_to_a_decision_and_back(
    sailor: Sailor, demo_pk: int, settings: Settings, demo: Refit
) -> None:
    path = opened(sailor, demo_pk, "part:wire", days="4", money="90")
    key = path.rpartition("/")[2]
    assert lay(settings, demo_pk, key)
    page = sailor.get(path).text
    assert "Being planned" not in page
    for label in (
        "How sure",
        "Next slot",
        "Ready: best, likely, worst",
        "Lay-days",
        "Services out",
        "Whose hours",
        "Hangs on",
    ):
        assert label in page
    change = re.search(r'name="change" value="(\d+)"', page)
    assert change is not None
    form = {"way": kept_rows(settings, demo_pk).refit.ways[-1].ways[0].id, "change": change[1]}
    refused = sailor.post(f"{path}/take", form)
    assert refused.status_code == 422
    assert "Say in a few words why" in refused.text
    taken = sailor.post(f"{path}/take", form | {"reason": "the mast cannot wait"})
    assert taken.status_code == 303
    page = sailor.get(path).text
    assert "Decided: Standing rigging, ten stays by express" in page
    assert "the mast cannot wait" in sailor.get(f"/r/{demo_pk}/findings").text
    assert sailor.post(f"/r/{demo_pk}/undo").status_code == 303
    assert kept_rows(settings, demo_pk).refit.orders == demo.orders
    assert aside_of(settings, demo_pk, Decision) == ()


def test_what_changed_since_is_told_before_a_way_is_taken(sailor: Sailor, demo_pk: int, settings: Settings) -> None:
    path = f"/r/{demo_pk}/choices/w2"
    lay(settings, demo_pk, "w2")
    page = sailor.get(path).text
    change = re.search(r'name="change" value="(\d+)"', page)
    assert change is not None
    changed(
        settings,
        demo_pk,
        lambda one: Refit.model_validate(one.model_dump() | {"budget": 99_900}),
        "set the budget anew",
    )
    form = {"way": "express", "reason": "sooner", "change": change[1]}
    told = sailor.post(f"{path}/take", form)
    assert told.status_code == 409
    assert "set the budget anew" in told.text
    assert 'value="sooner"' in told.text  # nothing typed is lost
    assert "it is being laid out anew" in told.text
    assert sailor.post(f"{path}/take", form | {"anyway": "1"}).status_code == 303


def test_when_a_better_plan_was_found_the_figures_say_so_and_come_anew(
    sailor: Sailor, demo_pk: int, settings: Settings
) -> None:
    """As it is must be what every page says: an hour later the plan is another, and nothing of that is a change."""
    path = f"/r/{demo_pk}/choices/w1"
    lay(settings, demo_pk, "w1")
    assert "Look again" not in sailor.get(path).text
    later = settings.model_copy(update={"now": settings.clock() + timedelta(hours=1)})
    with Browser(create_app(later), follow_redirects=False) as client:
        late = Sailor(client, later, SKIPPER)
        page = late.get(path).text
        assert "The plan has become another since these figures" in page
        assert lay(later, demo_pk, "w1")
        page = late.get(path).text
        assert "Look again" not in page
        standing = re.search(r"([0-9\u202f]+ EUR)</span>", page)
        forecast_row = re.search(r"Forecast of the plan</th><td[^>]*><span[^>]*>([^<]+)<", page)
        assert standing is not None
        assert forecast_row is not None
        assert forecast_row[1].strip() == standing[1]


def test_an_act_that_is_typed_wrong_is_said_in_its_field_and_kept(
    sailor: Sailor, demo_pk: int, settings: Settings
) -> None:
    path = f"/r/{demo_pk}/choices/w2/ways/hand"
    form = {"do": "one more hand", "name": "Ole", "first": "18 May", "last": "soon", "money": "12O"}
    wrong = sailor.post(path, form)
    assert wrong.status_code == 422, wrong.text
    assert 'value="Ole"' in wrong.text
    assert 'value="soon"' in wrong.text
    assert len(re.findall(r'class="fault text-sm"', wrong.text)) == 2
    right = sailor.post(path, form | {"last": "23 May", "money": "120"})
    assert right.status_code == 303
    act = next(one for one in kept_rows(settings, demo_pk).refit.ways if one.id == "w2").way("hand")
    assert act is not None
    assert (act.acts[-1].first, act.acts[-1].money) == (HAUL.date().replace(day=18), 12_000)
    backwards = sailor.post(path, form | {"first": "23 May", "last": "18 May", "money": "120"})
    assert "ends before it begins" in backwards.text


def test_who_looks_on_sees_it_and_takes_nothing(sailor: Sailor, demo_pk: int, settings: Settings, client: Any) -> None:
    reader = Sailor(client, settings, "Ole").joins(demo_pk, Membership.READER)
    page = reader.get(f"/r/{demo_pk}/choices/w1")
    assert page.status_code == 200
    assert "Take this way" not in page.text
    assert reader.post(f"/r/{demo_pk}/choices/w1/take", {"way": "next", "reason": "x"}).status_code == 403
    crew = Sailor(client, settings, "Pia").joins(demo_pk, Membership.CREW)
    change = str(kept_rows(settings, demo_pk).change)
    answer = crew.post(f"/r/{demo_pk}/choices/w3/take", {"way": "season-1", "reason": "x", "change": change})
    assert answer.status_code == 403  # the slot is a skipper's


def test_seasons_of_a_boat_that_is_hauled_move_the_launch_alone(
    sailor: Sailor, demo_pk: int, settings: Settings
) -> None:
    page = sailor.get(f"/r/{demo_pk}/seasons").text
    assert "only the launch can move" in page
    assert "16 Jul 2026" in page
    wrong = sailor.post(f"/r/{demo_pk}/seasons", {"launch1": "1 Mar 2026 10:00", "launch2": "20 Aug 2026 11:30"})
    assert wrong.status_code == 422
    assert "20 Aug 2026 11:30" in wrong.text
    right = sailor.post(f"/r/{demo_pk}/seasons", {"launch2": "20 Aug 2026 11:30"})
    assert right.headers["location"].endswith("/choices/w3")  # the one there is, laid anew
    ways = next(one for one in kept_rows(settings, demo_pk).refit.ways if one.id == "w3").ways
    assert [way.acts[0].do for way in ways] == ["slot"]


def test_make_the_date_is_asked_with_its_prices_and_says_what_is_typed_wrong(
    sailor: Sailor, demo_pk: int, settings: Settings
) -> None:
    path = f"/r/{demo_pk}/date"
    assert "What may be tried" in sailor.get(path).text
    wrong = sailor.post(path, {"odds": "11", "money": "x", "slots": "1 May 2026 10:00", "hand_day": "95"})
    assert wrong.status_code == 422
    assert 'value="95"' in wrong.text
    assert "lies in the past" in wrong.text
    assert sailor.post(path, {"odds": "8,5", "money": "1500", "hand_day": "95", "must": "plates"}).status_code == 303
    with reading(settings.database_url) as session:
        then = laid.date_then(session, demo_pk, settings.clock())
    assert then is not None
    asked = then.asked
    assert (asked.odds, asked.money, asked.hand_day, asked.express_money, asked.leave) == (
        0.85,
        150_000,
        9_500,
        None,
        False,
    )
    assert asked.acts == ()
    assert "the first points come" in sailor.get(path).text
    assert sailor.post(path, {"odds": "8", "desk": "on"}).status_code == 303
    with reading(settings.database_url) as session:
        then = laid.date_then(session, demo_pk, settings.clock())
    assert then is not None
    # of the demo's three open choices, slots left away and what stands there twice once
    assert [act.do.value for act in then.asked.acts] == ["interim fix", "next time", "express", "one more hand"]
    assert sailor.post(f"{path}/stop").status_code == 303
    assert "Stopping" in sailor.get(path).text or "Being planned" in sailor.get(path).text


def found(**more: Any) -> DateTold:
    def point(odds: float, dearer: int, left: tuple[str, ...] = (), worth: int = 0) -> Point:
        act = Act.model_validate({"do": "next time", "of": "chain"})
        return Point(titles=("x",), acts=(act,), odds=odds, words="", interval=(odds, odds), money=0, dearer=dearer, left=left,
                     left_worth=worth, price=dearer + worth)  # fmt: skip

    whole = {
        "points": (point(0.3, -20_000), point(0.6, 5_000), point(0.61, 5_400), point(0.9, 90_000, ("Chain",), 30_000)),
        "best": 3,
    }
    return DateTold.model_validate(
        {"now": HAUL, "currency": "EUR", "asked": Asked(odds=0.8, money=95_000), "levers": 4, "as_it_is": point(0.4, 0)}
        | whole
        | more
    )


def test_the_frontier_is_drawn_odds_up_money_to_the_right_and_no_two_points_on_one_another() -> None:
    drawing = frontier_of(found())
    assert [mark.number for mark in drawing.marks] == [1, 2, 3, 4]
    assert all(a.x < b.x and a.y > b.y for a, b in zip(drawing.marks, drawing.marks[1:], strict=False))
    assert all(b.x - a.x >= 2 * RADIUS for a, b in zip(drawing.marks, drawing.marks[1:], strict=False))
    assert [(mark.leaves, mark.best) for mark in drawing.marks] == [(False, False)] * 3 + [(True, True)]
    words = [words.replace("\u202f", " ") for _, words in drawing.money]
    assert words == ["−500 EUR", "0 EUR", "+500 EUR", "+1 000 EUR", "+1 500 EUR"]
    assert drawing.left < drawing.marks[0].x < drawing.marks[-1].x < drawing.right
    one = frontier_of(found(points=(), best=None))
    assert one.path == ""
    assert one.as_it_is is not None


def test_a_difference_has_its_sign_and_its_sureness_and_about_the_same_is_quiet() -> None:
    def by(mean: float, half: float) -> Difference:
        return Difference(mean=mean, low=mean - half, high=mean + half)

    money = Amounts(p10=1, p50=100_000, p80=120_000, p90=3, mean=2)
    base = WayTold(way="as-it-is", title="As it is", odds=0.5, words="5 in 10", money=money, planned=100_000)
    ways = (
        base,
        base.model_copy(
            update={
                "way": "a",
                "gains": by(0.312, 0.011),
                "later": by(-30.2, 2),
                "dearer": by(106_400, 240),
                "planned": 206_400,
            }
        ),
        base.model_copy(update={"way": "b", "gains": by(0.004, 0.006), "later": by(0.4, 0.1), "dearer": by(-40, 90)}),
    )
    rows = {
        row.label: row.cells
        for row in rows_of(Laid(now=HAUL, currency="EUR", seed=1, runs=9, settled=True, ways=ways), LISBON)
    }
    sure, ready, dear = (rows[name] for name in ("How sure", "Ready: best, likely, worst", "Money: likely, 8 in 10"))
    assert [cell.against for cell in sure] == ["", "+31 ± 1 in 100", SAME]
    assert [cell.against for cell in ready] == ["", "1 d 6 h sooner as a mean", SAME]
    assert [cell.against.replace("\u202f", " ") for cell in dear] == ["", "+1 064 EUR ± 2 as a mean", SAME]
    assert [(cell.differs, cell.tone) for cell in sure] == [(False, ""), (True, "good"), (False, "")]
    assert [(cell.differs, cell.tone) for cell in dear] == [(False, ""), (True, "warn"), (False, "")]
    assert rows["Forecast of the plan"][1].lines == ("2\u202f064 EUR", "+1\u202f064 EUR")


def test_a_point_of_the_frontier_is_laid_beside_as_it_is(sailor: Sailor, demo_pk: int, settings: Settings) -> None:
    from rovask.desk.commands.choices import AskDate, NoteDate
    from tests.acts import ROVASK

    desk = Desk(settings)
    desk.run(ROVASK, AskDate(Asked(odds=0.8)), demo_pk)
    with reading(settings.database_url) as session:
        then = laid.date_then(session, demo_pk, settings.clock())
    assert then is not None
    desk.run(ROVASK, NoteDate(then.asked_at, found(), over=True), demo_pk)
    page = sailor.get(f"/r/{demo_pk}/date").text
    assert "the cheapest that is as sure as you asked" in page
    assert "Leaves for next time: Chain; reckoned at 300 EUR" in page
    answer = sailor.post(f"/r/{demo_pk}/date/take", {"point": "4"})
    assert answer.status_code == 303
    row = kept_rows(settings, demo_pk).refit.ways[-1]
    assert answer.headers["location"].endswith(row.id)
    assert row.ways[0].acts[0].of == "chain"
    assert sailor.post(f"/r/{demo_pk}/date/take", {"point": "9"}).status_code == 422


def test_who_has_no_date_in_a_season_is_asked_for_on_the_page(sailor: Sailor, settings: Settings) -> None:
    """A helper of the spring haul-out: in autumn she is asked for, and may say that she can't."""
    haul = settings.clock() + timedelta(days=40)
    people = [
        person("ann"),
        person("hal", role="helper", arrives=str(haul.date()), leaves=str((haul + timedelta(days=5)).date())),
    ]
    made = refit(task("a"), people=people, haul_at=haul.isoformat(), launch_at=(haul + timedelta(days=20)).isoformat())
    pk = kept_for_both(settings, made)
    form = {"haul1": "5 Oct 2026 09:00", "launch1": "29 Oct 2026 10:00", "lay1": "18", "berth1": "240"}
    asked = sailor.post(f"/r/{pk}/seasons", form)
    assert asked.status_code == 422
    assert "say from when to when Hal could come" in asked.text
    assert 'value="5 Oct 2026 09:00"' in asked.text
    half = sailor.post(f"/r/{pk}/seasons", form | {"first1-hal": "7 Oct 2026"})
    assert half.status_code == 422
    assert 'value="7 Oct 2026"' in half.text
    done = sailor.post(f"/r/{pk}/seasons", form | {"first1-hal": "7 Oct 2026", "last1-hal": "12 Oct 2026"})
    assert done.status_code == 303
    key = done.headers["location"].rpartition("/")[2]
    assert lay(settings, pk, key)
    page = sailor.get(f"/r/{pk}/choices/{key}").text
    for label in ("Weather of its months", "Daylight", "Storm season", "no storm season typed"):
        assert label in page
    back = sailor.get(f"/r/{pk}/seasons").text
    assert 'value="12 Oct 2026"' in back
    change = re.search(r'name="change" value="(\d+)"', page)
    assert change is not None
    taken = sailor.post(f"/r/{pk}/choices/{key}/take", {"way": "season-1", "reason": "cheaper", "change": change[1]})
    assert taken.status_code == 303
    after = kept_rows(settings, pk).refit
    assert (str(after.persons["hal"].arrives), after.yard.lay_day) == ("2026-10-07", 1_800)
    assert after.launch_at.astimezone(LISBON).strftime("%d %b %H:%M") == "29 Oct 10:00"
