"""Compare and Adopt keep every answer that was given, and what is said of the launch and the money is what the preview says."""

from __future__ import annotations

from rovask.core.readings.stock import stocks
from rovask.core.refit.model import Decision
from rovask.settings import Settings
from tests.acts import aside_of
from tests.conftest import Sailor
from tests.web.pages import Elements
from tests.web.test_pages import refit_of


def test_compare_and_adopt_keep_every_answer(sailor: Sailor, settings: Settings, demo_pk: int) -> None:
    root = f"/r/{demo_pk}"
    preview = Elements(sailor.get(f"{root}/recipes/through-hulls?count=5&valves=plain&skill-laminating=own").text)
    (link,) = [one for one in preview.attributes("a", "href") if "/decide/through-hulls/valves" in one]
    assert "count=5" in link
    assert "skill-laminating=own" in link
    compare = sailor.get(link)
    for name, value in (("count", "5"), ("skill-laminating", "own")):
        assert f'name="{name}" value="{value}"' in compare.text  # carried along, so that Adopt has them too
    told = {
        "count": "5", "skill-laminating": "own", "way": "plain", "reason": "drains only", "own1_title": "", "own1_hours": "2",
    }  # fmt: skip
    assert (
        sailor.post(f"{root}/decide/through-hulls/valves", told).status_code == 422
    )  # a way without a name is asked for
    done = sailor.post(f"{root}/decide/through-hulls/valves", told | {"own1_hours": ""})
    assert done.status_code == 303
    key = done.headers["location"].rpartition("/")[2]
    job = next(one for one in refit_of(settings, demo_pk).jobs if one.id == key)
    assert {task.units for task in job.tasks if task.units > 1} == {5}
    assert [task.skill for task in job.tasks if task.id.endswith("-block")] == [None]  # the crew took it over
    assert not any(task.id.endswith("-valves") for task in job.tasks)
    decision = aside_of(settings, demo_pk, Decision)[-1]
    assert (decision.adopted, decision.reason) == (
        "Plain fitting with a plug for drains above the waterline.",
        "drains only",
    )
    again = Elements(sailor.get(f"{root}/decide/through-hulls/valves").text)
    assert any("in the plan already" in words for words in again.texts("p"))


def test_leaving_a_job_asks_why_and_keeps_it(sailor: Sailor, settings: Settings, demo_pk: int) -> None:
    root = f"/r/{demo_pk}"
    job = next(
        one
        for one in refit_of(settings, demo_pk).jobs
        if one.need == "could" and not any(t.begun_at for t in one.tasks)
    )
    assert f'action="{root}/jobs/{job.id}/next-time"' in sailor.get(f"{root}/jobs/{job.id}").text
    sailor.post(f"{root}/jobs/{job.id}/next-time", {"reason": "the money went into the keel"})
    (row,) = [one for one in refit_of(settings, demo_pk).parked if one.title == job.title]
    assert "the money went into the keel" in row.note
    decision = aside_of(settings, demo_pk, Decision)[-1]
    assert (decision.adopted, decision.reason) == ("Left to the next haul-out.", "the money went into the keel")


def test_a_crane_people_who_come_together_and_a_part_that_does_not_fit_are_one_form_each(
    sailor: Sailor, settings: Settings, demo_pk: int
) -> None:
    root = f"/r/{demo_pk}"
    bad = sailor.post(f"{root}/comes", {"title": "Crane", "at": "when it suits", "hours": "2"})
    assert bad.status_code == 422
    assert "when it suits" in bad.text  # nothing typed is lost
    done = sailor.post(
        f"{root}/comes",
        {"title": "Crane", "at": "27 May 2026 10:00", "hours": "2", "people": ["mira"], "place": "deck"},
    )
    assert done.status_code == 303
    assert sailor.get(done.headers["location"]).status_code == 200  # all that must be done before it
    stay = {
        "title": "Both",
        "person": ["mira", "joss"],
        "first": "1 Jun 2026",
        "last": "31 May 2026",
        "ready": "tent up",
    }
    assert sailor.post(f"{root}/visits/together", stay).status_code == 422
    assert sailor.post(f"{root}/visits/together", stay | {"last": "2 Jun 2026"}).status_code == 303
    both = [one for one in refit_of(settings, demo_pk).visits if one.title == "Both"]
    assert sorted(one.person or "" for one in both) == ["joss", "mira"]
    it = refit_of(settings, demo_pk)
    waits = {key for task in it.tasks.values() if not task.begun_at for key in task.parts}
    part = next(one.part for one in stocks(it).values() if one.there_is and one.part.id in waits)
    sailor.post(
        f"{root}/part/{part.id}/misfit", {"off_by": "3 mm", "remedy": "modify", "other": "the cradle", "hours": "1.5"}
    )
    assert "does not fit, off by 3 mm, modify" in sailor.get(f"{root}/stores/part/{part.id}").text
    assert any(
        task.title == f"Alter the cradle so that {part.name} fits"
        for task in refit_of(settings, demo_pk).tasks.values()
    )


def test_a_day_without_a_plan_offers_tasks_and_one_ahead_says_so(sailor: Sailor, demo_pk: int) -> None:
    past = sailor.get(f"/r/{demo_pk}/day/2026-04-20").text  # before the haul-out: nothing was planned for it
    assert "Something else was worked at" in past
    assert 'name="task-0"' in past
    ahead = sailor.get(sailor.get(f"/r/{demo_pk}/day/2026-05-20").headers["location"]).text
    assert "This day lies ahead" in ahead
