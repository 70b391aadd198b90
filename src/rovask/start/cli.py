"""The command line inside the virtual environment; ``./rovask`` sets everything up and calls it."""

from __future__ import annotations

import json
import os
import subprocess
import sys
import time
from concurrent.futures import ThreadPoolExecutor
from contextlib import suppress
from datetime import timedelta
from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer
from sqlalchemy.exc import OperationalError

from rovask.core.plain.faults import RefitFaults, RovaskError
from rovask.settings import Settings
from rovask.start.children import end_with_parent
from rovask.start.choose import choose, make_date
from rovask.start.copies import backup, restore
from rovask.start.given import moment_of, read_file, read_plan
from rovask.start.odds import odds
from rovask.start.postgres import PrivatePostgres, data_folder, start
from rovask.start.running import doctor, link, migrate, operator, pages_and_worker, web, worker

if TYPE_CHECKING:
    from rovask.core.plan.result import Plan
    from rovask.core.refit.model import Refit

app = typer.Typer(add_completion=False, no_args_is_help=True, pretty_exceptions_enable=False)
ROOT = Path(__file__).parents[3]
CHECKS = (
    ("format", [sys.executable, "-m", "ruff", "format", "--check", "."]),
    ("lint", [sys.executable, "-m", "ruff", "check", "."]),
    ("types", [sys.executable, "-m", "mypy"]),
    ("assets", [sys.executable, "assets/build.py", "--check"]),
    ("generated files", [sys.executable, "-m", "rovask.start.generated", "--check"]),
)


for one in (web, worker, migrate, backup, restore, doctor, link, operator):
    app.command()(one)
app.command()(odds)
app.command()(choose)
app.command(name="make-date")(make_date)
app.command(name="pages-and-worker", hidden=True)(pages_and_worker)


@app.command()
def demo(
    port: Annotated[int, typer.Option(help="port of the pages")] = 0,
    host: Annotated[str, typer.Option(help="interface; anything but loopback is reachable by others")] = "",
    fresh: Annotated[bool, typer.Option("--fresh", help="load the demo anew, its changes lost")] = False,
) -> None:
    """Start everything with the demo refit and print the address."""
    _start(_settings(port, host), demo=True, fresh=fresh)


@app.command()
def serve(port: int = 0, host: str = "") -> None:
    """Start everything on your own refits."""
    _start(_settings(port, host), demo=False, fresh=False)


def _start(settings: Settings, *, demo: bool, fresh: bool) -> None:
    """Start the database and load the application beside each other: either takes seconds."""
    from rovask.start.sockets import listening_socket

    sock = listening_socket(settings.host, settings.port)
    with ThreadPoolExecutor(1) as pool:
        starting = pool.submit(_private_database, settings)
        from rovask.start.serve import run

        run(settings, sock, starting, demo=demo, fresh=fresh)
    sys.stdout.flush()
    os._exit(0)  # everything is stopped; a page that still works something out for nobody is not waited for


def _private_database(settings: Settings) -> PrivatePostgres | None:
    """The private server, unless a database of somebody's own is named."""
    if settings.database_url:
        return None
    return start(data_folder(settings.state.resolve(), "pg"))


def _settings(port: int, host: str) -> Settings:
    changes = ({"port": port} if port else {}) | ({"host": host} if host else {})
    return Settings().model_copy(update=changes)


@app.command()
def plan(
    file: Path,
    out: Annotated[Path | None, typer.Option(help="where the plan goes; standard output by default")] = None,
    now: Annotated[str, typer.Option(help="the moment to plan from; the haul-out by default")] = "",
    starts: Annotated[int | None, typer.Option(min=1, max=5000, help="schedules to try")] = None,
    seed: int = 1,
    seconds: Annotated[float, typer.Option(min=0, max=36000, help="how long to look for a better one")] = 0,
) -> None:
    """Plan a refit file without a database. Exit status 1: the launch slot does not hold."""
    from rovask.core.plain.words import span
    from rovask.core.plan.planner import Planned, plan_and_judge
    from rovask.core.plan.result import Outcome
    from rovask.core.plan.verdict.verdict import judge
    from rovask.core.plan.verify.check import verify
    from rovask.formats.refit_file import plan_json

    refit = read_file(file)
    planned = plan_and_judge(refit, moment_of(now, refit.haul_at), starts, seed)
    if seconds:
        better = _improved(refit, planned.plan, seconds)
        planned = Planned(better, judge(refit, better))
    breaches = verify(refit, planned.plan)
    if breaches:
        raise RovaskError("the plan broke a rule and is not given out: " + "; ".join(b.sentence for b in breaches))
    text = plan_json(planned.plan)
    if out is None:
        typer.echo(text, nl=False)
    else:
        out.write_text(text, encoding="utf-8")
    verdict = planned.verdict
    typer.echo(f"{verdict.outcome}: {span(verdict.spare_minutes)}, {len(verdict.left_out)} jobs left out", err=True)
    for collision in verdict.collisions:
        typer.echo(collision.sentence, err=True)
    raise typer.Exit(0 if verdict.outcome in (Outcome.HELD, Outcome.AFLOAT) else 1)


def _improved(refit: Refit, plan: Plan, seconds: float) -> Plan:
    """The best plan found in ``seconds``; each better one is told on standard error."""
    from rovask.core.plan.planner import plan_of, settled
    from rovask.core.plan.solver.improve import BetterSchedule, improve

    draft = settled(refit, plan, seconds / 2, time.monotonic)
    if draft.schedule is None:
        return draft.plan

    def tell(step: BetterSchedule) -> None:
        typer.echo(f"{step.seconds:7.2f} s  cost {step.value}  bound {step.bound}", err=True)

    found = improve(draft.problem, draft.schedule, seconds=seconds, clock=time.monotonic, tell=tell)
    typer.echo(f"{found.status} after {found.seconds:.1f} s: cost {found.value}, none below {found.bound}", err=True)
    best = found.schedule or draft.schedule
    return plan_of(refit, draft.problem, best, plan.now, plan.starts_tried, found.bound, draft.plan.ready)


@app.command(name="what-if")
def what_if(
    file: Path,
    add: Annotated[
        list[str] | None, typer.Option(help="a recipe, with answers: barrier,coats=4; several are compared")
    ] = None,
    drop: Annotated[list[str] | None, typer.Option(help="a job's id")] = None,
    launch: Annotated[str, typer.Option(help="another launch slot")] = "",
    part: Annotated[list[str] | None, typer.Option(help="a part and when it comes: KEY=2026-05-20T10:00Z")] = None,
    now: Annotated[str, typer.Option(help="the moment it is asked; the haul-out by default")] = "",
    seconds: Annotated[float, typer.Option(min=0, max=3600, help="searched on each side")] = 0,
) -> None:
    """What a change would do to launch, money and jobs: one JSON object. Nothing is changed."""
    from rovask.formats.recipe_file import library
    from rovask.start.what_if import Asked
    from rovask.start.what_if import what_if as compared

    refit = read_file(file)
    parts = []
    for text in part or []:
        key, _, comes = text.partition("=")
        parts.append((key, moment_of(comes, refit.haul_at)))
    asked = Asked(add or [], drop or [], moment_of(launch, refit.launch_at) if launch else None, parts)
    typer.echo(json.dumps(compared(refit, library(), moment_of(now, refit.haul_at), asked, seconds)))


@app.command()
def account(
    file: Path,
    now: Annotated[str, typer.Option(help="the moment it is drawn up for; the last thing noted by default")] = "",
    plan_file: Annotated[
        Path | None, typer.Option("--plan", help="the plan that is kept, as Yard gives it out; else one is made")
    ] = None,
) -> None:
    """Where the money of a refit file stands: one JSON object, in minor units. Nothing is changed."""
    from rovask.core.books.account_sheet import account_sheet
    from rovask.core.plan.planner import make_plan
    from rovask.core.reports.log_lines import last_noted

    refit = read_file(file)
    made = read_plan(plan_file) if plan_file is not None else make_plan(refit, moment_of(now, last_noted(refit)))
    typer.echo(json.dumps(account_sheet(refit, made), ensure_ascii=False))


@app.command(name="solve-instance")
def solve_instance(
    file: Path, seconds: Annotated[float, typer.Option(min=0.1, max=36000)] = 60, workers: int = 2
) -> None:
    """Solve a published scheduling instance (.sm, .sch, .rcp): one JSON object on standard output."""
    from rovask.core.plan.solver.solve import solve_instance as solve
    from rovask.formats.instances import read_instance

    try:
        text = file.read_text(encoding="utf-8")
    except (OSError, UnicodeDecodeError) as error:
        raise RovaskError(f"{file}: can't be read ({error.__class__.__name__})") from None
    found = solve(read_instance(file.name, text), seconds, time.monotonic, workers)
    told = {"instance": file.name, "status": found.status, "makespan": found.makespan, "bound": found.bound}
    typer.echo(json.dumps(told | {"seconds": round(found.seconds, 2), "conflict": found.conflict}))


@app.command(name="weather-standin")
def weather_standin(port: int = 8801, seed: int = 1) -> None:
    """Serve simulated weather on loopback: what `demo` fetches its weather from."""
    import uvicorn

    from rovask.standins.weather import create_app

    end_with_parent()
    with suppress(KeyboardInterrupt):
        uvicorn.run(create_app(seed), host="127.0.0.1", port=port, log_level="warning", access_log=False)


@app.command()
def standin(
    name: Annotated[str, typer.Argument(help="supplier, carrier or rates")],
    port: int = 8802,
    seed: int = 1,
    trouble: Annotated[float, typer.Option(min=0, max=1, help="share of requests that go wrong in some way")] = 0.0,
) -> None:
    """Serve a simulated supplier, carrier or rates of exchange on loopback: what `demo` orders from and asks."""
    import uvicorn

    from rovask.standins import carrier, rates, supplier
    from rovask.standins.trouble import Moods

    made = {"supplier": supplier.create_app, "carrier": carrier.create_app, "rates": rates.create_app}.get(name)
    if made is None:
        raise RovaskError(f"there is no stand-in {name!r}: supplier, carrier or rates")
    end_with_parent()
    with suppress(KeyboardInterrupt):
        uvicorn.run(
            made(seed, Moods(seed, trouble)), host="127.0.0.1", port=port, log_level="warning", access_log=False
        )


@app.command()
def verify(file: Path, plan_file: Path) -> None:
    """Check a plan against its refit file. Exit status 1: it breaks rules, one a line."""
    from rovask.core.plan.verify.check import verify as check_plan

    refit = read_file(file)
    breaches = check_plan(refit, read_plan(plan_file))
    for breach in breaches:
        typer.echo(json.dumps({"rule": breach.rule, "task": breach.task, "why": breach.sentence}))
    typer.echo("valid" if not breaches else f"{len(breaches)} breaches", err=True)
    raise typer.Exit(1 if breaches else 0)


@app.command()
def check() -> None:
    """Format, lint, types, built assets, generated files: the strict gates."""
    failed = [name for name, command in CHECKS if not _passes(name, command)]
    raise typer.Exit(1 if failed else 0)


def _passes(name: str, command: list[str]) -> bool:
    done = subprocess.run(command, cwd=ROOT, capture_output=True, text=True, check=False)
    typer.echo(f"{name}: {'ok' if done.returncode == 0 else 'FAILED'}")
    if done.returncode:
        typer.echo(done.stdout + done.stderr)
    return done.returncode == 0


@app.command(context_settings={"allow_extra_args": True, "ignore_unknown_options": True})
def test(
    context: typer.Context,
    long: Annotated[bool, typer.Option("--long", help="walk many pages of each sort, many damaged files")] = False,
) -> None:
    """The strict gates, and beside them every test, in three workers with a database each, for some of them wait; more words go
    to pytest instead.
    """
    words = [*(context.args or ["-n", "3", "--dist", "worksteal"]), *(["--long"] if long else [])]
    gates = None
    if not context.args:
        command = [sys.executable, "-m", "rovask.start.cli", "check"]
        gates = subprocess.Popen(command, stdout=subprocess.PIPE, stderr=subprocess.STDOUT, text=True)
    tests = subprocess.run([sys.executable, "-m", "pytest", *words], cwd=ROOT, check=False).returncode
    if gates is not None:
        typer.echo(gates.communicate()[0])
    raise typer.Exit((gates.returncode if gates is not None else 0) or tests)


@app.command()
def bench(
    what: Annotated[
        str,
        typer.Argument(
            help="planner (or first, improve, replan, instances, beside), broken, pages, books, boats, marina, previews, browser, effects, odds, choice, foresight, surer, against"
        ),
    ] = "planner",
    other: Annotated[
        Path | None, typer.Argument(help="against: another checkout, to be compared with in turns")
    ] = None,
    seconds: Annotated[float, typer.Option(help="effects: how long each side is searched")] = 60.0,
    every: Annotated[int, typer.Option(min=1, help="effects: every so many recipes")] = 1,
) -> None:
    """Measure; JSON lines on standard output, exit status 1 if a bound is missed."""
    sys.path.insert(0, str(ROOT))
    try:
        from benches.run import run
    except ModuleNotFoundError:
        raise RovaskError(
            "The benches lie beside the source and are not installed with it: run this in a checkout."
        ) from None

    raise typer.Exit(run(what, seconds, every, other))


@app.command()
def assets() -> None:
    """Build styles, scripts and fonts from their sources, and the generated files."""
    subprocess.run([sys.executable, "assets/build.py"], cwd=ROOT, check=True)
    subprocess.run([sys.executable, "-m", "rovask.start.generated"], cwd=ROOT, check=True)


@app.command()
def warm() -> None:
    """Compile the planner and the odds once, so that no request waits: a first plan, one after a change, a moment of search."""
    from rovask.core.explain.compare import compare
    from rovask.core.explain.search import Search
    from rovask.core.odds.odds import odds_of
    from rovask.core.plan.planner import plan_and_judge
    from rovask.formats.refit_file import read_refit
    from rovask.start.beginning import DEMO_FILE
    from rovask.start.compiling import mark_compiled

    refit = read_refit(DEMO_FILE.read_bytes()).refit
    planned = plan_and_judge(refit, refit.haul_at, starts=2)
    later = refit.grown(launch_at=refit.launch_at + timedelta(days=1))
    compare(refit, later, refit.haul_at, planned.plan, Search(1.0, time.monotonic))
    odds_of(refit, planned.plan, runs=100)
    mark_compiled()


def main() -> None:
    """Run a command; what Rovask refuses on purpose is one plain message and exit status 2."""
    try:
        app()
    except RefitFaults as error:
        for fault in error.faults:
            typer.echo(str(fault), err=True)
        sys.exit(2)
    except RovaskError as error:
        typer.echo(str(error), err=True)
        sys.exit(2)
    except OperationalError as error:
        typer.echo(f"The database does not answer: {str(error.orig).splitlines()[0]}", err=True)
        sys.exit(2)


if __name__ == "__main__":
    main()
