"""What entries and agreements are one of."""

from __future__ import annotations

from enum import StrEnum


class EntryKind(StrEnum):
    """What a line of the ledger is. An invoice is owed until it is paid; a credit note lowers it; a refund comes back."""

    INVOICE = "invoice"
    PAYMENT = "payment"
    CREDIT = "credit note"
    REFUND = "refund"


class AgreementForm(StrEnum):
    """How work is paid: for a price, or by the hour."""

    FIXED = "fixed price"
    HOURLY = "by the hour"
