"""How much: litres, kilos and pieces worked out by hand for two boats each, and man-hours a square metre or piece in bounds.

Areas are those of the Bench (tests/reference/test_bench.py): the cutter's bottom 40.4 m² and topsides 30.7, the sloop's 16.0 and
10.6, the ketch's bottom 56.6, the catamaran's 49.3. The bounds are what a yard's estimator would sign: common practice.
"""

from __future__ import annotations

import pytest

from rovask.core.recipes.answers import Answers, checked_answers, refusals, values_of
from rovask.core.recipes.expand import Expansion, expand
from rovask.core.recipes.formula import number
from rovask.core.refit.edits import rebuilt
from rovask.core.refit.work.choices import Deed
from tests.boats import BOATS
from tests.recipes.crews import ALWAYS, LIBRARY, begun_of, fitting, with_recipes


def made(boat: str, key: str, **given: str | float) -> Expansion:
    return expand(LIBRARY, LIBRARY.recipes[key], begun_of(boat), given)


def hours(found: Expansion, *steps: str) -> float:
    """Man-hours of some steps; of all where none is named."""
    return sum(
        task.work.likely * task.units * task.hands
        for task in found.job.tasks
        if not steps or task.id.removeprefix(f"{found.job.id}-") in steps
    )


# recipe, boat, answers, part, quantity; and how it was worked out
BY_HAND: list[tuple[str, str, Answers, str, float, str]] = [
    ("bottom-coating", "cutter", {}, "Antifouling", 12, "(40.4 × 2 + 13.47) ÷ 8.18 = 11.52, to the next half"),
    ("bottom-coating", "sloop", {}, "Antifouling", 5, "(32 + 5.33) ÷ 8.18 = 4.56"),
    ("bottom-coating", "cutter", {}, "Paper 80", 41, "a sheet a square metre"),
    ("bottom-coating", "sloop", {}, "Paper 80", 16, "a sheet a square metre"),
    ("barrier", "cutter", {}, "Epoxy barrier coat with hardener", 23, "40.4 × 3 ÷ 6 × 1.1 = 22.2"),
    ("barrier", "sloop", {"coats": 4}, "Epoxy barrier coat with hardener", 12, "16 × 4 ÷ 6 × 1.1 = 11.7"),
    ("blisters", "cutter", {}, "Epoxy filler", 0.25, "40 × 0.18 × 2³ = 58 cm³, 0.1 kg with what is lost"),
    ("blisters", "sloop", {"blisters": 200, "size": 60}, "Epoxy filler", 14, "200 × 0.18 × 6³ = 7.8 L × 1.2 × 1.5"),
    ("boot-top", "cutter", {}, "Boot-top enamel", 0.75, "12.6 × 2 × 0.1 × 2 ÷ 10 = 0.504"),
    ("boot-top", "catamaran", {}, "Boot-top enamel", 1, "12.1 × 4 × 0.1 × 2 ÷ 10 = 0.968: two hulls"),
    ("void", "cutter", {}, "Two-part closed-cell foam", 1.1, "20 L × 50 kg/m³ and a tenth"),
    ("void", "sloop", {"litres": 100}, "Two-part closed-cell foam", 5.5, "100 L × 50 kg/m³ and a tenth"),
    ("varnish", "cutter", {}, "Varnish", 1.5, "25.2 × 0.2 × 3 ÷ 12 = 1.26, to the next quarter"),
    ("varnish", "sloop", {}, "Varnish", 0.75, "14.8 × 0.2 × 3 ÷ 12 = 0.74"),
    ("varnish", "cutter", {"state": "bare", "coats": 6}, "Varnish", 2.75, "25.2 × 0.2 × 6 ÷ 12 = 2.52"),
    ("keel-joint", "cutter", {"school": "rebed"}, "Keel bedding sealant", 2.4, "12.6 × 0.19 = 2.39"),
    ("keel-joint", "sloop", {"school": "rebed"}, "Keel bedding sealant", 1.5, "7.4 × 0.19 = 1.41"),
    ("steel-coating", "ketch", {}, "Epoxy for blasted steel with hardener", 40, "56.6 × 280 ÷ 600 ÷ 0.67 = 39.4"),
    ("steel-coating", "ketch", {"film": 250}, "Epoxy for blasted steel with hardener", 36, "56.6 × 250 ÷ 600 ÷ 0.67 = 35.2"),
    ("iron-keel", "cutter", {}, "Epoxy for steel with hardener", 5, "6 m² × 4 ÷ 6 × 1.1 = 4.4"),
    ("iron-keel", "sloop", {}, "Epoxy for steel with hardener", 2, "2 m² × 4 ÷ 6 × 1.1 = 1.5"),
    ("anodes", "ketch", {}, "Anode set", 9, "56.6 ÷ 8: eight on the hull, one on the shaft"),
    ("anodes", "aluminium", {}, "Anode set", 5, "25.8 ÷ 8: four on the hull, one on the shaft"),
    ("panel", "cutter", {}, "Tinned cable, by section", 253, "23 circuits × 11 m"),
    ("panel", "sloop", {}, "Tinned cable, by section", 78, "13 circuits × 6 m"),
    ("heads", "cutter", {}, "Sanitary hose", 10, "with a holding tank"),
    ("heads", "catamaran", {}, "Sanitary hose", 16, "two of 8 m, no tank"),
    ("standing-rigging", "cutter", {}, "Wire with terminals, to measure", 12, "a cutter's"),
    ("standing-rigging", "sloop", {}, "Wire with terminals, to measure", 7, "a small sloop's"),
    ("standing-rigging", "ketch", {}, "Wire with terminals, to measure", 16, "ten and six"),
    ("chain", "sloop", {"renew": "yes"}, "Chain", 15, "2.2 t: 15 m of 6 mm, and rope"),
    ("chain", "cutter", {"renew": "yes"}, "Chain", 60, "11.5 t: 60 m of 10 mm"),
    ("topsides", "cutter", {"school": "two"}, "Topside enamel, two-pack with hardener", 7, "30.7 × 2 ÷ 10 = 6.1"),
    ("topsides", "cutter", {"school": "two"}, "Undercoat", 7, "30.7 × 2 ÷ 10: two undercoats"),
    ("topsides", "sloop", {"school": "one", "coats": 1}, "Undercoat", 2, "10.6 ÷ 10: one undercoat"),
    ("topsides", "cutter", {"school": "spray"}, "Topside enamel, two-pack with hardener", 11, "30.7 × 2 ÷ 6 = 10.2"),
    ("bilge-pumps", "catamaran", {}, "Bilge pump", 4, "two a hull"),
    ("bilge-pumps", "catamaran", {}, "High-water alarm", 2, "one a hull"),
    ("bilge-pumps", "cutter", {}, "Bilge pump", 2, "two"),
    ("gas", "cutter", {}, "Copper pipe, saddles and fittings", 8, "12.6 × 0.6 = 7.6"),
    ("gas", "ketch", {}, "Copper pipe, saddles and fittings", 9, "14.2 × 0.6 = 8.5"),
    ("non-skid", "cutter", {}, "Deck paint and grit", 5, "17 m² × 2 ÷ 8 = 4.25"),
    ("non-skid", "sloop", {}, "Deck paint and grit", 2, "6 m² × 2 ÷ 8 = 1.5"),
    ("running-rigging", "cutter", {}, "Line, by thickness", 116, "3 × 17.5 × 2.2 = 115.5"),
    ("running-rigging", "sloop", {}, "Line, by thickness", 66, "3 × 10 × 2.2"),
    ("through-hulls", "cutter", {}, "Through-hull fitting, bronze", 4, "a third of eleven"),
    ("through-hulls", "sloop", {}, "Through-hull fitting, bronze", 1, "a third of two, at least one"),
    ("keel-bonds", "catamaran", {}, "Laminating epoxy with hardener", 6, "1 m × 2 × 3 kg"),
    ("nets", "catamaran", {}, "Trampoline net, to measure", 2, "two"),
]  # fmt: skip


@pytest.mark.parametrize(("key", "boat", "given", "part", "quantity", "how"), BY_HAND)
def test_what_is_bought_is_what_a_pencil_says(
    key: str, boat: str, given: Answers, part: str, quantity: float, how: str
) -> None:
    found = expand(LIBRARY, LIBRARY.recipes[key], begun_of(boat), given)
    assert {one.name: one.quantity for one in found.parts}[part] == pytest.approx(quantity), how


# Man-hours of the whole job for one of what it is measured by (a formula of the recipe), at least and at most.
BOUNDS: dict[str, tuple[Answers, str, float, float]] = {
    "barrier": ({}, "bottom_area", 1.9, 2.8),
    "bilge-pumps": ({}, "pumps", 6, 7.5),
    "bottom-coating": ({}, "bottom_area", 1.0, 1.6),
    "chainplates": ({"mast": "up"}, "plates", 1.5, 9),
    "copper-resin": ({}, "bottom_area", 0.6, 1.3),
    "engine-mounts": ({}, "count * engines", 2.5, 5),
    "hatches": ({}, "count", 3.5, 5.6),
    "heads": ({}, "count", 8, 12),
    "laminate": ({"hole": 600, "skin": 20}, "area", 40, 80),
    "metal-valves": ({"welds": 2}, "count", 5, 10),
    "non-skid": ({}, "area", 1.5, 3.2),
    "panel": ({}, "circuits", 2, 3),
    "portlights": ({}, "count", 3.5, 4.8),
    "shaft-bearing": ({}, "engines", 18, 24),
    "stanchions": ({}, "count", 0.8, 2.6),
    "standing-rigging": ({}, "all_stays", 3, 5.5),
    "steel-coating": ({}, "bottom_area", 1.4, 2),
    "through-hulls": ({}, "count", 5, 8),
    "topsides": ({"school": "two"}, "topsides_area", 2.6, 3.6),
    "valve-service": ({}, "count", 0.9, 1.3),
    "varnish": ({}, "metres", 1.2, 1.6),
    "winches": ({}, "count", 1.3, 2),
}


@pytest.mark.parametrize("boat", BOATS)
def test_man_hours_for_one_of_it_lie_in_the_bounds_of_the_trade(boat: str) -> None:
    for key, (given, measure, least, most) in BOUNDS.items():
        recipe, refit = LIBRARY.recipes[key], begun_of(boat)
        answers = checked_answers(recipe, refit, given)
        if refusals(recipe, refit, answers):
            continue
        each = hours(expand(LIBRARY, recipe, refit, given)) / number(measure, values_of(recipe, refit, answers))
        assert least <= each <= most, (key, boat, round(each, 2))


def test_preparing_a_cutters_topsides_takes_its_55_to_70_hours_and_stripping_her_bottom_one_a_square_metre() -> None:
    found = made("cutter", "topsides", school="two")
    assert 55 <= hours(found, "wash", "sand", "key", "mask") <= 70
    assert hours(found, "under1", "under2", "two1", "two2") < 30
    assert hours(made("cutter", "barrier"), "scrape") == pytest.approx(40.4, abs=1)
    assert hours(made("sloop", "barrier"), "scrape") == pytest.approx(16, abs=1)


def test_many_units_are_rounded_once_and_not_each() -> None:
    """Thirteen bases of 0.7 h are 9.1, planned as 9.5; each rounded up they were 13."""
    found = made("cutter", "stanchions")
    refit = with_recipes(begun_of("cutter"), "stanchions")
    bed = next(task for task in found.job.tasks if task.id.endswith("-bed"))
    assert (bed.units, bed.work.least, bed.work.likely, bed.work.most) == (13, 0.5, 0.7, 1.2)
    assert refit.hours_to_do(bed) == 9.5
    assert refit.hours_to_do(bed, bed.work.most) == 16.0  # 15.6
    assert refit.hours_to_do(bed.model_copy(update={"units_done": 11})) == 1.5  # two of them


def test_least_and_most_keep_their_distance_in_every_task() -> None:
    for boat in BOATS:
        for key in [*ALWAYS, *fitting(boat)]:
            if key in ALWAYS:
                continue
            for task in made(boat, key).job.tasks:
                assert task.work.least < task.work.likely < task.work.most, task.id


def test_a_thick_laminate_is_laid_in_sessions_that_stay_cool() -> None:
    """30 mm: 23 plies of 1.31 mm, four a session (5.2 mm), six sessions, the next 5 to 24 h later."""
    found = made("cutter", "laminate", skin=30, hole=300)
    lays = [task for task in found.job.tasks if task.title.startswith("Lay up")]
    assert len(lays) == 6
    assert all(task.work.likely <= 8 for task in lays)
    waits = [link for link in found.links if link.then in {task.id for task in lays[1:]}]
    assert {(link.min_lag, link.max_lag, link.cures) for link in waits} == {(5, 24, True)}
    refit = with_recipes(begun_of("cutter"), ("laminate", {"skin": 30, "hole": 300}))
    assert all(task.id in refit.tasks for task in lays)


def test_a_transom_rudder_is_a_morning_of_own_hands() -> None:
    found = made("sloop", "rudder")
    assert hours(found) == pytest.approx(8, abs=1.5)
    assert found.skills == frozenset()
    assert not [task for task in found.job.tasks if Deed.LIFTS in task.does]


def test_plates_come_off_together_only_where_the_mast_comes_out() -> None:
    """Six plates one by one are some two weeks; with the mast ashore all are back within one, and nobody stands on none."""
    refit = begun_of("cutter")
    recipe = LIBRARY.recipes["chainplates"]
    assert "takes her mast out" in refusals(recipe, refit, checked_answers(recipe, refit, {"mast": "out"}))[0]
    assert len([task for task in made("cutter", "chainplates").job.tasks if "jury stay on" in task.title]) == 6
    out = with_recipes(refit, "mast-out", "chainplates")
    assert not [task for task in out.tasks.values() if "jury stay" in task.title]
    own = refit.jobs[0].tasks[0].model_copy(update={"title": "Mast out with the club's crane"})
    told = rebuilt(
        refit, jobs=(refit.jobs[0].model_copy(update={"tasks": (own, *refit.jobs[0].tasks[1:])}), *refit.jobs[1:])
    )
    assert refusals(recipe, told, checked_answers(recipe, told, {"mast": "out"})) == []
