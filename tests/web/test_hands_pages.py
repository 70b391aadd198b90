"""What hands meet, on pages: from an empty refit and the demo, wrong figures too, both of two people, undone again."""

from __future__ import annotations

import re
from pathlib import Path

import pytest

from rovask.core.craft.contacts import as_it_is
from rovask.core.refit.craft.choices import Means, SeizedState, TraceState
from rovask.core.refit.model import Refit
from rovask.settings import Settings
from rovask.store.account_tables import Membership
from rovask.web.template_drawing import template_of
from tests.acts import log_of, rows_of
from tests.builders import refit
from tests.conftest import Sailor, kept_for_both
from tests.recipes.crews import begun_of
from tests.reference.test_craft import plate_of

FIT = {
    "title": "Toilet", "old-length": "240", "old-width": "200", "old-holes": "4", "old-along": "150", "old-across": "130", "old-hole": "8.5",
    "room-height": "330", "new-length": "262", "new-width": "200", "new-height": "345", "new-holes": "4", "new-along": "150",
    "new-across": "130", "new-hole": "8,5", "way-0-name": "door", "way-0-width": "430", "way-0-height": "1500",
}  # fmt: skip


def refit_of(settings: Settings, pk: int) -> Refit:
    return rows_of(settings, pk).refit


def test_it_does_not_come_from_a_task_to_off_and_back(sailor: Sailor, demo_pk: int, settings: Settings) -> None:
    """The shaft's work is under way; hours left there and the rest's are the same figure; undo takes the whole act back."""
    root = f"/r/{demo_pk}"
    left = re.search(r"under way, ([\d.]+) h\s+left", sailor.get(f"{root}/jobs/shaft").text)
    assert left is not None
    assert "It doesn’t" in sailor.get(f"{root}/jobs/shaft").text
    form = {"title": "Coupling", "task": "shaft-2", "holds": "press", "size": "35", "years": "12", "metal": "stainless", "around": "steel",
            "wet": "1", "reach": "tight", "near": "rubber", "new": "Coupling half", "price": "140,50", "days": "6"}  # fmt: skip
    before = refit_of(settings, demo_pk)
    where = sailor.post(f"{root}/hands/seized", form).headers["location"]
    row = refit_of(settings, demo_pk).seized[-1]
    assert where.endswith(row.id)
    assert (row.now, row.size_mm, row.near) == (Means.OIL, 35.0, ("rubber",))
    made = refit_of(settings, demo_pk)
    assert made.tasks[f"{row.id}-on"].work.likely == float(left[1])
    assert made.part_by_id[f"{row.id}-new"].price == 14050
    page = sailor.get(where).text
    assert "Penetrating oil" in page
    assert "never on aluminium" not in page
    assert sailor.post(f"{where}/tick", {"outcome": "perhaps"}).status_code == 422
    assert sailor.post(f"{where}/tick", {"outcome": "held"}).status_code == 303
    assert sailor.post(f"{where}/step", {"means": "puller"}).status_code == 303
    assert refit_of(settings, demo_pk).seized[-1].now is Means.PULLER
    unknown = next(one for one in refit_of(settings, demo_pk).unknowns if one.id == f"{row.id}-rest")
    refused = sailor.post(f"{root}/unknown/{unknown.id}/settle", {"way": "real"})
    assert refused.status_code == 422
    assert "On its ladder" in sailor.get(f"{root}/findings").text
    assert sailor.post(f"{where}/tick", {"outcome": "came"}).status_code == 303
    assert refit_of(settings, demo_pk).seized[-1].state is SeizedState.OFF
    told = [entry.what for entry in log_of(settings, demo_pk)][:4]
    assert told[0] == "tried “Coupling” by puller: it came"
    for _ in range(4):
        sailor.post(f"{root}/undo")
    after = refit_of(settings, demo_pk)
    assert (after.seized, after.tasks, after.links, after.unknowns, after.parts) == (
        before.seized, before.tasks, before.links, before.unknowns, before.parts,
    )  # fmt: skip


@pytest.mark.parametrize(
    ("form", "told"),
    [
        ({"title": ""}, "Name it"),
        ({"title": "Nut", "size": "0"}, "between 2 and 200"),
        ({"title": "Nut", "size": "eight"}, "number"),
        ({"title": "Nut", "years": "400"}, "between 0 and 99"),
        ({"title": "Nut", "price": "much"}, "amount"),
        ({"title": "Nut", "metal": "gold"}, "stainless"),
    ],
)
def test_what_is_typed_wrong_is_said_and_stands_there_still(
    sailor: Sailor, demo_pk: int, form: dict[str, str], told: str
) -> None:
    answer = sailor.post(f"/r/{demo_pk}/hands/seized", {"note": "behind the tank", "near": "fuel"} | form)
    assert answer.status_code == 422
    assert told in answer.text
    assert "behind the tank" in answer.text
    assert re.search(r'value="fuel"\s+checked', answer.text)


def test_a_measured_sheet_says_what_clashes_and_puts_it_in_the_plan(
    sailor: Sailor, mate: Sailor, demo_pk: int, settings: Settings
) -> None:
    root = f"/r/{demo_pk}/hands"
    where = sailor.post(f"{root}/fit", FIT | {"task": "head-3", "part": "toilet"}).headers["location"]
    page = sailor.get(where).text
    assert "11.0 mm over its base on each side" in page  # (262 - 240) ÷ 2
    assert "15.0 mm higher than there is room" in page
    assert "new holes" not in page.lower()
    key = where.rpartition("/")[2]
    revision = re.search(r'name="revision"\s+value="(\d+)"', page)
    assert revision is not None
    assert sailor.post(f"{where}/take", {"clash": "foot-length", "hours": "2,5", "money": "30"}).status_code == 303
    made = refit_of(settings, demo_pk)
    assert made.tasks[f"{key}-foot-length"].work.likely == 2.5
    assert any((one.first, one.then) == (f"{key}-foot-length", "head-3") for one in made.links)
    late = mate.post(f"{root}/fit", FIT | {"key": key, "revision": revision[1], "title": "Toilet, mine"})
    assert late.status_code == 409
    assert "Toilet, mine" in late.text
    assert refit_of(settings, demo_pk).fits[-1].title == "Toilet"
    bad = sailor.post(f"{root}/fit", FIT | {"new-height": "tall", "new-holes": "3.5", "way-0-height": ""})
    assert bad.status_code == 422
    for told in ("not a number", "whole number", "both its width and its height"):
        assert told in bad.text
    assert 'value="tall"' in bad.text
    assert sailor.post(f"/r/{demo_pk}/fit/{key}/remove", {"next": root}).headers["location"] == root


def numbers(path: str) -> list[float]:
    return [float(one) for one in re.findall(r"-?\d+\.\d+", path)]


def test_a_template_measures_what_was_typed_to_a_tenth_of_a_millimetre(sailor: Sailor, demo_pk: int) -> None:
    """In the SVG as it is served: one user unit a millimetre, the outline, the holes and the ruler measured again."""
    text = sailor.get(f"/r/{demo_pk}/hands/shape/sh1/template").text
    papers = re.findall(r"<svg.*?</svg>", text, re.DOTALL)
    assert papers
    for paper in papers:
        assert re.search(r'width="210mm"\s+height="297mm"\s+viewBox="0 0 210 297"', paper)
        ruler = re.search(r'class="ruler"[^>]*?d="M(\d+\.?\d*) \d+\.?\d*H(\d+\.?\d*)', paper, re.DOTALL)
        assert ruler is not None
        assert float(ruler[2]) - float(ruler[1]) == pytest.approx(150, abs=0.1)
    cut = re.search(r'<path d="(M[^"]*)"', papers[0])
    assert cut is not None
    places = numbers(cut[1])
    xs, ys = places[::2], places[1::2]
    assert sorted((max(xs) - min(xs), max(ys) - min(ys))) == pytest.approx([176.0, 236.0], abs=0.1)
    radii = [float(one) for one in re.findall(r'<circle[^>]*?r="([\d.]+)"', papers[0], re.DOTALL)]
    assert sorted(radii)[-1] == pytest.approx(22.0, abs=0.1)
    mirrored = sailor.get(f"/r/{demo_pk}/hands/shape/sh1/template?mirrored=1").text
    assert "MIRRORED" in mirrored
    whole = sailor.get(f"/r/{demo_pk}/hands/shape/sh1/file.svg")
    assert whole.headers["content-type"].startswith("image/svg+xml")
    assert 'width="238.000mm"' in whole.text  # a millimetre round it


def test_a_huge_template_is_refused_kindly_and_a_turned_one_takes_fewer_sheets() -> None:
    assert template_of(plate_of(4000, 4000)).too_many
    assert len(template_of(plate_of(240, 100)).sheets) == 1  # turned by a quarter
    assert len(template_of(plate_of(300, 300)).sheets) == 4


def test_a_shape_wrong_right_mirrored_and_gone(sailor: Sailor, empty_pk: int, settings: Settings) -> None:
    root = f"/r/{empty_pk}/hands/shape"
    bad = sailor.post(root, {"title": "Plate", "corners": "0 0\n10\n20 x", "holes": "5 5 0"})
    assert bad.status_code == 422
    for told in ("line 2: two numbers", "line 3", "no wider than nothing"):
        assert told in bad.text
    assert "20 x" in bad.text
    where = sailor.post(
        root,
        {"title": "Plate", "corners": "0 0\n120 0\n120 80", "holes": "100 20 8.5", "of": "aluminium", "thick": "6"},
    ).headers["location"]
    page = sailor.get(where).text
    assert "48 cm²" in page  # 120 x 80 ÷ 2
    other = sailor.post(f"{where}/mirror").headers["location"]
    assert "The other side of" in sailor.get(other).text
    assert refit_of(settings, empty_pk).shapes[1].corners[0].x in (-120.0, 0.0)
    sailor.post(f"/r/{empty_pk}/shape/{where.rpartition('/')[2]}/remove")
    assert refit_of(settings, empty_pk).shapes[0].mirror_of is None  # it does without


def test_a_search_from_an_empty_refit_to_a_finding(sailor: Sailor, empty_pk: int, settings: Settings) -> None:
    root = f"/r/{empty_pk}"
    where = sailor.post(f"{root}/hands/trace", {"about": "water", "title": "Wet bilge", "place": "hull"}).headers[
        "location"
    ]
    sailor.post(f"{where}/clues", {"clue-taste": "fresh", "clue-comes": "rain", "clue-where": "high"})
    page = " ".join(sailor.get(where).text.split())
    shown = re.search(r'font-semibold">(\d+)</span><span class="grow">A fitting on deck', page)
    assert shown is not None
    assert 40 <= int(shown[1]) <= 44  # 4.725 of some 11.3, worked out by hand
    assert sailor.post(f"{where}/own", {"name": "The hawse pipe", "weight": "9", "minutes": "15"}).status_code == 303
    assert sailor.post(f"{where}/own", {"name": "", "weight": "9"}).status_code == 422
    assert sailor.post(f"{where}/look", {"candidate": "made-up", "showed": "clear"}).status_code == 422
    assert sailor.post(f"{where}/look", {"candidate": "windows", "showed": "clear"}).status_code == 303
    finding = sailor.post(f"{where}/look", {"candidate": "own0", "showed": "source", "note": "runs in"}).headers[
        "location"
    ]
    assert "The hawse pipe" in sailor.get(finding).text or "the hawse pipe" in sailor.get(finding).text
    assert refit_of(settings, empty_pk).traces[0].state is TraceState.FOUND
    assert sailor.post(f"{where}/end", {"way": "again"}).status_code == 303
    refused = sailor.post(f"{where}/end", {"why": " "})
    assert refused.status_code == 422
    assert sailor.post(f"{where}/end", {"why": "launch tomorrow"}).status_code == 303
    assert "launch tomorrow" in sailor.get(where).text


def test_metals_are_walked_over_and_kept_apart_as_one_job(sailor: Sailor, demo_pk: int, settings: Settings) -> None:
    root = f"/r/{demo_pk}/hands/contacts"
    page = sailor.get(root).text
    assert "Never beside each other" in page
    titles = re.findall(r'name="title-(\d+)"\s+value="([^"]+)"', page)
    assert titles
    number, title = titles[0]
    sailor.post(root, {f"title-{number}": title, f"usual-{number}": "touch"})
    assert refit_of(settings, demo_pk).contacts[-1].title == title.replace("&#39;", "'")
    own = {
        "title": "Cleat on the rail",
        "one": "aluminium",
        "other": "stainless",
        "wet": "under water",
        "larger": "other",
        "place": "deck",
    }
    sailor.post(root, own)
    keys = [one.id for one in refit_of(settings, demo_pk).contacts]
    job = sailor.post(f"{root}/apart", {"contact": [keys[0], keys[-1]]}).headers["location"].rpartition("/")[2]
    made = refit_of(settings, demo_pk)
    assert next(one for one in made.jobs if one.id == job).tasks[0].units == 2
    assert {one.job for one in made.contacts} >= {job}
    assert sailor.post(root, {"row-co2": "gone"}).status_code == 303
    assert "co2" not in {one.id for one in refit_of(settings, demo_pk).contacts}
    assert sailor.post(f"{root}/apart", {}).status_code == 422
    assert sailor.post(root, {}).status_code == 422
    assert sailor.post(root, own | {"one": "gold"}).status_code == 422
    assert sailor.get(root).status_code == 200


def test_something_in_the_way_is_opened_once(sailor: Sailor, demo_pk: int, settings: Settings) -> None:
    root = f"/r/{demo_pk}/hands"
    tasks = [
        one.id for one in refit_of(settings, demo_pk).tasks.values() if one.place == "saloon" and not one.begun_at
    ][:2]
    form = {
        "title": "Sole boards",
        "sort": "sole",
        "place": "saloon",
        "open": "1,5",
        "close": "1",
        "bunks": "1",
        "task": tasks,
    }
    where = sailor.post(f"{root}/cover", form).headers["location"]
    page = sailor.get(where).text
    assert "Opened once for" in page
    made = refit_of(settings, demo_pk)
    key = where.rpartition("/")[2]
    assert made.tasks[f"{key}-open"].work.likely == 1.5
    assert "Sole boards" in sailor.get(f"/r/{demo_pk}/off").text  # the gate asks for it
    bad = sailor.post(f"{root}/cover", form | {"title": "", "open": "0"})
    assert bad.status_code == 422
    assert "Name it" in bad.text
    assert sailor.post(f"{where}/open", {}).status_code == 422
    dusty = next(one.id for one in made.tasks.values() if "dust" in one.emits and not one.begun_at)
    answer = sailor.post(f"{root}/tape", {"task": dusty, "hours": "2"})
    assert answer.status_code == 303
    assert refit_of(settings, demo_pk).tasks[dusty].contained_by is not None
    assert sailor.post(f"{root}/tape", {"task": dusty, "hours": "long"}).status_code == 422


def test_what_is_gone_says_so_and_a_reader_only_reads(
    sailor: Sailor, demo_pk: int, settings: Settings, client: object
) -> None:
    root = f"/r/{demo_pk}/hands"
    for kind in ("seized", "fit", "shape", "trace", "cover"):
        assert sailor.get(f"{root}/{kind}/none").status_code == 404
    assert sailor.get(f"{root}/coats?under=soft").text.count("Hard antifouling") >= 1
    reader = Sailor(sailor.client, settings, "Reader").joins(demo_pk, Membership.READER)
    for path in ("", "/seized/se1", "/fit/fi1", "/shape/sh1", "/trace/tr1", "/contacts", "/coats", "/cover/cv1"):
        page = reader.get(f"{root}{path}")
        assert page.status_code == 200, path
        assert 'method="post"' not in re.sub(r"(?s)<header.*?</header>", "", page.text), path


def test_the_tables_ship_with_the_package() -> None:
    folder = Path(__file__).parents[2] / "src/rovask/recipes"
    assert {one.name for one in folder.glob("_*.toml")} == {
        "_common.toml", "_seized.toml", "_fits.toml", "_whence.toml", "_contacts.toml", "_coats.toml",
    }  # fmt: skip


def test_a_thing_met_in_no_task_is_tried_where_it_was_said_to_be(
    sailor: Sailor, demo_pk: int, settings: Settings
) -> None:
    """Not at the masthead, which is her first place; the job's sheet and Morning lead to its ladder while it is tried."""
    root = f"/r/{demo_pk}"
    sailor.post(f"{root}/hands/seized", {"title": "Skeg bolt", "place": "keel", "size": "12", "around": "iron"})
    row = refit_of(settings, demo_pk).seized[-1]
    assert refit_of(settings, demo_pk).tasks[f"{row.id}-oil"].place == "keel"
    assert "Did it come?" in sailor.get(f"{root}/jobs/{row.id}-job").text
    assert f"Still fast: {row.title}" in sailor.get(f"{root}/launch?all=yes").text
    assert "Sits fast: Skeg bolt; oil is next" in sailor.get(f"{root}/since?since=1.5.2026").text
    sailor.post(f"{root}/hands/seized/{row.id}/stop", {"way": "up"})
    assert f"Still fast: {row.title}" not in sailor.get(f"{root}/launch?all=yes").text


def test_without_a_place_on_her_nothing_breaks_and_it_is_said(sailor: Sailor, settings: Settings) -> None:
    bare = kept_for_both(settings, refit(jobs=[], places=[]))
    for path, form in (("seized", {"title": "Nut"}), ("trace", {"title": "Water"})):
        answer = sailor.post(f"/r/{bare}/hands/{path}", form)
        assert answer.status_code == 422
        assert "She has no places yet" in answer.text


def test_a_catamaran_is_drawn_by_her_port_or_her_starboard_side(sailor: Sailor, settings: Settings) -> None:
    pk = kept_for_both(settings, begun_of("catamaran"))
    port, starboard = (sailor.get(f"/r/{pk}/boat?side={side}").text for side in ("port", "starboard"))

    def drawn(page: str) -> set[str]:
        svg = page[page.index('class="min-w-[44rem]') : page.index("Upper half")]
        return set(re.findall(r"place=([a-z0-9-]+)", svg))

    places = {place.id: place.which for place in begun_of("catamaran").places}
    assert {places[key] for key in drawn(port)} <= {None, "port"}
    assert {places[key] for key in drawn(starboard)} <= {None, "starboard"}
    assert "Of what there are two of" not in sailor.get(f"/r/{kept_for_both(settings, begun_of('cutter'))}/boat").text


def test_metals_whose_job_is_done_are_kept_apart(sailor: Sailor, demo_pk: int, settings: Settings) -> None:
    root = f"/r/{demo_pk}"
    job = sailor.post(f"{root}/hands/contacts/apart", {"contact": "co1"}).headers["location"].rpartition("/")[2]
    contact = next(one for one in refit_of(settings, demo_pk).contacts if one.id == "co1")
    assert not as_it_is(refit_of(settings, demo_pk), contact).apart
    for task in next(one for one in refit_of(settings, demo_pk).jobs if one.id == job).tasks:
        sailor.post(f"{root}/task/{task.id}/done", {"anyway": "1"})
    assert as_it_is(refit_of(settings, demo_pk), contact).apart
