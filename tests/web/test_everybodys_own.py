"""Everybody's own: passkeys, recovery, idle sessions, common passwords, the journal, erasing, quotas, files of all that is one's own."""

from __future__ import annotations

import csv
import io
import json
import re
import zipfile
from datetime import timedelta

import pytest
from fastapi.testclient import TestClient
from sqlalchemy import select, text

from rovask.core.refit.givens.choices import Role
from rovask.core.refit.model import Refit
from rovask.desk.commands.accounts import SetPassword
from rovask.desk.commands.passkeys import AskForProof, Place
from rovask.desk.door import Desk
from rovask.settings import Settings
from rovask.store import accounts, journal
from rovask.store.account_tables import AccountRow, Membership
from rovask.store.database import transaction
from rovask.store.history import history
from rovask.store.safety_tables import Happened, JournalRow, RecoveryCodeRow
from rovask.store.stands import numbers, refit_sizes
from rovask.web.app import create_app
from tests.acts import ROVASK, kept_of
from tests.conftest import Browser, Sailor, kept_for_both
from tests.faults.test_photos_and_recipes_that_break import jpeg
from tests.web.pages import Elements

GOOD = "a teak plug under the berth"


def trade_of(refit: Refit) -> str:
    return next(one.id for one in refit.people if one.role is Role.TRADE)


def happened(settings: Settings, account: int) -> list[Happened]:
    with transaction(settings.database_url) as session:
        return [line.what for line in journal.lines(session, account=account)]


@pytest.mark.parametrize(
    ("password", "why"),
    [
        ("short", "10 to 200"),
        ("password123", "tried first"),
        ("qwertyuiop", "tried first"),
        ("1234567890", "tried first"),
        ("aaaaaaaaaaaa", "tried first"),
        ("Solveig2026", "tried first"),
        ("rovaskrovask", "tried first"),
        ("x" * 201, "10 to 200"),
    ],
)
def test_a_password_that_is_tried_first_is_refused(
    client: TestClient, settings: Settings, password: str, why: str
) -> None:
    someone = Sailor(client, settings, "Solveig")
    answer = someone.post("/access/password", {"password": password})
    assert answer.status_code == 422
    assert why in answer.text


def test_a_recovery_code_lets_in_once_and_the_old_password_is_forgotten(client: TestClient, settings: Settings) -> None:
    someone = Sailor(client, settings, "Recoverer")
    someone.post("/access/password", {"password": GOOD})
    codes = re.findall(r"<li>([A-Z2-9-]{19})</li>", someone.post("/access/codes").text)
    assert (len(codes), len(set(codes))) == (10, 10)
    assert codes[0] not in someone.get("/access").text  # shown once
    with transaction(settings.database_url) as session:
        kept = b"".join(session.scalars(select(RecoveryCodeRow.code_hash)))
    assert codes[0].encode() not in kept
    form = {"name": "recoverer", "code": codes[0].lower().replace("-", " ")}  # as it was written down
    assert client.post("/recover", data=form | {"name": "Somebody else"}).status_code == 422
    entered = client.post("/recover", data=form)
    assert entered.headers["location"] == "/access"
    assert (
        "Set a password" in client.get("/access", headers={"cookie": entered.headers["set-cookie"].split(";")[0]}).text
    )
    assert client.post("/recover", data=form).status_code == 422  # used up
    assert client.post("/sign-in", data={"name": "Recoverer", "password": GOOD}).status_code == 422
    again = re.findall(r"<li>([A-Z2-9-]{19})</li>", someone.post("/access/codes").text)
    assert client.post("/recover", data={"name": "Recoverer", "code": codes[1]}).status_code == 422  # of the old ones
    assert client.post("/recover", data={"name": "Recoverer", "code": again[0]}).status_code == 303
    found = happened(settings, someone.account)
    assert found.count(Happened.RECOVERED) == 2
    assert Happened.REFUSED in found


def test_codes_are_not_guessed_faster_than_passwords(client: TestClient) -> None:
    form = {"name": "Nobody", "code": "AAAA-AAAA-AAAA-AAAA"}
    answers = [client.post("/recover", data=form).status_code for _ in range(6)]
    assert answers == [422] * 5 + [429]


def test_a_session_ends_when_nobody_uses_it_and_at_last_however_much_it_is_used(
    client: TestClient, settings: Settings, demo_pk: int
) -> None:
    someone = Sailor(client, settings, "Idler")

    def after(days: float, idle_days: int = 14) -> int:
        later = settings.model_copy(update={"now": settings.clock() + timedelta(days=days), "idle_days": idle_days})
        someone.client = Browser(create_app(later), follow_redirects=False)
        return int(someone.get("/access").status_code)

    assert after(13.9) == 200  # and it was used then
    assert after(27.8) == 200
    assert after(41.9) == 303
    assert after(28, idle_days=0) == 303
    fresh = Sailor(client, settings, "Busy")
    someone = fresh
    assert [after(days) for days in range(10, 60, 10)] == [200] * 5
    assert after(60.1) == 303


def test_where_one_is_signed_in_is_listed_with_place_and_time(client: TestClient, settings: Settings) -> None:
    someone = Sailor(client, settings, "Lister")
    someone.post("/access/password", {"password": GOOD})
    client.post(
        "/sign-in", data={"name": "Lister", "password": GOOD}, headers={"user-agent": "Agent/1 (Harbour; Phone) Mobile"}
    )
    page = someone.get("/access").text
    assert "A phone (Harbour; Phone)" in page
    assert "from testclient" in page
    assert "by password" in page  # one's own journal


def proof(challenge: str) -> str:
    data = json.dumps({"type": "webauthn.get", "challenge": challenge, "origin": "http://testserver"}).encode()
    from webauthn.helpers import bytes_to_base64url

    return json.dumps(
        {
            "id": "AAAA", "rawId": "AAAA", "type": "public-key",
            "response": {"clientDataJSON": bytes_to_base64url(data), "authenticatorData": "AAAA", "signature": "AAAA"},
        }
    )  # fmt: skip


def test_a_proof_that_is_none_signs_nobody_in(client: TestClient, settings: Settings) -> None:
    asked = client.post("/sign-in/passkey/options").json()
    assert asked["userVerification"] == "required"
    for sent in ("", "null", "[]", "{}", "{" * 3000, proof("AAAA"), proof(asked["challenge"])):
        answer = client.post("/sign-in/passkey", data={"proof": sent})
        assert answer.status_code == 422
        assert "set-cookie" not in answer.headers
        assert answer.json()["told"]
    assert client.post("/sign-in/passkey/options", headers={"origin": "https://evil.example"}).status_code == 403
    late = json.loads(Desk(settings).run(ROVASK, AskForProof(Place("testserver", "http://testserver"))))
    later = Browser(create_app(settings.model_copy(update={"now": settings.clock() + timedelta(minutes=6)})))
    told = later.post("/sign-in/passkey", data={"proof": proof(late["challenge"])}).json()["told"]
    assert "took too long" in told


def test_a_skipper_makes_a_way_back_in_but_into_no_refit_of_others(
    client: TestClient, sailor: Sailor, settings: Settings, demo: Refit
) -> None:
    pk = kept_for_both(settings, demo)
    lost = Sailor(client, settings, "Lost").joins(pk, Membership.CREW)
    reader = Sailor(client, settings, "Looker").joins(pk, Membership.READER)
    form = {"account": str(lost.account)}
    assert reader.post(f"/r/{pk}/people/way-back", form).status_code == 403
    link = Elements(sailor.post(f"/r/{pk}/people/way-back", form).text).texts("p", id="link")[0]
    entered = client.post(link.partition("testserver")[2])
    assert entered.status_code == 303
    assert client.post(link.partition("testserver")[2]).status_code == 410
    assert Happened.LINK_MADE in happened(settings, lost.account)  # they see who did it
    assert "a way back in, by Mira" in lost.get("/access").text
    theirs = kept_for_both(settings, demo.grown(name="Of others"))
    with transaction(settings.database_url) as session:
        session.execute(text("delete from member where refit_id = :pk"), {"pk": theirs})
    lost.joins(theirs, Membership.CREW)
    refused = sailor.post(f"/r/{pk}/people/way-back", form)
    assert refused.status_code == 422
    assert "refits of others too" in refused.text
    mine = sailor.post(f"/r/{pk}/people/way-back", {"account": str(sailor.account)})
    assert mine.status_code == 404


def test_the_journal_tells_who_may_do_what_and_is_for_skippers_alone(
    client: TestClient, sailor: Sailor, settings: Settings, demo: Refit
) -> None:
    pk = kept_for_both(settings, demo)
    link = Elements(sailor.post(f"/r/{pk}/people/invite", {"role": "crew", "name": "Signe"}).text).texts(
        "p", id="link"
    )[0]
    name = f"Signe {pk}"
    client.post(link.partition("testserver")[2], data={"name": name})
    with transaction(settings.database_url) as session:
        signe = accounts.account_named(session, name)
        assert signe is not None
    sailor.post(f"/r/{pk}/people/role", {"account": str(signe.pk), "role": "reader"})
    sailor.post(f"/r/{pk}/links/trade", {"person": trade_of(demo), "days": "3"})
    calendar = Elements(sailor.post(f"/r/{pk}/links/calendar", {"person": ""}).text).texts("p", id="address")[0]
    client.get(calendar.partition("testserver")[2])
    for path in ("export", "bundle", "plan"):
        assert sailor.get(f"/r/{pk}/{path}").status_code == 200
    with transaction(settings.database_url) as session:
        secret = session.scalar(text("select max(pk) from secret where refit_id = :pk"), {"pk": pk})
    sailor.post(f"/r/{pk}/links/withdraw", {"secret": str(secret)})
    sailor.post(f"/r/{pk}/people/take-out", {"account": str(signe.pk)})
    with transaction(settings.database_url) as session:
        lines = journal.lines(session, refit=pk)
    assert [line.what for line in reversed(lines)] == [
        Happened.INVITED, Happened.JOINED, Happened.ROLE, Happened.LINK_MADE, Happened.LINK_MADE, Happened.LINK_USED,
        *[Happened.EXPORTED] * 3, Happened.LINK_WITHDRAWN, Happened.TAKEN_OUT,
    ]  # fmt: skip
    token = calendar.rpartition("/")[2].removesuffix(".ics")
    assert all(token not in line.about for line in lines)
    page = sailor.get(f"/r/{pk}/journal").text
    assert f"{name} is reader" in page
    reader = Sailor(client, settings, "Looker").joins(pk, Membership.READER)
    assert reader.get(f"/r/{pk}/journal").status_code == 404
    sailor.post(f"/r/{pk}/remove", {"name": demo.name})
    with transaction(settings.database_url) as session:
        gone = session.scalars(
            select(JournalRow).where(JournalRow.what == Happened.REMOVED, JournalRow.about == demo.name)
        ).all()
    assert gone[-1].refit_id is None  # the line stays, for whoever runs it


def test_a_name_that_is_no_account_is_not_written_down_for_it_may_be_a_password(
    client: TestClient, settings: Settings
) -> None:
    client.post("/sign-in", data={"name": "my secret rope", "password": "x"})
    with transaction(settings.database_url) as session:
        line = session.scalars(select(JournalRow).order_by(JournalRow.pk.desc())).first()
        assert line is not None
        assert (line.what, line.who) == (Happened.REFUSED, "a name that isn't here")
        assert "secret" not in line.who + line.about


def test_an_account_is_erased_with_all_that_is_its_own_and_nothing_of_others(
    client: TestClient, sailor: Sailor, settings: Settings, demo: Refit
) -> None:
    one = Sailor(client, settings, "Goer")
    shared = kept_for_both(settings, demo)
    one.joins(shared, Membership.CREW)
    assert one.post(f"/r/{shared}/found", {"title": "Seen by the goer", "severity": "watch"}).status_code == 303
    own = kept_for_both(settings, demo.grown(name="My own boat"))
    with transaction(settings.database_url) as session:
        session.execute(text("delete from member where refit_id = :pk"), {"pk": own})
    one.joins(own, Membership.SKIPPER)
    photo = {"photo": ("a.jpg", jpeg(), "image/jpeg")}
    one.post(f"/r/{own}/found", {"title": "Mine", "severity": "bad"}, files=photo)
    files = Desk(settings).photos.checksums()
    page = one.get("/access/erase").text
    assert "My own boat" in page
    assert one.post("/access/erase", {"name": "another"}).status_code == 422
    Desk(settings).run(ROVASK, SetPassword(one.who, "", GOOD))
    assert one.post("/access/erase", {"name": "Goer", "password": "wrong"}).status_code == 422
    answer = one.post("/access/erase", {"name": "Goer", "password": GOOD})
    assert answer.status_code == 303
    assert "storage" in answer.headers["clear-site-data"]
    assert one.get("/").status_code == 303
    with transaction(settings.database_url) as session:
        assert session.get(AccountRow, one.account) is None
        assert session.scalar(text("select count(*) from refit where pk = :pk"), {"pk": own}) == 0
        assert "Goer" not in " ".join(f"{line.who} {line.about}" for line in journal.lines(session, most=10_000))
        told = history(session, shared)[0]
        assert (told.who, "Seen by the goer" in told.what) == ("somebody who left", True)  # it was not Rovask
    assert len(kept_of(settings, shared).refit.findings) == len(demo.findings) + 1
    assert len(files - Desk(settings).photos.checksums()) <= 1


def test_nobody_is_left_without_a_skipper_by_an_account_that_is_erased(
    client: TestClient, settings: Settings, demo: Refit
) -> None:
    pk = kept_for_both(settings, demo)
    one, crew = Sailor(client, settings, "Last skipper"), Sailor(client, settings, "Their crew")
    with transaction(settings.database_url) as session:
        session.execute(text("delete from member where refit_id = :pk"), {"pk": pk})
    one.joins(pk, Membership.SKIPPER)
    crew.joins(pk, Membership.CREW)
    assert "left without a skipper" in one.get("/access/erase").text
    assert one.post("/access/erase", {"name": "Last skipper"}).status_code == 422
    assert crew.get(f"/r/{pk}/morning").status_code == 200


def test_everything_of_an_account_is_a_zip_whose_refits_can_be_brought_in_again(
    client: TestClient, sailor: Sailor, settings: Settings, demo: Refit
) -> None:
    pk = kept_for_both(settings, demo)
    one = Sailor(client, settings, "Saver").joins(pk, Membership.CREW)
    other = kept_for_both(settings, demo.grown(name="Only my own work"))
    one.joins(other, Membership.TRADE, trade_of(demo))
    sailor.post(
        f"/r/{pk}/found",
        {"title": "=HYPERLINK(1)", "severity": "bad"},
        files={"photo": ("a.jpg", jpeg(), "image/jpeg")},
    )
    answer = one.get("/access/everything")
    assert answer.status_code == 200
    with zipfile.ZipFile(io.BytesIO(answer.content)) as out:
        names = out.namelist()
        assert names == ["account.json", f"{pk}-sandling-spring-haul-out.refit.zip"]
        told = json.loads(out.read("account.json"))
        bundle = out.read(names[1])
    assert told["name"] == "Saver"
    with zipfile.ZipFile(io.BytesIO(bundle)) as inside:
        log = inside.read("log.csv").decode("utf-8-sig")
    assert "HYPERLINK" in log
    assert not any(cell.startswith("=") for row in csv.reader(io.StringIO(log)) for cell in row)
    again = one.post("/import", files={"file": ("back.refit.zip", bundle)})
    assert again.status_code == 303, again.text
    back = int(again.headers["location"].split("/")[2])
    assert kept_of(settings, back).refit == kept_of(settings, pk).refit
    page = sailor.get(f"/r/{pk}/yard").text
    assert "no history" in page  # what the plain file holds is said as it is


def test_an_operator_sees_how_it_fares_and_nothing_of_what_a_refit_says(
    client: TestClient, sailor: Sailor, settings: Settings, demo: Refit
) -> None:
    pk = kept_for_both(settings, demo)
    runs = Sailor(client, settings, "Runs it")
    assert runs.get("/operator").status_code == 404
    with transaction(settings.database_url) as session:
        session.get_one(AccountRow, runs.account).operator = True
    page = runs.get("/operator").text
    assert "Runs it" in page
    with Desk(settings).looking() as session:
        assert pk in {one.pk for one in refit_sizes(session)}
        assert f"{numbers(session, settings.clock())['refits']}</dd>" in page
    assert demo.name not in page
    assert demo.boat.name not in page
    assert runs.get(f"/r/{pk}/morning").status_code == 404


def test_there_is_an_end_to_what_a_refit_a_skipper_and_a_link_may_hold(
    client: TestClient, settings: Settings, demo: Refit, monkeypatch: pytest.MonkeyPatch
) -> None:
    """A trade's link could send 25 MB without end."""
    pk = kept_for_both(settings, demo)
    tight = settings.model_copy(update={"link_mb": 1, "refit_mb": 0})
    browser = Browser(create_app(tight), follow_redirects=False)
    skipper = Sailor(browser, tight, "Mira")
    form = {"title": "One too many", "severity": "bad"}
    full = skipper.post(f"/r/{pk}/found", form, files={"photo": ("a.jpg", jpeg(), "image/jpeg")})
    assert full.status_code == 422
    assert "there is no room for it" in full.text
    assert Elements(full.text).value("title") == "One too many"
    assert skipper.post(f"/r/{pk}/found", form).status_code == 303
    made = skipper.post(f"/r/{pk}/links/trade", {"person": trade_of(demo), "days": "3"})
    address = Elements(made.text).texts("p", id="address")[0].partition("testserver")[2]
    big = b"\xff\xd8" + bytes(430_000)  # no picture: it counts all the same
    task = re.search(
        r'name="said" value="found"><input type="hidden" name="task" value="([^"]+)"', browser.get(address).text
    )
    assert task is not None
    said = {"said": "found", "note": "Frayed at the tang", "task": task[1]}
    answers = [
        browser.post(f"{address}/say", data=said, files={"photo": ("a.jpg", big, "image/jpeg")}) for _ in range(3)
    ]
    assert [answer.status_code for answer in answers] == [422] * 3
    assert "is not a picture" in answers[1].text
    assert "has sent 1 of 1 MB" in answers[2].text
    assert "Frayed at the tang" in answers[2].text
    assert browser.post(f"{address}/say", data=said).status_code == 303  # words always go
    near = settings.model_copy(update={"link_mb": 1})
    assert "of 1 MB; without photos it goes on" in re.sub(r"\s+", " ", Browser(create_app(near)).get(address).text)
    slim = settings.model_copy(update={"account_mb": 0})
    other = Sailor(Browser(create_app(slim), follow_redirects=False), slim, "Mira")
    told = other.post(f"/r/{pk}/found", form, files={"photo": ("a.jpg", jpeg(), "image/jpeg")})
    assert "your refits together" in told.text


def test_files_that_nobody_finished_bringing_in_go_by_the_clock_and_have_an_end(
    sailor: Sailor, settings: Settings, demo_pk: int, monkeypatch: pytest.MonkeyPatch
) -> None:
    from rovask.desk.commands.house import ExpireOld
    from rovask.store import quotas

    def upload() -> int:
        return int(
            sailor.post(
                f"/r/{demo_pk}/tables/ledger", files={"file": ("j.csv", b"at,what,amount\n2026-05-12,Tape,3\n")}
            ).status_code
        )

    def waiting() -> int:
        with transaction(settings.database_url) as session:
            return int(session.scalar(text("select count(*) from upload where refit_id = :pk"), {"pk": demo_pk}) or 0)

    before = waiting()
    assert upload() == 303
    monkeypatch.setattr(quotas, "MOST_WAITING_MB", 0)
    assert upload() == 422
    assert waiting() == before + 1
    Desk(settings).run(ROVASK, ExpireOld())
    assert waiting() == before + 1
    later = settings.model_copy(update={"now": settings.clock() + timedelta(hours=25)})
    Desk(later).run(ROVASK, ExpireOld())
    assert waiting() == 0
