"""The drawing of the boat: each of four boats is her own, to scale, with every place to be chosen."""

from __future__ import annotations

import re
from datetime import timedelta

import pytest

from rovask.core.readings.standings import Standing, standings
from rovask.core.recipes.places import places_of
from rovask.core.refit.edits import put
from rovask.core.refit.givens.choices import Spot
from rovask.core.refit.givens.kinds import Boat
from rovask.core.refit.model import Finding, OffBoat
from rovask.core.refit.work.edits import update_task
from rovask.formats.recipe_file import library
from rovask.web.boat.drawing import draw
from rovask.web.boat.lines import lines_of
from tests.boats import BOATS
from tests.builders import HAUL, link, refit, task

WIDTH = 800.0


def refit_with(boat: str, *tasks, **more):  # type: ignore[no-untyped-def]
    places = places_of(Boat.model_validate(BOATS[boat]), library().common)
    rows = [place.model_dump(mode="json") for place in places]
    return refit(*tasks, boat=BOATS[boat], places=rows, **more)


def boxed(path: str) -> tuple[float, float, float, float]:
    """Left, top, right, bottom of a path of absolute points."""
    pairs = [(float(x), float(y)) for x, y in re.findall(r"[ML](-?[\d.]+) (-?[\d.]+)", path)]
    xs, ys = [x for x, _ in pairs], [y for _, y in pairs]
    return min(xs), min(ys), max(xs), max(ys)


@pytest.mark.parametrize("name", BOATS)
def test_a_boat_is_drawn_to_the_scale_of_her_own_figures(name: str) -> None:
    one = refit_with(name)
    boat, drawing = one.boat, draw(one, standings(one, HAUL), WIDTH)
    shapes = {shape.place: boxed(shape.path) for shape in drawing.shapes if "a" not in shape.path}
    left, top, right, _ = shapes["topsides"]
    assert (right - left) / drawing.scale == pytest.approx(boat.length_m, abs=0.02)
    assert (shapes["keel"][3] - drawing.waterline) / drawing.scale == pytest.approx(boat.draft_m, abs=0.02)
    lines = lines_of(boat)
    assert (drawing.waterline - top) / drawing.scale == pytest.approx(max(lines.bow, lines.stern), abs=0.05)
    across = [y for poly in lines.plan["outline"] for _, y in poly]
    assert max(across) - min(across) == pytest.approx(boat.beam_m, abs=0.05)
    for shape in shapes.values():
        assert shape[0] >= -0.1 and shape[2] <= WIDTH + 0.1 and shape[1] >= -0.1 and shape[3] <= drawing.height + 0.1


@pytest.mark.parametrize("name", BOATS)
def test_every_place_can_be_chosen_on_the_drawing_or_beside_it(name: str) -> None:
    one = refit_with(name)
    drawing = draw(one, standings(one, HAUL), WIDTH)
    assert {shape.place for shape in (*drawing.shapes, *drawing.elsewhere)} == {place.id for place in one.places}
    beside = {one.place_by_id[shape.place].spot for shape in drawing.elsewhere}
    doubles = {place.spot for place in one.places if place.id.endswith("-2")}
    assert beside <= doubles | {Spot.ASHORE, Spot.HEADS}


def test_what_makes_each_boat_hers_is_there() -> None:
    lines = {name: lines_of(Boat.model_validate(boat)) for name, boat in BOATS.items()}
    assert len(lines["ketch"].masts) == 2
    assert lines["ketch"].masts[1].top < lines["ketch"].masts[0].top
    assert len(lines["catamaran"].plan["outline"]) > 2
    assert "skeg" in lines["cutter"].profile
    assert "skeg" not in lines["ketch"].profile
    assert max(x for x, _ in lines["sloop"].profile["rudder"]) > BOATS["sloop"]["length_m"]
    whole = draw(refit_with("cutter"), standings(refit_with("cutter"), HAUL), WIDTH, whole=True)
    tall = (whole.waterline - min(boxed(spar)[1] for spar in whole.spars)) / whole.scale
    assert tall == pytest.approx(BOATS["cutter"]["mast_height_m"], abs=0.05)


def test_a_place_says_how_it_stands() -> None:
    one = refit_with(
        "cutter",
        task("a", place="bottom", tender=6),
        task("b", place="bottom"),
        task("c", place="keel"),
        links=[link("a", "b", 12)],
    )

    def stand(refit_, hours: float = 6.0) -> Standing:  # type: ignore[no-untyped-def]
        return standings(refit_, HAUL + timedelta(hours=hours))["bottom"].standing

    assert stand(one) is Standing.WAITING
    begun = update_task(one, "a", begun_at=HAUL, crew=("ann",))
    assert stand(begun) is Standing.WORKING
    done = update_task(begun, "a", done_at=HAUL + timedelta(hours=4))
    assert stand(done, 15) is Standing.CURING
    assert stand(done, 17) is Standing.WAITING
    off = put(done, OffBoat(id="o", what="Anodes", off_task="a", back_task="b"))
    assert stand(off, 17) is Standing.OPEN
    both = update_task(off, "b", begun_at=HAUL + timedelta(hours=17), crew=("ann",), done_at=HAUL + timedelta(hours=20))
    assert stand(both, 21) is Standing.DONE
    assert standings(both, HAUL)["rudder"].standing is Standing.NOTHING


def test_findings_are_pinned_where_they_were_found_the_worst_first() -> None:
    one = refit_with("cutter")
    for key, place, severity, settled in (
        ("a", "keel", "watch", False),
        ("b", "engine", "dangerous", False),
        ("c", "keel", "bad", True),
    ):
        one = put(one, Finding(id=key, title=key, place=place, severity=severity, at=HAUL, settled=settled))
    pins = draw(one, standings(one, HAUL), WIDTH).pins
    assert [(pin.number, pin.finding) for pin in pins] == [(1, "b"), (2, "a")]


@pytest.mark.parametrize(
    ("wrong", "told"),
    [
        ({"draft_m": 12}, "swapped units"),
        ({"beam_m": 40}, "larger than the length"),
        ({"waterline_m": 13}, "longer than the boat"),
        ({"freeboard_bow_m": 6}, "swapped units"),
        ({"mast_height_m": 55}, "swapped units"),
        ({"length_m": -1}, "greater than 0"),
    ],
)
def test_impossible_dimensions_are_refused_in_words(wrong: dict[str, float], told: str) -> None:
    with pytest.raises(ValueError, match=told):
        Boat.model_validate(BOATS["cutter"] | wrong)
