"""A full disk, a lost photo, a recipe of an older Rovask, an older file, the way back of a migration: nothing is lost."""

from __future__ import annotations

import errno
import io
import json

import psycopg
import pytest
from alembic import command
from PIL import Image
from sqlalchemy import text

from rovask.core.refit.model import Refit
from rovask.core.refit.whole import Whole
from rovask.core.refit.work.choices import State
from rovask.desk.door import Desk
from rovask.formats.refit_file import read_refit, write_refit
from rovask.settings import Settings
from rovask.store import photos
from rovask.store.database import engine_for, sessions_for, transaction
from rovask.store.history_tables import ChangeRow
from rovask.store.migrate import config_for, migrate
from rovask.store.records import load_rows
from tests.acts import ROVASK, photos_of
from tests.conftest import Sailor
from tests.web.pages import Elements
from tests.web.test_pages import refit_of

NEW_LISTS = ("inspections", "findings", "unknowns", "off_boat", "parked", "decisions", "photos")
NEW_FIELDS = {"places": ("spot",), "jobs": ("recipe", "chosen", "reason")}
OLD_BOAT = {"name", "rig", "hulls", "hull_material", "keel", "rudder", "drive", "length_m", "waterline_m", "beam_m"}
OLD_BOAT |= {"draft_m", "displacement_kg"}


def jpeg() -> bytes:
    out = io.BytesIO()
    Image.new("RGB", (301, 203), "navy").save(
        out, "JPEG"
    )  # a picture of these tests only: the same one again is kept already
    return out.getvalue()


def test_a_full_disk_is_told_and_what_was_typed_stays(
    sailor: Sailor, settings: Settings, demo_pk: int, monkeypatch: pytest.MonkeyPatch
) -> None:
    before = refit_of(settings, demo_pk)

    def full(_: int) -> None:
        raise OSError(errno.ENOSPC, "No space left on device")

    monkeypatch.setattr(photos.os, "fsync", full)
    form = {"severity": "bad", "title": "Crack", "note": "Two fingers long"}
    answer = sailor.post(f"/r/{demo_pk}/found", form, files={"photo": ("a.jpg", jpeg(), "image/jpeg")})
    assert answer.status_code == 422
    page = Elements(answer.text)
    assert "No space left" in " ".join(page.texts("p", class_="fault"))
    assert (page.value("title"), page.value("note")) == ("Crack", "Two fingers long")
    assert refit_of(settings, demo_pk) == before
    assert not [path for path in settings.state.rglob("tmp*") if path.is_file()]
    assert sailor.post(f"/r/{demo_pk}/found", form).status_code == 303  # the rest can be saved without it


def test_a_photo_whose_file_is_gone_is_told_and_the_rest_of_the_refit_still_goes_out(
    sailor: Sailor, settings: Settings, demo_pk: int
) -> None:
    sailor.post(f"/r/{demo_pk}/found", {"severity": "bad"}, files={"photo": ("a.jpg", jpeg(), "image/jpeg")})
    one = photos_of(settings, demo_pk)[0]
    for path in (settings.state / "photos" / one.sha256[:2]).glob(f"{one.sha256}*"):
        path.unlink()
    gone = sailor.get(f"/r/{demo_pk}/photo/{one.id}.jpg")
    assert gone.status_code == 404
    assert "bring it back from a backup" in gone.text
    assert sailor.get(f"/r/{demo_pk}/bundle").status_code == 200


def test_a_recipe_that_is_no_longer_sound_is_left_aside_and_told(
    sailor: Sailor, settings: Settings, demo_pk: int
) -> None:
    with transaction(settings.database_url) as session:
        query = "insert into recipe (id, text, account_pk, at) values ('old', 'id = 3', :mine, now()) returning pk"
        key = session.execute(text(query), {"mine": sailor.account}).scalar()
        session.execute(text("insert into given_recipe values (:refit, :key)"), {"refit": demo_pk, "key": key})
    page = Elements(sailor.get(f"/r/{demo_pk}/recipes").text)
    assert "left aside: old" in " ".join(page.texts("p", class_="fault"))
    assert "Winches serviced" in page.texts("a")
    assert sailor.get(f"/r/{demo_pk}/recipes/old.toml").text == "id = 3"  # to be mended
    sailor.post(f"/r/{demo_pk}/recipes/old/take-out")


def test_a_recipe_whose_formula_comes_to_nothing_on_this_boat_is_told_in_the_list_and_on_its_page(
    sailor: Sailor, demo_pk: int
) -> None:
    mine = sailor.get(f"/r/{demo_pk}/recipes/winches.toml").text
    mine = mine.replace('id = "winches"', 'id = "odd"').replace(
        'default = "4 if length < 12 else 6"', 'default = "4 / (hulls - 1)"'
    )
    brought = sailor.post(f"/r/{demo_pk}/recipes/bring-in", files={"file": ("odd.toml", mine.encode())})
    assert brought.status_code == 303
    assert "divides by nothing" in sailor.get(f"/r/{demo_pk}/recipes").text
    page = sailor.get(f"/r/{demo_pk}/recipes/odd")
    assert page.status_code == 200
    assert "divides by nothing" in page.text
    assert sailor.post(f"/r/{demo_pk}/recipes/odd").status_code == 422
    assert sailor.post(f"/r/{demo_pk}/recipes/odd", {"count": "4"}).status_code == 303
    sailor.post(f"/r/{demo_pk}/recipes/odd/take-out")


def of_the_version_before(refit: Refit) -> bytes:
    """The refit's file as Rovask 0.2 wrote it."""
    data = json.loads(write_refit(Whole(refit)))
    for name in NEW_LISTS:
        del data[name]
    data["boat"] = {name: value for name, value in data["boat"].items() if name in OLD_BOAT}
    for name, fields in NEW_FIELDS.items():
        for row in data[name]:
            for field in fields:
                del row[field]
    for job in data["jobs"]:
        for task in job["tasks"]:
            del task["check"]
    return json.dumps(data).encode()


def test_a_file_of_the_version_before_is_read(demo: Refit) -> None:
    old = read_refit(of_the_version_before(demo)).refit
    assert list(old.tasks) == list(demo.tasks)
    assert old.findings == ()
    assert old.boat.masts == 1


def test_the_last_migration_goes_back_and_forth_and_keeps_the_work(
    database: str, settings: Settings, demo: Refit
) -> None:
    """On a database of its own: what 0.2 knew is there after the way back and the way forth again."""
    own = database.rpartition("/")[0] + "/back_and_forth"
    with psycopg.connect(database, autocommit=True) as connection:
        connection.execute("create database back_and_forth")
    migrate(own)
    pk = Desk(settings.model_copy(update={"database_url": own})).add(ROVASK, Whole(demo), "x").pk
    sessions_for(own).kw["bind"].dispose()
    engine = engine_for(own)
    with engine.connect() as connection:
        config = config_for(own)
        config.attributes["connection"] = connection
        command.downgrade(config, "0003")
        connection.commit()
        command.upgrade(config, "head")
        connection.commit()
        command.check(config)
    engine.dispose()
    with transaction(own) as session:
        found = load_rows(session, pk)
    assert found is not None
    kept = found.refit
    # before 0006 lifting was work ashore, and only the haul-out's recipe tells which it was
    known = {key: task.model_copy(update={"check": "", "opens": ()}) for key, task in demo.tasks.items()}
    ashore = {key: task for key, task in known.items() if task.state is State.LIFTING}
    known |= {key: task.model_copy(update={"state": State.ASHORE}) for key, task in ashore.items()}
    assert kept.tasks == known
    assert kept.links == demo.links
    assert kept.findings == ()
    sessions_for(own).kw["bind"].dispose()


def test_two_people_who_edit_one_finding_both_see_both_versions(
    sailor: Sailor, mate: Sailor, settings: Settings, demo_pk: int
) -> None:
    sheets = [Elements(one.get(f"/r/{demo_pk}/finding/f4/edit").text) for one in (sailor, mate)]
    forms = [
        {name: sheet.value(name) for name in ("title", "note", "at", "key", "revision")}
        | {"severity": "watch", "place": "engine"}
        for sheet in sheets
    ]
    assert sailor.post(f"/r/{demo_pk}/finding/save", forms[0] | {"title": "Chafe, port"}).status_code == 303
    second = mate.post(f"/r/{demo_pk}/finding/save", forms[1] | {"title": "Chafe, starboard"})
    assert second.status_code == 409
    assert "Chafe, port" in second.text
    assert "Chafe, starboard" in second.text
    assert next(one for one in refit_of(settings, demo_pk).findings if one.id == "f4").title == "Chafe, port"


def test_a_change_made_under_the_version_before_can_still_be_taken_back(
    sailor: Sailor, settings: Settings, demo: Refit, demo_pk: int
) -> None:
    sailor.post(f"/r/{demo_pk}/task/winch-1/done")
    sailor.post(f"/r/{demo_pk}/job/tops/remove")
    with transaction(settings.database_url) as session:
        for row in session.query(ChangeRow).filter_by(refit_id=demo_pk).order_by(ChangeRow.pk.desc()).limit(2):
            for side in ("before", "after"):  # as the version before wrote its history
                records = json.loads(json.dumps(getattr(row, side)))
                for key, record in records.items():
                    for field in ("check",) if key.startswith("task:") else NEW_FIELDS["jobs"]:
                        record.pop(field, None) if record else None
                setattr(row, side, records)
    assert sailor.post(f"/r/{demo_pk}/undo").status_code == 303
    assert "tops" in {job.id for job in refit_of(settings, demo_pk).jobs}
    assert sailor.post(f"/r/{demo_pk}/undo").status_code == 303
    assert refit_of(settings, demo_pk).tasks == demo.tasks
