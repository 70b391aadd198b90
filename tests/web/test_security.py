"""Sign-in from the first day: cookies, CSRF, a strict policy, nothing from another host."""

import re

import pytest
from fastapi.testclient import TestClient

from rovask.settings import Settings
from rovask.store import accounts
from rovask.store.database import transaction
from rovask.web.security import local_path
from tests.conftest import Sailor, account_of
from tests.web.pages import Elements


def test_nothing_is_shown_to_strangers(client: TestClient, demo_pk: int) -> None:
    for path in (
        "/",
        "/new",
        "/access",
        *(f"/r/{demo_pk}/{screen}" for screen in ("morning", "slip", "jobs", "export", "task/bottom-9/edit")),
    ):
        answer = client.get(path)
        assert answer.status_code == 303
        assert answer.headers["location"].startswith("/sign-in?next=")
    assert client.post(f"/r/{demo_pk}/undo").status_code == 303


def test_a_form_needs_this_sessions_token(sailor: Sailor, mate: Sailor, demo_pk: int) -> None:
    for token in ("", "wrong", mate.csrf):
        answer = sailor.post(f"/r/{demo_pk}/task/steer-3/begin", {"csrf": token, "note": "kept"})
        assert answer.status_code == 403
        page = Elements(answer.text)
        assert page.value("note") == "kept"  # nothing typed is lost: it can be sent again with the right token
        assert page.value("csrf") == sailor.csrf


def test_every_answer_carries_the_strict_policy(sailor: Sailor, client: TestClient, demo_pk: int) -> None:
    for answer in (
        client.get("/sign-in"),
        sailor.get(f"/r/{demo_pk}/slip"),
        client.get("/static/rovask.js"),
        client.get("/nothing"),
    ):
        policy = answer.headers["content-security-policy"]
        assert "default-src 'none'" in policy
        assert "unsafe" not in policy
        assert "http" not in policy
        assert answer.headers["x-content-type-options"] == "nosniff"
        assert "frame-ancestors 'none'" in policy


def test_nothing_on_a_page_comes_from_another_host(sailor: Sailor, client: TestClient, demo_pk: int) -> None:
    for path in ("morning", "slip", "jobs", "yard"):
        page = Elements(sailor.get(f"/r/{demo_pk}/{path}").text)
        for tag, name in (("script", "src"), ("link", "href"), ("img", "src"), ("form", "action"), ("a", "href")):
            assert all(not value.startswith(("http", "//")) for value in page.attributes(tag, name))
        for address in page.attributes("script", "src") + page.attributes("link", "href"):
            assert client.get(address).status_code == 200
    style = client.get("/static/rovask.css").text
    assert re.findall(r"url\(([^)]*)\)", style) == ["commissioner.woff2"]


def test_the_cookie_is_out_of_scripts_reach(client: TestClient, settings: Settings) -> None:
    account = account_of(settings, "Cookie")
    with transaction(settings.database_url) as session:
        token = accounts.device_link(session, account, account, settings.clock())
    assert "Welcome, Cookie" in client.get(f"/come-aboard/{token}").text
    assert "Welcome, Cookie" in client.get(f"/come-aboard/{token}").text  # looking does not use it up
    answer = client.post(f"/come-aboard/{token}")
    cookie = answer.headers["set-cookie"].lower()
    assert "httponly" in cookie
    assert "samesite=lax" in cookie
    assert client.post(f"/come-aboard/{token}").status_code == 410


def test_signing_in_with_a_password_and_out_again(client: TestClient, settings: Settings) -> None:
    someone = Sailor(client, settings, "Signer")
    assert someone.post("/access/password", {"password": "short"}).status_code == 422
    assert someone.post("/access/password", {"password": "tar and hemp rope"}).status_code == 200
    again = {"password": "another good rope"}
    assert someone.post("/access/password", again).status_code == 422  # the present one is asked for
    wrong = client.post("/sign-in", data={"name": "Signer", "password": "nope", "next": "/new"})
    assert wrong.status_code == 422
    assert Elements(wrong.text).value("name") == "Signer"
    right = client.post("/sign-in", data={"name": "Signer", "password": "tar and hemp rope", "next": "//evil.example"})
    assert right.headers["location"] == "/"
    assert someone.post("/sign-out").status_code == 303
    assert someone.get("/").status_code == 303


def test_a_link_for_ones_other_device_and_one_for_somebody_new(
    sailor: Sailor, client: TestClient, demo_pk: int
) -> None:
    page = Elements(sailor.post("/access/link", {"name": "Lene"}).text)
    path = page.texts("p", id="link")[0].partition("testserver")[2]
    assert "Welcome, Mira" in client.get(path).text  # whatever name is sent along
    wrong = sailor.post(f"/r/{demo_pk}/people/invite", {"role": "trade", "name": "Rigger"})
    assert wrong.status_code == 422
    assert "which of the people" in wrong.text
    page = Elements(sailor.post(f"/r/{demo_pk}/people/invite", {"role": "crew", "name": "Signe"}).text)
    path = page.texts("p", id="link")[0].partition("testserver")[2]
    assert "You are invited" in client.get(path).text
    taken = client.post(path, data={"name": "Mira"})
    assert taken.status_code == 422
    assert "another name" in taken.text
    answer = client.post(path, data={"name": "Signe"})
    assert answer.headers["location"] == f"/r/{demo_pk}/morning"
    assert client.post(path, data={"name": "Signe 2"}).status_code == 410


def test_sign_in_forms_from_other_origins_are_refused(client: TestClient) -> None:
    form = {"name": "x", "password": "y"}
    assert client.post("/sign-in", data=form, headers={"origin": "https://evil.example"}).status_code == 403
    assert client.post("/sign-in", data=form, headers={"sec-fetch-site": "cross-site"}).status_code == 403


@pytest.mark.parametrize("path", ["//evil", "https://evil", "/\\evil", "evil", "", "/a\n/b"])
def test_nobody_is_led_to_another_host(path: str) -> None:
    assert local_path(path) == "/"


def test_the_light_is_kept_and_only_ours_are_taken(client: TestClient) -> None:
    assert "rovask_light=red" in client.post("/light/red", data={"next": "/sign-in"}).headers["set-cookie"]
    assert "set-cookie" not in client.post("/light/purple").headers
    assert 'data-light="day"' in client.get("/sign-in", headers={"cookie": "rovask_light=purple"}).text
