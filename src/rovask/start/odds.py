"""``rovask odds``: how sure a refit file's launch is, without a database."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated

import typer

from rovask.core.plain.faults import RovaskError
from rovask.start.given import moment_of, read_file, read_plan

MOST_RUNS = 1_000_000


def odds(
    file: Path,
    now: Annotated[str, typer.Option(help="the moment to play from; the last thing noted by default")] = "",
    runs: Annotated[int, typer.Option(help=f"how often it is played, 1 to {MOST_RUNS}")] = 10_000,
    seed: int = 1,
    slot: Annotated[list[str] | None, typer.Option(help="another launch to ask about; may be said again")] = None,
    only_typed: Annotated[
        bool, typer.Option("--only-typed", help="only spreads that were typed: nothing usual, no weather, nobody ill")
    ] = False,
    plan_file: Annotated[Path | None, typer.Option("--plan", help="the plan that is kept; else one is made")] = None,
) -> None:
    """How sure the launch is, and what it hangs on: one JSON object (docs/odds.md). Exit status 1: nothing can be said."""
    from rovask.core.odds.odds import odds_of
    from rovask.core.plan.planner import make_plan
    from rovask.core.reports.log_lines import last_noted

    if not 1 <= runs <= MOST_RUNS:
        raise RovaskError(f"--runs {runs}: play it from 1 to {MOST_RUNS} times")
    refit = read_file(file)
    slots = [moment_of(one, refit.launch_at, "--slot") for one in slot or ()]
    made = read_plan(plan_file) if plan_file is not None else make_plan(refit, moment_of(now, last_noted(refit)))
    found = odds_of(refit, made, runs=runs, seed=seed, only_typed=only_typed, slots=slots)
    typer.echo(found.model_dump_json(indent=2))
    raise typer.Exit(0 if found.odds is not None else 1)
