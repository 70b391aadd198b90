"""A backup is one that was restored: everything destroyed, brought back, every page opened, an old change undone, every plan verified."""

from __future__ import annotations

import io
import json
import shutil
import tarfile
from collections.abc import Iterator
from datetime import UTC, datetime, timedelta
from pathlib import Path

import boto3
import psycopg
import pytest
from moto.server import ThreadedMotoServer
from PIL import Image
from sqlalchemy import text

from rovask.core.plan.verify.check import verify
from rovask.desk.command import Actor
from rovask.desk.commands.work import LogHours
from rovask.desk.copies import back_up, back_up_when_due, check_backup
from rovask.desk.door import Desk
from rovask.formats.photo import read_photo
from rovask.formats.refit_file import read_refit
from rovask.settings import Settings
from rovask.store import accounts, house
from rovask.store.backup.archive import BackupRefused, backups_in, content, read_manifest
from rovask.store.backup.restore import beside, restore
from rovask.store.database import sessions_for, transaction
from rovask.store.migrate import migrate
from rovask.store.photos import PhotoStore, photo_store
from rovask.web.app import create_app
from tests.acts import kept_of
from tests.conftest import DEMO, Browser, Sailor
from tests.desk.test_one_door import SCREENS

LATER = datetime(2026, 7, 1, 9, tzinfo=UTC)


def jpeg(colour: str) -> bytes:
    out = io.BytesIO()
    Image.new("RGB", (320, 200), colour).save(out, "JPEG")
    return out.getvalue()


class Installation:
    """One Rovask on a database of its own, with the demo, photos, hours logged and something undone."""

    def __init__(self, settings: Settings) -> None:
        self.settings = settings
        migrate(settings.database_url)
        self.client = Browser(create_app(settings), follow_redirects=False)

    def lived_in(self) -> Installation:
        with transaction(self.settings.database_url) as session:
            account = accounts.new_account(session, "Mira", self.settings.clock()).pk
        whole = read_refit(DEMO.read_bytes())
        self.pk = Desk(self.settings).add(Actor(account, "Mira"), whole, "loaded").pk
        sailor = self.sailor()
        for title, colour in (("Soft deck at the mast", "navy"), ("Crazed gelcoat", "teal")):
            form = {"title": title, "severity": "watch", "note": "Seen «by torch»; 3 × 4 cm, größer?\\\t\n"}
            assert (
                sailor.post(
                    f"/r/{self.pk}/found", form, files={"photo": ("a.jpg", jpeg(colour), "image/jpeg")}
                ).status_code
                == 303
            )
        assert sailor.post(f"/r/{self.pk}/task/steer-3/hours", {"hours": "1", "person": "mira"}).status_code == 303
        assert sailor.post(f"/r/{self.pk}/undo").status_code == 303
        assert sailor.post(f"/r/{self.pk}/task/tops-1/hours", {"hours": "2", "person": "mira"}).status_code == 303
        return self

    def sailor(self) -> Sailor:
        return Sailor(self.client, self.settings, "Mira")

    @property
    def photos(self) -> PhotoStore:
        return Desk(self.settings).photos


@pytest.fixture
def place(database: str, tmp_path: Path, day_9: datetime) -> Iterator[Installation]:
    with beside(database) as url:
        settings = Settings(
            database_url=url, state=tmp_path / "old", now=day_9, helpers=0, settling_seconds=1, surer_seconds=0
        )
        yield Installation(settings)
        sessions_for(url).kw["bind"].dispose()


def elsewhere(settings: Settings, url: str, state: Path, **more: object) -> Settings:
    return settings.model_copy(update={"database_url": url, "state": state} | more)


def test_everything_destroyed_and_brought_back_is_as_it_was(place: Installation, database: str, tmp_path: Path) -> None:
    old = place.lived_in()
    settings, pk = old.settings, old.pk
    before = kept_of(settings, pk)
    pages = {screen: old.sailor().get(f"/r/{pk}/{screen}").status_code for screen in SCREENS}
    made = back_up(Desk(settings), tmp_path / "copies")
    assert made.path.stat().st_mode & 0o077 == 0  # it holds everything
    shutil.rmtree(settings.state)
    with psycopg.connect(settings.database_url, autocommit=True) as connection:
        connection.execute("drop schema public cascade; create schema public")

    with beside(database) as url:
        again = elsewhere(settings, url, tmp_path / "new")
        restore(made.path, url, Desk(again).photos)
        new = Installation(again)
        after = kept_of(again, pk)
        assert after.refit == before.refit
        assert (after.revision, after.change, after.revisions) == (before.revision, before.change, before.revisions)
        sailor = new.sailor()
        assert {screen: sailor.get(f"/r/{pk}/{screen}").status_code for screen in SCREENS} == pages
        assert any("größer?\\" in one.note for one in after.refit.findings)
        with Desk(again).looking() as session:
            rows = session.execute(text("select id from photo")).scalars().all()
            assert (
                session.scalar(text("select count(*) from session")) >= 1
            )  # mine of now; those before are not brought back
            assert (
                session.scalar(
                    text(
                        "select count(*) from procrastinate_jobs where status = 'todo' and task_name in ('search', 'play')"
                    )
                )
                == 2
            )
        assert len(rows) >= 2
        for one in rows:
            assert sailor.get(f"/r/{pk}/photo/{one}.jpg").status_code == 200
        planned = Desk(again).planning.current(kept_of(again, pk), again.clock())
        assert verify(kept_of(again, pk).refit, planned.plan) == []
        log = sailor.get(f"/r/{pk}/log").text
        assert "Soft deck at the mast" in log
        with Desk(again).looking() as session:
            change = session.scalar(
                text("select pk from change where what like '%Crazed%' or what like '%found%' order by pk limit 1")
            )
        back = sailor.post(f"/r/{pk}/log/take-back", {"change": str(change)})
        assert back.status_code == 303, back.text[:2000]
        assert len(kept_of(again, pk).refit.findings) == len(before.refit.findings) - 1
        new_one = sailor.post(f"/r/{pk}/found", {"title": "After the restore", "severity": "bad"})
        assert new_one.status_code == 303  # the numbers of rows go on
        sessions_for(url).kw["bind"].dispose()


def test_it_is_consistent_while_somebody_works(
    place: Installation, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """A change that is made after the copy began is in none of its tables."""
    old = place.lived_in()
    desk = Desk(old.settings)
    from rovask.store.backup import archive

    real, done = archive.copied, []

    def meanwhile(connection, name, file):  # type: ignore[no-untyped-def]
        if not done:
            done.append(name)
            desk.act(Actor(None), old.pk, LogHours("tops-1", "mira", 3.0))
        return real(connection, name, file)

    monkeypatch.setattr(archive, "copied", meanwhile)
    revision = kept_of(old.settings, old.pk).revision
    made = back_up(desk, tmp_path / "copies")
    monkeypatch.undo()
    assert kept_of(old.settings, old.pk).revision == revision + 1
    assert check_backup(desk, made.path) == []
    with tarfile.open(made.path) as tar:
        rows = {one.name: one.rows for one in read_manifest(made.path).tables}
        assert rows["change"] == revision
        assert content(tar, "tables/refit.gz")
    with desk.looking() as session:
        assert house.last_copy(session).checked_at is not None  # type: ignore[union-attr]


def damage(path: Path, out: Path, name: str, change) -> Path:  # type: ignore[no-untyped-def]
    """The archive with one file of it changed; None leaves it out."""
    with tarfile.open(path) as old, tarfile.open(out, "w") as new:
        for item in old.getmembers():
            data = old.extractfile(item).read()  # type: ignore[union-attr]
            if item.name == name:
                data = change(data)
                if data is None:
                    continue
                item.size = len(data)
            new.addfile(item, io.BytesIO(data))
    return out


def test_what_is_no_backup_or_damaged_or_of_a_newer_rovask_or_not_into_an_empty_place_is_refused(
    place: Installation, tmp_path: Path, database: str
) -> None:
    old = place.lived_in()
    desk = Desk(old.settings)
    made = back_up(desk, tmp_path / "copies")
    photo = next(name for name in read_manifest(made.path).photos if ".small" not in name)

    def newer(data: bytes) -> bytes:
        return json.dumps(json.loads(data) | {"schema": "9999"}).encode()

    def other_rows(data: bytes) -> bytes:
        found = json.loads(data)
        found["tables"] = [row | {"rows": row["rows"] + (row["name"] == "task")} for row in found["tables"]]
        return json.dumps(found).encode()

    bad = tmp_path / "bad.tar"
    for name, change, why in (
        ("manifest.json", newer, "newer Rovask"),
        ("manifest.json", lambda _: b"{", "no backup of Rovask"),
        ("manifest.json", other_rows, "table task came back"),
        ("tables/task.gz", lambda data: data[: len(data) // 2], "damaged"),
        ("tables/task.gz", lambda _: None, "damaged"),
        (f"photos/{photo}", lambda data: data[:-4] + b"abcd", "is damaged"),
    ):
        damage(made.path, bad, name, change)
        with beside(database) as url, pytest.raises(BackupRefused, match=why):
            restore(bad, url, photo_store(tmp_path / "new"))
    (tmp_path / "cut.tar").write_bytes(made.path.read_bytes()[:50_000])
    for path, why in ((tmp_path / "cut.tar", "damaged"), (tmp_path / "none.tar", "no file"), (DEMO, "no backup")):
        with pytest.raises(BackupRefused, match=why):
            read_manifest(path)
    with pytest.raises(BackupRefused, match="already"):
        restore(made.path, old.settings.database_url, desk.photos)
    (desk.photos.files.path / photo).unlink()  # type: ignore[attr-defined]
    lacking = back_up(desk, tmp_path / "copies")
    assert len(lacking.manifest.missing) == 1
    assert "missing or damaged" in check_backup(desk, lacking.path)[0]


def test_one_is_made_when_it_is_due_and_the_newest_are_kept(place: Installation, tmp_path: Path) -> None:
    settings = place.settings
    now = settings.now or LATER

    def at(hours: float, **more: object) -> Desk:
        return Desk(settings.model_copy(update={"now": now + timedelta(hours=hours), "copies_kept": 3} | more))

    made = [hours for hours in range(0, 24 * 6, 2) if back_up_when_due(at(hours))]
    assert made == [0, 24, 48, 72, 96, 120]
    assert [path.name for path in backups_in(settings.copies_folder)] == [
        f"rovask-{now + timedelta(hours=hours):%Y%m%dT%H%M%SZ}.tar" for hours in (120, 96, 72)
    ]
    assert back_up_when_due(at(1000, copy_hours=0)) is None
    (tmp_path / "a file").write_text("")
    full = at(200, copies=tmp_path / "a file")
    with pytest.raises(BackupRefused, match="could not be written"):
        back_up_when_due(full)
    assert back_up_when_due(at(200.5, copies=tmp_path / "a file")) is None  # not every ten minutes
    assert back_up_when_due(at(201.5)) is not None


@pytest.fixture(scope="module")
def objects() -> Iterator[str]:
    """A small object store that speaks S3, on loopback."""
    server = ThreadedMotoServer("127.0.0.1", 0, verbose=False)
    server.start()
    host, port = server.get_host_and_port()
    boto3.client("s3", endpoint_url=f"http://{host}:{port}", region_name="us-east-1").create_bucket(Bucket="pictures")
    yield f"http://{host}:{port}"
    server.stop()


@pytest.fixture(autouse=True, scope="module")
def _keys() -> Iterator[None]:
    with pytest.MonkeyPatch.context() as patched:
        patched.setenv("AWS_ACCESS_KEY_ID", "tests")
        patched.setenv("AWS_SECRET_ACCESS_KEY", "tests")
        yield


def test_photos_in_an_object_store_serve_two_machines_and_come_back_from_a_backup(
    place: Installation, database: str, objects: str, tmp_path: Path
) -> None:
    there = {"photos_url": "s3://pictures/boats", "photos_endpoint": objects}
    place.settings = place.settings.model_copy(update=there)
    old = Installation(place.settings)
    old.lived_in()
    other = Installation(old.settings.model_copy(update={"state": tmp_path / "another machine"}))
    other.pk = old.pk
    with Desk(old.settings).looking() as session:
        keys = list(session.scalars(text("select id from photo")))
    assert keys
    assert all(other.sailor().get(f"/r/{old.pk}/photo/{key}.jpg").status_code == 200 for key in keys)
    assert not list(tmp_path.rglob("*.jpg"))  # no state of a machine matters
    made = back_up(Desk(old.settings), tmp_path / "copies")
    with beside(database) as url:
        again = elsewhere(old.settings, url, tmp_path / "new", photos_url="s3://pictures/again")
        restore(made.path, url, Desk(again).photos)
        assert Desk(again).photos.checksums() == old.photos.checksums()
        sailor = Installation(again).sailor()
        assert all(sailor.get(f"/r/{old.pk}/photo/{key}.jpg").status_code == 200 for key in keys)
        sessions_for(url).kw["bind"].dispose()


def test_an_object_store_that_is_away_is_told_and_what_was_typed_stays(place: Installation, sailor: Sailor) -> None:
    place.lived_in()
    away = Installation(
        place.settings.model_copy(update={"photos_url": "s3://pictures", "photos_endpoint": "http://127.0.0.1:9"})
    )
    form = {"title": "A crack", "severity": "bad"}
    answer = away.sailor().post(f"/r/{place.pk}/found", form, files={"photo": ("a.jpg", jpeg("red"), "image/jpeg")})
    assert answer.status_code == 422
    assert "the store of photos does not answer" in answer.text
    assert "A crack" in answer.text
    assert away.client.get("/readyz").status_code == 503
    assert "127.0.0.1:9" not in away.client.get("/readyz").text


def test_photos_nobody_names_go_after_thirty_days_and_not_before(place: Installation) -> None:
    from rovask.work.house import sweep_photos

    place.lived_in()
    settings, pk = place.settings, place.pk
    desk, now = Desk(settings), settings.now or LATER
    lost = read_photo(jpeg("purple"))
    desk.photos.keep(lost)  # of an act that failed
    undone = place.sailor().post(f"/r/{pk}/undo")
    assert undone.status_code == 303
    with desk.looking() as session:
        change = session.scalar(text("select pk from change where what like '%Crazed%' order by pk limit 1"))
    assert place.sailor().post(f"/r/{pk}/log/take-back", {"change": str(change)}).status_code == 303
    there = desk.photos.checksums()

    def on_day(days: float) -> int:
        return sweep_photos(Desk(settings.model_copy(update={"now": now + timedelta(days=days)})))

    assert (on_day(0), on_day(29)) == (0, 0)
    assert desk.photos.checksums() == there
    again = place.sailor().post(f"/r/{pk}/redo")  # the finding that was taken back, with its photo, is there again
    assert again.status_code == 303
    assert on_day(30.1) == 1
    assert desk.photos.checksums() == there - {lost.sha256}
