"""What hands meet against handbooks, standards and brute force; where a value is from memory it says so."""

from __future__ import annotations

import math
from datetime import UTC, datetime
from itertools import pairwise, permutations

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from rovask.core.bench.fastening import (
    bar_stress,
    breaking_torque,
    lever_for,
    opens_by,
    pulls,
    screw_force,
    shears,
    stress_area,
)
from rovask.core.bench.metal import METALS
from rovask.core.craft.contacts import Danger, judged
from rovask.core.craft.fits import clashes, passes
from rovask.core.craft.template import (
    OVER,
    TILE_HIGH,
    TILE_WIDE,
    Outline,
    Ring,
    area,
    edge,
    mass,
    of_foot,
    of_shape,
    outside,
    sheets_of,
    too_near_edge,
    turned,
)
from rovask.core.craft.whence import NOBODY, Suspect, WhenceTables, in_order, minutes_to_find, suspects
from rovask.core.refit.craft.choices import InSeries, Larger, OfMetal, Showed, TraceAbout, Wetness
from rovask.core.refit.craft.kinds import (
    Contact,
    Corner,
    Fit,
    Hole,
    Looked,
    Measures,
    OwnCandidate,
    Shape,
    Trace,
    WayIn,
)
from rovask.formats.craft_tables import coat_tables, contact_tables, fit_tables, whence_tables
from rovask.web.template_drawing import template_of
from tests.reference.test_bench import result, row

AT = datetime(2026, 5, 11, 9, tzinfo=UTC)


# Bolts, levers, heat, bars


@pytest.mark.parametrize(
    ("size", "area_"), [(5, 14.2), (6, 20.1), (8, 36.6), (10, 58.0), (12, 84.3), (16, 157.0), (20, 245.0)]
)
def test_stress_areas_are_those_of_the_standard(size: int, area_: float) -> None:
    """ISO 898-1, table of coarse threads (from memory, to its last printed digit)."""
    assert stress_area(size) == pytest.approx(area_, abs=0.5 if size > 12 else 0.06)


@pytest.mark.parametrize(("size", "least"), [(5, 7.3), (6, 13.0), (8, 32.0), (10, 65.0), (12, 110.0), (16, 290.0)])
def test_a_bolt_twists_off_near_the_table_of_the_standard(size: int, least: float) -> None:
    """ISO 3506-1, least breaking torque of property class 70 (from memory): within an eighth."""
    assert breaking_torque(OfMetal.STAINLESS, size) == pytest.approx(least, rel=0.125)


def test_a_bolt_carries_what_the_tables_print() -> None:
    """M12 of 8.8: 84.3 mm² x 800 = 67.4 kN pulled (ISO 898-1), 0.6 of it across (EN 1993-1-8); from memory."""
    assert pulls(OfMetal.STEEL, 12) == pytest.approx(67.4, abs=0.1)
    assert shears(OfMetal.STEEL, 12) == pytest.approx(0.6 * 67.4, abs=0.1)
    assert stress_area(11) is None
    found = result("bolt", size="12", metal="steel", count="4", planes="2")
    assert row(found, "Breaks, across").startswith("323.6 kN")  # 0.6 x 67.42 x 4 x 2
    assert row(found, "In work, across").startswith("107.9 kN")


def test_levers_screws_bars_and_heat_by_hand() -> None:
    """Textbook: 80 N·m by 400 N is 20 cm; 60 N·m on a screw of 16 mm is 60 ÷ (0.2 x 16) = 18.75 kN; a bar of 50 x 20 over
    160 mm under 12 kN: 480 N·m over 3333 mm³ = 144 N/mm². A steel ring of 100 mm grows 0.12 mm by 100 K (handbooks).
    """
    assert lever_for(80) == pytest.approx(0.2)
    assert screw_force(60, 16) == pytest.approx(18.75)
    assert bar_stress(12, 160, 50, 20) == pytest.approx(144)
    assert opens_by(OfMetal.STEEL, 100, 100) == pytest.approx(0.12)
    assert opens_by(OfMetal.ALUMINIUM, 40, 90) == pytest.approx(0.0828)
    weak = result("puller", torque="200", screw="20", span="200", wide="30", high="15", metal="steel")
    assert any("bends for good" in told for told in weak.warnings)  # 50 kN x 200 ÷ 4 ÷ 1125 mm³ = 2222 N/mm²


# Through openings, clashes


def turns_through(p: float, q: float, a: float, b: float) -> bool:
    """By trying every angle: the box round a turned rectangle."""
    for step in range(901):
        turn = math.radians(step / 10)
        wide = p * math.cos(turn) + q * math.sin(turn)
        high = p * math.sin(turn) + q * math.cos(turn)
        if wide <= a + 1e-9 and high <= b + 1e-9:
            return True
    return False


@settings(max_examples=150)
@given(*[st.integers(20, 900)] * 4)
def test_what_passes_an_opening_is_what_turning_it_finds(p: int, q: int, a: int, b: int) -> None:
    """Carver 1957 (from memory) against turning by tenths of a degree; what is within a millimetre may go either way."""
    way = WayIn(name="hatch", width=float(a), height=float(b))
    tried = turns_through(p, q, a, b) or turns_through(p, q, b, a)
    if passes(p, q, way) != tried:
        loose = WayIn(name="hatch", width=a + 1.0, height=b + 1.0)
        tight = WayIn(name="hatch", width=a - 1.0, height=b - 1.0)
        assert passes(p, q, loose) != passes(p, q, tight)


def fit(**more: object) -> Fit:
    return Fit.model_validate({"id": "f", "title": "Pump", "at": AT, **more})


def test_every_clash_of_a_sheet_worked_out_on_paper() -> None:
    """A windlass: each figure was worked out by hand first."""
    sheet = fit(
        play=12.0,
        old={"length": 180.0, "width": 160.0, "holes": 4, "along": 120.0, "across": 100.0, "hole": 8.5, "thread": "M8"},
        room={"length": 230.0, "height": 220.0, "load_kg": 60.0, "volts": 12.0, "amps": 63.0},
        new={"length": 210.0, "width": 150.0, "height": 240.0, "holes": 4, "along": 128.0, "across": 106.0, "hole": 10.5,
             "coat": 0.3, "load_kg": 45.0, "volts": 24.0, "amps": 80.0, "thread": "m 10"},
        ways_in=[{"name": "companionway", "width": 140.0, "height": 200.0}, {"name": "hatch", "width": 300.0, "height": 300.0}],
    )  # fmt: skip
    found = {one.key: one for one in clashes(sheet)}
    assert found["room-length"].off == pytest.approx(4.6)  # 210 + 2 x 0.3 + 2 x 12 - 230
    assert "15.3 mm over its base on each side" in found["foot-length"].said  # (210.6 - 180) ÷ 2
    assert found["print-width"].off == pytest.approx(9.4)  # 160 - 150.6
    assert found["pattern"].off == pytest.approx(5.0)  # half of √(8² + 6²)
    assert "run into one another" in found["pattern"].said  # 5.0 < (8.5 + 10.5) ÷ 2
    assert found["hole"].off == pytest.approx(2.0)
    assert found["room-height"].off == pytest.approx(32.6)  # 240.6 + 12 - 220
    assert set(found) >= {"way-0", "load", "volts", "amps", "thread"}
    assert "way-1" not in found
    assert found["load"].off == 15
    assert found["amps"].off == 17
    assert {one.of for one in found.values()} <= set(fit_tables().remedy)


def test_a_ring_of_holes_and_what_is_not_known() -> None:
    ring = fit(old={"holes": 6, "circle": 100.0, "hole": 6.5}, new={"holes": 6, "circle": 130.0, "hole": 6.5})
    (only,) = clashes(ring)
    assert only.off == 15  # half of what the circle is larger
    assert "8.5 mm between their edges" in only.said  # 15 - 6.5
    assert clashes(fit(old={"holes": 4, "circle": 90.0}, new={"holes": 5, "circle": 90.0}))[0].unit == "holes"
    assert clashes(fit(new={"length": 900.0})) == []  # nothing was measured to hold it against
    assert clashes(fit(old={"hole": 8.0}, new={"hole": 8.4})) == []  # within what a rule shows
    assert clashes(fit(old={"thread": "M8 × 1,25"}, new={"thread": "m8x1.25"})) == []


# Templates


def test_areas_edges_and_masses_are_those_of_known_shapes() -> None:
    """Pick's theorem for a lattice polygon, π r² for a ring of many corners, density x volume for a plate."""
    lattice = [(0, 0), (6, 0), (6, 4), (3, 7), (0, 4)]
    boundary = sum(math.gcd(abs(x - u), abs(y - v)) for (x, y), (u, v) in pairwise([*lattice, lattice[0]]))
    inside = sum(
        1 for x in range(1, 6) for y in range(1, 7)
        if not outside(Outline(tuple((float(a), float(b)) for a, b in lattice), (Ring(x, y, 1),))) and not (y >= 4 and (y - 4 >= x or y - 4 >= 6 - x))
    )  # fmt: skip
    assert area(lattice) == inside + boundary / 2 - 1
    many = [(50 * math.cos(2 * math.pi * n / 720), 50 * math.sin(2 * math.pi * n / 720)) for n in range(720)]
    assert area(many) == pytest.approx(math.pi * 2500, rel=1e-4)
    assert edge(many) == pytest.approx(math.pi * 100, rel=1e-4)
    plate = Outline(((0, 0), (250, 0), (250, 120), (0, 120)), (Ring(60, 60, 40),))
    assert mass(plate, 8, "aluminium") == pytest.approx((250 * 120 - math.pi * 400) * 8e-9 * 2700)
    assert mass(plate, 8, "unobtainium") is None


def test_holes_outside_and_too_near_an_edge_are_told_apart() -> None:
    plate = Outline(((0, 0), (100, 0), (100, 60), (0, 60)), (Ring(20, 30, 10), Ring(92, 30, 10), Ring(108, 30, 10)))
    assert outside(plate) == [plate.holes[2]]
    assert too_near_edge(plate) == [plate.holes[1]]  # 8 mm to the edge, 3 to its rim, and it is 10 across


def plate_of(wide: float, high: float) -> Outline:
    return Outline(((0, 0), (wide, 0), (wide, high), (0, high)), ())


SHAPES = st.lists(st.tuples(st.integers(-400, 400), st.integers(-500, 500)), min_size=3, max_size=8, unique=True)


@settings(max_examples=60)
@given(SHAPES)
def test_the_sheets_laid_cross_on_cross_are_the_shape_in_true_size(corners: list[tuple[int, int]]) -> None:
    """Every corner lies on a sheet, where the sheets' places say; neighbours' crosses fall on the same point of the drawing."""
    outline = Outline(tuple((float(x), float(y)) for x, y in corners), ())
    sheets = {(one.row, one.column): one for one in sheets_of(outline)}
    for x, y in outline.corners:
        assert any(
            one.left - 1e-6 <= x <= one.left + TILE_WIDE + 1e-6 and one.top - 1e-6 <= y <= one.top + TILE_HIGH + 1e-6
            for one in sheets.values()
        )
    for (line, column), one in sheets.items():
        right, below = sheets.get((line, column + 1)), sheets.get((line + 1, column))
        if right is not None:
            assert one.left + TILE_WIDE - OVER / 2 == pytest.approx(right.left + OVER / 2)
        if below is not None:
            assert one.top + TILE_HIGH - OVER / 2 == pytest.approx(below.top + OVER / 2)
    lain = turned(outline)
    assert area(lain.corners) == pytest.approx(area(outline.corners))
    assert len(template_of(outline).sheets) == min(len(sheets), len(sheets_of(lain)))


def test_mirrored_is_mirrored_and_turned_is_not() -> None:
    def sense(corners: tuple[tuple[float, float], ...]) -> float:
        return sum(x * v - u * y for (x, y), (u, v) in pairwise([*corners, corners[0]]))

    plate = Shape(
        id="s",
        title="Plate",
        corners=(Corner(x=0, y=0), Corner(x=50, y=0), Corner(x=0, y=20)),
        holes=(Hole(x=10, y=5, d=4),),
        at=AT,
    )
    straight, other = of_shape(plate), of_shape(plate, mirrored=True)
    assert sense(straight.corners) == -sense(other.corners)
    assert sense(turned(straight).corners) == sense(straight.corners)
    assert other.holes[0] == Ring(-10, 5, 4)


def test_the_holes_of_a_foot_stand_where_its_measures_say() -> None:
    ring = of_foot(Measures(length=120.0, width=120.0, holes=6, circle=90.0, hole=7.0))
    assert ring is not None
    apart = [math.dist((a.x, a.y), (b.x, b.y)) for a, b in pairwise([*ring.holes, ring.holes[0]])]
    assert apart == pytest.approx([45.0] * 6)  # six in a ring stand a radius apart (Euclid IV, 15)
    square = of_foot(Measures(length=100.0, width=80.0, holes=4, along=80.0, across=60.0, hole=7.0))
    assert square is not None
    assert sorted((one.x, one.y) for one in square.holes) == [(-40, -30), (-40, 30), (40, -30), (40, 30)]
    assert of_foot(Measures(length=100.0)) is None


# Bayes


SMALL = WhenceTables.model_validate(
    {
        "whence_source": "by hand",
        "first": {"water": "dry"},
        "unthought": 1,
        "clue": {
            "salt": {"group": "taste", "ask": "?", "label": "salt", "usual": 0.5},
            "fresh": {"group": "taste", "ask": "?", "label": "fresh", "usual": 0.5},
        },
        "candidate": {
            "valve": {"title": "Valve", "about": "water", "prior": 4, "minutes": 20, "how": "x", "shows": 0.8, "false": 0.1, "given": {"salt": 0.9, "fresh": 0.1}},
            "tank": {"title": "Tank", "about": "water", "prior": 5, "minutes": 30, "how": "x", "shows": 0.5, "false": 0.0, "given": {"salt": 0.05, "fresh": 0.95}},
        },
    }
)  # fmt: skip


def trace(**more: object) -> Trace:
    return Trace.model_validate({"id": "t", "title": "Water", "at": AT, **more})


def test_bayes_by_a_table_worked_by_hand() -> None:
    """Priors 4, 5, 1 of 10. Salt: 3.6, 0.25, 0.5 of 4.35. Then the valve looked at and dry: 3.6 x 0.2 = 0.72, the others x 0.9
    (it seems wet in one of ten when it isn't): 0.225 and 0.45, of 1.395.
    """
    nothing = {one.name: one.likely for one in suspects(SMALL, trace(), {})}
    assert nothing == pytest.approx({"valve": 0.4, "tank": 0.5, NOBODY: 0.1})
    salt = {one.name: one.likely for one in suspects(SMALL, trace(clues=("salt",)), {})}
    assert salt == pytest.approx({"valve": 3.6 / 4.35, "tank": 0.25 / 4.35, NOBODY: 0.5 / 4.35})
    looked = trace(clues=("salt",), looks=(Looked(candidate="valve", showed=Showed.CLEAR, at=AT),))
    after = {one.name: one.likely for one in suspects(SMALL, looked, {})}
    assert after == pytest.approx({"valve": 0.72 / 1.395, "tank": 0.225 / 1.395, NOBODY: 0.45 / 1.395})
    unclear = trace(clues=("salt",), looks=(Looked(candidate="valve", showed=Showed.UNCLEAR, at=AT),))
    assert {one.name: one.likely for one in suspects(SMALL, unclear, {})} == pytest.approx(salt)
    wet = trace(clues=("salt",), looks=(Looked(candidate="valve", showed=Showed.SOURCE, at=AT),))
    total = 3.6 * 0.8 + (0.25 + 0.5) * 0.1
    assert suspects(SMALL, wet, {})[0].likely == pytest.approx(3.6 * 0.8 / total)


def test_own_candidates_and_those_she_does_not_have() -> None:
    own = trace(own=(OwnCandidate(name="Hawse pipe", weight=10.0, minutes=10),))
    assert suspects(SMALL, own, {})[0].title == "Hawse pipe"
    tables = whence_tables()
    leg = {one.name for one in suspects(tables, trace(), dict.fromkeys(("engines", "heads", "masts", "water_tanks", "fuel_tanks", "hulls"), 1) | {"drive": "leg", "keel": "fin", "material": "grp", "cooling": "raw water", "has_heater": False, "has_holding_tank": False})}  # fmt: skip
    assert "bellows" in leg
    assert not leg & {"gland", "planks", "plate", "bridge"}


@settings(max_examples=60)
@given(
    st.lists(
        st.tuples(st.integers(1, 30), st.integers(5, 120), st.sampled_from([0.5, 0.8, 0.9, 1.0])),
        min_size=2,
        max_size=5,
    )
)
def test_no_order_of_looks_finds_it_sooner(rows: list[tuple[int, int, float]]) -> None:
    """Smith's rule, 1956: every order is tried."""
    whole = sum(weight for weight, _, _ in rows)
    found = [Suspect(f"c{n}", f"c{n}", "", w / whole, w / whole, m, s, 0.0) for n, (w, m, s) in enumerate(rows)]
    best = min(minutes_to_find(order) for order in permutations(found))
    assert minutes_to_find(in_order(found)) == pytest.approx(best)


def test_ashore_what_shows_only_afloat_comes_last() -> None:
    gland = Suspect("gland", "Gland", "", 0.6, 0.6, 10, 0.9, 0.0, afloat=True)
    deck = Suspect("deck", "Deck", "", 0.2, 0.2, 90, 0.9, 0.0)
    assert [one.name for one in in_order([gland, deck])] == ["gland", "deck"]
    assert [one.name for one in in_order([gland, deck], ashore=True)] == ["deck", "gland"]


def test_the_answers_to_a_question_are_all_there_and_make_sense() -> None:
    """In the shipped table: what is given for a group adds up to no more than one, and each kind of search has some candidates."""
    tables = whence_tables()
    for name, row_ in tables.candidate.items():
        by_group: dict[str, float] = {}
        for clue, by in row_.given.items():
            by_group[tables.clue[clue].group] = by_group.get(tables.clue[clue].group, 0) + by
        assert all(total <= 1.001 for total in by_group.values()), name
    for about in TraceAbout:
        assert sum(row_.about is about for row_ in tables.candidate.values()) >= 6
        assert about in tables.first


# Metals


def test_the_series_stands_in_the_order_of_the_standard() -> None:
    """ASTM G82, galvanic series in flowing sea water, from the active to the noble end (from memory)."""
    order = ["magnesium", "zinc", "aluminium", "steel", "stainless_starved", "brass", "copper", "bronze", "cupronickel", "lead", "monel", "stainless", "titanium", "carbon"]  # fmt: skip
    assert [metal.key for metal in METALS] == order == [one.value for one in InSeries]
    assert all(one.volts < other.volts for one, other in pairwise(METALS))


@pytest.mark.parametrize(
    ("one", "other", "wet", "larger", "apart", "danger"),
    [
        ("aluminium", "stainless", "splash", "alike", False, Danger.BAD),  # 0.81 x 1 x 0.5 = 0.405
        ("aluminium", "stainless", "splash", "one", False, Danger.WATCH),  # a third of it: 0.135
        ("aluminium", "stainless", "dry", "alike", False, Danger.LITTLE),  # 0.081
        ("aluminium", "stainless", "under water", "alike", True, Danger.NONE),
        ("bronze", "aluminium", "under water", "other", False, Danger.NEVER),
        ("steel", "stainless_starved", "under water", "alike", False, Danger.WATCH),  # 0.13: under 0.2 V, over half of it
        ("steel", "zinc", "splash", "other", False, Danger.LITTLE),  # galvanised: zinc goes, and there is much of it: 0.40 ÷ 3 x 0.5 = 0.07
        ("carbon", "aluminium", "splash", "alike", False, Danger.NEVER),
    ],
)  # fmt: skip
def test_contacts_by_hand(one: str, other: str, wet: str, larger: str, apart: bool, danger: Danger) -> None:
    contact = Contact(
        id="c", title="x", one=one, other=other, wet=Wetness(wet), larger=Larger(larger), apart=apart, at=AT
    )
    found = judged(contact_tables(), contact)
    assert found.danger is danger
    assert found.eaten.volts <= found.noble.volts
    swapped = contact.model_copy(
        update={
            "one": InSeries(other),
            "other": InSeries(one),
            "larger": {"one": Larger.OTHER, "other": Larger.ONE}.get(larger, Larger.ALIKE),
        }
    )
    again = judged(contact_tables(), swapped)
    assert (again.danger, again.weighed) == (found.danger, pytest.approx(found.weighed))


# Coats


def test_the_table_of_coats_is_whole_and_says_what_the_trade_says() -> None:
    """Common practice: soft may lie on hard, hard never on soft; nothing on silicone but itself; every pair is told once."""
    tables = coat_tables()
    overs = {row_.over for row_ in tables.on}
    assert len(tables.on) == len(overs) * len(tables.kind)
    assert tables.on_top("soft", "hard").may.value == "yes"
    assert tables.on_top("hard", "soft").may.value == "no"
    assert {row_.over for row_ in tables.on if row_.under == "silicone" and row_.may.value != "no"} == {"silicone"}
    assert all(tables.on_top(over, "unknown").may.value != "yes" for over in overs)
    assert tables.on_top("resin", "epoxy").do
