"""The web application: its routes and what stands before them; what is refused or fails is answered in faults.py."""

from __future__ import annotations

from collections.abc import AsyncIterator
from contextlib import asynccontextmanager
from typing import Any

from fastapi import FastAPI
from fastapi.responses import Response
from starlette.middleware.trustedhost import TrustedHostMiddleware
from starlette.staticfiles import StaticFiles
from starlette.types import Lifespan, Receive, Scope, Send
from uvicorn.middleware.proxy_headers import ProxyHeadersMiddleware

from rovask.desk.door import Desk
from rovask.desk.helpers import Helpers
from rovask.desk.limits import Limits
from rovask.settings import Settings
from rovask.store.in_memory import allow
from rovask.web.assets import STATIC
from rovask.web.events import Bell
from rovask.web.faults import tell_faults
from rovask.web.observed import Figures, Observed
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
    health,
    jobs,
    launch,
    logbook,
    make_date,
    measured,
    members,
    morning,
    odds,
    operator,
    orders,
    own,
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
    taken_out,
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


class OurHosts(TrustedHostMiddleware):
    """Answers under no other name than ours; whatever watches over a process may ask it by its number."""

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Pass one request on."""
        if scope["type"] == "http" and scope["path"] in ("/healthz", "/readyz"):
            await self.app(scope, receive, send)
        else:
            await super().__call__(scope, receive, send)


def words_of(text: str) -> list[str]:
    """What is listed with commas between.

    >>> words_of(" boat.example, 10.0.0.1 ,")
    ['boat.example', '10.0.0.1']
    """
    return [word for word in (part.strip() for part in text.split(",")) if word]


class KeptForever(StaticFiles):
    """Static files whose address carries their hash."""

    def file_response(self, *args: Any, **kwargs: Any) -> Response:
        """The file, to be kept by the browser for a year."""
        response = super().file_response(*args, **kwargs)
        response.headers["Cache-Control"] = "public, max-age=31536000, immutable"
        return response


@asynccontextmanager
async def helped(app: FastAPI) -> AsyncIterator[None]:
    """While it serves there are processes beside it that work out what takes many plans."""
    app.state.helpers.warm()
    try:
        yield
    finally:
        app.state.helpers.close()


def create_app(settings: Settings, lifespan: Lifespan[FastAPI] | None = None) -> FastAPI:
    """The application on one database. Holds no state of its own, so several may run side by side."""
    app = FastAPI(title="Rovask", openapi_url=None, docs_url=None, redoc_url=None, lifespan=lifespan)
    app.state.settings = settings
    allow(settings.memory_mb)
    app.state.desk = Desk(settings)
    app.state.helpers = Helpers(settings.database_url, settings.helpers, settings.settling_seconds)
    app.state.limits = Limits(app.state.desk)
    app.state.bell = Bell(settings.database_url)
    app.add_middleware(Turns)
    app.add_middleware(Unforeseen)
    if settings.hosts:
        app.add_middleware(OurHosts, allowed_hosts=words_of(settings.hosts))
    app.add_middleware(SafetyHeaders, beyond=settings.beyond_loopback)
    app.state.figures = Figures()
    app.add_middleware(Observed, figures=app.state.figures)
    app.add_middleware(ProxyHeadersMiddleware, trusted_hosts=words_of(settings.trusted_proxies))
    app.mount("/static", KeptForever(directory=STATIC), name="static")
    for module in (
        health,
        sign_in,
        own,
        operator,
        refits,
        taken_out,
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
