"""What parts, offers and orders are one of."""

from __future__ import annotations

from enum import StrEnum


class PartStatus(StrEnum):
    """How far a part has come. Only *checked* parts (aboard and tried for fit) are ready to use."""

    NEEDED = "needed"
    ORDERED = "ordered"
    ABOARD = "aboard"
    CHECKED = "checked"


class Lies(StrEnum):
    """Where what there is of a part lies. Only what is aboard or in the yard's shed is here to be used."""

    ABOARD = "aboard"
    SHED = "yard shed"
    SHOP = "shop"
    WORKSHOP = "workshop"
    FAR = "far store"
    UNKNOWN = "unknown"

    @property
    def is_here(self) -> bool:
        """Whether it can be used without being fetched first."""
        return self in (Lies.ABOARD, Lies.SHED)


class SupplierKind(StrEnum):
    """What a supplier is. Carriers and customs sell nothing; their shut days make parcels late."""

    SHOP = "shop"
    ORDERS = "by order"
    WORKSHOP = "workshop"
    STORE = "store of our own"
    CARRIER = "carrier"
    CUSTOMS = "customs"


class OfferForm(StrEnum):
    """What exactly is offered for a need."""

    KIT = "maker's kit"
    BARE = "bare part by its code"
    SECOND_HAND = "second-hand"
    SUBSTITUTE = "substitute"
    MADE = "made for us"


class OfferState(StrEnum):
    """How far an offer has come."""

    ASKED = "asked for"
    OFFERED = "offered"
    CHOSEN = "chosen"
    DECLINED = "declined"


class OrderState(StrEnum):
    """How far an order has come. *sending*: handed to the supplier's service, which has not confirmed it yet."""

    SENDING = "sending"
    PLACED = "placed"
    ACKNOWLEDGED = "acknowledged"
    SHIPPED = "shipped"
    CUSTOMS = "customs"
    ARRIVED = "arrived"
    CANCELLED = "cancelled"

    @property
    def is_open(self) -> bool:
        """Whether something of it may still come."""
        return self is not OrderState.CANCELLED


class Condition(StrEnum):
    """What came of a delivery. Only what was tried and fits may be used."""

    ARRIVED = "arrived"
    FITS = "fits"
    WRONG = "wrong thing"
    DAMAGED = "damaged"
    MISFIT = "does not fit"
    LOST = "lost"
    RETURNED = "returned"

    @property
    def is_here(self) -> bool:
        """Whether it is stock: here, and not known to be useless."""
        return self in (Condition.ARRIVED, Condition.FITS)


class Remedy(StrEnum):
    """What is done about a delivery that can't be used."""

    EXCHANGE = "exchange"
    MODIFY = "modify"
    OTHER = "another offer"
    MONEY_BACK = "money back"
