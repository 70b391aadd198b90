"""Hostile requests over every route by everybody, seeded: whatever is sent by form, query, path or file, in whatever role, no answer is a
server error, and none is raw: a page that says what is wrong, a redirect, or a file that was asked for. Who has no business with a refit
reads nothing of it. With ``--long`` each route is asked many times by each role.
"""

from __future__ import annotations

import io
import zipfile
from collections import Counter
from random import Random

import pytest

from rovask.settings import Settings
from rovask.store.account_tables import Membership
from rovask.web.app import create_app
from rovask.web.sheet_fields import FIELDS
from tests.builders import link, person, refit, task
from tests.conftest import Browser, Sailor, kept_for_both
from tests.desk.test_rights import FORMS, MATRIX, routes

# No page answers there: the end of a session, a stream, what services tell.
APART = ("/sign-out", "/r/{pk}/search/events", "/callbacks/{mark}")
REQUESTS = 400  # for each of two seeds
LONG_EACH = 12  # times that each route is asked by each role, with --long
SECRET = "Quite Private"  # the name of the refit
TEXTS = [
    "", " ", "0", "-1", "1", "0.5", "1e309", "1e30", "-1e30", "9" * 20, "9" * 400, "²", "½", "٣", "NaN", "inf", "-inf", "0x10",
    "1_000", "0001-01-01", "9999-12-31", "1989-12-31T23:00", "2101-01-01T00:00", "9999-12-31T23:59", "0001-01-01T00:00",
    "2026-03-29T01:30", "2026-05-20T10:17", "2026-02-30", "2026-05-20T10:00:00+99:00", "\x00", "a\x00b", "\x1b[2J", "\ud800",
    "<script>alert(1)</script>", "{{ 7*7 }}", "'; drop table refit; --", "../../etc/passwd", "%00", "ａｂｃ", "🛶" * 50,
    "x" * 5000, "x" * 130, "must", "ashore", "FS", "haul", "launch", "a", "b", "hull", "ann", "job", "null", "true", "on",
    "mon-sun 00:00-24:00", "mon 25:00-26:00", "mon-fri 08:00-07:00", "heads 1e9 h", "sparks permit from 9999-99-99",
    "2026-05-01 to 0001-01-01", "9223372036854775808", "-9223372036854775809", "18446744073709551616", "2147483648",
    "https://evil.example", "//evil.example", "\r\nSet-Cookie: a=b", "EUR", "JPY", "XXX", "eur", "KWD", "aboard", "place",
]  # fmt: skip
PATHS = [
    "x", "a", "b", "job", "hull", "ann", "core", "task", "part", "link", "hours", "photo", "decision", "weather", "order",
    "header", "boat", "yard", "0", "-1", "9" * 25, "²", "%00", "%0a", "%2e%2e", "%F0%9F%9B%B6", "a%20b", "A", "x" * 200,
    "haul", "launch", "bottom-coating", "taper", "school", "winches", "k1", "look-i1", "None",
]  # fmt: skip
NAMES = [
    "csrf2",
    "next",
    "key",
    "revision",
    "task",
    "tie",
    "way",
    "seconds",
    "change",
    "person",
    "crew",
    "pick",
    "day",
    "q",
]


# Asked by scripts, or by what watches over a server: answered with JSON, faults too.
BY_SCRIPTS = {"/sent/{mark}", "/readyz", "/sign-in/passkey", "/sign-in/passkey/options", "/access/passkey/options"}


def bad_zip(random: Random) -> bytes:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as bundle:
        bundle.writestr("refit.json", b"{" * random.choice([1, 5, 90_000]))
    content = bytearray(out.getvalue())
    for _ in range(random.randint(0, 8)):
        content[random.randrange(len(content))] = random.randrange(256)
    return bytes(content[: random.randint(4, len(content))])


def files(random: Random) -> list[bytes]:
    return [
        b"", b"\x00", b"PK\x03\x04", bad_zip(random), b"[" * 50_000, b'{"format": "rovask-refit", "version": 1}', b"{}",
        b'{"format": "rovask-refit", "version": 1, "budget": 1e400}', b"id = " + b"9" * 5000, b"id = \x00", b"\xff\xfe",
        b"time,temperature_c,humidity_pct,rain_mm,wind_ms\n2026-05-12T10:00,nan,1e309,-5,x\n", b"\xff\xd8\xff\xe0" + b"0" * 99,
        b"GIF89a" + b"\xff" * 40, b'{"format": "rovask-refit", "version": 1, "jobs": [null, 3, {"tasks": 5}]}',
    ]  # fmt: skip


def fields(path: str, random: Random) -> dict[str, str]:
    """A form of this route, or of some sheet, with some of it made hostile."""
    form = dict(FORMS.get(path.removeprefix("/r/{pk}/"), {}))
    if "save" in path or path == "/new":
        for name in random.sample([field.name for rows in FIELDS.values() for field in rows], 12):
            form[name] = random.choice(TEXTS)
            if path == "/new":
                form[f"{random.choice(['header', 'boat', 'yard'])}-{name}"] = random.choice(TEXTS)
    for _ in range(random.randint(0, 4)):
        form[random.choice([*form, *NAMES])] = random.choice(TEXTS)
    return {name: value.encode("utf-8", "replace").decode() for name, value in form.items()}


@pytest.mark.parametrize("seed", [1, 2])
def test_no_hostile_request_is_answered_with_a_server_error_or_raw(
    settings: Settings, seed: int, request: pytest.FixtureRequest
) -> None:
    made = refit(
        task("a", 4, parts=["core"]),
        task("b", 2),
        links=[link("a", "b", 1)],
        people=[person("ann"), person("bo", role="trade", rate=2000)],
        parts=[{"id": "core", "name": "Core"}],
        haul_at=settings.now,
        launch_at="2026-05-30T10:00:00Z",
        inspections=[{"id": "look-i1", "title": "Look"}],
        parked=[{"id": "k1", "title": "Later"}],
        name=SECRET,
    )
    random = Random(seed)
    statuses: Counter[int] = Counter()
    with Browser(create_app(settings), follow_redirects=False, raise_server_exceptions=False) as client:
        sailor = Sailor(client, settings, "Mira")
        pk = kept_for_both(settings, made)
        roles: dict[str, Sailor] = {one.value: Sailor(client, settings, f"A {one}") for one in Membership}
        strangers = {"stranger": Sailor(client, settings, "A stranger"), "nobody": None}
        senders: list[tuple[str, Sailor | None]] = [*roles.items(), *strangers.items()]
        every = [one for one in sorted(set(routes(client.app))) if one[1] not in APART]
        assert {f"{method} {path}" for method, path in every} < set(MATRIX)
        long = request.config.getoption("--long")
        turns = len(every) * len(senders) * LONG_EACH if long else REQUESTS
        for at in range(turns):
            method, path = every[at % len(every)]
            role, sender = random.choice(senders) if long or at % 2 else ("skipper", sailor)
            if at % 20 == 0 or path.endswith(("/people/leave", "/people/save")):
                sailor.joins(pk)  # she may have left, or made herself a reader
                for one in Membership:
                    roles[one.value].joins(pk, one)
            where = path.replace("{pk}", str(pk) if random.random() < 0.93 else random.choice(PATHS))
            for name in ("{kind}", "{key}", "{name}", "{token}", "{light}", "{stage}", "{on}"):
                where = where.replace(name, random.choice(PATHS))
            form = fields(path, random)
            headers = {"cookie": f"rovask_session={sender.cookie}"} if sender else {}
            if method == "GET":
                answer = client.get(where, params=form if random.random() < 0.7 else None, headers=headers)
            else:
                form |= {"csrf": sender.csrf if sender else "none"}
                sent = {"file": ("a\x00b.zip", random.choice(files(random)))} if random.random() < 0.25 else None
                sent = {"photo": ("x.jpg", random.choice(files(random)))} if sent and random.random() < 0.3 else sent
                answer = client.post(where, data=form, files=sent, headers=headers)
            statuses[answer.status_code] += 1
            told = f"{role}: {method} {where} {form}"
            assert role not in strangers or SECRET not in answer.text, told
            assert answer.status_code < 500, f"{answer.status_code} {told}"
            kind = answer.headers.get("content-type", "")
            asked_for = path.endswith(("export", "bundle", "/plan", ".svg", ".toml", ".jpg", ".ics", ".js"))
            assert "json" not in kind or (asked_for and answer.status_code == 200) or path in BY_SCRIPTS, told
            if answer.status_code >= 400 and path not in BY_SCRIPTS:
                assert "<!doctype html>" in answer.text, told
        sailor.joins(pk)
        assert sailor.get(f"/r/{pk}/morning").status_code == 200
    assert statuses[200] + statuses[303] > turns // 5  # much of it gets through to where it could hurt
    assert statuses[422] + statuses[404] > turns // 5
