"""Bench: how much, how long, how thick? The calculators, and what a result becomes."""

from __future__ import annotations

import secrets
from collections.abc import Mapping
from datetime import datetime
from typing import Any

from fastapi import APIRouter, Request
from fastapi.responses import RedirectResponse, Response

from rovask.core.bench.all_calculators import CALCULATORS, read_values, worked
from rovask.core.bench.calculator import Calculator, Place, Result
from rovask.core.refit.edits import put, task_of, update_task
from rovask.core.refit.faults import Fault, RefitFaults
from rovask.core.refit.model import Part, Refit
from rovask.core.refit.records import Kind
from rovask.store.errors import NotFound
from rovask.web.bench_drawings import drawn
from rovask.web.page import Page, page_here
from rovask.web.rendering import render
from rovask.web.routes.seen import changed
from rovask.web.security import Form, Who

router = APIRouter()


def _calculator(key: str) -> Calculator:
    if key not in CALCULATORS:
        raise NotFound("There is no such calculator. Look on the Bench.")
    return CALCULATORS[key]


def _place(page: Page) -> Place:
    return Place(page.refit, page.plan, page.now)


@router.get("/r/{pk}/bench")
def bench(request: Request, who: Who, pk: int) -> Response:
    """Every calculator."""
    page = page_here(request, who, pk)
    groups: dict[str, list[Calculator]] = {}
    for one in CALCULATORS.values():
        groups.setdefault(one.group, []).append(one)
    return render(request, "bench.html", page.context(groups=groups))


def _shown(value: Any) -> str:
    return f"{value:g}" if isinstance(value, int | float) else str(value)


def _one(
    request: Request, page: Page, calculator: Calculator, typed: Mapping[str, str], faults: dict[str, list[str]]
) -> Response:
    place = _place(page)
    result: Result | None = None
    try:
        result = worked(calculator, read_values(calculator, typed, place), place)
    except RefitFaults as error:
        for fault in error.faults:
            faults.setdefault(fault.path, []).append(fault.message)
    shown = {one.name: typed.get(one.name, "").strip() or _shown(one.usual(place)) for one in calculator.inputs}
    waiting = [(task.id, f"{job.title}: {task.title}") for job, task in page.refit.walk() if not task.begun_at]
    titles = {task.id: task.title for _, task in page.refit.walk()}
    ties = [
        (link.id, f"{titles[link.first]} → {titles[link.then]}")
        for link in page.refit.links
        if link.first in titles and link.then in titles and not page.refit.tasks[link.then].begun_at
    ]
    context = page.context(
        calculator=calculator,
        shown=shown,
        result=result,
        faults=faults,
        drawing=drawn(result.drawing) if result else None,
        waiting=waiting,
        ties=ties,
    )
    return render(request, "calculator.html", context, 422 if faults else 200)


@router.get("/r/{pk}/bench/{key}")
def one_calculator(request: Request, who: Who, pk: int, key: str) -> Response:
    """One calculator with its result."""
    page = page_here(request, who, pk)
    return _one(request, page, _calculator(key), dict(request.query_params), {})


@router.post("/r/{pk}/bench/{key}")
def use_result(request: Request, who: Who, posted: Form, pk: int, key: str) -> Response:
    """Make the result a part line, a task's duration or a lag."""
    page, calculator = page_here(request, who, pk), _calculator(key)
    typed = {name.removeprefix("in-"): value for name, value in posted.form.items() if isinstance(value, str)}
    way = posted.text("way")
    try:
        result = worked(calculator, read_values(calculator, typed, _place(page)), _place(page))
        told, edit, where = _use(result, way, posted.text("task"), posted.text("tie"), calculator)
        changed(request, pk, who.account, told, edit)
    except RefitFaults as error:
        faults: dict[str, list[str]] = {}
        for fault in error.faults:
            faults.setdefault(fault.path, []).append(fault.message)
        return _one(request, page, calculator, typed, faults)
    return RedirectResponse(f"/r/{pk}/{where}", status_code=303)


def _use(result: Result, way: str, task: str, tie: str, calculator: Calculator) -> tuple[str, Any, str]:
    """What is told, the edit, and where to go then. Raises RefitFaults."""
    if way.startswith("part-") and way[5:].isdigit() and int(way[5:]) < len(result.parts):
        line = result.parts[int(way[5:])]

        def add(refit: Refit, now: datetime) -> Refit:
            part = Part(
                id=f"p-{secrets.token_hex(4)}", name=line.name, quantity=line.quantity, unit=line.unit, lead_days=3
            )
            return put(refit, Kind.PART, part)

        return f"added part “{line.name}” from the bench", add, "stores"
    if way == "hours" and result.hours is not None:
        hours = result.hours

        def last(refit: Refit, now: datetime) -> Refit:
            work = task_of(refit, task).work
            return update_task(
                refit, task, work={"least": min(work.least, hours), "likely": hours, "most": max(work.most, hours)}
            )

        return f"took {hours:g} h of work from the bench, {calculator.title.lower()}", last, "jobs"
    if way == "lag" and result.lag is not None:
        least, most = result.lag

        def wait(refit: Refit, now: datetime) -> Refit:
            link = next((one for one in refit.links if one.id == tie), None)
            if link is None:
                raise RefitFaults([Fault("tie", "Choose the tie first.")])
            row = link.model_dump() | {"min_lag": least, "max_lag": most, "cures": False}
            if most is None:
                row |= {"make_good_hours": None}
            return put(refit, Kind.LINK, type(link).model_validate(row))

        return f"took a wait of {least:g} h from the bench, {calculator.title.lower()}", wait, "jobs"
    raise RefitFaults([Fault("", "Choose what the result is to become.")])
