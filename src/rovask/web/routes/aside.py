"""What is set aside: parked jobs, and the register of what is off the boat."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime

from fastapi import APIRouter, Request
from fastapi.responses import RedirectResponse, Response

from rovask.core.books.forecast import forecast
from rovask.core.plan.explain.afloat import afloat_instead, done_afloat, last_ashore
from rovask.core.plan.planner import plan_and_judge
from rovask.core.refit.choices import State
from rovask.core.refit.edits import put, remove_job
from rovask.core.refit.faults import Fault, RefitFaults
from rovask.core.refit.model import OffBoat, Refit
from rovask.core.refit.records import Kind
from rovask.core.refit.seen import Parked
from rovask.core.refit.seen_edits import place_parked
from rovask.core.refit.standings import is_off
from rovask.core.words import minutes_of
from rovask.web.page import Page, effect_of, page_here
from rovask.web.photos import photo_in, with_photo
from rovask.web.rendering import render
from rovask.web.routes.seen import changed, token
from rovask.web.security import Form, Who, local_path

router = APIRouter()

STATES = {
    "afloat_before": State.AFLOAT_BEFORE,
    "ashore": State.ASHORE,
    "slings": State.SLINGS,
    "afloat_after": State.AFLOAT_AFTER,
}


@router.get("/r/{pk}/parked")
def parked(request: Request, who: Who, pk: int) -> Response:
    """Jobs that wait for a state of the boat, and jobs planned ashore that could be done afloat."""
    page = page_here(request, who, pk)
    can = afloat_instead(page.refit)
    context = page.context(
        rows=[one for one in page.refit.parked if not one.next_time],
        later=[one for one in page.refit.parked if one.next_time],
        afloat=can,
        gain=_gain_of_afloat(page, [job.id for job, _ in can]) if can else None,
    )
    return render(request, "parked.html", context)


@dataclass(frozen=True, slots=True)
class AfloatGain:
    """What it does when they are all done after the launch. sooner: minutes by which the last work ashore ends earlier;
    lay_days: whole days of that, which the yard could be paid less if it can launch her earlier.
    """

    effect: str
    tone: str
    money: int
    sooner: int
    lay_days: int


def _gain_of_afloat(page: Page, jobs: list[str]) -> AfloatGain:
    other = done_afloat(page.refit, set(jobs), State.AFLOAT_AFTER)
    planned = plan_and_judge(other, page.plan.now, before=page.plan)
    effect, tone = effect_of(page.verdict, planned.verdict)
    sooner = max(minutes_of(last_ashore(page.refit, page.plan) - last_ashore(other, planned.plan)), 0)
    money = forecast(other, planned.plan).total - page.forecast.total
    return AfloatGain(effect, tone, money, sooner, sooner // (24 * 60))


@router.post("/r/{pk}/parked/{key}/place")
def place(request: Request, who: Who, posted: Form, pk: int, key: str) -> Response:
    """Give a parked job its place: a state of this haul-out, or the next one. With a recipe, the recipe is next."""
    way = posted.text("way")
    page = page_here(request, who, pk)
    row = next((one for one in page.refit.parked if one.id == key), None)
    title = row.title if row else "job"
    if way == "this":

        def edit(refit: Refit, now: datetime) -> Refit:
            one = next((one for one in refit.parked if one.id == key), None)
            return put(refit, Kind.PARKED, one.model_copy(update={"next_time": False})) if one else refit

        changed(request, pk, who.account, f"took back from the next haul-out: {title}", edit)
        return RedirectResponse(f"/r/{pk}/parked", status_code=303)
    if way != "next" and way not in STATES:
        raise RefitFaults([Fault("", "Choose when it is to be done.")])
    told = f"left “{title}” to the next haul-out" if way == "next" else f"placed “{title}”"
    job = token("j")
    changed(
        request, pk, who.account, told, lambda refit, now: place_parked(refit, key, STATES.get(way), job, token("t"))
    )
    return RedirectResponse(f"/r/{pk}/parked" if way == "next" else f"/r/{pk}/jobs/{job}", status_code=303)


@router.post("/r/{pk}/jobs/{key}/afloat")
def afloat(request: Request, who: Who, posted: Form, pk: int, key: str) -> Response:
    """Do a job afloat, before the haul or after the launch."""
    state = STATES.get(posted.text("way"), State.AFLOAT_AFTER)
    page = page_here(request, who, pk)
    title = next((job.title for job in page.refit.jobs if job.id == key), "job")
    changed(request, pk, who.account, f"planned “{title}” afloat", lambda refit, now: done_afloat(refit, {key}, state))
    return RedirectResponse(local_path(posted.text("next"), f"/r/{pk}/jobs/{key}"), status_code=303)


@router.post("/r/{pk}/jobs/{key}/next-time")
def next_time(request: Request, who: Who, posted: Form, pk: int, key: str) -> Response:
    """Leave a whole job to the next haul-out: it is parked there."""
    page = page_here(request, who, pk)
    title = next((job.title for job in page.refit.jobs if job.id == key), "job")

    def edit(refit: Refit, now: datetime) -> Refit:
        job = next((job for job in refit.jobs if job.id == key), None)
        if job is None:
            raise RefitFaults([Fault("", "This job is gone; somebody removed it meanwhile.")])
        if any(task.begun_at for task in job.tasks):
            raise RefitFaults([Fault("", "It is begun; finish it or remove what is left of it.")])
        row = Parked(
            id=token("k"),
            title=job.title,
            place=job.tasks[0].place if job.tasks else None,
            hours=sum(task.work.likely * task.units for task in job.tasks) or 0.5,
            recipe=job.recipe,
            note=job.note,
            next_time=True,
        )
        return put(remove_job(refit, key), Kind.PARKED, row)

    changed(request, pk, who.account, f"left “{title}” to the next haul-out", edit)
    return RedirectResponse(f"/r/{pk}/parked", status_code=303)


@router.get("/r/{pk}/off")
def off_boat(request: Request, who: Who, pk: int) -> Response:
    """Everything that comes off the boat: off now, still on, back again."""
    page = page_here(request, who, pk)
    rows = page.refit.off_boat
    context = page.context(
        off=[one for one in rows if is_off(page.refit, one)],
        still=[one for one in rows if not is_off(page.refit, one) and not _back(page.refit, one)],
        back=[one for one in rows if _back(page.refit, one)],
        at=page.plan.by_task(),
    )
    return render(request, "off.html", context)


def _back(refit: Refit, item: OffBoat) -> bool:
    """Whether it was off and is on again."""
    task = refit.tasks.get(item.back_task or "")
    return item.back_at is not None or (task is not None and task.done_at is not None)


@router.post("/r/{pk}/off/{key}/photo")
def move_off(request: Request, who: Who, posted: Form, pk: int, key: str) -> Response:
    """It came off, or is back on; where it lies, how it goes together, a photo."""
    way = posted.text("way")
    picture = photo_in(request, posted)
    page = page_here(request, who, pk)
    title = next((one.what for one in page.refit.off_boat if one.id == key), "thing")

    def edit(refit: Refit, now: datetime) -> Refit:
        row = next((one for one in refit.off_boat if one.id == key), None)
        if row is None:
            raise RefitFaults([Fault("", "This is gone; somebody removed it meanwhile.")])
        refit, photo_id = with_photo(refit, picture, row.what, now)
        data = row.model_dump() | {"lies_at": posted.text("lies_at", row.lies_at).strip()[:120]}
        data |= {"note": posted.text("note", row.note)[:4000]}
        if photo_id:
            data["photos"] = (*row.photos, photo_id)
        if way == "off":
            data |= {"off_at": now, "back_at": None}
        elif way == "back":
            data |= {"off_at": row.off_at or now, "back_at": now}
        elif way == "on":
            data |= {"off_at": None, "back_at": None}
        return put(refit, Kind.OFF_BOAT, OffBoat.model_validate(data))

    told = {"off": "came off", "back": "is back on", "on": "is still on"}.get(way, "noted")
    changed(request, pk, who.account, f"noted of {title}: {told}", edit)
    return RedirectResponse(f"/r/{pk}/off#{key}", status_code=303)
