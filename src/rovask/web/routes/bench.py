"""Bench: how much, how long, how thick? The calculators, and what a result becomes."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from fastapi import APIRouter, Request
from fastapi.responses import Response

from rovask.core.bench.all_calculators import CALCULATORS, read_values, worked
from rovask.core.bench.calculator import AskedAt, Calculator, Result
from rovask.core.plain.faults import RefitFaults
from rovask.desk.commands.bench import UseResult
from rovask.store.errors import NotFound
from rovask.web.acting import acted, faults_of_form, let_in, on_to
from rovask.web.asking import Pk, RecordId
from rovask.web.bench_drawings import drawn
from rovask.web.page import Page, page_here
from rovask.web.rendering import render
from rovask.web.security import Form, Who

router = APIRouter()


def _calculator(key: str) -> Calculator:
    if key not in CALCULATORS:
        raise NotFound("There is no such calculator. Look on the Bench.")
    return CALCULATORS[key]


def _place(page: Page) -> AskedAt:
    return AskedAt(page.refit, page.plan, page.now)


@router.get("/r/{pk}/bench")
def bench(request: Request, who: Who, pk: Pk) -> Response:
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
def one_calculator(request: Request, who: Who, pk: Pk, key: RecordId) -> Response:
    """One calculator with its result."""
    page = page_here(request, who, pk)
    return _one(request, page, _calculator(key), dict(request.query_params), {})


@router.post("/r/{pk}/bench/{key}")
def use_result(request: Request, who: Who, posted: Form, pk: Pk, key: RecordId) -> Response:
    """Make the result a part line, a task's duration or a lag."""
    let_in(request, who, pk, UseResult.needs)
    calculator = _calculator(key)
    given = {name.removeprefix("in-"): value for name, value in posted.form.items() if isinstance(value, str)}
    try:
        done = acted(
            request,
            who,
            pk,
            UseResult(key, given, posted.text("way"), posted.text("task"), posted.text("tie"), posted.text("for")),
        )
    except RefitFaults as error:
        return _one(request, page_here(request, who, pk), calculator, given, faults_of_form(error))
    return on_to(f"/r/{pk}/{done.made}")
