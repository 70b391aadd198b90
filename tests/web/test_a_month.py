"""A month of buying, receiving, billing and paying, by the forms a sailor fills in: the sums agree in every view and export."""

from __future__ import annotations

import csv
import io
import re
from datetime import timedelta
from decimal import Decimal

import pytest

from rovask.core.books.account_sheet import account_sheet
from rovask.core.books.forecast import forecast
from rovask.core.plan.planner import make_plan
from rovask.core.readings.stock import stocks
from rovask.core.refit import typed
from rovask.core.refit.model import Decision, Refit
from rovask.settings import Settings
from tests.acts import aside_of, kept_of, log_of, undone
from tests.builders import person, refit, task
from tests.conftest import Sailor, kept_for_both
from tests.web.pages import Elements


def refit_of(settings: Settings, pk: int) -> Refit:
    return kept_of(settings, pk).refit


@pytest.fixture
def pk(settings: Settings) -> int:
    assert settings.now is not None
    made = refit(
        task("paint", 4, parts=["anti"]),
        task("mast", 4, skill="rigging"),
        people=[person("ann"), person("rig", role="trade", skills=["rigging"], rate=5000)],
        haul_at=settings.now.replace(hour=8),
        launch_at=settings.now.replace(hour=9) + timedelta(days=20),
        budget=300000,
        yard={"name": "Slip", "time_zone": "Europe/Lisbon", "lift_and_launch": 60000, "lay_day": 2000},
        parts=[{"id": "anti", "name": "Antifouling", "quantity": 10, "unit": "L", "price": 48900, "supplier": "Quay", "lead_days": 2}],
    )  # fmt: skip
    return kept_for_both(settings, made)


def minor(text: str) -> int:
    """The amount at the end of a text, in cents."""
    found = re.findall(r"-?[\d\u202f]+(?:\.\d\d)? EUR", text)
    assert found, text
    return typed.minor(found[-1].removesuffix(" EUR"), "EUR", negative=True)


def told_everywhere(sailor: Sailor, settings: Settings, pk: int) -> int:
    """The forecast, once it is the same on every page, in the export and in the printed account."""
    made: Refit = refit_of(settings, pk)
    page = Elements(sailor.get(f"/r/{pk}/purse").text)
    whole = minor(page.texts("strong", class_="tabular-nums")[0])
    paid = minor(page.texts("dd")[0])
    for by in ("job", "section", "party", "person"):
        rows = Elements(sailor.get(f"/r/{pk}/purse?by={by}").text).texts("tr")
        sums = [row for row in rows if row.endswith("EUR") and "in all" not in row]
        assert sums, by
    printed = Elements(sailor.get(f"/r/{pk}/purse/account").text).texts("tr")
    assert minor(next(row for row in printed if row.startswith("Forecast"))) == whole
    assert minor(next(row for row in printed if row.startswith("Paid"))) == paid
    last = Elements(sailor.get(f"/r/{pk}/purse/months").text).texts("tr", class_="font-semibold")[-1]
    assert minor(last) == whole
    ledger = csv.DictReader(io.StringIO(sailor.get(f"/r/{pk}/tables/ledger/ledger.csv").content.decode("utf-8-sig")))
    out = sum(
        (Decimal(row["amount"]) * Decimal(row["rate"]) * (1 if row["kind"] == "payment" else -1))
        for row in ledger
        if row["kind"] in ("payment", "refund")
    )
    assert abs(out - Decimal(paid) / 100) <= Decimal("0.01") * len(made.entries)
    assert settings.now is not None
    sheet = account_sheet(made, make_plan(made, settings.now))
    assert sheet["paid"] == paid
    return whole


def test_a_month_of_buying_and_paying(sailor: Sailor, settings: Settings, pk: int) -> None:
    def post(path: str, form: dict[str, object], status: int = 303) -> str:
        answer = sailor.post(f"/r/{pk}/{path}", form)
        assert answer.status_code == status, [
            (one[1].get("id"), "".join(one[2]).strip())
            for one in Elements(answer.text).found
            if "fault" in one[1].get("class", "")
        ]
        return answer.headers.get("location", "") if status == 303 else answer.text

    at_first = told_everywhere(sailor, settings, pk)
    # offers side by side; the second is dearer by itself
    offer = {
        "part": "anti",
        "quantity": "10",
        "currency": "EUR",
        "lead_days": "2",
        "misfit": "0",
        "duty": "0",
        "tax": "0",
    }
    for name, price in (("Quay", "470"), ("Far", "400")):
        post("offer/save", offer | {"supplier": name, "what": "two tins", "price": price, "its_form": "maker's kit", "state": "offered"})  # fmt: skip
    page = Elements(sailor.get(f"/r/{pk}/stores/part/anti").text)
    told = [row for row in page.texts("tr") if "two tins" in row]
    assert [minor(row.partition("itself")[2]) for row in told] == [-8900, -1900]
    key = refit_of(settings, pk).offers[0].id
    assert "Say in a few words why" in post(f"offer/{key}/choose", {"reason": " "}, 422)
    post(f"offer/{key}/choose", {"reason": "it is here on Thursday"})
    (decision,) = aside_of(settings, pk, Decision)
    assert (decision.adopted, decision.reason) == ("Quay: two tins", "it is here on Thursday")
    assert told_everywhere(sailor, settings, pk) == at_first - 1900
    order = refit_of(settings, pk).orders[0]

    # half of it comes, fits; the rest doesn't and is exchanged, then fits
    line = refit_of(settings, pk).order_lines[0].id
    assert "more than the 10" in post(f"line/{line}/receive", {"quantity": "11", "way": "fits"}, 422)
    post(f"line/{line}/receive", {"quantity": "5", "way": "fits", "stowed": "shed"})
    assert stocks(refit_of(settings, pk))["anti"].tried == 5
    post(f"line/{line}/receive", {"way": "came"})
    wrong = refit_of(settings, pk).receipts[1].id
    post(f"receipt/{wrong}/try", {"condition": "wrong thing", "remedy": "exchange", "off_by": "blue"})
    assert stocks(refit_of(settings, pk))["anti"].on_order == 5
    assert refit_of(settings, pk).orders[0].expected is not None
    post(f"line/{line}/receive", {"way": "fits"})
    assert stocks(refit_of(settings, pk))["anti"].here == 10

    # an invoice of more than was agreed is asked about, then written with the reason; paid in two parts
    entry: dict[str, object] = {"kind": "invoice", "amount": "505", "order": order.id, "number": "17", "party": "Quay"}
    asked = Elements(post("purse/entry", entry, 422)).texts("li", class_="caution")
    assert "Say why, or mend" not in post("purse/entry", entry, 422)
    assert "Say why, or mend" in post("purse/entry", entry | {"why": ""}, 422)
    assert asked == ["It is 35 EUR more than was agreed and not invoiced yet."]
    post("purse/entry", entry | {"why": "a tin more than we thought"})
    invoice = refit_of(settings, pk).entries[0].id
    assert told_everywhere(sailor, settings, pk) == at_first + 1600
    pay = {"kind": "payment", "amount": "252.50", "order": order.id, "against": invoice, "party": "Quay"}
    post("purse/entry", pay)
    assert "more than the 252.50 EUR that are owed" in post("purse/entry", pay | {"amount": "300"}, 422)
    for bad, words in (("lots", "is not an amount"), ("0", "is nothing"), ("1.005", "finer than EUR")):
        assert words in post("purse/entry", pay | {"amount": bad}, 422)
    assert "type the amount in EUR" in post("purse/entry", pay | {"currency": "USD", "rate": "0.9"}, 422)
    assert "is not a rate" in post(
        "purse/entry", {"kind": "payment", "amount": "5", "currency": "USD", "rate": "0"}, 422
    )
    post("purse/entry", pay | {"kind": "credit note", "amount": "35"})
    assert told_everywhere(sailor, settings, pk) == at_first - 1900

    # in another currency, by what the bank took: 100 USD for 93.21 EUR
    post("purse/entry", {"kind": "payment", "amount": "100", "currency": "USD", "charged": "93.21", "title": "Charts"})
    assert told_everywhere(sailor, settings, pk) == at_first - 1900 + 9321

    # an agreement with hold-back takes the place of the rigger's hours; accepted before all of it is paid
    deal = {"title": "Mast", "party": "Rig", "person": "rig", "job": "job", "its_form": "fixed price", "currency": "EUR", "rate": "", "price": "260", "rate_of_pay": "0", "deposit": "0", "hold_back": "10", "at": "2026-05-12T10:00"}  # fmt: skip
    post("agreement/save", deal)
    agreed = refit_of(settings, pk).agreements[0].id
    assert told_everywhere(sailor, settings, pk) == at_first - 1900 + 9321 + 26000 - 20000
    post("purse/entry", {"kind": "invoice", "amount": "260", "agreement": agreed, "party": "Rig"})
    bill = refit_of(settings, pk).entries[-1].id
    full: dict[str, object] = {"kind": "payment", "amount": "260", "agreement": agreed, "against": bill, "party": "Rig"}
    assert "26 EUR of it is held back until the work is accepted" in post("purse/entry", full, 422)
    post(f"agreement/{agreed}/accept", {"way": "yes"})
    post("purse/entry", full)
    assert told_everywhere(sailor, settings, pk) == at_first - 1900 + 9321 + 6000

    # the yard's invoice differs by 15.00; the tariff's rest stays
    post("purse/entry", {"kind": "invoice", "amount": "615", "charge": "lift", "party": "Slip", "title": "Lift"})
    assert "15 EUR too much" in " ".join(Elements(sailor.get(f"/r/{pk}/purse/bill").text).texts("tr"))
    whole = told_everywhere(sailor, settings, pk)
    assert whole == at_first - 1900 + 9321 + 6000 + 1500
    # built in: what was used is gone; and all of it can be taken back, to the last cent
    post("task/paint/done", {"crew": "ann", "anyway": "1", "reason": "dry"})
    assert stocks(refit_of(settings, pk))["anti"].there_is == 0
    for _ in range(len(log_of(settings, pk)) - 1):
        undone(settings, pk)
        assert forecast(refit_of(settings, pk), make_plan(refit_of(settings, pk), settings.clock())).total.minor > 0
    assert told_everywhere(sailor, settings, pk) == at_first
    assert refit_of(settings, pk).entries == ()


def test_a_table_is_looked_over_matched_once_and_brought_in_whole_or_not_at_all(
    sailor: Sailor, settings: Settings, pk: int
) -> None:
    content = b"Day;Was;Betrag\r\n3.5.2026;Tape;114,80\r\n31.2.2026;Bad;1\r\n4.5.2026;=1+1;2\r\n"
    answer = sailor.post(f"/r/{pk}/tables/ledger", files={"file": ("bank.csv", content)})
    look = answer.headers["location"]
    page = Elements(sailor.get(look).text)
    assert "no column is" in page.texts("li")[0]
    columns = {"column-0": "date", "column-1": "what", "column-2": "amount"}
    refused = sailor.post(look, columns)
    assert refused.status_code == 422
    assert Elements(refused.text).texts("li")[0].startswith("line 3: “31.2.2026” is not a day")
    assert refit_of(settings, pk).entries == ()
    assert sailor.post(look, columns | {"but": "yes"}).status_code == 303
    assert [one.amount for one in refit_of(settings, pk).entries] == [11480, 200]
    assert log_of(settings, pk)[0].what == "brought in 2 entries of bank.csv"
    again = sailor.post(f"/r/{pk}/tables/ledger", files={"file": ("bank.csv", content)}).headers["location"]
    told = Elements(sailor.get(again).text)  # matched as before, without a word
    assert "2 there already" in " ".join(told.texts("p"))
    assert told.texts("button", class_="act-main") == []
    for name, sent, words in (
        ("x.ods", b"PK\x03\x04", "is broken"), ("receipt.jpg", b"\xff\xd8\xff\xe0x", "a photo, not a table"), ("e.csv", b"", "nothing in it"),
    ):  # fmt: skip
        refused = sailor.post(f"/r/{pk}/tables/ledger", files={"file": (name, sent)})
        assert words in " ".join(Elements(refused.text).texts("p", role="alert"))
    assert "choose a file first" in sailor.post(f"/r/{pk}/tables/ledger").text
    gone = sailor.get(f"/r/{pk}/tables/ledger/look/made-up").headers["location"]
    assert "bring it in again" in " ".join(Elements(sailor.get(gone).text).texts("p", role="alert"))
