"""The web application: routes, safety, and what a person sees when something fails."""

from __future__ import annotations

import logging
from typing import Any

from fastapi import FastAPI
from fastapi.responses import Response
from starlette.staticfiles import StaticFiles

from rovask.desk.door import Desk
from rovask.desk.helpers import Helpers
from rovask.desk.limits import Limits
from rovask.settings import Settings
from rovask.store.in_memory import allow
from rovask.web.assets import STATIC
from rovask.web.events import Bell
from rovask.web.faults import tell_faults
from rovask.web.routes import (
    aboard,
    aside,
    before,
    bench,
    boat,
    choices,
    closing,
    comes,
    days,
    decide,
    edit,
    hands,
    jobs,
    launch,
    logbook,
    make_date,
    measured,
    members,
    morning,
    odds,
    orders,
    plan,
    post,
    progress,
    purse,
    recipes,
    refits,
    savings,
    seasons,
    seen,
    sent,
    services,
    sign_in,
    slip,
    stores,
    tables,
    task,
    traces,
    trades,
    visits,
    weather,
    yard,
)
from rovask.web.security import SafetyHeaders
from rovask.web.turns import Turns
from rovask.web.unforeseen import Unforeseen

log = logging.getLogger("rovask")


class KeptForever(StaticFiles):
    """Static files whose address carries their hash."""

    def file_response(self, *args: Any, **kwargs: Any) -> Response:
        """The file, to be kept by the browser for a year."""
        response = super().file_response(*args, **kwargs)
        response.headers["Cache-Control"] = "public, max-age=31536000, immutable"
        return response


def create_app(settings: Settings) -> FastAPI:
    """The application on one database. Holds no state of its own, so several may run side by side."""
    app = FastAPI(title="Rovask", openapi_url=None, docs_url=None, redoc_url=None)
    app.state.settings = settings
    allow(settings.memory_mb)
    app.state.desk = Desk(settings)
    app.state.helpers = Helpers(settings.database_url, settings.helpers, settings.settling_seconds)
    app.state.limits = Limits()
    app.state.bell = Bell(settings.database_url)
    app.add_middleware(Turns)
    app.add_middleware(Unforeseen)
    app.add_middleware(SafetyHeaders, beyond=settings.beyond_loopback)
    app.mount("/static", KeptForever(directory=STATIC), name="static")
    for module in (
        sign_in,
        refits,
        members,
        yard,
        morning,
        days,
        visits,
        progress,
        odds,
        choices,
        make_date,
        seasons,
        logbook,
        trades,
        closing,
        comes,
        aboard,
        before,
        slip,
        plan,
        weather,
        recipes,
        boat,
        bench,
        seen,
        aside,
        decide,
        jobs,
        launch,
        stores,
        orders,
        purse,
        savings,
        tables,
        services,
        post,
        sent,
        hands,
        measured,
        traces,
        task,
        edit,
    ):
        app.include_router(module.router)
    tell_faults(app)
    return app
