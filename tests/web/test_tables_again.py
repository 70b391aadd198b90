"""A table brought in a second time: what it changes is shown before it is done, and done at once, in one change."""

from __future__ import annotations

from rovask.settings import Settings
from tests.acts import kept_of, log_of
from tests.conftest import Sailor
from tests.web.forms import PageForm, forms_of
from tests.web.pages import Elements

FIRST = b"date,kind,what,party,number,amount\n4.5.2026,invoice,Resin,Averra,F-7,1515.00\n"


def brought(sailor: Sailor, pk: int, content: bytes) -> str:
    sent = sailor.post(f"/r/{pk}/tables/ledger", files={"file": ("bills.csv", content)})
    assert sent.status_code == 303
    return str(sent.headers["location"])


def taking(sailor: Sailor, look: str) -> PageForm:
    return next(one for one in forms_of(sailor.get(look).text) if one.method == "post" and not one.action)


def test_what_changes_is_shown_and_done_and_undone(sailor: Sailor, settings: Settings, demo_pk: int) -> None:
    look = brought(sailor, demo_pk, FIRST)
    assert sailor.post(look, taking(sailor, look).data()).status_code == 303
    before = kept_of(settings, demo_pk).refit.entries
    look = brought(sailor, demo_pk, FIRST.replace(b"1515", b"1547") + b"5.5.2026,invoice,Tape,Averra,F-8,12\n")
    page = Elements(sailor.get(look).text)
    assert page.texts("ul", id="changes") == ["line 2 Resin: amount 1515 → 1547.00"]
    assert page.texts("button", class_="act-main") == ["Bring in 1, change 1"]
    assert sailor.post(look, taking(sailor, look).data()).status_code == 303
    after = kept_of(settings, demo_pk).refit.entries
    assert [one.amount for one in after[-2:]] == [154700, 1200]
    assert len(after) == len(before) + 1
    assert log_of(settings, demo_pk, 1)[0].what == "brought in 1 entry of bills.csv, 1 changed"
    sailor.post(f"/r/{demo_pk}/undo")
    assert kept_of(settings, demo_pk).refit.entries == before


def test_a_bad_line_that_is_not_ticked_away_is_told(sailor: Sailor, settings: Settings, demo_pk: int) -> None:
    look = brought(sailor, demo_pk, FIRST + b"never,invoice,Tape,Averra,F-8,12\n")
    form = taking(sailor, look)
    before = kept_of(settings, demo_pk).revision
    refused = sailor.post(look, form.data())
    assert refused.status_code == 422
    assert "1 line can't be read: mend them in the file, or tick that they are left out" in refused.text.replace(
        "&#39;", "'"
    )
    assert kept_of(settings, demo_pk).revision == before
    assert sailor.post(look, form.data() | {"but": "yes"}).status_code == 303


def test_all_rows_can_be_seen(sailor: Sailor, demo_pk: int) -> None:
    rows = b"".join(b"4.5.2026,invoice,Tin %d,Averra,F-%d,12\n" % (n, n) for n in range(130))
    look = brought(sailor, demo_pk, FIRST + rows)
    seen = set()
    address: str | None = look
    while address:
        page = sailor.get(address).text
        seen |= {line for line in Elements(page).texts("td") if line.startswith("Tin ")}
        later = [one for one in Elements(page).found if one[0] == "a" and "".join(one[2]) == "later rows"]
        address = later[0][1]["href"] if later else None
    assert len(seen) == 130
