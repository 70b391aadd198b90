"""What hands meet, in the plan: seized things, searches, fits, covers. Each figure was worked out by hand first."""

from __future__ import annotations

from datetime import datetime, timedelta

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from rovask.core.craft.covers import behind, foul_for, may_need, opened_for, opened_twice, taped_off
from rovask.core.craft.fit_edits import made_for, mirrored, settled_clash
from rovask.core.craft.seized import ladder
from rovask.core.craft.seized_edits import (
    NewOne,
    given_up,
    is_of_seized,
    met,
    retold,
    stepped_to,
    still_fast,
    turned_out,
)
from rovask.core.craft.trace_edits import answered, begun, closed_anyway, looked_at, opened_again, waited_for
from rovask.core.craft.whence import suspects
from rovask.core.plain.faults import RefitFaults
from rovask.core.plan.planner import make_plan
from rovask.core.plan.verdict.services import nights_elsewhere
from rovask.core.plan.verify.check import verify
from rovask.core.readings.stock import stocks
from rovask.core.recipes.facts import facts_of
from rovask.core.refit.craft.choices import Means, NearIt, Reach, SeizedState, Showed, TraceState, Tried
from rovask.core.refit.craft.kinds import Cover, Fit, Looked, Seized, Shape, Trace
from rovask.core.refit.edits import put
from rovask.core.refit.model import HoursEntry, Refit
from rovask.core.refit.work.edits import begin_task, log_hours
from rovask.formats.craft_tables import fit_tables, seized_tables, whence_tables
from rovask.formats.recipe_file import library
from tests.builders import HAUL, link, refit, task

COMMON, TABLES, WHENCE = library().common, seized_tables(), whence_tables()
AT = HAUL + timedelta(hours=2)
NEW = NewOne("Bolt M10", 400, 6)


def chain(**more: object) -> Refit:
    """Apart, a look, together again: one after the other."""
    rows = task("apart", 4), task("look", 2), task("back", 3, title="Shaft back in")
    return refit(*rows, links=[link("apart", "look"), link("look", "back")], **more)


def seized(**more: object) -> Seized:
    row = {
        "id": "nut",
        "title": "Nut",
        "task": "apart",
        "metal": "stainless",
        "around": "bronze",
        "size_mm": 8.0,
        "years": 25,
        "at": AT,
    }
    return Seized.model_validate(row | more)


def sound(made: Refit, now: datetime = AT) -> None:
    plan = make_plan(made, now, starts=2)
    assert (plan.unplanned, plan.collisions) == ((), ())
    assert verify(made, plan) == []


def ties(made: Refit) -> set[tuple[str, str]]:
    return {(one.first, one.then) for one in made.links}


# It doesn't come


def test_the_ladder_of_one_nut_by_hand() -> None:
    """Stainless in bronze 0.9, 25 years half of it, wet x 0.85: 0.3825. Oil 1 - 0.65^0.3825 = 0.152, breaks 0.02 ÷ √0.3825 = 0.032."""
    found = ladder(TABLES, seized())
    assert found.ease == pytest.approx(0.3825)
    oil = found.ahead[0]
    assert (oil.means, oil.comes, oil.breaks) == (
        Means.OIL,
        pytest.approx(1 - 0.65**0.3825),
        pytest.approx(0.02 / 0.3825**0.5),
    )
    assert found.ahead[1].reached == pytest.approx(1 - oil.comes - oil.breaks)
    assert all(0 <= one.holds <= 1 and one.comes + one.breaks + one.holds == pytest.approx(1) for one in found.steps)
    assert ladder(TABLES, seized(around="bronze", metal="bronze")).ease > found.ease  # the pair counts either way round


def test_what_lies_beside_it_is_kept_from_heat_and_sparks() -> None:
    for near in ("fuel", "gas"):
        used = {one.means for one in ladder(TABLES, seized(near=(near,))).ahead}
        assert not used & {Means.WARM, Means.FLAME, Means.WELD, Means.GRIND}
        assert Means.CUT in used  # there is always a way
    assert Means.FLAME not in {one.means for one in ladder(TABLES, seized(around="aluminium")).ahead}
    assert Means.SHOCK not in {one.means for one in ladder(TABLES, seized(reach="blind")).ahead}
    assert Means.PULLER in {one.means for one in ladder(TABLES, seized(holds="press")).ahead}
    assert all(one.because for one in ladder(TABLES, seized(near=("fuel",))).left_out)


def test_heat_helps_by_how_much_more_the_outer_part_grows() -> None:
    inside = {one.means: one.comes for one in ladder(TABLES, seized(metal="steel", around="aluminium")).steps}
    outside = {one.means: one.comes for one in ladder(TABLES, seized(metal="aluminium", around="steel")).steps}
    assert inside[Means.WARM] > outside[Means.WARM]
    assert inside[Means.OIL] == outside[Means.OIL]


def test_met_before_the_work_is_begun_the_rung_comes_before_it() -> None:
    made = met(chain(), COMMON, TABLES, seized(), AT, NEW)
    assert ("nut-oil", "nut-oil-try") in ties(made)
    assert ("nut-oil-try", "apart") in ties(made)
    (wait,) = [one for one in made.links if (one.first, one.then) == ("nut-oil", "nut-oil-try")]
    assert wait.min_lag == 12
    rest, breaks = (next(one for one in made.unknowns if one.id == f"nut-{name}") for name in ("rest", "break"))
    step = ladder(TABLES, seized()).ahead[0]
    assert rest.chance == pytest.approx(step.holds, abs=0.001)
    assert breaks.chance == pytest.approx(step.breaks, abs=0.001)
    assert rest.task == breaks.task == "nut-oil-try"
    assert rest.hours_least <= rest.hours <= rest.hours_most  # type: ignore[operator]
    assert made.part_by_id["nut-new"].price == 400
    assert made.tasks["nut-oil"].parts == ()  # oil breaks 3 in 100: one may begin without the new one
    assert is_of_seized(made, "nut-rest") is not None
    sound(made)


def test_a_rung_follows_what_its_work_follows() -> None:
    """Nobody tries a nut before the cover over it is off, whichever means it is."""
    made = met(chain(), COMMON, TABLES, seized(task="look"), AT)
    assert {("apart", "nut-oil"), ("nut-oil-try", "look")} <= ties(made)
    other = stepped_to(made, COMMON, TABLES, "nut", Means.WARM)
    assert {("apart", "nut-warm"), ("nut-warm", "look")} <= ties(other)
    plan = make_plan(other, AT, starts=1).by_task()
    assert plan["apart"].end <= plan["nut-warm"].start
    assert plan["nut-warm"].end <= plan["look"].start


def test_met_in_work_under_way_what_is_done_is_done_and_the_rest_waits() -> None:
    begun_ = begin_task(chain(), "apart", HAUL, ("ann",))
    made = met(begun_, COMMON, TABLES, seized(), AT)
    assert made.tasks["apart"].done_at == AT
    rest = made.tasks["nut-on"]
    assert rest.title == "Task apart, the rest"
    assert rest.work.likely == 4  # nothing was logged, so nothing of its hours is known to be worked
    hours = HoursEntry(id="h", task="apart", person="ann", at=AT, hours=1.5)
    logged = met(log_hours(begun_, hours, None), COMMON, TABLES, seized(), AT)
    assert (logged.tasks["apart"].work.likely, logged.tasks["nut-on"].work.likely) == (1.5, 2.5)
    assert {("apart", "nut-oil"), ("nut-oil-try", "nut-on"), ("nut-on", "look")} <= ties(made)
    assert ("apart", "look") not in ties(made)
    assert [one.id for one in made.jobs[0].tasks][:4] == ["apart", "nut-oil", "nut-oil-try", "nut-on"]
    sound(made)


def test_what_hung_on_work_that_is_cut_hangs_on_its_rest() -> None:
    """The part it was to use up, the unknown it was to show, what it was to take off, its measured sheet."""
    at = AT.isoformat()
    start = refit(
        task("apart", 4, parts=["seal"], check="Dry."), task("back", 2), links=[link("apart", "back")],
        parts=[{"id": "seal", "name": "Seal", "quantity": 2, "price": 900, "status": "checked"}],
        uses=[{"id": "u1", "part": "seal", "task": "apart", "amount": 1}],
        unknowns=[{"id": "wet", "title": "Wet", "chance": 0.5, "hours": 2, "task": "apart"}],
        off_boat=[{"id": "cap", "what": "Cap", "off_task": "apart", "back_task": "back"}],
        fits=[{"id": "fi", "title": "Pump", "task": "apart", "at": at}],
    )  # fmt: skip
    made = met(begin_task(start, "apart", HAUL, ("ann",)), COMMON, TABLES, seized(), AT)
    assert (made.tasks["apart"].parts, made.tasks["nut-on"].parts) == ((), ("seal",))
    assert (made.tasks["apart"].check, made.tasks["nut-on"].check) == ("", "Dry.")
    assert made.uses[0].task == "nut-on"
    assert made.unknowns[0].task == "nut-on"
    assert (made.off_boat[0].off_task, made.fits[0].task) == ("nut-on", "nut-on")
    assert stocks(made)["seal"].used == 0


def test_it_came_and_the_rest_vanishes() -> None:
    made = met(chain(), COMMON, TABLES, seized(), AT)
    after = turned_out(made, COMMON, TABLES, "nut", Tried.CAME, AT)
    assert after.seized[0].state is SeizedState.OFF
    assert after.unknowns == ()
    assert all(after.tasks[key].done_at == AT for key in ("nut-oil", "nut-oil-try"))
    with pytest.raises(RefitFaults, match="Nothing of it is in the plan"):
        turned_out(after, COMMON, TABLES, "nut", Tried.HELD, AT)
    again = still_fast(after, COMMON, TABLES, "nut")
    assert again.seized[0].now is Means.SHOCK


def test_it_held_it_broke_and_what_is_broken_waits_for_no_part() -> None:
    made = met(begin_task(chain(), "apart", HAUL, ("ann",)), COMMON, TABLES, seized(), AT, NEW)
    held = turned_out(made, COMMON, TABLES, "nut", Tried.HELD, AT)
    assert held.seized[0].now is Means.SHOCK
    assert held.tasks["nut-shock"].parts == ("nut-new",)  # 0.06 ÷ √0.3825 = 10 in 100: first the new one
    assert {one.id for one in held.unknowns} == {"nut-rest", "nut-break"}
    broke = turned_out(held, COMMON, TABLES, "nut", Tried.BROKE, AT)
    row = broke.seized[0]
    assert (row.state, row.now) == (SeizedState.BROKEN, Means.WELD)  # a nut welded on is for what broke, too
    assert {one.means for one in ladder(TABLES, row).ahead} == {Means.WELD, Means.DRILL, Means.GRIND, Means.CUT}
    drill = stepped_to(broke, COMMON, TABLES, "nut", Means.DRILL)
    assert "nut-weld" not in drill.tasks
    assert drill.tasks["nut-drill"].parts == ()
    out = turned_out(drill, COMMON, TABLES, "nut", Tried.CAME, AT)
    assert out.tasks["nut-fit"].parts == ("nut-new",)
    assert ("nut-fit", "back") in ties(out)  # a new one before it goes together again …
    assert ("nut-fit", "nut-on") not in ties(out)  # … and taking apart goes on without it
    sound(out)


def test_facts_that_change_change_what_is_in_the_plan() -> None:
    """Older, and beside fuel: chances as they now are; a means that may no longer be used gives way to the next."""
    made = met(chain(), COMMON, TABLES, seized(), AT)
    older = retold(put(made, made.seized[0].model_copy(update={"years": 60})), COMMON, TABLES, "nut")
    rest = next(one for one in older.unknowns if one.id == "nut-rest")
    assert rest.chance == pytest.approx(ladder(TABLES, older.seized[0]).ahead[0].holds, abs=0.001)
    assert len(older.unknowns) == len(made.unknowns)
    warm = stepped_to(made, COMMON, TABLES, "nut", Means.WARM)
    fuel = retold(put(warm, warm.seized[0].model_copy(update={"near": (NearIt.FUEL,)})), COMMON, TABLES, "nut")
    assert fuel.seized[0].now is Means.OIL
    assert "nut-warm" not in fuel.tasks
    sound(fuel)
    begun_ = begin_task(made, "nut-oil", AT, ("ann",))
    kept = retold(put(begun_, begun_.seized[0].model_copy(update={"reach": Reach.BLIND})), COMMON, TABLES, "nut")
    assert kept.tasks["nut-oil"].work == made.tasks["nut-oil"].work


def test_the_last_rung_failed_or_it_is_given_up() -> None:
    made = met(chain(), COMMON, TABLES, seized(), AT)
    while made.seized[0].now is not None:
        made = turned_out(made, COMMON, TABLES, "nut", Tried.HELD, AT)
    assert made.seized[0].state is SeizedState.GIVEN_UP
    assert made.unknowns == ()
    early = given_up(met(chain(), COMMON, TABLES, seized(), AT), "nut")
    assert not [key for key in early.tasks if key.startswith("nut")]
    assert not [one for one in early.links if "nut" in one.first + one.then]
    sound(early)


def test_without_a_task_it_is_a_job_of_its_own() -> None:
    made = met(chain(), COMMON, TABLES, seized(task=None), AT)
    assert [one.id for one in made.job_of["nut-oil"].tasks] == ["nut-oil", "nut-oil-try"]
    (wait,) = [one for one in made.links if one.first == "nut-oil"]
    assert wait.min_lag == 12
    more = turned_out(made, COMMON, TABLES, "nut", Tried.HELD, AT)
    assert ("nut-oil-try", "nut-shock") in ties(more)
    sound(more)
    warm = stepped_to(made, COMMON, TABLES, "nut", Means.WARM)
    assert [one.id for one in warm.job_of["nut-warm"].tasks] == ["nut-warm"]
    assert len(warm.jobs) == len(made.jobs)
    assert "nut-job" not in {job.id for job in given_up(made, "nut").jobs}  # nothing is left to do in it
    assert given_up(more, "nut").job_of["nut-oil"].id == "nut-job"  # what was done stays noted


METALS = st.sampled_from(["stainless", "steel", "iron", "bronze", "brass", "aluminium"])


@settings(max_examples=40)
@given(
    METALS, METALS, st.sampled_from(["thread", "press"]), st.integers(3, 60), st.integers(0, 60), st.booleans(),
    st.sampled_from(["free", "tight", "blind"]), st.sets(st.sampled_from(["wiring", "bedding", "core", "paint", "rubber", "wood", "fuel", "gas"]), max_size=3),
    st.lists(st.sampled_from([Tried.HELD, Tried.BROKE, Tried.CAME]), max_size=6), st.booleans(),
)  # fmt: skip
def test_whatever_is_met_and_however_it_turns_out_the_plan_holds(
    metal: str,
    around: str,
    holds: str,
    size: int,
    years: int,
    wet: bool,
    reach: str,
    near: set[str],
    outcomes: list[Tried],
    begun_: bool,
) -> None:
    """Verified plans; sparks never at the same hours as fumes next to them; nothing of it left over when it is off."""
    solvent = task("wipe", 3, emits=["fumes"])
    start = refit(task("apart", 4), solvent, task("back", 3), links=[link("apart", "back")])
    start = begin_task(start, "apart", HAUL, ("ann",)) if begun_ else start
    row = seized(
        metal=metal,
        around=around,
        holds=holds,
        size_mm=float(size),
        years=years,
        wet=wet,
        reach=reach,
        near=tuple(sorted(near)),
    )
    made = met(start, COMMON, TABLES, row, AT, NEW)
    for outcome in outcomes:
        if made.seized[0].now is None:
            break
        made = turned_out(made, COMMON, TABLES, "nut", outcome, AT)
    skilled = made.model_copy(
        update={"people": tuple(one.model_copy(update={"skills": ("welding",)}) for one in made.people)}
    )
    plan = make_plan(skilled, AT, starts=1)
    assert verify(skilled, plan) == []
    at = plan.by_task()
    for one in skilled.tasks.values():
        if "sparks" in one.emits and one.id in at and "wipe" in at and not one.done_at:
            assert at[one.id].end <= at["wipe"].start or at["wipe"].end <= at[one.id].start
    if made.seized[0].state in (SeizedState.OFF, SeizedState.GIVEN_UP):
        assert made.unknowns == ()


# Whence


def water(**more: object) -> Trace:
    return Trace.model_validate({"id": "tr", "title": "Water", "place": "hull", "at": AT, **more})


def test_a_search_is_in_the_plan_and_what_closes_up_waits_for_it() -> None:
    start = refit(task("sole", 2, title="Sole down"), task("other", 2))
    made = waited_for(begun(start, WHENCE, facts_of(start), water()), "tr", ["sole"])
    assert ("tr-look", "sole") in ties(made)
    mend = next(one for one in made.unknowns if one.id == "tr-mend")
    assert mend.task == "tr-look"
    known = answered(made, WHENCE, facts_of(made), "tr", ["fresh", "salt", "rain", "high"], AT)
    assert known.traces[0].clues == ("salt", "rain", "high")  # of one question the last answer
    assert (
        known.tasks["tr-look"].work.likely < made.tasks["tr-look"].work.likely
    )  # it is sooner found when more is known
    with pytest.raises(RefitFaults, match="Nobody knows that answer"):
        answered(made, WHENCE, facts_of(made), "tr", ["purple"], AT)
    sound(known)


def test_the_source_found_is_a_finding_and_ends_the_search() -> None:
    start = refit(task("sole", 2))
    made = waited_for(begun(start, WHENCE, facts_of(start), water()), "tr", ["sole"])
    dry = looked_at(made, WHENCE, facts_of(made), "tr", "deck", Showed.CLEAR, "", AT, "f1")
    assert dry.findings == ()
    assert dry.traces[0].state is TraceState.OPEN
    wet = looked_at(dry, WHENCE, facts_of(made), "tr", "windows", Showed.SOURCE, "aft one", AT, "f1")
    assert wet.findings[0].title == "Water: a portlight or hatch"
    assert wet.tasks["tr-look"].done_at == AT
    assert wet.unknowns == ()
    with pytest.raises(RefitFaults, match="over"):
        looked_at(wet, WHENCE, facts_of(made), "tr", "deck", Showed.CLEAR, "", AT, "f2")
    again = opened_again(wet, WHENCE, facts_of(wet), "tr")
    assert again.tasks["tr-look"].done_at is None
    assert again.traces[0].looks[-1].showed is Showed.UNCLEAR
    assert [one.id for one in again.unknowns] == ["tr-mend"]
    assert ("tr-look", "sole") in ties(again)
    sound(again)


def test_closing_up_without_knowing_asks_why() -> None:
    start = refit(task("sole", 2))
    made = waited_for(begun(start, WHENCE, facts_of(start), water()), "tr", ["sole"])
    with pytest.raises(RefitFaults, match="Say why"):
        closed_anyway(made, "tr", "  ", AT)
    shut = closed_anyway(made, "tr", "no time", AT)
    assert shut.traces[0].why_not == "no time"
    assert shut.tasks["tr-look"].done_at == AT


@settings(max_examples=40)
@given(
    st.lists(
        st.tuples(st.sampled_from(["deck", "windows", "gland", "tanks", "mast"]), st.sampled_from(list(Showed))),
        max_size=8,
    )
)
def test_likelihoods_always_come_to_one_and_a_dry_look_never_raises_what_was_dry(
    looks: list[tuple[str, Showed]],
) -> None:
    facts = facts_of(refit())
    before: dict[str, float] = {}
    row = water()
    for name, showed in looks:
        before = {one.name: one.likely for one in suspects(WHENCE, row, facts)}
        row = row.model_copy(update={"looks": (*row.looks, Looked(candidate=name, showed=showed, at=AT))})
        after = {one.name: one.likely for one in suspects(WHENCE, row, facts)}
        assert sum(after.values()) == pytest.approx(1)
        if name in before and showed is Showed.CLEAR:
            assert after[name] <= before[name] + 1e-9
        if name in before and showed is Showed.SOURCE:
            assert after[name] >= before[name] - 1e-9


# Fits


def test_what_a_clash_asks_for_comes_before_the_fitting_and_cures_first() -> None:
    start = chain(
        fits=[
            {
                "id": "fi",
                "title": "Pump",
                "task": "back",
                "old": {"length": 100.0},
                "new": {"length": 130.0},
                "at": AT.isoformat(),
            }
        ]
    )
    made = made_for(start, fit_tables(), "fi", "foot-length", 3.2, 4500)
    new = made.tasks["fi-foot-length"]
    assert new.work.likely == 3.5  # rounded up to the half-hour
    (tie,) = [one for one in made.links if one.first == "fi-foot-length"]
    assert (tie.then, tie.min_lag, tie.cures) == ("back", 12, True)
    assert made.part_by_id["fi-foot-length-part"].price == 4500
    assert made.fits[0].settled == ("foot-length",)
    with pytest.raises(RefitFaults, match="in the plan already"):
        made_for(made, fit_tables(), "fi", "foot-length", 1, 0)
    with pytest.raises(RefitFaults, match="clashes no longer"):
        made_for(made, fit_tables(), "fi", "volts", 1, 0)
    let = settled_clash(start, "fi", "foot-length")
    assert let.fits[0].settled == ("foot-length",)
    assert len(let.tasks) == 3
    sound(made)


def test_a_sheet_of_no_task_makes_a_job_and_a_mirrored_shape_knows_its_other_side() -> None:
    start = chain(
        fits=[
            Fit.model_validate(
                {"id": "fi", "title": "Pump", "room": {"height": 100.0}, "new": {"height": 130.0}, "at": AT}
            ).model_dump(mode="json")
        ]
    )
    made = made_for(start, fit_tables(), "fi", "room-height", 1, 0)
    assert [one.id for one in made.job_of["fi-room-height"].tasks] == ["fi-room-height"]
    plate = Shape.model_validate(
        {
            "id": "s",
            "title": "Plate",
            "corners": [{"x": 0.0, "y": 0.0}, {"x": 9.0, "y": 0.0}, {"x": 0.0, "y": 4.0}],
            "at": AT,
        }
    )
    other = mirrored(plate, "s2")
    assert (other.mirror_of, other.title) == ("s", "Plate, other side")
    assert {(one.x, one.y) for one in other.corners} == {(0, 0), (-9, 0), (0, 4)}


# Getting at it, dust


def two_jobs() -> Refit:
    rows = [{"id": "a", "title": "Pumps", "tasks": [task("pump", 3, place="bay"), task("dust", 2, emits=["dust"], place="bay")]},
            {"id": "b", "title": "Wires", "tasks": [task("wire", 5, place="bay")]}]  # fmt: skip
    places = [
        {"id": "hull", "name": "Hull", "capacity": 2}, {"id": "bay", "name": "Bay", "capacity": 1, "opens_onto": ["cabin"]},
        {"id": "cabin", "name": "Cabin", "spot": "berths", "sleeps": ["ann"], "children": True},
    ]  # fmt: skip
    return refit(jobs=rows, places=places)


def test_it_is_opened_once_for_several_jobs_and_closed_after_the_last() -> None:
    start = put(two_jobs(), Cover(id="cv", title="Sole", place="bay", open_hours=1, close_hours=1.5, bunks=1, at=AT))
    assert [(one.place.id, len(one.jobs)) for one in opened_twice(two_jobs())] == [("bay", 2)]
    assert opened_twice(start) == []
    made = opened_for(start, "cv", ["pump", "wire"])
    assert {one.id for one in behind(made, made.covers[0])} == {"pump", "wire"}
    assert {one.id for one in may_need(made, made.covers[0])} == {"dust"}
    assert made.off_boat[0].back_task == "cv-close"  # the gate asks for it
    plan = make_plan(made, AT, starts=2)
    at = plan.by_task()
    assert at["cv-open"].end <= min(at["pump"].start, at["wire"].start)
    assert at["cv-close"].start >= max(at["pump"].end, at["wire"].end)
    assert verify(made, plan) == []
    fewer = opened_for(made, "cv", ["wire"])
    assert {one.id for one in behind(fewer, fewer.covers[0])} == {"wire"}
    assert len(fewer.jobs) == len(made.jobs)
    with pytest.raises(RefitFaults, match="Tick at least one"):
        opened_for(made, "cv", [])


def test_taped_off_nobody_sleeps_in_dust() -> None:
    start = two_jobs()
    assert [one.id for one in foul_for(start, "cabin")] == ["dust"]
    (night,) = nights_elsewhere(start, make_plan(start, AT, starts=1))
    assert (night.place, night.whose) == ("Cabin", "Ann, children")
    made = taped_off(start, ["dust"], 1.5, "tape", AT)
    assert made.tasks["dust"].contained_by == "tape-up"
    assert {("tape-up", "dust"), ("dust", "tape-down")} <= ties(made)
    plan = make_plan(made, AT, starts=1)
    assert nights_elsewhere(made, plan) == []
    assert foul_for(made, "cabin") == []
    assert verify(made, plan) == []
    with pytest.raises(RefitFaults, match="is begun"):
        taped_off(begin_task(start, "dust", HAUL, ("ann",)), ["dust"], 1, "tape", AT)


def test_the_record_says_no_to_what_can_not_be() -> None:
    with pytest.raises(ValueError, match="twice running"):
        Shape.model_validate(
            {
                "id": "s",
                "title": "x",
                "corners": [{"x": 0.0, "y": 0.0}, {"x": 0.0, "y": 0.0}, {"x": 1.0, "y": 0.0}],
                "at": AT,
            }
        )
    with pytest.raises(ValueError):
        seized(size_mm=0.5)
