"""While others are worked out for, a page shows what is known at once and asks again by itself; nobody is held for them."""

from __future__ import annotations

from collections.abc import Callable
from concurrent.futures import Future
from typing import Any

import pytest
from fastapi.testclient import TestClient

from rovask.desk.helpers import Helpers
from rovask.settings import Settings
from rovask.store.answers import Question
from rovask.web import costly
from tests.acts import changed
from tests.conftest import Sailor
from tests.web.pages import Elements


class Busy(Helpers):
    """Works for others, and takes its time."""

    def ask(self, question: Question, work: Callable[..., Any], *, search: bool = False) -> Future[Any]:
        return Future()

    def idle(self) -> bool:
        return False


@pytest.fixture
def others(client: TestClient, settings: Settings) -> None:
    client.app.state.helpers = Busy(settings.database_url, 0, 1.0)  # type: ignore[attr-defined]


@pytest.mark.parametrize("path", ["recipes/bilge-pumps?pumps=2", "recipes/several?pick=hatches&pick=gas"])
def test_a_recipe_says_first_what_it_is_and_asks_for_the_rest(
    sailor: Sailor, demo_pk: int, others: None, path: str
) -> None:
    answer = sailor.get(f"/r/{demo_pk}/{path}")
    assert answer.status_code == 200
    page = Elements(answer.text)
    first = page.texts("section", aria_label="What it is")[0]
    assert "tasks," in first
    assert " h of work; buys " in first
    asked = [has for tag, has, _ in page.found if "data-waits" in has]
    assert [one["hx-get"] for one in asked] == [f"/r/{demo_pk}/{path}"]
    assert not page.texts("button", class_="act-main")  # nothing is added before one has seen what it does


@pytest.mark.parametrize("path", ["finding/f4", "before/launch", "parked", "aboard", "decide/face-seal/school"])
def test_a_page_that_is_worked_out_says_so_and_comes_by_itself(
    sailor: Sailor, settings: Settings, demo_pk: int, others: None, path: str
) -> None:
    answer = sailor.get(f"/r/{demo_pk}/{path}")
    assert answer.status_code == 200
    assert "data-waits" in answer.text
    assert f"/r/{demo_pk}/slip" in answer.text  # in the frame of its refit, from which one can go elsewhere


def test_a_part_is_there_with_all_that_is_known_of_it(sailor: Sailor, demo_pk: int, others: None) -> None:
    page = Elements(sailor.get(f"/r/{demo_pk}/stores/part/anti").text)
    assert page.texts("h1") != ["Working it out …"]
    (asks,) = [has for tag, has, _ in page.found if has.get("id") == "to-settle-3"]
    assert asks["hx-get"].endswith("/stores/part/anti?settled=1")
    assert sum("being worked out" in cell for cell in page.texts("td")) == 3


def test_acts_are_not_held_up(sailor: Sailor, settings: Settings, demo_pk: int, others: None) -> None:
    assert sailor.post(f"/r/{demo_pk}/part/boot/count", {"amount": "3"}).status_code == 303
    assert sailor.get(f"/r/{demo_pk}/morning").status_code == 200
    assert changed(settings, demo_pk, lambda refit: refit).change is None


def test_what_was_typed_is_shown_again_also_while_others_are_worked_out_for(
    sailor: Sailor, demo_pk: int, others: None, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(costly, "FOR_WHAT_WAS_TYPED", 0.01)
    answer = sailor.post(f"/r/{demo_pk}/decide/face-seal/school", {"reason": "nobody here packs a gland"})
    assert answer.status_code == 409
    assert "nothing was changed yet" in answer.text
    assert "nobody here packs a gland" in answer.text
