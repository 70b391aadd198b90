"""Offers, a row each."""

from __future__ import annotations

from collections.abc import Iterator
from typing import ClassVar, cast

from rovask.core.refit.model import Offer
from rovask.core.refit.values import Frozen
from rovask.formats.tables_read.reader import Cells, Key, Reader


class OffersReader(Reader):
    """Offers, a row each."""

    listed = "offers"
    given: ClassVar = {
        "part": ("part",),
        "supplier": ("supplier",),
        "what": ("what",),
        "quantity": ("quantity",),
        "price": ("price",),
        "currency": ("currency",),
        "rate": ("rate",),
        "freight": ("freight",),
        "duty": ("duty",),
        "tax": ("tax",),
        "lead days": ("lead_days",),
    }

    def name_of(self, record: Frozen) -> Key:
        offer = cast(Offer, record)
        return offer.part, offer.supplier.casefold(), offer.what.casefold()

    def known(self) -> Iterator[Key]:
        yield from (self.name_of(one) for one in self.refit.offers)

    def read(self, cells: Cells) -> tuple[list[Frozen], Key]:
        part = self.part(cells["part"])
        price, currency, rate = self.money(cells, "price")
        offer = Offer.model_validate(
            {
                "id": self.new_id("offer"),
                "part": part.id,
                "supplier": cells["supplier"],
                "what": cells.get("what") or part.name,
                "quantity": self.number(cells, "quantity", part.quantity, 1e-6),
                "price": price,
                "currency": currency,
                "rate": rate,
                "freight": self.money(cells, "freight")[0] if cells.get("freight") else 0,
                "duty": self.number(cells, "duty", 0),
                "tax": self.number(cells, "tax", 0),
                "lead_days": int(self.number(cells, "lead days", part.lead_days)),
            }
        )
        return [offer], self.name_of(offer)
