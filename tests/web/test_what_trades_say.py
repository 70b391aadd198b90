"""What a trade says by its page, where those aboard look for it: once, with its photo, and with its own share of a part."""

from __future__ import annotations

import io
import re
from datetime import date

import pytest
from PIL import Image

from rovask.core.refit.edits import put
from rovask.core.refit.model import Refit, Use
from rovask.core.refit.work.edits import update_task
from rovask.core.reports.log_lines import Wanted, log_lines
from rovask.settings import Settings
from tests.acts import changed, kept_of
from tests.conftest import Sailor
from tests.web.pages import Elements


def photo() -> bytes:
    out = io.BytesIO()
    Image.new("RGB", (300, 200), "navy").save(out, "JPEG")
    return out.getvalue()


@pytest.fixture
def task(settings: Settings, demo_pk: int) -> str:
    """A task of the rigger's, that takes six of a part of which twenty are wanted in all."""

    def for_ruy(refit: Refit) -> Refit:
        key = next(one.id for _, one in refit.walk() if one.done_at is None and one.begun_at is None)
        part = refit.part_by_id["boot"].model_copy(update={"quantity": 20, "unit": "m"})
        refit = put(update_task(refit, key, people=("ruy",), skill=None, skilled=(), hands=1, parts=("boot",)), part)
        return put(refit, Use(id="use-1", task=key, part="boot", amount=6))

    changed(settings, demo_pk, for_ruy)
    return next(one.id for one in kept_of(settings, demo_pk).refit.tasks.values() if one.people == ("ruy",))


def test_photo_of_what_is_done_finding_once_own_share_and_a_day_without_a_year(
    sailor: Sailor, settings: Settings, demo_pk: int, task: str
) -> None:
    link = re.search(r"/t/[\w-]{20,}", sailor.post(f"/r/{demo_pk}/links/trade", {"person": "ruy"}).text)
    assert link is not None
    client = sailor.client
    page = client.get(link[0]).text
    assert re.search(r", 6 m\b", page)
    assert not re.search(r", 20 m\b", page)
    say = f"{link[0]}/say"
    assert client.post(say, data={"said": "late", "day": "14.5."}).status_code == 303
    assert kept_of(settings, demo_pk).refit.words[-1].day == date(2026, 5, 14)
    assert client.post(say, data={"said": "found", "task": task, "note": "Stud is loose"}).status_code == 303
    sent = {"photo": ("a.jpg", photo(), "image/jpeg")}
    assert client.post(say, data={"said": "done", "task": task, "note": "all tight"}, files=sent).status_code == 303

    refit = kept_of(settings, demo_pk).refit
    key = refit.words[-1].photos[0]
    shown = f"/r/{demo_pk}/photo/{key}.jpg"
    for address in (f"accept/{task}", f"jobs/{refit.job_of[task].id}?task={task}", "day/2026-05-12"):
        text = sailor.get(f"/r/{demo_pk}/{address}").text
        assert shown in text, address
        assert "all tight" in text, address
    assert sailor.get(shown).status_code == 200

    found = refit.findings[-1]
    assert (found.title, found.note) == ("Stud is loose", f"Found by {refit.persons['ruy'].name}.")
    lines = [one.words for one in log_lines(refit, Wanted("Stud is loose", "", "", "", ""), (), ())]
    assert len(lines) == 1
    since = " ".join(Elements(sailor.get(f"/r/{demo_pk}/since?since=2026-05-12").text).texts("main"))
    assert since.count("Stud is loose") == 1
