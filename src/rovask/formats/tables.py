"""Tables as spreadsheets hand them over: CSV (RFC 4180) and XLSX, read into rows of text and written from them.

Read: UTF-8 (with or without its mark), commas, semicolons or tabs, a header row; of a workbook its first sheet with anything
on it. A formula is not a value and is told by its cell. Written: UTF-8 with commas and CRLF; a text that a spreadsheet would
take for a formula gets an apostrophe in front, a workbook's texts are kept as texts. Numbers have a decimal point, days are
written 2026-05-27, moments 2026-05-27 14:30 by the yard's clock.
"""

from __future__ import annotations

import csv
import io
import struct
import zipfile
import zlib
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import date, datetime, time
from decimal import Decimal

from openpyxl import Workbook, load_workbook
from openpyxl.cell.cell import Cell
from openpyxl.utils.exceptions import InvalidFileException

from rovask.core.plain.faults import Fault, RefitFaults

MOST_BYTES = 10 * 1024 * 1024
MOST_ROWS, MOST_COLUMNS, MOST_SIGNS = 50_000, 60, 2_000
MOST_UNPACKED = 120 * 1024 * 1024
BROKEN = (
    zipfile.BadZipFile, zlib.error, struct.error, InvalidFileException, NotImplementedError, RuntimeError, EOFError,
    OSError, ValueError, LookupError, TypeError, AttributeError, SyntaxError, OverflowError,
)  # fmt: skip
FORMULA_SIGNS = ("=", "+", "-", "@", "\t", "\r")
ODS = b"application/vnd.oasis.opendocument.spreadsheet"
PICTURES = ((b"\xff\xd8\xff", "a photo"), (b"\x89PNG", "a picture"), (b"GIF8", "a picture"), (b"%PDF", "a PDF"))


@dataclass(frozen=True, slots=True)
class Row:
    """One row: its number in the file, and its cells as text. formula: the first column that holds one, 1 for the first."""

    number: int
    cells: tuple[str, ...]
    formula: int | None = None


@dataclass(frozen=True, slots=True)
class Table:
    """A table that was read: the header row and the rows under it that hold anything."""

    head: tuple[str, ...]
    rows: tuple[Row, ...]


def read_table(content: bytes) -> Table:
    """The table in a CSV or XLSX file, told apart by what it is and not by its name. Raises RefitFaults, saying what to do."""
    if len(content) > MOST_BYTES:
        raise _no(
            f"the file is {len(content) / 1024 / 1024:.1f} MB; a table has at most {MOST_BYTES >> 20} MB. Cut it in two."
        )
    for mark, what in PICTURES:
        if content.startswith(mark):
            raise _no(
                f"this is {what}, not a table. Keep it with the bill it belongs to: enter the bill, and add it there."
            )
    if content.startswith(b"PK"):
        return _checked(_of_workbook(content))
    if content.startswith(b"\xd0\xcf\x11\xe0"):
        raise _no("this is a workbook of an old kind (.xls); save it as .xlsx or .csv and bring that in.")
    return _checked(_of_csv(content))


def _no(message: str) -> RefitFaults:
    return RefitFaults([Fault("file", message)])


def _checked(rows: list[Row]) -> Table:
    rows = [row for row in rows if any(cell.strip() for cell in row.cells) or row.formula]
    if not rows:
        raise _no("there is nothing in it.")
    head = tuple(cell.strip() for cell in rows[0].cells)
    while head and not head[-1]:
        head = head[:-1]
    if not head:
        raise _no("its first row is empty; the first row must name the columns.")
    if len(head) > MOST_COLUMNS:
        raise _no(f"it has {len(head)} columns; at most {MOST_COLUMNS} are read.")
    if len(rows) - 1 > MOST_ROWS:
        raise _no(f"it has {len(rows) - 1} rows; at most {MOST_ROWS} are read at once. Cut it in two.")
    wide = len(head)
    body = tuple(Row(row.number, (*row.cells[:wide], *[""] * (wide - len(row.cells))), row.formula) for row in rows[1:])
    return Table(head, body)


def _of_csv(content: bytes) -> list[Row]:
    try:
        text = content.decode("utf-8-sig")
    except UnicodeDecodeError as error:
        if not content.startswith((b"\xff\xfe", b"\xfe\xff")):
            raise _no(f"it is not UTF-8 text (byte {error.start}); save it as CSV in UTF-8.") from None
        try:
            text = content.decode("utf-16")
        except UnicodeDecodeError:
            raise _no("it is UTF-16 text that breaks off; save it as CSV in UTF-8.") from None
    if "\x00" in text:
        raise _no("it holds signs that no table has; save it as CSV in UTF-8.")
    text = text.replace("\r\n", "\n").replace("\r", "\n")  # of whatever machine
    first = text.partition("\n")[0]
    mark = max((",", ";", "\t"), key=first.count)
    rows, number = [], 1
    reader = csv.reader(io.StringIO(text, newline=""), delimiter=mark, strict=True)
    try:
        for cells in reader:
            rows.append(Row(number, tuple(cell[:MOST_SIGNS] for cell in cells)))
            number = reader.line_num + 1
            if len(rows) > MOST_ROWS + 1:
                break
    except csv.Error as error:
        raise _no(f"line {number}: {error}; a quotation mark is probably missing.") from None
    return rows


def _of_workbook(content: bytes) -> list[Row]:
    try:
        with zipfile.ZipFile(io.BytesIO(content)) as archive:
            names = archive.namelist()
            if "mimetype" in names and archive.read("mimetype").strip() == ODS:
                raise _no("this is an .ods workbook; save it as .xlsx or .csv and bring that in.")
            if sum(one.file_size for one in archive.infolist()) > MOST_UNPACKED:
                raise _no("unpacked it is far larger than a table can be.")
            if "xl/workbook.xml" not in names:
                raise _no("this is a packed file, but no .xlsx workbook.")
        book = load_workbook(io.BytesIO(content), read_only=True)
    except BROKEN:
        raise _no("this workbook is broken; open it in a spreadsheet and save it again.") from None
    try:
        for sheet in book.worksheets:
            rows = []
            for number, cells in enumerate(sheet.iter_rows(max_col=MOST_COLUMNS + 1), 1):
                formula = next((at for at, cell in enumerate(cells, 1) if cell.data_type == "f"), None)
                rows.append(Row(number, tuple(_text(cell.value) for cell in cells), formula))
                if len(rows) > MOST_ROWS + 1:
                    break
            if any(any(row.cells) for row in rows):
                return rows
        return []
    except BROKEN:
        raise _no("this workbook is broken; open it in a spreadsheet and save it again.") from None
    finally:
        book.close()


def _text(value: object) -> str:
    """A cell's value as text: numbers as they are, days and moments as the ISO writes them."""
    if value is None:
        return ""
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, datetime):
        return value.date().isoformat() if value.time() == time() else value.isoformat(sep=" ", timespec="minutes")
    if isinstance(value, date):
        return value.isoformat()
    if isinstance(value, float):
        return f"{value:.12g}"
    return str(value)[:MOST_SIGNS]


Value = str | int | float | Decimal | None


def safe(text: str) -> str:
    """A text that no spreadsheet takes for a formula.

    >>> safe("=1+1"), safe("-12.50"), safe("- two tins")
    ("'=1+1", '-12.50', "'- two tins")
    """
    if not text.startswith(FORMULA_SIGNS):
        return text
    try:
        float(text)
    except ValueError:
        return f"'{text}"
    return text


def write_csv(head: Sequence[str], rows: Iterable[Sequence[Value]]) -> bytes:
    """A table as CSV by RFC 4180, with the mark that makes spreadsheets read it as UTF-8."""
    out = io.StringIO(newline="")
    writer = csv.writer(out, lineterminator="\r\n")
    writer.writerow([safe(name) for name in head])
    writer.writerows(
        ["" if cell is None else safe(cell) if isinstance(cell, str) else cell for cell in row] for row in rows
    )
    return b"\xef\xbb\xbf" + out.getvalue().encode()


def write_xlsx(title: str, head: Sequence[str], rows: Iterable[Sequence[Value]]) -> bytes:
    """A table as a workbook of one sheet. Texts are kept as texts, whatever they begin with; numbers as numbers."""
    book = Workbook(write_only=False)
    sheet = book.active
    if sheet is None:  # a new workbook has one
        raise RuntimeError("no sheet")
    sheet.title = title[:31]
    for at, row in enumerate([head, *rows], 1):
        for column, value in enumerate(row, 1):
            cell = sheet.cell(at, column)
            if isinstance(cell, Cell):
                cell.value = value
                if isinstance(value, str):
                    cell.data_type = "s"  # a text, whatever it begins with
    sheet.freeze_panes = "A2"
    out = io.BytesIO()
    book.save(out)
    return out.getvalue()
