"""How this Rovask fares, for whoever runs it: numbers and states, and nothing of what any refit says."""

from __future__ import annotations

from fastapi import APIRouter, Request
from fastapi.responses import Response

from rovask.store import inbox, journal, outbox, stands
from rovask.store.errors import NotFound
from rovask.store.post_tables import OutState
from rovask.web.asking import NO_PAGE, desk_of
from rovask.web.rendering import render
from rovask.web.security import Who

router = APIRouter()


@router.get("/operator")
def operator(request: Request, who: Who) -> Response:
    """Accounts, refits by size and age, the queue, what went out and failed, storage, copies, the journal. Raises NotFound for others."""
    if not who.operator:
        raise NotFound(NO_PAGE)
    desk = desk_of(request)
    clock = desk.settings.clock()
    with desk.looking() as session:
        context = {
            "numbers": stands.numbers(session, clock),
            "people": stands.accounts_seen(session),
            "refits": stands.refit_sizes(session),
            "figures": stands.figures(session),
            "failed": stands.failed_jobs(session),
            "out": outbox.numbers(session).get(OutState.GIVEN_UP, 0),
            "told": inbox.given_up(session),
            "copies": stands.last_copies(session),
            "lines": journal.lines(session, most=200),
            "database_bytes": stands.database_bytes(session),
        }
    ready = stands.ready(desk.url, desk.photos)
    return render(request, "operator.html", context | {"who": who, "ready": ready, "clock": clock})
