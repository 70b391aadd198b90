"""A supplier, a carrier and rates of exchange that misbehave: nothing is ordered twice, nothing told is lost."""

from __future__ import annotations

from datetime import UTC, date, datetime, timedelta
from itertools import pairwise
from typing import Any

import httpx2 as httpx
import pytest
from fastapi import FastAPI
from fastapi.testclient import TestClient
from hypothesis import given, settings
from hypothesis import strategies as st
from sqlalchemy import select, text

from rovask.core.judged.order_edits import heard, order_of
from rovask.core.refit.stores.choices import OrderState
from rovask.desk.callbacks import REFIT_GONE, do_what_was_told
from rovask.desk.commands.closing import CloseRefit, ReopenRefit
from rovask.desk.commands.orders import SendOrder
from rovask.desk.commands.post import SendForgotten
from rovask.desk.commands.records import SaveRecord
from rovask.desk.door import Desk
from rovask.desk.services.asking import TRIES, Line, Refused, ServiceAway
from rovask.desk.services.carrier import parcel
from rovask.desk.services.rates import rates_of
from rovask.desk.services.supplier import OutOfStock, place, standing
from rovask.settings import Settings
from rovask.standins import carrier, rates, supplier
from rovask.standins.trouble import SILENT, Moods, Trouble
from rovask.store import outbox
from rovask.store.database import transaction
from rovask.store.errors import StoreError
from rovask.store.inbox import MOST_TRIES
from rovask.store.inbox import undone as still_to_do
from rovask.store.post_tables import InboxRow, OutState
from rovask.work import orders
from rovask.work.queue import SEND_ATTEMPTS
from tests.acts import ROVASK, kept_of
from tests.builders import refit, task
from tests.conftest import Sailor, kept_for_both

NOW = datetime(2026, 5, 12, 9, tzinfo=UTC)


class Through(httpx.BaseTransport):
    """Hands requests to a stand-in without a socket; its silence is a time-out here."""

    def __init__(self, app: FastAPI) -> None:
        self.client = TestClient(app)
        self.asked = 0

    def handle_request(self, request: httpx.Request) -> httpx.Response:
        self.asked += 1
        answer = self.client.request(
            request.method, str(request.url), content=request.read(), headers=dict(request.headers)
        )
        if answer.status_code == SILENT:
            raise httpx.ReadTimeout("silent", request=request)
        return httpx.Response(answer.status_code, content=answer.content, headers=dict(answer.headers))


def line(app: FastAPI, pauses: list[float] | None = None) -> Line:
    return Line("The shop", "http://shop.test", Through(app), (pauses if pauses is not None else []).append)


def shop(*first: Trouble, share: float = 0.0, seed: int = 1, out: float = 0.0, **more: Any) -> FastAPI:
    return supplier.create_app(seed, Moods(seed, share, first), out, waits=False, **more)


@settings(max_examples=40, deadline=None)
@given(st.lists(st.sampled_from(list(Trouble)), max_size=12))
def test_however_it_misbehaves_an_order_is_one_order(troubles: list[Trouble]) -> None:
    app, taken = shop(*troubles), []
    for _ in range(8):  # the queue tries again for as long as there was no answer
        try:
            taken.append(place(line(app), "mark-of-this-order", "Boat", [("Bearing", 1.0)], NOW).number)
        except ServiceAway:
            continue
    assert len(app.state.shop.by_key) == 1
    assert set(taken) == {"S00001"}


def test_pauses_grow_and_end() -> None:
    pauses: list[float] = []
    with pytest.raises(ServiceAway, match="busy"):
        place(line(shop(*[Trouble.BUSY] * TRIES), pauses), "mark-of-this-order", "", [("x", 1.0)], NOW)
    assert pauses == [0.4, 0.8, 1.6]
    with pytest.raises(ServiceAway, match="makes no sense"):
        place(line(shop(*[Trouble.NONSENSE] * TRIES)), "mark-of-this-order", "", [("x", 1.0)], NOW)


def test_what_cannot_be_had_is_told_and_nothing_is_ordered() -> None:
    app = shop(out=1.0)
    with pytest.raises(OutOfStock, match="Bearing"):
        place(line(app), "mark-of-this-order", "", [("Bearing", 1.0)], NOW)
    assert app.state.shop.by_key == {}


def test_carrier_and_rates_are_asked_like_real_ones() -> None:
    van = line(carrier.create_app(3, Moods(3, 0, [Trouble.SILENT_BEFORE, Trouble.BUSY]), waits=False))
    found = parcel(van, "R 771/3", NOW - timedelta(days=1), NOW)
    assert found.expected > NOW - timedelta(days=1)
    late = parcel(van, "R 771/3", NOW - timedelta(days=30), NOW)
    assert (late.state, late.ours) == ("delivered", OrderState.SHIPPED)  # arrived is what we say ourselves
    bank = line(rates.create_app(3, Moods(3, 0, [Trouble.NONSENSE]), waits=False))
    day = rates_of(bank, "EUR", date(2026, 5, 12))
    assert 1.1 < float(day["GBP"]) < 1.25
    assert rates_of(bank, "EUR", date(2026, 5, 12)) == day
    with pytest.raises(Exception, match="status 404"):
        rates_of(bank, "XXX", date(2026, 5, 12))


@pytest.fixture
def pk(settings: Settings) -> int:
    made = refit(
        task("a", parts=["bearing"]),
        parts=[{"id": "bearing", "name": "Bearing"}],
        orders=[{"id": "o", "supplier": "Shop", "currency": "EUR", "rate": "1", "placed_at": NOW.isoformat()}],
        order_lines=[{"id": "l", "order": "o", "part": "bearing", "price": 9000}],
        suppliers=[{"id": "s", "name": "Shop", "by_service": True}],
    )
    return kept_for_both(settings, made)


def queued(settings: Settings, pk: int) -> int:
    with transaction(settings.database_url) as session:
        query = text(
            "select count(*) from procrastinate_jobs where task_name = 'send-order' and status = 'todo' and lock like :name"
        )
        return int(session.scalar(query, {"name": f"order-{pk}-%"}) or 0)


def test_an_order_is_kept_first_sent_by_the_worker_and_heard_of_once(settings: Settings, pk: int) -> None:
    desk = Desk(settings)
    desk.act(ROVASK, pk, SendOrder("o"))
    order = kept_of(settings, pk).refit.orders[0]
    assert (order.state, bool(order.mark)) == (OrderState.SENDING, True)
    assert queued(settings, pk) == 1
    desk.act(ROVASK, pk, SendOrder("o"))  # tapped again: the same mark, no second wish
    assert kept_of(settings, pk).refit.orders[0].mark == order.mark
    assert queued(settings, pk) == 1
    app = shop(*[Trouble.SILENT_AFTER] * TRIES)
    with pytest.raises(ServiceAway):
        orders.send_order(settings, pk, "o", line(app))
    assert len(app.state.shop.by_key) == 1  # it took it, and we don't know yet
    assert orders.send_order(settings, pk, "o", line(app)) == "taken"
    assert orders.send_order(settings, pk, "o", line(app)) == "not waiting"
    after = kept_of(settings, pk).refit.orders[0]
    assert (after.state, after.number) == (OrderState.ACKNOWLEDGED, "S00001")
    assert after.expected == standing(line(app), "S00001", NOW).expected
    assert len(app.state.shop.by_key) == 1


def test_a_worker_killed_between_answer_and_note_orders_nothing_twice(
    settings: Settings, pk: int, monkeypatch: pytest.MonkeyPatch
) -> None:
    Desk(settings).act(ROVASK, pk, SendOrder("o"))
    app = shop()

    class Killed(BaseException):
        pass

    def dies(*_: object, **__: object) -> None:
        raise Killed

    with monkeypatch.context() as patched, pytest.raises(Killed):
        patched.setattr(Desk, "act", dies)
        orders.send_order(settings, pk, "o", line(app))
    assert kept_of(settings, pk).refit.orders[0].state is OrderState.SENDING
    assert orders.send_order(settings, pk, "o", line(app)) == "taken"
    assert len(app.state.shop.by_key) == 1


def test_what_is_not_to_be_had_goes_back_on_the_list(settings: Settings, pk: int) -> None:
    from rovask.core.readings.stock import stocks

    Desk(settings).act(ROVASK, pk, SendOrder("o"))
    assert orders.send_order(settings, pk, "o", line(shop(out=1.0))) == "not taken"
    after = kept_of(settings, pk).refit
    assert after.orders[0].state is OrderState.CANCELLED
    assert "Not to be had there: Bearing" in after.orders[0].steps[-1].note
    assert stocks(after)["bearing"].short == 1


def test_callbacks_told_twice_in_any_order_and_while_we_fail_are_neither_lost_nor_doubled(
    sailor: Sailor, settings: Settings, pk: int, monkeypatch: pytest.MonkeyPatch
) -> None:
    Desk(settings).act(ROVASK, pk, SendOrder("o"))
    mark = kept_of(settings, pk).refit.orders[0].mark
    app = shop(send=lambda url, body: sailor.client.post(url, json=body).status_code)
    orders.send_order(settings, pk, "o", line(app))
    later = (NOW + timedelta(days=30)).isoformat()

    def broken(*_: object, **__: object) -> int:
        raise RuntimeError("the planner is away")

    tell = TestClient(app).post
    with monkeypatch.context() as patched:
        patched.setattr("rovask.desk.callbacks.do_what_was_told", lambda *_: 0)  # kept, and not done yet
        assert tell("/v1/orders/S00001/tell", json={"callback": f"/callbacks/{mark}", "at": later}).json() == {
            "told": 5
        }
    with transaction(settings.database_url) as session:
        assert len(still_to_do(session, settings.now or NOW, mark)) == 4
    assert do_what_was_told(Desk(settings), mark) == 4  # what the worker does every half minute
    order = kept_of(settings, pk).refit.orders[0]
    assert order.state is OrderState.CUSTOMS
    steps = [step.state for step in order.steps]
    assert tell("/v1/orders/S00001/tell", json={"callback": f"/callbacks/{mark}", "at": later}).json() == {"told": 5}
    assert [step.state for step in kept_of(settings, pk).refit.orders[0].steps] == steps  # told again: nothing new
    for path, body, status in (
        ("made-up", {"id": "x", "at": later, "state": "shipped"}, 404),
        (mark, {"id": "x"}, 422),
        (mark, "x" * 9000, 413),
    ):
        assert sailor.client.post(f"/callbacks/{path}", json=body).status_code == status


def test_an_order_never_goes_back_by_what_is_heard(settings: Settings, pk: int) -> None:
    made = kept_of(settings, pk).refit
    there = heard(made, "o", OrderState.CUSTOMS, NOW, "")
    back = heard(there, "o", OrderState.SHIPPED, NOW - timedelta(days=1), "")
    assert order_of(back, "o").state is OrderState.CUSTOMS
    assert [step.state.value for step in order_of(back, "o").steps] == ["shipped", "customs"]


def test_a_number_of_theirs_is_one_step_of_the_path_whatever_stands_in_it() -> None:
    """An order's number went unquoted into the supplier's path: theirs could have led anywhere on their host."""
    asked: list[str] = []

    class Listens(httpx.BaseTransport):
        def handle_request(self, request: httpx.Request) -> httpx.Response:
            asked.append(request.url.raw_path.decode())
            return httpx.Response(404)

    with pytest.raises(Refused):
        standing(Line("The shop", "http://shop.test", Listens()), "../admin?all=1#x", NOW)
    assert asked[0].startswith("/v1/orders/..%2Fadmin%3Fall%3D1%23x?at=")


def told(settings: Settings, mark: str) -> list[Any]:
    with transaction(settings.database_url) as session:
        return list(session.scalars(select(InboxRow).where(InboxRow.mark == mark)))


def later_by(settings: Settings, **much: float) -> Desk:
    return Desk(settings.model_copy(update={"now": (settings.now or NOW) + timedelta(**much)}))


def test_what_is_told_of_a_closed_refit_is_tried_some_times_and_then_waits_for_somebody(
    sailor: Sailor, settings: Settings, pk: int
) -> None:
    """It was tried every half minute for ever."""
    desk = Desk(settings)
    desk.act(ROVASK, pk, SendOrder("o"))
    mark = kept_of(settings, pk).refit.orders[0].mark
    orders.send_order(settings, pk, "o", line(shop()))
    desk.act(ROVASK, pk, CloseRefit(), clock=kept_of(settings, pk).refit.launch_at)
    body = {"id": "e1", "at": (NOW + timedelta(days=1)).isoformat(), "state": "shipped"}
    assert sailor.client.post(f"/callbacks/{mark}", json=body).status_code == 204  # theirs no longer to worry about
    tries = [0]
    for half_minutes in range(400):
        do_what_was_told(later_by(settings, seconds=30 * half_minutes), mark)
        tries.append(told(settings, mark)[0].tries)
    assert tries[-1] == MOST_TRIES
    gaps = [at for at, (a, b) in enumerate(pairwise(tries)) if b > a]
    assert all(later - sooner >= 2**n for n, (sooner, later) in enumerate(pairwise(gaps[1:]), 1))  # growing pauses
    page = sailor.get(f"/r/{pk}/post").text
    assert "Tried 8 times, and no more" in page
    assert "This refit is closed" in page
    desk.act(ROVASK, pk, ReopenRefit())
    again = sailor.post(f"/r/{pk}/post/again", {"of": mark, "event": "e1"})
    assert again.status_code == 303
    assert told(settings, mark)[0].done
    assert kept_of(settings, pk).refit.orders[0].state is OrderState.SHIPPED
    assert sailor.post(f"/r/{pk}/post/again", {"of": mark, "event": ""}).status_code == 422
    assert sailor.post(f"/r/{pk}/post/again", {"of": "another's", "event": "e1"}).status_code == 404


def test_the_mark_of_what_went_out_outlives_its_refit(sailor: Sailor, settings: Settings, pk: int) -> None:
    Desk(settings).act(ROVASK, pk, SendOrder("o"))
    refit_ = kept_of(settings, pk).refit
    mark = refit_.orders[0].mark
    copy = kept_for_both(settings, refit_.grown(name="A copy"))  # a file that was saved and brought in again
    with pytest.raises(StoreError, match="another copy"):
        Desk(settings).act(ROVASK, copy, SendOrder("o"))
    body = {"id": "e1", "at": NOW.isoformat(), "state": "shipped"}
    assert sailor.client.post(f"/callbacks/{mark}", json=body).status_code == 204
    assert kept_of(settings, copy).refit.orders[0].steps == refit_.orders[0].steps  # it is told of the one that sent it
    assert sailor.post(f"/r/{pk}/remove", {"name": refit_.name}).status_code == 303
    assert sailor.client.post(f"/callbacks/{mark}", json=body | {"id": "e2"}).status_code == 204
    gone = next(row for row in told(settings, mark) if row.event == "e2")
    assert (gone.given_up_at is not None, gone.why) == (True, REFIT_GONE)


def test_what_waits_and_nobody_is_about_to_send_is_sent_until_it_has_had_its_tries(settings: Settings, pk: int) -> None:
    """The job of a worker that was killed three times is given up by the queue; the order is not."""
    desk = Desk(settings)
    desk.act(ROVASK, pk, SendOrder("o"))

    def lose_the_job() -> None:
        with transaction(settings.database_url) as session:
            session.execute(text("delete from procrastinate_jobs where lock like :name"), {"name": f"order-{pk}-%"})

    again = SendForgotten(90, SEND_ATTEMPTS)
    lose_the_job()
    desk.run(ROVASK, again)
    assert queued(settings, pk) == 0  # it may be sent this very moment
    later = later_by(settings, seconds=100)
    for _ in range(SEND_ATTEMPTS):
        lose_the_job()
        later.run(ROVASK, again)
        assert queued(settings, pk) == 1
        with pytest.raises(ServiceAway):
            orders.send_order(settings, pk, "o", line(shop(*[Trouble.BUSY] * TRIES)))
    lose_the_job()
    later.run(ROVASK, again)
    assert queued(settings, pk) == 0
    with transaction(settings.database_url) as session:
        assert outbox.of_refit(session, pk)[0].state is OutState.GIVEN_UP
    desk.act(ROVASK, pk, SendOrder("o"))  # somebody hands it over once more, under the same mark
    assert orders.send_order(settings, pk, "o", line(shop())) == "taken"


def test_lines_changed_after_it_may_have_been_taken_are_not_sent_under_its_mark(settings: Settings, pk: int) -> None:
    desk = Desk(settings)
    desk.act(ROVASK, pk, SendOrder("o"))
    app = shop(*[Trouble.SILENT_AFTER] * TRIES)
    with pytest.raises(ServiceAway):
        orders.send_order(settings, pk, "o", line(app))  # it was taken, and we don't know
    desk.act(ROVASK, pk, SaveRecord("order-line", "l", {"quantity": 3.0}, ""))
    with pytest.raises(StoreError, match="other lines"):
        desk.act(ROVASK, pk, SendOrder("o"))
    assert orders.send_order(settings, pk, "o", line(app)) == "taken"  # what was handed over first is what they have
    assert [row["lines"][0]["quantity"] for row in app.state.shop.by_key.values()] == [1.0]
