"""Databases of earlier versions, as each wrote them itself (make.py), are taken up: pages open, plans hold, an old change is undone."""

from __future__ import annotations

from collections.abc import Iterator
from datetime import timedelta
from pathlib import Path

import pytest
from sqlalchemy import text

from rovask.core.plan.verify.check import verify
from rovask.desk.door import Desk
from rovask.settings import Settings
from rovask.store import accounts
from rovask.store.account_tables import Membership
from rovask.store.backup.archive import read_manifest
from rovask.store.backup.restore import beside, restore
from rovask.store.database import sessions_for, transaction
from rovask.web.app import create_app
from tests.acts import kept_of
from tests.conftest import Browser, Sailor
from tests.desk.test_one_door import SCREENS
from tests.upgrades.make import RELEASED


def number(version: str) -> list[int]:
    return [int(part) for part in version.split(".")]


HERE = Path(__file__).parent
OLD = sorted(HERE.glob("*.tar"), key=lambda path: number(path.stem))
FEW = (
    "morning",
    "slip",
    "boat",
    "jobs",
    "stores",
    "purse",
    "launch",
    "findings",
    "log",
    "yard",
    "progress",
    "since",
    "odds",
    "post",
)


@pytest.fixture
def taken_up(request: pytest.FixtureRequest, database: str, tmp_path: Path) -> Iterator[tuple[Settings, int]]:
    """An old database under today's code, at the moment of its last change."""
    with beside(database) as url:
        settings = Settings(database_url=url, state=tmp_path, helpers=0, settling_seconds=1, surer_seconds=0)
        restore(request.param, url, Desk(settings).photos)
        with transaction(url) as session:
            pk, last = session.execute(
                text("select refit_id, max(at) from change group by 1 order by 2 desc limit 1")
            ).one()
        yield settings.model_copy(update={"now": last + timedelta(minutes=5)}), pk
        sessions_for(url).kw["bind"].dispose()


@pytest.mark.parametrize("taken_up", OLD, indirect=True, ids=lambda path: path.stem)
def test_a_database_of_an_earlier_version_is_taken_up_whole(
    taken_up: tuple[Settings, int], request: pytest.FixtureRequest
) -> None:
    settings, pk = taken_up
    sailor = Sailor(Browser(create_app(settings), follow_redirects=False), settings, "Skipper")
    with transaction(settings.database_url) as session:
        accounts.join(session, pk, sailor.account, Membership.SKIPPER, settings.clock())
        changes = session.scalar(text("select count(*) from change where refit_id = :pk"), {"pk": pk})
        undoable = session.scalars(
            text(
                "select pk from change where refit_id = :pk and undoes is null and not back and what like '%found%' "
                "and not exists (select from change taker where taker.undoes = change.pk) order by pk"
            ),
            {"pk": pk},
        ).all()
        photos = session.scalars(text("select id from photo where refit_id = :pk"), {"pk": pk}).all()
    assert changes > 60
    assert photos
    newest = request.node.callspec.id == OLD[-1].stem
    for screen in SCREENS if newest or request.config.getoption("--long") else FEW:
        answer = sailor.get(f"/r/{pk}/{screen}")
        assert answer.status_code in (200, 303, 404), f"{screen}: {answer.status_code}"
        assert answer.status_code == 200 or screen not in FEW, screen
    assert sailor.get(f"/r/{pk}/photo/{photos[0]}.jpg").status_code == 200
    before = kept_of(settings, pk)
    planned = Desk(settings).planning.current(before, settings.clock())
    assert verify(before.refit, planned.plan) == []
    assert undoable
    back = sailor.post(f"/r/{pk}/log/take-back", {"change": str(undoable[0])})
    assert back.status_code == 303, back.text[:3000]
    after = kept_of(settings, pk)
    assert after.revision == before.revision + 1
    assert after.refit != before.refit


def test_there_is_one_of_every_version_since_the_first_that_is_kept() -> None:
    changelog = (HERE.parents[1] / "CHANGELOG.md").read_text()
    released = [line.removeprefix("## ") for line in changelog.splitlines() if line.startswith("## ")][1:]
    assert {path.stem for path in OLD} == {one for one in released if number(one) >= number(OLD[0].stem)}
    assert {path.stem for path in OLD} == RELEASED.keys()
    assert all(read_manifest(path).rovask == path.stem for path in OLD)
    assert sum(path.stat().st_size for path in OLD) < 16_000_000
