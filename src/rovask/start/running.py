"""The parts of an installation, each a command of its own: for a server where a supervisor starts them, on one machine or on several.

Exit status: 0 well; 1 looked, and something is wrong; 2 it could not be done; 3 the database has another schema than this version needs.
"""

from __future__ import annotations

import asyncio
import json
import os
import signal
import sys
from contextlib import suppress
from socket import socket
from typing import Annotated

import typer

from rovask.settings import Settings
from rovask.start.children import end_with_parent
from rovask.start.compiling import compile_first
from rovask.start.errors import StartError
from rovask.start.logs import begin_log
from rovask.start.named import any_database, needing_database

BEHIND_ALL = 19  # nice: the search leaves the pages, and what they ask beside them, all but what they leave over
OTHER_SCHEMA = 3
LEAVES_WITHIN, LEAVES_SERVE_WITHIN = 10, 3  # seconds for what is being answered when it is told to stop
KEPT_OPEN = 75  # seconds: longer than a proxy keeps a line to it, or what it sends meets a line that was just closed


def _needing_schema(settings: Settings) -> None:
    from rovask.store.database import reading
    from rovask.store.stands import newest_schema, schema_of

    with reading(settings.database_url) as session:
        has, needs = schema_of(session), newest_schema(settings.database_url)
    if has != needs:
        typer.echo(
            f"The database has schema {has or 'none'}, this version needs {needs}: run rovask migrate.", err=True
        )
        raise typer.Exit(OTHER_SCHEMA)


def web(
    port: Annotated[int, typer.Option(help="port of the pages; ROVASK_PORT by default")] = 0,
    host: Annotated[str, typer.Option(help="interface; ROVASK_HOST by default")] = "",
) -> None:
    """Serve the pages on ROVASK_DATABASE_URL until stopped; run as many as you like, on any machines."""
    end_with_parent()
    from rovask.start.sockets import listening_socket

    settings = needing_database()
    settings = settings.model_copy(update={"port": port or settings.port, "host": host or settings.host})
    begin_log(settings.log)
    _needing_schema(settings)
    compile_first(lambda words: typer.echo(words, err=True))
    sock = listening_socket(settings.host, settings.port)
    typer.echo(f"Rovask's pages are served on port {settings.port} of {settings.host}.", err=True)
    _serve_pages(settings, sock, LEAVES_WITHIN)


def _serve_pages(settings: Settings, sock: socket, leaves_within: int) -> None:
    import uvicorn

    from rovask.start.asgi import app_for
    from rovask.web.app import helped

    config = uvicorn.Config(
        app_for(settings, helped),
        log_config=None,
        access_log=False,
        timeout_graceful_shutdown=leaves_within,
        timeout_keep_alive=KEPT_OPEN,
        proxy_headers=False,  # the application knows whom it trusts
    )
    signal.signal(signal.SIGTERM, _leave)  # to be told to stop is no fault; uvicorn hands it on once it has stopped
    with suppress(KeyboardInterrupt):
        uvicorn.Server(config).run(sockets=[sock])
    _leave()


def _leave(*_: object) -> None:
    """All is answered: what is still being worked out is for nobody, and the next process takes up what was begun."""
    sys.stdout.flush()
    sys.stderr.flush()
    os._exit(0)


def worker() -> None:
    """Work the queue on ROVASK_DATABASE_URL until stopped; run as many as you like, on any machines."""
    settings = needing_database()
    begin_log(settings.log)
    _needing_schema(settings)
    end_with_parent()
    compile_first(lambda words: typer.echo(words, err=True))
    _work_queue(settings)


def _work_queue(settings: Settings) -> None:
    from rovask.work.queue import run_worker

    os.nice(BEHIND_ALL)
    loop = asyncio.new_event_loop()
    loop.run_until_complete(run_worker(settings))
    _leave()


def pages_and_worker(
    number: Annotated[int, typer.Argument(help="a socket that is listened on, inherited from whoever started this")],
) -> None:
    """Of `serve`: read all of the code at once, and serve and work when a line on standard input says on what, as JSON."""
    import rovask.start.asgi
    import rovask.work.queue  # noqa: F401 — read here, once for all that are begotten
    from rovask.start.keeper import Part, keep
    from rovask.start.sockets import inherited_socket

    os.environ.update(json.loads(sys.stdin.readline() or "{}"))
    settings = needing_database()
    begin_log(settings.log)
    compile_first(lambda words: typer.echo(words, err=True))
    sock = inherited_socket(number)

    def pages() -> None:
        end_with_parent()
        _serve_pages(settings, sock, LEAVES_SERVE_WITHIN)

    def queue() -> None:
        end_with_parent()
        sock.close()
        _work_queue(settings)

    raise typer.Exit(keep([Part("pages", pages), Part("worker", queue)], lambda words: typer.echo(words, err=True)))


def migrate() -> None:
    """Bring the database at ROVASK_DATABASE_URL to the schema of this version; nothing to do is well too. `demo` and `serve` do it by themselves."""
    from rovask.store.database import reading
    from rovask.store.migrate import migrate as bring_up
    from rovask.store.stands import schema_of

    settings = needing_database()
    bring_up(settings.database_url)
    with reading(settings.database_url) as session:
        typer.echo(f"schema {schema_of(session)}")


def doctor() -> None:
    """Look an installation over. Exit status 1: something is bad; what only wants a look is told and is no fault."""
    settings = any_database()
    from rovask.start.doctor import Health, look_over

    worst = 0
    for one in look_over(settings):
        typer.echo(f"{one.health:<5}{one.what:<10}{one.words}")
        worst |= one.health is Health.ILL
    raise typer.Exit(int(worst))


def link(
    name: Annotated[str, typer.Argument(help="whose; by default whoever was here first")] = "",
    base: Annotated[str, typer.Option(help="address the pages are served under")] = "",
) -> None:
    """A link that signs somebody in, once within a day: who may run this may do with Rovask as they like anyway."""
    from rovask.start.beginning import start_link
    from rovask.store import accounts
    from rovask.store.database import transaction

    settings = any_database()
    if name:
        with transaction(settings.database_url) as session:
            found = accounts.account_named(session, name)
            if found is None:
                raise StartError(f"There is no account “{name}”.")
            token = accounts.device_link(session, found.pk, None, settings.clock())
    else:
        token = start_link(settings)
    typer.echo(f"{base.rstrip('/') or f'http://{settings.host}:{settings.port}'}/come-aboard/{token}")


def operator(
    name: str, no_longer: Annotated[bool, typer.Option("--no-longer", help="take it from them")] = False
) -> None:
    """Make somebody an operator: they see how this Rovask fares, and no refit's content."""
    from rovask.store import accounts
    from rovask.store.database import transaction

    settings = any_database()
    with transaction(settings.database_url) as session:
        found = accounts.account_named(session, name)
        if found is None:
            raise StartError(f"There is no account “{name}”.")
        found.operator = not no_longer
    typer.echo(f"{name} is {'no longer ' if no_longer else ''}an operator.")
