"""That there is one door: no route opens a transaction or writes, pages ask little, streams end with their session."""

from __future__ import annotations

import ast
import re
import threading
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

import pytest
from sqlalchemy import event

from rovask.desk.commands.accounts import EndSession
from rovask.desk.door import Desk
from rovask.settings import Settings
from rovask.store.database import sessions_for
from tests.acts import ROVASK
from tests.conftest import Sailor

WEB = Path(__file__).parents[2] / "src/rovask/web"
# Names by which something could be written, or a transaction be opened, past the door.
PAST_THE_DOOR = {"transaction", "sessions_for", "sessionmaker", "engine_for", "insert", "update", "delete", "text"}
MOST_QUERIES = 12


@pytest.mark.parametrize("path", sorted(WEB.rglob("*.py")), ids=lambda path: path.name)
def test_no_page_opens_a_transaction_or_writes(path: Path) -> None:
    """Routes may read what the store hands out; all else is a command."""
    for node in ast.walk(ast.parse(path.read_text())):
        if isinstance(node, ast.ImportFrom) and node.module:
            names = {alias.name for alias in node.names}
            assert node.module != "rovask.store.database", f"{path.name} reaches for the database"
            if node.module.startswith("sqlalchemy"):
                assert names <= {"Session", "OperationalError", "TimeoutError", "SQLAlchemyError"}, (
                    f"{path.name} imports {names} from {node.module}"
                )
            if node.module.startswith("rovask.store"):
                assert not names & PAST_THE_DOOR, f"{path.name} imports {names}"
        if isinstance(node, ast.Attribute) and node.attr in ("commit", "flush", "execute", "add", "merge", "begin"):
            owner = ast.unparse(node.value)
            assert "session" not in owner, f"{path.name} calls {owner}.{node.attr}"


def test_only_the_door_and_the_start_write(settings: Settings) -> None:
    """A session that pages get can't write at all: the database itself refuses."""
    from sqlalchemy import text as sql
    from sqlalchemy.exc import InternalError

    with pytest.raises(InternalError, match="read-only"), Desk(settings).looking() as session:
        session.execute(sql("delete from refit"))


@contextmanager
def counted(settings: Settings) -> Iterator[list[str]]:
    """The statements sent to the database meanwhile."""
    asked: list[str] = []
    engine = sessions_for(settings.database_url).kw["bind"]

    def note(_conn: object, _cursor: object, statement: str, *_: object) -> None:
        asked.append(re.sub(r"\s+", " ", statement)[:90])

    event.listen(engine, "before_cursor_execute", note)
    try:
        yield asked
    finally:
        event.remove(engine, "before_cursor_execute", note)


SCREENS = [
    "morning", "aboard", "before/launch", "slip", "slip?task=bottom-9", "boat", "jobs", "jobs/bottom", "stores", "recipes", "recipes/bottom-coating",
    "look", "findings", "finding/f4", "finding/f4/decide", "off", "parked", "bench/taper", "yard", "log", "people", "search",
    "task/bottom-9/edit", "currency", "standing", "stores/part/anti", "stores/orders", "stores/order/o17", "stores/receive",
    "stores/shopping", "stores/suppliers", "stores/new-order", "purse", "purse?by=party", "purse/months", "purse/bill", "purse/ledger", "purse/agreements",
    "launch", "launch?all=yes", "launch/slings", "accept", "accept/rudder-7", "day/2026-05-08", "day/2026-05-12", "visits", "visits/v1", "slip/ruy",
    "progress", "odds", "odds/brief", "choices", "choices/w1", "choices/w3", "choices/w2/ways/hand", "date", "seasons", "since", "log?text=keel", "jobs/shaft/apart", "links", "sheet/ruy", "calendar/all.ics", "trouble/weeps", "night", "night/told", "account",
    "hands", "hands/seized/se1", "hands/seized/new", "hands/cover/cv1", "hands/coats", "hands/fit/fi1", "hands/shape/sh1", "hands/trace/tr1", "hands/contacts",
    "purse/agreement/keel", "purse/entry", "purse/save", "purse/account", "purse/rates", "tables", "post",
]  # fmt: skip


@pytest.mark.parametrize("screen", SCREENS)
def test_a_page_asks_at_most_a_dozen_things(sailor: Sailor, settings: Settings, shown_pk: int, screen: str) -> None:
    with counted(settings) as asked:
        assert sailor.get(f"/r/{shown_pk}/{screen}").status_code == 200
    assert len(asked) <= MOST_QUERIES, "\n".join(asked)


def test_a_change_is_kept_with_few_statements(sailor: Sailor, settings: Settings, demo_pk: int) -> None:
    sailor.get(f"/r/{demo_pk}/morning")
    with counted(settings) as asked:
        assert sailor.post(f"/r/{demo_pk}/task/steer-3/hours", {"hours": "1", "person": "mira"}).status_code == 303
    assert len(asked) <= 26, "\n".join(asked)


def test_a_stream_ends_with_its_session(sailor: Sailor, settings: Settings, demo_pk: int) -> None:
    sailor.post(f"/r/{demo_pk}/search/start", {"seconds": "5"})  # waits for a worker there isn't: the stream stays open
    told: list[str] = []
    thread = threading.Thread(target=lambda: told.append(sailor.get(f"/r/{demo_pk}/search/events").text))
    thread.start()
    thread.join(timeout=2)
    assert thread.is_alive()
    Desk(settings).run(ROVASK, EndSession(sailor.who, sailor.who.session))
    thread.join(timeout=15)
    assert not thread.is_alive()
    assert "event: over" in told[0]


def test_nobody_holds_many_streams_open(sailor: Sailor) -> None:
    bell = sailor.client.app.state.bell  # type: ignore[attr-defined]
    assert not bell.full(sailor.account)
    bell.of[sailor.account] = 6
    assert bell.full(sailor.account)
