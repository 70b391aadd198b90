"""The plan on the pages: the search and its news, adopting, putting back, what would help, weather, the chart as a file."""

from __future__ import annotations

from datetime import datetime, timedelta
from xml.etree import ElementTree

import pytest

from rovask.core.refit import edits
from rovask.core.refit.model import Refit
from rovask.settings import Settings
from rovask.work.search import search
from tests import acts
from tests.acts import kept_of
from tests.conftest import Sailor
from tests.web.pages import Elements


def refit_of(settings: Settings, pk: int) -> Refit:
    return kept_of(settings, pk).refit


def changed(settings: Settings, pk: int, **fields: object) -> None:
    acts.changed(settings, pk, lambda made: edits.rebuilt(made, **fields))


def words(text: str) -> str:
    return " ".join(Elements(text).texts("p"))


def test_the_search_is_asked_for_told_and_stopped(sailor: Sailor, settings: Settings, demo_pk: int) -> None:
    assert "No better plan has been looked for" in words(sailor.get(f"/r/{demo_pk}/search").text)
    assert sailor.post(f"/r/{demo_pk}/search/start", {"seconds": "120"}).status_code == 303
    assert "waits for a worker" in words(sailor.get(f"/r/{demo_pk}/search").text)
    assert sailor.post(f"/r/{demo_pk}/search/stop").status_code == 303
    assert "waits for a worker" not in words(sailor.get(f"/r/{demo_pk}/search").text)
    search(settings, demo_pk, 2)
    told = words(sailor.get(f"/r/{demo_pk}/slip").text)
    assert "better found" in told or "proven the best" in told


def test_news_of_a_search_ends_when_it_does(sailor: Sailor, demo_pk: int) -> None:
    answer = sailor.get(f"/r/{demo_pk}/search/events")
    assert answer.headers["content-type"].startswith("text/event-stream")
    assert "event: over" in answer.text
    assert "No better plan has been looked for" in answer.text


def test_a_proposed_plan_is_shown_with_what_moves_and_adopted(sailor: Sailor, settings: Settings, demo_pk: int) -> None:
    # a week sooner, where the first plan leaves room for better ones
    changed(settings, demo_pk, ask_first=True, launch_at=refit_of(settings, demo_pk).launch_at - timedelta(days=7))
    waits = False
    for seconds in (2, 6, 12):  # how soon it finds one depends on the machine
        search(settings, demo_pk, seconds)
        waits = "A better plan waits for you" in Elements(sailor.get(f"/r/{demo_pk}/slip").text).texts("h2")
        if waits:
            break
    assert waits
    assert sailor.post(f"/r/{demo_pk}/plan/adopt").status_code == 303
    shown = sailor.get(f"/r/{demo_pk}/slip").text
    assert "A better plan waits" not in shown
    assert "What moved since the plan before" in shown
    assert sailor.post(f"/r/{demo_pk}/plan/back").status_code == 303
    assert "A better plan waits for you" in sailor.get(f"/r/{demo_pk}/slip").text  # the better one waits again
    again = sailor.post(f"/r/{demo_pk}/plan/back")
    assert again.status_code == 409
    assert "no longer fits" in again.text


def test_what_would_help_a_late_launch_is_tried(
    sailor: Sailor, settings: Settings, demo: Refit, demo_pk: int, day_9: datetime
) -> None:
    assert "The launch holds" in sailor.get(f"/r/{demo_pk}/remedies").text
    changed(settings, demo_pk, launch_at=demo.launch_at - timedelta(days=13))
    answer = sailor.get(f"/r/{demo_pk}/remedies")
    told = Elements(answer.text).texts("li")
    assert 1 <= len(told) <= 3
    assert all("the launch holds" in one or "still short" in one for one in told)


def test_a_block_is_dropped_on_the_nearest_half_hour_and_never_in_the_past(
    sailor: Sailor, settings: Settings, demo_pk: int, day_9: datetime
) -> None:
    at = day_9 + timedelta(days=3, minutes=11)
    assert sailor.post(f"/r/{demo_pk}/task/tops-1/drop", {"at": at.isoformat()}).status_code == 303
    assert refit_of(settings, demo_pk).tasks["tops-1"].pin == day_9 + timedelta(days=3)
    sailor.post(f"/r/{demo_pk}/task/tops-1/drop", {"at": (day_9 - timedelta(days=30)).isoformat()})
    assert refit_of(settings, demo_pk).tasks["tops-1"].pin == day_9
    for bad in ("", "soon", "2026-05-20T10:00"):
        assert sailor.post(f"/r/{demo_pk}/task/tops-1/drop", {"at": bad}).status_code == 422


@pytest.mark.parametrize("span", ["whole", "week"])
def test_the_chart_is_a_picture_of_its_own(sailor: Sailor, demo_pk: int, span: str) -> None:
    answer = sailor.get(f"/r/{demo_pk}/slip.svg?span={span}")
    assert answer.headers["content-type"].startswith("image/svg+xml")
    root = ElementTree.fromstring(answer.content)
    assert root.tag == "{http://www.w3.org/2000/svg}svg"
    assert "--teal" in answer.text
    assert "http" not in answer.text.replace("http://www.w3.org", "")


def test_weather_is_said_read_and_refused(sailor: Sailor, settings: Settings, demo_pk: int, day_9: datetime) -> None:
    before = refit_of(settings, demo_pk).weather
    assert sailor.post(f"/r/{demo_pk}/weather/now", {"wet": "yes", "hours": "4"}).status_code == 303
    assert all(amount > 0 for amount in refit_of(settings, demo_pk).weather.rain[:4])
    assert "rain now" in sailor.get(f"/r/{demo_pk}/morning").text
    assert sailor.post(f"/r/{demo_pk}/undo").status_code == 303
    assert refit_of(settings, demo_pk).weather == before
    assert "no weather service is set" in sailor.post(f"/r/{demo_pk}/weather/fetch").text.lower()
    rows = "time,temperature_c,humidity_pct,rain_mm,wind_ms\n" + "".join(
        f"2026-05-{12 + hour // 24}T{hour % 24:02d}:00,12,70,0,2\n" for hour in range(48)
    )
    page = f"/r/{demo_pk}/weather/file"
    assert sailor.post(page, files={"file": ("sky.csv", rows.encode())}).status_code == 303
    assert set(refit_of(settings, demo_pk).weather.temperature) == {12}
    bad = sailor.post(page, files={"file": ("sky.csv", b"hello")})
    assert bad.status_code == 422
    assert "line 1: should be time," in bad.text
    assert sailor.post(page).status_code == 422


def test_new_fields_of_a_task_go_out_and_come_back(sailor: Sailor, settings: Settings, demo_pk: int) -> None:
    page = Elements(sailor.get(f"/r/{demo_pk}/task/bottom-9/edit").text)
    names = ("title", "units", "units_done", "hands", "skilled", "tender", "weather_least_temp")
    form: dict[str, object] = {name: page.value(name) for name in names}
    form |= {"place": "bottom", "state": "ashore"}
    form |= {
        "work_least": "3",
        "work_likely": "4",
        "work_most": "6",
        "key": "bottom-9",
        "revision": page.value("revision"),
    }
    form |= {
        "weather_needed": "on",
        "weather_dry": "on",
        "weather_most_wind": "7,5",
        "emits": ["fumes"],
        "shuns": ["dust"],
    }
    form |= {"takes_out": ["galley"], "until": "bottom-10", "gear": ["sander"], "unbroken": "on"}
    assert sailor.post(f"/r/{demo_pk}/task/save", form).status_code == 303
    task = refit_of(settings, demo_pk).tasks["bottom-9"]
    assert task.weather is not None
    assert (task.weather.least_temp, task.weather.most_wind, task.weather.dry, task.weather.coverable) == (
        8,
        7.5,
        True,
        False,
    )
    assert (task.emits, task.shuns, task.takes_out, task.until) == (("fumes",), ("dust",), ("galley",), "bottom-10")
    form |= {"weather_most_wind": "a gale", "revision": str(int(str(form["revision"])) + 1)}
    wrong = sailor.post(f"/r/{demo_pk}/task/save", form)
    assert wrong.status_code == 422
    assert "“a gale” is not a number" in wrong.text
    assert Elements(wrong.text).value("weather_most_wind") == "a gale"


def test_yard_rules_are_typed_as_lines(sailor: Sailor, settings: Settings, demo_pk: int) -> None:
    page = Elements(sailor.get(f"/r/{demo_pk}/yard/edit").text)
    text = page.value("rules")
    assert "dust only mon-sat 08:00-18:00 (neighbours on both sides)" in text
    rules = text + "\nnoise never 2026-05-20 to 2026-05-21 (regatta)\nsparks permit from 2026-05-15"
    assert sailor.post(f"/r/{demo_pk}/yard/save", {"rules": rules, "key": ""}).status_code == 303
    kept = {
        (rule.emits.value, bool(rule.only), bool(rule.never), str(rule.permit_from))
        for rule in refit_of(settings, demo_pk).yard.rules
    }
    assert ("noise", False, True, "None") in kept
    assert ("sparks", False, False, "2026-05-15") in kept
    assert ("dust", True, False, "None") in kept
    wrong = sailor.post(f"/r/{demo_pk}/yard/save", {"rules": "glitter only mon 08:00-09:00", "key": ""})
    assert wrong.status_code == 422
    assert "should begin with one of dust" in wrong.text
