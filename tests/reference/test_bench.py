"""The bench against something outside the project; the source is named at each check.

Physics by textbook definitions; where a value comes from memory the test says so.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from datetime import UTC, datetime
from functools import cache
from itertools import product
from typing import Any

import psychrolib
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from rovask.core.bench import laminate, loads, metal, paint, water
from rovask.core.bench.all_calculators import CALCULATORS, read_values, worked
from rovask.core.bench.bottom import bottom_area, estimated_bottom_area
from rovask.core.bench.calculator import AskedAt, Result
from rovask.core.plain.faults import RefitFaults
from rovask.core.plan.planner import make_plan
from rovask.core.recipes.preview import Pick, filled
from rovask.core.refit.model import Boat, Refit
from rovask.formats.recipe_file import library
from rovask.web.bench_drawings import drawn
from tests.boats import BOATS
from tests.builders import refit, task


def here(**more: Any) -> AskedAt:
    one = refit(task("a"), **more)
    return AskedAt(one, make_plan(one, one.haul_at), one.haul_at)


@cache
def some_place() -> AskedAt:
    return here()


def result(key: str, place: AskedAt | None = None, **typed: str) -> Result:
    place = place or here()
    return worked(CALCULATORS[key], read_values(CALCULATORS[key], typed, place), place)


def row(found: Result, label: str) -> str:
    return next(one.value for one in found.rows if one.label == label)


@settings(max_examples=100, deadline=None, derandomize=True)
@given(st.floats(5, 100), st.floats(10, 500), st.floats(0.1, 50))
def test_paint_is_neither_made_nor_lost(solids: float, dry: float, area: float) -> None:
    """By definition of volume solids: the dry film's volume over the area is the solids of the litres laid."""
    litres = area / paint.spreading_rate(solids, dry)
    assert litres * solids / 100 == pytest.approx(area * dry / 1000)
    assert paint.wet_film(solids, dry) * area / 1000 == pytest.approx(litres)


def every_way(litres: float, sizes: Sequence[float]) -> list[tuple[int, float]]:
    """Every combination of tins, as (how many, left over); the slow way."""
    most = [math.ceil(litres / size) + 1 for size in sizes]
    out = []
    for counts in product(*(range(n + 1) for n in most)):
        left = sum(n * size for n, size in zip(counts, sizes, strict=True)) - litres
        if left > -1e-9:
            out.append((sum(counts), left))
    return out


@settings(max_examples=60, deadline=None, derandomize=True)
@given(st.integers(1, 1500), st.sampled_from([(0.75, 2.5, 5.0), (1.0, 4.0), (0.5, 2.0, 3.0)]))
def test_the_tins_are_the_fewest_that_leave_little(cl: int, sizes: tuple[float, ...]) -> None:
    litres = cl / 100
    tins = paint.tins_for(litres, sizes)
    held = sum(size * count for size, count in tins.items())
    slack = max(min(sizes), litres * 0.1) + 0.006
    fair = [(count, left) for count, left in every_way(litres, sizes) if left <= slack]
    assert held >= litres - 1e-9
    assert sum(tins.values()) == min(count for count, _ in fair)


def test_nine_millimetres_at_twelve_to_one_are_a_hand_and_seven_plies() -> None:
    """12:1 is common practice: 9 mm takes 108 mm; at 1.31 mm a ply of 900 g/m² (0.9 / 2.55 + 1.1 / 1.15) it is seven plies."""
    taper = laminate.taper_of(100, 9, 12)
    assert taper.width == pytest.approx(108)
    assert laminate.ply_thickness(0.9, 0.45) == pytest.approx(0.9 / 2.55 + 0.9 * 0.55 / 0.45 / 1.15)
    assert len(taper.plies) == 7
    assert taper.plies[0].across == pytest.approx(100 + 2 * 108)
    steps = {round(a.across - b.across, 6) for a, b in zip(taper.plies, taper.plies[1:], strict=False)}
    assert len(steps) == 1
    small = laminate.taper_of(100, 9, 12, largest_first=False)
    assert [ply.across for ply in small.plies] == [ply.across for ply in reversed(taper.plies)]


@settings(max_examples=100, deadline=None, derandomize=True)
@given(st.floats(0.1, 50), st.floats(0.2, 0.75))
def test_resin_makes_the_weight_fraction(fibre: float, share: float) -> None:
    """By definition: fibre over fibre and resin together is the weight fraction."""
    assert fibre / (fibre + laminate.resin_for(fibre, share)) == pytest.approx(share)


def test_a_bowl_as_deep_as_half_its_width_is_half_a_ball() -> None:
    """Textbook: a ball has 4/3 pi r³."""
    assert laminate.bowl(60, 30) == pytest.approx(2 / 3 * math.pi * 3**3)
    shallow = laminate.bowl(60, 0.6)  # a flat bowl nears a paraboloid: half of pi r² h
    assert shallow == pytest.approx(math.pi * 3**2 * 0.06 / 2, rel=0.01)


@settings(max_examples=60, deadline=None, derandomize=True)
@given(st.floats(5, 300), st.floats(0.05, 4))
def test_flooding_is_a_falling_body(across: float, depth: float) -> None:
    """Torricelli's law (textbook): it comes in as fast as a body that fell the depth; 0.6 for the sharp edge."""
    seconds = math.sqrt(2 * depth / water.GRAVITY)
    speed = water.GRAVITY * seconds
    assert water.inflow(across, depth) == pytest.approx(0.6 * math.pi / 4 * (across / 1000) ** 2 * speed * 60_000)


def test_an_inch_and_a_half_half_a_metre_down_is_some_two_litres_a_second() -> None:
    """Handbook figure of the trade, from memory: a 38 mm hole 0.5 m down lets in some 7 to 8 m³ an hour."""
    assert 7000 < water.inflow(38, 0.5) * 60 < 8000
    assert row(result("flooding"), "Comes in") == "7673 L/h"


@settings(max_examples=100, deadline=None, derandomize=True)
@given(st.floats(0.5, 300), st.floats(0.5, 40), st.sampled_from([12.0, 24.0]), st.sampled_from([0.03, 0.1]))
def test_the_section_loses_just_what_it_may(amps: float, metres: float, volts: float, share: float) -> None:
    """Ohm's law with the resistivity ISO 10133 takes for copper (0.0164 ohm mm²/m, from memory)."""
    section = metal.section_for(amps, metres, volts, share)
    resistance = 0.0164 * 2 * metres / section
    assert amps * resistance == pytest.approx(volts * share)
    sold = metal.sold_section(section)
    assert sold is None or metal.drop_of(amps, metres, volts, sold) <= share + 1e-9


def test_chain_weighs_what_catalogues_say() -> None:
    """Masses of short link chain, kg/m, from memory: 6 mm 0.8, 8 mm 1.4, 10 mm 2.2-2.3, 12 mm 3.1-3.3."""
    for size, low, high in ((6, 0.75, 0.85), (8, 1.35, 1.5), (10, 2.15, 2.35), (12, 3.1, 3.4)):
        assert low < metal.chain_mass(1, size) < high
    assert metal.chain_mass(75, 12) > 200  # common practice: somewhere over 200 kg


def test_the_galvanic_order_is_the_published_one() -> None:
    """Order of nobility in sea water as every published series has it (from memory)."""
    order = [one.key for one in metal.METALS]
    assert order == [one.key for one in sorted(metal.METALS, key=lambda one: one.volts)]
    for less, more in (("zinc", "aluminium"), ("aluminium", "steel"), ("steel", "bronze"), ("bronze", "stainless")):
        assert order.index(less) < order.index(more)
    assert "leave them apart" in row(result("galvanic", one="aluminium", other="copper"), "So")
    assert result("galvanic", one="aluminium", other="bronze").warnings


def test_bottom_area_by_the_handbook_and_a_measured_one_overrides() -> None:
    """Handbook estimate, from memory: waterline x (beam + draft) x 0.5 for a light fin keel, 0.75 for a full one."""
    cutter = Boat.model_validate(BOATS["cutter"])
    assert estimated_bottom_area(cutter) == pytest.approx(
        10.4 * (3.9 + 1.9) * 0.67
    )  # a moderate fin: two thirds (judgement)
    light = cutter.model_copy(update={"displacement_kg": 5000})  # 5000 / 1016.05 / 0.3412³ is 124, a light hull
    assert estimated_bottom_area(light) == pytest.approx(10.4 * (3.9 + 1.9) * 0.5)
    assert estimated_bottom_area(Boat.model_validate(BOATS["ketch"])) == pytest.approx(11.8 * (4.3 + 2.1) * 0.75)
    assert bottom_area(cutter.model_copy(update={"bottom_area_m2": 33.0})) == 33.0
    sides = {name: bottom_area(Boat.model_validate(boat)) for name, boat in BOATS.items()}
    assert sides["sloop"] < sides["cutter"] < sides["ketch"]


def test_dew_point_on_the_bench_is_psychrolib_s() -> None:
    """PsychroLib 2.5, ASHRAE Handbook - Fundamentals (2017), chapter 1."""
    psychrolib.SetUnitSystem(psychrolib.SI)
    found = row(result("dew", temperature="17", humidity="80"), "Dew point")
    assert float(found.split()[0]) == pytest.approx(psychrolib.GetTDewPointFromRelHum(17, 0.8), abs=0.15)


def test_colder_cures_slower_and_below_the_minimum_not_at_all() -> None:
    """Twice as long for each 10 °C colder: common practice."""
    found = result("cure", least="6", most="48", temperature="10", coldest="10")
    assert found.lag == (12.0, 96.0)
    assert found.warnings == ()
    assert "doesn't cure" in result("cure", temperature="8", coldest="10").warnings[0]


def test_the_longest_day_at_lisbon_is_just_under_fifteen_hours() -> None:
    """Almanac: 14 h 52 min at 38.7° north on 21 June (from memory), checked against astral elsewhere."""
    yard = {"name": "Y", "time_zone": "Europe/Lisbon", "latitude": 38.7, "longitude": -9.1}
    one = refit(task("a"), yard=yard, haul_at="2026-06-21T08:00:00+01:00", launch_at="2026-06-30T10:00:00+01:00")
    place = AskedAt(one, make_plan(one, one.haul_at), datetime(2026, 6, 21, 11, tzinfo=UTC))
    hours, minutes = row(result("daylight", place), "Light").replace(" min", "").split(" h ")
    assert abs(int(hours) * 60 + int(minutes) - (14 * 60 + 52)) <= 6


def test_hands_never_carry_more_than_their_share() -> None:
    for mass in (5, 20, 21, 40, 63, 150):
        hands = loads.hands_for(mass)
        assert mass <= hands * loads.HAND * (1 if hands == 1 else 0.8) + 1e-9
    assert loads.lift_for(0.9, 0.4) == pytest.approx(0.55)
    assert loads.lift_for(0.3, 0.6) == 0


@pytest.mark.parametrize("key", CALCULATORS)
def test_every_calculator_says_where_it_comes_from_and_refuses_nonsense_by_field(key: str) -> None:
    calculator, place = CALCULATORS[key], here()
    assert calculator.formula and calculator.source and calculator.range
    if key != "daylight":  # which asks where the yard lies
        assert result(key).rows
    for one in calculator.inputs:
        if isinstance(one.usual(place), str) and not one.choices:
            continue
        for bad in ("nonsense", "1e400", str(one.most + 1)) if not one.choices else ("nonsense",):
            with pytest.raises(RefitFaults) as told:
                read_values(calculator, {one.name: bad}, place)
            assert [fault.path for fault in told.value.faults] == [one.name]


@settings(max_examples=150, deadline=None, derandomize=True)
@given(st.sampled_from(sorted(CALCULATORS)), st.data())
def test_no_figures_within_the_ranges_break_a_calculator(key: str, data: st.DataObject) -> None:
    calculator = CALCULATORS[key]
    typed = {}
    for one in calculator.inputs:
        if one.choices:
            typed[one.name] = data.draw(st.sampled_from([value for value, _ in one.choices]))
        elif not isinstance(one.usual(some_place()), str):
            typed[one.name] = repr(data.draw(st.floats(one.least, one.most)))
    try:
        found = worked(calculator, read_values(calculator, typed, some_place()), some_place())
    except RefitFaults as error:
        assert all(fault.message for fault in error.faults)
        return
    for one in found.rows:
        assert "nan" not in one.value
    assert all(part.quantity > 0 for part in found.parts)
    assert found.hours is None or found.hours >= 0
    drawn(found.drawing)


def test_resin_runs_out_on_the_day_the_plan_takes_it() -> None:
    parts = [{"id": "resin", "name": "Laminating epoxy", "quantity": 5, "unit": "kg", "status": "checked"}]
    one: Refit = refit(task("a", parts=["resin"]), task("b", parts=["resin"]), parts=parts)
    place = AskedAt(one, make_plan(one, one.haul_at), one.haul_at)
    found = result("resin", place, stock="4", reserve="1")
    assert row(found, "The plan still takes") == "5.0 kg"
    assert row(found, "Left at the end") == "-1.0 kg"
    assert found.warnings
    assert result("resin", place, stock="9", reserve="1").warnings == ()


@pytest.mark.parametrize(
    ("typed", "gap", "back"),
    [
        (
            {"gap": "2", "paint": "500", "growth": "0", "least": "1"},
            "1.0 mm",
            "nothing",
        ),  # both faces of it are painted
        ({"gap": "2", "paint": "500", "growth": "2", "least": "1"}, "-1.0 mm", "2.0 mm"),
        ({"gap": "-1", "paint": "0", "growth": "0", "least": "1"}, "-1.0 mm", "2.0 mm"),  # it rubs already
    ],
)
def test_rudder_clearance_by_hand(typed: dict[str, str], gap: str, back: str) -> None:
    found = result("rudder", **typed)
    assert row(found, "Gap left on that side") == gap
    assert row(found, "Cut back") == back
    assert bool(found.warnings) == (back != "nothing")


def test_a_window_of_nought_is_no_limit_and_nothing_closes() -> None:
    found = result("cure", least="6", most="0", temperature="10")
    assert row(found, "Window closes after") == "no limit"
    assert found.warnings == ()
    assert found.lag == (12, None)


def test_two_hulls_are_told_with_the_figures_that_were_used() -> None:
    # two hulls of 10 m on the waterline, 0.6 m deep, fin: 2 × 10 × (1.0 + 0.6) × 0.5 = 16 m², by hand
    boat = {
        "name": "C",
        "length_m": 11,
        "waterline_m": 10,
        "beam_m": 6,
        "draft_m": 0.6,
        "displacement_kg": 6000,
        "hulls": 2,
    }
    found = result("coats", here(boat=boat))
    line = next(one for one in found.rows if one.label == "Area a coat")
    assert line.value == "16.0 m²"
    assert "2 × 10 × (1 + 0.6) × 0.5 = 16.0" in line.how


def test_recipe_and_bench_buy_the_same_paint() -> None:
    place = here(places=[{"id": "hull", "name": "Bottom", "spot": "bottom", "capacity": 3}])
    litres = float(row(result("coats", place), "Paint").split()[0])
    shelf = library()
    basket = filled(shelf, place.refit, [Pick(shelf.recipes["bottom-coating"], {})])
    bought = next(part.quantity for part in basket.refit.parts if part.name == "Antifouling")
    assert 0 <= bought - litres < 0.5 + 1e-9  # the same litres, to the half litre above


def test_valves_side_by_side_clear_each_other_or_are_told_how_far_apart() -> None:
    near = result("beside", centres="120", one="70", other="70", swing_one="90", swing_other="90", turn="both")
    assert row(near, "Between the bodies") == "50 mm"
    assert row(near, "Between the handles at their closest") == "-60 mm"
    assert row(near, "Centres wanted") == "190 mm"  # both swings and 10 mm
    assert "handles meet" in near.warnings[0]
    apart = result(
        "beside", centres="120", one="70", other="70", swing_one="90", swing_other="90", turn="none", tool="0"
    )
    assert apart.warnings == ()
    touching = result("beside", centres="60", one="70", other="70", swing_one="0", swing_other="0")
    assert "touch" in touching.warnings[0]


def test_chain_is_carried_at_one_weight_a_head() -> None:
    found = result("chain", metres="64", size="10", head="20")
    # 144 kg: by one at 20 kg in 8 trips; two together carry 32 kg, so 5
    assert row(found, "Carried") == "by two in 5 trips, or by one in 8"


def test_resin_with_its_hardener_is_what_is_printed() -> None:
    found = result("taper")
    whole = float(row(found, "Resin with its hardener").split()[0])
    assert whole == pytest.approx(
        float(row(found, "Of that resin").split()[0]) + float(row(found, "and hardener").split()[0]), abs=0.011
    )


def test_eighty_amps_never_go_through_a_wire_that_burns() -> None:
    """ISO 10133, table A.1, for insulation of 70 °C (from memory): 16 mm² carries 90 A, 25 mm² 120 A. By hand."""
    found = result("cable", amps="80", metres="0.5", drop="10")  # the drop alone would do with 1.09 mm²
    assert (row(found, "Section by voltage drop"), row(found, "Take"), row(found, "Fuse")) == (
        "1.09 mm²",
        "25 mm²",
        "100 A",
    )
    assert found.parts[0].name == "Tinned cable 25 mm²"
    # through the engine space 120 A are 90, and in a bundle of five 84: neither lets a fuse of 100 protect it
    assert row(result("cable", amps="80", metres="0.5", drop="10", heat="yes"), "Take") == "35 mm²"
    assert row(result("cable", amps="80", metres="0.5", drop="10", bundle="6"), "Take") == "35 mm²"
    assert (
        row(result("cable", amps="10", metres="10", drop="3"), "Take") == "10 mm²"
    )  # there the drop decides: 9.11 mm²


@settings(max_examples=150, deadline=None, derandomize=True)
@given(
    st.floats(0.5, 200),
    st.floats(0.2, 30),
    st.sampled_from(["70", "90", "105"]),
    st.sampled_from(["no", "yes"]),
    st.sampled_from(["3", "6", "24", "25"]),
)
def test_a_fuse_always_blows_before_its_cable(amps: float, metres: float, stands: str, heat: str, bundle: str) -> None:
    typed = {"amps": f"{amps:.2f}", "metres": f"{metres:.2f}", "stands": stands, "heat": heat, "bundle": bundle}
    found = result("cable", some_place(), **typed)
    if not found.parts:
        assert "Larger than any section sold" in found.warnings[-1]
        return
    fuse, section = float(row(found, "Fuse").split()[0]), float(row(found, "Take").split()[0])
    assert round(amps, 2) <= fuse <= metal.ampacity(section, int(stands), bundle, heat=heat == "yes") + 1e-9


def test_lead_on_steel_and_brass_in_the_sea_are_told() -> None:
    """Galvanic series in flowing sea water (ASTM G82 and handbooks, from memory): lead -0.19 to -0.25 V, steel -0.60 to -0.71."""
    assert "leave them apart" in row(result("galvanic", one="lead", other="steel"), "So")
    assert row(result("galvanic", one="lead", other="steel"), "Eaten") == "steel, iron"
    assert any("loses its zinc" in words for words in result("galvanic", one="brass", other="bronze").warnings)


def test_what_keeps_one_from_painting_is_named() -> None:
    now = next(one for one in result("dew", humidity="90", surface="9", temperature="9").rows if one.label == "Now")
    assert now.value == "not now"
    assert "90 % is damper than 85 %" in now.how and "9 °C is colder than 10 °C" in now.how


def test_day_length_without_a_position_asks_for_it() -> None:
    with pytest.raises(RefitFaults, match="no position"):
        result("daylight")
    assert row(result("daylight", latitude="38.7", longitude="-9.1"), "Light").startswith("1")


def test_so_long_it_has_been_tells_what_is_left() -> None:
    """6 h at 20 °C are 12 at 10 °C; a window of 48 is 96. After ten hours two are to go, 86 until it closes; by hand."""
    typed = {"least": "6", "most": "48", "temperature": "10"}
    assert row(result("cure", **typed, since="10"), "So long it has been") == "2 h to go, 86 h until the window closes"
    assert "closed 4 h ago" in row(result("cure", **typed, since="100"), "So long it has been")


def test_resin_on_its_way_is_counted_and_no_order_by_lies_behind() -> None:
    part = {
        "id": "r",
        "name": "Laminating epoxy",
        "unit": "kg",
        "quantity": 9,
        "counted": 2.5,
        "counted_at": "2026-05-04T07:00Z",
    }
    order = {
        "id": "o",
        "supplier": "S",
        "currency": "EUR",
        "rate": "1",
        "placed_at": "2026-05-04T07:00Z",
        "expected": "2026-05-06T07:00Z",
    }
    line = {"id": "l", "order": "o", "part": "r", "quantity": 6, "price": 100}
    one = refit(task("a", 4, parts=["r"]), parts=[part], orders=[order], order_lines=[line])
    place = AskedAt(one, make_plan(one, one.haul_at), one.haul_at)
    found = result("resin", place)
    assert row(found, "On its way") == "6.0 kg"
    assert row(found, "Left at the end") == "-0.5 kg"  # 2.5 and 6, less 9
    late = result("resin", place, lead="30")
    assert "comes too late: look for some nearer by" in late.warnings[0] and "order by" not in late.warnings[0]
