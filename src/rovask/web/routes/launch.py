"""Launch: may she float? The gate before the slings, in them and after; work that is done and waits to be looked at."""

from __future__ import annotations

from collections.abc import Iterable, Iterator

from fastapi import APIRouter, Request
from fastapi.responses import Response

from rovask.core.gate.gate import gate_of, hangs, hangs_from
from rovask.core.gate.state import Block, Item, Why
from rovask.core.plain.faults import RefitFaults, refused
from rovask.core.readings.acceptance import Acceptance, acceptances
from rovask.core.readings.looks import CAUTIONS
from rovask.core.refit import typed
from rovask.core.refit.launch.choices import Stage
from rovask.core.refit.model import Photo
from rovask.desk.commands.gate import LetGo, Look, LookAtWork, OverruleGate, TickGate
from rovask.store.errors import NotFound
from rovask.web.acting import acted, back_to, faults_of_form, let_in, on_to, picture_in
from rovask.web.asking import Pk, RecordId
from rovask.web.page import Page, page_here
from rovask.web.rendering import render
from rovask.web.routes.task import read, when_typed
from rovask.web.security import Form, Posted, Who

router = APIRouter()

SLUGS = {
    "before": Stage.BEFORE,
    "slings": Stage.SLINGS,
    "minutes": Stage.MINUTES,
    "hour": Stage.HOUR,
    "day": Stage.DAY,
    "week": Stage.WEEK,
}
MOST_LOOKS = 40


@router.get("/r/{pk}/launch")
def launch(request: Request, who: Who, pk: Pk, all: str = "") -> Response:
    """The whole gate, with what holds her and the one next act."""
    page = page_here(request, who, pk, aside=(Photo,))
    return render(request, "launch.html", _context(page) | {"all": bool(all)})


@router.get("/r/{pk}/launch/{stage}")
def one_stage(request: Request, who: Who, pk: Pk, stage: str) -> Response:
    """One stage for one hand: in rain, in red light."""
    page = page_here(request, who, pk, aside=(Photo,))
    if stage not in SLUGS:
        raise NotFound("There is no such stage of the launch.")
    return render(request, "launch_stage.html", _context(page) | {"stage": SLUGS[stage], "slug": stage})


def _context(page: Page, faults: dict[str, list[str]] | None = None) -> dict[str, object]:
    gate = gate_of(page.refit, page.now)
    return page.context(
        kinds=_by_kind(gate.blocks),
        sorts=_by_sort,
        gate=gate,
        hangs_from=None if hangs(page.refit, gate, page.now) else hangs_from(page.refit),
        slugs={stage: slug for slug, stage in SLUGS.items()},
        cautions=CAUTIONS,
        faults=faults or {},
    )


KIND_WORDS = {Why.OFF: "off the boat", Why.WORK: "not done", Why.ACCEPTANCE: "to be looked at"}


def _by_kind(blocks: Iterable[Block]) -> list[tuple[str, list[Block]]]:
    """What holds her by its kind, the gravest first, each under one name."""
    out: dict[str, list[Block]] = {}
    for block in blocks:
        out.setdefault(KIND_WORDS.get(block.why, block.why.value), []).append(block)
    return list(out.items())


def _by_sort(items: Iterable[Item]) -> list[tuple[str, list[Item]]]:
    """What is to be looked at by what it is: hoses, valves, and what is looked at on every boat."""
    out: dict[str, list[Item]] = {}
    for item in items:
        what = "On every boat" if item.key.startswith("always:") else item.title.partition(":")[0]
        out.setdefault(what, []).append(item)
    return list(out.items())


@router.post("/r/{pk}/launch/tick")
def tick(request: Request, who: Who, posted: Form, pk: Pk) -> Response:
    """It is as it should be, or it isn't: of one item, or of several."""
    let_in(request, who, pk, TickGate.needs)
    command = TickGate(
        items=posted.many("item"),
        passed=posted.text("way") != "no",
        person=posted.text("person"),
        words=posted.words("seen", 200),
        when=when_typed(request, who, posted, pk, "when"),
        picture=picture_in(posted),
    )
    acted(request, who, pk, command)
    return back_to(posted, f"/r/{pk}/launch")


@router.post("/r/{pk}/launch/overrule")
def overrule(request: Request, who: Who, posted: Form, pk: Pk) -> Response:
    """She may go all the same: by whom the account stands for, and with a reason."""
    let_in(request, who, pk, OverruleGate.needs)
    page = page_here(request, who, pk)
    command = OverruleGate(posted.text("item"), page.person or "", posted.words("reason", 200))
    acted(request, who, pk, command)
    return back_to(posted, f"/r/{pk}/launch")


@router.post("/r/{pk}/launch/let-go")
def let_go(request: Request, who: Who, posted: Form, pk: Pk) -> Response:
    """The straps are let go; or she is taken back into them."""
    when = when_typed(request, who, posted, pk, "when")
    command = LetGo(posted.text("person"), posted.text("way") != "back", when)
    acted(request, who, pk, command)
    return back_to(posted, f"/r/{pk}/launch")


# Work that is done


@router.get("/r/{pk}/accept")
def to_accept(request: Request, who: Who, pk: Pk) -> Response:
    """Everything that is done and waits to be looked at, and what has been accepted."""
    page = page_here(request, who, pk)
    rows = list(acceptances(page.refit).values())
    context = page.context(
        open=[row for row in rows if not row.accepted],
        accepted=sorted((row for row in rows if row.accepted), key=_last_look, reverse=True),
    )
    return render(request, "accept_all.html", context)


def _last_look(row: Acceptance) -> float:
    return max(one.last.at.timestamp() for one in row.wanted if one.last is not None)


@router.get("/r/{pk}/accept/{key}")
def accept_page(request: Request, who: Who, pk: Pk, key: RecordId) -> Response:
    """One task that is done, thing by thing."""
    return _accept(request, page_here(request, who, pk, aside=(Photo,)), key, {}, {})


def _accept(
    request: Request, page: Page, key: str, faults: dict[str, list[str]], was: dict[str, str], status: int = 200
) -> Response:
    task = page.refit.tasks.get(key)
    if task is None:
        raise NotFound("This task is gone; somebody removed it meanwhile.")
    found = acceptances(page.refit).get(key)
    looks = [one for one in page.refit.checks if one.task == key]
    job = page.refit.job_of[key]
    context = page.context(
        task=task,
        job=job,
        found=found,
        looks=sorted(looks, key=lambda one: one.at, reverse=True),
        agreements=[
            one for one in page.refit.agreements if one.job == job.id or (one.person and one.person in task.crew)
        ],
        faults=faults,
        was=was,
    )
    return render(request, "accept.html", context, status)


@router.post("/r/{pk}/accept/{key}")
def accept(request: Request, who: Who, posted: Form, pk: Pk, key: RecordId) -> Response:
    """What was seen of it, thing by thing; all that is not touched stays as it was."""
    let_in(request, who, pk, LookAtWork.needs)
    try:
        looks = tuple(_looks(posted))
        when = when_typed(request, who, posted, pk, "when")
        if not posted.text("person"):
            raise refused("Say who looked.", "person")
        command = LookAtWork(
            key, looks, posted.text("person"), when, picture_in(posted), apart=bool(posted.text("apart"))
        )
        acted(request, who, pk, command)
    except RefitFaults as error:
        page = page_here(request, who, pk, aside=(Photo,))
        was = {name: value for name, value in posted.form.items() if isinstance(value, str)}
        return _accept(request, page, key, faults_of_form(error), was, 422)
    return on_to(f"/r/{pk}/accept/{key}")


def _looks(posted: Posted) -> Iterator[Look]:
    """The rows of the form: ``way-N`` is yes or no, with the title it is about."""
    for number in range(MOST_LOOKS):
        way = posted.text(f"way-{number}") or ("yes" if posted.text("all") and f"title-{number}" in posted.form else "")
        title = posted.words(f"title-{number}", 120)
        if way not in ("yes", "no") or not title:
            continue
        hours = read(typed.hours, posted, f"hours-{number}") if posted.text(f"hours-{number}").strip() else 1.0
        until = read(typed.day, posted, f"until-{number}") if posted.text(f"until-{number}").strip() else None
        if way == "no" and not posted.text(f"who-{number}"):
            raise refused("Say who puts it right.", f"who-{number}")
        yield Look(
            title, way == "yes", posted.words(f"seen-{number}", 4000), posted.text(f"who-{number}"), hours, until
        )
