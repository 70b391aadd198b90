"""Who is in a refit: members and what they are, invitations, leaving; and what a trade sees of its own."""

from __future__ import annotations

from fastapi import APIRouter, Request
from fastapi.responses import Response

from rovask.core.plain.faults import RefitFaults, refused
from rovask.core.refit import typed
from rovask.desk.commands.members import ChangeRole, Invite, Leave, MakeWayBack, TakeOut
from rovask.desk.rights import Right
from rovask.store import accounts, journal
from rovask.store.account_tables import Membership
from rovask.web.acting import faults_of_form, let_in, on_to, ran
from rovask.web.asking import Pk, desk_of
from rovask.web.page import Page, page_here
from rovask.web.rendering import render
from rovask.web.security import Form, Posted, Who

router = APIRouter()

ROLE_WORDS = {
    Membership.SKIPPER: "skipper: may do all, and invites",
    Membership.CREW: "crew: work, findings, stores and log",
    Membership.READER: "reader: looks on",
    Membership.TRADE: "trade: sees its own work alone",
}


@router.get("/r/{pk}/people")
def people(request: Request, who: Who, pk: Pk) -> Response:
    """Who is in this refit, and what they may do."""
    return _people(request, page_here(request, who, pk))


def _people(
    request: Request, page: Page, faults: dict[str, list[str]] | None = None, status: int = 200, **more: str
) -> Response:
    with desk_of(request).looking() as session:
        rows = accounts.members(session, page.kept.pk)
    context = page.context(
        rows=rows,
        roles=ROLE_WORDS,
        faults=faults or {},
        **(
            {"link": "", "link_for": "", "link_good": "", "typed_name": "", "typed_role": "crew", "typed_person": ""}
            | more
        ),
    )
    return render(request, "people.html", context, status)


def _role(posted: Posted) -> Membership:
    try:
        return Membership(posted.text("role"))
    except ValueError:
        raise refused("choose what they are to be", "role") from None


def _account(posted: Posted) -> int:
    try:
        return typed.whole(posted.text("account"), 1)
    except ValueError:
        raise refused("Choose whom.") from None


@router.post("/r/{pk}/people/invite")
def invite(request: Request, who: Who, posted: Form, pk: Pk) -> Response:
    """A link by which somebody becomes a member, once within a week."""
    let_in(request, who, pk, Invite.needs)
    typed_ = {f"typed_{name}": posted.text(name) for name in ("name", "role", "person")}
    try:
        name = posted.words("name", 60)
        token = ran(request, who, Invite(_role(posted), name, posted.text("person")), pk)
    except RefitFaults as error:
        return _people(request, page_here(request, who, pk), faults_of_form(error), 422, **typed_)
    link = f"{request.base_url}come-aboard/{token}"
    return _people(request, page_here(request, who, pk), link=link, link_for=name or "whoever you send it to")


@router.post("/r/{pk}/people/role")
def change_role(request: Request, who: Who, posted: Form, pk: Pk) -> Response:
    """Make a member something else."""
    try:
        ran(request, who, ChangeRole(_account(posted), _role(posted), posted.text("person")), pk)
    except RefitFaults as error:
        return _people(request, page_here(request, who, pk), {"": [fault.message for fault in error.faults]}, 422)
    return on_to(f"/r/{pk}/people")


@router.post("/r/{pk}/people/take-out")
def take_out(request: Request, who: Who, posted: Form, pk: Pk) -> Response:
    """Take somebody out of the refit."""
    try:
        ran(request, who, TakeOut(_account(posted)), pk)
    except RefitFaults as error:
        return _people(request, page_here(request, who, pk), {"": [fault.message for fault in error.faults]}, 422)
    return on_to(f"/r/{pk}/people")


@router.post("/r/{pk}/people/way-back")
def way_back(request: Request, who: Who, posted: Form, pk: Pk) -> Response:
    """A link that signs a member in who has lost every other way."""
    let_in(request, who, pk, MakeWayBack.needs)
    try:
        account = _account(posted)
        token = ran(request, who, MakeWayBack(account), pk)
    except RefitFaults as error:
        return _people(request, page_here(request, who, pk), {"": [fault.message for fault in error.faults]}, 422)
    page = page_here(request, who, pk)
    with desk_of(request).looking() as session:
        name = next((row.name for row in accounts.members(session, pk) if row.account == account), "them")
    link = f"{request.base_url}come-aboard/{token}"
    return _people(request, page, link=link, link_for=name, link_good="good for a day and for one use")


@router.get("/r/{pk}/journal")
def refit_journal(request: Request, who: Who, pk: Pk) -> Response:
    """Who came in, who may do what since when, what was opened and taken out of this refit."""
    page = page_here(request, who, pk, Right.PEOPLE)
    with desk_of(request).looking() as session:
        lines = journal.lines(session, refit=pk)
    return render(request, "journal.html", page.context(lines=lines))


@router.post("/r/{pk}/people/leave")
def leave(request: Request, who: Who, posted: Form, pk: Pk) -> Response:
    """Leave a refit oneself."""
    ran(request, who, Leave(), pk)
    return on_to("/")


@router.get("/r/{pk}/mine")
def own_work(request: Request, who: Who, pk: Pk) -> Response:
    """The work of whom one stands for in this refit, and nothing else of it."""
    page = page_here(request, who, pk, Right.OWN_JOBS)
    turns = [item for item in page.plan.assignments if page.person is not None and page.person in item.people]
    turns.sort(key=lambda item: (item.resume or item.start, item.task))
    context = {
        "who": who,
        "path": request.url.path,
        "boat": page.refit.boat.name,
        "yard": page.refit.yard,
        "zone": page.zone,
        "person": page.refit.persons.get(page.person or ""),
        "turns": [
            (item, page.refit.tasks[item.task], page.refit.place_by_id[page.refit.tasks[item.task].place])
            for item in turns
            if not page.refit.tasks[item.task].done_at
        ],
        "now": page.now,
    }
    return render(request, "own_work.html", context)
