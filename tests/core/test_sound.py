"""What is remembered to be quick never changes an answer: faults, plans, and lists that are taken back."""

from __future__ import annotations

from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from benches.books import with_books
from benches.generate import generated_refit
from rovask.core.books.forecast import forecast
from rovask.core.plan.planner import draft_plan
from rovask.core.plan.same_work import same_work, unread
from rovask.core.plan.verdict.verdict import judge
from rovask.core.plan.verify.check import verify
from rovask.core.refit.edits import put
from rovask.core.refit.model import Entry, Refit
from rovask.core.refit.records import ORDER, changes_between, with_changes
from rovask.core.refit.references import reference_faults
from rovask.core.refit.undoing import taken_back
from tests.core.test_accounts import entry

SMALL = with_books(generated_refit(12, 3), 3, parts=20, orders=12, entries=60)
LISTS = ("parts", "orders", "order_lines", "receipts", "entries", "jobs", "links", "people", "places", "suppliers")
DAMAGE = st.tuples(
    st.sampled_from(LISTS), st.integers(0, 59), st.sampled_from(["drop", "twice", "foreign", "other", "first"])
)


def damaged(it: Refit, what: tuple[str, int, str]) -> Refit:
    """The refit with one record gone, there twice, in a foreign currency, pointing elsewhere or moved to the front; unchecked."""
    name, at, how = what
    rows: list[Any] = list(getattr(it, name))
    if not rows:
        return it
    row = rows[at % len(rows)]
    if how == "drop":
        rows.remove(row)
    elif how == "twice":
        rows.append(row)
    elif how == "first":
        rows.remove(row)
        rows.insert(0, row)
    elif how == "foreign" and "currency" in type(row).model_fields:
        rows[at % len(rows)] = row.model_copy(update={"currency": "SEK"})
    elif how == "other":
        for field, value in (("order", "nowhere"), ("part", "nowhere"), ("line", "nowhere"), ("against", "e1")):
            if field in type(row).model_fields:
                rows[at % len(rows)] = row.model_copy(update={field: value})
    return Refit.model_construct(**{field: getattr(it, field) for field in Refit.model_fields} | {name: tuple(rows)})


@given(damage=st.lists(DAMAGE, min_size=1, max_size=4))
@settings(max_examples=150, deadline=None)
def test_a_refit_that_grew_out_of_a_sound_one_has_the_faults_it_has_by_itself(damage: list[Any]) -> None:
    sound = it = SMALL
    for what in damage:
        it = damaged(it, what)
        found = sorted(reference_faults(it, sound), key=str)
        assert found == sorted(reference_faults(it.model_dump(mode="json")), key=str)
        sound = it if not found else sound


def test_no_plan_reads_the_ledger() -> None:
    bare = Refit.model_construct(**{name: getattr(SMALL, name) for name in Refit.model_fields})
    assert unread() < set(Refit.model_fields)
    for name in unread():
        del bare.__dict__[name]
    with pytest.raises(AttributeError):
        _ = bare.entries
    draft, whole = draft_plan(bare, SMALL.haul_at), draft_plan(SMALL, SMALL.haul_at)
    assert draft.plan == whole.plan
    assert not verify(bare, draft.plan)
    assert judge(bare, draft.plan, draft.problem) == judge(SMALL, whole.plan, whole.problem)


def test_only_what_no_plan_reads_leaves_it_as_it_is() -> None:
    written = put(SMALL, Entry.model_validate(entry("new", "payment", 1200)))
    assert same_work(SMALL, written)
    assert same_work(SMALL, SMALL.model_copy(update={"budget": 1, "name": "Other"}))
    for name in ("parts", "receipts", "jobs", "people"):
        assert not same_work(SMALL, SMALL.model_copy(update={name: getattr(SMALL, name)[1:]})), name
    plan = draft_plan(SMALL, SMALL.haul_at).plan
    assert forecast(written, plan).total.minor != forecast(SMALL, plan).total.minor


def test_an_entry_more_writes_no_list_of_the_whole_ledger_and_comes_back_where_it_stood() -> None:
    first = put(SMALL, Entry.model_validate(entry("one", "payment", 1200)))
    second = put(first, Entry.model_validate(entry("two", "payment", 1300)))
    made = changes_between(SMALL, first)
    assert [key.kind for key in made] == ["entry"]
    assert with_changes(SMALL, made) == first
    undone = taken_back(second, {}, made)
    assert not undone.stuck
    without = with_changes(second, undone.changes)
    assert [row.id for row in without.entries[-2:]] == [SMALL.entries[-1].id, "two"]
    assert any(key.kind == ORDER for key in undone.changes)
    again = taken_back(without, {}, undone.changes)
    assert with_changes(without, again.changes) == second
