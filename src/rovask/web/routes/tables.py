"""Tables in and out: a file is sent, its columns matched, its rows looked over, and only then anything is added."""

from __future__ import annotations

from collections.abc import Mapping
from itertools import count

from fastapi import APIRouter, Request
from fastapi.responses import Response

from rovask.core.plain.faults import RefitFaults, refused
from rovask.core.refit import typed
from rovask.core.refit.model import ColumnMatch, Entry
from rovask.desk.commands.tables import BringInTable, KeepUpload, match_id
from rovask.formats.apart import apart
from rovask.formats.table_kinds import KINDS, TableKind, guessed
from rovask.formats.table_rows import MOST_FAULTS, read_rows, written_rows
from rovask.formats.tables import Table, read_table, write_csv, write_xlsx
from rovask.store import uploads
from rovask.store.errors import NotFound
from rovask.web.acting import acted, let_in, on_to, ran
from rovask.web.asking import NO_PAGE, Pk, RecordId, desk_of
from rovask.web.page import Page, page_here
from rovask.web.rendering import render
from rovask.web.security import Form, Who

router = APIRouter()

SHOWN_ROWS = 12
TYPES = {"csv": "text/csv; charset=utf-8", "xlsx": "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"}


def kind_here(name: str) -> TableKind:
    """The kind of table of that name. Raises NotFound."""
    if name not in KINDS:
        raise NotFound(NO_PAGE)
    return KINDS[name]


GONE = "this file is no longer here; bring it in again."


@router.get("/r/{pk}/tables")
def tables(request: Request, who: Who, pk: Pk, gone: str = "") -> Response:
    """What can be brought in and handed out."""
    faults = [(gone, GONE)] if gone in KINDS else []
    return render(request, "tables.html", page_here(request, who, pk).context(kinds=KINDS.values(), faults=faults))


@router.get("/r/{pk}/tables/{key}/{name}")
def written(request: Request, who: Who, pk: Pk, key: RecordId, name: str) -> Response:
    """A table as a file."""
    page, kind = page_here(request, who, pk), kind_here(key)
    form = name.rpartition(".")[2]
    if form not in TYPES or not kind.written:
        raise NotFound(NO_PAGE)
    head, rows = [column.name for column in kind.columns], written_rows(page.refit, kind)
    content = write_csv(head, rows) if form == "csv" else write_xlsx(kind.title, head, rows)
    headers = {"Content-Disposition": f'attachment; filename="{kind.name}.{form}"'}
    return Response(content, media_type=TYPES[form], headers=headers)


@router.post("/r/{pk}/tables/{key}")
def sent(request: Request, who: Who, posted: Form, pk: Pk, key: RecordId) -> Response:
    """Keep the file and go on to look it over."""
    let_in(request, who, pk, BringInTable.needs)
    kind, upload = kind_here(key), posted.upload("file")
    try:
        if upload is None:
            raise refused("choose a file first: .csv or .xlsx.", "file")
        name = typed.shown_name(upload.filename or "a file")
        content = upload.file.read()
        apart(read_table, content)  # what is no table is not kept
        token = ran(request, who, KeepUpload(name, content), pk)
    except RefitFaults as error:
        context = page_here(request, who, pk).context(
            kinds=KINDS.values(), faults=[(kind.name, fault.message) for fault in error.faults]
        )
        return render(request, "tables.html", context, 422)
    return on_to(f"/r/{pk}/tables/{kind.name}/look/{token}")


@router.get("/r/{pk}/tables/{key}/look/{token}")
def look(request: Request, who: Who, pk: Pk, key: RecordId, token: str, first: int = 0) -> Response:
    """What the file would add, column by column and line by line."""
    page = page_here(request, who, pk, aside=(ColumnMatch,))
    kind = kind_here(key)
    try:
        name, table = _table(request, pk, token)
    except NotFound:
        return on_to(f"/r/{pk}/tables?gone={kind.name}")
    remembered = next((row for row in page.aside["column-match"] if row.id == match_id(kind.name, table.head)), None)
    chosen = _chosen(kind, table, dict(request.query_params))
    if not chosen and remembered is not None:
        chosen = {column: at for at, column in enumerate(remembered.columns) if column}
    first = max(first, 0) // SHOWN_ROWS * SHOWN_ROWS
    return _look(request, page, kind, name, table, token, chosen or guessed(kind, table.head), first=first)


def _table(request: Request, pk: int, token: str) -> tuple[str, Table]:
    with desk_of(request).looking() as session:
        name, content = uploads.content(session, pk, token)
    return name, apart(read_table, content)


def _chosen(kind: TableKind, table: Table, given: Mapping[str, str]) -> dict[str, int]:
    """Which column is which, as chosen in the form; fields are called by the position in the file."""
    out: dict[str, int] = {}
    known = {column.name for column in kind.columns}
    for at in range(len(table.head)):
        name = given.get(f"column-{at}", "")
        if name in known and name not in out:
            out[name] = at
    return out


def _look(
    request: Request, page: Page, kind: TableKind, name: str, table: Table, token: str, columns: dict[str, int],
    status: int = 200, refused: str = "", first: int = 0,
) -> Response:  # fmt: skip
    numbers = count(1)
    found = read_rows(page.refit, kind, table, columns, lambda one: f"look-{one[:1]}{next(numbers)}", page.now)
    context = page.context(
        kind=kind,
        name=name,
        table=table,
        token=token,
        columns={at: column for column, at in columns.items()},
        found=found,
        faults=found.faults[:MOST_FAULTS],
        more=max(len(found.faults) - MOST_FAULTS, 0),
        rows=table.rows[first : first + SHOWN_ROWS],
        first=first,
        each=SHOWN_ROWS,
        refused=refused,
        new=sum(type(one).__name__ != "Order" for one in found.new),
        matched=[
            (one, found.matched[one.id]) for one in found.new if isinstance(one, Entry) and one.id in found.matched
        ],
    )
    return render(request, "table_look.html", context, status)


@router.post("/r/{pk}/tables/{key}/look/{token}")
def bring_in(request: Request, who: Who, posted: Form, pk: Pk, key: RecordId, token: str) -> Response:
    """Add what is new; all of it or nothing."""
    let_in(request, who, pk, BringInTable.needs)
    kind, (name, table) = kind_here(key), _table(request, pk, token)
    columns = _chosen(kind, table, {name: value for name, value in posted.form.items() if isinstance(value, str)})
    try:
        acted(request, who, pk, BringInTable(kind.name, name, table, columns, posted.text("but") == "yes"))
    except RefitFaults as error:
        page = page_here(request, who, pk)
        return _look(request, page, kind, name, table, token, columns, 422, str(error))
    home = {"ledger": "purse/ledger", "bank": "purse/ledger", "hours": "log", "orders": "stores/orders"}
    return on_to(f"/r/{pk}/{home.get(kind.name, 'stores')}")
