"""A kind of record that nobody has thought of yet: declared once, with a table, a form and nothing else to be told.

What CONTRIBUTING promises: a model with its declaration, a migration (here its table is made by hand), and the fields of
its form. History, undo, references, removal, the file with its schema, the pages and their rights come by themselves.
"""

from __future__ import annotations

import json
from collections.abc import Iterator
from typing import Annotated

import pytest
from sqlalchemy import Table, text

from rovask.core.refit.register import KINDS, Gone, To, forget, kept
from rovask.core.refit.values import Frozen, Key, Line, Minor, Moment
from rovask.core.refit.whole import Whole
from rovask.formats.refit_file import json_schema, read_refit, write_refit
from rovask.settings import Settings
from rovask.store.base import Base
from rovask.store.database import transaction
from rovask.store.record_tables import table_of
from rovask.web.sheet_fields import FIELDS, Field, How
from tests.acts import aside_of, log_of, undone
from tests.builders import refit, task
from tests.conftest import Sailor, kept_for_both
from tests.web.pages import Elements


@pytest.fixture
def letter(settings: Settings) -> Iterator[type[Frozen]]:
    """The throw-away kind: a letter about a job, with a stamp."""

    @kept("letter", "letters", page="log", fresh={"stamp": 100}, aside=True, most=50)
    class Letter(Frozen):
        id: Key
        title: Line
        about: Annotated[Key, To("job", Gone.FORGET)] | None = None
        stamp: Minor = 0
        at: Moment

    FIELDS["letter"] = (
        Field("title", "Letter"),
        Field(
            "about", "About", How.CHOICE, options=lambda made: [(job.id, job.title) for job in made.jobs], optional=True
        ),
        Field("stamp", "Stamp", How.MONEY),
        Field("at", "When", How.MOMENT),
    )
    table: Table = table_of(KINDS["letter"])
    with transaction(settings.database_url) as session:
        table.create(session.connection())  # what a migration does
    yield Letter
    with transaction(settings.database_url) as session:
        session.execute(text("delete from letter"))
        table.drop(session.connection())
    Base.metadata.remove(table)
    del FIELDS["letter"]
    forget("letter")


def test_a_throw_away_kind_needs_its_model_its_table_and_its_form_alone(
    letter: type[Frozen], sailor: Sailor, settings: Settings
) -> None:
    pk = kept_for_both(settings, refit(task("a"), haul_at=settings.now))
    sheet = Elements(sailor.get(f"/r/{pk}/letter/new").text)
    assert sheet.texts("h1") == ["Add a letter"]
    assert sheet.value("stamp") == "1"
    form = {"title": "To the yard", "about": "job", "stamp": "1.20", "at": "2026-05-12T10:00"}
    refused = sailor.post(f"/r/{pk}/letter/save", form | {"stamp": "lots", "title": ""})
    assert refused.status_code == 422
    assert "is not an amount" in " ".join(Elements(refused.text).texts("p", class_="fault"))
    assert sailor.post(f"/r/{pk}/letter/save", form).status_code == 303
    one = aside_of(settings, pk, letter)[0]
    assert (one.title, one.about, one.stamp) == ("To the yard", "job", 120)  # type: ignore[attr-defined]
    assert log_of(settings, pk)[0].what == "added letter “To the yard”"
    key = one.id  # type: ignore[attr-defined]
    assert sailor.post(f"/r/{pk}/letter/save", form | {"key": key, "title": "Another"}).status_code == 303

    out = sailor.get(f"/r/{pk}/export").content  # in the file, in its schema, and back
    assert json.loads(out)["letters"][0]["title"] == "Another"
    assert "letters" in json.loads(json_schema())["properties"]
    whole = read_refit(out)
    assert write_refit(whole) == out
    assert isinstance(whole, Whole)
    broken = out.replace(b'"about": "job"', b'"about": "ghost"')
    answer = sailor.post("/import", files={"file": ("x.refit.json", broken)})
    assert "there is no job 'ghost'" in Elements(answer.text).texts("ul", id="faults")[0]
    assert sailor.post("/import", files={"file": ("x.refit.json", out)}).status_code == 303

    assert sailor.post(f"/r/{pk}/job/job/remove").status_code == 303  # what it points at goes: it does without
    assert aside_of(settings, pk, letter)[0].about is None  # type: ignore[attr-defined]
    undone(settings, pk)
    assert aside_of(settings, pk, letter)[0].about == "job"  # type: ignore[attr-defined]
    assert sailor.post(f"/r/{pk}/letter/{key}/remove").status_code == 303
    assert aside_of(settings, pk, letter) == ()
    undone(settings, pk)
    assert aside_of(settings, pk, letter)[0].title == "Another"  # type: ignore[attr-defined]
    sailor.post(f"/r/{pk}/undo")
    assert aside_of(settings, pk, letter)[0].title == "To the yard"  # type: ignore[attr-defined]
