"""The application for any ASGI server, with settings from the environment: ``uvicorn --factory rovask.start.asgi:application``."""

from __future__ import annotations

import logging

from fastapi import FastAPI
from starlette.types import Lifespan

from rovask.settings import Settings
from rovask.start.compiling import compile_first
from rovask.start.frugal import few_heaps, rare_full_rounds
from rovask.start.logs import begin_log
from rovask.start.named import needing_database
from rovask.web.app import create_app, helped


def app_for(settings: Settings, lifespan: Lifespan[FastAPI] | None = None) -> FastAPI:
    """The pages, in a process that is theirs."""
    few_heaps()
    app = create_app(settings, lifespan)
    rare_full_rounds()
    return app


def application() -> FastAPI:
    """The pages on ROVASK_DATABASE_URL. Raises StartError without one."""
    settings = needing_database()
    begin_log(settings.log)
    compile_first(logging.getLogger("rovask.start").warning)
    return app_for(settings, helped)
