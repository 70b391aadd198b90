"""What is set aside: parked jobs, and the register of what is off the boat."""

from __future__ import annotations

from functools import partial

from fastapi import APIRouter, Request
from fastapi.responses import Response

from rovask.core.explain.afloat import AFLOAT, AfloatGain, afloat_gain, afloat_instead, ashore_told, better_ashore
from rovask.core.explain.effects import effect_of
from rovask.core.gate.gate import is_loose
from rovask.core.plain.faults import refused
from rovask.core.plain.money import Money
from rovask.core.readings.standings import is_back
from rovask.core.recipes.ways import hours_by_recipe
from rovask.core.refit.model import Photo
from rovask.core.refit.work.choices import State
from rovask.desk.commands.parked import BackToThisTime, DoAfloat, LeaveToNextTime, PlaceParked
from rovask.desk.commands.seen import MoveOff
from rovask.store.errors import NotFound
from rovask.web.acting import acted, back_to, let_in, on_to, picture_in
from rovask.web.asking import Pk, RecordId
from rovask.web.choice_words import STATE_WORDS
from rovask.web.costly import worked_meanwhile, worked_once
from rovask.web.page import page_here
from rovask.web.rendering import render
from rovask.web.routes.recipes import library_here
from rovask.web.security import Form, Who

router = APIRouter()

STATES = {state.value: state for state in State if state is not State.EITHER}


@router.get("/r/{pk}/parked")
def parked(request: Request, who: Who, pk: Pk) -> Response:
    """Jobs that wait for a state of the boat, and jobs planned ashore that could be done afloat."""
    page = page_here(request, who, pk)
    can = afloat_instead(page.refit)
    gain: AfloatGain | None = None
    if can:
        jobs = {job.id for job, _ in can}
        gain = worked_meanwhile(page, "afloat", partial(afloat_gain, page.refit, page.planned, jobs))
    effect, tone = effect_of(page.verdict, gain.after) if gain else ("", "")
    lay_days = Money(page.refit.yard.lay_day, page.refit.currency).times(gain.lay_days if gain else 0)
    library = library_here(request, pk)
    by_recipe = {one.id: hours_by_recipe(library, page.refit, one.recipe) for one in page.refit.parked if one.recipe}
    context = page.context(
        by_recipe=by_recipe,
        states=STATE_WORDS,
        rows=[one for one in page.refit.parked if not one.next_time],
        later=[one for one in page.refit.parked if one.next_time],
        afloat=can,
        gain=gain,
        waits=bool(can) and gain is None,
        effect=effect,
        tone=tone,
        saved=lay_days,
    )
    return render(request, "parked.html", context)


@router.post("/r/{pk}/parked/{key}/place")
def place(request: Request, who: Who, posted: Form, pk: Pk, key: RecordId) -> Response:
    """Give a parked job its place: a state of this haul-out, or the next one. With a recipe, the recipe is next."""
    way = posted.text("way")
    if way == "this":
        acted(request, who, pk, BackToThisTime(key))
        return on_to(f"/r/{pk}/parked")
    if way != "next" and way not in STATES:
        raise refused("Choose when it is to be done.")
    done = acted(request, who, pk, PlaceParked(key, STATES.get(way)))
    return on_to(f"/r/{pk}/jobs/{done.made}" if done.made else f"/r/{pk}/parked")


@router.post("/r/{pk}/jobs/{key}/afloat")
def afloat(request: Request, who: Who, posted: Form, pk: Pk, key: RecordId) -> Response:
    """Do a job afloat, before the haul or after the launch, or ashore what was planned afloat."""
    acted(request, who, pk, DoAfloat(key, STATES.get(posted.text("way"), State.AFLOAT_AFTER)))
    return back_to(posted, f"/r/{pk}/jobs/{key}")


@router.get("/r/{pk}/jobs/{key}/ashore")
def ashore(request: Request, who: Who, pk: Pk, key: RecordId) -> Response:
    """A job planned afloat against the same ashore: launch, money, days."""
    page = page_here(request, who, pk)
    job = next((one for one in page.refit.jobs if one.id == key), None)
    if job is None:
        raise NotFound("This job is gone; somebody removed it meanwhile.")
    told = worked_once(page, f"ashore {key}", partial(ashore_told, page.refit, page.planned, key))
    moves = [task for task in job.tasks if task.state in AFLOAT and not task.begun_at]
    effect, tone = effect_of(told.before.verdict, told.after.verdict)
    risks = list(dict.fromkeys(why for task in moves if (why := better_ashore(page.refit, task))))
    context = page.context(job=job, told=told, moves=moves, effect=effect, tone=tone, risks=risks)
    return render(request, "ashore.html", context)


@router.post("/r/{pk}/jobs/{key}/next-time")
def next_time(request: Request, who: Who, posted: Form, pk: Pk, key: RecordId) -> Response:
    """Leave a whole job to the next haul-out: it is parked there."""
    acted(request, who, pk, LeaveToNextTime(key, posted.words("reason", 200)))
    return on_to(f"/r/{pk}/parked")


@router.get("/r/{pk}/off")
def off_boat(request: Request, who: Who, pk: Pk) -> Response:
    """Everything that comes off the boat: off now, still on, back again."""
    page = page_here(request, who, pk, aside=(Photo,))
    refit = page.refit
    context = page.context(
        off=[one for one in refit.off_boat if is_loose(refit, one)],
        still=[one for one in refit.off_boat if not is_loose(refit, one) and not is_back(refit, one)],
        back=[one for one in refit.off_boat if is_back(refit, one)],
        at=page.plan.by_task(),
    )
    return render(request, "off.html", context)


@router.post("/r/{pk}/off/{key}/photo")
def move_off(request: Request, who: Who, posted: Form, pk: Pk, key: RecordId) -> Response:
    """It came off, or is back on; where it lies, how it goes together, a photo."""
    let_in(request, who, pk, MoveOff.needs)
    command = MoveOff(
        picture=picture_in(posted),
        thing=key,
        way=posted.text("way"),
        lies_at=posted.words("lies_at", 120) if posted.touched("lies_at") else None,
        note=posted.words("note", 4000) if posted.touched("note") else None,
        bag=posted.words("bag", 120) if posted.touched("bag") else None,
    )
    acted(request, who, pk, command)
    return on_to(f"/r/{pk}/off#{key}")
