"""An offer chosen: the order it places, the ties a substitute brings, and the decision that is kept."""

from __future__ import annotations

from collections.abc import Callable
from datetime import datetime

from rovask.core.judged.order_edits import placed
from rovask.core.judged.part_edits import not_missing
from rovask.core.plain.faults import Fault, RefitFaults
from rovask.core.readings.commitments import changed, landed
from rovask.core.readings.open_days import open_days
from rovask.core.refit.edits import rebuilt
from rovask.core.refit.model import Link, Offer, Order, OrderLine, Refit
from rovask.core.refit.stores.choices import OfferForm, OfferState
from rovask.core.refit.work.choices import LinkKind

NewId = Callable[[str], str]


def offer_of(refit: Refit, key: str) -> Offer:
    """The offer of that id. Raises RefitFaults if it is gone."""
    for offer in refit.offers:
        if offer.id == key:
            return offer
    raise RefitFaults([Fault("", "This offer is gone; somebody removed it meanwhile.")])


def landed_price(refit: Refit, offer: Offer) -> int:
    """What an offer comes to at the boat, in minor units of the refit's currency."""
    own = landed(offer.price, offer.freight, offer.duty, offer.tax, offer.currency)
    return changed(own, offer.currency, offer.rate, refit.currency)


def ordered_from(refit: Refit, offer: Offer, now: datetime, new_id: NewId) -> Refit:
    """The refit with the offer taken: ordered now, the others for the same need declined, its ties in place."""
    days = open_days(refit, offer.supplier)
    order = Order(
        id=new_id("purchase"),
        supplier=offer.supplier,
        currency=offer.currency,
        rate=offer.rate,
        freight=offer.freight,
        duty=offer.duty,
        tax=offer.tax,
        placed_at=now,
        expected=days.after(now, offer.lead_days),
        expected_most=days.after(now, offer.lead_most) if offer.lead_most is not None else None,
        made=offer.form is OfferForm.MADE,
        note=offer.note,
    )
    line = OrderLine(
        id=new_id("order-line"),
        order=order.id,
        part=offer.part,
        what=offer.what,
        quantity=offer.quantity,
        price=offer.price,
    )
    refit = not_missing(refit, offer.part, now)
    states = {offer.id: OfferState.CHOSEN}
    offers = tuple(
        one.model_copy(update={"state": states.get(one.id, OfferState.DECLINED)}) if one.part == offer.part else one
        for one in refit.offers
    )
    return placed(rebuilt(refit, offers=offers, links=_tied(refit, offer)), order, (line,))


def retied(refit: Refit, offer: Offer) -> tuple[list[tuple[Link, Link]], list[Link]]:
    """What a substitute's own waits do to the ties behind the tasks that use the part: those that take them, each as it
    was and as it becomes, and those that keep theirs. O(links).

    Its waits go to what cures behind a coat of it, and from each coat of it to the next. A tie that is neither waits for
    something else (a test, a day's rest, another product's time) and keeps what it says. All empty for an offer without
    waits of its own.
    """
    if offer.least_lag is None and offer.most_lag is None:
        return [], []
    users = {task.id for task in refit.tasks.values() if offer.part in task.parts and not task.done_at}
    taken, kept = [], []
    for link in refit.links:
        if link.first not in users:
            continue
        if link.cures or (link.then in users and link.kind is LinkKind.FS):
            taken.append((link, _with_waits(link, offer)))
        elif link.min_lag > 0 or link.max_lag is not None:
            kept.append(link)
    return taken, kept


def _with_waits(link: Link, offer: Offer) -> Link:
    low = link.min_lag if offer.least_lag is None else offer.least_lag
    high = link.max_lag if offer.most_lag is None else offer.most_lag
    changed = {
        "min_lag": low,
        "max_lag": high if high is None or high >= low else low,
        "least_lag": None,
        "most_lag": None,
        "make_good_hours": link.make_good_hours if high is not None else None,
    }
    return Link.model_validate(link.model_dump() | changed)


def _tied(refit: Refit, offer: Offer) -> tuple[Link, ...]:
    """All ties, those of the part's coats with a substitute's own waits."""
    new = {was.id: becomes for was, becomes in retied(refit, offer)[0]}
    return tuple(new.get(link.id, link) for link in refit.links)


def open_offers(refit: Refit, part: str) -> list[Offer]:
    """What is offered for a need and not declined, cheapest at the boat first."""
    rows = [one for one in refit.offers if one.part == part and one.state is not OfferState.DECLINED]
    return sorted(rows, key=lambda one: (landed_price(refit, one), one.id))
