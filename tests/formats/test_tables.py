"""Tables in and out: CSV by RFC 4180, workbooks read by another reader, and everything that may be wrong in a file."""

from __future__ import annotations

import csv
import io
import zipfile
from datetime import UTC, datetime
from itertools import count
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st
from openpyxl import Workbook
from python_calamine import CalamineWorkbook

from rovask.core.plain.faults import RefitFaults
from rovask.core.readings.commitments import commitments
from rovask.core.refit.model import Entry, Refit
from rovask.formats.table_kinds import KINDS, guessed
from rovask.formats.table_rows import Reading, read_rows, written_rows
from rovask.formats.tables import MOST_BYTES, read_table, write_csv, write_xlsx
from tests.builders import HAUL, refit, task

NOW = datetime(2026, 5, 12, 9, tzinfo=UTC)
AT = HAUL.isoformat()
# What a cell may hold: no control signs, which neither format can carry whole.
texts = st.text(st.characters(codec="utf-8", exclude_categories=("Cs", "Cc")), max_size=20).map(str.strip)


def reading(made: Refit, name: str, content: bytes, columns: dict[str, int] | None = None) -> Reading:
    table, numbers = read_table(content), count(1)
    chosen = guessed(KINDS[name], table.head) if columns is None else columns
    return read_rows(made, KINDS[name], table, chosen, lambda kind: f"{kind[:1]}-{next(numbers)}", NOW)


def taken(made: Refit, found: Reading) -> Refit:
    from rovask.core.refit.edits import rebuilt
    from rovask.core.refit.register import kind_of

    lists: dict[str, list[Any]] = {}
    for one in found.new:
        lists.setdefault(kind_of(type(one)).list, []).append(one)
    return rebuilt(made, **{name: (*getattr(made, name), *rows) for name, rows in lists.items()})


@given(st.lists(st.lists(texts, min_size=2, max_size=2), min_size=1, max_size=8))
def test_what_is_written_is_what_a_csv_reader_of_the_library_reads(rows: list[list[str]]) -> None:
    """RFC 4180: commas, CRLF, quotation marks doubled. Nothing begins like a formula but a number."""
    content = write_csv(["a", "b"], rows)
    assert content.startswith(b"\xef\xbb\xbf")
    read = list(csv.reader(io.StringIO(content.decode("utf-8-sig"), newline="")))
    assert read[0] == ["a", "b"]
    for cells, was in zip(read[1:], rows, strict=True):
        for cell, text in zip(cells, was, strict=True):
            assert cell in (text, f"'{text}")
            if cell[:1] in ("=", "+", "-", "@"):
                float(cell)


def test_a_workbook_is_read_back_by_another_reader_with_texts_as_texts() -> None:
    head, rows = ["what", "amount"], [["=1+1", 12.5], ["+351 call", -3], ["Ümlaut; “quoted”, comma", 0]]
    content = write_xlsx("Ledger", head, rows)
    book = CalamineWorkbook.from_filelike(io.BytesIO(content))
    assert book.get_sheet_by_index(0).to_python() == [head, *rows]
    assert [row.cells for row in read_table(content).rows] == [tuple(f"{cell:g}" if not isinstance(cell, str) else cell for cell in row) for row in rows]  # fmt: skip
    assert all(row.formula is None for row in read_table(content).rows)
    with zipfile.ZipFile(io.BytesIO(content)) as archive:
        assert b"<f>" not in archive.read("xl/worksheets/sheet1.xml")


def test_the_demo_handed_out_and_brought_in_again_adds_nothing(demo: Refit) -> None:
    for name, kind in KINDS.items():
        if not kind.written:
            continue
        head, rows = [column.name for column in kind.columns], list(written_rows(demo, kind))
        assert rows, name
        for content in (write_csv(head, rows), write_xlsx(kind.title, head, rows)):
            found = reading(demo, name, content)
            assert found.faults == [], name
            assert (found.new, found.known) == ([], len(rows)), name


def test_a_ledger_from_elsewhere_comes_to_the_last_cent_and_twice_adds_nothing() -> None:
    made = refit(task("a"))
    content = (
        b"Datum;What;Amount;Ccy;Rate;Type\r\n"
        b"3.5.2026;Tape and rollers;114,80;EUR;;payment\r\n"
        b'2026-05-04 10:30;"Discs; coarse";38.00;;;invoice\r\n'
        b"4 May 2026;Bolts;409,00;NOK;0,0860;invoice\r\n"
        b"5.5.2026;A coffee;2;;;\r\n"
        b"5.5.2026;A coffee;2;;;\r\n"
    )
    table = read_table(content)
    columns = guessed(KINDS["ledger"], table.head) | {"date": 0}
    found = reading(made, "ledger", content, columns)
    assert found.faults == []
    assert [one.amount for one in found.new if isinstance(one, Entry)] == [11480, 3800, 40900, 200, 200]
    after = taken(made, found)
    assert sum(acc.here.will_be for acc in commitments(after)) == 11480 + 3800 + 3517 + 400  # 409.00 at 0.086 is 35.174
    again = reading(after, "ledger", content, columns)
    assert (again.new, again.known) == ([], 5)
    more = reading(after, "ledger", content + b"5.5.2026;A coffee;2;;;\r\n", columns)
    assert len(more.new) == 1  # a third coffee that day


def test_what_is_wrong_is_told_by_line_and_the_rest_is_read() -> None:
    content = (
        b"date,what,amount,currency,rate,kind\n"
        b"4.5.2026,fine,10,,,\n"
        b"31.2.2026,no such day,10,,,\n"
        b"4.5.2026,nonsense,lots,,,\n"
        b"4.5.2026,,10,,,\n"
        b"4.5.2026,no rate,10,USD,,\n"
        b"4.5.2026,rate of nought,10,USD,0,\n"
        b"4.5.2026,no such money,10,XYZ,1,\n"
        b"4.5.2026,no such kind,10,,,bribe\n"
        b"4.5.2026,too fine,1.005,,,\n"
        b"4.5.2026,nothing,0,,,\n"
    )
    found = reading(refit(task("a")), "ledger", content)
    assert len(found.new) == 1
    told = {one.line: one.message for one in found.faults}
    assert sorted(told) == list(range(3, 12))
    for line, words in (
        (3, "not a day"), (4, "is not an amount"), (5, "what is missing"), (6, "rate of USD is missing"), (7, "not a rate"),
        (8, "not a currency"), (9, "none of invoice"), (10, "finer than EUR"), (11, "is nothing"),
    ):  # fmt: skip
        assert words in told[line], told[line]


def test_a_formula_in_a_cell_is_told_and_not_read() -> None:
    book = Workbook()
    sheet = book.active
    assert sheet is not None
    for row in (["date", "what", "amount"], ["2026-05-04", "sum", "=SUM(A1:A2)"], ["2026-05-04", "plain", 12.5]):
        sheet.append(row)
    out = io.BytesIO()
    book.save(out)
    found = reading(refit(task("a")), "ledger", out.getvalue())
    assert [(one.line, "is a formula" in one.message) for one in found.faults] == [(2, True)]
    assert len(found.new) == 1


def packed(**files: bytes) -> bytes:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as archive:
        for name, content in files.items():
            archive.writestr(name, content)
    return out.getvalue()


@pytest.mark.parametrize(
    ("content", "words"),
    [
        (b"", "nothing in it"),
        (b"\n\n,,\n", "nothing in it"),
        (b"\xff\xd8\xff\xe0photo", "a photo, not a table"),
        (b"%PDF-1.7", "a PDF, not a table"),
        (packed(mimetype=b"application/vnd.oasis.opendocument.spreadsheet"), "save it as .xlsx or .csv"),
        (packed(**{"x.txt": b"x"}), "no .xlsx workbook"),
        (packed(**{"xl/workbook.xml": b"<nonsense"}), "is broken"),
        (b"PK\x03\x04rubbish", "is broken"),
        (b"\xd0\xcf\x11\xe0old", "old kind"),
        (b"a,b\n\xe9,1\n", "not UTF-8"),
        (b'a,b\n"open,1\n', "quotation mark"),
        (b"a,b\n" + b"1,2\n" * 50_001, "at most 50000 are read"),
        (b"a,b\n" + b"x" * MOST_BYTES, "at most 10 MB"),
        ((",".join("abcdefgh" * 9) + "\n").encode(), "at most 60"),
    ],
)
def test_what_is_no_table_is_refused_with_what_to_do(content: bytes, words: str) -> None:
    with pytest.raises(RefitFaults, match=words):
        read_table(content)


def test_a_bank_statement_is_laid_to_what_is_owed() -> None:
    def invoice(key: str, number: str, party: str, amount: int) -> dict[str, Any]:
        return {
            "id": key, "title": key, "kind": "invoice", "number": number, "party": party, "amount": amount, "at": AT,
            "currency": "EUR", "rate": "1",
        }  # fmt: skip

    made = refit(
        task("a"), entries=[invoice("one", "F-2201", "Averra", 84300), invoice("two", "", "Norrland Resins", 12000)]
    )
    content = (
        b"Date,Description,Amount\n"
        b"6.5.2026,TRANSFER AVERRA F-2201 THANKS,-803.00\n"
        b"7.5.2026,norrland resins,-120.00\n"
        b"7.5.2026,norrland resins,-120.00\n"  # there is nothing owed a second time
        b"8.5.2026,Coffee at the quay,-2.40\n"
        b"8.5.2026,Money back,15.00\n"
    )
    found = reading(made, "bank", content)
    assert found.faults == []
    rows = [one for one in found.new if isinstance(one, Entry)]
    assert [(one.kind.value, one.amount, one.against) for one in rows] == [
        ("payment", 80300, "one"), ("payment", 12000, "two"), ("payment", 12000, None), ("payment", 240, None),
        ("refund", 1500, None),
    ]  # fmt: skip
    after = taken(made, found)
    assert {acc.key: acc.owed for acc in commitments(after) if acc.owed} == {"one": 4000}
    assert reading(after, "bank", content).new == []


def test_orders_share_their_head_and_parts_are_found_by_name() -> None:
    parts = [{"id": "hose", "name": "Hose"}, {"id": "clamp", "name": "Clamp"}]
    content = (
        b"supplier,number,ordered,expected,part,qty,price\n"
        b"Averra,A1,4.5.2026,8.5.2026,hose,6,99.00\n"
        b"Averra,A1,4.5.2026,8.5.2026,Clamp,24,68.00\n"
        b"Averra,A2,4.5.2026,,Grommet,1,1\n"
    )
    found = reading(refit(task("a"), parts=parts), "orders", content)
    assert [(one.line, one.message) for one in found.faults] == [(4, "no part is called “Grommet”")]
    after = taken(refit(task("a"), parts=parts), found)
    assert (len(after.orders), len(after.order_lines)) == (1, 2)
    assert commitments(after)[0].agreed == 16700


def changed_cell(content: bytes, row: int, column: str, value: str, *, drop_id: bool = False) -> bytes:
    """A table that was handed out, with one cell typed anew, as somebody mends it in a spreadsheet."""
    rows = list(csv.reader(io.StringIO(content.decode("utf-8-sig"), newline="")))
    rows[row][rows[0].index(column)] = value
    if drop_id:
        rows = [cells[:-1] for cells in rows]
    out = io.StringIO(newline="")
    csv.writer(out, lineterminator="\r\n").writerows(rows)
    return out.getvalue().encode()


@pytest.mark.parametrize("drop_id", [False, True])
@pytest.mark.parametrize(
    ("name", "column", "value"),
    [
        ("parts", "price", "77.77"),
        ("parts", "lead days", "19"),
        ("offers", "price", "77.77"),
        ("orders", "quantity", "7"),
        ("orders", "expected", "2026-07-01 12:00"),
        ("ledger", "amount", "77.77"),
        ("hours", "hours", "7.5"),
    ],
)
def test_a_row_that_was_changed_changes_what_is_there(
    demo: Refit, name: str, column: str, value: str, *, drop_id: bool
) -> None:
    """By its id, or without one by what names it; shown old and new, with nothing else changed and nothing added."""
    kind = KINDS[name]
    head, rows = [one.name for one in kind.columns], list(written_rows(demo, kind))
    named = head.index("number") if name in ("ledger", "orders") else None
    row = next(
        number
        for number, cells in enumerate(rows, 1)
        if (named is None or cells[named])
        and sum((one[0], one[1], one[2]) == (cells[0], cells[1], cells[2]) for one in rows) == 1
    )
    found = reading(demo, name, changed_cell(write_csv(head, rows), row, column, value, drop_id=drop_id))
    assert (found.faults, found.new) == ([], [])
    assert found.known == len(rows) - len(found.changed)
    assert all(column in [one[0] for one in change.differs] for change in found.changed)
    (change, *shared) = [one for one in found.changed if one.line == row + 1]
    assert shared == []
    assert [(one[0], one[2]) for one in change.differs] == [(column, value)]
    assert found.marks[row + 1] == "changed"
    record = change.records[0]
    old = next(one for one in getattr(demo, _list_of(record)) if one.id == record.id)  # type: ignore[attr-defined]
    differs = {field for field, now in dict(record).items() if now != dict(old)[field]}
    field = {"lead days": "lead_days"}.get(column, column)
    assert differs == {field}


def _list_of(record: Any) -> str:
    from rovask.core.refit.register import kind_of

    return kind_of(type(record)).list


def test_a_corrected_bill_is_not_paid_twice(demo: Refit) -> None:
    """By party and number: of two bills the one is 32.00 dearer than it was first written down."""
    content = b"date,kind,what,party,number,amount\n4.5.2026,invoice,Resin,Averra,F-7,1515.00\n4.5.2026,invoice,Tape,Averra,F-8,12.00\n"
    made = taken(refit(task("a")), reading(refit(task("a")), "ledger", content))
    found = reading(made, "ledger", content.replace(b"1515.00", b"1547.00"))
    assert (found.new, found.known, len(found.changed)) == ([], 1, 1)
    change = found.changed[0]
    assert change.differs == (("amount", "1515", "1547.00"),)
    (bill,) = change.records
    assert isinstance(bill, Entry)
    assert (bill.amount, bill.id, bill.at) == (154700, made.entries[0].id, made.entries[0].at)


def test_an_id_that_nothing_has_is_told_and_a_row_without_one_is_new(demo: Refit) -> None:
    kind = KINDS["hours"]
    head, rows = [one.name for one in kind.columns], list(written_rows(demo, kind))[:1]
    fresh = [*rows[0][:-1], ""]
    fresh[0] = "2026-05-10 16:00"
    found = reading(demo, "hours", write_csv(head, [*rows, [*rows[0][:-1], "h-nobody"], fresh]))
    assert [(one.line, "nothing here has the id" in one.message) for one in found.faults] == [(3, True)]
    assert (found.known, len(found.new), found.marks) == (1, 1, {2: "there already", 3: "can't be read", 4: "new"})
