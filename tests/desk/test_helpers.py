"""What takes many plans is worked out beside the pages: each question once, boats in turn, given up when its refit changes."""

from __future__ import annotations

import os
import pickle
import re
import threading
import time
from collections.abc import Callable, Iterator
from concurrent.futures import Future
from datetime import UTC, datetime
from functools import partial
from pathlib import Path
from typing import Any, ClassVar

import pytest

from rovask.core.explain.search import Halted, Search
from rovask.core.refit.edits import put
from rovask.core.refit.work.choices import State
from rovask.desk.helpers import Helpers, Kept
from rovask.formats.apart import apart
from rovask.own_process import ProcessDied
from rovask.settings import Settings
from rovask.store.answers import Question
from rovask.web.app import create_app
from tests.acts import changed, kept_of
from tests.conftest import SKIPPER, Browser, Sailor
from tests.web.pages import Elements

EARLY = datetime(2026, 6, 1, 8, tzinfo=UTC)  # too early for the demo, so that something would help
SOON = 60.0  # seconds, also on a loaded machine: a process that begins reads half of Rovask


@pytest.fixture(scope="session")
def helpers(database: str) -> Iterator[Helpers]:
    """One process for all tests: beginning it takes longer than most of what it is asked."""
    made = Helpers(database, 1, 1.0)
    yield made
    made.close()


def asked(settings: Settings, pk: int, what: str) -> Question:
    return Question(pk, kept_of(settings, pk).change, "a plan", what)


def kept(helpers: Helpers, question: Question) -> object:
    return helpers.kept(question.pk, question.change).of(question)


def until_given_up(search: Search) -> str:
    """A search that goes on for ever."""
    while not search.halt.asked:
        time.sleep(0.01)
    raise Halted


def nothing_new(search: Search) -> str:
    return f"nothing in {search.seconds:g} s"


def dies_once(mark: Path) -> str:
    """Takes its process along the first time it is asked."""
    if not mark.exists():
        mark.touch()
        os._exit(1)
    return "there"


def test_a_question_is_answered_once_and_kept_for_whoever_asks_elsewhere(
    helpers: Helpers, settings: Settings, demo_pk: int
) -> None:
    question = asked(settings, demo_pk, "who are you")
    first, second = helpers.ask(question, os.getpid), helpers.ask(question, os.getpid)
    assert first is second
    assert first.result(SOON) != os.getpid()
    other = Helpers(settings.database_url, 1, 1.0)
    assert kept(other, question) == (first.result(),)
    assert kept(other, asked(settings, demo_pk, "something else")) is None
    changed(settings, demo_pk, lambda refit: refit.grown(name="Another name"))
    assert kept(other, asked(settings, demo_pk, "who are you")) is None


def test_of_a_refit_that_has_changed_nothing_is_kept(helpers: Helpers, settings: Settings, demo_pk: int) -> None:
    question = asked(settings, demo_pk, "old")
    changed(settings, demo_pk, lambda refit: refit.grown(name="Another name"))
    assert helpers.ask(question, partial(str, 5)).result(SOON) == "5"
    assert kept(helpers, question) is None


def test_boats_have_their_turns_and_what_is_quick_comes_before_a_search(helpers: Helpers, settings: Settings) -> None:
    begins = partial(time.sleep, 0.2)
    one = [Question(1, 1, "a plan", f"{at}") for at in range(4)]
    done: list[str] = []
    futures = [helpers.ask(one[0], begins), helpers.ask(one[1], nothing_new, search=True)]
    futures += [helpers.ask(one[at], begins) for at in (2, 3)]
    futures += [helpers.ask(Question(2, 1, "a plan", "the other boat"), begins)]
    for name, future in zip(("a", "b", "c", "d", "other"), futures, strict=True):
        future.add_done_callback(lambda _, name=name: done.append(name))  # type: ignore[misc]
    for future in futures:
        future.result(SOON)
    assert done == ["a", "other", "c", "d", "b"]  # the first was begun already, then it is the other boat's turn


def test_what_is_known_in_a_moment_does_not_wait_for_a_search(settings: Settings) -> None:
    two = Helpers(settings.database_url, 2, 1.0)
    endless = [two.ask(Question(1, 1, "a plan", f"long {at}"), until_given_up, search=True) for at in range(2)]
    assert two.ask(Question(2, 1, "a plan", "short"), partial(str, 7)).result(SOON) == "7"
    assert not any(one.done() for one in endless)
    two.overtaken(1)
    two.close()


def test_what_is_asked_of_a_refit_that_changes_is_given_up_and_of_others_not(helpers: Helpers) -> None:
    running = helpers.ask(Question(1, 1, "a plan", "long"), until_given_up, search=True)
    waiting = helpers.ask(Question(1, 1, "a plan", "longer"), until_given_up, search=True)
    other = helpers.ask(Question(2, 1, "a plan", "short"), partial(str, 7))
    time.sleep(0.3)
    helpers.overtaken(1)
    for future in (running, waiting):
        with pytest.raises(Halted):
            future.result(SOON)
    assert other.result(SOON) == "7"


def test_a_process_that_is_killed_is_begun_again_and_the_question_with_it(helpers: Helpers, tmp_path: Path) -> None:
    assert helpers.ask(Question(1, 1, "a plan", "x"), partial(dies_once, tmp_path / "died")).result(SOON) == "there"
    assert helpers.ask(Question(1, 1, "a plan", "y"), partial(str, 8)).result(SOON) == "8"


def is_there(process: int) -> bool:
    """Whether it runs, and is not only waiting to be taken note of."""
    try:
        return "\nState:\tZ" not in Path(f"/proc/{process}/status").read_text()
    except FileNotFoundError:
        return False


def test_helpers_that_are_closed_end_and_take_no_reader_of_files_along(settings: Settings) -> None:
    reader, helpers = apart(os.getpid), Helpers(settings.database_url, 1, 1.0)
    helper = helpers.ask(Question(1, 1, "a plan", "who are you"), os.getpid).result(SOON)
    running = helpers.ask(Question(1, 1, "a plan", "long"), until_given_up, search=True)
    helpers.close()
    with pytest.raises((ProcessDied, Halted)):  # it is not begun again in a process that nobody would end
        running.result(SOON)
    until = time.monotonic() + SOON
    while is_there(helper):
        assert time.monotonic() < until
        time.sleep(0.05)
    assert apart(os.getpid) == reader


def test_what_fails_is_told_and_the_next_question_answered(helpers: Helpers) -> None:
    with pytest.raises(ZeroDivisionError):
        helpers.ask(Question(1, 1, "a plan", "x"), partial(divmod, 1, 0)).result(SOON)
    assert helpers.ask(Question(1, 1, "a plan", "x"), partial(divmod, 5, 2)).result(SOON) == (2, 1)


class DoneAtOnce(Helpers):
    """Its processes have an answer before anybody can wait for it."""

    def _begun(self, job: Any) -> Future[Any]:
        done = Future[Any]()
        done.set_result(job.work())
        return done


def test_an_answer_that_is_there_before_it_is_waited_for_holds_up_nobody(settings: Settings) -> None:
    helpers, found = DoneAtOnce(settings.database_url, 1, 1.0), list[int]()

    def ask() -> None:
        found.extend(helpers.ask(Question(1, 1, "a plan", f"{n}"), partial(int, n)).result(SOON) for n in range(3))

    asking = threading.Thread(target=ask, daemon=True)  # a test that fails must not hang
    asking.start()
    asking.join(SOON)
    assert not asking.is_alive() and found == [0, 1, 2]
    assert helpers.idle()


class KeepsAll(Helpers):
    """Works everything out at once, and reads back what would be kept of it."""

    seen: ClassVar[set[str]] = set()

    def ask(self, question: Question, work: Callable[..., Any], *, search: bool = False) -> Future[Any]:
        future = super().ask(question, work, search=search)
        read = Kept({question.digest: pickle.dumps(future.result())}).of(question)
        assert read == (future.result(),), question.what
        self.seen.add(question.what.split()[0])
        return future


def test_every_kind_of_answer_is_read_back_as_it_was(settings: Settings, demo_pk: int) -> None:
    app = create_app(settings)
    app.state.helpers = KeepsAll(settings.database_url, 0, 0.2)
    rows = kept_of(settings, demo_pk).refit.walk()
    ashore = next(job.id for job, task in rows if task.state is State.AFLOAT_AFTER and not task.begun_at)
    with Browser(app, follow_redirects=False) as client:
        sailor = Sailor(client, settings, SKIPPER)
        for path in (
            *("finding/f4", "finding/f1/decide", "decide/face-seal/school", "parked", "aboard", "before/launch"),
            *("recipes/bilge-pumps?pumps=2", "stores/part/anti", f"jobs/{ashore}/ashore"),
        ):
            assert sailor.get(f"/r/{demo_pk}/{path}").status_code == 200, path
        changed(settings, demo_pk, lambda refit: refit.grown(launch_at=EARLY))
        assert sailor.get(f"/r/{demo_pk}/remedies").status_code == 200
    kinds = {"finding", "decide", "opened", "before", "recipes", "offer", "remedies", "ashore"}
    assert KeepsAll.seen >= kinds


def test_an_answer_does_not_outlive_a_price_that_moves_no_task(settings: Settings, demo_pk: int) -> None:
    with Browser(create_app(settings), follow_redirects=False) as client:
        sailor = Sailor(client, settings, SKIPPER)
        offer = next(one for one in kept_of(settings, demo_pk).refit.offers if one.part == "anti")
        told = [sailor.get(f"/r/{demo_pk}/stores/part/anti").text]
        dearer = offer.model_copy(update={"price": offer.price + 77_700})
        changed(settings, demo_pk, lambda refit: put(refit, dearer))
        told.append(sailor.get(f"/r/{demo_pk}/stores/part/anti").text)
    money = [set(re.findall(r"itself [+\d.,\s\u202f\u2009\u00a0]+", " ".join(text.split()))) for text in told]
    assert money[0]
    assert money[0] != money[1]


def test_nothing_but_an_answer_is_read(demo_pk: int) -> None:
    question = Question(demo_pk, 1, "a plan", "x")
    by_way_of = b"\x80\x04\x8c\x1frovask.core.plan.solver.improve\x8c\x0dthreading._os\x93."
    for body in (pickle.dumps(os.getcwd), pickle.dumps(eval), by_way_of, b"no pickle at all", b""):
        assert Kept({question.digest: body}).of(question) is None


def test_a_page_shows_what_it_knows_and_the_rest_when_it_is_there(settings: Settings, demo_pk: int) -> None:
    app = create_app(settings.model_copy(update={"helpers": 1}))
    with Browser(app, follow_redirects=False) as client:
        sailor = Sailor(client, settings, SKIPPER)
        address = f"/r/{demo_pk}/recipes/bilge-pumps?pumps=2"
        first = Elements(sailor.get(address).text)
        assert any("data-waits" in has for _, has, _ in first.found)  # the process has hardly begun
        until = time.monotonic() + SOON
        while any("data-waits" in has for _, has, _ in Elements(sailor.get(address).text).found):
            assert time.monotonic() < until
            time.sleep(0.2)
        settled = sailor.client.get(
            f"{address}&settled=1",
            headers={"cookie": f"rovask_session={sailor.cookie}", "hx-request": "true", "hx-target": "div#effect"},
        )
        assert settled.status_code in (200, 204)  # a part that isn't there yet leaves the page as it is
    app.state.helpers.close()
