"""Recipes, first look, findings, photos and the bench through their pages and forms."""

from __future__ import annotations

import io
import re
from datetime import timedelta
from typing import Any

import pytest
from PIL import Image

from rovask.core.bench.all_calculators import CALCULATORS
from rovask.core.refit.model import Decision
from rovask.formats.bundle import opened
from rovask.formats.recipe_file import library
from rovask.settings import Settings
from tests.acts import aside_of, photos_of
from tests.builders import refit, task
from tests.conftest import Sailor, kept_for_both
from tests.web.pages import Elements
from tests.web.test_pages import refit_of

SCREENS = ["boat", "boat?whole=yes", "boat?place=nowhere", "recipes", "recipes?q=shaft", "recipes?q=zzz", "look"]
SCREENS += ["findings", "found", "off", "parked", "bench", "decide/face-seal/school"]


def photo(size: tuple[int, int] = (300, 200)) -> bytes:
    out = io.BytesIO()
    Image.new("RGB", size, "teal").save(out, "JPEG")
    return out.getvalue()


@pytest.mark.parametrize("screen", SCREENS)
def test_every_new_screen_shows_the_demo_and_an_empty_refit(
    sailor: Sailor, demo_pk: int, empty_pk: int, screen: str
) -> None:
    for pk in (demo_pk, empty_pk):
        answer = sailor.get(f"/r/{pk}/{screen}")
        assert answer.status_code == 200
        assert len(Elements(answer.text).texts("h1")) == 1
        assert ' style="' not in answer.text


def test_every_recipe_has_a_page_that_previews_or_refuses(sailor: Sailor, demo_pk: int) -> None:
    for key in library().recipes:
        answer = sailor.get(f"/r/{demo_pk}/recipes/{key}")
        page = Elements(answer.text)
        assert answer.status_code == 200
        assert bool(page.texts("section", aria_label="What it does")) != bool(page.texts("p", class_="fault")) or (
            page.texts("section", aria_label="What it does")
        )


def test_every_calculator_has_a_page_and_says_what_was_typed_wrong(sailor: Sailor, demo_pk: int) -> None:
    for key, one in CALCULATORS.items():
        assert sailor.get(f"/r/{demo_pk}/bench/{key}").status_code == 200
        number = next((item for item in one.inputs if not item.choices and item.most < 1e6), None)
        if number is not None:
            wrong = sailor.get(f"/r/{demo_pk}/bench/{key}?{number.name}=soup")
            assert wrong.status_code == 422
            assert Elements(wrong.text).value(number.name) == "soup"


def test_a_recipe_is_previewed_added_with_its_reason_and_undone(
    sailor: Sailor, settings: Settings, demo_pk: int
) -> None:
    before = refit_of(settings, demo_pk)
    told = Elements(sailor.get(f"/r/{demo_pk}/recipes/winches?count=3").text)
    assert "launch unchanged" in " ".join(told.texts("section", aria_label="What it does")) or "spare" in " ".join(
        told.texts("section", aria_label="What it does")
    )
    assert refit_of(settings, demo_pk) == before
    answer = sailor.post(f"/r/{demo_pk}/recipes/winches", {"count": "3", "reason": "pawls stick"})
    assert answer.status_code == 303
    job = next(one for one in refit_of(settings, demo_pk).jobs if one.id == answer.headers["location"].rsplit("/")[-1])
    assert (job.recipe, job.reason, job.tasks[0].units) == ("winches", "pawls stick", 3)
    sailor.post(f"/r/{demo_pk}/undo")
    assert refit_of(settings, demo_pk) == before


def test_a_wrong_answer_stays_in_the_form_and_adds_nothing(sailor: Sailor, settings: Settings, demo_pk: int) -> None:
    before = refit_of(settings, demo_pk)
    for typed, words in (("lots", "is not a number"), ("99", "must lie between 1 and 20")):
        answer = sailor.post(f"/r/{demo_pk}/recipes/winches", {"count": typed})
        page = Elements(answer.text)
        assert answer.status_code == 422
        assert page.value("count") == typed
        assert words in " ".join(page.texts("p", class_="fault"))
    assert refit_of(settings, demo_pk) == before


def test_an_own_recipe_comes_in_goes_out_and_a_bad_one_is_refused(sailor: Sailor, demo_pk: int, empty_pk: int) -> None:
    text = sailor.get(f"/r/{demo_pk}/recipes/winches.toml").text
    mine = text.replace('id = "winches"', 'id = "my-winches"').replace("Winches serviced", "Winches my way")
    brought = sailor.post(f"/r/{demo_pk}/recipes/bring-in", files={"file": ("mine.toml", mine.encode())})
    assert brought.headers["location"] == f"/r/{demo_pk}/recipes/my-winches"
    assert "Winches my way" not in sailor.get(f"/r/{empty_pk}/recipes").text
    assert sailor.post(f"/r/{empty_pk}/recipes/my-winches/give").status_code == 303
    assert "Winches my way" in sailor.get(f"/r/{empty_pk}/recipes").text
    assert sailor.get(f"/r/{demo_pk}/recipes/my-winches.toml").text == mine
    bad = sailor.post(
        f"/r/{demo_pk}/recipes/bring-in",
        files={"file": ("bad.toml", mine.replace("hours = 0.8", 'hours = "evil()"').encode())},
    )
    assert bad.status_code == 422
    assert "nobody knows evil" in bad.text
    assert sailor.post(f"/r/{demo_pk}/recipes/my-winches/take-out").status_code == 303
    assert sailor.get(f"/r/{demo_pk}/recipes/my-winches").status_code == 404


def test_a_bad_thing_seen_with_its_photo_becomes_a_finding_and_travels(
    sailor: Sailor, settings: Settings, demo_pk: int
) -> None:
    answer = sailor.post(
        f"/r/{demo_pk}/look/look-i14",
        {"verdict": "bad", "note": "rust bleeds out"},
        files={"photo": ("IMG.jpg", photo(), "image/jpeg")},
    )
    assert answer.status_code == 303
    refit = refit_of(settings, demo_pk)
    finding = next(one for one in refit.findings if one.id == "look-look-i14")
    assert (finding.severity, finding.note, len(finding.photos)) == ("bad", "rust bleeds out", 1)
    shown = sailor.get(f"/r/{demo_pk}/photo/{finding.photos[0]}.jpg")
    assert shown.headers["content-type"] == "image/jpeg"
    page = Elements(sailor.get(f"/r/{demo_pk}/finding/look-look-i14").text)
    assert "Standing rigging renewed" in page.texts("a")
    bundle = sailor.get(f"/r/{demo_pk}/bundle").content
    with opened(io.BytesIO(bundle)) as inside:
        assert inside.whole.refit == refit
        files = {sha256: picture.large for sha256, picture in inside.photos()}
    assert files == {photos_of(settings, demo_pk)[0].sha256: shown.content}
    there = sailor.post("/import", files={"file": ("x.refit.zip", bundle)})
    pk = int(re.findall(r"\d+", there.headers["location"])[0])
    assert refit_of(settings, pk) == refit
    assert photos_of(settings, pk) == photos_of(settings, demo_pk)
    assert sailor.get(f"/r/{pk}/photo/{finding.photos[0]}.jpg").content == shown.content


@pytest.mark.parametrize(
    ("sent", "told"), [(b"no picture at all", "not a picture"), (b"\xff\xd8\xff" + b"x" * (26 << 20), "at most 25 MB")]
)
def test_a_photo_that_is_none_or_too_large_loses_nothing_typed(
    sailor: Sailor, settings: Settings, demo_pk: int, sent: bytes, told: str
) -> None:
    before = refit_of(settings, demo_pk)
    answer = found_with(sailor, demo_pk, sent)
    assert answer.status_code == 422
    page = Elements(answer.text)
    assert told in " ".join(page.texts("p", class_="fault"))
    assert (page.value("title"), page.value("note")) == ("Weeping seacock", "Port side")
    assert '<option value="open" selected' in answer.text
    assert refit_of(settings, demo_pk) == before


def test_what_is_too_much_to_be_read_at_all_is_told(sailor: Sailor, settings: Settings, demo_pk: int) -> None:
    before = refit_of(settings, demo_pk)
    answer = found_with(sailor, demo_pk, b"\xff\xd8\xff" + b"x" * (61 << 20))
    assert (answer.status_code, "at most 25 MB" in answer.text) == (413, True)
    assert refit_of(settings, demo_pk) == before


def found_with(sailor: Sailor, pk: int, photo: bytes) -> Any:
    form = {"severity": "dangerous", "title": "Weeping seacock", "note": "Port side", "place": "open"}
    return sailor.post(f"/r/{pk}/found", form, files={"photo": ("x.jpg", photo, "image/jpeg")})


def test_a_dangerous_finding_is_on_every_page_until_it_is_settled(
    sailor: Sailor, settings: Settings, empty_pk: int
) -> None:
    sailor.post(f"/r/{empty_pk}/found", {"severity": "dangerous", "title": "Seacock moves"})
    line = Elements(sailor.get(f"/r/{empty_pk}/morning").text).texts("section", aria_label="Standing line")[0]
    assert "Dangerous" in line
    assert "Seacock moves" in line
    key = refit_of(settings, empty_pk).findings[0].id
    sailor.post(f"/r/{empty_pk}/finding/{key}/settle", {"way": "settle"})
    line = Elements(sailor.get(f"/r/{empty_pk}/morning").text).texts("section", aria_label="Standing line")[0]
    assert "Dangerous" not in line


def test_a_parked_job_that_comes_in_by_its_recipe_waits_no_longer(
    sailor: Sailor, settings: Settings, demo_pk: int
) -> None:
    page = Elements(sailor.get(f"/r/{demo_pk}/recipes/tender?parked=k2").text)
    assert page.value("parked") == "k2"
    sailor.post(f"/r/{demo_pk}/recipes/tender", {"parked": "k2"})
    made = refit_of(settings, demo_pk)
    assert "k2" not in {one.id for one in made.parked}
    assert any(job.recipe == "tender" for job in made.jobs)


def test_a_finding_leads_to_its_job(sailor: Sailor, settings: Settings, demo_pk: int) -> None:
    before = {job.id for job in refit_of(settings, demo_pk).jobs}
    sailor.post(f"/r/{demo_pk}/recipes/winches", {"count": "2", "finding": "f4"})
    made = refit_of(settings, demo_pk)
    finding = next(one for one in made.findings if one.id == "f4")
    assert finding.jobs == tuple(job.id for job in made.jobs if job.id not in before)
    assert len(finding.jobs) == 1


def test_a_decision_keeps_its_alternatives_and_its_reason(sailor: Sailor, settings: Settings, demo_pk: int) -> None:
    assert sailor.post(f"/r/{demo_pk}/decide/face-seal/school", {"reason": "x"}).status_code == 422
    sailor.post(f"/r/{demo_pk}/decide/face-seal/school", {"way": "packing", "reason": "can be mended anywhere"})
    decision = aside_of(settings, demo_pk, Decision)[0]
    assert decision.reason == "can be mended anywhere"
    assert len(decision.alternatives) == 3
    job = next(one for one in refit_of(settings, demo_pk).jobs if one.id == decision.job)
    assert any("packing" in task.title for task in job.tasks)


def test_a_result_becomes_a_part_a_duration_or_a_wait(sailor: Sailor, settings: Settings, demo_pk: int) -> None:
    sailor.post(f"/r/{demo_pk}/bench/coats", {"in-area": "20", "in-name": "Copper-free", "way": "part-0"})
    assert any(part.name == "Copper-free" and part.unit == "L" for part in refit_of(settings, demo_pk).parts)
    sailor.post(f"/r/{demo_pk}/bench/coats", {"in-area": "20", "way": "hours", "task": "bottom-12"})
    assert refit_of(settings, demo_pk).tasks["bottom-12"].work.likely == 2
    tie = next(link for link in refit_of(settings, demo_pk).links if link.then == "bottom-11")
    sailor.post(
        f"/r/{demo_pk}/bench/cure",
        {"in-least": "6", "in-most": "48", "in-temperature": "10", "way": "lag", "tie": tie.id},
    )
    changed = next(link for link in refit_of(settings, demo_pk).links if link.id == tie.id)
    assert (changed.min_lag, changed.max_lag) == (12, 96)
    assert sailor.post(f"/r/{demo_pk}/bench/cure", {"way": "lag", "tie": "gone"}).status_code == 422


def test_parked_jobs_and_things_off_the_boat_move_with_one_tap(
    sailor: Sailor, settings: Settings, demo_pk: int
) -> None:
    sailor.post(f"/r/{demo_pk}/parked/k4/place", {"way": "afloat_after"})
    assert any(job.title == "Tune the rig under sail" for job in refit_of(settings, demo_pk).jobs)
    sailor.post(f"/r/{demo_pk}/off/o1/photo", {"way": "back", "lies_at": "Shed", "note": "n"})
    item = next(one for one in refit_of(settings, demo_pk).off_boat if one.id == "o1")
    assert item.back_at is not None
    sailor.post(f"/r/{demo_pk}/jobs/tops/next-time")
    refit = refit_of(settings, demo_pk)
    assert not any(job.id == "tops" for job in refit.jobs) or any(task.begun_at for task in refit.jobs[4].tasks)
    asked = sailor.post(f"/r/{demo_pk}/unknown/u5/settle", {"way": "real"})  # what is to show it is not begun yet
    assert asked.status_code == 409
    assert "is not begun" in asked.text
    assert not any("eaten" in task.title for task in refit_of(settings, demo_pk).tasks.values())
    sailor.post(f"/r/{demo_pk}/unknown/u5/settle", {"way": "real", "anyway": "1"})
    assert any(
        task.title == "An end cap of the exchanger is eaten" for task in refit_of(settings, demo_pk).tasks.values()
    )


def test_a_finding_is_decided_properly_interim_or_next_time(sailor: Sailor, settings: Settings, demo_pk: int) -> None:
    page = Elements(sailor.get(f"/r/{demo_pk}/finding/f4/decide").text)
    titles = [words for words in page.texts("label") if words.startswith("Properly: ")]
    assert titles  # recipes that near the finding and are not in the refit already
    there = {
        job.title for job in refit_of(settings, demo_pk).jobs if job.recipe and any(not t.done_at for t in job.tasks)
    }
    assert not {words.removeprefix("Properly: ") for words in titles} & there
    assert page.attributes("input", "type").count("radio") == len(titles) + 2
    bad = sailor.post(f"/r/{demo_pk}/finding/f4/decide", {"way": "-interim", "interim_hours": "soon"})
    assert bad.status_code == 422
    sailor.post(
        f"/r/{demo_pk}/finding/f4/decide",
        {"way": "-interim", "interim_hours": "1,2", "interim_money": "14.50", "reason": "the hose comes in June"},
    )
    refit = refit_of(settings, demo_pk)
    decision = aside_of(settings, demo_pk, Decision)[0]
    assert (decision.adopted, decision.reason) == ("Interim fix now, properly next time.", "the hose comes in June")
    assert next(one for one in decision.alternatives if one.title == decision.adopted).money == 1450
    job = next(one for one in refit.jobs if one.id == decision.job)
    assert job.tasks[0].work.likely == 1.5
    assert refit.part_by_id[job.tasks[0].parts[0]].price == 1450  # the forecast knows it
    assert job.id in next(one for one in refit.findings if one.id == "f4").jobs
    assert any(one.next_time and one.title == "Chafe on the fuel hose" for one in refit.parked)
    dangerous = Elements(sailor.get(f"/r/{demo_pk}/finding/f1/decide").text)
    assert "Left to the next haul-out." not in " ".join(dangerous.texts("label"))  # she may not float like this


def test_what_afloat_would_save_is_told_in_lay_days(sailor: Sailor, settings: Settings) -> None:
    places = [{"id": "b", "name": "Bottom", "spot": "bottom"}, {"id": "s", "name": "Saloon", "spot": "saloon"}]
    jobs = [
        {"id": "dry", "title": "Bottom", "tasks": [task("a", 4, place="b")]},
        {"id": "in", "title": "Panels", "tasks": [task("c", 60, place="s")]},
    ]
    one = refit(jobs=jobs, places=places, haul_at=settings.now, launch_at=settings.now + timedelta(days=20))
    one = one.model_copy(update={"yard": one.yard.model_copy(update={"lay_day": 4000})})
    pk = kept_for_both(settings, one)
    text = " ".join(Elements(sailor.get(f"/r/{pk}/parked").text).texts("p"))
    told = re.search(r"ends (\d+) d .* sooner\. That is (\d+) lay-days, (\d+) EUR", text)
    assert told is not None
    assert told[1] == told[2]
    assert int(told[3]) == int(told[2]) * 40
    sailor.post(f"/r/{pk}/jobs/in/afloat", {"way": "afloat_after"})
    assert refit_of(settings, pk).tasks["c"].state == "afloat_after"


def test_a_task_that_settles_an_unknown_asks_what_it_was_once_it_is_done(
    sailor: Sailor, settings: Settings, demo_pk: int
) -> None:
    question = "An end cap of the exchanger is eaten"
    path = f"/r/{demo_pk}/jobs/hoses"
    assert question not in sailor.get(path).text
    sailor.post(f"/r/{demo_pk}/unknown/u1/settle", {"way": "vanished"})  # what Morning asks first
    for key in ("hoses-2", "hoses-3"):
        sailor.post(f"/r/{demo_pk}/task/{key}/done", {"anyway": "1"})
    for asking in (path, f"/r/{demo_pk}/morning"):
        assert f"Nothing there: {question}" in sailor.get(asking).text
    back = sailor.post(f"/r/{demo_pk}/unknown/u5/settle", {"way": "vanished", "next": path})
    assert back.headers["location"] == path
    assert f"Nothing there: {question}" not in sailor.get(path).text
    assert next(one for one in refit_of(settings, demo_pk).unknowns if one.id == "u5").state == "vanished"


def test_what_a_way_buys_may_be_offered_for_another_price_and_is_adopted_at_that(
    sailor: Sailor, settings: Settings, demo_pk: int
) -> None:
    where = f"/r/{demo_pk}/finding/f2/decide"
    page = Elements(sailor.get(where).text)
    ways = [has["value"] for tag, has, _ in page.found if tag == "input" and has.get("name") == "way"]
    recipe = next(way for way in ways if not way.startswith("-"))
    was = page.value(f"offer:{recipe}")
    form = {f"offer:{recipe}": "777.77", f"was:offer:{recipe}": was, "interim_hours": "2", "interim_money": "0"}
    worked = Elements(sailor.post(where, form | {"work": "1"}).text)
    assert worked.value(f"offer:{recipe}") == "777.77"
    wrong = sailor.post(where, form | {f"offer:{recipe}": "cheap", "way": recipe})
    assert wrong.status_code == 422
    assert "cheap" in Elements(wrong.text).attributes("input", "value")
    before = {part.id for part in refit_of(settings, demo_pk).parts}
    assert sailor.post(where, form | {"way": recipe, "reason": "their price"}).status_code == 303
    new = [part.price for part in refit_of(settings, demo_pk).parts if part.id not in before]
    assert sum(new) == 77777


def test_long_texts_are_one_line_and_more_and_lists_of_tasks_stand_under_their_jobs(
    sailor: Sailor, demo_pk: int
) -> None:
    note = "Ask Tico first. " + "He knows where the old plates went and what they were bedded on. " * 8
    form = {"title": "Long told", "need": "could", "note": note}
    sailor.post(f"/r/{demo_pk}/job/save", form)
    jobs = Elements(sailor.get(f"/r/{demo_pk}/jobs").text)
    key = next(one for one in jobs.attributes("a", "href") if "/jobs/j-" in one)
    line = next(one for one in Elements(sailor.get(key).text).texts("summary") if one.startswith("Ask Tico"))
    assert line.endswith("more")
    assert len(line) < 170
    tie = Elements(sailor.get(f"/r/{demo_pk}/link/new").text)
    headings = tie.attributes("optgroup", "label")
    assert headings.count("Topsides polished") == 2  # once in each of the two lists
    part = Elements(sailor.get(f"/r/{demo_pk}/part/chain/edit").text)
    assert any("Needed by: Mark the chain" in one for one in part.texts("p"))


def test_a_parked_job_waits_in_any_state_and_has_the_hours_of_its_recipe(
    sailor: Sailor, settings: Settings, demo_pk: int
) -> None:
    for state, recipe in (("lifting", ""), ("either", ""), ("ashore", "winches")):
        form = {"title": f"Later, {state}", "state": state, "hours": "3", "recipe": recipe}
        assert sailor.post(f"/r/{demo_pk}/parked/save", form).status_code == 303
    page = sailor.get(f"/r/{demo_pk}/parked").text
    assert "waits until she is being lifted and blocked" in page
    # 11.9 m: four winches, 0.8 h to strip and 0.8 h to grease each: 4 x 1.6
    assert "6.4 h by its recipe" in page


def test_a_job_planned_afloat_is_compared_with_the_same_ashore_and_moved_there(
    sailor: Sailor, settings: Settings, demo_pk: int
) -> None:
    sailor.post(f"/r/{demo_pk}/job/save", {"title": "New drain", "need": "must"})
    key = next(job.id for job in refit_of(settings, demo_pk).jobs if job.title == "New drain")
    where = next(place.id for place in refit_of(settings, demo_pk).places if place.spot == "through-hulls")
    task_ = {"title": "Cut the hole", "place": where, "state": "afloat_after", "work_likely": "3", "hands": "1"}
    task_ |= {"work_least": "", "work_most": "", "units": "1", "units_done": "0", "tender": "0", "job": key}
    assert sailor.post(f"/r/{demo_pk}/task/save", task_).status_code == 303
    assert "Compare with ashore" in sailor.get(f"/r/{demo_pk}/jobs/{key}").text
    page = Elements(sailor.get(f"/r/{demo_pk}/jobs/{key}/ashore").text)
    assert any("lets the sea in" in one for one in page.texts("p", class_="caution"))
    assert sailor.post(f"/r/{demo_pk}/jobs/{key}/afloat", {"way": "ashore"}).status_code == 303
    assert [one.state for one in refit_of(settings, demo_pk).tasks.values() if one.title == "Cut the hole"] == [
        "ashore"
    ]
    assert "Nothing of this job is planned afloat" in sailor.get(f"/r/{demo_pk}/jobs/{key}/ashore").text
