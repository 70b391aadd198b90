"""Every kind of table that is read, by its name."""

from __future__ import annotations

from rovask.formats.tables_read.bank import BankReader
from rovask.formats.tables_read.hours import HoursReader
from rovask.formats.tables_read.ledger import LedgerReader
from rovask.formats.tables_read.offers import OffersReader
from rovask.formats.tables_read.orders import OrdersReader
from rovask.formats.tables_read.parts import PartsReader
from rovask.formats.tables_read.reader import Reader

READERS: dict[str, type[Reader]] = {
    "parts": PartsReader,
    "offers": OffersReader,
    "orders": OrdersReader,
    "ledger": LedgerReader,
    "hours": HoursReader,
    "bank": BankReader,
}
