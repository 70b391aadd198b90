"""A form is done once however often it is sent, what went out is not undone, and taking back asks what acting asked."""

from __future__ import annotations

import re
import threading
from datetime import timedelta

import pytest
from fastapi.testclient import TestClient

from rovask.core.refit.model import Order
from rovask.desk.command import Actor
from rovask.desk.commands.orders import ConfirmOrder, SendOrder
from rovask.desk.door import Desk
from rovask.desk.rights import NotAllowed, Right
from rovask.desk.taking_back import TakeBack
from rovask.settings import Settings
from rovask.store.account_tables import Membership
from rovask.store.errors import NothingToUndo
from rovask.store.sendings import Sending, SentBefore
from rovask.web.app import create_app
from tests.acts import kept_of, log_of
from tests.conftest import Browser, Sailor

FOUND = {"title": "Weeping clamp", "place": "engine", "severity": "bad"}


def findings(settings: Settings, pk: int) -> int:
    return sum(one.title == "Weeping clamp" for one in kept_of(settings, pk).refit.findings)


def test_a_form_sent_again_is_answered_as_it_first_was_and_done_once(
    sailor: Sailor, settings: Settings, demo_pk: int
) -> None:
    first = sailor.post(f"/r/{demo_pk}/found", FOUND | {"mark": "aa11"})
    assert first.status_code == 303
    again = sailor.post(f"/r/{demo_pk}/found", FOUND | {"mark": "aa11"})
    assert (again.status_code, again.headers["location"]) == (303, first.headers["location"])
    assert findings(settings, demo_pk) == 1
    assert sailor.get("/sent/aa11").json() == {"done": True, "to": first.headers["location"]}
    assert sailor.get("/sent/bb22").json() == {"done": False, "to": ""}
    # another form of the same page's memory, with other words, is meant anew; and so is the same with a new mark
    assert sailor.post(f"/r/{demo_pk}/found", FOUND | {"mark": "aa11", "note": "and another"}).status_code == 303
    assert sailor.post(f"/r/{demo_pk}/found", FOUND | {"mark": "cc33"}).status_code == 303
    assert findings(settings, demo_pk) == 3
    # what was refused was not done, so it may be sent again
    assert sailor.post(f"/r/{demo_pk}/found", {"title": "x" * 200, "mark": "dd44"}).status_code == 422
    assert sailor.get("/sent/dd44").json() == {"done": False, "to": ""}


def test_a_mark_is_its_senders_own(sailor: Sailor, mate: Sailor, settings: Settings, demo_pk: int) -> None:
    assert sailor.post(f"/r/{demo_pk}/found", FOUND | {"mark": "aa22"}).status_code == 303
    assert mate.get("/sent/aa22").json() == {"done": False, "to": ""}
    assert mate.post(f"/r/{demo_pk}/found", FOUND | {"mark": "aa22"}).status_code == 303
    assert findings(settings, demo_pk) == 2
    assert sailor.client.get("/sent/aa22").status_code == 401


def test_removed_is_said_again_of_what_is_gone(sailor: Sailor, settings: Settings, demo_pk: int) -> None:
    form = {"mark": "ee55", "next": f"/r/{demo_pk}/stores"}
    answers = [sailor.post(f"/r/{demo_pk}/finding/f4/remove", form) for _ in range(2)]
    assert [one.headers["location"] for one in answers] == [f"/r/{demo_pk}/stores"] * 2


def test_what_is_shown_once_is_not_made_twice(sailor: Sailor, settings: Settings, demo_pk: int) -> None:
    form = {"person": "ruy", "mark": "ff66"}
    made = sailor.post(f"/r/{demo_pk}/links/trade", form)
    assert re.search(r"/t/[\w-]{20,}", made.text)
    again = sailor.post(f"/r/{demo_pk}/links/trade", form)
    assert again.status_code == 409
    assert "done once" in again.text
    assert len(re.findall(r"links/withdraw", sailor.get(f"/r/{demo_pk}/links").text)) == 1


def test_two_at_the_same_time_come_to_one(settings: Settings, demo_pk: int, sailor: Sailor) -> None:
    """A double click: the second waits for the first, and is led where that led."""
    answers = []
    both = threading.Barrier(2)

    app = create_app(settings)
    clients = [Browser(app, follow_redirects=False) for _ in range(2)]

    def sends(client: TestClient) -> None:
        both.wait()
        form = FOUND | {"mark": "ab12", "csrf": sailor.csrf}
        cookie = {"cookie": f"rovask_session={sailor.cookie}"}
        answers.append(client.post(f"/r/{demo_pk}/found", data=form, headers=cookie))

    threads = [threading.Thread(target=sends, args=(client,)) for client in clients]
    for one in threads:
        one.start()
    for one in threads:
        one.join()
    assert [one.status_code for one in answers] == [303, 303]
    assert len({one.headers["location"] for one in answers}) == 1
    assert findings(settings, demo_pk) == 1


def placed(sailor: Sailor, settings: Settings, pk: int) -> str:
    """An order that is placed and went nowhere yet."""
    assert sailor.post(f"/r/{pk}/stores/new-order", {"supplier": "Shop", "take": "boot"}).status_code == 303
    return kept_of(settings, pk).refit.orders[-1].id


def test_an_act_that_fails_leaves_no_mark(sailor: Sailor, settings: Settings, demo_pk: int) -> None:
    """What is rolled back may be sent again; what was done may not, by any road."""
    key = placed(sailor, settings, demo_pk)
    desk, actor = Desk(settings), Actor(None, sending=Sending("somebody", "m1", "d"))
    with pytest.raises(NothingToUndo):
        desk.act(actor, demo_pk, TakeBack(999_999))
    assert desk.answer_to(Sending("somebody", "m1", "d")) is None
    desk.act(actor, demo_pk, SendOrder(key))
    with pytest.raises(SentBefore):
        desk.act(Actor(None, sending=Sending("somebody", "m1", "d")), demo_pk, SendOrder(key))


def order(settings: Settings, pk: int, key: str) -> Order:
    return next(one for one in kept_of(settings, pk).refit.orders if one.id == key)


def test_what_was_sent_to_a_supplier_is_cancelled_and_never_undone(
    sailor: Sailor, settings: Settings, demo_pk: int
) -> None:
    desk, key = Desk(settings), placed(sailor, settings, demo_pk)
    sailor.post(f"/r/{demo_pk}/found", FOUND)
    desk.act(Actor(None), demo_pk, SendOrder(key))
    mark = order(settings, demo_pk, key).mark
    desk.act(
        Actor(None),
        demo_pk,
        ConfirmOrder(key, "N-1", order(settings, demo_pk, key).state.ACKNOWLEDGED, settings.clock() + timedelta(3)),
    )
    for entry in log_of(settings, demo_pk, 2):
        assert not entry.can_be_taken_back
        with pytest.raises(NothingToUndo, match="cancel it"):
            desk.act(Actor(None), demo_pk, TakeBack(entry.pk))
    refused = sailor.post(f"/r/{demo_pk}/purchase/{key}/remove")
    assert refused.status_code == 422
    assert "cancel it first" in refused.text
    # undo goes on with what lies before it, and the order stays what it is
    assert sailor.post(f"/r/{demo_pk}/undo").status_code == 303
    assert findings(settings, demo_pk) == 0
    assert (order(settings, demo_pk, key).mark, order(settings, demo_pk, key).number) == (mark, "N-1")
    assert sailor.post(f"/r/{demo_pk}/order/{key}/step", {"state": "cancelled"}).status_code == 303
    assert order(settings, demo_pk, key).mark == mark


def test_undo_goes_on_as_far_as_the_log_does(sailor: Sailor, settings: Settings, demo_pk: int) -> None:
    for number in range(18):
        assert sailor.post(f"/r/{demo_pk}/part/boot/count", {"amount": str(number + 1)}).status_code == 303
    for _ in range(18):
        assert sailor.post(f"/r/{demo_pk}/undo").status_code == 303
    assert "took back" in log_of(settings, demo_pk, 1)[0].what
    assert sailor.post(f"/r/{demo_pk}/undo").status_code == 409
    for _ in range(18):
        assert sailor.post(f"/r/{demo_pk}/redo").status_code == 303
    part = next(one for one in kept_of(settings, demo_pk).refit.parts if one.id == "boot")
    assert part.counted == 18


GIVEN_ACTS = (
    ("header/save", {"name": "Another name", "revision": ""}),
    ("budget-line/save", {"title": "Sails", "amount": "100"}),
    ("currency", {"currency": "GBP", "way": "stay"}),
    ("person/save", {"name": "New", "role": "owner"}),
    ("night", {"slot": "2026-06-05T10:30", "why": "weeps", "hangs": "1"}),
)


@pytest.mark.parametrize(("path", "form"), GIVEN_ACTS)
def test_taking_back_and_doing_again_ask_what_the_act_asked(
    sailor: Sailor, client: TestClient, settings: Settings, demo_pk: int, path: str, form: dict[str, object]
) -> None:
    """Crew may neither undo, redo nor take back what only a skipper may do; of their own acts they may all."""
    crew = Sailor(client, settings, "A hand").joins(demo_pk, Membership.CREW)
    before = kept_of(settings, demo_pk).refit
    if path == "header/save":
        sheet = sailor.get(f"/r/{demo_pk}/header/edit").text
        form = {
            "name": "Another name",
            "revision": str(re.search(r'name="revision" value="(\d*)"', sheet)[1]),  # type: ignore[index]
        }
    assert sailor.post(f"/r/{demo_pk}/{path}", form).status_code in (200, 303)
    changed = kept_of(settings, demo_pk).refit
    assert changed != before
    entry = log_of(settings, demo_pk, 1)[0]
    assert entry.needs == Right.GIVENS
    for act, more in (("undo", {}), ("log/take-back", {"change": str(entry.pk)})):
        refused = crew.post(f"/r/{demo_pk}/{act}", more)
        assert refused.status_code == 403, act
    assert "log/take-back" not in crew.get(f"/r/{demo_pk}/log").text.split("</tr>")[1]
    assert kept_of(settings, demo_pk).refit == changed
    assert sailor.post(f"/r/{demo_pk}/undo").status_code == 303
    assert crew.post(f"/r/{demo_pk}/redo").status_code == 403
    with pytest.raises(NotAllowed):
        Desk(settings).act(Actor(crew.account), demo_pk, TakeBack(log_of(settings, demo_pk, 1)[0].pk))
    assert kept_of(settings, demo_pk).refit == before
    assert crew.post(f"/r/{demo_pk}/found", FOUND).status_code == 303
    assert crew.post(f"/r/{demo_pk}/undo").status_code == 303
    assert crew.post(f"/r/{demo_pk}/redo").status_code == 303
