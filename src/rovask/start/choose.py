"""``rovask choose``: ways laid side by side on a refit file, without a database."""

from __future__ import annotations

import json
import time
from datetime import datetime
from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from rovask.core.plain.faults import RefitFaults, RovaskError, faults_of
from rovask.start.given import moment_of, read_file, read_plan
from rovask.start.odds import MOST_RUNS

if TYPE_CHECKING:
    from rovask.core.plan.planner import Planned
    from rovask.core.refit.model import Refit


def choose(
    file: Path,
    ways: Annotated[Path, typer.Option(help='the ways, as JSON: [{"title": …, "acts": […]}, …] (docs/choices.md)')],
    now: Annotated[str, typer.Option(help="the moment to plan from; the last thing noted by default")] = "",
    runs: Annotated[int, typer.Option(help=f"how often each is played, 1 to {MOST_RUNS}")] = 10_000,
    seed: int = 1,
    seconds: Annotated[float, typer.Option(help="how long each way's plan is put right by the solver")] = 0.4,
    plan_file: Annotated[Path | None, typer.Option("--plan", help="the plan that is kept; else one is made")] = None,
) -> None:
    """Lay ways side by side under the same luck: one JSON object (docs/choices.md). Exit status 1: one of them can't be."""
    from pydantic import TypeAdapter, ValidationError

    from rovask.core.choice.laid import WayState
    from rovask.core.choice.lay import SideBySide
    from rovask.core.plan.solver.improve import Stop
    from rovask.core.refit.model import ProposedWay
    from rovask.core.reports.log_lines import last_noted
    from rovask.desk.acts import layings
    from rovask.formats.recipe_file import library

    if not 1 <= runs <= MOST_RUNS:
        raise RovaskError(f"--runs {runs}: play it from 1 to {MOST_RUNS} times")
    refit = read_file(file)
    try:
        rows = json.loads(ways.read_text(encoding="utf-8"))
        numbered = [{"id": f"way-{at}"} | row for at, row in enumerate(rows, 1)]
        laid = TypeAdapter(tuple[ProposedWay, ...]).validate_python(numbered)
    except ValidationError as error:
        raise RefitFaults(faults_of(error)) from None
    except (OSError, ValueError, TypeError) as error:
        raise RovaskError(f"{ways}: {error}") from None
    moment = moment_of(now, last_noted(refit))
    planned = _planned(refit, moment, plan_file)
    desk = SideBySide(refit, planned, layings(refit, laid, planned, moment, library()), seed)
    found = desk.settled(time.monotonic, Stop(), runs, seconds)
    typer.echo(found.model_dump_json(indent=2))
    raise typer.Exit(0 if all(one.state is WayState.WORKED for one in found.ways) else 1)


def make_date(
    file: Path,
    odds: Annotated[float, typer.Option(help="how sure to be, 0 to 1")] = 0.9,
    money: Annotated[float, typer.Option(help="how much more to spend, in the refit's currency")] = 0.0,
    asked: Annotated[Path | None, typer.Option(help="what may be tried, as JSON (docs/choices.md)")] = None,
    now: Annotated[str, typer.Option(help="the moment to plan from; the last thing noted by default")] = "",
    seconds: Annotated[float, typer.Option(help="how long it is looked for, at most")] = 20.0,
    plan_file: Annotated[Path | None, typer.Option("--plan", help="the plan that is kept; else one is made")] = None,
) -> None:
    """What makes the date: the frontier of odds against money, as one JSON object. Exit status 1: nothing is as sure for as much."""
    from decimal import Decimal

    from pydantic import ValidationError

    from rovask.core.choice.levers import Asked
    from rovask.core.plain.currency import exponent
    from rovask.core.reports.log_lines import last_noted
    from rovask.formats.recipe_file import library
    from rovask.work.make_date import Looking
    from rovask.work.tryers import close

    refit = read_file(file)
    try:
        given = json.loads(asked.read_text(encoding="utf-8")) if asked is not None else {}
        minor = int(Decimal(str(money)).scaleb(exponent(refit.currency)))
        wanted = Asked.model_validate({"odds": odds, "money": minor} | given)
    except ValidationError as error:
        raise RefitFaults(faults_of(error)) from None
    except (OSError, ValueError, TypeError) as error:
        raise RovaskError(f"{asked}: {error}") from None
    moment = moment_of(now, last_noted(refit))
    planned = _planned(refit, moment, plan_file)
    try:
        found = Looking(refit, planned, wanted, moment, library(), time.monotonic, lambda _: True).run(seconds)
    finally:
        close()
    typer.echo(found.model_dump_json(indent=2))
    raise typer.Exit(0 if found.best is not None else 1)


def _planned(refit: Refit, moment: datetime, plan_file: Path | None) -> Planned:
    """The plan that was given with its verdict, or one made at a moment."""
    from rovask.core.plan.planner import Planned, plan_and_judge
    from rovask.core.plan.verdict.verdict import judge

    if plan_file is None:
        return plan_and_judge(refit, moment)
    plan = read_plan(plan_file)
    return Planned(plan, judge(refit, plan))
