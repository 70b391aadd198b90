"""What is typed in rows: a yard's tariff, its meter, stages of an agreement; saved as they stand nothing of the bill changes."""

from __future__ import annotations

import re

import pytest

from rovask.core.books.yard_bill import yard_bill
from rovask.core.refit.edits import rebuilt
from rovask.core.refit.model import Refit
from rovask.settings import Settings
from tests.acts import changed, kept_of, planned
from tests.conftest import Sailor
from tests.web.forms import PageForm, form_to

TARIFF = [
    {"charge": "lay-days", "price": 1250, "per": "a metre and day", "from_day": 11, "to_day": 30, "title": "spring"},
    {"charge": "lay-days", "price": 900, "per": "a metre and day", "from_day": 31},
    {"charge": "power", "price": 32, "per": "a kWh"},
    {"charge": "environment levy", "price": 350, "per": "per cent of the rest"},
]
METER = [{"at": "2026-05-04T09:00:32Z", "kwh": 1201.5}, {"at": "2026-05-11T09:10:50Z", "kwh": 1264.25}]


@pytest.fixture
def pk(settings: Settings, demo_pk: int) -> int:
    def with_tariff(refit: Refit) -> Refit:
        raw = refit.yard.model_dump() | {"tariff": TARIFF, "meter": METER}
        return rebuilt(refit, yard=type(refit.yard).model_validate(raw))

    changed(settings, demo_pk, with_tariff)
    return demo_pk


def sheet(sailor: Sailor, pk: int) -> PageForm:
    return form_to(sailor.get(f"/r/{pk}/yard/edit").text, "/yard/save")


def bill(settings: Settings, pk: int) -> list[tuple[str, int]]:
    kept, made = planned(settings, pk)
    return [(line.title, line.amount) for line in yard_bill(kept.refit, made.plan)]


def test_a_save_that_changes_only_the_town_leaves_the_bill_what_it_is(
    sailor: Sailor, settings: Settings, pk: int
) -> None:
    before, yard = bill(settings, pk), kept_of(settings, pk).refit.yard
    assert sailor.post(f"/r/{pk}/yard/save", sheet(sailor, pk).data()).status_code == 303
    assert kept_of(settings, pk).refit.yard == yard  # to the second of a reading
    assert sailor.post(f"/r/{pk}/yard/save", sheet(sailor, pk).data(town="Sandhaven")).status_code == 303
    now = kept_of(settings, pk).refit.yard
    assert (now.town, now.tariff, now.meter) == ("Sandhaven", yard.tariff, yard.meter)
    assert bill(settings, pk) == before
    assert len(before) >= 4


def test_rows_are_changed_added_and_taken_out_field_by_field(sailor: Sailor, settings: Settings, pk: int) -> None:
    form = sheet(sailor, pk)
    assert form.value("tariff-0-price") == "12.50"
    assert form.value("tariff-3-price") == "3.5"  # per cent
    data = form.data() | {
        "tariff-0-price": "13",
        "tariff-1-price": "",
        "tariff-1-from_day": "",
        "tariff-1-title": "",
        "tariff-3-price": "3.5 %",
        "tariff-4-charge": "move",
        "tariff-4-per": "each",
        "tariff-4-price": "80",
        "meter-2-at": "12.5.2026 08:32",
        "meter-2-kwh": "1270",
    }
    assert sailor.post(f"/r/{pk}/yard/save", data).status_code == 303
    yard = kept_of(settings, pk).refit.yard
    assert [(line.charge.value, line.price, line.per.value) for line in yard.tariff] == [
        ("lay-days", 1300, "a metre and day"),
        ("power", 32, "a kWh"),
        ("environment levy", 350, "per cent of the rest"),
        ("move", 8000, "each"),
    ]
    assert [one.kwh for one in yard.meter] == [1201.5, 1264.25, 1270]


@pytest.mark.parametrize(
    ("field", "value", "told"),
    [
        ("tariff-0-price", "12x", "row 1: “12x” is not an amount"),
        ("tariff-0-title", "spring lay-days 12.50 a day", "holds another line"),
        ("tariff-1-to_day", "3", "ends before the day it begins with"),
        ("tariff-4-title", "storage", "row 5: “storage” has no price"),
        ("tariff-4-from_day", "8", "row 5: “8” has no price; to take the row out, empty all of it"),
        ("meter-0-at", "yesterday", "row 1: “yesterday” is not a date and time"),
    ],
)
def test_what_cannot_be_read_is_named_by_its_row_and_stays_typed(
    sailor: Sailor, settings: Settings, pk: int, field: str, value: str, told: str
) -> None:
    before = kept_of(settings, pk).revision
    refused = sailor.post(f"/r/{pk}/yard/save", sheet(sailor, pk).data() | {field: value})
    assert refused.status_code == 422
    assert told in " ".join(re.findall(r'class="fault[^>]*>([^<]*)<', refused.text))
    assert form_to(refused.text, "/yard/save").value(field) == value
    assert kept_of(settings, pk).revision == before
