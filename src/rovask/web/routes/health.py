"""Whether this process lives, whether it can serve, and its figures: for whatever watches over it."""

from __future__ import annotations

import secrets

from fastapi import APIRouter, Request
from fastapi.responses import JSONResponse, Response
from prometheus_client import CONTENT_TYPE_LATEST, CollectorRegistry, Gauge, generate_latest
from sqlalchemy.exc import SQLAlchemyError

from rovask.store import stands
from rovask.store.errors import NotFound
from rovask.web.asking import NO_PAGE, desk_of
from rovask.web.security import settings_of

router = APIRouter()
PLAIN = {"Cache-Control": "no-store"}


@router.get("/healthz")
def alive() -> Response:
    """This process answers."""
    return Response("ok\n", media_type="text/plain", headers=PLAIN)


@router.get("/readyz")
def ready(request: Request) -> Response:
    """Whether it can serve: database, its schema, and where photos are kept. 503 with the first that is wrong otherwise."""
    found = stands.ready(desk_of(request).url, desk_of(request).photos)
    wrong = {name: words for name, words in found.items() if words}
    return JSONResponse(
        {"ready": not wrong} | {name: words or "ok" for name, words in found.items()},
        503 if wrong else 200,
        headers=PLAIN,
    )


@router.get("/metrics")
def metrics(request: Request) -> Response:
    """The figures of this process, and of the queue, in Prometheus' text format; only with the token that was set."""
    token = settings_of(request).metrics_token
    given = request.headers.get("authorization", "").removeprefix("Bearer ")
    if not token or not secrets.compare_digest(given.encode(), token.encode()):
        raise NotFound(NO_PAGE)
    found = CollectorRegistry()
    up = Gauge("rovask_database_up", "Whether the database answered", registry=found)
    try:
        with desk_of(request).looking() as session:
            for name, words, rows in stands.figures(session):
                gauge = Gauge(name, words, ("which",), registry=found)
                for which, value in rows.items():
                    gauge.labels(which).set(value)
        up.set(1)
    except SQLAlchemyError:
        up.set(0)
    body = generate_latest(request.app.state.figures.registry) + generate_latest(found)
    return Response(body, media_type=CONTENT_TYPE_LATEST, headers=PLAIN)
