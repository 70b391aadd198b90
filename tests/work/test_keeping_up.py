"""Plans of an earlier half-hour are made anew before somebody looks, and what the queue has done does not pile up."""

from __future__ import annotations

import asyncio
import secrets
from concurrent.futures import ThreadPoolExecutor
from datetime import timedelta

import pytest
from fastapi.testclient import TestClient
from sqlalchemy import text

from rovask.core.plan.verify.check import verify
from rovask.desk.door import Desk
from rovask.settings import Settings
from rovask.store import plans
from rovask.store.database import transaction
from rovask.store.refits import load
from rovask.work.keeping_up import keep_up
from rovask.work.queue import forget_done, queue_app
from tests.acts import changed
from tests.conftest import Sailor


def later_by(settings: Settings, **much: float) -> Settings:
    return settings.model_copy(update={"now": settings.clock() + timedelta(**much)})


def seen(settings: Settings, account: int) -> None:
    """They look now."""
    with transaction(settings.database_url) as session:
        session.execute(
            text("update session set seen_at = :now where account_pk = :account"),
            {"now": settings.clock(), "account": account},
        )


def plays(settings: Settings, pk: int) -> int:
    with transaction(settings.database_url) as session:
        query = (
            "select count(*) from procrastinate_jobs where task_name = 'play' and status = 'todo' and args->>'pk' = :pk"
        )
        return int(session.scalar(text(query), {"pk": str(pk)}) or 0)


@pytest.fixture
def crew(client: TestClient, settings: Settings) -> Sailor:
    """Somebody of no other refit."""
    return Sailor(client, settings, f"Keeper {secrets.token_hex(3)}")


def alone(settings: Settings) -> None:
    """Nobody of any refit was here for a long time, and nothing waits."""
    with transaction(settings.database_url) as session:
        session.execute(text("update session set seen_at = now() - interval '100 years'"))
        session.execute(text("delete from procrastinate_jobs"))


def test_a_plan_of_an_earlier_half_hour_is_made_before_its_crew_looks(
    settings: Settings, crew: Sailor, demo_pk: int
) -> None:
    crew.joins(demo_pk)
    alone(settings)
    for minutes, wanted in ((4, 0), (31, 1), (32, 0)):  # day 9 begins at a half-hour
        then = later_by(settings, minutes=minutes)
        seen(then, crew.account)
        assert keep_up(then) == wanted, minutes
        with transaction(settings.database_url) as session:
            kept = load(session, demo_pk)
            found = plans.kept_plan(session, kept, kept.half_hour(then.clock()))
        assert found is not None
        assert verify(kept.refit, found.plan) == []


def test_of_a_crew_that_is_away_and_of_a_closed_refit_it_waits(settings: Settings, crew: Sailor, demo_pk: int) -> None:
    crew.joins(demo_pk)
    alone(settings)
    seen(settings, crew.account)
    assert keep_up(later_by(settings, days=2, minutes=1)) == 0
    then = later_by(settings, hours=1)
    seen(then, crew.account)
    changed(settings, demo_pk, lambda refit: refit.grown(closed_at=settings.clock()))
    assert keep_up(then) == 0


def test_it_is_not_played_again_each_half_hour(settings: Settings, crew: Sailor, demo_pk: int) -> None:
    crew.joins(demo_pk)
    with transaction(settings.database_url) as session:
        kept = load(session, demo_pk)
        session.execute(
            text(
                "insert into odds (refit_id, change, now, kept_at, runs) values (:pk, :change, :now, :now, 100) "
                "on conflict (refit_id, change) do update set now = excluded.now"
            ),
            {"pk": demo_pk, "change": kept.change, "now": kept.half_hour(settings.clock())},
        )
    for hours, wanted in ((1.0, 0), (5.5, 0), (6.5, 1)):
        alone(settings)
        then = later_by(settings, hours=hours)
        seen(then, crew.account)
        assert keep_up(then) == 1
        assert plays(settings, demo_pk) == wanted, hours
    alone(settings)
    then = later_by(settings, hours=8)
    Desk(then).planning.current(kept, then.clock())  # somebody looks: it is played for the half-hour they see
    assert plays(settings, demo_pk) == 1


def test_jobs_that_were_done_yesterday_are_taken_away(settings: Settings) -> None:
    with transaction(settings.database_url) as session:
        session.execute(text("delete from procrastinate_jobs"))
        for status, hours in (("succeeded", 25), ("succeeded", 23), ("failed", 25), ("todo", 25)):
            job = session.scalar(
                text(
                    "insert into procrastinate_jobs (queue_name, task_name, args) values ('plans', 'search', '{}') returning id"
                )
            )
            if status != "todo":
                change = (
                    "update procrastinate_jobs set status = cast(:status as procrastinate_job_status) where id = :job"
                )
                session.execute(text(change), {"status": "doing", "job": job})
                session.execute(text(change), {"status": status, "job": job})
            session.execute(
                text("update procrastinate_events set at = now() - make_interval(hours => :hours) where job_id = :job"),
                {"job": job, "hours": hours},
            )

    async def tidy() -> None:
        app = queue_app(settings)
        async with app.open_async():
            await forget_done(app)

    with ThreadPoolExecutor(1) as pool:  # the browser tests' event loop runs in this thread
        pool.submit(lambda: asyncio.run(tidy())).result()
    with transaction(settings.database_url) as session:
        left = session.scalars(text("select status from procrastinate_jobs order by status")).all()
        session.execute(text("delete from procrastinate_jobs"))
    assert sorted(left) == ["failed", "succeeded", "todo"]
