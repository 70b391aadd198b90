"""What is asked of suppliers, offers, orders and deliveries, and of budget, agreements and the ledger."""

from __future__ import annotations

from rovask.core.refit.givens.choices import Charge, Section, Weekday
from rovask.core.refit.model import Refit
from rovask.core.refit.purse.choices import AgreementForm, EntryKind
from rovask.core.refit.stores.choices import Condition, Lies, OfferForm, OfferState, OrderState, Remedy, SupplierKind
from rovask.web.field import Field, How, choices, jobs, lines, parts, people, tasks

RATE_HELP = "what one unit of it is worth in the refit's currency on that day; empty: 1, in the refit's own"
LANDED = "Freight, duty and tax"
SPREAD = "How sure it is"
MORE = "Its document, and what it belongs to"


def orders(refit: Refit) -> list[tuple[str, str]]:
    """Orders by supplier and number."""
    return [(one.id, f"{one.supplier} {one.number}".strip()) for one in refit.orders]


def order_lines(refit: Refit) -> list[tuple[str, str]]:
    """Lines of orders by part and supplier."""
    suppliers = {one.id: one.supplier for one in refit.orders}
    return [(row.id, f"{refit.part_by_id[row.part].name}, {suppliers[row.order]}") for row in refit.order_lines]


def agreements(refit: Refit) -> list[tuple[str, str]]:
    """Agreements by party and title."""
    return [(one.id, f"{one.party}: {one.title}") for one in refit.agreements]


def entries(refit: Refit) -> list[tuple[str, str]]:
    """Entries of the ledger."""
    return [(one.id, f"{one.kind.value} {one.number or one.title}, {one.party}") for one in refit.entries]


_CURRENCY = (
    Field("currency", "Currency", How.CURRENCY, help="its three letters"),
    Field("rate", "Rate", How.RATE, help=RATE_HELP),
)
_QUOTED = (
    Field("freight", "Freight", How.OWN, group=LANDED),
    Field("duty", "Duty", How.NUMBER, "% of price and freight", group=LANDED),
    Field("tax", "Tax", How.NUMBER, "% of all that", group=LANDED),
)

STORE_FIELDS: dict[str, tuple[Field, ...]] = {
    "supplier": (
        Field("name", "Supplier"),
        Field("what", "It is", How.CHOICE, options=choices(SupplierKind, {})),
        Field("town", "Town"),
        Field("currency", "Invoices in", How.CURRENCY, optional=True),
        Field("open_days", "Open on", How.MANY, options=choices(Weekday, {}), help="none ticked: every day"),
        Field("shut", "Shut", How.RANGES, help="One line each: 18 May 2026 to 24 May 2026, then why", wide=True),
        Field("away_hours", "A trip there and back takes", How.NUMBER, "h"),
        Field("contact", "Contact"),
        Field("returns", "Takes back", wide=True),
        Field("by_service", "Takes orders through its service", How.TICK),
        Field("note", "Note", How.AREA, wide=True),
    ),
    "use": (
        Field("task", "Task", How.CHOICE, options=tasks, wide=True),
        Field("part", "Part", How.CHOICE, options=parts, wide=True),
        Field("amount", "It takes", How.NUMBER, "of the part's unit"),
        Field("used", "It really took", How.NUMBER, optional=True),
    ),
    "offer": (
        Field("part", "For", How.CHOICE, options=parts, wide=True),
        Field("supplier", "From"),
        Field("what", "What exactly"),
        Field("form", "It is", How.CHOICE, options=choices(OfferForm, {})),
        Field("quantity", "Quantity", How.NUMBER),
        Field("price", "Price", How.OWN, "for all of it"),
        *_CURRENCY,
        Field("lead_days", "Lead time", How.NUMBER, "days, likely"),
        Field("misfit", "Chance that it doesn't fit", How.NUMBER, help="20 %, or 0.2"),
        *_QUOTED,
        Field("lead_least", "At the shortest", How.NUMBER, "days", optional=True, group=SPREAD),
        Field("lead_most", "At the longest", How.NUMBER, "days", optional=True, group=SPREAD),
        Field("valid_until", "Holds until", How.DATE, optional=True, group=SPREAD),
        Field("returns", "Takes back", group=SPREAD),
        Field("state", "It is", How.CHOICE, options=choices(OfferState, {}), group=SPREAD),
        Field("least_lag", "Next coat after at least", How.NUMBER, "h at 20 °C", optional=True, group=SPREAD),
        Field("most_lag", "and at most", How.NUMBER, "h at 20 °C", optional=True, group=SPREAD),
        Field("note", "Note", How.AREA, wide=True, group=SPREAD),
    ),
    "purchase": (
        Field("supplier", "Supplier"),
        Field("number", "Number"),
        *_CURRENCY,
        Field("placed_at", "Ordered", How.MOMENT),
        Field("expected", "Expected", How.MOMENT, optional=True),
        Field("expected_most", "At the latest", How.MOMENT, optional=True),
        Field("state", "It is", How.CHOICE, options=choices(OrderState, {})),
        Field("carrier", "Carrier"),
        Field("tracking", "Tracking number"),
        *_QUOTED,
        Field("made", "Made for us: something goes there first", How.TICK),
        Field("closed", "Nothing more comes or is invoiced of it", How.TICK),
        Field("note", "Note", How.AREA, wide=True),
    ),
    "order-line": (
        Field("order", "Order", How.CHOICE, options=orders, wide=True),
        Field("part", "Part", How.CHOICE, options=parts, wide=True),
        Field("what", "What exactly"),
        Field("quantity", "Quantity", How.NUMBER),
        Field("price", "Price", How.OWN, "for all of it", "in the order's currency"),
        Field("price_most", "At most", How.OWN, "while it isn't quoted", optional=True),
    ),
    "receipt": (
        Field("line", "Of", How.CHOICE, options=order_lines, wide=True),
        Field("at", "When", How.MOMENT),
        Field("quantity", "How much", How.NUMBER),
        Field("condition", "It", How.CHOICE, options=choices(Condition, {})),
        Field("lies", "Lies", How.CHOICE, options=choices(Lies, {})),
        Field("stowed", "Where there"),
        Field("off_by", "Off by"),
        Field("remedy", "What then", How.CHOICE, options=choices(Remedy, {}), optional=True),
        Field("by", "Made to fit by", How.CHOICE, options=tasks, optional=True),
        Field("tried_at", "Tried", How.MOMENT, optional=True),
    ),
    "budget-line": (
        Field("title", "Line"),
        Field("amount", "Budget", How.MONEY),
        Field("sections", "Takes", How.MANY, options=choices(Section, {}), help="what names no line of its own"),
        Field("contingency", "It is the contingency, drawn from by name", How.TICK),
    ),
    "draw": (
        Field("title", "What for", wide=True),
        Field("amount", "Amount", How.MONEY),
        Field("source", "From", How.CHOICE, options=lines),
        Field("to", "To", How.CHOICE, options=lines, optional=True, help="empty: set aside"),
        Field("at", "When", How.MOMENT),
    ),
    "agreement": (
        Field("title", "What", wide=True),
        Field("party", "With"),
        Field("job", "Job", How.CHOICE, options=jobs, optional=True, help="empty: whatever they do"),
        Field("form", "Paid", How.CHOICE, options=choices(AgreementForm, {})),
        Field("person", "Whose hours", How.CHOICE, options=people, optional=True),
        *_CURRENCY,
        Field("price", "Price", How.OWN, help="of a fixed price, all of it"),
        Field("rate_of_pay", "An hour", How.OWN),
        Field("deposit", "Deposit", How.OWN),
        Field("hold_back", "Held back until accepted", How.NUMBER, "%"),
        Field("hold_back_sum", "or held back as a sum", How.OWN, optional=True),
        Field("stages", "Stages", How.STAGES, help="one row each, with what it falls due", wide=True),
        Field("at", "Agreed", How.MOMENT),
        Field("accepted_at", "Accepted", How.MOMENT, optional=True),
        Field("line", "Budget line", How.CHOICE, options=lines, optional=True),
        Field("closed", "Nothing more is invoiced of it", How.TICK),
        Field("note", "Note", How.AREA, wide=True),
    ),
    "entry": (
        Field(
            "kind", "It is", How.CHOICE, options=choices(EntryKind, {"invoice": "an invoice", "payment": "a payment"})
        ),
        Field("title", "What for"),
        Field("amount", "Amount", How.OWN),
        *_CURRENCY,
        Field("at", "When", How.MOMENT),
        Field("party", "From or to"),
        Field("order", "Of the order", How.CHOICE, options=orders, optional=True),
        Field("agreement", "Of the agreement", How.CHOICE, options=agreements, optional=True),
        Field("against", "It pays or lowers", How.CHOICE, options=entries, optional=True, wide=True),
        Field("number", "Its number", group=MORE),
        Field("charge", "On the yard's bill, for", How.CHOICE, options=choices(Charge, {}), optional=True, group=MORE),
        Field("person", "For the hours of", How.CHOICE, options=people, optional=True, group=MORE),
        Field("job", "Job", How.CHOICE, options=jobs, optional=True, group=MORE),
        Field("line", "Budget line", How.CHOICE, options=lines, optional=True, group=MORE),
        Field("note", "Note", wide=True, group=MORE),
    ),
    "yard-extra": (
        Field("title", "What", wide=True),
        Field("charge", "It is", How.CHOICE, options=choices(Charge, {})),
        Field("on", "When", How.DATE),
        Field("count", "How many", How.NUMBER),
        Field("price", "Price of one", How.MONEY, help="empty: by the tariff", optional=True),
    ),
    "rate": (
        Field("currency", "One", How.CURRENCY),
        Field("rate", "was worth", How.RATE),
        Field("base", "in", How.CURRENCY),
        Field("at", "on", How.MOMENT),
        Field("source", "By", help="bank, card, newspaper"),
    ),
}
